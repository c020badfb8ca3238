# Distribution, continued: the question and what is found.

bins_most <- 60

distribution_question <- function(book, args) {
  if (!is.null(args$width) && args$width <= 0)
    ll_abort(c("'width' must be above zero.", x = paste0("It is ", args$width, ".")), "argument")
  q <- refuse_compared(ask_book(book, args, c("each", "by")), "distribution")
  refuse_several(q, "'distribution' looks at")
  if (length(q$by) > 1 || length(q$each) > 1)
    ll_abort("'each' and 'by' take one dimension each.", "argument")
  if (is.null(q$each)) refuse_no_sum(q$first)
  q
}

# Every value that lines or names have, how many have it (`times`), and the name of `by`.
distribution_values <- function(q) {
  total <- fold_question(q, character())
  s <- list(q = q, total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
            lines = total$lines)
  s <- if (is.null(q$each)) line_values(s) else name_values(s)
  settle_groups(s)
}

name_values <- function(s) {
  q <- s$q
  fold <- fold_question(q, c(q$by, q$each))
  named <- !is.na(fold$keys[[q$each]])
  value <- fold$values[[1]][named]
  known <- !is.na(value)
  group <- if (is.null(q$by)) rep("", sum(named)) else named_keys(fold$keys[q$by])[[1]][named]
  at <- order(value, na.last = NA)
  s$missing <- sum(!known)
  s$value <- value[at]
  s$times <- rep(1, length(at))
  s$name <- fold$keys[[q$each]][named][at]
  s$group <- group[at]
  # Whether a name stands in several groups, once in each.
  s$split <- anyDuplicated(fold$keys[[q$each]][named]) > 0
  s$nameless <- fold$values[[1]][!named]
  s$counted <- sum(fold$lines)
  s
}

line_values <- function(s) {
  q <- s$q
  by <- if (!is.null(q$by)) bind_scope(key_tree(q$book, q$by), q$asked$where_now)
  counted <- source_counted(q$book$source, q$first$tree$arg, by, q$asked$where_now)
  s$nameless <- numeric()
  s$missing <- counted$missing
  s$counted <- sum(counted$times) + counted$missing
  s$value <- counted$value
  s$times <- counted$times
  s$group <- if (is.null(by)) rep("", length(s$value)) else
    shown_names(counted$group)
  s
}

# Groups are the six largest, the rest gathered.
settle_groups <- function(s) {
  names <- sort(unique(s$group), method = "radix")
  size <- vapply(names, function(name) sum(s$times[s$group == name]), 0)
  s$groups <- names[order(-size)]
  if (length(s$groups) > 6) {
    s$group[!s$group %in% s$groups[1:6]] <- "everyone else"
    s$groups <- c(s$groups[1:6], "everyone else")
  }
  # In rising order whatever the groups, so that running counts find quantiles.
  at <- order(s$value)
  for (part in c("value", "times", "group", "name")) s[[part]] <- s[[part]][at]
  s$n <- sum(s$times)
  s
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
    # What lies far out is gathered at open ends; zero stays a bound where there are losses.
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
band_of <- function(s) findInterval(s$value + abs(s$value) * 1e-12, s$bounds$at)

# The lines of each band: by their own value, or by the names whose value lies in it.
band_conditions <- function(s, table) {
  q <- s$q
  lapply(seq_len(nrow(table)), function(i) {
    group <- if (is.null(q$by)) "" else table[[q$by]][i]
    if (group == "everyone else") return(NULL)
    out <- if (is.null(q$each)) value_within(q, table$from[i], table$to[i]) else
      names_within(s, group, table$from[i], table$to[i])
    and_also(out, if (!is.null(q$by)) name_condition(q, q$by, group, NULL))
  })
}

names_within <- function(s, group, from, to) {
  at <- s$group == group & (is.na(from) | s$value >= from) & (is.na(to) | s$value < to)
  node("within", arg = bind_scope(key_tree(s$q$book, s$q$each), s$q$asked$where_now),
       set = node("set", values = s$name[at]))
}

value_within <- function(q, from, to) {
  side <- function(op, bound) {
    if (is.na(bound)) return(NULL)
    node("compare", op = op, type = "number",
         args = list(q$first$tree$arg, node("number", value = bound)))
  }
  known <- unmet(node("missing", arg = q$first$tree$arg))
  and_also(and_also(side(">=", from), side("<", to)), if (is.na(from) && is.na(to)) known)
}
