// R's side of kernels/segments.h. The lines of two periods are laid out once and asked many times.
#include <Rcpp.h>
#include <cmath>
#include <thread>
#include "kernels/segments.h"
#include "threads.h"

namespace {

using ladder::SegmentLines;

SegmentLines& lines_behind(SEXP pointer) { return *Rcpp::XPtr<SegmentLines>(pointer); }

// work(i) for each of a few jobs, shared among the threads.
template <class Work>
void share_out(std::size_t jobs, std::size_t lines, Work work) {
  const int threads = std::min<std::size_t>(threads_for(lines, 0), jobs);
  std::vector<std::thread> pool;
  for (int t = 1; t < threads; ++t)
    pool.emplace_back([&, t] { for (std::size_t i = t; i < jobs; i += threads) work(i); });
  for (std::size_t i = 0; i < jobs; i += threads) work(i);
  for (std::thread& one : pool) one.join();
}

}  // namespace

// codes: for each dimension the code of every line; period: 1 then, 2 now, else out; order, group:
// codes or NULL. `root` tests square roots of amounts instead of the amounts.
// [[Rcpp::export]]
SEXP kernel_segments(Rcpp::List codes, Rcpp::IntegerVector period, Rcpp::NumericVector amount,
                     SEXP weight, SEXP order, SEXP group, bool root) {
  const std::size_t n = period.size();
  const int* in = period.begin();
  std::vector<std::uint32_t> kept;
  kept.reserve(n);
  for (std::size_t i = 0; i < n; ++i)
    if (in[i] > 0) kept.push_back(static_cast<std::uint32_t>(i));
  const int* of_order = Rf_isNull(order) ? nullptr : INTEGER(order);
  const int* of_group = Rf_isNull(group) ? nullptr : INTEGER(group);
  // Orders by the group of their first line, lines by their orders.
  std::size_t orders = 0, groups = 0;
  for (std::uint32_t i : kept) {
    if (of_order) orders = std::max<std::size_t>(orders, of_order[i] + 1);
    if (of_group) groups = std::max<std::size_t>(groups, of_group[i] + 1);
  }
  if (!of_order) orders = kept.size();
  std::vector<std::uint32_t> group_of(orders), rank(orders);
  for (std::size_t k = kept.size(); k-- > 0;)
    if (of_group) group_of[of_order ? of_order[kept[k]] : k] = of_group[kept[k]];
  const std::vector<std::uint32_t> sorted = ladder::counting_sort(
      orders, groups + 1, [&](std::size_t o) { return group_of[o]; });
  for (std::size_t r = 0; r < orders; ++r) rank[sorted[r]] = static_cast<std::uint32_t>(r);
  const auto order_at = [&](std::size_t k) { return of_order ? of_order[kept[k]] : k; };
  const std::vector<std::uint32_t> by = ladder::counting_sort(
      kept.size(), orders, [&](std::size_t k) { return rank[order_at(k)]; });
  std::vector<std::uint32_t> at(kept.size());
  for (std::size_t i = 0; i < at.size(); ++i) at[i] = kept[by[i]];
  Rcpp::checkUserInterrupt();

  auto* lines = new SegmentLines;
  Rcpp::XPtr<SegmentLines> out(lines, true);
  const std::size_t size = kept.size(), dims = codes.size();
  std::vector<const int*> from(dims);
  for (std::size_t d = 0; d < dims; ++d) from[d] = INTEGER(codes[d]);
  const double* of_weight = Rf_isNull(weight) ? nullptr : REAL(weight);
  lines->code.resize(dims);
  share_out(dims + 2, size, [&](std::size_t job) {
    if (job < dims) {
      auto& code = lines->code[job];
      code.resize(size);
      for (std::size_t i = 0; i < size; ++i) code[i] = from[job][at[i]];
    } else if (job == dims) {
      lines->amount.resize(size);
      lines->tested.resize(size);
      if (of_weight) lines->weight.resize(size);
      for (std::size_t i = 0; i < size; ++i) {
        const double x = amount[at[i]];
        const double known = std::isnan(x) ? 0 : x;
        lines->amount[i] = known;
        lines->tested[i] = root ? std::copysign(std::sqrt(std::fabs(known)), known) : known;
        if (of_weight) lines->weight[i] = of_weight[at[i]];
      }
    } else {
      lines->order.resize(size);
      lines->group.resize(size);
      for (std::size_t i = 0; i < size; ++i) {
        const std::size_t o = order_at(by[i]);
        lines->order[i] = static_cast<std::uint32_t>(2 * o + (in[at[i]] == 2));
        lines->group[i] = of_group ? group_of[o] : static_cast<std::uint32_t>(o);
      }
    }
  });
  return out;
}

// Tables of several dimensions (from 1) over `rows` (from 1; NULL for all): for each a matrix of
// names (the code 0 first) by amount, tested, weight, squares then and now, product, orders.
// [[Rcpp::export]]
Rcpp::List kernel_segment_tables(SEXP pointer, SEXP rows, Rcpp::IntegerVector dims,
                                 Rcpp::IntegerVector levels) {
  const SegmentLines& lines = lines_behind(pointer);
  const int* row = Rf_isNull(rows) ? nullptr : INTEGER(rows);
  const std::size_t n = row ? Rf_xlength(rows) : lines.size(), many = dims.size();
  std::vector<std::vector<ladder::SegmentCell>> cells(many);
  const std::vector<int> at(dims.begin(), dims.end()), size(levels.begin(), levels.end());
  share_out(many, n, [&](std::size_t j) {
    cells[j].resize(size[j] + 1);
    const auto& code = lines.code[at[j] - 1];
    if (row)
      ladder::segment_table(lines, code, n, [=](std::size_t i) { return row[i] - 1; }, cells[j]);
    else
      ladder::segment_table(lines, code, n, [](std::size_t i) { return i; }, cells[j]);
  });
  Rcpp::checkUserInterrupt();
  Rcpp::List out(many);
  for (std::size_t j = 0; j < many; ++j) {
    Rcpp::NumericMatrix table(cells[j].size(), ladder::kColumns);
    for (std::size_t k = 0; k < cells[j].size(); ++k)
      for (int c = 0; c < ladder::kColumns; ++c) table(k, c) = cells[j][k].sum[c];
    out[j] = table;
  }
  return out;
}

// The rows among `rows` (NULL for all) that bear all these names, or (`but`) that do not.
// [[Rcpp::export]]
Rcpp::IntegerVector kernel_segment_rows(SEXP pointer, SEXP rows, Rcpp::IntegerVector dims,
                                        Rcpp::IntegerVector codes, bool but) {
  const SegmentLines& lines = lines_behind(pointer);
  const int* row = Rf_isNull(rows) ? nullptr : INTEGER(rows);
  const std::size_t n = row ? Rf_xlength(rows) : lines.size();
  std::vector<int> out;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t at = row ? row[i] - 1 : i;
    bool in = true;
    for (R_xlen_t d = 0; in && d < dims.size(); ++d) in = lines.code[dims[d] - 1][at] == codes[d];
    if (in != but) out.push_back(static_cast<int>(at + 1));
  }
  return Rcpp::IntegerVector(out.begin(), out.end());
}

// Which dimensions fix which: [i, j] where every name of i has one name of j.
// [[Rcpp::export]]
Rcpp::LogicalMatrix kernel_segment_fixes(SEXP pointer, Rcpp::IntegerVector levels) {
  const SegmentLines& lines = lines_behind(pointer);
  const int dims = lines.code.size();
  Rcpp::LogicalMatrix out(dims, dims);
  for (int i = 0; i < dims; ++i)
    for (int j = 0; j < dims; ++j)
      out(i, j) = i != j && ladder::fixes(lines.code[i], lines.code[j], levels[i] + 1);
  return out;
}

// The name of the coarser dimension that each name of a finer one has (0 where it has no lines).
// [[Rcpp::export]]
Rcpp::IntegerVector kernel_segment_links(SEXP pointer, int fine, int coarse, int levels) {
  const SegmentLines& lines = lines_behind(pointer);
  Rcpp::IntegerVector out(levels + 1);
  for (std::size_t i = 0; i < lines.size(); ++i)
    out[lines.code[fine - 1][i]] = lines.code[coarse - 1][i];
  return out;
}
