// R's side of kernels/group.h, kernels/sum.h and kernels/distinct.h.
//
// `group`: integers from 0, or NULL for one group; `keep`: logicals, or NULL for all lines.
#include <Rcpp.h>
#include "chunks.h"
#include "kernels/distinct.h"
#include "kernels/group.h"
#include "kernels/sum.h"

namespace {

ladder::Lines lines_of(SEXP group, SEXP keep) {
  return ladder::Lines{Rf_isNull(group) ? nullptr : INTEGER(group),
                       Rf_isNull(keep) ? nullptr : LOGICAL(keep)};
}

Rcpp::NumericVector as_numbers(const std::vector<std::int64_t>& x) {
  return Rcpp::NumericVector(x.begin(), x.end());
}

}  // namespace

// One more key under the groups so far: the new `group` per line, and for each new group the
// group it came from (`parent`) and its code in the new key (`code`).
// [[Rcpp::export]]
Rcpp::List kernel_combine(SEXP group, int groups, Rcpp::IntegerVector codes, int levels,
                          SEXP keep) {
  const std::size_t n = codes.size();
  const std::uint64_t width = static_cast<std::uint64_t>(levels) + 1;
  const ladder::Lines lines = lines_of(group, keep);
  ladder::PairTable table(static_cast<std::uint64_t>(groups) * width, n);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      const int g = lines.at(i);
      if (g >= 0) table.note(g * width + codes[i]);
    }
  });
  const std::vector<std::uint64_t> pairs = table.settle();
  Rcpp::IntegerVector out(n), parent(pairs.size()), code(pairs.size());
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      const int g = lines.at(i);
      out[i] = g < 0 ? -1 : table.number(g * width + codes[i]);
    }
  });
  for (std::size_t p = 0; p < pairs.size(); ++p) {
    parent[p] = static_cast<int>(pairs[p] / width);
    code[p] = static_cast<int>(pairs[p] % width);
  }
  return Rcpp::List::create(Rcpp::_["group"] = out, Rcpp::_["parent"] = parent,
                            Rcpp::_["code"] = code);
}

// [[Rcpp::export]]
Rcpp::NumericVector kernel_count(double n, SEXP group, int groups, SEXP keep) {
  std::vector<std::int64_t> count(groups);
  const ladder::Lines lines = lines_of(group, keep);
  in_chunks(static_cast<std::size_t>(n), [&](std::size_t from, std::size_t to) {
    ladder::count_lines(lines, from, to, count.data());
  });
  return as_numbers(count);
}

// `sum` and `n` (values that were not missing) per group. Whole numbers (integers, or doubles
// that hold them) are added in 64 bits when `whole`, doubles with compensation otherwise.
// [[Rcpp::export]]
Rcpp::List kernel_sum(SEXP values, bool whole, SEXP group, int groups, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  std::vector<std::int64_t> count(groups);
  if (whole) {
    std::vector<std::int64_t> sum(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      if (TYPEOF(values) == INTSXP)
        ladder::sum_whole(INTEGER(values), lines, from, to, sum.data(), count.data());
      else
        ladder::sum_whole(REAL(values), lines, from, to, sum.data(), count.data());
    });
    return Rcpp::List::create(Rcpp::_["sum"] = as_numbers(sum), Rcpp::_["n"] = as_numbers(count));
  }
  Rcpp::NumericVector sum(groups);
  std::vector<double> carry(groups);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    ladder::sum_double(REAL(values), lines, from, to, sum.begin(), carry.data(), count.data());
  });
  // Past the largest double the carry is no number; the plain sum is then the answer.
  for (int g = 0; g < groups; ++g)
    if (std::isfinite(sum[g])) sum[g] += carry[g];
  return Rcpp::List::create(Rcpp::_["sum"] = sum, Rcpp::_["n"] = as_numbers(count));
}

// [[Rcpp::export]]
Rcpp::NumericVector kernel_distinct(Rcpp::IntegerVector codes, int levels, SEXP group, int groups,
                                    SEXP keep) {
  const std::size_t n = codes.size();
  const ladder::Lines lines = lines_of(group, keep);
  std::vector<std::int64_t> count(groups);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    ladder::count_lines(lines, from, to, count.data());
  });
  std::vector<std::size_t> start(groups + 1), next(groups);
  for (int g = 0; g < groups; ++g) start[g + 1] = start[g] + count[g];
  std::copy(start.begin(), start.end() - 1, next.begin());
  std::vector<int> laid(start[groups]), stamp(static_cast<std::size_t>(levels) + 1, -1);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    ladder::lay_out(codes.begin(), lines, from, to, next.data(), laid.data());
  });
  std::vector<std::int64_t> distinct(groups);
  for (int g = 0; g < groups; ++g) {
    distinct[g] = ladder::distinct_in(laid.data(), start[g], start[g + 1], g, stamp);
    if (g % 65536 == 0) Rcpp::checkUserInterrupt();
  }
  return as_numbers(distinct);
}
