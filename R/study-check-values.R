# Check, continued: measures with odd signs and outliers.

find_signs <- function(question, found) {
  own <- own_fields(question)
  measures <- own$name[own$role == "measure" & own$type == "number"]
  do.call(rbind, lapply(measures, function(field) {
    held <- found$counted[[field]]$value
    zero <- node("compare", op = "==", type = "number",
                 args = list(node("name", name = field), node("number", value = 0)))
    rbind(if (any(held < 0)) sign_finding(question, found, "below zero", field,
                                          less_than(field, 0)),
          if (0 %in% held && !grepl("discount|freight|tax", tolower(field)) &&
                !own$rate[own$name == field] %in% TRUE)
            sign_finding(question, found, "zero", field, zero))
  }))
}

sign_finding <- function(question, found, finding, field, where) {
  weighed <- weigh(question, found, where)
  if (weighed$lines)
    one_finding("low", finding, field, weighed, fix = leave_out(found, where, weighed))
}

# The shortest number between two values that keeps them apart; `exact` where one is infinite.
round_between <- function(low, high, exact) {
  if (!all(is.finite(c(low, high)))) return(exact)
  for (digits in 1:15) {
    near <- signif((low + high) / 2, digits)
    if (near > low && near < high) return(near)
  }
  exact
}

find_outlying <- function(question, found) {
  own <- own_fields(question)
  measures <- own$name[own$role == "measure" & own$type == "number"]
  do.call(rbind, lapply(measures, function(field) {
    value <- found$counted[[field]]$value
    times <- found$counted[[field]]$times
    if (sum(times) < 20) return(NULL)
    fences <- outlier_fences(value, times)
    out <- value[value < fences[1] | value > fences[2]]
    if (!length(out)) return(NULL)
    kept <- setdiff(value, out)
    fences <- c(round_between(max(out[out < fences[1]], -Inf), min(kept), fences[1]),
                round_between(max(kept), min(out[out > fences[2]], Inf), fences[2]))
    above <- node("compare", op = ">", type = "number",
                  args = list(node("name", name = field), node("number", value = fences[2])))
    below <- less_than(field, fences[1])
    where <- if (!any(out < fences[1])) above else if (!any(out > fences[2])) below else
      node("logic", op = "|", args = list(below, above))
    weighed <- weigh(question, found, where)
    one_finding("middle", "outliers", field, weighed, format_plain(out[order(-abs(out))]),
                leave_out(found, where, weighed))
  }))
}
