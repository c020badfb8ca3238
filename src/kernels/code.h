// Coding: columns to small integers, decimals to scaled integers.
//
// code_pointers   gives each distinct address a number from 1 in order of first
//                 sight; open addressing with linear probing (Knuth, The Art of
//                 Computer Programming 3, section 6.4). The caller passes the
//                 addresses of pooled strings, so equal text means equal address.
// decimal_places  the fewest decimal places, up to `most`, at which every value
//                 is a decimal number: v is one when the nearest integer to
//                 v * 10^k, divided by 10^k, gives v back to the last bit
//                 (division is correctly rounded by IEEE 754, so this is exact).
// scale_values    writes those integers.
//
// Assumes: sizes below 2^31 names. Missing: the address `na` gets 0; NaN is
// skipped. Cost: one pass each, the table holds at most twice the names.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ladder {

const double LARGEST_WHOLE = 9007199254740992.0;  // 2^53: whole doubles are exact up to here

class PointerCodes {
 public:
  PointerCodes() : slots_(1 << 10, -1), mask_((1 << 10) - 1) {}

  // Code of p, from 1; a new one when p was not seen before.
  int code(const void* p) {
    std::size_t at = hash(p) & mask_;
    while (slots_[at] >= 0) {
      if (seen_[slots_[at]] == p) return slots_[at] + 1;
      at = (at + 1) & mask_;
    }
    slots_[at] = static_cast<int>(seen_.size());
    seen_.push_back(p);
    if (seen_.size() * 2 > slots_.size()) grow();
    return static_cast<int>(seen_.size());
  }
  std::size_t size() const { return seen_.size(); }

 private:
  std::vector<int> slots_;
  std::vector<const void*> seen_;
  std::size_t mask_;

  static std::size_t hash(const void* p) {
    // Multiplicative hashing (Knuth, section 6.4) on the address without its zero low bits.
    const std::uint64_t x = reinterpret_cast<std::uintptr_t>(p) >> 4;
    return static_cast<std::size_t>((x * 0x9E3779B97F4A7C15ULL) >> 20);
  }
  void grow() {
    const std::size_t size = slots_.size() * 4;
    slots_.assign(size, -1);
    mask_ = size - 1;
    for (std::size_t i = 0; i < seen_.size(); ++i) {
      std::size_t at = hash(seen_[i]) & mask_;
      while (slots_[at] >= 0) at = (at + 1) & mask_;
      slots_[at] = static_cast<int>(i);
    }
  }
};

inline double power_of_ten(int k) {
  static const double p[] = {1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12};
  return p[k];
}

inline bool is_decimal(double v, int places) {
  const double scaled = std::nearbyint(v * power_of_ten(places));
  return std::fabs(scaled) < LARGEST_WHOLE && scaled / power_of_ten(places) == v;
}

// Raises `places` as far as the values need; false when one is no such decimal.
inline bool decimal_places(const double* v, std::size_t from, std::size_t to, int most,
                           int& places, double& largest) {
  for (std::size_t i = from; i < to; ++i) {
    if (std::isnan(v[i])) continue;
    while (!is_decimal(v[i], places))
      if (++places > most) return false;
    if (std::fabs(v[i]) > largest) largest = std::fabs(v[i]);
  }
  return true;
}

template <class Out>
inline void scale_values(const double* v, std::size_t from, std::size_t to, int places,
                         Out missing, Out* out) {
  for (std::size_t i = from; i < to; ++i)
    out[i] = std::isnan(v[i]) ? missing
                              : static_cast<Out>(std::nearbyint(v[i] * power_of_ten(places)));
}

}  // namespace ladder
