// References that do not keep what they refer to alive, and are not saved with it.
#include <Rcpp.h>

// A weak reference to an environment.
// [[Rcpp::export(rng = false)]]
SEXP kernel_weak(SEXP environment) {
  return R_MakeWeakRef(environment, R_NilValue, R_NilValue, FALSE);
}

// The environment, or NULL when it is gone.
// [[Rcpp::export(rng = false)]]
SEXP kernel_strong(SEXP reference) {
  if (TYPEOF(reference) != WEAKREFSXP) return R_NilValue;
  return R_WeakRefKey(reference);
}
