// R's side of kernels/association.h.
#include <Rcpp.h>
#include "kernels/association.h"
#include "threads.h"

// Shares explained by each field (columns) in each shuffle of whole blocks (rows). `value` is
// centred; lines of one `block` and blocks of one `stratum` stand side by side; `codes` are a list
// of whole numbers from 0, `sizes` how many each field has.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix kernel_shuffled(Rcpp::NumericVector value, Rcpp::IntegerVector block,
                                    Rcpp::IntegerVector stratum, Rcpp::List codes,
                                    Rcpp::IntegerVector sizes, int shuffles, double seed) {
  const std::size_t n = value.size(), fields = codes.size();
  std::vector<std::size_t> starts, strata;
  for (std::size_t i = 0; i < n; ++i) {
    if (i == 0 || stratum[i] != stratum[i - 1]) strata.push_back(starts.size());
    if (i == 0 || block[i] != block[i - 1]) starts.push_back(i);
  }
  strata.push_back(starts.size());
  starts.push_back(n);
  double whole = 0;
  for (double v : value) whole += v * v;
  std::vector<const int*> code(fields);
  std::vector<std::vector<double>> count(fields);
  for (std::size_t f = 0; f < fields; ++f) {
    code[f] = INTEGER(codes[f]);
    count[f].assign(sizes[f], 0.0);
    for (std::size_t i = 0; i < n; ++i) count[f][code[f][i]] += 1;
  }
  Rcpp::NumericMatrix out(shuffles, fields);
  double* to = out.begin();
  const double* v = value.begin();
  const int threads = n * fields > 20000 ? thread_limit() : 1;
  // A few shuffles a thread between looks at Ctrl-C.
  const std::size_t step = 8 * threads;
  for (std::size_t done = 0; done < static_cast<std::size_t>(shuffles); done += step) {
    const std::size_t now = std::min(step, shuffles - done);
    in_threads(now, threads, [&](int, std::size_t from, std::size_t until) {
      std::vector<std::size_t> order;
      std::vector<double> shuffled(n), sums;
      for (std::size_t p = done + from; p < done + until; ++p) {
        ladder::shuffle_blocks(v, starts, strata, ladder::stream_of(seed, p), order,
                               shuffled.data());
        for (std::size_t f = 0; f < fields; ++f)
          to[f * shuffles + p] = ladder::between_share(shuffled.data(), code[f], n,
                                                       count[f].data(), count[f].size(), whole, sums);
      }
    });
  }
  return out;
}
