// Texts as bytes, wherever they lie: those of a mapped file are looked at in place, without making
// R's strings of them.
#pragma once
#include <Rcpp.h>
#include <cstddef>
#include <cstdint>
#include <string_view>

class Texts {
 public:
  explicit Texts(SEXP x);
  std::size_t size() const { return n_; }
  bool mapped() const { return ends_ != nullptr; }
  // Missing ones are empty.
  std::string_view operator[](std::size_t i) const {
    if (ends_) {
      // Within the file whatever became of it meanwhile.
      const std::uint64_t from = ends_[i], to = ends_[i + 1];
      return from <= to && to <= size_ ? std::string_view(bytes_ + from, to - from) : std::string_view();
    }
    const SEXP text = STRING_ELT(x_, static_cast<R_xlen_t>(i));
    if (text == NA_STRING) return {};
    return {CHAR(text), static_cast<std::size_t>(LENGTH(text))};
  }

 private:
  SEXP x_;
  std::size_t n_;
  const std::uint64_t* ends_ = nullptr;
  const char* bytes_ = nullptr;
  std::uint64_t size_ = 0;
};
