// The number of threads, and its reset in forked children.
#include "threads.h"
#ifndef _WIN32
#include <pthread.h>
#endif

namespace {
int limit = 1;
void one_thread() { limit = 1; }
}  // namespace

int thread_limit() { return limit; }

// Sets how many threads may be used; gives back how many the machine has.
// [[Rcpp::export(rng = false)]]
int kernel_threads(int wanted) {
#ifndef _WIN32
  static bool watched = false;
  if (!watched) {
    pthread_atfork(nullptr, nullptr, one_thread);
    watched = true;
  }
#endif
  const int cores = std::max(1u, std::thread::hardware_concurrency());
  if (wanted > 0) limit = std::min(wanted, 64);
  return cores;
}
