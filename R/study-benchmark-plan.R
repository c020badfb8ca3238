# Benchmark, continued: each one's own plan, from the register or from a table of names, periods and
# amounts.

# list(name, amount, from, outside, partly, unbound): a plan for each name, the words for where it
# came from, how many rows lie outside the question's period, whether some lie partly in it, and
# whether the plan names no period though the question does.
read_plan <- function(question) {
  args <- question$args
  refuse_pairs(question, "plan")
  if (is.data.frame(args$plan))
    return(table_plan(question, check_frame(args$plan, "the plan"), "the table given"))
  field <- question$book$fields[question$book$fields$name == real_name(question$book, args$plan), ]
  if (nrow(field) && field$from == args$each) {
    register <- question$book$registers[[args$each]]
    amount <- register$table[[field$column]]
    if (!is.numeric(amount))
      ll_abort(paste0("The plan ", quoted(args$plan), " holds no numbers."), "argument")
    return(list(name = register$names, amount = as.numeric(amount), outside = 0, partly = FALSE,
                from = paste0(spoken(args$plan), " of the register"),
                unbound = !is.null(question$asked$now)))
  }
  if (!grepl("[./\\\\]", args$plan))
    ll_abort(c(paste0("The register of ", spoken(args$each), " has no field called ",
                      quoted(args$plan), ", and there is no file of that name."),
               offer(args$plan, question$book$fields$name[question$book$fields$from == args$each],
                     "Fields")), "word")
  read <- read_side_table(args$plan, "the plan", key = unguarded(args$each))
  table_plan(question, read$table, basename(args$plan))
}

table_plan <- function(question, table, from) {
  metric <- first_metric(question)
  if (!metric$adds_up && "period" %in% names(table))
    ll_abort(paste0("Plans by period add up, and ", quoted(metric$name), " does not."), "argument")
  each <- unguarded(question$args$each)
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
  part <- if ("period" %in% names(table)) period_part(question, as.character(table$period)) else
    rep(1, length(amount))
  inside <- part > 0
  sums <- rowsum(amount[inside] * part[inside], name[inside], reorder = FALSE)
  list(name = as.character(rownames(sums)), amount = unname(sums[, 1]), outside = sum(!inside),
       partly = any(part > 0 & part < 1), from = from,
       unbound = !is.null(question$asked$now) && !"period" %in% names(table))
}

# Which part of each period lies in the question's, by days.
period_part <- function(question, text) {
  dates <- book_dates(question$book, "plan")
  now <- question$asked$now %||% list(from = dates$first, to = dates$last)
  each <- unique(text)
  part <- vapply(each, function(one) {
    p <- read_period(one, dates, "period of the plan")
    days <- as.numeric(min(p$to, now$to) - max(p$from, now$from)) + 1
    max(days, 0) / (as.numeric(p$to - p$from) + 1)
  }, 0)
  unname(part[match(text, each)])
}

# Names with their plans; names with a plan and without lines join.
plan_lines <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  plan <- args$plans
  # Without lines in the question what adds up or counts is nothing; a rate has no value.
  idle <- if (metric$zero && is.null(args$min_orders))
    setdiff(plan$name[!is.na(plan$amount)], c(found$keys[[1]], found$unvalued))
  found$idle <- length(idle)
  found$keys[[1]] <- c(found$keys[[1]], idle)
  found$value <- c(found$value, rep(0, length(idle)))
  at <- best_order(found$value, metric$better == "high")
  found$keys[[1]] <- found$keys[[1]][at]
  found$value <- found$value[at]
  if (!is.null(found$orders)) found$orders <- c(found$orders, rep(0, length(idle)))[at]
  found$rank <- sorted_ranks(found$value, found$exact[[1]])
  found$line <- plan$amount[match(found$keys[[1]], plan$name)]
  found
}
