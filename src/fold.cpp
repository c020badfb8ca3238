// R's side of kernels/group.h, kernels/sum.h and kernels/distinct.h.
//
// `group`: integers from 0, or NULL for one group; `keep`: logicals, or NULL for all lines.
#include <Rcpp.h>
#include "chunks.h"
#include "fold.h"
#include "kernels/distinct.h"
#include "kernels/group.h"
#include "threads.h"

// One more key under the groups so far: the new `group` per line, and for each new group the
// group it came from (`parent`) and its code in the new key (`code`).
// [[Rcpp::export]]
Rcpp::List kernel_combine(SEXP group, int groups, Rcpp::IntegerVector codes, int levels,
                          SEXP keep) {
  const std::size_t n = codes.size();
  const std::uint64_t width = static_cast<std::uint64_t>(levels) + 1;
  const ladder::Lines lines = lines_of(group, keep);
  const int* code = codes.begin();
  Rcpp::IntegerVector number(n);
  int* out = number.begin();
  std::vector<int> parents, coded;
  if (ladder::pairs_fit(groups * width, n)) {
    ladder::PairTable table(groups * width);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        if (g >= 0) table.note(g * width + code[i]);
      }
    });
    for (const std::uint64_t pair : table.settle()) {
      parents.push_back(static_cast<int>(pair / width));
      coded.push_back(static_cast<int>(pair % width));
    }
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        out[i] = g < 0 ? -1 : table.number(g * width + code[i]);
      }
    });
  } else {
    ladder::PairRuns runs(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        out[i] = -1;
        if (g >= 0) runs.count(g);
      }
    });
    runs.settle();
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        if (g >= 0) runs.lay(g, code[i], i);
      }
    });
    int next = 0;
    in_chunks(groups, [&](std::size_t from, std::size_t to) {
      for (std::size_t g = from; g < to; ++g)
        runs.number(g, next,
                    [&](int c) {
                      parents.push_back(static_cast<int>(g));
                      coded.push_back(c);
                    },
                    [&](std::size_t line, int pair) { out[line] = pair; });
    });
  }
  return Rcpp::List::create(Rcpp::_["group"] = number, Rcpp::_["parent"] = parents,
                            Rcpp::_["code"] = coded);
}

// [[Rcpp::export]]
Rcpp::NumericVector kernel_count(double n, SEXP group, int groups, SEXP keep) {
  const ladder::Lines lines = lines_of(group, keep);
  const int threads = threads_for(static_cast<std::size_t>(n), groups);
  Parts<std::int64_t> count(threads, groups);
  in_threads(static_cast<std::size_t>(n), threads, [&](int t, std::size_t from, std::size_t to) {
    ladder::count_lines(lines, from, to, count.of(t));
  });
  return as_numbers(count.merged());
}

// `sum` and `n` (values that were not missing) per group. Whole numbers (integers, or doubles
// that hold them) are added in 64 bits when `whole`, all others as fixed-point numbers.
// [[Rcpp::export]]
Rcpp::List kernel_sum(SEXP values, bool whole, SEXP group, int groups, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  const int threads = threads_for(n, groups);
  Parts<std::int64_t> count(threads, groups);
  if (whole) {
    const int* small = TYPEOF(values) == INTSXP ? INTEGER(values) : nullptr;
    const double* large = small ? nullptr : REAL(values);
    Parts<std::int64_t> sum(threads, groups);
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      if (small)
        ladder::sum_whole(small, lines, from, to, sum.of(t), count.of(t));
      else
        ladder::sum_whole(large, lines, from, to, sum.of(t), count.of(t));
    });
    return Rcpp::List::create(Rcpp::_["sum"] = as_numbers(sum.merged()),
                              Rcpp::_["n"] = as_numbers(count.merged()));
  }
  const double* v = REAL(values);
  Rcpp::NumericVector out(groups);
  const double most = ladder::largest_of(v, 0, n);
  if (std::isinf(most)) {
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::sum_plain(v, lines, from, to, out.begin(), count.of(0));
    });
  } else {
    const int shift = ladder::fixed_shift(most, static_cast<double>(n));
    Parts<ladder::wide> sum(threads, groups);
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      ladder::sum_fixed(v, lines, from, to, shift, sum.of(t), count.of(t));
    });
    const std::vector<ladder::wide>& total = sum.merged();
    for (int g = 0; g < groups; ++g) out[g] = ladder::from_fixed(total[g], shift);
  }
  return Rcpp::List::create(Rcpp::_["sum"] = out, Rcpp::_["n"] = as_numbers(count.merged()));
}

// [[Rcpp::export]]
Rcpp::NumericVector kernel_distinct(Rcpp::IntegerVector codes, int levels, SEXP group, int groups,
                                    SEXP keep) {
  const Laid<int> laid(codes.begin(), codes.size(), lines_of(group, keep), groups);
  std::vector<int> stamp(static_cast<std::size_t>(levels) + 1, -1);
  std::vector<std::int64_t> distinct(groups);
  for (int g = 0; g < groups; ++g) {
    distinct[g] = ladder::distinct_in(laid.values.data(), laid.start[g], laid.start[g + 1], g,
                                      stamp);
    if (g % 65536 == 0) Rcpp::checkUserInterrupt();
  }
  return as_numbers(distinct);
}
