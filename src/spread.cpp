// R's side of kernels/spread.h: extremes, who holds them, moments, quantiles.
#include <Rcpp.h>
#include <type_traits>
#include "fold.h"
#include "kernels/spread.h"

// The smallest or largest value per group (`value`, missing where there is none), and `n`.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_extreme(SEXP values, bool highest, SEXP group, int groups, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  Rcpp::NumericVector best(groups, NA_REAL);
  std::vector<std::int64_t> count(groups);
  over_values(values, [&](auto v) {
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::extremes(v, lines, from, to, highest, best.begin(), count.data());
    });
  });
  return Rcpp::List::create(Rcpp::_["value"] = best, Rcpp::_["n"] = as_numbers(count));
}

// The lines (from 1) whose value is within `slack` (relative) of their group's best, in the order
// of the lines.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_holders(SEXP values, Rcpp::NumericVector best, double slack, SEXP group,
                                   SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  std::vector<double> found;
  over_values(values, [&](auto v) {
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        if (g < 0 || ladder::missing(v[i])) continue;
        const double x = static_cast<double>(v[i]), b = best[g];
        if (x == b || std::fabs(x - b) <= slack * std::max(std::fabs(x), std::fabs(b)))
          found.push_back(static_cast<double>(i + 1));
      }
    });
  });
  return Rcpp::NumericVector(found.begin(), found.end());
}

// Second central moments per group, around the means given: `m2` and the mean corrected.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_moments(SEXP values, Rcpp::NumericVector means, Rcpp::NumericVector count,
                          SEXP group, int groups, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  Rcpp::NumericVector m2(groups, NA_REAL), mean(groups, NA_REAL);
  over_values(values, [&](auto v) {
    double most = 0;
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      most = std::max(most, ladder::largest_deviation(v, lines, from, to, means.begin()));
    });
    if (!std::isfinite(most)) return;
    const int shift = ladder::fixed_shift(most, static_cast<double>(n));
    const int square_shift = ladder::fixed_shift(most * most, static_cast<double>(n));
    std::vector<ladder::wide> sum(groups), squares(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::deviations(v, lines, from, to, means.begin(), shift, square_shift, sum.data(),
                         squares.data());
    });
    for (int g = 0; g < groups; ++g) {
      if (!(count[g] > 0)) continue;
      const double off = ladder::from_fixed(sum[g], shift);
      mean[g] = means[g] + off / count[g];
      m2[g] = std::max(0.0, ladder::from_fixed(squares[g], square_shift) - off * off / count[g]);
    }
  });
  return Rcpp::List::create(Rcpp::_["mean"] = mean, Rcpp::_["m2"] = m2);
}

// The quantile p per group; missing where a group has no value.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_quantile(SEXP values, double p, SEXP group, int groups, SEXP keep) {
  Rcpp::NumericVector out(groups, NA_REAL);
  double* const answer = out.begin();
  over_values(values, [&](auto v) {
    using Value = std::decay_t<decltype(*v)>;
    Laid<Value> laid(v, Rf_xlength(values), lines_of(group, keep), groups);
    laid.each_group([&](int, int g, std::size_t first, std::size_t last) {
      Value* from = laid.values.get() + first;
      Value* to = std::remove_if(from, laid.values.get() + last,
                                 [](Value x) { return ladder::missing(x); });
      if (to > from) answer[g] = ladder::quantile_of(from, to - from, p);
    });
  });
  return out;
}
