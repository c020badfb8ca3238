// Lines that are alike in every column, found without grouping them.
//
// Each line gets one 64-bit number made of its columns. Numbers met twice are kept by the bits of a
// table about eight times as wide as there are lines (a filter in the manner of Bloom 1970,
// doi:10.1145/362686.362692, with one function); only the lines it lets through, a tenth of those
// that stand alone, are sorted. Two different lines share a number once in 2^64 pairs: the caller
// compares what is found.
//
// Assumes codes or numbers of equal length; missing numbers are alike. Cost: one look at every cell,
// 8 bytes and 2 bits in 8 slots for each line.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <utility>
#include <vector>

namespace ladder {

inline std::uint64_t mix(std::uint64_t h, std::uint64_t x) {
  h ^= x + 0x9e3779b97f4a7c15ULL + (h << 6) + (h >> 2);
  h ^= h >> 31;
  h *= 0x7fb5d329728ea185ULL;
  h ^= h >> 27;
  h *= 0x81dadef4bc2dd44dULL;
  return h ^ (h >> 33);
}

inline std::uint64_t bits_of(int code) { return static_cast<std::uint32_t>(code); }

// Zero and minus zero are one number, and so are all that are missing.
inline std::uint64_t bits_of(double v) {
  if (std::isnan(v)) return 0x7ff8000000000000ULL;
  if (v == 0) v = 0;
  std::uint64_t out;
  std::memcpy(&out, &v, sizeof out);
  return out;
}

template <class T>
void mix_column(const T* v, std::size_t from, std::size_t to, std::uint64_t* hash) {
  for (std::size_t i = from; i < to; ++i) hash[i] = mix(hash[i], bits_of(v[i]));
}

// Lines (from 0, rising) whose number another line has too; `in` tells which lines count.
template <class In>
std::vector<std::size_t> met_twice(const std::uint64_t* hash, std::size_t n, In in) {
  int width = 6;
  while ((std::size_t(1) << width) < 8 * n) ++width;
  std::vector<std::uint64_t> once((std::size_t(1) << width) / 64), twice(once.size());
  for (std::size_t i = 0; i < n; ++i) {
    if (!in(i)) continue;
    const std::uint64_t slot = hash[i] >> (64 - width), bit = std::uint64_t(1) << (slot & 63);
    (once[slot >> 6] & bit ? twice : once)[slot >> 6] |= bit;
  }
  std::vector<std::pair<std::uint64_t, std::size_t>> maybe;
  for (std::size_t i = 0; i < n; ++i) {
    const std::uint64_t slot = hash[i] >> (64 - width);
    if (in(i) && twice[slot >> 6] >> (slot & 63) & 1) maybe.emplace_back(hash[i], i);
  }
  std::sort(maybe.begin(), maybe.end());
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < maybe.size(); ++i) {
    const bool before = i > 0 && maybe[i - 1].first == maybe[i].first;
    const bool after = i + 1 < maybe.size() && maybe[i + 1].first == maybe[i].first;
    if (before || after) out.push_back(maybe[i].second);
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace ladder
