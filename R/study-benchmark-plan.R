# Benchmark, continued: each one's own plan, from the register or from a table of names, periods and
# amounts.

# list(name, amount, from, outside, partly, unbound): a plan for each name, the words for where it
# came from, how many rows lie outside the question's period, whether some lie partly in it, and
# whether the plan names no period though the question does.
read_plan <- function(q) {
  refuse_pairs(q, "plan")
  if (is.data.frame(q$plan))
    return(table_plan(q, check_frame(q$plan, "the plan"), "the table given"))
  field <- q$book$fields[q$book$fields$name == real_name(q$book, q$plan), ]
  if (nrow(field) && field$from == q$each) {
    register <- q$book$registers[[q$each]]
    amount <- register$table[[field$column]]
    if (!is.numeric(amount))
      ll_abort(paste0("The plan ", quoted(q$plan), " holds no numbers."), "argument")
    return(list(name = register$names, amount = as.numeric(amount), outside = 0, partly = FALSE,
                from = paste0(spoken(q$plan), " of the register"), unbound = !is.null(q$asked$now)))
  }
  if (!grepl("[./\\\\]", q$plan))
    ll_abort(c(paste0("The register of ", spoken(q$each), " has no field called ", quoted(q$plan),
                      ", and there is no file of that name."),
               offer(q$plan, q$book$fields$name[q$book$fields$from == q$each], "Fields")), "word")
  read <- read_side_table(q$plan, "the plan", key = unguarded(q$each))
  table_plan(q, read$table, basename(q$plan))
}

table_plan <- function(q, table, from) {
  if (!q$first$adds_up && "period" %in% names(table))
    ll_abort(paste0("Plans by period add up, and ", quoted(q$first$name), " does not."), "argument")
  each <- unguarded(q$each)
  missing <- setdiff(c(each, "amount"), names(table))
  if (length(missing))
    ll_abort(c(paste0("The plan needs a column ", quoted(missing[1]), "."),
               x = paste0("It has ", and_list(quoted(names(table)), 12), "."),
               i = paste0("Columns: ", each, ", amount and, if wanted, period.")), "argument")
  amount <- suppressWarnings(as.numeric(table$amount))
  name <- as_utf8(plain_key(table[[each]]))
  bad <- which(is.na(amount) | is_blank(name))[1]
  if (!is.na(bad))
    ll_abort(paste0("Row ", bad, " of the plan has no ", if (is.na(amount[bad])) "number in amount"
                    else "name", "."), "argument")
  part <- if ("period" %in% names(table)) period_part(q, as.character(table$period)) else
    rep(1, length(amount))
  inside <- part > 0
  sums <- rowsum(amount[inside] * part[inside], name[inside], reorder = FALSE)
  list(name = as.character(rownames(sums)), amount = unname(sums[, 1]), outside = sum(!inside),
       partly = any(part > 0 & part < 1), from = from,
       unbound = !is.null(q$asked$now) && !"period" %in% names(table))
}

# Which part of each period lies in the question's, by days.
period_part <- function(q, text) {
  dates <- book_dates(q$book, "plan")
  now <- q$asked$now %||% list(from = dates$first, to = dates$last)
  each <- unique(text)
  part <- vapply(each, function(one) {
    p <- read_period(one, dates, "period of the plan")
    days <- as.numeric(min(p$to, now$to) - max(p$from, now$from)) + 1
    max(days, 0) / (as.numeric(p$to - p$from) + 1)
  }, 0)
  unname(part[match(text, each)])
}

# Names with their plans; names with a plan and without lines join.
plan_lines <- function(s) {
  q <- s$q
  plan <- q$plans
  # Without lines in the question what adds up or counts is nothing; a rate has no value.
  idle <- if (q$first$zero && is.null(q$at_least))
    setdiff(plan$name[!is.na(plan$amount)], c(s$keys[[1]], s$unvalued))
  s$idle <- length(idle)
  s$keys[[1]] <- c(s$keys[[1]], idle)
  s$value <- c(s$value, rep(0, length(idle)))
  at <- best_order(s$value, q$first$better == "high")
  s$keys[[1]] <- s$keys[[1]][at]
  s$value <- s$value[at]
  if (!is.null(s$orders)) s$orders <- c(s$orders, rep(0, length(idle)))[at]
  s$place <- sorted_places(s$value, s$exact[[1]])
  s$line <- plan$amount[match(s$keys[[1]], plan$name)]
  s
}
