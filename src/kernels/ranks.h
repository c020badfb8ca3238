// Ranks under many draws: how often each name stood on each rank.
//
// Where there are few draws beside bins, the ranks themselves are kept. Else ranks up to 200 are
// counted one by one, those beyond in bins that grow by a hundredth, so that a quantile of ranks is
// exact up to 200 and within 1 % after. Memory: 4 bytes for each name and draw, or 2 for each name
// and bin. Assumes fewer than 65,536 draws.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <vector>

namespace ladder {

constexpr std::size_t exact_ranks = 200;

inline std::size_t rank_bin(std::size_t rank) {
  if (rank <= exact_ranks) return rank - 1;
  return exact_ranks + static_cast<std::size_t>(
    std::log(static_cast<double>(rank) / exact_ranks) / std::log(1.01));
}

// The middle of a bin, as a rank.
inline double bin_rank(std::size_t bin) {
  if (bin < exact_ranks) return static_cast<double>(bin + 1);
  return std::round(exact_ranks * std::pow(1.01, static_cast<double>(bin - exact_ranks) + 0.5));
}

class PlaceCounts {
 public:
  PlaceCounts(std::size_t names, std::size_t draws) : names_(names), draws_(draws), drawn_(names, 0) {
    bins_ = rank_bin(names ? names : 1) + 1;
    if (2 * draws <= bins_) {
      kept_.resize(names * draws);
      return;
    }
    count_.resize(names * bins_);
    bin_of_.resize(names + 1);
    for (std::size_t rank = 1; rank <= names; ++rank)
      bin_of_[rank] = static_cast<std::uint16_t>(rank_bin(rank));
  }
  // One more draw of a name.
  void add(std::size_t name, std::uint32_t rank) {
    if (count_.empty())
      kept_[name * draws_ + drawn_[name]] = rank;
    else
      ++count_[name * bins_ + bin_of_[rank]];
    ++drawn_[name];
  }
  // The lowest rank that at least so many of the name's draws reach.
  double quantile(std::size_t name, double share) {
    const std::size_t total = drawn_[name];
    if (total == 0) return NAN;
    const double wanted = share * static_cast<double>(total) - 1e-9;
    if (count_.empty()) {
      const auto from = kept_.begin() + name * draws_, at = from + wanted_at(wanted);
      std::nth_element(from, at, from + total);
      return *at;
    }
    double run = 0;
    for (std::size_t b = 0; b < bins_; ++b) {
      run += count_[name * bins_ + b];
      if (run >= wanted) return std::min(bin_rank(b), static_cast<double>(names_));
    }
    return static_cast<double>(names_);
  }

 private:
  // Where among sorted ranks the one stands up to which there are so many.
  static std::size_t wanted_at(double wanted) {
    return wanted <= 1 ? 0 : static_cast<std::size_t>(std::ceil(wanted)) - 1;
  }

  std::size_t names_, draws_, bins_;
  std::vector<std::uint16_t> drawn_, count_, bin_of_;
  std::vector<std::uint32_t> kept_;
};

// A score with its name, as a whole number in the order of the scores, highest first.
struct Standing {
  std::uint64_t key;
  std::uint32_t name;
};

inline std::uint64_t falling_key(double score) {
  // 0 and -0 are one score.
  score += 0.0;
  std::uint64_t bits;
  std::memcpy(&bits, &score, sizeof bits);
  const std::uint64_t rising = bits >> 63 ? ~bits : bits | (std::uint64_t(1) << 63);
  return ~rising;
}

// Sorts by key: by digits of 11 bits, the lowest first (Knuth, The Art of Computer Programming 3,
// 5.2.5); digits that are the same for all cost one look.
inline void sort_standings(std::vector<Standing>& order, std::vector<Standing>& spare) {
  if (order.size() < 200) {
    std::sort(order.begin(), order.end(), [](const Standing& a, const Standing& b) {
      return a.key < b.key || (a.key == b.key && a.name < b.name);
    });
    return;
  }
  spare.resize(order.size());
  for (int shift = 0; shift < 64; shift += 11) {
    std::size_t start[2049] = {0};
    for (const Standing& s : order) ++start[((s.key >> shift) & 2047) + 1];
    if (start[((order[0].key >> shift) & 2047) + 1] == order.size()) continue;
    for (int d = 0; d < 2048; ++d) start[d + 1] += start[d];
    for (const Standing& s : order) spare[start[(s.key >> shift) & 2047]++] = s;
    order.swap(spare);
  }
}

// Shared ranks (1 2 2 4), the highest score first; NaN has none. rank: one for each name, 0 for
// none. `order` and `spare` are working room.
inline void shared_ranks(const double* score, std::size_t n, std::vector<Standing>& order,
                          std::vector<Standing>& spare, std::uint32_t* rank) {
  order.clear();
  std::fill(rank, rank + n, 0);
  for (std::size_t i = 0; i < n; ++i)
    if (!std::isnan(score[i])) order.push_back({falling_key(score[i]), static_cast<std::uint32_t>(i)});
  sort_standings(order, spare);
  for (std::size_t k = 0; k < order.size(); ++k)
    rank[order[k].name] = k > 0 && order[k].key == order[k - 1].key
      ? rank[order[k - 1].name] : static_cast<std::uint32_t>(k + 1);
}

}  // namespace ladder
