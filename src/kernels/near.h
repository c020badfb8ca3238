// How far apart two texts are: the letters to change, put in or take out (Levenshtein 1966), as far as
// `most`, beyond which only a band around the diagonal need be looked at (Ukkonen 1985,
// doi:10.1016/S0019-9958(85)80046-2).
//
// Cost: the shorter text by the band, 2 most + 1; nothing where the lengths alone tell.
#pragma once
#include <algorithm>
#include <cstdlib>
#include <string_view>
#include <vector>

namespace ladder {

inline char lower(char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c; }

// The distance of `a`, in small letters, from `b` in either; most + 1 where it is more than `most`.
// `row` is room for the work.
inline int text_distance(std::string_view a, std::string_view b, int most, std::vector<int>& row) {
  const int n = static_cast<int>(a.size()), m = static_cast<int>(b.size());
  const int beyond = most + 1;
  if (std::abs(n - m) > most) return beyond;
  row.assign(m + 2, beyond);
  for (int j = 0; j <= std::min(m, most); ++j) row[j] = j;
  for (int i = 1; i <= n; ++i) {
    const int from = std::max(1, i - most), to = std::min(m, i + most);
    int corner = row[from - 1];
    row[from - 1] = from == 1 && i <= most ? i : beyond;
    int least = row[from - 1];
    for (int j = from; j <= to; ++j) {
      const int above = row[j];
      const int cost = corner + (a[i - 1] != lower(b[j - 1]));
      row[j] = std::min({cost, row[j - 1] + 1, above + 1, beyond});
      corner = above;
      least = std::min(least, row[j]);
    }
    if (to < m) row[to + 1] = beyond;
    if (least > most) return beyond;
  }
  return row[m];
}

// Whether `text` holds `word`, which is in small letters.
inline bool holds(std::string_view text, std::string_view word) {
  return std::search(text.begin(), text.end(), word.begin(), word.end(),
                     [](char x, char y) { return lower(x) == y; }) != text.end();
}

}  // namespace ladder
