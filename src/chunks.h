// Work in chunks of lines, so that Ctrl-C is heard between them.
#pragma once
#include <Rcpp.h>

constexpr std::size_t kChunk = 65536;
// For work in which threads are started.
constexpr std::size_t kThreadChunk = std::size_t(1) << 22;

// work(from, to)
template <class Work>
void in_chunks(std::size_t n, Work work, std::size_t chunk = kChunk) {
  for (std::size_t from = 0; from < n; from += chunk) {
    work(from, std::min(n, from + chunk));
    Rcpp::checkUserInterrupt();
  }
}
