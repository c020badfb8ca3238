// What the exports over groups share: lines from R's vectors, accumulators per thread, lines laid
// out by group.
#pragma once
#include <Rcpp.h>
#include "kernels/distinct.h"
#include "threads.h"

inline ladder::Lines lines_of(SEXP group, SEXP keep) {
  return ladder::Lines{Rf_isNull(group) ? nullptr : INTEGER(group),
                       Rf_isNull(keep) ? nullptr : LOGICAL(keep)};
}

// Calls work with the values as integers or as doubles.
template <class Work>
void over_values(SEXP values, Work work) {
  if (TYPEOF(values) == INTSXP)
    work(static_cast<const int*>(INTEGER(values)));
  else
    work(static_cast<const double*>(REAL(values)));
}

inline Rcpp::NumericVector as_numbers(const std::vector<std::int64_t>& x) {
  return Rcpp::NumericVector(x.begin(), x.end());
}

// One set of accumulators for each thread, added together at the end.
template <class T>
class Parts {
 public:
  Parts(int threads, int groups) : parts_(threads, std::vector<T>(groups)) {}
  T* of(int thread) { return parts_[thread].data(); }
  const std::vector<T>& merged() {
    for (std::size_t t = 1; t < parts_.size(); ++t) {
      for (std::size_t g = 0; g < parts_[0].size(); ++g) {
        parts_[0][g] += parts_[t][g];
        parts_[t][g] = T();
      }
    }
    return parts_[0];
  }

 private:
  std::vector<std::vector<T>> parts_;
};

// The values of each group side by side. Each thread lays out a share of the groups, so that their
// lines keep their order and no two threads write to one place.
template <class T>
struct Laid {
  std::vector<std::size_t> start;
  std::vector<T> values;
  std::vector<int> shares;
  Laid(const T* v, std::size_t n, const ladder::Lines& lines, int groups) : start(groups + 1) {
    const int counting = threads_for(n, groups), laying = threads_for(n);
    Parts<std::int64_t> count(counting, groups);
    in_threads(n, counting, [&](int t, std::size_t from, std::size_t to) {
      ladder::count_lines(lines, from, to, count.of(t));
    });
    const std::vector<std::int64_t>& total = count.merged();
    for (int g = 0; g < groups; ++g) start[g + 1] = start[g] + total[g];
    shares = group_shares(start, laying);
    std::vector<std::size_t> next(start.begin(), start.end() - 1);
    values.resize(start[groups]);
    const auto lay = [&](std::size_t from, std::size_t to) {
      at_once(laying, [&](int t) {
        ladder::lay_out(v, lines, from, to, shares[t], shares[t + 1], next.data(), values.data());
      });
    };
    in_chunks(n, lay, kThreadChunk);
  }
  // work(thread, group, from, to) for each group, whose values go from `from` to `to`.
  template <class Work>
  void each_group(Work work) const {
    std::size_t most = 0;
    for (int t = 0; t < threads(); ++t)
      most = std::max<std::size_t>(most, shares[t + 1] - shares[t]);
    in_chunks(most, [&](std::size_t from, std::size_t to) {
      at_once(threads(), [&](int t) {
        const int end = std::min<std::size_t>(shares[t + 1], shares[t] + to);
        for (int g = shares[t] + static_cast<int>(from); g < end; ++g)
          work(t, g, start[g], start[g + 1]);
      });
    });
  }
  int threads() const { return static_cast<int>(shares.size()) - 1; }
};
