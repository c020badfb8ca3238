// R's side of kernels/gaps.h.
#include <Rcpp.h>
#include "fold.h"
#include "kernels/gaps.h"

// Per group: distinct days, the first and last, the median and longest gap between them (missing
// where there is none). Missing days must not be kept.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_gaps(Rcpp::IntegerVector days, SEXP group, int groups, SEXP keep) {
  Laid<int> laid(days.begin(), days.size(), lines_of(group, keep), groups);
  Rcpp::NumericVector n(groups), first(groups, NA_REAL), last(groups, NA_REAL),
      median(groups, NA_REAL), longest(groups, NA_REAL);
  double* out[] = {n.begin(), first.begin(), last.begin(), median.begin(), longest.begin()};
  laid.each_group([&](int, int g, std::size_t from, std::size_t to) {
    const ladder::Gaps gaps = ladder::gaps_of(laid.values.get() + from, to - from);
    out[0][g] = gaps.days;
    if (!gaps.days) return;
    out[1][g] = gaps.first;
    out[2][g] = gaps.last;
    if (gaps.days < 2) return;
    out[3][g] = gaps.median;
    out[4][g] = gaps.longest;
  });
  return Rcpp::List::create(Rcpp::_["days"] = n, Rcpp::_["first"] = first, Rcpp::_["last"] = last,
                            Rcpp::_["median"] = median, Rcpp::_["longest"] = longest);
}
