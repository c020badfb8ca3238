// Vectors that lie in files and are mapped, not read: R's alternative vectors (ALTREP, see "Writing R
// Extensions") over the bytes of a file. Opening takes no time whatever their length, only the pages
// that are looked at are read, and several processes share them.
//
// Pages are the process's own once they are written to, so that R code that changes a vector in place
// leaves the file as it is.
//
// A file of numbers holds them one behind another; one of texts holds where each begins and where
// the last ends, in 64 bits each, then their bytes in UTF-8.
#include <Rcpp.h>
#include <R_ext/Altrep.h>
#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <string>
#include <vector>
#include "disk.h"
#include "mapping.h"
#include "texts.h"

namespace {

R_altrep_class_t logical_class, integer_class, real_class, text_class;

Mapping& mapping_behind(SEXP x) {
  return *static_cast<Mapping*>(R_ExternalPtrAddr(R_altrep_data1(x)));
}

template <class Number>
R_xlen_t number_length(SEXP x) {
  return static_cast<R_xlen_t>(mapping_behind(x).size / sizeof(Number));
}

void* number_data(SEXP x, Rboolean) { return mapping_behind(x).bytes; }
const void* number_data_or_null(SEXP x) { return mapping_behind(x).bytes; }
int integer_elt(SEXP x, R_xlen_t i) { return reinterpret_cast<int*>(mapping_behind(x).bytes)[i]; }
double real_elt(SEXP x, R_xlen_t i) { return reinterpret_cast<double*>(mapping_behind(x).bytes)[i]; }

// Texts: the second slot holds those that were looked at; an empty one there was not, or is empty.
const std::uint64_t* text_ends(SEXP x) {
  return reinterpret_cast<const std::uint64_t*>(mapping_behind(x).bytes);
}

R_xlen_t text_length(SEXP x) { return static_cast<R_xlen_t>(text_ends(x)[0] / 8 - 1); }

// Whether a file's ends lie within it, one behind the other.
bool texts_fit(const Mapping& map) {
  if (map.size < 8) return false;
  const auto* ends = reinterpret_cast<const std::uint64_t*>(map.bytes);
  const std::uint64_t first = ends[0];
  return first % 8 == 0 && first >= 8 && first <= map.size && ends[first / 8 - 1] == map.size &&
         std::is_sorted(ends, ends + first / 8);
}

// Whether whole numbers are codes from `least` to `most`; those of R's factors, from 1, may be missing.
bool codes_fit(const Mapping& map, int least, int most) {
  const int* code = reinterpret_cast<const int*>(map.bytes);
  return std::all_of(code, code + map.size / sizeof(int), [=](int x) {
    return (x >= least && x <= most) || (x == NA_INTEGER && least == 1);
  });
}

SEXP text_seen(SEXP x) {
  SEXP seen = R_altrep_data2(x);
  if (seen != R_NilValue) return seen;
  seen = Rf_allocVector(STRSXP, text_length(x));
  R_set_altrep_data2(x, seen);
  return seen;
}

SEXP text_elt(SEXP x, R_xlen_t i) {
  SEXP seen = text_seen(x);
  SEXP text = STRING_ELT(seen, i);
  if (text != R_BlankString) return text;
  const std::uint64_t from = text_ends(x)[i], to = text_ends(x)[i + 1];
  // Where pages were lost meanwhile nothing else is told of the texts.
  if (from >= to || to > mapping_behind(x).size) return text;
  text = Rf_mkCharLenCE(reinterpret_cast<const char*>(mapping_behind(x).bytes) + from,
                        static_cast<int>(to - from), CE_UTF8);
  SET_STRING_ELT(seen, i, text);
  return text;
}

void* text_data(SEXP x, Rboolean) {
  SEXP seen = text_seen(x);
  const R_xlen_t n = text_length(x);
  for (R_xlen_t i = 0; i < n; ++i) text_elt(x, i);
  return const_cast<void*>(static_cast<const void*>(DATAPTR_RO(seen)));
}

void text_set_elt(SEXP x, R_xlen_t i, SEXP text) {
  text_data(x, TRUE);
  SET_STRING_ELT(R_altrep_data2(x), i, text);
}

template <class Number>
void set_number_methods(R_altrep_class_t type) {
  R_set_altrep_Length_method(type, number_length<Number>);
  R_set_altvec_Dataptr_method(type, number_data);
  R_set_altvec_Dataptr_or_null_method(type, number_data_or_null);
}

std::string put_bytes(int to, const void* bytes, std::size_t size) {
  return write_all(to, static_cast<const char*>(bytes), size);
}

std::string put_texts(int to, SEXP x) {
  const R_xlen_t n = Rf_xlength(x);
  std::vector<std::uint64_t> ends(n + 1);
  ends[0] = 8 * static_cast<std::uint64_t>(n + 1);
  for (R_xlen_t i = 0; i < n; ++i) ends[i + 1] = ends[i] + LENGTH(STRING_ELT(x, i));
  std::string wrong = put_bytes(to, ends.data(), 8 * ends.size());
  // Many texts at a time.
  std::string block;
  for (R_xlen_t i = 0; i <= n && wrong.empty(); ++i) {
    if (i < n) block.append(CHAR(STRING_ELT(x, i)), LENGTH(STRING_ELT(x, i)));
    if (i < n && block.size() < (1u << 20)) continue;
    wrong = put_bytes(to, block.data(), block.size());
    block.clear();
  }
  return wrong;
}

}  // namespace

Texts::Texts(SEXP x) : x_(x), n_(Rf_xlength(x)) {
  if (!ALTREP(x) || !R_altrep_inherits(x, text_class)) return;
  ends_ = text_ends(x);
  size_ = mapping_behind(x).size;
  bytes_ = reinterpret_cast<const char*>(mapping_behind(x).bytes);
}

// [[Rcpp::init]]
void init_mapped(DllInfo* dll) {
  logical_class = R_make_altlogical_class("mapped_logical", "longladder", dll);
  set_number_methods<int>(logical_class);
  R_set_altlogical_Elt_method(logical_class, integer_elt);
  integer_class = R_make_altinteger_class("mapped_integer", "longladder", dll);
  set_number_methods<int>(integer_class);
  R_set_altinteger_Elt_method(integer_class, integer_elt);
  real_class = R_make_altreal_class("mapped_real", "longladder", dll);
  set_number_methods<double>(real_class);
  R_set_altreal_Elt_method(real_class, real_elt);
  text_class = R_make_altstring_class("mapped_text", "longladder", dll);
  R_set_altrep_Length_method(text_class, text_length);
  R_set_altvec_Dataptr_method(text_class, text_data);
  R_set_altstring_Elt_method(text_class, text_elt);
  R_set_altstring_Set_elt_method(text_class, text_set_elt);
}

// The vector that a file holds, of `kind` "logical", "integer", "double" or "text", with these
// attributes; NULL where the file is not there, has not so many bytes or another checksum than `sum`
// (empty for any). `codes` are the least and the largest code that it may hold; none for other
// numbers.
// [[Rcpp::export(rng = false)]]
SEXP kernel_mapped(std::string path, std::string kind, double bytes, Rcpp::List attributes,
                   std::string sum, Rcpp::IntegerVector codes) {
  Rcpp::XPtr<Mapping> map(new Mapping(path), true);
  if (!map->fine || static_cast<double>(map->size) != bytes) return R_NilValue;
  const int hurt = mappings_hurt();
  if (!sum.empty() && sum_of_bytes(map->bytes, map->size) != sum) return R_NilValue;
  if (kind == "text" && !texts_fit(*map)) return R_NilValue;
  if (codes.size() == 2 && !codes_fit(*map, codes[0], codes[1])) return R_NilValue;
  if (mappings_hurt() != hurt) return R_NilValue;
  Rcpp::Shield<SEXP> out(R_new_altrep(kind == "text"      ? text_class
                                      : kind == "integer" ? integer_class
                                      : kind == "logical" ? logical_class
                                                          : real_class,
                                      map, R_NilValue));
  Rcpp::RObject x(out);
  if (attributes.size()) {
    Rcpp::CharacterVector names = attributes.names();
    for (R_xlen_t i = 0; i < attributes.size(); ++i)
      Rf_setAttrib(x, Rf_installChar(names[i]), attributes[i]);
  }
  MARK_NOT_MUTABLE(x);
  return x;
}

// Whether the files behind all of these vectors that are mapped have all that was mapped.
// [[Rcpp::export(rng = false)]]
bool kernel_all_whole(Rcpp::List vectors) {
  for (R_xlen_t i = 0; i < vectors.size(); ++i) {
    SEXP x = vectors[i];
    if (!ALTREP(x)) continue;
    const bool ours = R_altrep_inherits(x, text_class) || R_altrep_inherits(x, integer_class) ||
                      R_altrep_inherits(x, logical_class) || R_altrep_inherits(x, real_class);
    if (ours && !mapping_behind(x).whole()) return false;
  }
  return true;
}

// The places, from 1, of texts that begin with one of these signs of ASCII; or with `but` of all
// others, missing and empty ones among them. Mapped texts are looked at where they lie.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_texts_begin(Rcpp::RObject texts, std::string signs, bool but) {
  SEXP x = texts;
  const R_xlen_t n = Rf_xlength(x);
  std::vector<char> wanted(256, but);
  for (unsigned char sign : signs) wanted[sign] = !but;
  std::vector<int> out;
  const Texts of(x);
  for (R_xlen_t i = 0; i < n; ++i) {
    const std::string_view text = of[i];
    if (text.empty() ? but : wanted[static_cast<unsigned char>(text[0])])
      out.push_back(static_cast<int>(i + 1));
  }
  return Rcpp::wrap(out);
}

// A vector to a file, without its attributes, flushed to the disk: empty, or what went wrong.
// [[Rcpp::export(rng = false)]]
std::string kernel_write_vector(std::string path, SEXP x) {
  const std::size_t n = Rf_xlength(x);
  return write_file(path, false, [&](int file) {
    switch (TYPEOF(x)) {
      case STRSXP: return put_texts(file, x);
      case INTSXP: return put_bytes(file, INTEGER(x), sizeof(int) * n);
      case LGLSXP: return put_bytes(file, LOGICAL(x), sizeof(int) * n);
      default: return put_bytes(file, REAL(x), sizeof(double) * n);
    }
  });
}

namespace {

// A block at a time of what `at` gives for each place of a part.
template <class Number, class Source, class Turn>
std::string put_turned(int to, const Source* part, std::size_t n, Turn at) {
  std::vector<Number> block(std::min<std::size_t>(n, 1u << 16));
  for (std::size_t from = 0; from < n; from += block.size()) {
    const std::size_t many = std::min(block.size(), n - from);
    for (std::size_t i = 0; i < many; ++i) block[i] = at(part[from + i]);
    const std::string wrong = put_bytes(to, block.data(), sizeof(Number) * many);
    if (!wrong.empty()) return wrong;
  }
  return "";
}

std::string put_part(int to, SEXP part, bool reals, SEXP table) {
  const std::size_t n = Rf_xlength(part);
  if (n == 0) return "";
  if (TYPEOF(part) == REALSXP) return put_bytes(to, REAL(part), sizeof(double) * n);
  const int* v = TYPEOF(part) == LGLSXP ? LOGICAL(part) : INTEGER(part);
  if (reals)
    return put_turned<double>(to, v, n, [](int x) { return x == NA_INTEGER ? NA_REAL : x; });
  if (Rf_isNull(table)) return put_bytes(to, v, sizeof(int) * n);
  const int* code = INTEGER(table);
  return put_turned<int>(to, v, n, [code](int x) { return x == NA_INTEGER ? x : code[x - 1]; });
}

}  // namespace

// Parts of a vector of numbers one behind another to a file: doubles where `reals`, or else whole
// numbers, those of codes from 1 as `tables` has them for each part (NULL for as they are). Empty, or
// what went wrong.
// [[Rcpp::export(rng = false)]]
std::string kernel_write_parts(std::string path, Rcpp::List parts, bool reals, SEXP tables) {
  return write_file(path, false, [&](int file) {
    std::string wrong;
    for (R_xlen_t i = 0; i < parts.size() && wrong.empty(); ++i)
      wrong = put_part(file, parts[i], reals, Rf_isNull(tables) ? tables : VECTOR_ELT(tables, i));
    return wrong;
  }, false);
}
