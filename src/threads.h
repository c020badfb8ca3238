// A few threads over the lines, with Ctrl-C heard between chunks of them.
//
// Each thread gets its own stretch of the lines and writes to its own accumulators, which the caller
// merges; sums are kept in forms whose adding has no order, so the number of threads never
// shows in a result.
#pragma once
#include <Rcpp.h>
#include <algorithm>
#include <exception>
#include <system_error>
#include <thread>
#include <vector>
#include "chunks.h"

// How many threads may be used: set from R, one in a forked child.
int thread_limit();

// Threads for lines that write beside each other only.
inline int threads_for(std::size_t lines) {
  // Starting a thread pays from about half a million lines.
  return lines < 500000 ? 1 : thread_limit();
}

// Threads with accumulators of their own, which must stay small beside the lines.
inline int threads_for(std::size_t lines, std::size_t groups) {
  const int most = threads_for(lines);
  return groups * most > lines / 4 ? 1 : most;
}

// work(thread) for each thread at once; what one of them throws is thrown when all are done.
template <class Work>
void at_once(int threads, Work work) {
  std::vector<std::exception_ptr> thrown(threads);
  const auto run = [&](int t) {
    try {
      work(t);
    } catch (...) {
      thrown[t] = std::current_exception();
    }
  };
  std::vector<std::thread> pool;
  pool.reserve(threads);
  int started = 1;
  try {
    for (; started < threads; ++started) pool.emplace_back(run, started);
  } catch (const std::system_error&) {
    // The system gives no more threads; their shares are done here.
  }
  run(0);
  for (int t = started; t < threads; ++t) run(t);
  for (std::thread& one : pool) one.join();
  for (const std::exception_ptr& one : thrown)
    if (one) std::rethrow_exception(one);
}

// work(thread, from, to) for pieces of the lines; each thread has its own stretch of them, from which
// its pieces come in order, the same for every call with as many lines and threads. Pieces are large
// enough to start threads for.
template <class Work>
void in_threads(std::size_t n, int threads, Work work) {
  const std::size_t stretch = (n + threads - 1) / threads;
  const auto pieces = [&](std::size_t from, std::size_t to) {
    at_once(threads, [&](int t) {
      work(t, std::min(n, t * stretch + from), std::min(n, t * stretch + to));
    });
  };
  in_chunks(stretch, pieces, threads > 1 ? kThreadChunk : kChunk);
}

// Shares of the groups, one for each thread, with about as many lines each: `start` tells where the
// lines of each group start, and where those of the last end.
inline std::vector<int> group_shares(const std::vector<std::size_t>& start, int threads) {
  std::vector<int> out{0};
  for (int t = 1; t < threads; ++t) {
    const std::size_t line = start.back() * t / threads;
    out.push_back(static_cast<int>(std::lower_bound(start.begin(), start.end() - 1, line) -
                                   start.begin()));
  }
  out.push_back(static_cast<int>(start.size()) - 1);
  return out;
}
