// Lines laid out group by group, and distinct names per group.
//
// lay_out       puts the values of each group side by side (counting sort: Knuth, The Art of Computer
//               Programming 3, section 5.2).
// distinct_few  counts names among the laid-out codes of a group of few lines, by a small hash table.
// distinct_in   counts them in a large group: a name counts when its stamp does not yet bear the
//               group's number.
// distinct_bits counts without laying out, by one bit for each pair of group and name.
//
// Assumes: codes in 0 .. levels, 0 = missing and not counted. Cost: two passes, four or eight bytes
// a line and four a name; with bits one pass.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>
#include "sum.h"

namespace ladder {

// The lines of groups `low` to `high`; `next` holds, per group, where its next value goes.
template <class T>
void lay_out(const T* v, const Lines& lines, std::size_t from, std::size_t to, int low, int high,
             std::size_t* next, T* laid) {
  each_line(lines, from, to, [&](int g, std::size_t i) {
    if (g >= low && g < high) laid[next[g]++] = v[i];
  });
}

constexpr std::size_t kFew = 2048;

// `slots` holds 2 * kFew numbers.
inline std::int64_t distinct_few(const int* laid, std::size_t n, int* slots) {
  std::size_t size = 8;
  while (size < 2 * n) size *= 2;
  std::fill(slots, slots + size, 0);
  std::int64_t found = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const int c = laid[i];
    if (c == 0) continue;
    std::size_t at = (static_cast<std::uint32_t>(c) * 0x9E3779B1u >> 8) & (size - 1);
    while (slots[at] && slots[at] != c) at = (at + 1) & (size - 1);
    found += slots[at] == 0;
    slots[at] = c;
  }
  return found;
}

inline std::int64_t distinct_in(const int* laid, std::size_t n, int group,
                                std::vector<int>& stamp) {
  std::int64_t found = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const int c = laid[i];
    if (c == 0 || stamp[c] == group) continue;
    stamp[c] = group;
    ++found;
  }
  return found;
}

// `bits` has one for each pair, all zero at the start.
inline void distinct_bits(const int* codes, std::size_t levels, const Lines& lines,
                          std::size_t from, std::size_t to, std::uint64_t* bits,
                          std::int64_t* found) {
  each_line(lines, from, to, [&](int g, std::size_t i) {
    if (codes[i] == 0) return;
    const std::size_t pair = static_cast<std::size_t>(g) * (levels + 1) + codes[i];
    const std::uint64_t bit = std::uint64_t(1) << (pair & 63);
    found[g] += !(bits[pair >> 6] & bit);
    bits[pair >> 6] |= bit;
  });
}

}  // namespace ladder
