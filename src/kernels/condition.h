// A condition on lines, worked out block by block, so that nothing is made that is as long as the
// lines but the answer.
//
// The steps of a condition stand in postfix order: a test lays down its answers for the block, and,
// or and not put together those that lie on top. A test of names looks up whether each code passes;
// one of numbers says which of below, equal, above the limit and missing pass, one of whole numbers
// between which they lie, so that a period is a single test. What a block can not be asked comes
// ready. Cost: each column is read once; a byte for each line of a block and test.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>
#include "sum.h"

namespace ladder {

constexpr std::size_t kConditionBlock = 4096;

struct Test {
  bool below, equal, above, missing;
};

struct ConditionStep {
  enum Kind { kNames, kWhole, kBetween, kNumbers, kReady, kAnd, kOr, kNot } kind;
  const int* whole = nullptr;
  const double* numbers = nullptr;
  const int* passes = nullptr;
  double limit = 0;
  Test test = {};
  int least = 0, most = 0;
};

// Lines that a compiler takes at once, since their number is known.
constexpr std::size_t kStripe = 64;

// Whether whole numbers lie between two, the ends among them; a missing one is the least there is.
template <class Out>
void test_between(const int* v, std::size_t n, int least, int most, Out* out) {
  std::size_t i = 0;
  for (; i + kStripe <= n; i += kStripe)
    for (std::size_t k = 0; k < kStripe; ++k)
      out[i + k] = (v[i + k] >= least) & (v[i + k] <= most);
  for (; i < n; ++i) out[i] = (v[i] >= least) & (v[i] <= most);
}

// A test of whole numbers as one of between, where it is one: all but "not equal".
inline ConditionStep as_between(ConditionStep step) {
  constexpr int lowest = std::numeric_limits<int>::min(), highest = std::numeric_limits<int>::max();
  const Test test = step.test;
  if (step.kind != ConditionStep::kWhole || (test.below && test.above)) return step;
  step.kind = ConditionStep::kBetween;
  step.least = 1;
  step.most = 0;
  if (test.missing) {
    step.least = step.most = lowest;
    return step;
  }
  const double limit = step.limit;
  if (std::isnan(limit)) return step;
  const double from = test.below ? lowest + 1. : test.equal ? std::ceil(limit) : std::floor(limit) + 1;
  const double to = test.above ? highest : test.equal ? std::floor(limit) : std::ceil(limit) - 1;
  if (from > highest || to <= lowest || from > to) return step;
  step.least = static_cast<int>(std::max(from, lowest + 1.));
  step.most = static_cast<int>(std::min<double>(to, highest));
  return step;
}

// The same condition in fewer steps: both ends of a column are one test.
inline std::vector<ConditionStep> shortened(const std::vector<ConditionStep>& steps) {
  std::vector<ConditionStep> out;
  const auto between = [&](std::size_t back) {
    return out.size() >= back && out[out.size() - back].kind == ConditionStep::kBetween;
  };
  for (const ConditionStep& step : steps) {
    if (step.kind == ConditionStep::kAnd && between(1) && between(2) &&
        out.back().whole == out[out.size() - 2].whole) {
      const ConditionStep other = out.back();
      out.pop_back();
      out.back().least = std::max(out.back().least, other.least);
      out.back().most = std::min(out.back().most, other.most);
    } else {
      out.push_back(as_between(step));
    }
  }
  return out;
}

// Without branches, so that the compiler can take several lines at once.
template <class T>
void test_values(const T* v, std::size_t n, double limit, Test test, unsigned char* out) {
  for (std::size_t i = 0; i < n; ++i) {
    const double x = static_cast<double>(v[i]);
    const bool none = missing(v[i]);
    const bool passes = (test.below & (x < limit)) | (test.equal & (x == limit)) |
                        (test.above & (x > limit));
    out[i] = (passes & !none) | (test.missing & none);
  }
}

class Condition {
 public:
  explicit Condition(const std::vector<ConditionStep>& steps) : steps_(shortened(steps)) {
    answers_.resize((steps_.size() + 1) * kConditionBlock);
  }
  void meet(std::size_t from, std::size_t to, int* out) {
    const ConditionStep& first = steps_.front();
    if (steps_.size() == 1 && first.kind == ConditionStep::kBetween)
      return test_between(first.whole + from, to - from, first.least, first.most, out + from);
    for (; from < to; from += kConditionBlock) {
      const std::size_t n = std::min(kConditionBlock, to - from);
      unsigned char* top = answers_.data();
      for (const ConditionStep& step : steps_) top = take(step, from, n, top);
      for (std::size_t i = 0; i < n; ++i) out[from + i] = answers_[i];
    }
  }

 private:
  // The next free place for answers, after this step.
  static unsigned char* take(const ConditionStep& step, std::size_t from, std::size_t n,
                             unsigned char* top) {
    unsigned char* const last = top - kConditionBlock;
    unsigned char* const before = last - kConditionBlock;
    switch (step.kind) {
      case ConditionStep::kNames:
        for (std::size_t i = 0; i < n; ++i) top[i] = step.passes[step.whole[from + i]] == 1;
        return top + kConditionBlock;
      case ConditionStep::kReady:
        for (std::size_t i = 0; i < n; ++i) top[i] = step.whole[from + i] == 1;
        return top + kConditionBlock;
      case ConditionStep::kWhole:
        test_values(step.whole + from, n, step.limit, step.test, top);
        return top + kConditionBlock;
      case ConditionStep::kBetween:
        test_between(step.whole + from, n, step.least, step.most, top);
        return top + kConditionBlock;
      case ConditionStep::kNumbers:
        test_values(step.numbers + from, n, step.limit, step.test, top);
        return top + kConditionBlock;
      case ConditionStep::kAnd:
        for (std::size_t i = 0; i < n; ++i) before[i] &= last[i];
        return last;
      case ConditionStep::kOr:
        for (std::size_t i = 0; i < n; ++i) before[i] |= last[i];
        return last;
      default:
        for (std::size_t i = 0; i < n; ++i) last[i] ^= 1;
        return top;
    }
  }

  std::vector<ConditionStep> steps_;
  std::vector<unsigned char> answers_;
};

}  // namespace ladder
