# Holders: who holds the highest or lowest value, in each group.

declared_holders <- declare(
  "holders", "Who holds the highest or lowest value, line or order, in each group",
  args = list(
    each = arg("words", "whose value: a dimension, or the order's field (default: single lines)"),
    metrics = arg_metrics("the metric (default: the book's first); for lines the sum of a formula"),
    which = arg("choice", "the highest or the lowest", "highest", choices = c("highest", "lowest")),
    within = arg("words", "one holder for each name of this dimension, or of each pair"),
    part = arg("choice", paste("with within: the value inside the group, or of the whole name",
                               "(a whole order, say)"), "inside", choices = c("inside", "whole")),
    show = arg("words", "further fields of what they hold: rep,order_date"),
    at_least = arg("whole", "fewest orders a name must have"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each order_no --show rep,account_name,order_date",
    "--each account --within territory --metrics margin_rate --at-least 10",
    "--within family --show order_no,rep --when 2025",
    "--each order_no --within family --part whole --which lowest"))

#' Holders: who holds the extreme
#'
#' Finds who holds the highest or lowest value of a metric, or the largest or smallest order or
#' single line; for each group where `within` is given. Everyone who holds it is named when tied,
#' with the runner-up and the lead.
#'
#' Inside a group the value is that of the name's lines in the group. With `part = "whole"` it is
#' the name's whole value in the question, and the group only says who is considered: the largest
#' whole order among those with a line of the family. Equal means equal to the coin, for quotients
#' within a relative 1e-9. Lines without a name of `each` hold nothing; those without a name of
#' `within` make the group `(none)`.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose value: a dimension, several for pairs, or the order's field; single
#'   lines if not given.
#' @param metrics (text) one metric, as in [ll_standings()]; for lines the sum of one formula.
#' @param which (text) `"highest"` or `"lowest"`.
#' @param within (text) a dimension, or several for their pairs.
#' @param part (text) `"inside"` the group, or of the `"whole"` name.
#' @param show (text) further fields of what they hold; where the lines of a name differ in it, the
#'   values are listed. For lines and orders the order, date and rep, if not given.
#' @param at_least (whole number) names with fewer orders are not considered.
#' @param where,when as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_holders`, a row for each holder, groups with the most
#'   extreme value first: the dimensions of `within` and `each` (for lines `line`, its number in the
#'   file), the metric, the fields of `show`, `runner_up` (one name of those next, for lines the
#'   order), `<metric>_runner_up` and `lead` (the distance; 0 where several hold it).
#' @section Notes given: Values held by several, groups with one name only, few orders behind a
#' rate, names left out; part periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a metric over lines that is no sum
#' of a formula.
#' @examples
#' ll_holders(ll_demo(), each = "order_no", show = c("rep", "order_date"))
#' ll_holders(ll_demo(), each = "rep", within = "territory", metrics = "margin_rate")
#' @export
ll_holders <- function(book, each = NULL, metrics = NULL, which = "highest", within = NULL,
                       part = "inside", show = NULL, at_least = NULL, where = NULL, when = NULL) {
  check_book(book)
  given <- list(each = each, metrics = metrics, which = which, within = within, part = part,
                show = show, at_least = at_least, where = where, when = when)
  q <- holders_question(book, check_args(declared_holders, given))
  s <- c(list(q = q), if (is.null(q$each)) line_holders(q) else name_holders(q))
  s <- held_fields(s)
  table <- holders_table(s)
  new_answer(q, "holders", table$table, holders_settings(q), table$columns, holders_finding(s),
             holders_reading(s), holders_notes(s), holders_proof(s), behind = holders_behind(s))
}

holders_question <- function(book, args) {
  refuse_at_least(book, args)
  q <- refuse_compared(ask_book(book, args, c("each", "within")), "holders")
  refuse_several(q, "'holders' looks at")
  if (length(intersect(q$each, q$within)))
    ll_abort("'within' must be another dimension than 'each'.", "argument")
  if (is.null(q$each)) {
    refuse_no_sum(q$first)
    if (!is.null(q$at_least)) ll_abort("'at_least' is for names, not for lines.", "argument")
  }
  usual <- c(q$book$order, q$book$date, q$book$people)
  fields <- q$show %||% if (is.null(q$each) || identical(q$each, q$book$order)) usual
  q$show <- setdiff(named_fields(q$book, fields, "show"), c(q$each, q$within))
  q
}

# Lines that hold the extreme of each group: keys, line, value; the runner-up's line and value.
line_holders <- function(q) {
  here <- holders_here(q)
  source <- here$source
  keys <- key_trees(q$book, q$within, q$asked$where_now)
  tree <- q$first$tree$arg
  total <- fold_question(q, character())
  find <- function(but = integer()) {
    source_holders(source, keys, tree, q$asked$where_now, q$which == "highest", but)
  }
  best <- find()
  after <- find(best$line)
  labels <- if (is.null(q$book$order)) line_label(line_numbers(source, after$line)) else
    one_line(as.character(field_values(here, q$book$order, after$line)))
  # Of several the one whose order comes first by its number, since lines may have no order.
  first <- if (is.null(q$book$order)) seq_along(labels) else order(labels, method = "radix")
  first <- first[!duplicated(group_numbers(as.list(after[q$within]), nrow(after))[first])]
  after <- after[first, , drop = FALSE]
  labels <- labels[first]
  names <- as.list(best[q$within])
  at <- if (length(q$within)) match_keys(names, as.list(after[q$within])) else
    rep(if (nrow(after)) 1L else NA_integer_, nrow(best))
  list(keys = named_keys(names), line = best$line, value = best$value,
       book = here,
       group = group_numbers(names, nrow(best)), runner_up = labels[at],
       next_value = after$value[at],
       total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
       counted = sum(total$lines), left = 0)
}

line_label <- function(number) ifelse(is.na(number), "a line", paste("line", count_text(number)))

# The book with its lines in memory.
holders_here <- function(q, where = q$asked$where_now) {
  book <- q$book
  book$source <- lines_here(q, c(q$show, book$order), where)
  book
}

# Names that hold the extreme of each group.
name_holders <- function(q) {
  f <- fold_each(q, c(q$within, q$each), orders = wants_orders(q))
  value <- f$values[[1]]
  if (q$part == "whole" && length(q$within)) {
    whole <- fold_question(q, q$each)
    value <- whole$values[[1]][match_keys(f$keys[q$each], whole$keys)]
  }
  in_play <- which(!f$none & !is.na(value) & !f$few)
  keys <- lapply(f$keys, `[`, in_play)
  value <- value[in_play]
  group <- group_numbers(keys[q$within], length(value))
  place <- places_within(value, group, higher = q$which == "highest", exact = f$exact[[1]])
  best <- which(place == 1)
  best <- best[order(group[best])]
  ties <- tabulate(group[best], max(group, 0))
  # The runner-up comes right after those who hold it.
  after <- which(place == ties[group] + 1)
  after <- after[!duplicated(group[after])]
  at <- match(group[best], group[after])
  names <- joined_names(named_keys(lapply(keys[q$each], `[`, after)))
  list(keys = named_keys(lapply(keys, `[`, best)), value = value[best], group = group[best],
       runner_up = names[at], next_value = value[after][at],
       orders = f$orders[in_play][best], total = f$total, exact = f$exact[names(q$metrics)],
       counted = sum(f$lines), left = sum(!f$none & f$few), all_groups = length(unique(group)))
}

# The number of each row's group, in the order of their first row.
group_numbers <- function(keys, n) {
  if (!length(keys)) return(rep(1L, n))
  rows <- match_keys(keys, keys)
  match(rows, unique(rows))
}

# Groups with the most extreme value first; the fields of what they hold, lead.
held_fields <- function(s) {
  q <- s$q
  n <- length(s$value)
  tied <- tabulate(s$group, max(s$group, 0))[s$group]
  s$tied <- tied
  s$runner_up[tied > 1] <- NA
  s$next_value[tied > 1] <- NA
  s$lead <- ifelse(tied > 1, 0, abs(exact_change(s$value, s$next_value)))
  at <- order(if (q$which == "highest") -s$value else s$value, s$group, seq_len(n))
  pick <- c("value", "group", "runner_up", "next_value", "lead", "tied", "orders", "line")
  s[pick] <- lapply(s[pick], function(x) if (!is.null(x)) x[at])
  s$keys <- lapply(s$keys, `[`, at)
  behind <- if (length(q$show)) holder_lines(s)
  s$held <- stats::setNames(lapply(q$show, show_values, s = s, behind = behind), q$show)
  s
}

# The lines behind the holders: list(lines, row), the row being the first one of the line's holder.
holder_lines <- function(s) {
  q <- s$q
  if (!is.null(s$line)) return(list(lines = s$line, book = s$book))
  by <- c(if (q$part == "inside") q$within, q$each)
  first <- q$each[1]
  where <- and_also(q$asked$where_now, these_names(q, own_keys(s$keys[first])))
  book <- holders_here(q, where)
  lines <- which(line_mask(book$source, where))
  names <- lapply(stats::setNames(by, by), function(key) {
    as.character(field_values(book, key, lines))
  })
  # A name may hold the value of several groups.
  list(lines = lines, book = book, row = match_keys(named_keys(names), s$keys[by]),
       holder = match_keys(s$keys[by], s$keys[by]))
}

# Values of a field on the lines behind each holder; where they differ they are listed.
show_values <- function(field, s, behind) {
  q <- s$q
  role <- q$book$fields$role[match(field, q$book$fields$name)]
  value <- as_dates(field_values(behind$book, field, behind$lines))
  # Numbers that name something are names.
  if (is.numeric(value) && role %in% c("identifier", "dimension")) value <- format_plain(value)
  if (!is.null(s$line)) return(value)
  if (!length(s$value)) return(value[0])
  row <- behind$row
  seen <- !duplicated(data.frame(row, value)) & !is.na(row) & !is.na(value)
  parts <- split(value[seen], factor(row[seen], seq_along(s$value)))[behind$holder]
  if (all(lengths(parts) <= 1)) return(do.call(c, unname(lapply(parts, `[`, 1))))
  unname(vapply(parts, function(v) and_list(sort(as.character(v)), 3), ""))
}
