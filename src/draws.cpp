// Places under random weights, under resampled values, and names that nobody beats.
#include <Rcpp.h>
#include "kernels/places.h"
#include "kernels/random.h"
#include "threads.h"

namespace {

// Quantiles of places and the share of draws on the first `top` places, of every name.
Rcpp::List tally_list(const ladder::Tally& tally, const std::vector<double>& inside, double draws,
                      double low, double high) {
  const std::size_t n = tally.names;
  Rcpp::NumericVector from(n), to(n), share(n);
  for (std::size_t i = 0; i < n; ++i) {
    from[i] = tally.quantile(i, low);
    to[i] = tally.quantile(i, high);
    share[i] = draws > 0 ? inside[i] / draws : NA_REAL;
  }
  return Rcpp::List::create(Rcpp::_["low"] = from, Rcpp::_["high"] = to, Rcpp::_["inside"] = share);
}

struct Room {
  ladder::Tally tally;
  std::vector<double> inside, score;
  std::vector<ladder::Standing> order, spare;
  std::vector<std::uint32_t> place;
  explicit Room(std::size_t n) : tally(n), inside(n, 0), score(n) {}
};

}  // namespace

// Places of names under weights drawn from a Dirichlet distribution: `scaled` has a row for each
// name (names side by side in memory for each metric), `alpha` the distribution's parameters, 0 for
// a weight that stays 0. `missing` scaled values are left out and the other weights raised.
// Each draw has a stream of its own. Cost: draws times (names times metrics + one sort of names).
// [[Rcpp::export]]
Rcpp::List kernel_weight_draws(Rcpp::NumericMatrix scaled, Rcpp::NumericVector alpha, int draws,
                               double seed, int top, double low, double high) {
  const std::size_t n = scaled.nrow(), m = scaled.ncol();
  const double* x = scaled.begin();
  bool holes = false;
  for (double v : scaled) holes = holes || std::isnan(v);
  const int threads = n * static_cast<std::size_t>(draws) > 20000 ? thread_limit() : 1;
  std::vector<Room> rooms;
  for (int t = 0; t < threads; ++t) rooms.emplace_back(n);
  const std::size_t step = 16 * threads;
  for (std::size_t done = 0; done < static_cast<std::size_t>(draws); done += step) {
    Rcpp::checkUserInterrupt();
    const std::size_t now = std::min(step, draws - done);
    in_threads(now, threads, [&](int thread, std::size_t from, std::size_t until) {
      Room& room = rooms[thread];
      std::vector<double> weight(m), whole(holes ? n : 0);
      for (std::size_t d = done + from; d < done + until; ++d) {
        ladder::SplitMix random = ladder::stream_of(seed, d);
        double sum = 0;
        for (std::size_t j = 0; j < m; ++j)
          sum += weight[j] = alpha[j] > 0 ? random.gamma(alpha[j]) : 0;
        std::fill(room.score.begin(), room.score.end(), 0.0);
        std::fill(whole.begin(), whole.end(), 0.0);
        for (std::size_t j = 0; j < m; ++j) {
          const double w = weight[j] / sum, *column = x + j * n;
          if (!holes) {
            for (std::size_t i = 0; i < n; ++i) room.score[i] += w * column[i];
            continue;
          }
          for (std::size_t i = 0; i < n; ++i)
            if (!std::isnan(column[i])) {
              room.score[i] += w * column[i];
              whole[i] += w;
            }
        }
        if (holes)
          for (std::size_t i = 0; i < n; ++i)
            room.score[i] = whole[i] > 0 ? room.score[i] / whole[i] : NAN;
        ladder::shared_places(room.score.data(), n, room.order, room.spare, room.place);
        for (std::size_t i = 0; i < n; ++i)
          if (room.place[i] > 0) {
            room.tally.add(i, room.place[i]);
            if (room.place[i] <= static_cast<std::uint32_t>(top)) room.inside[i] += 1;
          }
      }
    });
  }
  for (int t = 1; t < threads; ++t) {
    rooms[0].tally.join(rooms[t].tally);
    for (std::size_t i = 0; i < n; ++i) rooms[0].inside[i] += rooms[t].inside[i];
  }
  return tally_list(rooms[0].tally, rooms[0].inside, draws, low, high);
}

// Sums of each name's parts in resamples `first` to `first + count - 1`: every unit (an order, a
// customer) counts as often as a Poisson number of mean 1 says. `parts` has a row for each cell of
// name and unit; the result a row for each name, resample by resample, a column for each part, and
// last how many units the name has in the resample.
// [[Rcpp::export]]
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

// Quantiles of places over resamples (columns of `score`, higher is better), and in what share of
// them each name is ahead of the one after it in the order given (half where they tie).
// [[Rcpp::export]]
Rcpp::List kernel_place_ranges(Rcpp::NumericMatrix score, double low, double high) {
  const std::size_t n = score.nrow(), draws = score.ncol();
  Room room(n);
  Rcpp::NumericVector ahead(n, NA_REAL);
  std::vector<double> won(n, 0), met(n, 0);
  for (std::size_t d = 0; d < draws; ++d) {
    const double* s = score.begin() + d * n;
    ladder::shared_places(s, n, room.order, room.spare, room.place);
    for (std::size_t i = 0; i < n; ++i)
      if (room.place[i] > 0) room.tally.add(i, room.place[i]);
    for (std::size_t i = 0; i + 1 < n; ++i)
      if (!std::isnan(s[i]) && !std::isnan(s[i + 1])) {
        met[i] += 1;
        won[i] += s[i] > s[i + 1] ? 1 : s[i] == s[i + 1] ? .5 : 0;
      }
  }
  for (std::size_t i = 0; i < n; ++i)
    if (met[i] > 0) ahead[i] = won[i] / met[i];
  Rcpp::List out = tally_list(room.tally, room.inside, static_cast<double>(draws), low, high);
  out["ahead"] = ahead;
  return out;
}

// Shared places (1 2 2 4) of values whose order, best first, is given: `at` numbers lines from 1 and
// leaves out those without a value. Only equal values tie.
// [[Rcpp::export]]
Rcpp::NumericVector kernel_shared_places(Rcpp::NumericVector value, Rcpp::IntegerVector at) {
  Rcpp::NumericVector out(value.size(), NA_REAL);
  const double* v = value.begin();
  const int* line = at.begin();
  double* place = out.begin();
  double last = 0, now = 0;
  for (R_xlen_t k = 0; k < at.size(); ++k) {
    const int i = line[k] - 1;
    if (k == 0 || v[i] != last) now = static_cast<double>(k + 1);
    last = v[i];
    place[i] = now;
  }
  return out;
}

// Whether no other name is better on every metric at once. `scaled` has a row for each name, higher
// is better. A name beaten by one that is itself beaten is beaten by the one above that too, so each
// name, best by the first metric first, is held against the unbeaten ones only (Kung, Luccio and
// Preparata 1975, doi:10.1145/321906.321910, describe the problem).
// Cost: names times unbeaten names times metrics at worst.
// [[Rcpp::export]]
Rcpp::LogicalVector kernel_unbeaten(Rcpp::NumericMatrix scaled) {
  const std::size_t n = scaled.nrow(), m = scaled.ncol();
  const double* x = scaled.begin();
  std::vector<std::size_t> order(n), front;
  for (std::size_t i = 0; i < n; ++i) order[i] = i;
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return x[a] > x[b]; });
  Rcpp::LogicalVector out(n, true);
  for (std::size_t i : order) {
    bool beaten = false;
    for (std::size_t f : front) {
      std::size_t j = 0;
      while (j < m && x[j * n + f] > x[j * n + i]) ++j;
      if (j == m) {
        beaten = true;
        break;
      }
    }
    out[i] = !beaten;
    if (!beaten) front.push_back(i);
  }
  return out;
}
