// Names in the order of their bytes.
//
// Each name shows eight bytes at a time as one number, first byte highest, zeros past its end; names
// are sorted by that number, and runs of equal numbers by the next eight (most significant digit
// first radix sorting, with a comparison sort for each digit: Knuth, The Art of Computer Programming
// 3, section 5.2.5). Names hold no zero byte, so a shorter name comes before those it begins. What
// all names begin with is skipped.
//
// Cost: for names that differ early one read of each and one sort of 24-byte records.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <vector>

namespace ladder {

struct Name {
  const char* text;
  std::uint32_t length;
  std::int32_t number;
  std::uint64_t word;
};

inline std::uint64_t word_at(const char* text, std::size_t length, std::size_t depth) {
  unsigned char byte[8] = {};
  if (depth < length) std::memcpy(byte, text + depth, std::min<std::size_t>(8, length - depth));
  std::uint64_t out = 0;
  for (unsigned char b : byte) out = out << 8 | b;
  return out;
}

inline bool word_before(const Name& a, const Name& b) { return a.word < b.word; }

// Sorts by the bytes from `depth`, where the words are; equal names keep no order.
inline void sort_names(Name* from, Name* to, std::size_t depth) {
  // Names often come in order already.
  if (!std::is_sorted(from, to, word_before)) std::sort(from, to, word_before);
  while (from != to) {
    Name* end = from + 1;
    bool longer = from->length > depth + 8;
    for (; end != to && end->word == from->word; ++end) longer |= end->length > depth + 8;
    if (longer && end - from > 1) {
      for (Name* at = from; at != end; ++at) at->word = word_at(at->text, at->length, depth + 8);
      sort_names(from, end, depth + 8);
    }
    from = end;
  }
}

// Equal names are neighbours after sorting and have one word, so that few texts are read again.
inline bool same_name(const Name& a, const Name& b) {
  return a.word == b.word && a.length == b.length && std::memcmp(a.text, b.text, a.length) == 0;
}

// How many bytes all of these names begin with.
inline std::size_t common_start(const std::vector<Name>& names) {
  if (names.empty()) return 0;
  std::size_t common = names[0].length;
  for (const Name& name : names) {
    std::size_t same = 0;
    while (same < common && same < name.length && name.text[same] == names[0].text[same]) ++same;
    common = same;
  }
  return common;
}

// How many bytes a blank takes that begins here, in UTF-8; 0 for any other sign. Signs of no width
// count: a name of nothing else cannot be seen.
inline std::size_t blank_bytes(const char* text, std::size_t left) {
  const auto byte = [text](std::size_t i) { return static_cast<unsigned char>(text[i]); };
  if (text[0] == ' ' || text[0] == '\t' || text[0] == '\r' || text[0] == '\n') return 1;
  if (left < 2 || byte(0) < 0xc2) return 0;
  if (byte(0) == 0xc2) return byte(1) == 0xa0 ? 2 : 0;
  if (left < 3) return 0;
  const unsigned sign = (byte(0) & 0x0fu) << 12 | (byte(1) & 0x3fu) << 6 | (byte(2) & 0x3fu);
  if (byte(0) < 0xe1 || byte(0) > 0xef) return 0;
  const bool blank = sign == 0x1680 || (sign >= 0x2000 && sign <= 0x200d) || sign == 0x202f ||
                     sign == 0x205f || sign == 0x2060 || sign == 0x3000 || sign == 0xfeff;
  return blank ? 3 : 0;
}

inline bool blank_name(const char* text, std::size_t length) {
  std::size_t at = 0;
  while (at < length) {
    const std::size_t bytes = blank_bytes(text + at, length - at);
    if (bytes == 0) return false;
    at += bytes;
  }
  return true;
}

inline bool plain_bytes(const char* text, std::size_t length) {
  return std::all_of(text, text + length, [](char c) { return static_cast<signed char>(c) >= 0; });
}

}  // namespace ladder
