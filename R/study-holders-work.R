# Holders, continued: the question and what is found.

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
