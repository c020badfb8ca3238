// Tables of segments: what the lines of each name of a dimension, or of each pair of names, amount
// to in two periods, and how much that wavers.
//
// Lines are laid out by group (an account) and entry, the lines of one order in one period, so that
// the sum of squares of order totals, and the products of a group's two periods, come from one pass
// with a running sum for each name. For the change of a running total s by x its square grows by
// (2 s + x) x. A dimension whose name is the same for all lines of an entry, as an order's account
// is, goes by entries, of which there are fewer.
//
// Lines of which only totals are asked are left in their own order; their orders' totals are added
// up side by side.
//
// Cost: one pass over the lines asked for and one cell of some 130 bytes for each name that can
// hold enough: a pair of names holds no more than each of its names.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <unordered_map>
#include <vector>

namespace ladder {

// Items by their keys, and where the items of each key end.
struct Sorted {
  std::vector<std::uint32_t> items, end;
};

// The items of 0 to `n` by their keys below `keys`, those of one key in their own order, each written
// as `item(i)`.
template <class Key, class Item>
Sorted counting_sort(std::size_t n, std::size_t keys, Key key, Item item) {
  Sorted out{std::vector<std::uint32_t>(n), std::vector<std::uint32_t>(keys + 1)};
  for (std::size_t i = 0; i < n; ++i) ++out.end[key(i) + 1];
  for (std::size_t k = 1; k <= keys; ++k) out.end[k] += out.end[k - 1];
  for (std::size_t i = 0; i < n; ++i) out.items[out.end[key(i)]++] = item(i);
  return out;
}

struct SegmentCode {
  bool by_entry = true;
  std::vector<std::int32_t> own;        // what is laid out anew
  const std::int32_t* name = nullptr;   // of each entry or each line
  std::size_t size = 0;
  Sorted of_name;                       // their numbers by name; empty until they are asked
};

struct SegmentLines {
  std::vector<double> amount;
  std::vector<double> weight;        // what growth goes by; empty where it is the amount
  std::vector<std::uint32_t> entry;  // of each line; the order itself where they are not laid out
  std::vector<unsigned char> now;    // of each entry: whether it is in the period now
  std::vector<std::uint32_t> group;  // of each entry
  std::vector<std::uint32_t> first;  // line of each entry, and their number
  std::vector<SegmentCode> code;
  bool laid_out = true;
  int group_dim = 0;                 // the dimension of the groups, from 1
  std::size_t orders = 0;            // how many there may be, where they are not laid out
  std::vector<std::vector<double>> held;  // what names hold, by dimension, as last asked of all
  std::vector<char> fixed;           // [i + j * dims]: whether i fixes j; empty until it is asked
  std::vector<std::vector<std::int32_t>> of_group;  // by dimension: each group's name, once asked
  std::size_t size() const { return amount.size(); }
  const std::vector<double>& weights() const { return weight.empty() ? amount : weight; }
  std::int32_t name(const SegmentCode& of, std::size_t line) const {
    return of.name[of.by_entry ? entry[line] : line];
  }
};

enum SegmentColumn { kAmount = 0, kWeight = 2, kSquares = 4, kProduct = 6, kOrders = 7, kGroups = 9,
                     kColumns = 10 };

struct SegmentCell {
  double sum[kColumns] = {};
  double entry_total = 0;
  double group_total[2] = {};
  std::uint32_t entry = ~0u;
  std::uint32_t group = ~0u;
  void close_group() { sum[kProduct] += group_total[0] * group_total[1]; }
  // A line, or all lines of an entry at once.
  void add(std::uint32_t of_entry, int now, std::uint32_t of_group, double amount, double weight) {
    sum[kAmount + now] += amount;
    sum[kWeight + now] += weight;
    if (entry == of_entry) {
      sum[kSquares + now] += (2 * entry_total + amount) * amount;
      entry_total += amount;
    } else {
      entry = of_entry;
      entry_total = amount;
      sum[kSquares + now] += amount * amount;
      sum[kOrders + now] += 1;
    }
    if (group != of_group) {
      close_group();
      group = of_group;
      group_total[0] = group_total[1] = 0;
      sum[kGroups] += 1;
    }
    group_total[now] += weight;
  }
};

// The names of lines `at`, by entry where each has one; `first` is the first line of each entry.
inline void lay_out(const int* code, const std::vector<std::uint32_t>& at,
                    const std::vector<std::uint32_t>& first, SegmentCode& out) {
  out.own.resize(first.size());
  for (std::size_t e = 0; e < first.size() && out.by_entry; ++e) {
    const std::size_t end = e + 1 < first.size() ? first[e + 1] : at.size();
    out.own[e] = code[at[first[e]]];
    for (std::size_t i = first[e]; i < end; ++i)
      if (code[at[i]] != out.own[e]) out.by_entry = false;
  }
  if (!out.by_entry) {
    out.own.resize(at.size());
    for (std::size_t i = 0; i < at.size(); ++i) out.own[i] = code[at[i]];
  }
  out.name = out.own.data();
  out.size = out.own.size();
}

// The values at `at`.
template <class Value>
void pick(const std::vector<Value>& values, const std::vector<std::uint32_t>& at,
          std::vector<Value>& out) {
  out.resize(at.size());
  for (std::size_t i = 0; i < at.size(); ++i) out[i] = values[at[i]];
}

// The names of some lines and of their entries.
inline void pick(const SegmentCode& code, const std::vector<std::uint32_t>& lines,
                 const std::vector<std::uint32_t>& entries, SegmentCode& out) {
  const std::vector<std::uint32_t>& at = code.by_entry ? entries : lines;
  out.by_entry = code.by_entry;
  out.own.resize(at.size());
  for (std::size_t i = 0; i < at.size(); ++i) out.own[i] = code.name[at[i]];
  out.name = out.own.data();
  out.size = out.own.size();
}

struct EntryTotal {
  std::uint32_t entry;
  double amount, weight;
};

// The lines asked for, `n` of them, added up within their entries; `each(f)` calls f for each.
template <class Each>
std::vector<EntryTotal> entry_totals(const SegmentLines& lines, std::size_t n, Each each) {
  const std::vector<double>& weight = lines.weights();
  std::vector<EntryTotal> out;
  out.reserve(std::min(n, lines.now.size()));
  each([&](std::size_t at) {
    if (out.empty() || out.back().entry != lines.entry[at])
      out.push_back({lines.entry[at], 0, 0});
    out.back().amount += lines.amount[at];
    out.back().weight += weight[at];
  });
  return out;
}

// Cells and the names they are of: none, one or two each.
struct SegmentTable {
  std::vector<std::int32_t> first, second;
  std::vector<SegmentCell> cells;
  std::size_t add(std::int32_t a, std::int32_t b) {
    first.push_back(a);
    second.push_back(b);
    cells.emplace_back();
    return cells.size() - 1;
  }
  void close() { for (SegmentCell& cell : cells) cell.close_group(); }
};

// The whole of lines that are laid out.
inline void whole_table(const SegmentLines& lines, const std::vector<EntryTotal>& totals,
                        SegmentTable& out) {
  SegmentCell& cell = out.cells[out.add(0, 0)];
  for (const EntryTotal& t : totals)
    cell.add(t.entry, lines.now[t.entry], lines.group[t.entry], t.amount, t.weight);
  out.close();
}

// The whole of lines in their own order: amount, squares and orders, as if all were then.
template <class Each>
void whole_beside(const SegmentLines& lines, Each each, SegmentTable& out) {
  SegmentCell& cell = out.cells[out.add(0, 0)];
  std::vector<double> total(lines.orders, NAN);
  each([&](std::size_t at) {
    double& of_order = total[lines.entry[at]];
    const double x = lines.amount[at];
    if (std::isnan(of_order)) {
      of_order = 0;
      cell.sum[kOrders] += 1;
    }
    cell.sum[kAmount] += x;
    cell.sum[kSquares] += (2 * of_order + x) * x;
    of_order += x;
  });
}

// A table of one dimension of lines in their own order. An order whose names alternate counts anew.
template <class Each>
void names_beside(const SegmentLines& lines, const SegmentCode& code, std::size_t names, Each each,
                  SegmentTable& out) {
  std::vector<SegmentCell> cells(names);
  std::vector<double> total(lines.orders);
  std::vector<std::int32_t> last(lines.orders, -1);
  each([&](std::size_t at) {
    const std::uint32_t order = lines.entry[at];
    const std::int32_t name = code.name[at];
    double* sum = cells[name].sum;
    const double x = lines.amount[at];
    if (last[order] != name) {
      last[order] = name;
      total[order] = 0;
      sum[kOrders] += 1;
    }
    sum[kAmount] += x;
    sum[kSquares] += (2 * total[order] + x) * x;
    total[order] += x;
  });
  for (std::size_t k = 0; k < names; ++k)
    if (cells[k].sum[kOrders] > 0)
      out.cells[out.add(static_cast<std::int32_t>(k), 0)] = cells[k];
}

// A table of one dimension, dense; `totals` are those of the entries, for one that goes by them.
template <class Each>
void name_table(const SegmentLines& lines, const SegmentCode& code, std::size_t names,
                const std::vector<EntryTotal>& totals, Each each, SegmentTable& out) {
  std::vector<SegmentCell> cells(names);
  if (code.by_entry) {
    for (const EntryTotal& t : totals)
      cells[code.name[t.entry]].add(t.entry, lines.now[t.entry], lines.group[t.entry], t.amount,
                                    t.weight);
  } else {
    const std::vector<double>& weight = lines.weights();
    each([&](std::size_t at) {
      const std::uint32_t entry = lines.entry[at];
      cells[code.name[at]].add(entry, lines.now[entry], lines.group[entry], lines.amount[at],
                               weight[at]);
    });
  }
  for (std::size_t k = 0; k < names; ++k)
    if (cells[k].entry != ~0u) out.cells[out.add(static_cast<std::int32_t>(k), 0)] = cells[k];
  out.close();
}

// What each name holds at most, whatever the signs.
template <class Each>
std::vector<double> most_held(const SegmentLines& lines, const SegmentCode& code, std::size_t names,
                              Each each) {
  std::vector<double> held(names);
  const bool weighed = !lines.weight.empty();
  const auto add = [&](auto name) {
    each([&](std::size_t at) {
      held[name(at)] += std::fabs(lines.amount[at]) + (weighed ? std::fabs(lines.weight[at]) : 0);
    });
  };
  if (code.by_entry) add([&](std::size_t at) { return code.name[lines.entry[at]]; });
  else add([&](std::size_t at) { return code.name[at]; });
  return held;
}

// The place of a pair of names: in a dense table where their product is small, beyond that by
// hashing.
class PairPlaces {
 public:
  PairPlaces(std::size_t many, std::size_t others, bool turned, SegmentTable& out)
      : others_(others), turned_(turned), out_(out) {
    if (many * others <= dense_most) dense_.assign(many * others, -1);
  }
  SegmentCell& cell(std::int32_t a, std::int32_t b) {
    const std::uint64_t key = static_cast<std::uint64_t>(turned_ ? b : a) * others_ + (turned_ ? a : b);
    std::int32_t* at;
    if (!dense_.empty()) at = &dense_[key];
    else at = &sparse_.emplace(key, -1).first->second;
    if (*at < 0) *at = static_cast<std::int32_t>(out_.add(a, b));
    return out_.cells[*at];
  }

 private:
  static constexpr std::size_t dense_most = 1u << 22;
  std::size_t others_;
  bool turned_;
  SegmentTable& out_;
  std::vector<std::int32_t> dense_;
  std::unordered_map<std::uint64_t, std::int32_t> sparse_;
};

// One dimension of a table of pairs; `held` what each of its names holds, or empty.
struct PairSide {
  const SegmentCode& code;
  std::size_t names;
  const std::vector<double>& held;
};

// A table of pairs of names. Those with a name that holds less than `floor` are left out. `totals` as
// above, for two dimensions that go by entries.
template <class Each>
void pair_table(const SegmentLines& lines, const PairSide& a, const PairSide& b, double floor,
                const std::vector<EntryTotal>& totals, Each each, SegmentTable& out) {
  // Lines come by group and entry: names that stay the same meanwhile make the rows.
  const bool turned = b.code.by_entry && !a.code.by_entry;
  PairPlaces places(turned ? b.names : a.names, turned ? a.names : b.names, turned, out);
  const auto enough = [floor](const PairSide& side, std::int32_t name) {
    return side.held.empty() || side.held[name] >= floor;
  };
  if (a.code.by_entry && b.code.by_entry) {
    for (const EntryTotal& t : totals) {
      const std::int32_t x = a.code.name[t.entry], y = b.code.name[t.entry];
      if (enough(a, x) && enough(b, y))
        places.cell(x, y).add(t.entry, lines.now[t.entry], lines.group[t.entry], t.amount,
                              t.weight);
    }
  } else {
    const std::vector<double>& weight = lines.weights();
    each([&](std::size_t at) {
      const std::int32_t x = lines.name(a.code, at), y = lines.name(b.code, at);
      if (!enough(a, x) || !enough(b, y)) return;
      const std::uint32_t entry = lines.entry[at];
      places.cell(x, y).add(entry, lines.now[entry], lines.group[entry], lines.amount[at],
                            weight[at]);
    });
  }
  out.close();
}

// For each name of `fine`, that of `coarse`, which it fixes.
inline std::vector<std::int32_t> link(const SegmentLines& lines, const SegmentCode& fine,
                                      const SegmentCode& coarse, std::size_t names) {
  std::vector<std::int32_t> out(names);
  if (fine.by_entry && coarse.by_entry) {
    for (std::size_t e = 0; e < fine.size; ++e) out[fine.name[e]] = coarse.name[e];
  } else {
    for (std::size_t i = 0; i < lines.size(); ++i) out[lines.name(fine, i)] = lines.name(coarse, i);
  }
  return out;
}

// A table added up to coarser names: `first` and `second` give those of each cell, for tables of
// one dimension `second` is nothing.
template <class First, class Second>
void roll_up(const SegmentTable& fine, First first, Second second, std::size_t many,
             std::size_t others, SegmentTable& out) {
  PairPlaces places(many, others, false, out);
  for (std::size_t k = 0; k < fine.cells.size(); ++k) {
    SegmentCell& cell = places.cell(first(k), second(k));
    for (int c = 0; c < kColumns; ++c) cell.sum[c] += fine.cells[k].sum[c];
  }
}

// The cells with so many orders that hold `floor`, in the order of their names.
inline std::vector<std::size_t> cells_kept(const SegmentTable& table, double floor, double orders,
                                           bool weighed) {
  std::vector<std::size_t> kept;
  for (std::size_t k = 0; k < table.cells.size(); ++k) {
    const double* sum = table.cells[k].sum;
    double held = std::fabs(sum[kAmount]) + std::fabs(sum[kAmount + 1]);
    if (weighed) held += std::fabs(sum[kWeight]) + std::fabs(sum[kWeight + 1]);
    if (held >= floor && sum[kOrders] + sum[kOrders + 1] >= orders) kept.push_back(k);
  }
  std::sort(kept.begin(), kept.end(), [&](std::size_t x, std::size_t y) {
    return table.first[x] != table.first[y] ? table.first[x] < table.first[y]
                                            : table.second[x] < table.second[y];
  });
  return kept;
}

// A condition of a segment: one of these names of a dimension.
struct SegmentNames {
  SegmentCode* code;
  std::vector<std::int32_t> names;
  bool has(std::int32_t name) const {
    return std::find(names.begin(), names.end(), name) != names.end();
  }
};

// The lines that meet all conditions, of those that `mask` leaves (null for all), in their order. Of
// lines that are laid out those of one condition's names are had from its index; the one with the
// fewest is looked at.
inline std::vector<std::uint32_t> segment_lines(const SegmentLines& lines,
                                                std::vector<SegmentNames>& names,
                                                const unsigned char* mask) {
  std::vector<std::uint32_t> out;
  if (names.empty()) return out;
  if (!lines.laid_out) {
    for (std::size_t at = 0; at < lines.size(); ++at) {
      bool in = !mask || mask[at];
      for (std::size_t c = 0; c < names.size() && in; ++c) in = names[c].has(names[c].code->name[at]);
      if (in) out.push_back(static_cast<std::uint32_t>(at));
    }
    return out;
  }
  std::size_t fewest = lines.size() + 1, best = 0;
  for (std::size_t c = 0; c < names.size(); ++c) {
    SegmentCode& code = *names[c].code;
    if (code.of_name.end.empty()) {
      const std::size_t most = code.size ? *std::max_element(code.name, code.name + code.size) : 0;
      code.of_name = counting_sort(
          code.size, most + 1, [&](std::size_t i) { return code.name[i]; },
          [](std::size_t i) { return static_cast<std::uint32_t>(i); });
    }
    std::size_t n = 0;
    for (std::int32_t name : names[c].names)
      if (static_cast<std::size_t>(name) + 1 < code.of_name.end.size())
        n += code.of_name.end[name] - (name ? code.of_name.end[name - 1] : 0);
    if (code.by_entry) n *= 2;
    if (n < fewest) { fewest = n; best = c; }
  }
  const auto meets = [&](std::uint32_t at) {
    if (mask && !mask[at]) return false;
    for (std::size_t c = 0; c < names.size(); ++c)
      if (c != best && !names[c].has(lines.name(*names[c].code, at))) return false;
    return true;
  };
  const SegmentCode& code = *names[best].code;
  for (std::int32_t name : names[best].names) {
    if (static_cast<std::size_t>(name) + 1 >= code.of_name.end.size()) continue;
    std::size_t i = name ? code.of_name.end[name - 1] : 0;
    for (; i < code.of_name.end[name]; ++i) {
      const std::uint32_t item = code.of_name.items[i];
      if (!code.by_entry) {
        if (meets(item)) out.push_back(item);
      } else {
        for (std::uint32_t at = lines.first[item]; at < lines.first[item + 1]; ++at)
          if (meets(at)) out.push_back(at);
      }
    }
  }
  if (names[best].names.size() > 1) std::sort(out.begin(), out.end());
  return out;
}

// All lines, of those that `mask` leaves, of the orders in one period that these lines are of, but
// for the lines themselves where `less`.
inline std::vector<std::uint32_t> lines_of_entries(const SegmentLines& lines,
                                                   const std::vector<std::uint32_t>& of,
                                                   const unsigned char* mask, bool less) {
  std::vector<std::uint32_t> out;
  for (std::size_t i = 0; i < of.size();) {
    const std::uint32_t entry = lines.entry[of[i]];
    for (std::uint32_t at = lines.first[entry]; at < lines.first[entry + 1]; ++at) {
      const bool own = i < of.size() && of[i] == at;
      if (own) ++i;
      if ((!mask || mask[at]) && !(less && own)) out.push_back(at);
    }
  }
  return out;
}

// Whether every name of `fine` has one name of `coarse`; stops at the first that has two.
inline bool fixes(const SegmentLines& lines, const SegmentCode& fine, const SegmentCode& coarse,
                  std::size_t levels) {
  std::vector<std::int32_t> of(levels, -1);
  const auto differs = [&](std::int32_t f, std::int32_t c) {
    if (of[f] < 0) of[f] = c;
    return of[f] != c;
  };
  if (fine.by_entry && coarse.by_entry) {
    for (std::size_t e = 0; e < fine.size; ++e)
      if (differs(fine.name[e], coarse.name[e])) return false;
    return true;
  }
  for (std::size_t i = 0; i < lines.size(); ++i)
    if (differs(lines.name(fine, i), lines.name(coarse, i))) return false;
  return true;
}

}  // namespace ladder
