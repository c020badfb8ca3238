// Sums and counts per group, the same whatever the order of the lines or the number of threads.
//
// sum_whole   adds whole numbers in 64 bits. The caller makes sure beforehand that the largest
//             magnitude times the number of lines stays under 2^63.
// sum_fixed   adds doubles as fixed-point numbers of 128 bits. `shift` is the power of two that
//             brings the largest magnitude times the number of lines just under 2^126 (fixed_shift);
//             every value is rounded by itself to that grid, at least 2^-94 of the largest, and
//             adding is then exact, so no order of adding can be told from another. The idea of a
//             fixed-point accumulator is Kulisch's (Kulisch and Miranker 1981, Computer Arithmetic
//             in Theory and Practice); one word of 128 bits is enough for sums of one column.
// count_lines counts lines.
//
// Group: a number from 0 per line, or null when all lines form one group; below 0 the line is out.
// Keep: R logicals or null; only 1 counts. Missing values are neither added nor counted. Infinite
// values are the caller's to handle. Cost: one pass, no allocation.
#pragma once
#include <climits>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <cstring>

namespace ladder {

__extension__ typedef __int128 wide;

inline bool missing(int x) { return x == INT_MIN; }
inline bool missing(double x) { return std::isnan(x); }

struct Lines {
  const int* group;
  const int* keep;
  // The group of line i, or -1 when the line is out.
  int at(std::size_t i) const {
    if (keep && keep[i] != 1) return -1;
    return group ? group[i] : 0;
  }
};

template <class T>
void sum_whole(const T* v, const Lines& lines, std::size_t from, std::size_t to,
               std::int64_t* sum, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    sum[g] += static_cast<std::int64_t>(v[i]);
    ++n[g];
  }
}

// The power of two for sum_fixed, from the largest magnitude and the number of lines.
inline int fixed_shift(double largest, double lines) {
  if (!(largest > 0)) return 0;
  return 124 - std::ilogb(largest) - std::ilogb(lines + 1);
}

// x times 2^shift, rounded to the nearest whole number (halves away from zero).
inline wide to_fixed(double x, int shift) {
  std::uint64_t bits;
  std::memcpy(&bits, &x, sizeof bits);
  const int exponent = static_cast<int>((bits >> 52) & 0x7ff);
  std::int64_t fraction = static_cast<std::int64_t>(bits & 0xfffffffffffffULL);
  if (exponent) fraction |= 0x10000000000000LL;
  const int up = (exponent ? exponent : 1) - 1075 + shift;
  wide out;
  if (up >= 0)
    out = static_cast<wide>(fraction) << up;
  else if (up > -60)
    out = (fraction + (1LL << (-up - 1))) >> -up;
  else
    out = 0;
  return bits >> 63 ? -out : out;
}

inline double from_fixed(wide x, int shift) {
  return std::ldexp(static_cast<double>(x), -shift);
}

inline void sum_fixed(const double* v, const Lines& lines, std::size_t from, std::size_t to,
                      int shift, wide* sum, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    sum[g] += to_fixed(v[i], shift);
    ++n[g];
  }
}

// The largest magnitude; infinite when there is an infinite value.
inline double largest_of(const double* v, std::size_t from, std::size_t to) {
  double most = 0;
  for (std::size_t i = from; i < to; ++i)
    if (std::fabs(v[i]) > most) most = std::fabs(v[i]);
  return most;
}

// For columns with infinite values: plain addition, in which the infinite outweighs all.
inline void sum_plain(const double* v, const Lines& lines, std::size_t from, std::size_t to,
                      double* sum, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    sum[g] += v[i];
    ++n[g];
  }
}

inline void count_lines(const Lines& lines, std::size_t from, std::size_t to, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g >= 0) ++n[g];
  }
}

}  // namespace ladder
