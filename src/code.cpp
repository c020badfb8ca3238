// R's side of kernels/code.h.
#include <Rcpp.h>
#include "chunks.h"
#include "kernels/code.h"
#include "kernels/compare.h"

// Codes of a text column: `codes` from 1 in order of first sight (0 = missing), `first` the
// line each name was first seen on. Text must be in one encoding.
// [[Rcpp::export]]
Rcpp::List kernel_code_text(Rcpp::CharacterVector text) {
  const std::size_t n = text.size();
  Rcpp::IntegerVector codes(n);
  std::vector<int> first;
  ladder::PointerCodes table;
  SEXP source = text;
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      SEXP s = STRING_ELT(source, i);
      if (s == NA_STRING) continue;
      codes[i] = table.code(s);
      if (table.size() > first.size()) first.push_back(static_cast<int>(i + 1));
    }
  });
  return Rcpp::List::create(Rcpp::_["codes"] = codes, Rcpp::_["first"] = Rcpp::wrap(first));
}

// New codes for old: codes[i] becomes to[codes[i]], 0 stays 0.
// [[Rcpp::export]]
Rcpp::IntegerVector kernel_recode(Rcpp::IntegerVector codes, Rcpp::IntegerVector to) {
  const std::size_t n = codes.size();
  Rcpp::IntegerVector out(n);
  in_chunks(n, [&](std::size_t from, std::size_t until) {
    for (std::size_t i = from; i < until; ++i) out[i] = codes[i] == 0 ? 0 : to[codes[i] - 1];
  });
  return out;
}

// Which of the days first, first + 1, ... (so many of them) occur.
// [[Rcpp::export]]
Rcpp::LogicalVector kernel_seen(Rcpp::IntegerVector days, int first, double span) {
  const std::size_t n = days.size();
  const int* d = days.begin();
  Rcpp::LogicalVector seen(static_cast<R_xlen_t>(span));
  int* s = seen.begin();
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i)
      if (d[i] != NA_INTEGER) s[d[i] - first] = 1;
  });
  return seen;
}

// to[day - first] for each day; 0 where it is missing.
// [[Rcpp::export]]
Rcpp::IntegerVector kernel_recode_from(Rcpp::IntegerVector days, int first,
                                       Rcpp::IntegerVector to) {
  const std::size_t n = days.size();
  const int* d = days.begin();
  const int* t = to.begin();
  Rcpp::IntegerVector out(Rcpp::no_init(n));
  int* o = out.begin();
  in_chunks(n, [&](std::size_t from, std::size_t until) {
    for (std::size_t i = from; i < until; ++i) o[i] = d[i] == NA_INTEGER ? 0 : t[d[i] - first];
  });
  return out;
}

// Decimals as whole numbers: `places` (-1 when they are none), `largest` magnitude scaled,
// `values` as integers where they fit, else as doubles that hold whole numbers.
// [[Rcpp::export]]
Rcpp::List kernel_scale(Rcpp::NumericVector values, int most) {
  const std::size_t n = values.size();
  const double* v = values.begin();
  int places = 0;
  double largest = 0;
  bool decimal = true;
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    decimal = decimal && ladder::decimal_places(v, from, to, most, places, largest);
  });
  const double scaled = decimal ? std::nearbyint(largest * ladder::power_of_ten(places)) : 0;
  if (!decimal || scaled >= ladder::LARGEST_WHOLE)
    return Rcpp::List::create(Rcpp::_["places"] = -1, Rcpp::_["largest"] = largest,
                              Rcpp::_["values"] = values);
  if (scaled < 2147483647.0) {
    Rcpp::IntegerVector whole(n);
    int* w = whole.begin();
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::scale_values<int>(v, from, to, places, NA_INTEGER, w);
    });
    return Rcpp::List::create(Rcpp::_["places"] = places, Rcpp::_["largest"] = scaled,
                              Rcpp::_["values"] = whole);
  }
  Rcpp::NumericVector whole(n);
  double* w = whole.begin();
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    ladder::scale_values<double>(v, from, to, places, NA_REAL, w);
  });
  return Rcpp::List::create(Rcpp::_["places"] = places, Rcpp::_["largest"] = scaled,
                            Rcpp::_["values"] = whole);
}

// values OP limit for each line; missing is FALSE.
// [[Rcpp::export]]
Rcpp::LogicalVector kernel_compare(SEXP values, std::string op, double limit) {
  const std::size_t n = Rf_xlength(values);
  Rcpp::LogicalVector out(Rcpp::no_init(n));
  int* o = out.begin();
  const ladder::Test test = ladder::test_of(op == "==", op == "!=", op[0] == '<', op[0] == '>',
                                            op.size() == 2);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    if (TYPEOF(values) == INTSXP)
      ladder::compare_values(INTEGER(values), from, to, limit, test, o);
    else
      ladder::compare_values(REAL(values), from, to, limit, test, o);
  });
  return out;
}
