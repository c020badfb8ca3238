// Smallest, largest, variance and quantiles per group.
//
// extremes     the smallest or largest value of each group.
// deviations   per group the sums of (v - centre) and of its square, as fixed-point numbers (see
//              sum.h). With the centres the group means, the second central moment is
//              squares - deviations^2 / n: the corrected two-pass algorithm (Chan, Golub and
//              LeVeque 1983, The American Statistician 37, 242-247), which merges pairwise.
// quantile_of  the quantile p of values laid out side by side, by linear interpolation between
//              the order statistics around (n - 1) p + 1 (type 7 of Hyndman and Fan 1996, The
//              American Statistician 50, 361-365; R's default).
//
// Assumes as in sum.h. Missing values are left out. Cost: one pass each; quantile_of expected
// linear in its values (Hoare's selection).
#pragma once
#include <algorithm>
#include "sum.h"

namespace ladder {

// `best` and `n` are the caller's, n zero at the start.
template <class T>
void extremes(const T* v, const Lines& lines, std::size_t from, std::size_t to, bool highest,
              double* best, std::int64_t* n) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    const double x = static_cast<double>(v[i]);
    if (n[g] == 0 || (highest ? x > best[g] : x < best[g])) best[g] = x;
    ++n[g];
  }
}

template <class T>
double largest_deviation(const T* v, const Lines& lines, std::size_t from, std::size_t to,
                         const double* centre) {
  double most = 0;
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    const double d = std::fabs(static_cast<double>(v[i]) - centre[g]);
    if (d > most) most = d;
  }
  return most;
}

template <class T>
void deviations(const T* v, const Lines& lines, std::size_t from, std::size_t to,
                const double* centre, int shift, int square_shift, wide* sum, wide* squares) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g < 0 || missing(v[i])) continue;
    const double d = static_cast<double>(v[i]) - centre[g];
    sum[g] += to_fixed(d, shift);
    squares[g] += to_fixed(d * d, square_shift);
  }
}

// Reorders v.
template <class T>
double quantile_of(T* v, std::size_t n, double p) {
  const double at = static_cast<double>(n - 1) * p;
  std::size_t low = static_cast<std::size_t>(std::floor(at + 4e-15 * at));
  if (low > n - 1) low = n - 1;
  const double part = std::max(0.0, at - static_cast<double>(low));
  std::nth_element(v, v + low, v + n);
  const double a = static_cast<double>(v[low]);
  if (part < 1e-12 || low + 1 >= n) return a;
  const double b = static_cast<double>(*std::min_element(v + low + 1, v + n));
  return a + part * (b - a);
}

}  // namespace ladder
