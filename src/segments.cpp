// R's side of kernels/segments.h. The lines of two periods are laid out once and asked many times.
#include <Rcpp.h>
#include <atomic>
#include <cmath>
#include "kernels/segments.h"
#include "threads.h"

namespace {

using ladder::SegmentLines;

SegmentLines& lines_behind(SEXP pointer) { return *Rcpp::XPtr<SegmentLines>(pointer); }

// work(i) for each of a few jobs, each taken by the next thread that is free.
template <class Work>
void share_out(std::size_t jobs, std::size_t lines, Work work) {
  const int threads = std::min<std::size_t>(threads_for(lines), jobs);
  std::atomic<std::size_t> next(0);
  at_once(threads, [&](int) { for (std::size_t i; (i = next++) < jobs;) work(i); });
}

}  // namespace

// codes: for each dimension the code of every line; period: 1 then, 2 now, else out; order, group:
// codes or NULL. `root` tests square roots of amounts instead of the amounts.
// [[Rcpp::export(rng = false)]]
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
  // Orders by the group of their first line, lines by their orders and periods.
  std::size_t orders = 0, groups = 0;
  for (std::uint32_t i : kept) {
    if (of_order) orders = std::max<std::size_t>(orders, of_order[i] + 1);
    if (of_group) groups = std::max<std::size_t>(groups, of_group[i] + 1);
  }
  if (!of_order) orders = kept.size();
  const auto order_at = [&](std::size_t k) { return of_order ? of_order[kept[k]] : k; };
  std::vector<std::uint32_t> group_of(orders), rank(orders);
  for (std::size_t k = kept.size(); k-- > 0;)
    if (of_group) group_of[order_at(k)] = of_group[kept[k]];
  const auto sorted = ladder::counting_sort(
      orders, groups + 1, [&](std::size_t o) { return group_of[o]; },
      [](std::size_t o) { return static_cast<std::uint32_t>(o); });
  for (std::size_t r = 0; r < orders; ++r) rank[sorted.items[r]] = static_cast<std::uint32_t>(r);
  const auto laid = ladder::counting_sort(
      kept.size(), 2 * orders, [&](std::size_t k) {
        return 2 * static_cast<std::size_t>(rank[order_at(k)]) + (in[kept[k]] == 2);
      },
      [&](std::size_t k) { return kept[k]; });
  const std::vector<std::uint32_t>& at = laid.items;
  Rcpp::checkUserInterrupt();

  auto* lines = new SegmentLines;
  Rcpp::XPtr<SegmentLines> out(lines, true);
  const std::size_t size = at.size(), dims = codes.size();
  std::vector<std::uint32_t> first;  // line of each entry
  lines->entry.resize(size);
  for (std::size_t key = 0, i = 0; key < 2 * orders; ++key) {
    if (i == laid.end[key]) continue;
    const std::uint32_t order = sorted.items[key / 2];
    lines->now.push_back(key & 1);
    lines->group.push_back(of_group ? group_of[order] : order);
    first.push_back(static_cast<std::uint32_t>(i));
    for (; i < laid.end[key]; ++i) lines->entry[i] = static_cast<std::uint32_t>(first.size() - 1);
  }
  std::vector<const int*> from(dims);
  for (std::size_t d = 0; d < dims; ++d) from[d] = INTEGER(codes[d]);
  const double* of_weight = Rf_isNull(weight) ? nullptr : REAL(weight);
  lines->code.resize(dims);
  share_out(dims + 2, size, [&](std::size_t job) {
    const auto known = [&](std::size_t i) { return std::isnan(amount[at[i]]) ? 0 : amount[at[i]]; };
    if (job == 0) {
      lines->amount.resize(size);
      for (std::size_t i = 0; i < size; ++i) lines->amount[i] = known(i);
    } else if (job == 1) {
      lines->tested.resize(size);
      for (std::size_t i = 0; i < size; ++i) {
        const double x = known(i);
        lines->tested[i] = root ? std::copysign(std::sqrt(std::fabs(x)), x) : x;
      }
      if (of_weight) lines->weight.resize(size);
      if (of_weight) for (std::size_t i = 0; i < size; ++i) lines->weight[i] = of_weight[at[i]];
    } else {
      ladder::lay_out(from[job - 2], at, first, lines->code[job - 2]);
    }
  });
  return out;
}

// Tables of several dimensions (from 1) over `rows` (from 1; NULL for all): for each a matrix of
// names (the code 0 first) by amount, tested, weight, squares then and now, product, orders.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_segment_tables(SEXP pointer, SEXP rows, Rcpp::IntegerVector dims,
                                 Rcpp::IntegerVector levels) {
  const SegmentLines& lines = lines_behind(pointer);
  const int* row = Rf_isNull(rows) ? nullptr : INTEGER(rows);
  const std::size_t n = row ? Rf_xlength(rows) : lines.size(), many = dims.size();
  std::vector<std::vector<ladder::SegmentCell>> cells(many);
  const std::vector<int> at(dims.begin(), dims.end()), size(levels.begin(), levels.end());
  const auto over = [&](auto line) {
    std::vector<ladder::EntryTotal> totals;
    for (int d : at)
      if (totals.empty() && lines.code[d - 1].by_entry)
        totals = ladder::entry_totals(lines, n, line);
    share_out(many, n, [&](std::size_t j) {
      cells[j].resize(size[j] + 1);
      const ladder::SegmentCode& code = lines.code[at[j] - 1];
      if (code.by_entry) ladder::entry_table(lines, code, totals, cells[j]);
      else ladder::line_table(lines, code, n, line, cells[j]);
    });
  };
  if (row) over([=](std::size_t i) { return row[i] - 1; });
  else over([](std::size_t i) { return i; });
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

// Tables of pairs of dimensions (a column of `pairs` each, from 1) over `rows`: for each a matrix of
// the pairs of names that have lines: their codes, then the columns of a table of one dimension.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_segment_pairs(SEXP pointer, SEXP rows, Rcpp::IntegerMatrix pairs,
                                Rcpp::IntegerVector levels) {
  const SegmentLines& lines = lines_behind(pointer);
  const int* row = Rf_isNull(rows) ? nullptr : INTEGER(rows);
  const std::size_t n = row ? Rf_xlength(rows) : lines.size(), many = pairs.ncol();
  std::vector<ladder::PairTable> tables(many);
  const std::vector<int> of(pairs.begin(), pairs.end()), size(levels.begin(), levels.end());
  const auto over = [&](auto line) {
    std::vector<ladder::EntryTotal> totals;
    for (const ladder::SegmentCode& code : lines.code)
      if (totals.empty() && code.by_entry) totals = ladder::entry_totals(lines, n, line);
    share_out(many, n, [&](std::size_t j) {
      const int a = of[2 * j] - 1, b = of[2 * j + 1] - 1;
      ladder::PairPlaces places(size[a] + 1, size[b] + 1, tables[j]);
      ladder::pair_table(lines, lines.code[a], lines.code[b], totals, n, line, places, tables[j]);
    });
  };
  if (row) over([=](std::size_t i) { return row[i] - 1; });
  else over([](std::size_t i) { return i; });
  Rcpp::checkUserInterrupt();
  Rcpp::List out(many);
  for (std::size_t j = 0; j < many; ++j) {
    const std::size_t cells = tables[j].cells.size();
    Rcpp::NumericMatrix table(cells, ladder::kColumns + 2);
    for (std::size_t k = 0; k < cells; ++k) {
      table(k, 0) = tables[j].first[k];
      table(k, 1) = tables[j].second[k];
      for (int c = 0; c < ladder::kColumns; ++c) table(k, c + 2) = tables[j].cells[k].sum[c];
    }
    out[j] = table;
    tables[j] = ladder::PairTable();
  }
  return out;
}

// The rows among `rows` (NULL for all) that bear all these names, or (`but`) that do not.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_segment_rows(SEXP pointer, SEXP rows, Rcpp::IntegerVector dims,
                                        Rcpp::IntegerVector codes, bool but) {
  const SegmentLines& lines = lines_behind(pointer);
  const int* row = Rf_isNull(rows) ? nullptr : INTEGER(rows);
  const std::size_t n = row ? Rf_xlength(rows) : lines.size();
  std::vector<ladder::SegmentName> names;
  for (R_xlen_t d = 0; d < dims.size(); ++d)
    names.push_back({&lines.code[dims[d] - 1], codes[d]});
  // Counted first, then written to its place, behind the rows of the threads before.
  const int threads = threads_for(n);
  std::vector<std::size_t> next(threads + 1);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    next[t + 1] += ladder::rows_named(lines, names, row, from, to, but, nullptr);
  });
  for (int t = 0; t < threads; ++t) next[t + 1] += next[t];
  Rcpp::IntegerVector out(next[threads]);
  int* const first = out.begin();
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    next[t] += ladder::rows_named(lines, names, row, from, to, but, first + next[t]);
  });
  return out;
}

// Which dimensions fix which: [i, j] where every name of i has one name of j.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalMatrix kernel_segment_fixes(SEXP pointer, Rcpp::IntegerVector levels) {
  const SegmentLines& lines = lines_behind(pointer);
  const int dims = lines.code.size();
  std::vector<char> found(dims * dims);
  const std::vector<int> size(levels.begin(), levels.end());
  share_out(dims, lines.size(), [&](std::size_t i) {
    for (int j = 0; j < dims; ++j)
      found[i + j * dims] = static_cast<int>(i) != j &&
        ladder::fixes(lines, lines.code[i], lines.code[j], size[i] + 1);
  });
  Rcpp::LogicalMatrix out(dims, dims);
  std::copy(found.begin(), found.end(), out.begin());
  return out;
}

// The name of the coarser dimension that each name of a finer one has (0 where it has no lines).
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_segment_links(SEXP pointer, int fine, int coarse, int levels) {
  const SegmentLines& lines = lines_behind(pointer);
  Rcpp::IntegerVector out(levels + 1);
  for (std::size_t i = 0; i < lines.size(); ++i)
    out[lines.name(lines.code[fine - 1], i)] = lines.name(lines.code[coarse - 1], i);
  return out;
}
