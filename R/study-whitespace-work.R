# White space, continued: the question and what is found.

little_part <- .5      # a product below this part of what is expected is a gap among few names
little_cells <- 5e6    # names times products that can be held against each other at once

whitespace_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("each", "product")), "whitespace")
  refuse_several(question, "'whitespace' looks at")
  if (length(question$args$each) > 1 || length(question$args$product) > 1)
    ll_abort("'each' and 'product' take one dimension each.", "argument")
  if (question$args$each == question$args$product)
    ll_abort("'product' must be another dimension than 'each'.", "argument")
  if (!first_metric(question)$adds_up)
    ll_abort(c(paste0("'whitespace' needs a metric that adds up, and ",
                      quoted(first_metric(question)$name), " does not."),
               i = "Sums do, such as revenue."), "argument")
  if (is.numeric(args$top) && (args$top < 1 || args$top != round(args$top)))
    ll_abort("'top' must be a whole number of names, or all.", "argument")
  if (!is.null(args$name))
    question <- with_args(
      question, name = check_names(question$book, question$args$each, args$name))
  check_shown(with_args(question, like = named_fields(question$book, args$like, "like")))
}

# The names compared, best first, those asked about, their groups and what they buy.
whitespace_names <- function(question) {
  args <- question$args
  fold <- fold_each(question)
  metric <- first_metric(question)
  value <- fold$values[[metric$name]]
  named <- which(!fold$none & !is.na(value))
  # A name that buys nothing has no rank among those compared.
  named <- named[value[named] > 0]
  by_name <- named[order(fold$keys[[1]][named], method = "radix")]
  best <- by_name[best_order(value[by_name])]
  rank <- sorted_ranks(value[best], fold$exact[[1]])
  peers <- if (identical(args$top, "all")) best else best[rank <= args$top]
  found <- list(counted = sum(fold$lines), total = fold$total,
                exact = fold$exact[metric$name], all_names = length(best), peers = length(peers))
  found[c("years", "yearly")] <- covered_years(question)
  asked <- if (is.null(args$name)) fold$keys[[1]][peers] else args$name
  names <- unique(c(fold$keys[[1]][peers], asked))
  found$names <- names
  found$name_total <- value[match(names, fold$keys[[1]])]
  found$name_total[is.na(found$name_total)] <- 0
  found$asked <- match(asked, names)
  found$group <- peer_groups(question, names)
  found$in_peers <- seq_along(names) <= length(peers)
  few <- length(peers) < 2 * args$buyers
  found$gap <- if (args$gap == "fitting") if (few) "little" else "none" else args$gap
  some <- length(peers) < length(best) || !is.null(args$name)
  where <- if (some && length(names) < found$all_names)
    and_also(question$asked$where_now, these_names(question,
                                                   stats::setNames(list(names), args$each))) else
      question$asked$where_now
  pairs <- fold_coded(question, c(args$each, args$product), where)
  at <- c(NA, match(pairs$levels[[1]], names))[pairs$codes[[1]] + 1L]
  known <- !is.na(at) & pairs$codes[[2]] > 0L
  found$product_names <- pairs$levels[[2]]
  other <- pairs$value[!known & !is.na(at)]
  keep <- function(x) if (all(known)) x else x[known]
  found$pairs <- list(name = keep(at), product = keep(pairs$codes[[2]]), value = keep(pairs$value))
  found$unproduct <- exact_total(other)
  found
}

# The group of each name by the fields of `like`, from 1.
peer_groups <- function(question, names) {
  if (!length(question$args$like)) return(list(of = rep(1L, length(names)), labels = "all"))
  question <- with_args(question, with_fields = question$args$like)
  fields <- lapply(shown_fields(question, names)$cells, function(v) {
    one_line(shown_names(as.character(v)))
  })
  label <- joined_names(fields)
  labels <- sort(unique(label), method = "radix")
  list(of = match(label, labels), labels = labels)
}

# A fold by two keys as codes: for many pairs, whose names are wanted for few.
fold_coded <- function(question, keys, where) {
  trees <- key_trees(question$book, keys, question$asked$where_now)
  tree <- first_metric(question)$tree
  fold <- source_pairs(question$book$source, trees, parts_of(list(tree)), where)
  value <- scaled_value(metric_value(tree, fold$parts))
  list(codes = fold$keys, levels = fold$levels, value = rep_len(value, length(fold$lines)))
}

# Products not bought at all.
gaps_of_none <- function(question, found) {
  args <- question$args
  groups <- length(found$group$labels)
  of <- found$group$of
  judged <- products_of_groups(found$pairs, of, found$in_peers, found$name_total, groups,
                               length(found$product_names), args$buyers)
  judged <- judged[order(judged$group, judged$product), ]
  at <- judged_row(judged, of[found$pairs$name], found$pairs$product)
  whole <- worth_of_gaps(judged, found$pairs, at, found$in_peers, found$name_total)
  found$worth <- function(row, names) whole(row, names) / found$years
  best <- best_gaps(judged, found$pairs, at, of, found$asked, args$max_gaps,
                    found$worth)
  # The others of a name that is compared are one fewer than all of them.
  members <- judged$peers
  judged$peers <- members - any(found$in_peers[found$asked])
  judged$common <- judged$buyers / pmax(judged$peers, 1)
  judged$gaps <- best$count
  judged$together <- best$together
  found$gap_count <- sum(best$count)
  gaps <- best$gaps
  gaps$product <- judged$product[gaps$row]
  gaps <- cbind(gaps, judged[gaps$row, c("buyers", "typical", "typical_share")])
  gaps$peers <- members[gaps$row] - found$in_peers[gaps$name]
  gaps$common <- gaps$buyers / pmax(gaps$peers, 1)
  found$gaps <- gaps
  found$judged <- judged
  found$last <- if (!is.null(question$asked$now) && nrow(found$gaps)) last_bought(question, found)
  products <- data.frame(product = found$product_names[judged$product], buyers = judged$buyers,
                         peers = judged$peers, common = judged$common, typical = judged$typical,
                         typical_share = judged$typical_share, gaps = judged$gaps,
                         together = judged$together)
  names(products)[1] <- args$product
  if (groups > 1) products$like <- found$group$labels[judged$group]
  found$products <- products[order(-products$together), ]
  found
}

# How many years the question's lines cover, and whether worth is said by the year: lines of less
# than a year are not stretched to one.
covered_years <- function(question) {
  if (!length(question$book$days)) return(list(years = 1, yearly = FALSE))
  first <- first_day(question$book)
  last <- last_day(question$book)
  now <- question$asked$now %||% list(from = first, to = last)
  days <- as.numeric(min(now$to, last) - max(now$from, first)) + 1
  list(years = max(days / 365.25, 1), yearly = days >= 365)
}

# The same reckoning a year before, and what of it came true in the year after: list(cut, worth,
# came, gaps); NULL where the book is too short or there was no gap.
tried_worth <- function(question, found) {
  args <- question$args
  if (!length(question$book$days) || last_day(question$book) - 2 * 365 < first_day(question$book) -
      part_days)
    return(NULL)
  cut <- last_day(question$book) - 365
  ask <- function(from, to) {
    now <- period(from, to, "", span_text(from, to))
    inside <- in_period(question$book, now)
    with_asked(question, now = now, period_now = inside,
               where_now = and_also(question$asked$where_ever, inside))
  }
  then <- with_args(ask(cut - 364, cut), name = NULL, gap = "none")
  before <- whitespace_names(then)
  if (!length(before$names)) return(NULL)
  before <- gaps_of_none(then, before)
  gaps <- before$gaps
  worth <- sum(gaps$worth)
  if (!isTRUE(worth > 0)) return(NULL)
  names <- before$names[unique(gaps$name)]
  year <- ask(cut + 1, last_day(question$book))
  after <- fold_coded(year, c(args$each, args$product), and_also(
    year$asked$where_now, these_names(year, stats::setNames(list(names), args$each))))
  known <- after$codes[[1]] > 0L & after$codes[[2]] > 0L
  at <- match_keys(list(before$names[gaps$name], before$product_names[gaps$product]),
                   list(after$levels[[1]][after$codes[[1]][known]],
                        after$levels[[2]][after$codes[[2]][known]]))
  list(cut = cut, worth = worth, gaps = nrow(gaps),
       came = exact_total(after$value[known][at]))
}

# Products that sell far less here than elsewhere.
gaps_of_little <- function(question, found) {
  args <- question$args
  n <- length(found$names)
  if (n * length(found$product_names) > little_cells)
    ll_abort(c(paste0("'gap' little holds every name against every product: ",
                      plural(n, each_word(question)),
                      " by ", count_text(length(found$product_names)), " is too many."),
               i = "Narrow with 'top' or 'where', or use gap = \"none\"."), "argument")
  if (length(found$group$labels) > 1)
    ll_abort("'like' goes with gap = \"none\"; narrow with 'where' instead.", "argument")
  short <- short_of_others(found$pairs, found$name_total, n, length(found$product_names),
                           little_part)
  short <- short[short$name %in% found$asked, ]
  found$short <- short
  found$gap_count <- nrow(short)
  found$gaps <- utils::head(short, args$max_gaps)
  found$gaps$worth <- found$gaps$short
  together <- rowsum(short$short, short$product, reorder = FALSE)
  products <- data.frame(product = found$product_names[as.integer(rownames(together))],
                         gaps = as.vector(table(factor(short$product, rownames(together)))),
                         together = together[, 1], row.names = NULL)
  names(products)[1] <- args$product
  found$products <- products[order(-products$together), ]
  found
}

# When each gap was last bought outside the question's period.
last_bought <- function(question, found) {
  args <- question$args
  # Lines inside it that cancel are no gap's last.
  where <- and_also(question$asked$where_ever,
                    unmet(question$asked$period_now))
  for (key in c(args$each, args$product)) {
    codes <- unique(if (key == args$each) found$gaps$name else found$gaps$product)
    names <- if (key == args$each) found$names[codes] else found$product_names[codes]
    where <- and_also(where, these_names(question, stats::setNames(list(names), key)))
  }
  day <- list(day = list(tree = extreme_day(question$book, "max")))
  fold <- fold_metrics(question$book, c(args$each, args$product), day, where)
  at <- match_keys(list(found$names[found$gaps$name], found$product_names[found$gaps$product]),
                   fold$keys)
  as_day(fold$values[[1]][at])
}

whitespace_found <- found_of(
  "whitespace",
  all_names = holds("count", "one", "names that could be compared"),
  peers = holds("count", "one", "names compared"),
  yearly = holds("flag", "one", "whether worth is by the year"),
  names = holds("text", "name", "names compared or asked about"),
  name_total = holds("metric", "name", "what each buys in all"),
  in_peers = holds("flag", "name", "whether it is compared"),
  asked = holds("count", NULL, "those asked about, by their number"),
  group = holds("list", NULL, "of (each name's group), labels"),
  gap = holds("text", "one", "none or little"),
  product_names = holds("text", NULL, "the products"),
  pairs = holds("list", NULL, "name, product, value: what is bought"),
  unproduct = holds("metric", "one", "what has no product"),
  gap_count = holds("count", "one", "gaps in all"),
  gaps = holds("table", NULL, "name, product, worth, ...: those worth most first"),
  products = holds("table", NULL, "the products with gaps, worth most together first"),
  judged = holds("table", NULL, "group, product, buyers, typical, ...",
                 absent = "for gaps of little"),
  worth = holds("any", NULL, "what a gap is worth, a function of product and names",
                absent = "for gaps of little"),
  last = holds("date", NULL, "when each gap was last bought outside the period",
               missing = "never", absent = "without a period or gaps"),
  short = holds("table", NULL, "every product that sells far less", absent = "for gaps of none"),
  tried = holds("list", NULL, "cut, worth, gaps, came: the same a year before",
                absent = "where the book is too short, or there is no gap"))

whitespace_work <- function(question) {
  found <- whitespace_names(question)
  none <- found$gap == "none"
  found <- if (none) gaps_of_none(question, found) else gaps_of_little(question, found)
  found$tried <- if (none && nrow(found$gaps)) tried_worth(question, found)
  do.call(whitespace_found, found[names(found) != "years"])
}
