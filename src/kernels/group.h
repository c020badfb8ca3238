// Grouping: several coded keys into one dense group number per line.
//
// One more key is put under the groups so far. Where the table of all pairs is small it is addressed
// directly (PairTable); otherwise lines are laid out by their group (counting sort, Knuth, The Art of
// Computer Programming 3, section 5.2) and each group's codes sorted (PairRuns). Either way groups
// come out numbered in the order of their keys, whatever the order of the lines.
//
// Assumes: codes lie in 0 .. levels (0 = missing), group -1 = the line is out.
// Cost: two passes direct; two passes and the sorts of single groups otherwise.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ladder {

inline bool pairs_fit(std::uint64_t pairs, std::size_t lines) {
  return pairs <= std::max<std::uint64_t>(1u << 20, 4 * static_cast<std::uint64_t>(lines));
}

class PairTable {
 public:
  explicit PairTable(std::uint64_t pairs) : number_(static_cast<std::size_t>(pairs), -1) {}
  // First pass: makes a pair known.
  void note(std::uint64_t pair) { number_[pair] = 0; }
  // Between the passes: numbers the pairs in their order, gives them back sorted.
  std::vector<std::uint64_t> settle() {
    std::vector<std::uint64_t> sorted;
    for (std::size_t p = 0; p < number_.size(); ++p)
      if (number_[p] == 0) {
        number_[p] = static_cast<int>(sorted.size());
        sorted.push_back(p);
      }
    return sorted;
  }
  // Second pass: the number of a known pair.
  int number(std::uint64_t pair) const { return number_[pair]; }

 private:
  std::vector<int> number_;
};

// The lines of each group, next to each other as code and line in one word.
class PairRuns {
 public:
  explicit PairRuns(std::size_t groups) : start_(groups + 1) {}
  void count(int group) { ++start_[group + 1]; }
  void settle() {
    for (std::size_t g = 1; g < start_.size(); ++g) start_[g] += start_[g - 1];
    next_.assign(start_.begin(), start_.end() - 1);
    run_.resize(start_.back());
  }
  void lay(int group, int code, std::size_t line) {
    run_[next_[group]++] = static_cast<std::uint64_t>(code) << 32 | line;
  }
  // Numbers the pairs of a group: found(group, code) for each new one, line(line, number).
  template <class Found, class Line>
  void number(std::size_t group, int& number, Found found, Line line) {
    const auto from = run_.begin() + start_[group], to = run_.begin() + start_[group + 1];
    std::sort(from, to);
    std::uint64_t last = ~std::uint64_t(0);
    for (auto at = from; at != to; ++at) {
      const std::uint64_t code = *at >> 32;
      if (code != last) {
        found(static_cast<int>(code));
        last = code;
        ++number;
      }
      line(static_cast<std::size_t>(*at & 0xffffffffu), number - 1);
    }
  }

 private:
  std::vector<std::size_t> start_, next_;
  std::vector<std::uint64_t> run_;
};

}  // namespace ladder
