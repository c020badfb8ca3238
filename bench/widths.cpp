// What codes of 1, 2, 3 and 4 bytes would cost a sum by one key: the loop of the package's sum, on two
// threads, over codes packed in a raw vector. Only to measure; the package keeps codes as R's integers.
#include <Rcpp.h>
#include <cstdint>
#include <cstring>
#include <thread>
// [[Rcpp::plugins(cpp17)]]

// Three bytes are read as four, of which one is left out.
template <int width>
inline std::uint32_t code_at(const unsigned char* codes, std::size_t i) {
  std::uint32_t code = 0;
  std::memcpy(&code, codes + i * width, width == 3 ? 4 : width);
  return width == 3 ? code & 0xffffff : code;
}

// Codes as they would be kept: the lowest `width` bytes of each, and one byte more to read over.
// [[Rcpp::export]]
Rcpp::RawVector pack_codes(Rcpp::IntegerVector codes, int width) {
  Rcpp::RawVector out(codes.size() * width + 1);
  for (R_xlen_t i = 0; i < codes.size(); ++i) std::memcpy(&out[i * width], &codes[i], width);
  return out;
}

template <int width>
Rcpp::NumericVector sum_of(const unsigned char* codes, Rcpp::IntegerVector values, int groups) {
  const std::size_t n = values.size(), half = n / 2;
  const int* v = values.begin();
  std::vector<std::int64_t> a(groups), b(groups);
  const auto add = [&](std::size_t from, std::size_t to, std::int64_t* out) {
    for (std::size_t i = from; i < to; ++i) out[code_at<width>(codes, i)] += v[i];
  };
  std::thread other([&] { add(half, n, b.data()); });
  add(0, half, a.data());
  other.join();
  Rcpp::NumericVector out(groups);
  for (int g = 0; g < groups; ++g) out[g] = static_cast<double>(a[g] + b[g]);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericVector sum_packed(Rcpp::RawVector codes, int width, Rcpp::IntegerVector values,
                               int groups) {
  const unsigned char* at = RAW(codes);
  switch (width) {
    case 1: return sum_of<1>(at, values, groups);
    case 2: return sum_of<2>(at, values, groups);
    case 3: return sum_of<3>(at, values, groups);
    default: return sum_of<4>(at, values, groups);
  }
}
