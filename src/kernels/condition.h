// A condition on lines, worked out block by block, so that nothing is made that is as long as the
// lines but the answer.
//
// The steps of a condition stand in postfix order: a test lays down its answers for the block, and,
// or and not put together those that lie on top. A test of names looks up whether each code passes;
// one of numbers says which of below, equal, above the limit and missing pass. What a block can not
// be asked comes ready. Cost: each column is read once; a byte for each line of a block and test.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>
#include "sum.h"

namespace ladder {

constexpr std::size_t kConditionBlock = 4096;

struct Test {
  bool below, equal, above, missing;
};

struct ConditionStep {
  enum Kind { kNames, kWhole, kNumbers, kReady, kAnd, kOr, kNot } kind;
  const int* whole = nullptr;
  const double* numbers = nullptr;
  const int* passes = nullptr;
  double limit = 0;
  Test test = {};
};

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
  explicit Condition(std::vector<ConditionStep> steps) : steps_(std::move(steps)) {
    answers_.resize((steps_.size() + 1) * kConditionBlock);
  }
  void meet(std::size_t from, std::size_t to, int* out) {
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
