# Bridge: from the value then to the value now in steps that add up.

declared_bridge <- declare(
  "bridge", "Why a metric changed: from then to now in steps that add up",
  args = list(
    metrics = arg_metrics("the metric to explain (default: the book's first)"),
    by = arg("words", "the dimension whose names are the steps: territory, account, item"),
    into = arg("choice", paste("what the steps are: segments of 'by'; its names as new, returned,",
                               "grown, shrunk, gone; price, volume and mix; or factors"),
               "segments", choices = c("segments", "names", "price", "factors")),
    quantity = arg("text", "price: the measure or metric that is the quantity (default: guessed)"),
    alike = arg("text", paste("price: a dimension within whose names products share a unit, or",
                              "all; then volume and mix are told apart")),
    factors = arg("metrics", "factors: metrics whose product is the metric"),
    in_order = arg("flag", "factors: move them one after the other, in the order given", FALSE),
    per_day = arg("choice", "put both periods per day: calendar days, or Monday to Friday",
                  choices = c("calendar", "working")),
    top = arg("whole", "steps shown; the others are gathered, gains and losses apart", 10),
    where = arg_where,
    when = arg("period", "the period now", "this year to date"),
    against = arg("period", "the period then: year before, previous, 2025", "year before")),
  examples = c(
    "--metrics revenue --by territory --when 2026-Q2",
    "--metrics margin_rate --by family --when 2026-Q2",
    "--by account --into names",
    "--by item --into price --quantity quantity --alike family",
    paste("--into factors --define 'customers=distinct(account)' --define",
          "'orders_each=orders / customers' --factors customers,orders_each,average_order")))

#' Bridge: from the value then to the value now
#'
#' Splits the change of a metric between two periods into steps that add up to it exactly. All
#' splits are symmetric: with the periods swapped every step has the other sign.
#'
#' * **segments** of a metric that adds up: each name's change, its part of the net change and of
#'   the gross movement (gains plus losses). Parts of the net change are withheld where it is less
#'   than a tenth of the gross movement: gains and losses then nearly cancel, and such parts tell
#'   nothing.
#' * **segments** of a rate, a metric of the form `a / b` or `mean(x)`: an effect of each name's own
#'   rate and one of mix, the change of its weight in `b`. Both at midpoints; mix is measured from
#'   the whole's rate.
#' * **names**: those of `by` that are new (no lines before the period now), returned (lines once,
#'   not then), grown, shrunk and gone. Part `like_for_like` has the names of both periods alone.
#' * **price**: price and quantity of every product that has a quantity in both periods, in Bennet's
#'   midpoint form; with `alike` quantity is told apart further into volume and mix. New products,
#'   products gone, products whose quantity is not above zero, and amounts without a quantity
#'   (credits, charges) have steps of their own.
#' * **factors**: how much each of the factors of a product contributes, by Shapley's value: the
#'   mean effect over every order in which they may be moved.
#'
#' @param book (`ll_book`) the book; it needs a date.
#' @param metrics (text) one metric, as in [ll_standings()].
#' @param by (text) one dimension; needed except for factors.
#' @param into (text) `"segments"`, `"names"`, `"price"` or `"factors"`.
#' @param quantity (text) a measure of the lines, or a metric that is one sum, such as `"units"`.
#' @param alike (text) a dimension, or `"all"`: products share a volume within each of its names.
#'   Without it no two products share one, since pieces and kilograms do not add up.
#' @param factors (text) two to eight metrics, or named formulas, whose product is the metric.
#' @param in_order (`TRUE` or `FALSE`) whether factors are moved one after the other as given,
#'   instead of by Shapley's value. Each step then depends on its place.
#' @param per_day (text) `"calendar"` or `"working"` days (Monday to Friday): both periods are
#'   divided by their days that the book covers. For metrics that add up.
#' @param top (whole number) how many names of `by` have a step of their own.
#' @param where as in [ll_standings()].
#' @param when,against (text) the period now and the one it is compared with.
#'
#' @return A data frame of class `ll_result_bridge`, a row for each step, in its order. Segments:
#'   the dimension, `presence` (`"stayed"`, `"new"`, `"gone"`), `<metric>_before`, the metric,
#'   `<metric>_change`, `<metric>_growth`, `net_share` and `gross_share`; of a rate `mix_before`,
#'   `mix_now` (shares of the denominator), `<metric>_before`, the metric, `<metric>_rate_effect`,
#'   `<metric>_mix_effect` and `<metric>_effect`. Names: `step`, `name_count` and the same columns.
#'   Price: `step`, `<metric>_change`, `net_share`, `gross_share`. Factors: `step`, `before`, `now`,
#'   `growth`, `<metric>_effect`. Parts: `steps` (`step`, `change`, `from`, `to`), `names` or
#'   `products` (every one with its values), `like_for_like`.
#' @section Notes given: Gains and losses that nearly cancel, part periods and periods of unequal
#'   length, products without a price, a quantity that was guessed, names that may be older than
#'   the book.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for metrics that do not add up over
#'   the steps, and for factors whose product is not the metric; `ll_error_data` where the book has
#'   no lines in one of the periods.
#' @section Sources: Bennet (1920), The theory of measurement of changes in cost of living, Journal
#'   of the Royal Statistical Society 83. Diewert (2005), Index number theory using differences
#'   rather than ratios, American Journal of Economics and Sociology 64. Shapley (1953), A value for
#'   n-person games.
#' @examples
#' book <- ll_demo()
#' ll_bridge(book, "revenue", "territory", when = "2026-Q2")
#' ll_bridge(book, "margin_rate", "family", when = "2026-Q2")
#' ll_part(ll_bridge(book, by = "account", into = "names"), "like_for_like")
#' ll_bridge(book, by = "item", into = "price", quantity = "quantity", alike = "all")
#' @export
ll_bridge <- function(book, metrics = NULL, by = NULL, into = "segments", quantity = NULL,
                      alike = NULL, factors = NULL, in_order = FALSE, per_day = NULL, top = 10,
                      where = NULL, when = "this year to date", against = "year before") {
  check_book(book)
  given <- list(metrics = metrics, by = by, into = into, quantity = quantity, alike = alike,
                factors = factors, in_order = in_order, per_day = per_day, top = top,
                where = where, when = when, against = against)
  q <- bridge_question(book, check_args(declared_bridge, given))
  s <- switch(q$into, segments = if (is.null(q$ratio)) bridge_segments(q) else bridge_rate(q),
              names = bridge_names(q), price = bridge_price(q), factors = bridge_factors(q))
  new_answer(q, "bridge", s$table, bridge_settings(s), s$columns, bridge_finding(s),
             bridge_reading(s), bridge_notes(s), bridge_proof(s),
             parts = c(list(steps = running_steps(s)), s$parts), behind = if (q$into == "segments")
               list(keys = stats::setNames(nm = q$by)) else list(), compared = TRUE)
}

bridge_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, "by"), "bridge")
  refuse_several(q, "'bridge' explains")
  check_bridge_words(book, q)
  q <- ask_two_periods(q)
  q$ratio <- ratio_parts(q$first$tree)
  check_added(q)
  if (!is.null(q$per_day)) q$days <- c(now = trading_days(book, q$asked$now, q$per_day),
                                       before = trading_days(book, q$asked$before, q$per_day))
  switch(q$into, price = price_question(q), factors = factors_question(q), q)
}

# Arguments that go together.
check_bridge_words <- function(book, q) {
  if (length(q$by) > 1) ll_abort("'by' takes one dimension.", "argument")
  if (is.null(q$by) && q$into != "factors")
    ll_abort(c("'by' must be given: the dimension whose names are the steps.",
               offer_all("Dimensions", dimensions_of(book))), "argument")
  unused <- c(quantity = "price", alike = "price", factors = "factors")
  for (one in names(unused)) if (!is.null(q[[one]]) && q$into != unused[[one]])
    ll_abort(paste0(quoted(one), " serves into = \"", unused[[one]], "\" only."), "argument")
}

# Whether the metric adds up over the steps.
check_added <- function(q) {
  adds <- counted_up(q$first$tree)
  rate <- q$into == "segments" && !is.null(q$ratio)
  if (q$into != "factors" && !adds && !rate) ll_abort(not_added(q), "argument")
  if (!is.null(q$per_day) && (q$into == "factors" || !adds))
    ll_abort("'per_day' is for metrics that add up, over segments, names or products.", "argument")
}

not_added <- function(q) {
  c(paste0(capital(spoken(q$first$name)), " (", one_line(q$first$text),
           ") does not add up over ", if (q$into == "segments") "segments" else q$into, "."),
    i = if (is.null(q$ratio)) paste0(
      "Metrics that do: sums, counts, ratios of two such (over segments), or a product of ",
      "factors (into = \"factors\").") else
        "For a rate use into = \"segments\", or its factors.")
}

# Names of several rows would count twice where they overlap; then they are no steps.
refuse_overlap <- function(q, parts, whole, what = q$first$name) {
  if (isTRUE(all.equal(sum(parts, na.rm = TRUE), whole, tolerance = 1e-9))) return(invisible())
  ll_abort(c(paste0(capital(spoken(what)), " does not add up over ", spoken(q$by),
                    ": the same names are counted in several of them."),
             x = paste0("Counted apart they make ", format_number(sum(parts, na.rm = TRUE)),
                        ", together ", format_number(whole), "."),
             i = "Take a dimension of which each has one, or into = \"factors\"."), "argument")
}

# Both periods by name, of a metric that adds up over the names.
added_names <- function(q) {
  m <- q$first
  f <- both_periods(q, q$by, stats::setNames(list(m$tree), m$name))
  if (!m$adds_up) {
    refuse_overlap(q, f$now[[1]], f$total_now[[1]])
    refuse_overlap(q, f$before[[1]], f$total_before[[1]])
  }
  f
}

# Gains largest first, then losses largest first; names decide ties.
step_order <- function(change, name) {
  by_name <- order(name, method = "radix")
  gain <- change[by_name] >= 0
  by_name[order(!gain, -abs(change[by_name]))]
}

# The segments of a metric that adds up.
bridge_segments <- function(q) {
  m <- q$first
  f <- added_names(q)
  s <- period_totals(q, f)
  rows <- cbind(name = named_keys(f$keys)[[1]], period_changes(q, f))
  rows <- rows[step_order(rows$change, rows$name), ]
  s$moves <- gross_moves(rows$change)
  s$rows <- rows
  picked <- top_steps(rows$change, q$top)
  table <- change_table(s, rows[picked, ], stats::setNames(list(rows$name[picked]), q$by))
  table$presence <- rows$presence[picked]
  s$table <- table[c(q$by, "presence", setdiff(names(table), c(q$by, "presence")))]
  s$columns <- rbind(new_columns(c(q$by, "presence"), "text"), change_columns(m))
  gathered <- gathered_steps(s, rows, picked)
  s$parts <- list(foot = bridge_foot(s, gathered, q$by))
  s$steps <- with_gathered(rows[picked, ], gathered$label, gathered$change)
  s
}

# Steps in their order, gains before losses, what is gathered last on either side.
with_gathered <- function(named, label, change) {
  out <- data.frame(step = c(named$name, label), change = c(named$change, change))
  out[order(out$change < 0, seq_len(nrow(out))), ]
}

# Which of the rows have a step of their own: the largest by size. One alone is not gathered.
top_steps <- function(change, top) {
  n <- length(change)
  if (n <= top + 1) return(seq_len(n))
  sort(order(-abs(change))[seq_len(top)])
}

# The others, gains, losses and those without a change apart.
gathered_steps <- function(s, rows, picked) {
  rest <- rows[setdiff(seq_len(nrow(rows)), picked), ]
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change < 0,
                 "no change" = rest$change == 0)
  groups <- groups[vapply(groups, any, NA)]
  sums <- function(column) vapply(groups, function(g) exact_total(rest[[column]][g]), 0)
  data.frame(label = sprintf("%s (%s)", names(groups), vapply(groups, function(g) {
    count_text(sum(g))
  }, "")), before = sums("before"), now = sums("now"), change = sums("change"),
  row.names = NULL)
}

# Columns of amounts then and now; `rows` has before, now, change.
change_table <- function(s, rows, first) {
  m <- s$q$first$name
  out <- as.data.frame(first, optional = TRUE)
  out[[paste0(m, "_before")]] <- rows$before
  out[[m]] <- rows$now
  out[[paste0(m, "_change")]] <- rows$change
  out[[paste0(m, "_growth")]] <- growth_of(rows$now, rows$before)
  cbind(out, move_shares(s, rows$change))
}

# Each change as a part of the net change, withheld where gains and losses cancel, and of the gross
# movement.
move_shares <- function(s, change) {
  moves <- s$moves
  part <- function(of) if (of != 0) change / of else rep(NA_real_, length(change))
  data.frame(net_share = if (moves$cancel) rep(NA_real_, length(change)) else part(moves$net),
             gross_share = part(moves$gross) * sign(change))
}

change_columns <- function(m) {
  new_columns(c(paste0(m$name, "_before"), m$name, paste0(m$name, c("_change", "_growth")),
                "net_share", "gross_share"),
              c(m$unit, m$unit, change_unit(m$unit), "percent", "percent", "percent"),
              digits = c(NA, NA, NA, NA, 1, 1))
}

# Gathered steps, then all gains, all losses and the whole.
bridge_foot <- function(s, gathered, label) {
  rows <- s$rows
  sums <- function(which) {
    data.frame(before = exact_total(rows$before[which]), now = exact_total(rows$now[which]),
               change = exact_total(rows$change[which]))
  }
  gain <- rows$change > 0
  loss <- rows$change < 0
  all <- rbind(gathered[-1], if (any(gain) && any(loss)) rbind(sums(gain), sums(loss)),
               data.frame(before = s$then, now = s$now, change = exact_change(s$now, s$then)))
  labels <- c(gathered$label, if (any(gain) && any(loss)) c("all gains", "all losses"), "total")
  foot <- change_table(s, all, stats::setNames(list(labels), label))
  foot$gross_share[nrow(foot)] <- NA
  blank <- setdiff(names(s$table), names(foot))
  foot[blank] <- rep(list(""), length(blank))
  foot[names(s$table)]
}

# Steps with where each begins and ends.
running_steps <- function(s) {
  ends <- s$then + cumsum(s$steps$change)
  data.frame(step = s$steps$step, change = s$steps$change, from = c(s$then, ends)[seq_along(ends)],
             to = ends)
}
