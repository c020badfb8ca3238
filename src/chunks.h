// Work in chunks of lines, so that Ctrl-C is heard between them.
#pragma once
#include <Rcpp.h>

// work(from, to)
template <class Work>
void in_chunks(std::size_t n, Work work, std::size_t chunk = 65536) {
  for (std::size_t from = 0; from < n; from += chunk) {
    work(from, std::min(n, from + chunk));
    Rcpp::checkUserInterrupt();
  }
}
