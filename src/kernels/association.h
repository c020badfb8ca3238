// How much of a value's variation each of several fields explains when chance alone is at work: the
// value is shuffled in whole blocks (orders, names), so that lines of one block stay together.
//
// Values and codes are laid out block after block, blocks of one size side by side. A shuffle puts
// the blocks' values in a random order beside the codes as they stand, blocks of one size among
// themselves, so that every block of values meets a block of codes and both keep their dependence
// within blocks (restricted permutation: Good, P. (2005) Permutation, Parametric and Bootstrap
// Tests of Hypotheses, 3rd edition, Springer). The share explained is the sum of squares between a
// field's names over the whole sum of squares.
//
// Assumes values centred on their mean, none missing; codes from 0, below sizes[f]. Each shuffle has
// a seed of its own, so that neither threads nor platforms show in the result.
// Cost: values times (fields + 1) for each shuffle.
#pragma once
#include <cstddef>
#include <cstdint>
#include <numeric>
#include <utility>
#include <vector>
#include "random.h"

namespace ladder {

// Between-names share of the sum of squares of v under a field's codes.
inline double between_share(const double* v, const int* codes, std::size_t n, const double* count,
                            std::size_t size, double whole, std::vector<double>& sums) {
  sums.assign(size, 0.0);
  for (std::size_t i = 0; i < n; ++i) sums[codes[i]] += v[i];
  double between = 0;
  for (std::size_t g = 0; g < size; ++g)
    if (count[g] > 0) between += sums[g] * sums[g] / count[g];
  return between / whole;
}

// The values in a random order of their blocks, within each stratum of blocks. starts and strata
// (numbers of blocks) have one more entry than there are blocks and strata.
inline void shuffle_blocks(const double* v, const std::vector<std::size_t>& starts,
                           const std::vector<std::size_t>& strata, SplitMix random,
                           std::vector<std::size_t>& order, double* out) {
  order.resize(starts.size() - 1);
  std::iota(order.begin(), order.end(), std::size_t(0));
  for (std::size_t s = 0; s + 1 < strata.size(); ++s) {
    const std::size_t from = strata[s];
    for (std::size_t i = strata[s + 1] - from; i > 1; --i)
      std::swap(order[from + i - 1], order[from + random.below(i)]);
  }
  std::size_t at = 0;
  for (std::size_t b : order)
    for (std::size_t i = starts[b]; i < starts[b + 1]; ++i) out[at++] = v[i];
}

}  // namespace ladder
