// Ranks under random weights, under resampled values, and names that nobody dominates.
#include <Rcpp.h>
#include "kernels/ranks.h"
#include "kernels/random.h"
#include "threads.h"

namespace {

// The ranks of all names in many draws. `score(thread, draw, out)` gives the scores of one, higher
// is better; `after(rank, name)` hears the rank, 0 for none, of each name in each draw. The ranks
// of a few draws are found first, then counted name by name, so that a name's counts are at hand.
template <class Score, class After>
ladder::PlaceCounts count_draws(std::size_t n, std::size_t draws, int threads, Score score,
                                After after) {
  ladder::PlaceCounts counts(n, draws);
  const std::size_t step = std::max<std::size_t>(8 * threads, 100000 / (n + 1));
  std::vector<std::uint32_t> rank(n * std::min(step, draws));
  std::vector<std::vector<double>> scores(threads, std::vector<double>(n));
  std::vector<std::vector<ladder::Standing>> order(threads), spare(threads);
  for (std::size_t done = 0; done < draws; done += step) {
    const std::size_t now = std::min(step, draws - done);
    in_threads(now, threads, [&](int t, std::size_t from, std::size_t until) {
      for (std::size_t d = from; d < until; ++d) {
        score(t, done + d, scores[t].data());
        ladder::shared_ranks(scores[t].data(), n, order[t], spare[t], &rank[d * n]);
      }
    });
    in_threads(n, threads, [&](int, std::size_t from, std::size_t until) {
      constexpr std::size_t block = 64;
      for (std::size_t first = from; first < until; first += block)
        for (std::size_t d = 0; d < now; ++d)
          for (std::size_t i = first; i < std::min(first + block, until); ++i) {
            const std::uint32_t p = rank[d * n + i];
            if (p > 0) counts.add(i, p);
            after(p, i);
          }
    });
  }
  return counts;
}

// Two quantiles of each name's ranks.
Rcpp::List rank_range(ladder::PlaceCounts& counts, std::size_t n, double low, double high) {
  Rcpp::NumericVector from(n), to(n);
  for (std::size_t i = 0; i < n; ++i) {
    from[i] = counts.quantile(i, low);
    to[i] = counts.quantile(i, high);
  }
  return Rcpp::List::create(Rcpp::_["low"] = from, Rcpp::_["high"] = to);
}

}  // namespace

// Ranks of names under weights drawn from a Dirichlet distribution: `scaled` has a row for each
// name (names side by side in memory for each metric), `alpha` the distribution's parameters, 0 for
// a weight that stays 0. `missing` scaled values are left out and the other weights raised.
// Each draw has a stream of its own. Cost: draws times (names times metrics + one sort of names).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_weight_draws(Rcpp::NumericMatrix scaled, Rcpp::NumericVector alpha, int draws,
                               double seed, int top, double low, double high) {
  const std::size_t n = scaled.nrow(), m = scaled.ncol();
  const double* x = scaled.begin();
  bool holes = false;
  for (double v : scaled) holes = holes || std::isnan(v);
  const int threads = n * static_cast<std::size_t>(draws) > 20000 ? thread_limit() : 1;
  std::vector<std::vector<double>> wholes(threads, std::vector<double>(holes ? n : 0));
  const auto score = [&](int t, std::size_t d, double* out) {
    ladder::SplitMix random = ladder::stream_of(seed, d);
    std::vector<double> weight(m);
    double sum = 0;
    for (std::size_t j = 0; j < m; ++j)
      sum += weight[j] = alpha[j] > 0 ? random.gamma(alpha[j]) : 0;
    std::vector<double>& whole = wholes[t];
    std::fill(out, out + n, 0.0);
    std::fill(whole.begin(), whole.end(), 0.0);
    for (std::size_t j = 0; j < m; ++j) {
      const double w = weight[j] / sum, *column = x + j * n;
      if (!holes) {
        for (std::size_t i = 0; i < n; ++i) out[i] += w * column[i];
        continue;
      }
      for (std::size_t i = 0; i < n; ++i)
        if (!std::isnan(column[i])) {
          out[i] += w * column[i];
          whole[i] += w;
        }
    }
    if (holes)
      for (std::size_t i = 0; i < n; ++i) out[i] = whole[i] > 0 ? out[i] / whole[i] : NAN;
  };
  std::vector<int> inside(n), first(n), second(n);
  const auto note = [&](std::uint32_t rank, std::size_t i) {
    inside[i] += rank > 0 && rank <= static_cast<std::uint32_t>(top);
    first[i] += rank == 1;
    second[i] += rank == 2;
  };
  ladder::PlaceCounts counts = count_draws(n, draws, threads, score, note);
  Rcpp::List out = rank_range(counts, n, low, high);
  const auto share = [&](const std::vector<int>& times) {
    Rcpp::NumericVector part(n, NA_REAL);
    if (draws > 0)
      for (std::size_t i = 0; i < n; ++i) part[i] = static_cast<double>(times[i]) / draws;
    return part;
  };
  out["inside"] = share(inside);
  out["first"] = share(first);
  out["second"] = share(second);
  return out;
}

// Sums of each name's parts in resamples `first` to `first + count - 1`: every unit (an order, a
// customer) counts as often as a Poisson number of mean 1 says. `parts` has a row for each cell of
// name and unit; the result a row for each name, resample by resample, a column for each part, and
// last how many units the name has in the resample.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix kernel_resample(Rcpp::NumericMatrix parts, Rcpp::IntegerVector name,
                                    Rcpp::IntegerVector unit, int names, int units, int first,
                                    int count, double seed) {
  const std::size_t cells = parts.nrow(), m = parts.ncol();
  Rcpp::NumericMatrix out(names * count, m + 1);
  double* to = out.begin();
  const double* x = parts.begin();
  const int *of = name.begin(), *by = unit.begin();
  const std::size_t rows = static_cast<std::size_t>(names) * count;
  in_threads(count, cells > 5000 ? thread_limit() : 1, [&](int, std::size_t from, std::size_t until) {
    std::vector<std::uint8_t> times(units);
    for (std::size_t b = from; b < until; ++b) {
      ladder::SplitMix random = ladder::stream_of(seed, first + b);
      for (auto& t : times) t = static_cast<std::uint8_t>(random.poisson_one());
      double* mine = to + b * names;
      for (std::size_t j = 0; j < m; ++j)
        for (std::size_t i = 0; i < cells; ++i)
          if (times[by[i]]) mine[j * rows + of[i]] += times[by[i]] * x[j * cells + i];
      for (std::size_t i = 0; i < cells; ++i) mine[m * rows + of[i]] += times[by[i]];
    }
  });
  return out;
}

// Quantiles of ranks over resamples (columns of `score`, higher is better), and in what share of
// them each name is ahead of the one after it in the order given (half where they tie).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_rank_ranges(Rcpp::NumericMatrix score, double low, double high) {
  const std::size_t n = score.nrow(), draws = score.ncol();
  const double* s = score.begin();
  const int threads = n * draws > 20000 ? thread_limit() : 1;
  ladder::PlaceCounts counts = count_draws(
      n, draws, threads,
      [&](int, std::size_t d, double* out) { std::copy(s + d * n, s + (d + 1) * n, out); },
      [](std::uint32_t, std::size_t) {});
  Rcpp::List out = rank_range(counts, n, low, high);
  Rcpp::NumericVector ahead(n, NA_REAL);
  std::vector<double> won(n, 0), met(n, 0);
  for (std::size_t d = 0; d < draws; ++d, s += n)
    for (std::size_t i = 0; i + 1 < n; ++i)
      if (!std::isnan(s[i]) && !std::isnan(s[i + 1])) {
        met[i] += 1;
        won[i] += s[i] > s[i + 1] ? 1 : s[i] == s[i + 1] ? .5 : 0;
      }
  for (std::size_t i = 0; i < n; ++i)
    if (met[i] > 0) ahead[i] = won[i] / met[i];
  out["ahead"] = ahead;
  return out;
}

// Shared ranks (1 2 2 4) of values whose order, best first, is given: `at` numbers lines from 1 and
// leaves out those without a value. Only equal values tie.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_shared_ranks(Rcpp::NumericVector value, Rcpp::IntegerVector at) {
  Rcpp::NumericVector out(value.size(), NA_REAL);
  const double* v = value.begin();
  const int* line = at.begin();
  double* rank = out.begin();
  double last = 0, now = 0;
  for (R_xlen_t k = 0; k < at.size(); ++k) {
    const int i = line[k] - 1;
    if (k == 0 || v[i] != last) now = static_cast<double>(k + 1);
    last = v[i];
    rank[i] = now;
  }
  return out;
}

// Whether no other name dominates: is as good on every metric and better on one. `scaled` has a row
// for each name, higher is better. Who dominates stands before in the order by all metrics, and a
// name dominated by one that is itself dominated is so by the one above that too, so each name is
// held against those not dominated only (Kung, Luccio and Preparata 1975,
// doi:10.1145/321906.321910, describe the problem).
// Cost: names times names not dominated times metrics at worst.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_not_dominated(Rcpp::NumericMatrix scaled) {
  const std::size_t n = scaled.nrow(), m = scaled.ncol();
  const double* x = scaled.begin();
  std::vector<std::size_t> order(n), front;
  for (std::size_t i = 0; i < n; ++i) order[i] = i;
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    for (std::size_t j = 0; j < m; ++j)
      if (x[j * n + a] != x[j * n + b]) return x[j * n + a] > x[j * n + b];
    return a < b;
  });
  Rcpp::LogicalVector out(n, true);
  for (std::size_t i : order) {
    bool dominated = false;
    for (std::size_t f : front) {
      std::size_t j = 0;
      bool better = false;
      for (; j < m && x[j * n + f] >= x[j * n + i]; ++j)
        better = better || x[j * n + f] > x[j * n + i];
      if (j == m && better) {
        dominated = true;
        break;
      }
    }
    out[i] = !dominated;
    if (!dominated) front.push_back(i);
  }
  return out;
}
