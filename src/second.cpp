// The second route over millions of lines: which lines count, and what they add up to, each in one
// loop over the raw columns. They share no code with the fold and do not number, code or scale, so
// that the proof can hold one against the other; base R stays the second route of smaller books, and
// the tests hold these against it.
#include <Rcpp.h>
#include <algorithm>
#include <cmath>

// Which of the lines that are `left` (all for NULL) pass: the line's place among `passes`, from 1
// beyond `before`, says so; missing is FALSE. list(keep, count).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_second_meets(Rcpp::IntegerVector at, int before,
                               Rcpp::LogicalVector passes, SEXP left) {
  const R_xlen_t n = at.size();
  const int* const place = INTEGER_RO(at);
  const int* const pass = LOGICAL_RO(passes);
  const int* const was = Rf_isNull(left) ? nullptr : LOGICAL_RO(left);
  Rcpp::LogicalVector keep(Rcpp::no_init(n));
  int* const out = LOGICAL(keep);
  // Without jumps, which nobody foresees where days come in no order; a line that is in no place
  // looks at the first, if there is one.
  R_xlen_t met = 0;
  if (passes.size() == 0) std::fill(out, out + n, 0);
  else for (R_xlen_t i = 0; i < n; ++i) {
    const bool known = place[i] != NA_INTEGER;
    const int meets = known & (pass[known ? place[i] - before - 1 : 0] == TRUE);
    out[i] = was ? meets & (was[i] == TRUE) : meets;
    met += out[i];
  }
  return Rcpp::List::create(Rcpp::_["keep"] = keep,
                            Rcpp::_["count"] = static_cast<double>(met));
}

// The sum of the values of the lines to keep (all for NULL), and how many are known.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_second_sum(SEXP values, SEXP keep) {
  const R_xlen_t n = Rf_xlength(values);
  const int* const pick = Rf_isNull(keep) ? nullptr : LOGICAL_RO(keep);
  long double sum = 0;
  R_xlen_t known = 0;
  if (TYPEOF(values) == INTSXP) {
    const int* const v = INTEGER_RO(values);
    for (R_xlen_t i = 0; i < n; ++i) {
      const bool counts = (!pick || pick[i]) & (v[i] != NA_INTEGER);
      sum += counts ? v[i] : 0;
      known += counts;
    }
  } else {
    const double* const v = REAL_RO(values);
    for (R_xlen_t i = 0; i < n; ++i) {
      const bool counts = (!pick || pick[i]) & !std::isnan(v[i]);
      sum += counts ? v[i] : 0;
      known += counts;
    }
  }
  return Rcpp::NumericVector::create(static_cast<double>(sum),
                                     static_cast<double>(known));
}

// Which names, numbered from 1, the lines to keep have.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_second_seen(Rcpp::IntegerVector at, SEXP keep, int names) {
  const R_xlen_t n = at.size();
  const int* const place = INTEGER_RO(at);
  const int* const pick = Rf_isNull(keep) ? nullptr : LOGICAL_RO(keep);
  Rcpp::LogicalVector seen(names);
  int* const out = LOGICAL(seen);
  for (R_xlen_t i = 0; i < n; ++i)
    if ((!pick || pick[i]) && place[i] != NA_INTEGER) out[place[i] - 1] = TRUE;
  return seen;
}
