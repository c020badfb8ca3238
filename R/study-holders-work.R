# Holders, continued: the question and what is found.

holders_question <- function(book, args) {
  refuse_min_orders(book, args)
  question <- refuse_compared(ask_book(book, args, c("each", "within")), "holders")
  refuse_several(question, "'holders' looks at")
  each <- question$args$each
  within <- question$args$within
  if (length(intersect(each, within)))
    ll_abort("'within' must be another dimension than 'each'.", "argument")
  if (is.null(each)) {
    refuse_no_sum(first_metric(question))
    if (!is.null(args$min_orders)) ll_abort("'min_orders' is for names, not for lines.", "argument")
  }
  usual <- c(book$order, book$date, book$people)
  shown <- args$with_fields %||% if (is.null(each) || identical(each, book$order)) usual
  with_args(question, with_fields = setdiff(named_fields(question$book, shown, "with_fields"),
                                            c(each, within)))
}

# Lines that hold the extreme of each group: keys, line, value; the runner-up's line and value.
line_holders <- function(question) {
  args <- question$args
  keys <- key_trees(question$book, args$within, question$asked$where_now)
  tree <- first_metric(question)$tree$arg
  here <- question$book
  source <- source_extremes(here$source, trees_here(question, c(args$with_fields, here$order)),
                            keys, tree, question$asked$where_now, args$which == "highest")
  here$source <- source
  total <- fold_question(question, character())
  find <- function(but = integer()) {
    source_holders(source, keys, tree, question$asked$where_now, args$which == "highest", but)
  }
  best <- find()
  after <- find(best$line)
  labels <- if (is.null(question$book$order)) line_label(line_numbers(source, after$line)) else
    one_line(as.character(field_values(here, question$book$order, after$line)))
  # Of several the one whose order comes first by its number, since lines may have no order.
  first <- if (is.null(question$book$order)) seq_along(labels) else order(labels, method = "radix")
  first <- first[!duplicated(group_numbers(as.list(after[args$within]), nrow(after))[first])]
  after <- after[first, , drop = FALSE]
  labels <- labels[first]
  names <- as.list(best[args$within])
  at <- if (length(args$within)) match_keys(names, as.list(after[args$within])) else
    rep(if (nrow(after)) 1L else NA_integer_, nrow(best))
  list(keys = named_keys(names), line = best$line, value = best$value,
       book = here,
       group = group_numbers(names, nrow(best)), runner_up = labels[at],
       next_value = after$value[at],
       total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
       counted = sum(total$lines), left = 0)
}

line_label <- function(number) ifelse(is.na(number), "a line", paste("line", count_text(number)))

# The book with these lines in memory.
holders_here <- function(question, where) {
  book <- question$book
  book$source <- lines_here(question, c(question$args$with_fields, book$order), where)
  book
}

# Names that hold the extreme of each group.
name_holders <- function(question) {
  args <- question$args
  fold <- fold_each(question, c(args$within, args$each), orders = wants_orders(question))
  value <- fold$values[[1]]
  if (args$part == "whole" && length(args$within)) {
    whole <- fold_question(question, args$each)
    value <- whole$values[[1]][match_keys(fold$keys[args$each], whole$keys)]
  }
  in_play <- which(!fold$none & !is.na(value) & !fold$few)
  keys <- lapply(fold$keys, `[`, in_play)
  value <- value[in_play]
  group <- group_numbers(keys[args$within], length(value))
  rank <- ranks_within(value, group, higher = args$which == "highest", exact = fold$exact[[1]])
  best <- which(rank == 1)
  best <- best[order(group[best])]
  ties <- tabulate(group[best], max(group, 0))
  # The runner-up comes right after those who hold it.
  after <- which(rank == ties[group] + 1)
  after <- after[!duplicated(group[after])]
  at <- match(group[best], group[after])
  names <- joined_names(named_keys(lapply(keys[args$each], `[`, after)))
  list(keys = named_keys(lapply(keys, `[`, best)), value = value[best], group = group[best],
       runner_up = names[at], next_value = value[after][at],
       orders = fold$orders[in_play][best], total = fold$total,
       exact = fold$exact[names(question$metrics)], counted = sum(fold$lines),
       left = sum(!fold$none & fold$few), all_groups = length(unique(group)))
}

# The number of each row's group, in the order of their first row.
group_numbers <- function(keys, n) {
  if (!length(keys)) return(rep(1L, n))
  rows <- match_keys(keys, keys)
  match(rows, unique(rows))
}

# Groups with the most extreme value first; the fields of what they hold, lead.
held_fields <- function(question, found) {
  args <- question$args
  n <- length(found$value)
  tied <- tabulate(found$group, max(found$group, 0))[found$group]
  found$tied <- tied
  found$runner_up[tied > 1] <- NA
  found$next_value[tied > 1] <- NA
  found$lead <- ifelse(tied > 1, 0, abs(exact_change(found$value, found$next_value)))
  at <- order(if (args$which == "highest") -found$value else found$value, found$group, seq_len(n))
  pick <- c("value", "group", "runner_up", "next_value", "lead", "tied", "orders", "line")
  found[pick] <- lapply(found[pick], function(x) if (!is.null(x)) x[at])
  found$keys <- lapply(found$keys, `[`, at)
  behind <- if (length(args$with_fields)) holder_lines(question, found)
  found$held <- stats::setNames(lapply(args$with_fields, show_values, question = question,
                                       found = found,
                                       behind = behind), args$with_fields)
  found
}

# The lines behind the holders: list(lines, row), the row being the first one of the line's holder.
holder_lines <- function(question, found) {
  args <- question$args
  if (!is.null(found$line)) return(list(lines = found$line, book = found$book))
  by <- c(if (args$part == "inside") args$within, args$each)
  first <- args$each[1]
  where <- and_also(question$asked$where_now, these_names(question, own_keys(found$keys[first])))
  book <- holders_here(question, where)
  lines <- which(line_mask(book$source, where))
  names <- lapply(stats::setNames(by, by), function(key) {
    as.character(field_values(book, key, lines))
  })
  # A name may hold the value of several groups.
  list(lines = lines, book = book, row = match_keys(named_keys(names), found$keys[by]),
       holder = match_keys(found$keys[by], found$keys[by]))
}

# Values of a field on the lines behind each holder; where they differ they are listed.
show_values <- function(field, question, found, behind) {
  role <- question$book$fields$role[match(field, question$book$fields$name)]
  value <- as_dates(field_values(behind$book, field, behind$lines))
  # Numbers that name something are names.
  if (is.numeric(value) && role %in% c("identifier", "dimension")) value <- format_plain(value)
  if (!is.null(found$line)) return(value)
  if (!length(found$value)) return(value[0])
  row <- behind$row
  seen <- !duplicated(data.frame(row, value)) & !is.na(row) & !is.na(value)
  parts <- split(value[seen], factor(row[seen], seq_along(found$value)))[behind$holder]
  if (all(lengths(parts) <= 1)) return(do.call(c, unname(lapply(parts, `[`, 1))))
  unname(vapply(parts, function(v) and_list(sort(as.character(v)), 3), ""))
}

holders_found <- found_of(
  "holders",
  keys = holds("list", NULL, "group and name of each holder, by dimension"),
  value = holds("metric", "holder", "what it holds, most extreme group first"),
  group = holds("count", "holder", "the number of its group"),
  tied = holds("count", "holder", "how many hold that group's value"),
  runner_up = holds("text", "holder", "who comes next", missing = "where tied, or nobody does"),
  next_value = holds("metric", "holder", "the value of that", missing = "likewise"),
  lead = holds("metric", "holder", "the distance", missing = "where nobody comes next"),
  held = holds("list", NULL, "the fields shown, a value for each holder"),
  left = holds("count", "one", "names with too few orders"),
  orders = holds("count", "holder", "orders behind it", absent = "where nothing asks for them"),
  all_groups = holds("count", "one", "groups in play", absent = "where lines hold"),
  line = holds("count", "holder", "the line that holds it", absent = "where names hold"),
  book = holds("book", NULL, "the book with these lines in memory", absent = "where names hold"))

holders_work <- function(question) {
  found <- if (is.null(question$args$each)) line_holders(question) else name_holders(question)
  do.call(holders_found, held_fields(question, found))
}
