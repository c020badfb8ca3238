// A few threads over the lines, with Ctrl-C heard between blocks of them.
//
// Each thread gets its own stretch of every block and writes to its own accumulators, which the
// caller merges; sums are kept in forms whose adding has no order, so the number of threads never
// shows in a result.
#pragma once
#include <Rcpp.h>
#include <thread>
#include <vector>

// How many threads may be used: set from R, one in a forked child.
int thread_limit();

inline int threads_for(std::size_t lines, std::size_t groups) {
  const int most = thread_limit();
  // Starting a thread pays from about half a million lines; accumulators must stay small beside them.
  if (most < 2 || lines < 500000 || groups * most > lines / 8) return 1;
  return most;
}

// work(thread, from, to)
template <class Work>
void in_threads(std::size_t n, int threads, Work work) {
  const std::size_t block = threads > 1 ? std::size_t(1) << 22 : 65536;
  for (std::size_t from = 0; from < n; from += block) {
    const std::size_t to = std::min(n, from + block);
    if (threads == 1) {
      work(0, from, to);
    } else {
      std::vector<std::thread> pool;
      const std::size_t step = (to - from) / threads + 1;
      for (int t = 0; t < threads; ++t) {
        const std::size_t a = std::min(to, from + t * step), b = std::min(to, a + step);
        pool.emplace_back(work, t, a, b);
      }
      for (std::thread& one : pool) one.join();
    }
    Rcpp::checkUserInterrupt();
  }
}
