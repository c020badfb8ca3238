# White space, continued: the question and what is found.

little_part <- .5      # a product below this part of what is expected is a gap among few names
little_cells <- 5e6    # names times products that can be held against each other at once

whitespace_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("each", "product")), "whitespace")
  refuse_several(q, "'whitespace' looks at")
  if (length(q$each) > 1 || length(q$product) > 1)
    ll_abort("'each' and 'product' take one dimension each.", "argument")
  if (q$each == q$product)
    ll_abort("'product' must be another dimension than 'each'.", "argument")
  if (!q$first$adds_up)
    ll_abort(c(paste0("'whitespace' needs a metric that adds up, and ", quoted(q$first$name),
                      " does not."), i = "Sums do, such as revenue."), "argument")
  if (is.numeric(q$top) && (q$top < 1 || q$top != round(q$top)))
    ll_abort("'top' must be a whole number of names, or all.", "argument")
  if (!is.null(q$name)) check_names(q$book, q$each, q$name)
  q$like <- named_fields(q$book, q$like, "like")
  check_shown(q)
}

# The names compared, best first, those asked about, their groups and what they buy.
whitespace_names <- function(q) {
  f <- fold_each(q)
  m <- q$first
  value <- f$values[[m$name]]
  named <- which(!f$none & !is.na(value))
  # A name that buys nothing has no place among those compared.
  named <- named[value[named] > 0]
  by_name <- named[order(f$keys[[1]][named], method = "radix")]
  best <- by_name[best_order(value[by_name])]
  place <- sorted_places(value[best], f$exact[[1]])
  peers <- if (identical(q$top, "all")) best else best[place <= q$top]
  s <- list(q = q, counted = sum(f$lines), total = f$total, exact = f$exact[m$name],
            all_names = length(best), peers = length(peers))
  s[c("years", "yearly")] <- covered_years(q)
  asked <- if (is.null(q$name)) f$keys[[1]][peers] else q$name
  names <- unique(c(f$keys[[1]][peers], asked))
  s$names <- names
  s$name_total <- value[match(names, f$keys[[1]])]
  s$name_total[is.na(s$name_total)] <- 0
  s$asked <- match(asked, names)
  s$group <- peer_groups(q, names)
  s$in_peers <- seq_along(names) <= length(peers)
  few <- length(peers) < 2 * q$buyers
  s$gap <- if (q$gap == "fitting") if (few) "little" else "none" else q$gap
  some <- length(peers) < length(best) || !is.null(q$name)
  where <- if (some && length(names) < s$all_names)
    and_also(q$asked$where_now, these_names(q, stats::setNames(list(names), q$each))) else
      q$asked$where_now
  pairs <- fold_coded(q, c(q$each, q$product), where)
  at <- c(NA, match(pairs$levels[[1]], names))[pairs$codes[[1]] + 1L]
  known <- !is.na(at) & pairs$codes[[2]] > 0L
  s$product_names <- pairs$levels[[2]]
  other <- pairs$value[!known & !is.na(at)]
  keep <- function(x) if (all(known)) x else x[known]
  s$pairs <- list(name = keep(at), product = keep(pairs$codes[[2]]), value = keep(pairs$value))
  s$unproduct <- exact_total(other)
  s
}

# The group of each name by the fields of `like`, from 1.
peer_groups <- function(q, names) {
  if (!length(q$like)) return(list(of = rep(1L, length(names)), labels = "all"))
  q$show <- q$like
  fields <- lapply(shown_fields(q, names)$cells, function(v) {
    one_line(shown_names(as.character(v)))
  })
  label <- joined_names(fields)
  labels <- sort(unique(label), method = "radix")
  list(of = match(label, labels), labels = labels)
}

# A fold by two keys as codes: for many pairs, whose names are wanted for few.
fold_coded <- function(q, keys, where) {
  trees <- key_trees(q$book, keys, q$asked$where_now)
  tree <- q$first$tree
  fold <- source_pairs(q$book$source, trees, parts_of(list(tree)), where)
  value <- scaled_value(metric_value(tree, fold$parts))
  list(codes = fold$keys, levels = fold$levels, value = rep_len(value, length(fold$lines)))
}

# Products not bought at all.
gaps_of_none <- function(s) {
  q <- s$q
  groups <- length(s$group$labels)
  of <- s$group$of
  judged <- products_of_groups(s$pairs, of, s$in_peers, s$name_total, groups,
                               length(s$product_names), q$buyers)
  judged <- judged[order(judged$group, judged$product), ]
  at <- judged_row(judged, of[s$pairs$name], s$pairs$product)
  whole <- worth_of_gaps(judged, s$pairs, at, s$in_peers, s$name_total)
  s$worth <- function(row, names) whole(row, names) / s$years
  found <- best_gaps(judged, s$pairs, at, of, s$asked, q$most, s$worth)
  # The others of a name that is compared are one fewer than all of them.
  members <- judged$peers
  judged$peers <- members - any(s$in_peers[s$asked])
  judged$common <- judged$buyers / pmax(judged$peers, 1)
  judged$gaps <- found$count
  judged$together <- found$together
  s$found <- sum(found$count)
  gaps <- found$gaps
  gaps$product <- judged$product[gaps$row]
  gaps <- cbind(gaps, judged[gaps$row, c("buyers", "typical", "typical_share")])
  gaps$peers <- members[gaps$row] - s$in_peers[gaps$name]
  gaps$common <- gaps$buyers / pmax(gaps$peers, 1)
  s$gaps <- gaps
  s$judged <- judged
  s$last <- if (!is.null(q$asked$now) && nrow(s$gaps)) last_bought(s)
  products <- data.frame(product = s$product_names[judged$product], buyers = judged$buyers,
                         peers = judged$peers, common = judged$common, typical = judged$typical,
                         typical_share = judged$typical_share, gaps = judged$gaps,
                         together = judged$together)
  names(products)[1] <- q$product
  if (groups > 1) products$like <- s$group$labels[judged$group]
  s$products <- products[order(-products$together), ]
  s
}

# How many years the question's lines cover, and whether worth is said by the year: lines of less
# than a year are not stretched to one.
covered_years <- function(q) {
  if (!length(q$book$days)) return(list(years = 1, yearly = FALSE))
  now <- q$asked$now %||% list(from = first_day(q$book), to = last_day(q$book))
  days <- as.numeric(min(now$to, last_day(q$book)) - max(now$from, first_day(q$book))) + 1
  list(years = max(days / 365.25, 1), yearly = days >= 365)
}

# The same reckoning a year before, and what of it came true in the year after: list(cut, worth,
# came, gaps); NULL where the book is too short or there was no gap.
tried_worth <- function(s) {
  q <- s$q
  if (!length(q$book$days) || last_day(q$book) - 2 * 365 < first_day(q$book) - part_days)
    return(NULL)
  cut <- last_day(q$book) - 365
  ask <- function(from, to) {
    p <- period(from, to, "", span_text(from, to))
    q$asked$now <- p
    q$asked$period_now <- in_period(q$book, p)
    q$asked$where_now <- and_also(q$asked$where_ever, q$asked$period_now)
    q
  }
  then <- ask(cut - 364, cut)
  then$name <- NULL
  then$gap <- "none"
  before <- whitespace_names(then)
  if (!length(before$names)) return(NULL)
  before <- gaps_of_none(before)
  gaps <- before$gaps
  worth <- sum(gaps$worth)
  if (!isTRUE(worth > 0)) return(NULL)
  names <- before$names[unique(gaps$name)]
  after <- ask(cut + 1, last_day(q$book))
  after <- fold_coded(after, c(q$each, q$product), and_also(
    after$asked$where_now, these_names(after, stats::setNames(list(names), q$each))))
  known <- after$codes[[1]] > 0L & after$codes[[2]] > 0L
  at <- match_keys(list(before$names[gaps$name], before$product_names[gaps$product]),
                   list(after$levels[[1]][after$codes[[1]][known]],
                        after$levels[[2]][after$codes[[2]][known]]))
  list(cut = cut, worth = worth, gaps = nrow(gaps),
       came = exact_total(after$value[known][at]))
}

# Products that sell far less here than elsewhere.
gaps_of_little <- function(s) {
  q <- s$q
  n <- length(s$names)
  if (n * length(s$product_names) > little_cells)
    ll_abort(c(paste0("'gap' little holds every name against every product: ", plural(n, "name"),
                      " by ", count_text(length(s$product_names)), " is too many."),
               i = "Narrow with 'top' or 'where', or use gap = \"none\"."), "argument")
  if (length(s$group$labels) > 1)
    ll_abort("'like' goes with gap = \"none\"; narrow with 'where' instead.", "argument")
  short <- short_of_others(s$pairs, s$name_total, n, length(s$product_names), little_part)
  short <- short[short$name %in% s$asked, ]
  s$short <- short
  s$found <- nrow(short)
  s$gaps <- utils::head(short, q$most)
  s$gaps$worth <- s$gaps$short
  together <- rowsum(short$short, short$product, reorder = FALSE)
  products <- data.frame(product = s$product_names[as.integer(rownames(together))],
                         gaps = as.vector(table(factor(short$product, rownames(together)))),
                         together = together[, 1], row.names = NULL)
  names(products)[1] <- q$product
  s$products <- products[order(-products$together), ]
  s
}

# When each gap was last bought outside the question's period.
last_bought <- function(s) {
  q <- s$q
  # Lines inside it that cancel are no gap's last.
  where <- and_also(q$asked$where_ever,
                    unmet(q$asked$period_now))
  for (key in c(q$each, q$product)) {
    codes <- unique(if (key == q$each) s$gaps$name else s$gaps$product)
    names <- if (key == q$each) s$names[codes] else s$product_names[codes]
    where <- and_also(where, these_names(q, stats::setNames(list(names), key)))
  }
  day <- list(day = list(tree = extreme_day(q$book, "max")))
  fold <- fold_metrics(q$book, c(q$each, q$product), day, where)
  at <- match_keys(list(s$names[s$gaps$name], s$product_names[s$gaps$product]), fold$keys)
  as_day(fold$values[[1]][at])
}
