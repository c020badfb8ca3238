// R's side of kernels/condition.h.
#include <Rcpp.h>
#include "kernels/condition.h"
#include "threads.h"

namespace {

ladder::Test test_of(const std::string& op) {
  const bool or_equal = op.size() == 2;
  if (op == "missing") return {false, false, false, true};
  if (op == "==") return {false, true, false, false};
  if (op == "!=") return {true, false, true, false};
  return {op[0] == '<', or_equal, op[0] == '>', false};
}

// One step from R: list(codes, passes), passes by code from 0; list(values, op, limit); list(ready);
// or list(op) of "&", "|", "!". Columns are as long as the lines.
ladder::ConditionStep step_of(const Rcpp::List& given, std::size_t n) {
  using Step = ladder::ConditionStep;
  Step step{};
  const auto column = [&](const char* name) {
    SEXP out = given[name];
    if (static_cast<std::size_t>(Rf_xlength(out)) != n)
      Rcpp::stop("a condition on columns of different lengths");
    return out;
  };
  if (given.containsElementNamed("codes")) {
    step.kind = Step::kNames;
    step.whole = INTEGER(column("codes"));
    step.passes = LOGICAL(given["passes"]);
  } else if (given.containsElementNamed("ready")) {
    step.kind = Step::kReady;
    step.whole = LOGICAL(column("ready"));
  } else if (given.containsElementNamed("values")) {
    SEXP values = column("values");
    const bool whole = TYPEOF(values) == INTSXP;
    step.kind = whole ? Step::kWhole : Step::kNumbers;
    if (whole)
      step.whole = INTEGER(values);
    else
      step.numbers = REAL(values);
    step.test = test_of(given["op"]);
    step.limit = given["limit"];
  } else {
    const std::string op = given["op"];
    step.kind = op == "&" ? Step::kAnd : op == "|" ? Step::kOr : Step::kNot;
  }
  return step;
}

}  // namespace

// Whether each of n lines meets a condition; `steps` in postfix order, see step_of().
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_meet(double n, Rcpp::List steps) {
  const std::size_t lines = static_cast<std::size_t>(n);
  std::vector<ladder::ConditionStep> made;
  for (SEXP step : steps) made.push_back(step_of(step, lines));
  Rcpp::LogicalVector out(Rcpp::no_init(lines));
  int* o = out.begin();
  const int threads = threads_for(lines);
  std::vector<ladder::Condition> conditions(threads, ladder::Condition(made));
  in_threads(lines, threads, [&](int t, std::size_t from, std::size_t to) {
    conditions[t].meet(from, to, o);
  });
  return out;
}
