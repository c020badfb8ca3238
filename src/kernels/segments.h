// Tables of segments: what the lines of each name of a dimension amount to in two periods, and how
// much that wavers.
//
// Lines are laid out by group (an account) and order, so that the sum of squares of order totals,
// and the products of a group's two periods, come from one pass with a running sum for each name.
// For the change of a running total s by x its square grows by (2 s + x) x.
//
// Cost: one pass over the lines asked for and one cell of some 130 bytes for each name.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ladder {

struct SegmentLines {
  std::vector<double> amount;        // what is reported
  std::vector<double> tested;        // what is held against its own noise
  std::vector<double> weight;        // what growth goes by; empty where it is `tested`
  std::vector<std::uint32_t> order;  // twice the order, one more in the period now
  std::vector<std::uint32_t> group;
  std::vector<std::vector<std::int32_t>> code;
  std::size_t size() const { return amount.size(); }
};

enum SegmentColumn { kAmount = 0, kTested = 2, kWeight = 4, kSquares = 6, kProduct = 8, kOrders = 9,
                     kColumns = 11 };

struct SegmentCell {
  double sum[kColumns] = {};
  double order_total = 0;
  double group_total[2] = {};
  std::uint32_t order = ~0u;
  std::uint32_t group = ~0u;
  void close_group() { sum[kProduct] += group_total[0] * group_total[1]; }
};

// `row(i)` gives the line at i of `n`.
template <class Row>
void segment_table(const SegmentLines& lines, const std::vector<std::int32_t>& code, std::size_t n,
                   Row row, std::vector<SegmentCell>& cells) {
  const std::vector<double>& weight = lines.weight.empty() ? lines.tested : lines.weight;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t at = row(i);
    SegmentCell& cell = cells[code[at]];
    const int now = lines.order[at] & 1;
    const double x = lines.tested[at];
    cell.sum[kAmount + now] += lines.amount[at];
    cell.sum[kTested + now] += x;
    cell.sum[kWeight + now] += weight[at];
    if (cell.order == lines.order[at]) {
      cell.sum[kSquares + now] += (2 * cell.order_total + x) * x;
      cell.order_total += x;
    } else {
      cell.order = lines.order[at];
      cell.order_total = x;
      cell.sum[kSquares + now] += x * x;
      cell.sum[kOrders + now] += 1;
    }
    if (cell.group != lines.group[at]) {
      cell.close_group();
      cell.group = lines.group[at];
      cell.group_total[0] = cell.group_total[1] = 0;
    }
    cell.group_total[now] += weight[at];
  }
  for (SegmentCell& cell : cells) cell.close_group();
}

// Whether every name of `fine` has one name of `coarse`; stops at the first that has two.
inline bool fixes(const std::vector<std::int32_t>& fine, const std::vector<std::int32_t>& coarse,
                  std::size_t levels) {
  std::vector<std::int32_t> of(levels, -1);
  for (std::size_t i = 0; i < fine.size(); ++i) {
    std::int32_t& known = of[fine[i]];
    if (known < 0) known = coarse[i];
    if (known != coarse[i]) return false;
  }
  return true;
}

// The places of `n` items by their keys below `keys`, items of one key in their own order.
template <class Key>
std::vector<std::uint32_t> counting_sort(std::size_t n, std::size_t keys, Key key) {
  std::vector<std::uint32_t> start(keys + 1), out(n);
  for (std::size_t i = 0; i < n; ++i) ++start[key(i) + 1];
  for (std::size_t k = 1; k <= keys; ++k) start[k] += start[k - 1];
  for (std::size_t i = 0; i < n; ++i) out[start[key(i)]++] = static_cast<std::uint32_t>(i);
  return out;
}

}  // namespace ladder
