// Lines laid out group by group, and distinct names per group.
//
// lay_out      puts the values of each group side by side (counting sort: Knuth, The Art of
//              Computer Programming 3, section 5.2).
// distinct_in  counts names among laid-out codes: a name counts when its stamp does not yet bear
//              the group's number.
//
// Assumes: codes in 0 .. levels, 0 = missing and not counted. Cost: two passes, four or eight bytes
// a line, four bytes a name.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>
#include "sum.h"

namespace ladder {

// `next` holds, per group, where its next value goes; the caller starts it from counts.
template <class T>
void lay_out(const T* v, const Lines& lines, std::size_t from, std::size_t to, std::size_t* next,
             T* laid) {
  for (std::size_t i = from; i < to; ++i) {
    const int g = lines.at(i);
    if (g >= 0) laid[next[g]++] = v[i];
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
