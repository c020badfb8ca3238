// Comparison of a column with one number.
//
// A test is which of below, equal and above pass. Missing: never passes. Cost: one pass.
#pragma once
#include <cstddef>
#include "sum.h"

namespace ladder {

struct Test {
  bool below, equal, above;
};

inline Test test_of(bool equal, bool unequal, bool below, bool above, bool or_equal) {
  if (equal) return Test{false, true, false};
  if (unequal) return Test{true, false, true};
  return Test{below, or_equal, above};
}

template <class T>
void compare_values(const T* v, std::size_t from, std::size_t to, double limit, Test test,
                    int* out) {
  for (std::size_t i = from; i < to; ++i) {
    const double x = static_cast<double>(v[i]);
    out[i] = !missing(v[i]) && ((test.below && x < limit) || (test.equal && x == limit) ||
                                (test.above && x > limit));
  }
}

}  // namespace ladder
