// Looking for names among a great many, in any form that texts have here.
#include <Rcpp.h>
#include <algorithm>
#include <string>
#include <tuple>
#include <unordered_map>
#include <vector>
#include "chunks.h"
#include "kernels/near.h"
#include "texts.h"

// Where each of the values, in UTF-8, stands among mapped texts that differ: from 1, 0 for none. NULL
// where the texts are not mapped ones, in which R looks by itself.
// [[Rcpp::export(rng = false)]]
SEXP kernel_text_places(SEXP texts, Rcpp::CharacterVector values) {
  const Texts among(texts);
  if (!among.mapped()) return R_NilValue;
  std::unordered_map<std::string_view, int> place;
  place.reserve(values.size());
  for (R_xlen_t i = 0; i < values.size(); ++i)
    if (values[i] != NA_STRING) place.emplace(CHAR(STRING_ELT(values, i)), 0);
  // Most texts are told apart by their length and last letter already.
  std::vector<char> there(1 << 16);
  const auto sign = [](std::string_view text) {
    return text.empty() ? 0u : (text.size() & 255u) << 8 | static_cast<unsigned char>(text.back());
  };
  for (const auto& one : place) there[sign(one.first)] = 1;
  in_chunks(among.size(), [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      const std::string_view text = among[i];
      if (!there[sign(text)]) continue;
      const auto at = place.find(text);
      if (at != place.end() && !at->second) at->second = static_cast<int>(i + 1);
    }
  });
  Rcpp::IntegerVector out(values.size());
  for (R_xlen_t i = 0; i < values.size(); ++i)
    if (values[i] != NA_STRING) out[i] = place[CHAR(STRING_ELT(values, i))];
  return out;
}

// The places, from 1, of at most `many` texts that may be near a word in small letters: within `most`
// letters, or beginning with it, or holding some of `parts`; the nearest and shortest of them.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector kernel_text_near(SEXP texts, std::string word, std::vector<std::string> parts,
                                     int most, int many) {
  const Texts among(texts);
  using Hit = std::tuple<int, std::size_t, int>;
  std::vector<Hit> hits;
  std::vector<int> row;
  const auto keep_nearest = [&](std::size_t limit) {
    if (hits.size() <= limit) return;
    std::nth_element(hits.begin(), hits.begin() + limit, hits.end());
    hits.resize(limit);
  };
  // Behind all that are as far away as may be.
  const int behind = most + 1 + static_cast<int>(parts.size());
  in_chunks(among.size(), [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      const std::string_view text = among[i];
      if (text.size() > 400) continue;
      int far = ladder::text_distance(word, text, most, row);
      if (far > most) {
        far = behind;
        for (const std::string& part : parts) far -= ladder::holds(text, part);
        const bool begins = text.size() > word.size() && word.size() > 2 &&
                            ladder::holds(text.substr(0, word.size()), word);
        if (far == behind && !begins) continue;
      }
      hits.emplace_back(far, text.size(), static_cast<int>(i + 1));
    }
    if (hits.size() > 100000) keep_nearest(many);
  });
  keep_nearest(many);
  std::sort(hits.begin(), hits.end());
  Rcpp::IntegerVector out(hits.size());
  for (std::size_t i = 0; i < hits.size(); ++i) out[i] = std::get<2>(hits[i]);
  return out;
}
