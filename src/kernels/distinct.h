// Distinct names per group.
//
// Lines are laid out group by group (counting sort: Knuth, The Art of Computer
// Programming 3, section 5.2); within a group a name counts when its stamp does
// not yet bear the group's number.
//
// Assumes: codes in 0 .. levels, 0 = missing and not counted. Cost: two passes,
// four bytes a line, four bytes a name.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>
#include "sum.h"

namespace ladder {

// `starts` holds, per group, where its lines begin; filled by the caller from counts.
inline void lay_out(const int* code, const Lines& lines, std::size_t from, std::size_t to,
                    std::size_t* next, int* laid) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g >= 0) laid[next[g]++] = code[i];
  }
}

inline std::int64_t distinct_in(const int* laid, std::size_t from, std::size_t to, int group,
                                std::vector<int>& stamp) {
  std::int64_t n = 0;
  for (std::size_t i = from; i < to; ++i) {
    const int c = laid[i];
    if (c == 0 || stamp[c] == group) continue;
    stamp[c] = group;
    ++n;
  }
  return n;
}

}  // namespace ladder
