// Grouping: several coded keys into one dense group number per line.
//
// combine_keys puts one more key under the groups so far. Where the table of all
// pairs is small it is addressed directly; otherwise pairs are found by hashing
// (open addressing, Knuth, The Art of Computer Programming 3, section 6.4) and
// numbered after sorting. Either way groups come out numbered in the order of
// their keys, whatever the order of the lines.
//
// Assumes: codes lie in 0 .. levels (0 = missing), group -1 = the line is out.
// Cost: one pass direct; one pass and a sort of the distinct pairs when hashed.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ladder {

class PairTable {
 public:
  explicit PairTable(std::uint64_t pairs, std::size_t lines)
      : direct_(pairs <= std::max<std::uint64_t>(1u << 20, 4 * static_cast<std::uint64_t>(lines))) {
    if (direct_)
      number_.assign(static_cast<std::size_t>(pairs), -1);
    else
      slots_.assign(1 << 12, -1);
  }
  // First pass: makes a pair known.
  void note(std::uint64_t pair) {
    if (direct_)
      number_[pair] = 0;
    else
      find(pair, true);
  }
  // Between the passes: numbers the pairs in their order, gives them back sorted.
  std::vector<std::uint64_t> settle() {
    std::vector<std::uint64_t> sorted;
    if (direct_) {
      for (std::size_t p = 0; p < number_.size(); ++p)
        if (number_[p] == 0) {
          number_[p] = static_cast<int>(sorted.size());
          sorted.push_back(p);
        }
      return sorted;
    }
    sorted = seen_;
    std::sort(sorted.begin(), sorted.end());
    number_.resize(seen_.size());
    for (std::size_t i = 0; i < seen_.size(); ++i)
      number_[i] = static_cast<int>(std::lower_bound(sorted.begin(), sorted.end(), seen_[i]) -
                                    sorted.begin());
    return sorted;
  }
  // Second pass: the number of a known pair.
  int number(std::uint64_t pair) {
    return direct_ ? number_[pair] : number_[find(pair, false)];
  }

 private:
  bool direct_;
  std::vector<int> number_;
  std::vector<int> slots_;
  std::vector<std::uint64_t> seen_;

  static std::size_t hash(std::uint64_t x) {
    return static_cast<std::size_t>((x * 0x9E3779B97F4A7C15ULL) >> 16);
  }
  std::size_t find(std::uint64_t pair, bool add) {
    const std::size_t mask = slots_.size() - 1;
    std::size_t at = hash(pair) & mask;
    while (slots_[at] >= 0) {
      if (seen_[slots_[at]] == pair) return slots_[at];
      at = (at + 1) & mask;
    }
    if (!add) return 0;
    slots_[at] = static_cast<int>(seen_.size());
    seen_.push_back(pair);
    if (seen_.size() * 2 > slots_.size()) grow();
    return seen_.size() - 1;
  }
  void grow() {
    slots_.assign(slots_.size() * 4, -1);
    const std::size_t mask = slots_.size() - 1;
    for (std::size_t i = 0; i < seen_.size(); ++i) {
      std::size_t at = hash(seen_[i]) & mask;
      while (slots_[at] >= 0) at = (at + 1) & mask;
      slots_[at] = static_cast<int>(i);
    }
  }
};

}  // namespace ladder
