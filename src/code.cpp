// R's side of kernels/code.h and kernels/names.h.
#include <Rcpp.h>
#include <algorithm>
#include <cstdint>
#include <cstring>
#include <limits>
#include <string>
#include "fold.h"
#include "kernels/code.h"
#include "kernels/names.h"

namespace {

// R's string at an address of the tables.
SEXP string_at(const void* name) { return static_cast<SEXP>(const_cast<void*>(name)); }
const char* text_of(const void* name) { return CHAR(string_at(name)); }
std::size_t length_of(const void* name) { return LENGTH(string_at(name)); }

// out[i] = make(i) for each of n lines.
template <class Make>
void fill_lines(int* out, std::size_t n, Make make) {
  in_threads(n, threads_for(n), [&](int, std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) out[i] = make(i);
  });
}

// work(name, i) for each of many names, which lie anywhere in memory and are fetched ahead.
template <class Work>
void each_name(const void* const* names, std::size_t n, Work work) {
  constexpr std::size_t ahead = 24;
  for (std::size_t i = 0; i < n; ++i) {
    if (i + ahead < n) {
      __builtin_prefetch(names[i + ahead]);
      __builtin_prefetch(static_cast<const char*>(names[i + ahead]) + 64);
    }
    work(names[i], i);
  }
}

// Names sorted by their bytes, numbered as they came; blank and missing ones are left out.
struct SortedNames {
  std::vector<ladder::Name> names;
  bool plain = true;  // bytes of ASCII only

  SortedNames(const void* const* given, std::size_t n, const int* used) {
    std::vector<ladder::Name> some;
    for (std::size_t i = 0; i < n; i += n / 512 + 1)
      if (given[i] != NA_STRING)
        some.push_back({text_of(given[i]), static_cast<std::uint32_t>(length_of(given[i])), 0, 0});
    std::size_t depth = ladder::common_start(some);
    const std::string start(some.empty() ? "" : some[0].text, depth);
    bool common = true;
    names.reserve(n);
    each_name(given, n, [&](const void* name, std::size_t i) {
      if (name == NA_STRING || (used && used[i] != 1)) return;
      const char* text = text_of(name);
      const std::size_t length = length_of(name);
      if (ladder::blank_name(text, length)) return;
      plain = plain && ladder::plain_bytes(text, length);
      common = common && length >= depth && std::memcmp(text, start.data(), depth) == 0;
      names.push_back({text, static_cast<std::uint32_t>(length), static_cast<std::int32_t>(i),
                       ladder::word_at(text, length, depth)});
    });
    if (!common) {
      depth = 0;
      for (ladder::Name& name : names) name.word = ladder::word_at(name.text, name.length, 0);
    }
    sort(depth);
  }

  // Two threads, where there are many names: those before the middle one, and the others.
  void sort(std::size_t depth) {
    ladder::Name *from = names.data(), *to = from + names.size();
    if (threads_for(names.size()) == 1 || std::is_sorted(from, to, ladder::word_before))
      return ladder::sort_names(from, to, depth);
    ladder::Name* middle = from + names.size() / 2;
    std::nth_element(from, middle, to, ladder::word_before);
    const std::uint64_t word = middle->word;
    middle = std::partition(from, to, [&](const ladder::Name& a) { return a.word < word; });
    at_once(2, [&](int t) {
      if (t == 0)
        ladder::sort_names(from, middle, depth);
      else
        ladder::sort_names(middle, to, depth);
    });
  }

  // Each name once, and in `place` the place of every name as it came, 0 for those left out.
  Rcpp::CharacterVector levels(const void* const* given, int* place) const {
    std::vector<const void*> first;
    for (std::size_t k = 0; k < names.size(); ++k) {
      if (k == 0 || !ladder::same_name(names[k - 1], names[k]))
        first.push_back(given[names[k].number]);
      place[names[k].number] = static_cast<int>(first.size());
    }
    Rcpp::CharacterVector out(first.size());
    each_name(first.data(), first.size(), [&](const void* name, std::size_t k) {
      SET_STRING_ELT(out, k, string_at(name));
    });
    return out;
  }
};

}  // namespace

// The distinct texts of a column by their addresses, and of each line which of them it has: code(i)
// from 1, 0 where it is missing. Each thread looks after the names of one part of the hashes.
class TextNumbers {
 public:
  TextNumbers(const void* const* names, std::size_t n, int* code)
      : names_(names), code_(code), threads_(threads_for(n)) {
    std::vector<ladder::PointerCodes> tables(threads_);
    const auto look_up = [&](std::size_t from, std::size_t to) {
      at_once(threads_, [&](int t) {
        // Each starts elsewhere, so that two do not write side by side.
        const std::size_t middle = from + (to - from) / threads_ * t;
        ladder::code_part(tables[t], names, NA_STRING, middle, to, t, threads_, code);
        ladder::code_part(tables[t], names, NA_STRING, from, middle, t, threads_, code);
      });
    };
    in_chunks(n, look_up, kThreadChunk);
    for (const ladder::PointerCodes& table : tables) {
      before_.push_back(static_cast<int>(seen.size()));
      seen.insert(seen.end(), table.seen().begin(), table.seen().end());
    }
  }
  int code(std::size_t i) const {
    return code_[i] ? code_[i] + before_[ladder::PointerCodes::part(names_[i], threads_)] : 0;
  }
  Rcpp::CharacterVector texts() const {
    Rcpp::CharacterVector out(seen.size());
    for (std::size_t k = 0; k < seen.size(); ++k) SET_STRING_ELT(out, k, string_at(seen[k]));
    return out;
  }
  std::vector<const void*> seen;

 private:
  const void* const* names_;
  const int* code_;
  int threads_;
  std::vector<int> before_;
};

// Codes of a text column: `codes` from 1 in the order of the `levels`, 0 where it is missing or
// blank. Where names hold more than ASCII nothing is sorted yet: the names as they came, with codes
// from 1, since texts of several encodings may be one name.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_code_text(SEXP text) {
  const std::size_t n = Rf_xlength(text);
  Rcpp::IntegerVector codes(n);
  int* const code = codes.begin();
  const TextNumbers numbers(reinterpret_cast<const void* const*>(STRING_PTR_RO(text)), n, code);
  const std::vector<const void*>& seen = numbers.seen;
  const SortedNames sorted(seen.data(), seen.size(), nullptr);
  std::vector<int> place(seen.size());
  Rcpp::CharacterVector levels;
  if (sorted.plain) {
    levels = sorted.levels(seen.data(), place.data());
  } else {
    levels = numbers.texts();
    for (std::size_t k = 0; k < seen.size(); ++k) place[k] = static_cast<int>(k + 1);
  }
  fill_lines(code, n, [&](std::size_t i) {
    const int at = numbers.code(i);
    return at ? place[at - 1] : 0;
  });
  return Rcpp::List::create(Rcpp::_["codes"] = codes, Rcpp::_["levels"] = levels,
                            Rcpp::_["plain"] = sorted.plain);
}

// A text column as it stands: its distinct texts, and which of them each line has, missing where it
// has none.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_number_text(SEXP text) {
  const std::size_t n = Rf_xlength(text);
  Rcpp::IntegerVector codes(n);
  int* const code = codes.begin();
  const TextNumbers numbers(reinterpret_cast<const void* const*>(STRING_PTR_RO(text)), n, code);
  fill_lines(code, n, [&](std::size_t i) {
    const int at = numbers.code(i);
    return at ? at : NA_INTEGER;
  });
  return Rcpp::List::create(Rcpp::_["codes"] = codes, Rcpp::_["levels"] = numbers.texts());
}

// Names (UTF-8) in the order of their bytes: `levels`, each once and none blank, and `to`, the place
// of each name among them, 0 for those that are blank, missing or not `used` (NULL for all).
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_order_names(Rcpp::CharacterVector names, SEXP used) {
  const void* const* given = reinterpret_cast<const void* const*>(STRING_PTR_RO(names));
  const SortedNames sorted(given, names.size(), Rf_isNull(used) ? nullptr : LOGICAL(used));
  Rcpp::IntegerVector to(names.size());
  const Rcpp::CharacterVector levels = sorted.levels(given, to.begin());
  return Rcpp::List::create(Rcpp::_["levels"] = levels, Rcpp::_["to"] = to);
}

// New codes for old: codes[i] becomes to[codes[i]], 0 stays 0.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_recode(Rcpp::IntegerVector codes, Rcpp::IntegerVector to) {
  const std::size_t n = codes.size();
  Rcpp::IntegerVector out(Rcpp::no_init(n));
  const int* code = codes.begin();
  const int* table = to.begin();
  fill_lines(out.begin(), n, [&](std::size_t i) { return code[i] == 0 ? 0 : table[code[i] - 1]; });
  return out;
}

// Which of the days first, first + 1, ... (so many of them) occur.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_seen(Rcpp::IntegerVector days, int first, double span) {
  const std::size_t n = days.size();
  const int* d = days.begin();
  Rcpp::LogicalVector seen(static_cast<R_xlen_t>(span));
  int* s = seen.begin();
  in_chunks(n, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i)
      if (d[i] != NA_INTEGER) s[d[i] - first] = 1;
  });
  return seen;
}

// Of the values to keep (all for NULL): how many are known and missing, and the ends of those known.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_ends(Rcpp::IntegerVector values, SEXP keep) {
  struct Ends {
    std::size_t known = 0, missing = 0;
    int least = std::numeric_limits<int>::max(), most = std::numeric_limits<int>::min();
  };
  const std::size_t n = values.size();
  const int* v = values.begin();
  const int* pick = Rf_isNull(keep) ? nullptr : LOGICAL(keep);
  const int threads = threads_for(n);
  std::vector<Ends> of(threads);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    Ends own = of[t];
    for (std::size_t i = from; i < to; ++i) {
      const bool in = !pick || pick[i] == 1, known = v[i] != NA_INTEGER;
      own.known += in & known;
      own.missing += in & !known;
      if (in && known) {
        own.least = std::min(own.least, v[i]);
        own.most = std::max(own.most, v[i]);
      }
    }
    of[t] = own;
  });
  Ends all;
  for (const Ends& one : of) {
    all.known += one.known;
    all.missing += one.missing;
    all.least = std::min(all.least, one.least);
    all.most = std::max(all.most, one.most);
  }
  return Rcpp::NumericVector::create(Rcpp::_["known"] = static_cast<double>(all.known),
                                     Rcpp::_["missing"] = static_cast<double>(all.missing),
                                     Rcpp::_["least"] = all.least, Rcpp::_["most"] = all.most);
}

// How often each of `span` whole numbers from `first` on stands among the values to keep.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_tally(Rcpp::IntegerVector values, SEXP keep, int first, double span) {
  const std::size_t n = values.size(), numbers = static_cast<std::size_t>(span);
  const int* v = values.begin();
  const int* pick = Rf_isNull(keep) ? nullptr : LOGICAL(keep);
  const int threads = threads_for(n, numbers);
  Parts<std::int64_t> parts(threads, numbers);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    std::int64_t* out = parts.of(t);
    for (std::size_t i = from; i < to; ++i)
      if ((!pick || pick[i] == 1) && v[i] != NA_INTEGER)
        ++out[static_cast<std::int64_t>(v[i]) - first];
  });
  return as_numbers(parts.merged());
}

// to[day - first] for each day; 0 where it is missing.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_recode_from(Rcpp::IntegerVector days, int first,
                                       Rcpp::IntegerVector to) {
  const std::size_t n = days.size();
  const int* d = days.begin();
  const int* t = to.begin();
  Rcpp::IntegerVector out(Rcpp::no_init(n));
  fill_lines(out.begin(), n, [&](std::size_t i) { return d[i] == NA_INTEGER ? 0 : t[d[i] - first]; });
  return out;
}

// Decimals as whole numbers: `decimals` (-1 when they are none), `largest` magnitude scaled, `full`
// when no value is missing, `values` as integers where they fit, else as doubles that hold whole
// numbers.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_scale(Rcpp::NumericVector values, int most) {
  const std::size_t n = values.size();
  const double* v = values.begin();
  const int threads = threads_for(n);
  std::vector<ladder::Decimals> parts(threads);
  in_threads(n, threads, [&](int t, std::size_t from, std::size_t to) {
    ladder::decimal_places(v, from, to, most, parts[t]);
  });
  ladder::Decimals all;
  for (const ladder::Decimals& part : parts) {
    all.decimal = all.decimal && part.decimal;
    all.places = std::max(all.places, part.places);
    all.largest = std::max(all.largest, part.largest);
    all.missing = all.missing || part.missing;
  }
  const auto answer = [&](int places, double largest, SEXP made) {
    return Rcpp::List::create(Rcpp::_["decimals"] = places, Rcpp::_["largest"] = largest,
                              Rcpp::_["values"] = made, Rcpp::_["full"] = !all.missing);
  };
  const double scaled =
      all.decimal ? ladder::nearest_whole(all.largest * ladder::power_of_ten(all.places)) : 0;
  if (!all.decimal || scaled >= ladder::LARGEST_WHOLE) {
    all.missing = true;
    return answer(-1, all.largest, values);
  }
  const auto scale = [&](auto missing, auto* out) {
    in_threads(n, threads, [&](int, std::size_t from, std::size_t to) {
      ladder::scale_values(v, from, to, all.places, missing, out);
    });
  };
  if (scaled < 2147483647.0) {
    Rcpp::IntegerVector whole(Rcpp::no_init(n));
    scale(NA_INTEGER, whole.begin());
    return answer(all.places, scaled, whole);
  }
  Rcpp::NumericVector whole(Rcpp::no_init(n));
  scale(NA_REAL, whole.begin());
  return answer(all.places, scaled, whole);
}

// 64-bit whole numbers, which R keeps in the bits of doubles, as doubles; as text where one is too
// large for a double to hold exactly.
// [[Rcpp::export(rng = false)]]
SEXP kernel_integer64(Rcpp::NumericVector bits) {
  const std::size_t n = bits.size();
  constexpr std::int64_t none = std::numeric_limits<std::int64_t>::min();
  std::vector<std::int64_t> whole(n);
  if (n) std::memcpy(whole.data(), bits.begin(), n * sizeof(std::int64_t));
  const bool exact = std::all_of(whole.begin(), whole.end(), [](std::int64_t v) {
    return v == none || (v < 9007199254740992 && v > -9007199254740992);
  });
  if (exact) {
    Rcpp::NumericVector out(Rcpp::no_init(n));
    for (std::size_t i = 0; i < n; ++i)
      out[i] = whole[i] == none ? NA_REAL : static_cast<double>(whole[i]);
    return out;
  }
  Rcpp::CharacterVector out(n);
  for (std::size_t i = 0; i < n; ++i) {
    if (whole[i] == none)
      out[i] = NA_STRING;
    else
      out[i] = std::to_string(whole[i]);
  }
  return out;
}

// Where a text stands among sorted ones (by bytes): the first and last place, from 1; the first is
// beyond the last where it stands nowhere. With `start`, those that begin with it.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_find_text(SEXP sorted, std::string text, bool start = false) {
  const auto compare = [&](R_xlen_t i) {
    const char* const other = CHAR(STRING_ELT(sorted, i));
    return start ? std::strncmp(other, text.c_str(), text.size()) : std::strcmp(other, text.c_str());
  };
  const auto first_not = [&](bool below) {
    R_xlen_t low = 0, high = Rf_xlength(sorted);
    while (low < high) {
      const R_xlen_t middle = low + (high - low) / 2;
      const int order = compare(middle);
      if (below ? order < 0 : order <= 0) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  return Rcpp::IntegerVector::create(static_cast<int>(first_not(true)) + 1,
                                     static_cast<int>(first_not(false)));
}

// Names of plain letters as they are looked up: small letters, without 's and apostrophes, everything
// else but letters and digits a single blank. Missing for names with other letters, and for missing.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector kernel_plain_words(Rcpp::CharacterVector names) {
  const R_xlen_t n = names.size();
  Rcpp::CharacterVector out(n);
  std::string word;
  const auto is_word = [](unsigned char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
  };
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP name = STRING_ELT(names, i);
    const char* at = CHAR(name);
    bool plain = name != NA_STRING;
    for (const char* c = at; plain && *c; ++c) plain = static_cast<unsigned char>(*c) < 128;
    if (!plain) {
      SET_STRING_ELT(out, i, NA_STRING);
      continue;
    }
    word.clear();
    for (; *at; ++at) {
      const unsigned char c = static_cast<unsigned char>(*at);
      if (c == '\'') {
        const bool owner = (at[1] == 's' || at[1] == 'S') &&
          !is_word(static_cast<unsigned char>(at[2])) && at[2] != '_';
        if (owner) ++at;
      } else if (is_word(c)) {
        word += c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : static_cast<char>(c);
      } else if (!word.empty() && word.back() != ' ') {
        word += ' ';
      }
    }
    if (!word.empty() && word.back() == ' ') word.pop_back();
    SET_STRING_ELT(out, i, Rf_mkCharLenCE(word.data(), static_cast<int>(word.size()), CE_UTF8));
  }
  return out;
}
