// Coding: columns to small integers, decimals to scaled integers.
//
// PointerCodes    gives each distinct address a number from 1 in order of first sight; open
//                 addressing with linear probing and multiplicative hashing (Knuth, The Art of
//                 Computer Programming 3, section 6.4). The caller passes the addresses of pooled
//                 strings, so equal text means equal address. Slots are fetched ahead, a block of
//                 lines at a time, since a large table lies in slow memory.
// decimal_places  the fewest decimal places, up to `most`, at which every value is a decimal
//                 number: v is one when the nearest integer to v * 10^k, divided by 10^k, gives v
//                 back to the last bit (division is correctly rounded by IEEE 754, so this is
//                 exact, and a decimal of k places is one of more places too).
// scale_values    writes those integers.
//
// Assumes: sizes below 2^31 names. Missing: the address `na` gets 0; NaN is skipped. Cost: one pass
// each; the table holds 16 bytes in two to six slots for each name.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ladder {

const double LARGEST_WHOLE = 9007199254740992.0;  // 2^53: whole doubles are exact up to here

class PointerCodes {
 public:
  PointerCodes() : slots_(1 << 12), mask_((1 << 12) - 1) {}

  // Code of p, from 1; a new one when p was not seen before.
  int code(const void* p) {
    std::size_t at = hash(p) & mask_;
    while (slots_[at].name) {
      if (slots_[at].name == p) return slots_[at].code;
      at = (at + 1) & mask_;
    }
    seen_.push_back(p);
    slots_[at] = Slot{p, static_cast<int>(seen_.size())};
    if (seen_.size() * 3 > slots_.size() * 2) grow();
    return static_cast<int>(seen_.size());
  }
  void fetch(const void* p) const { __builtin_prefetch(&slots_[hash(p) & mask_]); }
  const std::vector<const void*>& seen() const { return seen_; }

  // Which of several tables looks after p.
  static std::size_t part(const void* p, std::size_t parts) {
    return (hash(p) >> 24) % parts;
  }
  static std::size_t hash(const void* p) {
    // The address without its zero low bits.
    const std::uint64_t x = reinterpret_cast<std::uintptr_t>(p) >> 3;
    return static_cast<std::size_t>((x * 0x9E3779B97F4A7C15ULL) >> 20);
  }

 private:
  struct Slot {
    const void* name = nullptr;
    int code = 0;
  };
  std::vector<Slot> slots_;
  std::vector<const void*> seen_;
  std::size_t mask_;

  void grow() {
    const std::size_t size = slots_.size() * (slots_.size() < (1u << 18) ? 4 : 2);
    slots_.assign(size, Slot());
    mask_ = size - 1;
    for (std::size_t i = 0; i < seen_.size(); ++i) {
      std::size_t at = hash(seen_[i]) & mask_;
      while (slots_[at].name) at = (at + 1) & mask_;
      slots_[at] = Slot{seen_[i], static_cast<int>(i + 1)};
    }
  }
};

// Codes of the names from `from` to `to` that belong to this table: those whose hash is `part`
// modulo `parts`. Others are left as they are.
inline void code_part(PointerCodes& table, const void* const* names, const void* na,
                      std::size_t from, std::size_t to, std::size_t part, std::size_t parts,
                      int* codes) {
  constexpr std::size_t block = 512;
  std::size_t mine[block];
  for (; from < to; from += block) {
    const std::size_t end = from + block < to ? from + block : to;
    std::size_t n = 0;
    for (std::size_t i = from; i < end; ++i) {
      mine[n] = i;
      n += PointerCodes::part(names[i], parts) == part && names[i] != na;
    }
    for (std::size_t k = 0; k < n; ++k) table.fetch(names[mine[k]]);
    for (std::size_t k = 0; k < n; ++k) codes[mine[k]] = table.code(names[mine[k]]);
  }
}

inline double power_of_ten(int k) {
  static const double p[] = {1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12};
  return p[k];
}

// The nearest whole number; which one at halves does not matter here.
inline double nearest_whole(double x) {
  if (std::fabs(x) >= 4503599627370496.0) return x;  // 2^52: whole already
  return static_cast<double>(static_cast<std::int64_t>(x + std::copysign(0.5, x)));
}

inline bool is_decimal(double v, int places) {
  const double scaled = nearest_whole(v * power_of_ten(places));
  return std::fabs(scaled) < LARGEST_WHOLE && scaled / power_of_ten(places) == v;
}

struct Decimals {
  bool decimal = true;
  int places = 0;
  double largest = 0;
  bool missing = false;
};

// Raises `places` as far as the values need; not decimal when one is no such number.
inline void decimal_places(const double* v, std::size_t from, std::size_t to, int most,
                           Decimals& found) {
  if (!found.decimal) return;
  for (std::size_t i = from; i < to; ++i) {
    if (std::isnan(v[i])) {
      found.missing = true;
      continue;
    }
    while (!is_decimal(v[i], found.places))
      if (++found.places > most) {
        found.decimal = false;
        return;
      }
    if (std::fabs(v[i]) > found.largest) found.largest = std::fabs(v[i]);
  }
}

template <class Out>
inline void scale_values(const double* v, std::size_t from, std::size_t to, int places,
                         Out missing, Out* out) {
  const double by = power_of_ten(places);
  for (std::size_t i = from; i < to; ++i)
    out[i] = std::isnan(v[i]) ? missing : static_cast<Out>(nearest_whole(v[i] * by));
}

}  // namespace ladder
