// Sums and counts per group, the same whatever the order of the lines or the number of threads.
//
// sum_whole   adds whole numbers in 64 bits. The caller makes sure beforehand that the largest
//             magnitude times the number of lines stays under 2^63. sum_full does so where no
//             value is missing, and leaves the counting to count_lines.
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
  // Only lines of groups from `low` on, `width` of them: for each_line.
  int low = 0;
  unsigned width = INT_MAX;
  Lines of_groups(std::size_t from, std::size_t to) const {
    return Lines{group, keep, static_cast<int>(from), static_cast<unsigned>(to - from)};
  }
  bool has(int g) const { return static_cast<unsigned>(g) - static_cast<unsigned>(low) < width; }
  // The group of line i, or -1 when the line is out.
  int at(std::size_t i) const {
    if (keep && keep[i] != 1) return -1;
    return group ? group[i] : 0;
  }
};

// use(line) for each line that is in. Where that cannot be foreseen: a block is picked first, without
// branches.
template <class In, class Use>
void each_picked(std::size_t from, std::size_t to, In in, Use use) {
  constexpr std::size_t block = 512;
  std::uint16_t picked[block];
  for (; from < to; from += block) {
    const std::size_t n = from + block < to ? block : to - from;
    std::size_t count = 0;
    for (std::size_t k = 0; k < n; ++k) {
      picked[count] = static_cast<std::uint16_t>(k);
      count += in(from + k);
    }
    for (std::size_t k = 0; k < count; ++k) use(from + picked[k]);
  }
}

// use(group, line) for each line from `from` to `to` that is in. One loop for each case, since what
// is the same for all lines is not to be asked at each.
template <class Use>
void each_line(const Lines& lines, std::size_t from, std::size_t to, Use use) {
  const int* const group = lines.group;
  const int* const keep = lines.keep;
  const auto grouped = [&](std::size_t i) { use(group[i], i); };
  if (keep && group) {
    each_picked(from, to, [&](std::size_t i) { return (keep[i] == 1) & lines.has(group[i]); },
                grouped);
  } else if (keep) {
    each_picked(from, to, [&](std::size_t i) { return keep[i] == 1; },
                [&](std::size_t i) { use(0, i); });
  } else if (group && lines.width != INT_MAX) {
    each_picked(from, to, [&](std::size_t i) { return lines.has(group[i]); }, grouped);
  } else if (group) {
    for (std::size_t i = from; i < to; ++i)
      if (group[i] >= 0) use(group[i], i);
  } else {
    for (std::size_t i = from; i < to; ++i) use(0, i);
  }
}

// A sum and how many values it is of.
template <class Sum>
struct Tally {
  Sum sum = 0;
  std::int64_t n = 0;
  Tally& operator+=(const Tally& other) {
    sum += other.sum;
    n += other.n;
    return *this;
  }
};

template <class T>
void sum_whole(const T* v, const Lines& lines, std::size_t from, std::size_t to,
               Tally<std::int64_t>* out) {
  each_line(lines, from, to, [&](int g, std::size_t i) {
    if (missing(v[i])) return;
    out[g].sum += static_cast<std::int64_t>(v[i]);
    ++out[g].n;
  });
}

// Where no value is missing; the sums of a group lie `step` from those of the next.
template <class T>
void sum_full(const T* v, const Lines& lines, std::size_t from, std::size_t to, std::int64_t* sum,
              std::size_t step = 1) {
  each_line(lines, from, to,
            [&](int g, std::size_t i) { sum[g * step] += static_cast<std::int64_t>(v[i]); });
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
                      int shift, Tally<wide>* out) {
  each_line(lines, from, to, [&](int g, std::size_t i) {
    if (missing(v[i])) return;
    out[g].sum += to_fixed(v[i], shift);
    ++out[g].n;
  });
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
  each_line(lines, from, to, [&](int g, std::size_t i) {
    if (missing(v[i])) return;
    sum[g] += v[i];
    ++n[g];
  });
}

inline void count_lines(const Lines& lines, std::size_t from, std::size_t to, std::int64_t* n,
                        std::size_t step = 1) {
  each_line(lines, from, to, [&](int g, std::size_t) { ++n[g * step]; });
}

}  // namespace ladder
