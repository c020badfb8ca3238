// R's side of kernels/segments.h. The lines of two periods are laid out once and asked many times.
#include <Rcpp.h>
#include <atomic>
#include <cmath>
#include "kernels/segments.h"
#include "threads.h"

namespace {

using ladder::SegmentLines;

SegmentLines& lines_behind(SEXP pointer) { return *Rcpp::XPtr<SegmentLines>(pointer); }

// work(i) for each of a few jobs, each taken by the next thread that is free.
template <class Work>
void share_out(std::size_t jobs, std::size_t lines, Work work) {
  const int threads = std::min<std::size_t>(threads_for(lines), jobs);
  std::atomic<std::size_t> next(0);
  at_once(threads, [&](int) { for (std::size_t i; (i = next++) < jobs;) work(i); });
}

// Some lines, in their order, with the dimensions that tables `of` them ask for.
SegmentLines lines_at(const SegmentLines& lines, const std::vector<std::uint32_t>& rows,
                      const std::vector<std::vector<int>>& of) {
  SegmentLines out;
  out.code.resize(lines.code.size());
  std::vector<char> asked(lines.code.size());
  for (const std::vector<int>& dims : of)
    for (int d : dims) asked[d - 1] = 1;
  // Names of others may be added up from those of groups.
  if (lines.group_dim) asked[lines.group_dim - 1] = 1;
  std::vector<std::uint32_t> entries;
  out.entry.reserve(rows.size());
  for (std::uint32_t at : rows) {
    if (entries.empty() || entries.back() != lines.entry[at]) entries.push_back(lines.entry[at]);
    out.entry.push_back(static_cast<std::uint32_t>(entries.size() - 1));
  }
  share_out(asked.size() + 4, rows.size(), [&](std::size_t job) {
    if (job == 0) ladder::pick(lines.amount, rows, out.amount);
    else if (job == 1) { if (!lines.weight.empty()) ladder::pick(lines.weight, rows, out.weight); }
    else if (job == 2) ladder::pick(lines.now, entries, out.now);
    else if (job == 3) ladder::pick(lines.group, entries, out.group);
    else if (asked[job - 4])
      ladder::pick(lines.code[job - 4], rows, entries, out.code[job - 4]);
  });
  return out;
}

// Tables are added up from those of groups where these tell orders apart: of accounts, what their
// territories and types come to; of accounts by family, theirs by family.
struct TablePlan {
  std::vector<int> dims;           // of the table that is made from lines, from 1
  bool complete = false;           // whether others are added up from it
  ladder::SegmentTable table;
};

class TablePlans {
 public:
  TablePlans(const SegmentLines& lines, const std::vector<int>& size, std::size_t n)
      : lines_(lines), size_(size), most_(std::max<std::size_t>(n / 4, 65536)) {}
  // The plan that a table of `dims` is made from; `from` gets the finer dimension of each.
  std::size_t plan(const std::vector<int>& dims, std::vector<int>& from) {
    from = dims;
    if (dims.size() == 1) from[0] = finer(dims[0]);
    if (dims.size() == 2) {
      const int g = finer(dims[0]), h = finer(dims[1]);
      if (g == h) from = {g, g};
      else if (g != dims[0] && fits(g, dims[1])) from[0] = g;
      else if (h != dims[1] && fits(dims[0], h)) from[1] = h;
    }
    std::vector<int> own = from;
    if (own.size() == 2 && own[0] == own[1]) own.pop_back();
    std::size_t k = 0;
    while (k < plans.size() && plans[k].dims != own) ++k;
    if (k == plans.size()) plans.push_back({own});
    if (from != dims) plans[k].complete = true;
    return k;
  }
  std::vector<TablePlan> plans;

 private:
  // The groups' dimension where it fixes this one and stays the same within orders.
  int finer(int d) const {
    const int g = lines_.group_dim;
    if (!g || lines_.fixed.empty() || !lines_.code[g - 1].by_entry) return d;
    return lines_.fixed[g - 1 + (d - 1) * lines_.code.size()] ? g : d;
  }
  bool fits(int a, int b) const {
    return static_cast<std::size_t>(size_[a - 1] + 1) * (size_[b - 1] + 1) <= most_;
  }
  const SegmentLines& lines_;
  const std::vector<int>& size_;
  std::size_t most_;
};

}  // namespace

// codes: for each dimension the code of every line; period: 1 then, 2 now, else out; order: codes or
// NULL; group: by which dimension (from 1, 0 for none) lines are laid out. Lines `beside` each other
// are left in their own order, those of no period among them, for totals alone.
// [[Rcpp::export(rng = false)]]
SEXP kernel_segments(Rcpp::List codes, Rcpp::IntegerVector period, Rcpp::NumericVector amount,
                     SEXP weight, SEXP order, int group, bool beside) {
  const std::size_t n = period.size(), dims = codes.size();
  const int* in = period.begin();
  const int* of_order = Rf_isNull(order) ? nullptr : INTEGER(order);
  const int* of_group = group ? INTEGER(codes[group - 1]) : nullptr;
  const double* of_weight = Rf_isNull(weight) ? nullptr : REAL(weight);
  const double* of_amount = amount.begin();
  const auto known = [=](std::size_t i) { return std::isnan(of_amount[i]) ? 0 : of_amount[i]; };
  auto* lines = new SegmentLines;
  // The codes of lines that stay where they are are R's.
  Rcpp::XPtr<SegmentLines> out(lines, true, R_NilValue, codes);
  lines->laid_out = !beside;
  lines->group_dim = group;
  lines->code.resize(dims);
  std::vector<const int*> from(dims);
  for (std::size_t d = 0; d < dims; ++d) from[d] = INTEGER(codes[d]);
  if (beside) {
    lines->amount.resize(n);
    lines->entry.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
      lines->amount[i] = known(i);
      lines->entry[i] = static_cast<std::uint32_t>(of_order ? of_order[i] : i);
      lines->orders = std::max<std::size_t>(lines->orders, lines->entry[i] + 1);
    }
    for (std::size_t d = 0; d < dims; ++d) {
      lines->code[d].by_entry = false;
      lines->code[d].name = from[d];
      lines->code[d].size = n;
    }
    return out;
  }
  std::vector<std::uint32_t> kept;
  kept.reserve(n);
  for (std::size_t i = 0; i < n; ++i)
    if (in[i] > 0) kept.push_back(static_cast<std::uint32_t>(i));
  std::size_t orders = 0, groups = 0;
  for (std::uint32_t i : kept) {
    if (of_order) orders = std::max<std::size_t>(orders, of_order[i] + 1);
    if (of_group) groups = std::max<std::size_t>(groups, of_group[i] + 1);
  }
  if (!of_order) orders = kept.size();
  const auto order_at = [&](std::size_t k) { return of_order ? of_order[kept[k]] : k; };
  // Orders by the first name of their groups, lines by their orders and periods.
  std::vector<std::uint32_t> group_of(orders, ~0u), rank(orders);
  if (of_group) for (std::size_t k = 0; k < kept.size(); ++k) {
    std::uint32_t& of = group_of[order_at(k)];
    of = std::min<std::uint32_t>(of, of_group[kept[k]]);
  }
  const auto sorted = ladder::counting_sort(
      orders, groups + 1,
      [&](std::size_t o) { return group_of[o] == ~0u ? groups : group_of[o]; },
      [](std::size_t o) { return static_cast<std::uint32_t>(o); });
  for (std::size_t r = 0; r < orders; ++r) rank[sorted.items[r]] = static_cast<std::uint32_t>(r);
  const auto laid = ladder::counting_sort(
      kept.size(), 2 * orders, [&](std::size_t k) {
        return 2 * static_cast<std::size_t>(rank[order_at(k)]) + (in[kept[k]] == 2);
      },
      [&](std::size_t k) { return kept[k]; });
  const std::vector<std::uint32_t>& at = laid.items;
  std::vector<std::uint32_t>& first = lines->first;
  lines->entry.resize(at.size());
  for (std::size_t key = 0, i = 0; key < 2 * orders; ++key) {
    if (i == laid.end[key]) continue;
    const std::uint32_t order = sorted.items[key / 2];
    lines->now.push_back(key & 1);
    lines->group.push_back(of_group ? group_of[order] : order);
    first.push_back(static_cast<std::uint32_t>(i));
    for (; i < laid.end[key]; ++i) lines->entry[i] = static_cast<std::uint32_t>(first.size() - 1);
  }
  Rcpp::checkUserInterrupt();
  const std::size_t size = at.size();
  share_out(dims + 1, size, [&](std::size_t job) {
    if (job) return ladder::lay_out(from[job - 1], at, first, lines->code[job - 1]);
    lines->amount.resize(size);
    for (std::size_t i = 0; i < size; ++i) lines->amount[i] = known(at[i]);
    if (of_weight) lines->weight.resize(size);
    if (of_weight) for (std::size_t i = 0; i < size; ++i) lines->weight[i] = of_weight[at[i]];
  });
  first.push_back(static_cast<std::uint32_t>(size));
  return out;
}

// How many orders have more than one name of each dimension, no name counting as one; last, how many
// orders there are.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_orders_split(Rcpp::List codes, Rcpp::IntegerVector order, int orders) {
  const std::size_t n = order.size(), dims = codes.size();
  Rcpp::NumericVector out(dims + 1);
  const int* of = order.begin();
  std::vector<const int*> from;
  for (std::size_t d = 0; d < dims; ++d) from.push_back(INTEGER(codes[d]));
  std::vector<double> counted(dims + 1);
  share_out(dims + 1, n, [&](std::size_t d) {
    std::vector<std::int32_t> name(orders + 1, -1);
    if (d == dims) {
      for (std::size_t i = 0; i < n; ++i) name[of[i]] = -2;
    } else {
      for (std::size_t i = 0; i < n; ++i) {
        std::int32_t& x = name[of[i]];
        if (x == -1) x = from[d][i];
        else if (x >= 0 && x != from[d][i]) x = -2;
      }
    }
    for (std::int32_t x : name) counted[d] += x == -2;
  });
  std::copy(counted.begin(), counted.end(), out.begin());
  return out;
}

// The conditions of a segment: names of each of `dims` (from 1).
static std::vector<ladder::SegmentNames> names_of(SegmentLines& lines, Rcpp::IntegerVector dims,
                                                  Rcpp::List codes) {
  std::vector<ladder::SegmentNames> out;
  for (R_xlen_t c = 0; c < dims.size(); ++c)
    out.push_back({&lines.code[dims[c] - 1], Rcpp::as<std::vector<std::int32_t>>(codes[c])});
  return out;
}

// Tables, one for each of `of`: none, one or two dimensions (from 1). Each a matrix of the names that
// have lines, in their order: their codes, then amounts then and now, weights, squares of orders,
// product of groups' periods, orders then and now, groups. Only names with so many orders that hold
// `floor`, then and now together. Over the lines of a segment (of `dims`, without them over all)
// that `mask` leaves (NULL for all); with `orders_of` "whole" over all lines of orders that have one
// of the segment's, with "less" over those of them that are not the segment's: these with all names
// whose pairs had enough when they were last asked of all lines.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_segment_tables(SEXP pointer, SEXP mask, Rcpp::IntegerVector dims,
                                 Rcpp::List codes, std::string orders_of, Rcpp::List of,
                                 Rcpp::IntegerVector levels, double floor, double orders) {
  SegmentLines& lines = lines_behind(pointer);
  const unsigned char* left = Rf_isNull(mask) ? nullptr : RAW(mask);
  const std::size_t many = of.size();
  std::vector<std::vector<int>> wanted(many);
  for (std::size_t j = 0; j < many; ++j) wanted[j] = Rcpp::as<std::vector<int>>(of[j]);
  const std::vector<int> size(levels.begin(), levels.end());
  std::vector<ladder::SegmentTable> tables(many);
  std::vector<std::vector<std::size_t>> kept(many);
  const bool own = orders_of == "own";
  const auto over = [&](const SegmentLines& here, std::size_t n, auto each) {
    TablePlans planned(lines, size, n);
    std::vector<std::size_t> plan(many);
    std::vector<std::vector<int>> from(many);
    for (std::size_t j = 0; j < many; ++j) plan[j] = planned.plan(wanted[j], from[j]);
    std::vector<TablePlan>& plans = planned.plans;
    // What names hold, where their pairs are asked for and some may hold too little.
    std::vector<std::vector<double>> held(lines.code.size());
    if (!own && lines.held.size() == held.size()) held.swap(lines.held);
    std::vector<char> paired(lines.code.size());
    bool by_entry = false;
    for (const TablePlan& one : plans) {
      bool all = lines.laid_out;
      for (int d : one.dims) all = all && lines.code[d - 1].by_entry;
      by_entry = by_entry || all;
      if (own && floor > 0 && one.dims.size() == 2 && !one.complete)
        for (int d : one.dims) paired[d - 1] = 1;
    }
    std::vector<ladder::EntryTotal> totals;
    share_out(held.size() + 1, n, [&](std::size_t d) {
      if (d == 0) {
        if (by_entry) totals = ladder::entry_totals(here, n, each);
      } else if (paired[d - 1]) {
        held[d - 1] = ladder::most_held(here, here.code[d - 1], size[d - 1] + 1, each);
      }
    });
    share_out(plans.size(), n, [&](std::size_t k) {
      const std::vector<int>& one = plans[k].dims;
      ladder::SegmentTable& table = plans[k].table;
      if (one.empty()) {
        if (lines.laid_out) ladder::whole_table(here, totals, table);
        else ladder::whole_beside(here, each, table);
      } else if (!lines.laid_out) {
        ladder::names_beside(here, here.code[one[0] - 1], size[one[0] - 1] + 1, each, table);
      } else if (one.size() == 1) {
        ladder::name_table(here, here.code[one[0] - 1], size[one[0] - 1] + 1, totals, each, table);
      } else {
        const std::vector<double> all;
        const auto side = [&](int d) {
          return ladder::PairSide{here.code[d - 1], static_cast<std::size_t>(size[d - 1] + 1),
                                  plans[k].complete ? all : held[d - 1]};
        };
        ladder::pair_table(here, side(one[0]), side(one[1]), floor, totals, each, table);
      }
    });
    // Each group's names are looked up once for all tables.
    lines.of_group.resize(lines.code.size());
    for (std::size_t j = 0; j < many; ++j)
      for (std::size_t k = 0; k < wanted[j].size(); ++k) {
        const int fine = from[j][k], coarse = wanted[j][k];
        if (fine != coarse && lines.of_group[coarse - 1].empty())
          lines.of_group[coarse - 1] = ladder::link(lines, lines.code[fine - 1],
                                                    lines.code[coarse - 1], size[fine - 1] + 1);
      }
    share_out(many, n, [&](std::size_t j) {
      const std::vector<int>& one = wanted[j];
      const ladder::SegmentTable& table = plans[plan[j]].table;
      const bool made = from[j] == one, all = one.empty() || !own;
      if (!made) {
        // The names of cells, those of groups perhaps made coarser.
        const auto name = [&](std::size_t k, std::int32_t fine) {
          return from[j][k] == one[k] ? fine : lines.of_group[one[k] - 1][fine];
        };
        const bool single = plans[plan[j]].dims.size() == 1;
        ladder::roll_up(
            table, [&](std::size_t i) { return name(0, table.first[i]); },
            [&](std::size_t i) {
              return one.size() < 2 ? 0 : name(1, single ? table.first[i] : table.second[i]);
            },
            size[one[0] - 1] + 1, one.size() < 2 ? 1 : size[one[1] - 1] + 1, tables[j]);
      }
      const ladder::SegmentTable& mine = made ? table : tables[j];
      kept[j] = ladder::cells_kept(mine, all ? 0 : floor, all ? 0 : orders, !lines.weight.empty());
      // What is left out is let go.
      ladder::SegmentTable few;
      for (std::size_t k : kept[j])
        few.cells[few.add(mine.first[k], mine.second[k])] = mine.cells[k];
      std::swap(few, tables[j]);
    });
    if (!own || !dims.size()) held.swap(lines.held);  // for the next time
  };
  const std::size_t n = lines.size();
  if (dims.size()) {
    std::vector<ladder::SegmentNames> names = names_of(lines, dims, codes);
    std::vector<std::uint32_t> rows = ladder::segment_lines(lines, names, left);
    if (!own) rows = ladder::lines_of_entries(lines, rows, left, orders_of == "less");
    if (lines.laid_out && many > 1) {
      // Scattered lines are looked up once, not for each table.
      const SegmentLines few = lines_at(lines, rows, wanted);
      over(few, rows.size(), [&](auto f) { for (std::size_t i = 0; i < rows.size(); ++i) f(i); });
    } else {
      over(lines, rows.size(), [&](auto f) { for (std::uint32_t at : rows) f(at); });
    }
  } else if (left) {
    over(lines, n, [=](auto f) { for (std::size_t i = 0; i < n; ++i) if (left[i]) f(i); });
  } else {
    over(lines, n, [=](auto f) { for (std::size_t i = 0; i < n; ++i) f(i); });
  }
  Rcpp::checkUserInterrupt();
  Rcpp::List out(many);
  for (std::size_t j = 0; j < many; ++j) {
    const int keys = wanted[j].size();
    Rcpp::NumericMatrix table(tables[j].cells.size(), ladder::kColumns + keys);
    for (std::size_t k = 0; k < tables[j].cells.size(); ++k) {
      if (keys) table(k, 0) = tables[j].first[k];
      if (keys > 1) table(k, 1) = tables[j].second[k];
      for (int c = 0; c < ladder::kColumns; ++c) table(k, c + keys) = tables[j].cells[k].sum[c];
    }
    out[j] = table;
    tables[j] = ladder::SegmentTable();
  }
  return out;
}

// About how many bytes lines take that are laid out, or beside each other; 0 where a saved book has
// lost them.
// [[Rcpp::export(rng = false)]]
double kernel_segment_bytes(SEXP pointer) {
  if (!R_ExternalPtrAddr(pointer)) return 0;
  const SegmentLines& lines = lines_behind(pointer);
  double out = 8.0 * (lines.amount.size() + lines.weight.size()) + 4.0 * lines.entry.size() +
               9.0 * lines.now.size();
  // The names are held, and later on an index of them.
  for (const ladder::SegmentCode& code : lines.code) out += (lines.laid_out ? 8.0 : 4.0) * code.size;
  return out;
}

// What `mask` leaves (NULL for all) without the lines of a segment, as a mask: a byte for each line.
// [[Rcpp::export(rng = false)]]
Rcpp::RawVector kernel_segment_lacking(SEXP pointer, SEXP mask, Rcpp::IntegerVector dims,
                                       Rcpp::List codes) {
  SegmentLines& lines = lines_behind(pointer);
  const unsigned char* left = Rf_isNull(mask) ? nullptr : RAW(mask);
  Rcpp::RawVector out(lines.size());
  if (left) std::copy(left, left + lines.size(), out.begin());
  else std::fill(out.begin(), out.end(), 1);
  std::vector<ladder::SegmentNames> names = names_of(lines, dims, codes);
  for (std::uint32_t at : ladder::segment_lines(lines, names, left)) out[at] = 0;
  return out;
}

// Which dimensions fix which: [i, j] where every name of i has one name of j.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalMatrix kernel_segment_fixes(SEXP pointer, Rcpp::IntegerVector levels) {
  SegmentLines& lines = lines_behind(pointer);
  const int dims = lines.code.size();
  std::vector<char> found(dims * dims);
  const std::vector<int> size(levels.begin(), levels.end());
  share_out(dims * dims, lines.size(), [&](std::size_t k) {
    const int i = k % dims, j = k / dims;
    found[k] = i != j && ladder::fixes(lines, lines.code[i], lines.code[j], size[i] + 1);
  });
  Rcpp::LogicalMatrix out(dims, dims);
  std::copy(found.begin(), found.end(), out.begin());
  lines.fixed = found;
  return out;
}

// The name of the coarser dimension that each name of a finer one has (0 where it has no lines).
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_segment_links(SEXP pointer, int fine, int coarse, int levels) {
  const SegmentLines& lines = lines_behind(pointer);
  Rcpp::IntegerVector out(levels + 1);
  for (std::size_t i = 0; i < lines.size(); ++i)
    out[lines.name(lines.code[fine - 1], i)] = lines.name(lines.code[coarse - 1], i);
  return out;
}
