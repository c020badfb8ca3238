// What the exports over groups share: lines from R's vectors, accumulators per thread, lines laid
// out by group.
#pragma once
#include <Rcpp.h>
#include "chunks.h"
#include "kernels/distinct.h"

inline ladder::Lines lines_of(SEXP group, SEXP keep) {
  return ladder::Lines{Rf_isNull(group) ? nullptr : INTEGER(group),
                       Rf_isNull(keep) ? nullptr : LOGICAL(keep)};
}

inline Rcpp::NumericVector as_numbers(const std::vector<std::int64_t>& x) {
  return Rcpp::NumericVector(x.begin(), x.end());
}

// One set of accumulators for each thread, added together at the end.
template <class T>
class Parts {
 public:
  Parts(int threads, int groups) : parts_(threads, std::vector<T>(groups)) {}
  T* of(int thread) { return parts_[thread].data(); }
  const std::vector<T>& merged() {
    for (std::size_t t = 1; t < parts_.size(); ++t) {
      for (std::size_t g = 0; g < parts_[0].size(); ++g) {
        parts_[0][g] += parts_[t][g];
        parts_[t][g] = 0;
      }
    }
    return parts_[0];
  }

 private:
  std::vector<std::vector<T>> parts_;
};

template <class T>
struct Laid {
  std::vector<std::size_t> start;
  std::vector<T> values;
  Laid(const T* v, std::size_t n, const ladder::Lines& lines, int groups) : start(groups + 1) {
    std::vector<std::int64_t> count(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::count_lines(lines, from, to, count.data());
    });
    for (int g = 0; g < groups; ++g) start[g + 1] = start[g] + count[g];
    std::vector<std::size_t> next(start.begin(), start.end() - 1);
    values.resize(start[groups]);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::lay_out(v, lines, from, to, next.data(), values.data());
    });
  }
};
