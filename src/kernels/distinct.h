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

// `next` holds, per group, where its next value goes.
template <class T>
void lay_out(const T* v, const Lines& lines, std::size_t from, std::size_t to, std::int64_t* next,
             T* laid) {
  each_line(lines, from, to, [&](int g, std::size_t i) { laid[next[g]++] = v[i]; });
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

// 64 pairs; sets of them are added by joining them.
struct Bits {
  std::uint64_t word = 0;
  Bits& operator+=(const Bits& other) {
    word |= other.word;
    return *this;
  }
};

// Sets the bit of each pair, that of a missing name too; count_bits() leaves it out.
inline void distinct_bits(const int* codes, std::size_t levels, const Lines& lines,
                          std::size_t from, std::size_t to, Bits* bits) {
  each_line(lines, from, to, [&](int g, std::size_t i) {
    const std::size_t pair = static_cast<std::size_t>(g) * (levels + 1) + codes[i];
    bits[pair >> 6].word |= std::uint64_t(1) << (pair & 63);
  });
}

inline std::int64_t count_bits(const Bits* bits, std::size_t levels, int group) {
  const std::size_t from = static_cast<std::size_t>(group) * (levels + 1) + 1, to = from + levels;
  std::int64_t found = 0;
  for (std::size_t word = from / 64; word * 64 < to; ++word) {
    std::uint64_t in = bits[word].word;
    if (word * 64 < from) in &= ~std::uint64_t(0) << (from & 63);
    if (to < word * 64 + 64) in &= (std::uint64_t(1) << (to & 63)) - 1;
    found += __builtin_popcountll(in);
  }
  return found;
}

}  // namespace ladder
