// Gaps between the days on which a name has lines: how many such days, the first and last, the
// median and the longest gap.
//
// Days are laid out name by name (counting sort), each name's sorted and made distinct. Cost: one
// pass to lay out, and the sorts of single names; the order of the lines does not matter.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>

namespace ladder {

struct Gaps {
  int days = 0;
  int first = 0;
  int last = 0;
  double median = -1;   // below 0 where there is no gap
  int longest = -1;
};

// `day` .. `day + n` are the days of one name, in any order; they are changed.
inline Gaps gaps_of(int* day, std::size_t n) {
  Gaps out;
  if (!n) return out;
  std::sort(day, day + n);
  const std::size_t days = std::unique(day, day + n) - day;
  out.days = static_cast<int>(days);
  out.first = day[0];
  out.last = day[days - 1];
  if (days < 2) return out;
  const std::size_t gaps = days - 1;
  for (std::size_t i = 0; i < gaps; ++i) day[i] = day[i + 1] - day[i];
  out.longest = *std::max_element(day, day + gaps);
  const std::size_t half = gaps / 2;
  std::nth_element(day, day + half, day + gaps);
  out.median = day[half];
  if (gaps % 2 == 0) out.median = (out.median + *std::max_element(day, day + half)) / 2;
  return out;
}

}  // namespace ladder
