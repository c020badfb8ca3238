// R's side of kernels/alike.h.
#include <Rcpp.h>
#include "fold.h"
#include "kernels/alike.h"
#include "threads.h"

// Lines (from 1) that are alike in every column, whole numbers or doubles; `keep` tells which lines
// count, or is NULL.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_alike(Rcpp::List columns, SEXP keep) {
  const std::size_t n = columns.size() ? Rf_xlength(columns[0]) : 0;
  std::vector<std::uint64_t> hash(n);
  const int threads = threads_for(n, 1);
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    const SEXP column = columns[j];
    const int* codes = TYPEOF(column) == INTSXP ? INTEGER(column) : nullptr;
    const double* values = codes ? nullptr : REAL(column);
    in_threads(n, threads, [&](int, std::size_t from, std::size_t to) {
      if (codes)
        ladder::mix_column(codes, from, to, hash.data());
      else
        ladder::mix_column(values, from, to, hash.data());
    });
  }
  const int* in = Rf_isNull(keep) ? nullptr : LOGICAL(keep);
  const std::vector<std::size_t> found =
      ladder::met_twice(hash.data(), n, [&](std::size_t i) { return !in || in[i] == 1; });
  Rcpp::NumericVector out(found.size());
  for (std::size_t i = 0; i < found.size(); ++i) out[i] = static_cast<double>(found[i] + 1);
  return out;
}
