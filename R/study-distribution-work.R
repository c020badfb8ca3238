# Distribution, continued: the question and what is found.

bins_most <- 60

distribution_question <- function(book, args) {
  if (!is.null(args$width) && args$width <= 0)
    ll_abort(c("'width' must be above zero.", x = paste0("It is ", args$width, ".")), "argument")
  question <- refuse_compared(ask_book(book, args, c("each", "by")), "distribution")
  refuse_several(question, "'distribution' looks at")
  if (length(question$args$by) > 1 || length(question$args$each) > 1)
    ll_abort("'each' and 'by' take one dimension each.", "argument")
  if (is.null(question$args$each)) refuse_no_sum(first_metric(question))
  question
}

distribution_found <- found_of(
  "distribution",
  lines = holds("count", "one", "lines asked for"),
  value = holds("metric", "value", "every value that occurs, rising"),
  times = holds("count", "value", "how many lines or names have it"),
  group = holds("text", "value", "the name of `by` it stands for, nothing without"),
  name = holds("text", "value", "who has it", absent = "where lines have them"),
  groups = holds("text", NULL, "the names of `by`, largest first, everyone else last"),
  n = holds("count", "one", "how many lines or names have a value"),
  missing = holds("count", "one", "how many have none"),
  nameless = holds("metric", NULL, "values of lines without a name",
                   missing = "where such lines have no value"),
  split = holds("flag", "one", "whether a name stands in several groups",
                absent = "where lines have the values"),
  bounds = holds("list", NULL, "at, width, low, high: the bands, and whether their ends are open"),
  bands = holds("table", NULL, "from, to, count, held and their shares, a row for each band"))

# Every value that lines or names have, how many have it (`times`), and the name of `by`.
distribution_work <- function(question) {
  total <- fold_question(question, character())
  found <- list(total = as.list(total$values[1, , drop = FALSE]),
                exact = total$exact, lines = total$lines)
  found <- if (is.null(question$args$each)) line_values(question, found) else
    name_values(question, found)
  found <- settle_groups(found)
  found$bounds <- value_bounds(found$value, question$args$width, found$times)
  found$bands <- count_bands(question, found)
  do.call(distribution_found, found)
}

name_values <- function(question, found) {
  args <- question$args
  fold <- fold_question(question, c(args$by, args$each))
  named <- !is.na(fold$keys[[args$each]])
  value <- fold$values[[1]][named]
  known <- !is.na(value)
  group <- if (is.null(args$by)) rep("", sum(named)) else named_keys(fold$keys[args$by])[[1]][named]
  at <- order(value, na.last = NA)
  found$missing <- sum(!known)
  found$value <- value[at]
  found$times <- rep(1, length(at))
  found$name <- fold$keys[[args$each]][named][at]
  found$group <- group[at]
  # Whether a name stands in several groups, once in each.
  found$split <- anyDuplicated(fold$keys[[args$each]][named]) > 0
  found$nameless <- fold$values[[1]][!named]
  found$counted <- sum(fold$lines)
  found
}

line_values <- function(question, found) {
  args <- question$args
  by <- if (!is.null(args$by)) bind_scope(key_tree(question$book, args$by),
                                          question$asked$where_now)
  counted <- source_counted(question$book$source, first_metric(question)$tree$arg, by,
                            question$asked$where_now)
  found$nameless <- numeric()
  found$missing <- counted$missing
  found$counted <- sum(counted$times) + counted$missing
  found$value <- counted$value
  found$times <- counted$times
  found$group <- if (is.null(by)) rep("", length(found$value)) else
    shown_names(counted$group)
  found
}

# Groups are the six largest, the rest gathered; a single one that is left is itself.
settle_groups <- function(found) {
  names <- sort(unique(found$group), method = "radix")
  size <- vapply(names, function(name) sum(found$times[found$group == name]), 0)
  found$groups <- names[order(-size)]
  if (length(found$groups) > 7) {
    found$group[!found$group %in% found$groups[1:6]] <- "everyone else"
    found$groups <- c(found$groups[1:6], "everyone else")
  }
  # In rising order whatever the groups, so that running counts find quantiles.
  at <- order(found$value)
  for (part in c("value", "times", "group", "name")) found[[part]] <- found[[part]][at]
  found$n <- sum(found$times)
  found
}

# Bounds of the bands, for values that rise: a round width, zero among them; list(at, width, low,
# high), open ends told.
value_bounds <- function(value, width = NULL, times = rep(1, length(value))) {
  if (!length(value)) return(list(at = c(0, 1), width = 1, low = FALSE, high = FALSE))
  given <- !is.null(width)
  if (!given) width <- round_width(value, times)
  reach <- function(p) floor(counted_quantile(value, times, p) / width + 1e-9)
  middle <- c(.005, .995)
  if (!given) while (diff(reach(middle)) >= bins_most * 2 / 3) width <- next_round(width)
  whole <- reach(c(0, 1)) + 0:1
  ends <- whole
  if (diff(whole) > (if (given) bins_most else bins_most / 2)) {
    # What is an outlier is gathered at open ends; zero stays a bound where there are losses.
    ends <- reach(middle) + 0:1
    if (whole[1] < 0) ends[1] <- min(ends[1], 0)
    if (diff(ends) > bins_most) ends[2] <- ends[1] + bins_most
  }
  list(at = seq(ends[1], ends[2]) * width, width = width, low = whole[1] < ends[1],
       high = whole[2] > ends[2])
}

# Freedman and Diaconis, made round; whole numbers have bands of at least one.
round_width <- function(value, times) {
  spread <- diff(counted_quantile(value, times, c(.25, .75)))
  range <- diff(range(value))
  width <- if (spread > 0) 2 * spread / sum(times)^(1 / 3) else range / 20
  if (width <= 0) return(if (value[1] == 0) 1 else 10^floor(log10(abs(value[1]))))
  power <- 10^floor(log10(width))
  width <- round_steps[which.min(abs(log(width / power / round_steps)))] * power
  if (all(value == round(value))) max(1, round(width)) else width
}

round_steps <- c(1, 2, 2.5, 5, 10)

next_round <- function(width) {
  power <- 10^floor(log10(width) + 1e-9)
  round_steps[which(round_steps > width / power + 1e-9)[1]] * power
}

# The band of each value: 0 below the first bound, as many as bounds above the last.
band_of <- function(found) findInterval(found$value + abs(found$value) * 1e-12, found$bounds$at)

# The lines of each band: by their own value, or by the names whose value lies in it.
band_conditions <- function(question, found) {
  args <- question$args
  table <- found$bands
  lapply(seq_len(nrow(table)), function(i) {
    group <- if (is.null(args$by)) "" else table[[args$by]][i]
    if (group == "everyone else") return(NULL)
    out <- if (is.null(args$each)) value_within(question, table$from[i], table$to[i]) else
      names_within(question, found, group, table$from[i], table$to[i])
    and_also(out, if (!is.null(args$by)) name_condition(question, args$by, group, NULL))
  })
}

names_within <- function(question, found, group, from, to) {
  at <- found$group == group & (is.na(from) | found$value >= from) & (is.na(to) | found$value < to)
  node("within", arg = bind_scope(key_tree(question$book, question$args$each),
                                  question$asked$where_now),
       set = node("set", values = found$name[at]))
}

value_within <- function(question, from, to) {
  metric <- first_metric(question)
  side <- function(op, bound) {
    if (is.na(bound)) return(NULL)
    node("compare", op = op, type = "number",
         args = list(metric$tree$arg, node("number", value = bound)))
  }
  known <- unmet(node("missing", arg = metric$tree$arg))
  and_also(and_also(side(">=", from), side("<", to)), if (is.na(from) && is.na(to)) known)
}

# A row for each band of each group: its bounds, how many lie in it and what they hold.
count_bands <- function(question, found) {
  by <- question$args$by
  at <- found$bounds$at
  n <- length(at)
  first <- if (found$bounds$low) 0 else 1
  last <- if (found$bounds$high) n else n - 1
  band <- pmin(pmax(band_of(found), first), last)
  bands <- seq(first, last)
  blocks <- lapply(found$groups, function(group) {
    mine <- found$group == group
    at_band <- factor(band[mine], bands)
    sums <- function(x) unname(vapply(split(x[mine], at_band), sum, 0))
    count <- sums(found$times)
    held <- sums(found$value * found$times)
    positive <- sum((found$value * found$times)[mine & found$value > 0])
    out <- data.frame(from = c(NA, at)[bands + 1], to = c(at, NA)[bands + 1], count = count,
                      count_share = count / sum(count),
                      count_running_share = cumsum(count) / sum(count),
                      held = held, held_share = if (positive > 0) held / positive else NA)
    if (!is.null(by)) out <- cbind(stats::setNames(data.frame(group), by), out)
    out
  })
  table <- if (length(blocks)) do.call(rbind, blocks) else
    data.frame(from = numeric(), to = numeric(), count = numeric(), count_share = numeric(),
               count_running_share = numeric(), held = numeric(), held_share = numeric())
  if (!length(blocks) && !is.null(by))
    table <- cbind(stats::setNames(data.frame(character()), by), table)
  rownames(table) <- NULL
  table
}
