// What the exports over groups share: lines from R's vectors, accumulators per thread, lines laid
// out by group.
#pragma once
#include <Rcpp.h>
#include <memory>
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
  Parts(int threads, std::size_t groups) : parts_(threads, std::vector<T>(groups)) {}
  T* of(int thread) { return parts_[thread].data(); }
  std::vector<T>& merged() {
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

// Accumulators over the lines by all threads: add(lines, from, to, out), `out` having `each` of them
// for every group. Where groups are few beside the lines, each thread goes through its own stretch with
// accumulators of its own, added together at the end. Where they are many, all threads go through
// all lines and share one set, each picking the lines of its own groups.
template <class T, class Add>
std::vector<T> add_up(std::size_t n, const ladder::Lines& lines, std::size_t groups,
                      std::size_t each, Add add) {
  const int threads = threads_for(n, groups), most = threads_for(n);
  if (threads == most) {
    Parts<T> parts(threads, groups * each);
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      add(lines, from, to, parts.of(t));
    });
    return std::move(parts.merged());
  }
  std::vector<T> out(groups * each);
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    at_once(most, [&](int t) {
      add(lines.of_groups(groups * t / most, groups * (t + 1) / most), from, to, out.data());
    });
  }, kThreadChunk);
  return out;
}

// The values of each group side by side, in the order of the lines. Each thread lays out its own
// stretch of them, behind those of the threads before it.
template <class T>
struct Laid {
  std::vector<std::size_t> start;
  std::unique_ptr<T[]> values;
  std::vector<int> shares;
  Laid(const T* v, std::size_t n, const ladder::Lines& lines, int groups) : start(groups + 1) {
    const int threads = threads_for(n, groups / 2);
    std::vector<std::vector<std::int64_t>> next(threads, std::vector<std::int64_t>(groups));
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      ladder::count_lines(lines, from, to, next[t].data());
    });
    std::size_t total = 0;
    for (int g = 0; g < groups; ++g) {
      start[g] = total;
      for (std::vector<std::int64_t>& of : next) {
        const std::size_t here = of[g];
        of[g] = total;
        total += here;
      }
    }
    start[groups] = total;
    values.reset(new T[total]);
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      ladder::lay_out(v, lines, from, to, next[t].data(), values.get());
    });
    shares = group_shares(start, threads_for(n));
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
