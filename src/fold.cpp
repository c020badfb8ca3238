// R's side of kernels/group.h, kernels/sum.h and kernels/distinct.h.
//
// `group`: integers from 0, or NULL for one group; `keep`: logicals, or NULL for all lines.
#include <Rcpp.h>
#include "fold.h"
#include "kernels/group.h"

// One more key under the groups so far: the new `group` per line, and for each new group the
// group it came from (`parent`) and its code in the new key (`code`).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_combine(SEXP group, int groups, Rcpp::IntegerVector codes, int levels,
                          SEXP keep) {
  const std::size_t n = codes.size();
  const std::uint64_t width = static_cast<std::uint64_t>(levels) + 1;
  const ladder::Lines lines = lines_of(group, keep);
  const int* code = codes.begin();
  Rcpp::IntegerVector number(n);
  int* out = number.begin();
  std::vector<int> parents, coded;
  if (ladder::pairs_fit(groups * width, n)) {
    ladder::PairTable table(groups * width);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        if (g >= 0) table.note(g * width + code[i]);
      }
    });
    for (const std::uint64_t pair : table.settle()) {
      parents.push_back(static_cast<int>(pair / width));
      coded.push_back(static_cast<int>(pair % width));
    }
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        out[i] = g < 0 ? -1 : table.number(g * width + code[i]);
      }
    });
  } else {
    ladder::PairRuns runs(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        out[i] = -1;
        if (g >= 0) runs.count(g);
      }
    });
    runs.settle();
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      for (std::size_t i = from; i < to; ++i) {
        const int g = lines.at(i);
        if (g >= 0) runs.lay(g, code[i], i);
      }
    });
    int next = 0;
    in_chunks(groups, [&](std::size_t from, std::size_t to) {
      for (std::size_t g = from; g < to; ++g)
        runs.number(g, next,
                    [&](int c) {
                      parents.push_back(static_cast<int>(g));
                      coded.push_back(c);
                    },
                    [&](std::size_t line, int pair) { out[line] = pair; });
    });
  }
  return Rcpp::List::create(Rcpp::_["group"] = number, Rcpp::_["parent"] = parents,
                            Rcpp::_["code"] = coded);
}

// The groups of several keys by place value, the last key changing fastest: codes[[k]] below
// sizes[k]. Lines that are out get -1.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_cross(Rcpp::List codes, Rcpp::IntegerVector sizes, SEXP keep) {
  const std::size_t n = Rf_xlength(codes[0]);
  std::vector<const int*> key;
  for (SEXP one : codes) key.push_back(INTEGER(one));
  const ladder::Lines lines = lines_of(R_NilValue, keep);
  Rcpp::IntegerVector out(Rcpp::no_init(n));
  int* group = out.begin();
  in_threads(n, threads_for(n), [&](int, std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) group[i] = key[0][i];
    for (std::size_t k = 1; k < key.size(); ++k)
      for (std::size_t i = from; i < to; ++i) group[i] = group[i] * sizes[k] + key[k][i];
    if (lines.keep)
      for (std::size_t i = from; i < to; ++i)
        if (lines.keep[i] != 1) group[i] = -1;
  });
  return out;
}

// The codes of each key in groups `at` by place value, numbered from 1.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_uncross(Rcpp::IntegerVector at, Rcpp::IntegerVector sizes) {
  std::vector<Rcpp::IntegerVector> codes;
  for (int k = 0; k < sizes.size(); ++k) codes.emplace_back(Rcpp::no_init(at.size()));
  std::vector<int*> out;
  for (Rcpp::IntegerVector& one : codes) out.push_back(one.begin());
  for (R_xlen_t i = 0; i < at.size(); ++i) {
    int left = at[i] - 1;
    for (int k = sizes.size() - 1; k >= 0; --k) {
      out[k][i] = left % sizes[k];
      left /= sizes[k];
    }
  }
  return Rcpp::wrap(codes);
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_count(double n, SEXP group, int groups, SEXP keep) {
  return as_numbers(add_up<std::int64_t>(
      static_cast<std::size_t>(n), lines_of(group, keep), groups, 1,
      [](const ladder::Lines& lines, std::size_t from, std::size_t to, std::int64_t* out) {
        ladder::count_lines(lines, from, to, out);
      }));
}

// Several columns of whole numbers, none missing, added up in one pass: `sums` of each, and `lines`
// per group if they are to be counted too. What belongs to one group lies together, and a block of
// lines is gone through for one column after the other while it is at hand.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_sums(Rcpp::List values, SEXP group, int groups, SEXP keep, bool count) {
  const std::size_t n = Rf_xlength(values[0]), first = count, step = first + values.size();
  // R's vectors are not to be asked for within threads.
  std::vector<std::pair<const int*, const double*>> column;
  for (SEXP one : values) {
    if (static_cast<std::size_t>(Rf_xlength(one)) != n) Rcpp::stop("columns of different lengths");
    const bool whole = TYPEOF(one) == INTSXP;
    column.emplace_back(whole ? INTEGER(one) : nullptr, whole ? nullptr : REAL(one));
  }
  constexpr std::size_t block = 256;
  const auto add = [&](const ladder::Lines& lines, std::size_t from, std::size_t to,
                       std::int64_t* out) {
    for (; from < to; from += block) {
      const std::size_t end = std::min(to, from + block);
      if (count) ladder::count_lines(lines, from, end, out, step);
      for (std::size_t c = 0; c < column.size(); ++c) {
        if (column[c].first)
          ladder::sum_full(column[c].first, lines, from, end, out + first + c, step);
        else
          ladder::sum_full(column[c].second, lines, from, end, out + first + c, step);
      }
    }
  };
  const std::vector<std::int64_t> all =
      add_up<std::int64_t>(n, lines_of(group, keep), groups, step, add);
  const auto take = [&](std::size_t c) {
    Rcpp::NumericVector out(groups);
    for (int g = 0; g < groups; ++g) out[g] = static_cast<double>(all[g * step + c]);
    return out;
  };
  Rcpp::List sums(values.size());
  for (std::size_t c = 0; c < column.size(); ++c) sums[c] = take(first + c);
  return Rcpp::List::create(Rcpp::_["sums"] = sums,
                            Rcpp::_["lines"] = count ? Rcpp::wrap(take(0)) : R_NilValue);
}

// `sum` and `n` (values that were not missing) per group. Whole numbers (integers, or doubles
// that hold them) are added in 64 bits when `whole`, all others as fixed-point numbers.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_sum(SEXP values, bool whole, SEXP group, int groups, SEXP keep) {
  const std::size_t n = Rf_xlength(values);
  const ladder::Lines lines = lines_of(group, keep);
  Rcpp::NumericVector out(groups), known(groups);
  const auto take = [&](const auto& tally, auto number) {
    for (int g = 0; g < groups; ++g) {
      out[g] = number(tally[g].sum);
      known[g] = static_cast<double>(tally[g].n);
    }
  };
  if (whole) {
    using Tally = ladder::Tally<std::int64_t>;
    over_values(values, [&](auto v) {
      const auto add = [v](const ladder::Lines& lines, std::size_t from, std::size_t to,
                           Tally* tally) { ladder::sum_whole(v, lines, from, to, tally); };
      take(add_up<Tally>(n, lines, groups, 1, add),
           [](std::int64_t sum) { return static_cast<double>(sum); });
    });
    return Rcpp::List::create(Rcpp::_["sum"] = out, Rcpp::_["n"] = known);
  }
  const double* v = REAL(values);
  const int threads = threads_for(n);
  std::vector<double> largest(threads);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    largest[t] = std::max(largest[t], ladder::largest_of(v, from, to));
  });
  const double most = *std::max_element(largest.begin(), largest.end());
  if (std::isinf(most)) {
    std::vector<std::int64_t> count(groups);
    in_chunks(n, [&](std::size_t from, std::size_t to) {
      ladder::sum_plain(v, lines, from, to, out.begin(), count.data());
    });
    return Rcpp::List::create(Rcpp::_["sum"] = out, Rcpp::_["n"] = as_numbers(count));
  }
  using Tally = ladder::Tally<ladder::wide>;
  const int shift = ladder::fixed_shift(most, static_cast<double>(n));
  const auto add = [v, shift](const ladder::Lines& lines, std::size_t from, std::size_t to,
                              Tally* tally) { ladder::sum_fixed(v, lines, from, to, shift, tally); };
  take(add_up<Tally>(n, lines, groups, 1, add),
       [shift](ladder::wide sum) { return ladder::from_fixed(sum, shift); });
  return Rcpp::List::create(Rcpp::_["sum"] = out, Rcpp::_["n"] = known);
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_distinct(Rcpp::IntegerVector codes, int levels, SEXP group, int groups,
                                    SEXP keep) {
  const std::size_t n = codes.size();
  const ladder::Lines lines = lines_of(group, keep);
  std::vector<std::int64_t> found(groups);
  const std::uint64_t pairs = static_cast<std::uint64_t>(groups) * (levels + 1ull);
  // A bit for each pair, while they take no more room than half the codes do.
  if (pairs <= 16 * static_cast<std::uint64_t>(n) + 65536) {
    const int threads = threads_for(n, pairs / 64);
    Parts<ladder::Bits> bits(threads, pairs / 64 + 1);
    in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
      ladder::distinct_bits(codes.begin(), levels, lines, from, to, bits.of(t));
    });
    const ladder::Bits* all = bits.merged().data();
    for (int g = 0; g < groups; ++g) found[g] = ladder::count_bits(all, levels, g);
    return as_numbers(found);
  }
  const Laid<int> laid(codes.begin(), n, lines, groups);
  std::vector<std::vector<int>> slots(laid.threads(), std::vector<int>(2 * ladder::kFew));
  std::vector<std::vector<int>> stamps(laid.threads());
  laid.each_group([&](int t, int g, std::size_t from, std::size_t to) {
    const int* at = laid.values.get() + from;
    if (to - from <= ladder::kFew) {
      found[g] = ladder::distinct_few(at, to - from, slots[t].data());
      return;
    }
    if (stamps[t].empty()) stamps[t].assign(static_cast<std::size_t>(levels) + 1, -1);
    found[g] = ladder::distinct_in(at, to - from, g, stamps[t]);
  });
  return as_numbers(found);
}
