// The second route over millions of lines: which lines count, and what they add up to, each in one
// loop over the raw columns. They share no code with the fold and do not number, code or scale, so
// that the proof can hold one against the other; base R stays the second route of smaller books, and
// the tests hold these against it. Columns are taken as they are, to be read only: a column whose
// attributes R took off would be copied for whoever might write to it.
#include <Rcpp.h>
#include <algorithm>
#include <climits>
#include <cmath>
#include <cstdint>
#include <vector>
#include "texts.h"
#include "threads.h"

// Which of the lines that are `left` (all for NULL) pass: the line's place among `passes`, from 1
// beyond `before`, says so; missing is FALSE. list(keep, count).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_second_meets(SEXP at, int before, Rcpp::LogicalVector passes, SEXP left) {
  const R_xlen_t n = Rf_xlength(at);
  const int* const place = INTEGER_RO(at);
  const int* const pass = LOGICAL_RO(passes);
  const int* const was = Rf_isNull(left) ? nullptr : LOGICAL_RO(left);
  Rcpp::LogicalVector keep(Rcpp::no_init(n));
  int* const out = LOGICAL(keep);
  // Without jumps, which nobody foresees where days come in no order; a line that is in no place
  // looks at the first, if there is one.
  const int threads = threads_for(n);
  std::vector<double> met(threads);
  if (passes.size() == 0) std::fill(out, out + n, 0);
  else in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    R_xlen_t own = 0;
    for (std::size_t i = from; i < to; ++i) {
      const bool known = place[i] != NA_INTEGER;
      const int meets = known & (pass[known ? place[i] - before - 1 : 0] == TRUE);
      out[i] = was ? meets & (was[i] == TRUE) : meets;
      own += out[i];
    }
    met[t] += static_cast<double>(own);
  });
  double count = 0;
  for (const double one : met) count += one;
  return Rcpp::List::create(Rcpp::_["keep"] = keep, Rcpp::_["count"] = count);
}

// The least and the most of whole numbers that are known; infinite where none is, as base R's are.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_second_ends(SEXP values) {
  const R_xlen_t n = Rf_xlength(values);
  const int* const v = INTEGER_RO(values);
  const int threads = threads_for(n);
  std::vector<int> least(threads, INT_MAX), most(threads, NA_INTEGER);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    int low = least[t], high = most[t];
    for (std::size_t i = from; i < to; ++i) {
      low = v[i] != NA_INTEGER && v[i] < low ? v[i] : low;
      high = v[i] > high ? v[i] : high;
    }
    least[t] = low;
    most[t] = high;
  });
  const int high = *std::max_element(most.begin(), most.end());
  if (high == NA_INTEGER) return Rcpp::NumericVector::create(R_PosInf, R_NegInf);
  return Rcpp::NumericVector::create(*std::min_element(least.begin(), least.end()), high);
}

namespace {

bool is_there(int v) { return v != NA_INTEGER; }
bool is_there(double v) { return !std::isnan(v); }

// Lines whose sum is made by itself, so that neither the number of threads nor their pieces show in
// the last places of the whole.
constexpr std::size_t kSummed = 1 << 14;

// `Sum` holds what a piece comes to: whole numbers to the last place.
template <class Sum, class T>
Rcpp::NumericVector sum_of(const T* v, const int* pick, std::size_t n) {
  const std::size_t pieces = (n + kSummed - 1) / kSummed;
  std::vector<Sum> sum(pieces);
  std::vector<std::size_t> known(pieces);
  // Pieces are shared out as lines are.
  in_threads(pieces, threads_for(n), [&](int, std::size_t from, std::size_t to) {
    for (std::size_t piece = from; piece < to; ++piece) {
      Sum own = 0;
      std::size_t there = 0;
      for (std::size_t i = piece * kSummed; i < std::min(n, (piece + 1) * kSummed); ++i) {
        const bool counts = (!pick || pick[i]) & is_there(v[i]);
        own += counts ? v[i] : 0;
        there += counts;
      }
      sum[piece] = own;
      known[piece] = there;
    }
  });
  long double whole = 0;
  double count = 0;
  for (std::size_t piece = 0; piece < pieces; ++piece) {
    whole += sum[piece];
    count += static_cast<double>(known[piece]);
  }
  return Rcpp::NumericVector::create(static_cast<double>(whole), count);
}

}  // namespace

// The sum of the values of the lines to keep (all for NULL), and how many are known.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_second_sum(SEXP values, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const int* const pick = Rf_isNull(keep) ? nullptr : LOGICAL_RO(keep);
  if (TYPEOF(values) == INTSXP) return sum_of<std::int64_t>(INTEGER_RO(values), pick, n);
  return sum_of<long double>(REAL_RO(values), pick, n);
}

// Which names, numbered from 1, the lines to keep have.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_second_seen(SEXP at, SEXP keep, int names) {
  const R_xlen_t n = Rf_xlength(at);
  const int* const place = INTEGER_RO(at);
  const int* const pick = Rf_isNull(keep) ? nullptr : LOGICAL_RO(keep);
  Rcpp::LogicalVector seen(names);
  int* const out = LOGICAL(seen);
  for (R_xlen_t i = 0; i < n; ++i)
    if ((!pick || pick[i]) && place[i] != NA_INTEGER) out[place[i] - 1] = TRUE;
  return seen;
}

// Whether each of the names is one of these few values, letter by letter.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_second_named(SEXP names, std::vector<std::string> values) {
  const Texts of(names);
  Rcpp::LogicalVector out(of.size());
  for (std::size_t i = 0; i < of.size(); ++i)
    out[i] = std::find(values.begin(), values.end(), of[i]) != values.end();
  return out;
}
