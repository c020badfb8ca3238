// Random numbers that are the same on every platform and for every number of threads: each task
// starts a stream of its own from its seed.
//
// splitmix64 (Steele, Lea and Flood 2014, doi:10.1145/2660193.2660195); normal numbers by the polar
// method (Marsaglia and Bray 1964), gamma by Marsaglia and Tsang (2000, doi:10.1145/358407.358414),
// Poisson by multiplication (Knuth, The Art of Computer Programming 2, 3.4.1), fit for small means.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>

namespace ladder {

struct SplitMix {
  std::uint64_t state;
  std::uint64_t next() {
    std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    return z ^ (z >> 31);
  }
  // A whole number below n, without bias to speak of: n is far below 2^64.
  std::size_t below(std::size_t n) { return static_cast<std::size_t>(next() % n); }
  // Above 0, below 1.
  double uniform() { return (static_cast<double>(next() >> 11) + 0.5) / 9007199254740992.0; }
  double normal() {
    for (;;) {
      const double a = 2 * uniform() - 1, b = 2 * uniform() - 1, r = a * a + b * b;
      if (r > 0 && r < 1) return a * std::sqrt(-2 * std::log(r) / r);
    }
  }
  // Shape above 0, scale 1.
  double gamma(double shape) {
    if (shape < 1) {
      const double u = uniform();
      return gamma(shape + 1) * std::pow(u, 1 / shape);
    }
    const double d = shape - 1.0 / 3, c = 1 / std::sqrt(9 * d);
    for (;;) {
      const double x = normal(), t = 1 + c * x;
      if (t <= 0) continue;
      const double v = t * t * t;
      if (std::log(uniform()) < 0.5 * x * x + d - d * v + d * std::log(v)) return d * v;
    }
  }
  int poisson_one() {
    const double limit = std::exp(-1.0);
    int k = 0;
    for (double p = uniform(); p > limit; p *= uniform()) ++k;
    return k;
  }
};

// The stream of one task among many.
inline SplitMix stream_of(double seed, std::size_t task) {
  SplitMix random{static_cast<std::uint64_t>(seed) * 1000003ULL + task};
  random.next();
  return random;
}

}  // namespace ladder
