# Portrait, continued: the question and what is found.

portrait_metrics <- 5   # metrics shown when none are asked for

# The question of the book, and in `own` that of the name alone.
portrait_question <- function(book, args) {
  if (is.null(args$metrics)) {
    compares <- vapply(book$metrics, function(m) m$against, NA)
    usual <- utils::head(names(book$metrics)[!compares], portrait_metrics)
    args <- altered(args, metrics = if (length(usual)) usual)
  }
  question <- refuse_compared(ask_book(book, args, c("each", "by")), "portrait")
  each <- question$args$each
  if (length(each) > 1) ll_abort("'each' takes one dimension.", "argument")
  if (each %in% question$args$by) ll_abort("'by' must be other dimensions than 'each'.", "argument")
  args <- altered(args, name = check_names(question$book, each, args$name))
  question <- with_args(question, name = args$name)
  parts <- NULL
  if (!is.null(book$date)) {
    parts <- pick_dimensions(question$book, paste0(c("month(", "weekday("), name_text(book$date),
                                                   ")"), "by")
    question <- altered(question, book = parts$book)
  }
  mine <- node("within", arg = bind_scope(key_tree(question$book, each), question$asked$where_now),
               set = node("set", values = args$name))
  question <- with_args(question, month = parts$names[1], weekday = parts$names[2])
  with_args(question, own = with_condition(question, mine))
}

portrait_found <- found_of(
  "portrait",
  own = holds("any", NULL, "the question of the name alone, its lines a source of their own"),
  book = holds("list", "metric", "each metric over everybody"),
  ranked = holds("table", "metric", "metric, unit, value, overall, share, rank, of, tied"),
  orders = holds("count", "one", "orders of the name, or lines where there are no orders"),
  months = holds("table", NULL, "the first metric by month, here and overall",
                 absent = "without dates"),
  silent = holds("list", NULL, "months without anything since the first line, of how many"),
  profile = holds("list", NULL, "by dimension: all its names, and the rows shown"),
  facts = holds("table", NULL, "field, value: what is the same on all its lines"))

# The name's own lines as a source of their own; its metrics against the book and all other names.
portrait_work <- function(question) {
  args <- question$args
  book <- question$book
  book$source <- source_narrowed(book$source, args$own$asked$where_now)
  own <- with_asked(altered(args$own, book = book), where_now = NULL)
  total <- fold_question(own, character())
  found <- list(own = own, total = as.list(total$values[1, , drop = FALSE]),
                exact = total$exact, counted = total$lines)
  found$book <- as.list(fold_question(question, character())$values[1, , drop = FALSE])
  all <- fold_question(question, args$each)
  named <- !is.na(all$keys[[1]])
  found$ranked <- do.call(rbind, lapply(question$metrics, ranked_metric, question = question,
                                        found = found, name = all$keys[[1]][named],
                                        values = all$values[named, , drop = FALSE]))
  rownames(found$ranked) <- NULL
  found$orders <- own_orders(own)
  found$months <- portrait_months(question, found)
  found$silent <- silent_months(question, found)
  do.call(portrait_found, portrait_profile(question, found))
}

ranked_metric <- function(metric, question, found, name, values) {
  value <- found$total[[metric$name]]
  overall <- found$book[[metric$name]]
  rank <- ranks(values[[metric$name]], metric$better == "high",
                exact = found$exact[[metric$name]])
  at <- match(question$args$name, name)
  data.frame(metric = metric$name, unit = metric$unit, value = value, overall = overall,
             share = if (metric$adds_up && isTRUE(overall > 0)) value / overall else NA_real_,
             rank = rank[at], of = sum(!is.na(rank)),
             tied = sum(rank == rank[at], na.rm = TRUE) - 1)
}

ranked_columns <- function(found) {
  shared <- any(!is.na(found$ranked$share))
  new_columns(c("metric", "unit", "value", "overall", "share", "rank", "of", "tied"),
              c("text", "text", "own", "own", "percent", "rank", "count", "count"),
              c(TRUE, FALSE, TRUE, TRUE, shared, TRUE, TRUE, FALSE))
}

# Orders behind the name; lines where the book knows no orders.
own_orders <- function(own) {
  source <- own$book$source
  order <- own$book$order
  if (is.null(order) || own$book$grain == "summed") return(source_size(source))
  part <- node("aggregate", fn = "distinct", arg = node("name", name = order), where = NULL)
  source_fold(source, character(), list(n = part))$parts$n$v
}

# Months without anything since the name's first line in the whole book: list(months, of).
silent_months <- function(question, found) {
  if (is.null(found$months) || !first_metric(question)$zero) return(list(months = 0, of = 0))
  one <- these_names(question, stats::setNames(list(question$args$name), question$args$each))
  first <- source_fold(question$book$source, list(), list(day = extreme_day(question$book, "min")),
                       and_also(kept_lines(question$book), one))$parts$day
  began <- substr(format(as_day(scaled_value(first))), 1, 7)
  since <- found$months[[1]] >= began
  list(months = sum(found$months[[2]][since] == 0, na.rm = TRUE), of = sum(since))
}

# The first metric in every month of the book's lines, nothing left out.
portrait_months <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  if (is.null(args$month)) return(NULL)
  fold <- function(question) {
    fold_metrics(question$book, args$month, question$metrics[1], question$asked$where_now)
  }
  book <- fold(question)
  own <- fold(found$own)
  known <- book$keys[[1]][!is.na(book$keys[[1]])]
  if (!length(known)) return(NULL)
  span <- as.integer(as.Date(paste0(range(known), "-01")))
  # A stray date makes thousands of years of months without lines: then those with lines serve.
  months <- if (diff(span) / 30.4 > most_periods) sort(known, method = "radix") else
    unique(bucket_labels(span[1]:span[2], "month", question$book$calendar))
  pick <- function(fold) {
    at <- match(months, fold$keys[[1]])
    value <- fold$values[[1]][at]
    if (metric$zero) value[is.na(at)] <- 0
    value
  }
  lines <- own$lines[match(months, own$keys[[1]])]
  stats::setNames(data.frame(months, pick(own), pick(book), or_zero(lines)),
                  c(own_column("month", question, "portrait"), metric$name, "overall", "lines"))
}

# How the name divides over each dimension, against the book; what is the same on all its lines is
# a fact about it.
portrait_profile <- function(question, found) {
  args <- question$args
  asked <- !is.null(args$by)
  dimensions <- if (asked) args$by else
    c(telling_dimensions(question$book, c(args$each, args$month, args$weekday), args$each),
      args$weekday)
  profile <- list()
  facts <- list()
  for (dimension in dimensions) {
    own <- fold_metrics(found$own$book, dimension, question$metrics[1], NULL)
    if (!length(own$lines)) next
    if (!asked && length(own$lines) == 1)
      facts[[dimension]] <- named_keys(own$keys)[[1]] else
      profile[[dimension]] <- divide(question, found, dimension, own)
  }
  found$profile <- profile
  found$facts <- data.frame(field = as.character(names(facts)),
                            value = as.character(unlist(facts, use.names = FALSE)))
  found
}

# A dimension's names with their values here and in the book, the first `top` of them and the rest.
divide <- function(question, found, dimension, own) {
  metric <- first_metric(question)
  book <- fold_metrics(question$book, dimension, question$metrics[1], question$asked$where_now)
  name <- named_keys(book$keys)[[1]]
  at <- match(name, named_keys(own$keys)[[1]])
  all <- data.frame(name = name, value = own$values[[1]][at], overall = book$values[[1]],
                    lines = ifelse(is.na(at), 0, own$lines[at]))
  if (metric$zero) all$value[is.na(at)] <- 0
  ordered <- key_tree(question$book, dimension)
  if (ordered$kind == "computed") ordered <- ordered$tree
  ordered <- ordered$kind %in% c("bucket", "band", "banded") && nrow(all) <= 12
  # A rate is told for the names with most lines, not for those where three lines make it extreme.
  weight <- if (metric$adds_up) all$value else ifelse(is.na(at), 0, own$lines[at])
  best <- order(name == "(none)", -weight, name, na.last = TRUE, method = "radix")
  all <- all[if (ordered) match(natural_order(question$book, dimension, name), name) else best, ]
  all$index <- ratio_of(all$value, all$overall) * 100
  if (metric$adds_up) {
    all$share <- share_of_positive(all$value)
    all$book_share <- share_of_positive(all$overall)
    all$index <- ratio_of(all$share, all$book_share) * 100
  }
  shown <- if (ordered) nrow(all) else min(question$args$top, max(sum(all$lines > 0), 1))
  list(all = all, rows = with_rest(all, shown, metric$adds_up))
}

# Lines without a name are a row of their own, never among the rest.
with_rest <- function(all, shown, adds_up) {
  none <- all$name == "(none)" & seq_len(nrow(all)) > shown
  nameless <- all[none & (all$lines > 0 | adds_up), , drop = FALSE]
  all <- all[!none, , drop = FALSE]
  rest <- all[seq_len(nrow(all)) > shown, , drop = FALSE]
  all <- all[seq_len(min(shown, nrow(all))), , drop = FALSE]
  rbind(gathered_rest(all, rest, adds_up), nameless)
}

gathered_rest <- function(all, rest, adds_up) {
  if (!adds_up || !nrow(rest)) return(all)
  if (nrow(rest) == 1 && rest$lines > 0) return(rbind(all, rest))
  total <- function(x) sum(x, na.rm = TRUE)
  sums <- as.data.frame(lapply(rest[c("value", "overall", "lines", "share", "book_share")], total))
  rbind(all, data.frame(name = paste0("everyone else (", count_text(nrow(rest)), ")"), sums,
                        index = ratio_of(sums$share, sums$book_share) * 100)[names(all)])
}

# How far a dimension's shares lie from the book's: half the sum of the differences (the total
# variation distance), 0 to 1; for other metrics the mean distance of the index from 100.
profile_distance <- function(part) {
  all <- part$all
  if (is.null(all$share)) return(mean(abs(all$index / 100 - 1), na.rm = TRUE))
  sum(abs(all$share - all$book_share), na.rm = TRUE) / 2
}
