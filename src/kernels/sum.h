// Sums and counts per group.
//
// sum_whole   adds whole numbers in 64 bits: the total is the same whatever the
//             order of the lines. The caller makes sure beforehand that the
//             largest magnitude times the number of lines stays under 2^63.
// sum_double  adds doubles with Neumaier's compensation (Neumaier 1974, ZAMM 54,
//             39-51): sum and carry per group, joined by the caller at the end.
// count_lines counts lines.
//
// Group: a number from 0 per line, or null when all lines form one group; below
// 0 the line is out. Keep: R logicals or null; only 1 counts. Missing values are
// neither added nor counted. Cost: one pass, no allocation.
#pragma once
#include <climits>
#include <cmath>
#include <cstddef>
#include <cstdint>

namespace ladder {

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

inline void sum_double(const double* v, const Lines& lines, std::size_t from, std::size_t to,
                       double* sum, double* carry, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    const double x = v[i], t = sum[g] + x;
    carry[g] += std::fabs(sum[g]) >= std::fabs(x) ? (sum[g] - t) + x : (x - t) + sum[g];
    sum[g] = t;
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
