// Tables of segments: what the lines of each name of a dimension amount to in two periods, and how
// much that wavers.
//
// Lines are laid out by group (an account) and entry, the lines of one order in one period, so that
// the sum of squares of order totals, and the products of a group's two periods, come from one pass
// with a running sum for each name. For the change of a running total s by x its square grows by
// (2 s + x) x. A dimension whose name is the same for all lines of an entry, as an order's account
// is, goes by entries, of which there are fewer.
//
// Cost: one pass over the lines asked for and one cell of some 120 bytes for each name.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <unordered_map>
#include <vector>

namespace ladder {

struct SegmentCode {
  bool by_entry = true;
  std::vector<std::int32_t> name;  // of each entry or each line
};

struct SegmentLines {
  std::vector<double> amount;        // what is reported
  std::vector<double> tested;        // what is held against its own noise
  std::vector<double> weight;        // what growth goes by; empty where it is `tested`
  std::vector<std::uint32_t> entry;  // of each line
  std::vector<unsigned char> now;    // of each entry: whether it is in the period now
  std::vector<std::uint32_t> group;  // of each entry
  std::vector<SegmentCode> code;
  std::size_t size() const { return amount.size(); }
  const std::vector<double>& weights() const { return weight.empty() ? tested : weight; }
  std::int32_t name(const SegmentCode& of, std::size_t line) const {
    return of.name[of.by_entry ? entry[line] : line];
  }
};

enum SegmentColumn { kAmount = 0, kTested = 2, kWeight = 4, kSquares = 6, kProduct = 8, kOrders = 9,
                     kColumns = 11 };

struct SegmentCell {
  double sum[kColumns] = {};
  double entry_total = 0;
  double group_total[2] = {};
  std::uint32_t entry = ~0u;
  std::uint32_t group = ~0u;
  void close_group() { sum[kProduct] += group_total[0] * group_total[1]; }
  // A line, or all lines of an entry at once.
  void add(std::uint32_t of_entry, int now, std::uint32_t of_group, double amount, double tested,
           double weight) {
    sum[kAmount + now] += amount;
    sum[kTested + now] += tested;
    sum[kWeight + now] += weight;
    if (entry == of_entry) {
      sum[kSquares + now] += (2 * entry_total + tested) * tested;
      entry_total += tested;
    } else {
      entry = of_entry;
      entry_total = tested;
      sum[kSquares + now] += tested * tested;
      sum[kOrders + now] += 1;
    }
    if (group != of_group) {
      close_group();
      group = of_group;
      group_total[0] = group_total[1] = 0;
    }
    group_total[now] += weight;
  }
};

// The names of lines `at`, by entry where each has one; `first` is the first line of each entry.
inline void lay_out(const int* code, const std::vector<std::uint32_t>& at,
                    const std::vector<std::uint32_t>& first, SegmentCode& out) {
  out.name.resize(first.size());
  for (std::size_t e = 0; e < first.size() && out.by_entry; ++e) {
    const std::size_t end = e + 1 < first.size() ? first[e + 1] : at.size();
    out.name[e] = code[at[first[e]]];
    for (std::size_t i = first[e]; i < end; ++i)
      if (code[at[i]] != out.name[e]) out.by_entry = false;
  }
  if (out.by_entry) return;
  out.name.resize(at.size());
  for (std::size_t i = 0; i < at.size(); ++i) out.name[i] = code[at[i]];
}

struct EntryTotal {
  std::uint32_t entry;
  double amount, tested, weight;
};

// The lines asked for added up within their entries; `row(i)` gives the line at i of `n`.
template <class Row>
std::vector<EntryTotal> entry_totals(const SegmentLines& lines, std::size_t n, Row row) {
  const std::vector<double>& weight = lines.weights();
  std::vector<EntryTotal> out;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t at = row(i);
    if (out.empty() || out.back().entry != lines.entry[at])
      out.push_back({lines.entry[at], 0, 0, 0});
    out.back().amount += lines.amount[at];
    out.back().tested += lines.tested[at];
    out.back().weight += weight[at];
  }
  return out;
}

inline void entry_table(const SegmentLines& lines, const SegmentCode& code,
                        const std::vector<EntryTotal>& totals, std::vector<SegmentCell>& cells) {
  for (const EntryTotal& t : totals)
    cells[code.name[t.entry]].add(t.entry, lines.now[t.entry], lines.group[t.entry], t.amount,
                                  t.tested, t.weight);
  for (SegmentCell& cell : cells) cell.close_group();
}

template <class Row>
void line_table(const SegmentLines& lines, const SegmentCode& code, std::size_t n, Row row,
                std::vector<SegmentCell>& cells) {
  const std::vector<double>& weight = lines.weights();
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t at = row(i);
    const std::uint32_t entry = lines.entry[at];
    cells[code.name[at]].add(entry, lines.now[entry], lines.group[entry], lines.amount[at],
                             lines.tested[at], weight[at]);
  }
  for (SegmentCell& cell : cells) cell.close_group();
}

// A table of two dimensions at once, of the pairs of names that have lines. Where their product is
// small the place of each pair is looked up in a dense table, beyond that by hashing.
struct PairTable {
  std::vector<std::int32_t> first, second;
  std::vector<SegmentCell> cells;
};

class PairPlaces {
 public:
  PairPlaces(std::size_t many, std::size_t others, PairTable& out)
      : others_(others), out_(out) {
    if (many * others <= dense_most) dense_.assign(many * others, -1);
  }
  SegmentCell& cell(std::int32_t a, std::int32_t b) {
    const std::uint64_t key = static_cast<std::uint64_t>(a) * others_ + b;
    std::int32_t* at;
    if (!dense_.empty()) at = &dense_[key];
    else at = &sparse_.emplace(key, -1).first->second;
    if (*at < 0) {
      *at = static_cast<std::int32_t>(out_.cells.size());
      out_.first.push_back(a);
      out_.second.push_back(b);
      out_.cells.emplace_back();
    }
    return out_.cells[*at];
  }

 private:
  static constexpr std::size_t dense_most = 1u << 22;
  std::size_t others_;
  PairTable& out_;
  std::vector<std::int32_t> dense_;
  std::unordered_map<std::uint64_t, std::int32_t> sparse_;
};

// `totals` are those of the entries, for dimensions that both go by entries.
template <class Row>
void pair_table(const SegmentLines& lines, const SegmentCode& a, const SegmentCode& b,
                const std::vector<EntryTotal>& totals, std::size_t n, Row row, PairPlaces& places,
                PairTable& out) {
  if (a.by_entry && b.by_entry) {
    for (const EntryTotal& t : totals)
      places.cell(a.name[t.entry], b.name[t.entry])
          .add(t.entry, lines.now[t.entry], lines.group[t.entry], t.amount, t.tested, t.weight);
  } else {
    const std::vector<double>& weight = lines.weights();
    for (std::size_t i = 0; i < n; ++i) {
      const std::size_t at = row(i);
      const std::uint32_t entry = lines.entry[at];
      places.cell(lines.name(a, at), lines.name(b, at))
          .add(entry, lines.now[entry], lines.group[entry], lines.amount[at], lines.tested[at],
               weight[at]);
    }
  }
  for (SegmentCell& cell : out.cells) cell.close_group();
}

struct SegmentName {
  const SegmentCode* code;
  std::int32_t name;
};

// How many of the rows from `from` up to `to` bear all these names, or (`but`) do not; writes them,
// from 1, to `out` unless that is null. `row` gives rows from 1, or is null for all lines.
inline std::size_t rows_named(const SegmentLines& lines, const std::vector<SegmentName>& names,
                              const int* row, std::size_t from, std::size_t to, bool but,
                              int* out) {
  constexpr std::size_t block = 2048;
  unsigned char in[block];
  int at[block];
  std::size_t found = 0;
  for (; from < to; from += block) {
    const std::size_t n = std::min(block, to - from);
    for (std::size_t i = 0; i < n; ++i) {
      at[i] = row ? row[from + i] - 1 : static_cast<int>(from + i);
      in[i] = 1;
    }
    for (const SegmentName& one : names)
      for (std::size_t i = 0; i < n; ++i) in[i] &= lines.name(*one.code, at[i]) == one.name;
    if (!out) {
      for (std::size_t i = 0; i < n; ++i) found += in[i] != but;
      continue;
    }
    for (std::size_t i = 0; i < n; ++i)
      if (in[i] != but) out[found++] = at[i] + 1;
  }
  return found;
}

// Whether every name of `fine` has one name of `coarse`; stops at the first that has two.
inline bool fixes(const SegmentLines& lines, const SegmentCode& fine, const SegmentCode& coarse,
                  std::size_t levels) {
  std::vector<std::int32_t> of(levels, -1);
  const auto differs = [&](std::int32_t f, std::int32_t c) {
    if (of[f] < 0) of[f] = c;
    return of[f] != c;
  };
  if (fine.by_entry && coarse.by_entry) {
    for (std::size_t e = 0; e < fine.name.size(); ++e)
      if (differs(fine.name[e], coarse.name[e])) return false;
    return true;
  }
  for (std::size_t i = 0; i < lines.size(); ++i)
    if (differs(lines.name(fine, i), lines.name(coarse, i))) return false;
  return true;
}

// Items by their keys, and where the items of each key end.
struct Sorted {
  std::vector<std::uint32_t> items, end;
};

// The items of 0 to `n` by their keys below `keys`, those of one key in their own order, each written
// as `item(i)`.
template <class Key, class Item>
Sorted counting_sort(std::size_t n, std::size_t keys, Key key, Item item) {
  Sorted out{std::vector<std::uint32_t>(n), std::vector<std::uint32_t>(keys + 1)};
  for (std::size_t i = 0; i < n; ++i) ++out.end[key(i) + 1];
  for (std::size_t k = 1; k <= keys; ++k) out.end[k] += out.end[k - 1];
  for (std::size_t i = 0; i < n; ++i) out.items[out.end[key(i)]++] = item(i);
  return out;
}

}  // namespace ladder
