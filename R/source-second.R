# The second route to a total: plain base R over the raw columns, with no grouping kernels, no codes
# and no scaled numbers. It shares no code with the fold, so that the proof can hold one against the
# other. Over millions of lines the commonest steps are loops of their own, src/second.cpp, which
# share none with the fold either.

# Lines from which on.
second_loops <- function(source) source$n >= getOption("longladder.second_loops", 1e6)

#' @export
second_lines.frame_source <- function(source, aside, only, period) {
  asked <- Filter(Negate(is.null), list(aside, only, period))
  if (!length(asked))
    return(list(keep = NULL, exclude = 0, outside_conditions = 0, outside_period = 0))
  left <- if (!is.null(aside)) !second_condition(source, aside)
  out <- list(exclude = if (is.null(aside)) 0 else source$n - sum(left), outside_conditions = 0,
              outside_period = 0)
  # Those that each step leaves; the difference is what it puts outside.
  count <- source$n - out$exclude
  step <- function(tree) {
    met <- second_meets(source, tree, left)
    left <<- met$keep
    outside <- count - met$count
    count <<- met$count
    outside
  }
  if (!is.null(only)) out$outside_conditions <- step(only)
  if (!is.null(period)) out$outside_period <- step(period)
  out$keep <- left
  out
}

#' @export
second_metrics.frame_source <- function(source, trees, keep, before = NULL) {
  # Metrics of one question share aggregates.
  of <- function(pick) {
    rows <- NULL
    answers_once(function(part) {
      out <- if (second_loops(source)) second_looped(source, part, pick)
      if (!is.null(out)) return(out)
      if (!is.null(pick)) rows <<- rows %||% which(pick)
      unname(second_aggregate(source, part, rows, NULL))
    })
  }
  now <- of(keep)
  was <- if (!is.null(before)) of(before)
  vapply(trees, second_total, 0, now = now, was = was)
}

# A function of a tree that is asked only once for each.
answers_once <- function(ask) {
  asked <- answers <- list()
  function(tree) {
    at <- Position(function(one) identical(one, tree), asked)
    if (!is.na(at)) return(answers[[at]])
    asked <<- c(asked, list(tree))
    answers <<- c(answers, list(ask(tree)))
    answers[[length(answers)]]
  }
}

#' @export
second_pick.frame_source <- function(source, tree) second_condition(source, tree)

#' @export
second_held.frame_source <- function(source, tree, keep) {
  of <- second_names(source, tree)
  of$names[tabulate(if (is.null(keep)) of$at else of$at[keep], length(of$names)) > 0]
}

#' @export
second_sums.frame_source <- function(source, each, product, tree, keep) {
  who <- second_names(source, each)
  what <- second_names(source, product)
  group <- who$at + length(who$names) * (what$at - 1)
  rows <- which((keep %||% TRUE) & !is.na(group))
  if (!length(rows)) return(data.frame(each = character(), product = character(),
                                       value = numeric()))
  by <- factor(group[rows])
  id <- as.numeric(levels(by)) - 1
  data.frame(each = who$names[id %% length(who$names) + 1],
             product = what$names[id %/% length(who$names) + 1],
             value = second_by(source, tree, rows, by))
}

#' @export
second_cells.frame_source <- function(source, names) {
  vapply(names, function(name) {
    x <- raw_field(source, name)
    if (is.factor(x)) return(as.double(sum(tabulate(x, nlevels(x))[!is_blank(levels(x))])))
    if (second_loops(source) && is.numeric(x)) return(kernel_second_sum(x, NULL)[2])
    blank <- if (is.character(x)) second_blanks(source, name)
    as.double(sum(!is.na(x)) - if (length(blank)) sum(x %in% blank) else 0)
  }, 0)
}

# A metric over lines `rows` (all when NULL) for each level of the factor `by`, one of which each
# row has; over all of them together when NULL.
second_by <- function(source, tree, rows, by) {
  second_total(tree, function(part) second_aggregate(source, part, rows, by))
}

# Arithmetic between aggregates; `now` and `was` give an aggregate's value in each period, `was` is
# NULL where there is no other.
second_total <- function(tree, now, was = NULL) {
  switch(tree$kind,
         number = , date = tree$value,
         versus = {
           if (is.null(was)) return(NA_real_)
           a <- second_total(tree$arg, now)
           b <- second_total(tree$arg, was)
           if (tree$fn == "change") return(a - b)
           if (is.na(b) || b <= 0) NA_real_ else (a - b) / b
         },
         op = second_op(tree$op, lapply(tree$args, second_total, now = now, was = was)),
         aggregate = now(tree))
}

second_op <- function(op, args) {
  a <- args[[1]]
  if (op == "abs") return(abs(a))
  if (length(args) == 1) return(-a)
  b <- args[[2]]
  if (op == "/") b[!is.na(b) & b == 0] <- NA
  switch(op, `+` = a + b, `-` = a - b, `*` = a * b, `/` = a / b, pmin = pmin(a, b),
         pmax = pmax(a, b))
}

second_aggregate <- function(source, tree, rows, by) {
  if (!is.null(tree$arg) && tree$arg$kind == "per") return(second_per(source, tree, rows))
  if (!is.null(tree$where)) {
    meets <- second_condition(source, tree$where)
    if (!is.null(rows)) meets <- meets[rows]
    rows <- if (is.null(rows)) which(meets) else rows[meets]
    by <- by[meets]
  }
  lines <- if (is.null(rows)) source$n else length(rows)
  if (is.null(tree$arg)) return(as.double(if (is.null(by)) lines else tabulate(by, nlevels(by))))
  if (tree$fn == "distinct" && is.null(by) && is_name_field(source, tree$arg))
    return(second_names_count(source, tree$arg, rows))
  values <- for_lines(source, second_row(source, tree$arg))
  if (!is.null(rows)) values <- values[rows]
  groups <- if (is.null(by)) list(values) else split(values, by)
  vapply(groups, second_summary, 0, tree = tree)
}

# Counts of lines, of values and of names, and sums, over the lines to keep; NULL for what else
# there is.
second_looped <- function(source, tree, keep) {
  arg <- tree$arg
  names <- !is.null(arg) && is_name_field(source, arg)
  adds <- tree$fn %in% c("sum", "count") && !names && !identical(arg$kind, "per")
  if (!is.null(arg) && !adds && !(tree$fn == "distinct" && names)) return(NULL)
  if (!is.null(tree$where)) keep <- second_meets(source, tree$where, keep)$keep
  if (is.null(arg)) return(as.double(if (is.null(keep)) source$n else sum(keep)))
  if (names) {
    of <- second_names(source, arg)
    return(as.double(sum(kernel_second_seen(of$at, keep, length(of$names)))))
  }
  raw <- if (arg$kind == "name" && field_at(source, arg$name)$type == "number")
    raw_field(source, arg$name)
  values <- raw %||% for_lines(source, second_row(source, arg))
  if (!is.numeric(values)) return(NULL)
  out <- kernel_second_sum(values, keep)
  if (tree$fn == "count") return(out[2])
  if (!out[2] && (if (is.null(keep)) source$n > 0 else any(keep))) NA_real_ else out[1]
}

# How many names of a field these lines have. Of all lines they are known once looked for. Of some,
# looking all names up is dearer than counting these once; but who asks once asks again.
second_names_count <- function(source, tree, rows) {
  name <- tree$name
  if (is.null(rows))
    return(as.double(length(second_distinct(source, name, second_texts(source, name))$names)))
  if (!name %in% c(source$counted, names(source$distinct))) {
    source$counted <- c(source$counted, name)
    return(as.double(sum(!is_blank(as.character(unique(raw_field(source, name)[rows]))))))
  }
  at <- second_names(source, tree)$at[rows]
  as.double(sum(tabulate(at, max(at, 0, na.rm = TRUE)) > 0))
}

second_summary <- function(values, tree) {
  known <- if (anyNA(values)) values[!is.na(values)] else values
  if (tree$fn == "sum" && length(values) && !length(known)) return(NA_real_)
  if (!length(known) && !tree$fn %in% c("sum", "count", "distinct")) return(NA_real_)
  as.double(switch(tree$fn, sum = sum(as.double(known)), count = length(known),
                   distinct = length(unique(known)), mean = mean(known), min = min(known),
                   max = max(known), median = stats::median(known), sd = stats::sd(known),
                   var = stats::var(known),
                   quantile = stats::quantile(known, tree$prob$value, names = FALSE)))
}

second_per <- function(source, tree, rows) {
  name <- second_row(source, tree$arg$by)
  if (is.null(rows)) rows <- seq_along(name)
  name <- name[rows]
  rows <- rows[!is.na(name)]
  it <- second_by(source, tree$arg$inner, rows, factor(name[!is.na(name)]))
  if (!is.null(tree$where))
    it <- it[second_condition(inner_decimals(source, tree$arg$inner, it), tree$where)]
  second_summary(it, tree)
}

# The inner values of per() as a source, which knows whether they are decimals: sums, counts and
# extremes of decimals are.
inner_decimals <- function(source, tree, it) {
  out <- inner_source(list(v = it))
  decimals <- metric_decimals(source, tree)
  most <- max(abs(it), 0, na.rm = TRUE) * 10^(decimals %||% 0)
  if (!is.null(decimals) && most < 2^53) out$inner <- list(decimals = decimals, most = most)
  out
}

# The decimal places of a metric's values; NULL where they are no decimals.
metric_decimals <- function(source, tree) {
  if (tree$kind %in% c("number", "date")) return(decimals_of(tree$value)$decimals)
  if (tree$kind == "aggregate") {
    if (is.null(tree$arg) || tree$fn %in% c("count", "distinct")) return(0)
    if (!tree$fn %in% c("sum", "min", "max")) return(NULL)
    if (tree$arg$kind == "per") return(metric_decimals(source, tree$arg$inner))
    return(second_decimals(source, tree$arg)$decimals)
  }
  if (tree$kind != "op" || tree$op == "/") return(NULL)
  decimals <- lapply(tree$args, metric_decimals, source = source)
  if (any(vapply(decimals, is.null, NA))) return(NULL)
  if (tree$op == "*") sum(unlist(decimals)) else max(unlist(decimals))
}

second_row <- function(source, tree) {
  out <- switch(tree$kind,
                number = , text = , date = tree$value, name = second_field(source, tree$name),
                computed = second_row(source, tree$tree),
                bucket = second_bucket(source, tree),
                band = second_band(second_row(source, tree$arg), tree,
                                   second_slack(source, tree$arg, tree$bounds)),
                banded = second_banded(source, tree),
                mapped = {
                  of <- second_names(source, tree$arg)
                  tree$map$to[match(of$names, tree$map$names)][of$at]
                },
                choose = ifelse(second_condition(source, tree$test),
                                for_lines(source, second_row(source, tree$args[[1]])),
                                for_lines(source, second_row(source, tree$args[[2]]))),
                op = second_op(tree$op, lapply(tree$args, second_row, source = source)))
  out
}

# Parts of dates by format(), one distinct day at a time; fiscal ones by walking to their start.
second_bucket <- function(source, tree) {
  if (tree$part %in% time_parts) {
    hour <- format(raw_field(source, tree$arg$name), "%H", tz = "UTC")
    if (tree$part == "hour") return(hour)
    return(as.character(cut(as.numeric(hour), c(0, 6, 12, 18, 24), day_parts_named, right = FALSE)))
  }
  of <- if (tree$arg$kind == "name") second_days(source, tree$arg$name) else
    days_apart(for_lines(source, second_row(source, tree$arg)))
  label <- vapply(of$days, function(day) {
    if (is.na(day)) NA_character_ else second_day(as_day(day), tree$part, source$calendar)
  }, "")
  label[of$at - of$before]
}

# The distinct days of a date field and, for each line, which of them it has: periods and parts of
# dates ask for them again and again.
second_days <- function(source, name) {
  if (is.null(source$second_days[[name]]))
    source$second_days[[name]] <- days_apart(as.vector(unclass(as_dates(raw_field(source, name)))))
  source$second_days[[name]]
}

# The distinct days and, for each line, its place among them beyond `before`. Days of some decades
# are numbered from the first on as they are, which is sooner than looking each up.
days_apart <- function(value) {
  whole <- if (is.integer(value)) value else suppressWarnings(as.integer(value))
  ends <- if (length(whole) >= 1e6) kernel_second_ends(whole) else
    suppressWarnings(c(min(whole, na.rm = TRUE), max(whole, na.rm = TRUE)))
  if (all(is.finite(ends)) && diff(ends) < 20000 &&
        (is.integer(value) || identical(as.double(whole), value)))
    return(list(value = value, days = as.numeric(ends[1]:ends[2]), at = whole,
                before = as.integer(ends[1]) - 1L))
  days <- unique(value)
  list(value = value, days = days, at = match(value, days), before = 0L)
}

second_day <- function(day, part, calendar) {
  quarter <- function(month) (as.integer(month) + 2) %/% 3
  switch(part,
         day = format(day), week = format(day, "%G-W%V"), month = format(day, "%Y-%m"),
         year = format(day, "%Y"),
         quarter = paste0(format(day, "%Y-Q"), quarter(format(day, "%m"))),
         weekday = weekday_levels[as.integer(format(day, "%u"))],
         {
           year <- as.integer(format(day, "%Y")) + 2L
           while (fiscal_span(year, calendar)[1] > day) year <- year - 1L
           month <- 1L
           while (fiscal_span(year, calendar, month = month)[2] < day) month <- month + 1L
           paste0("FY", year, switch(part, fiscal_month = sprintf("-P%02d", month),
                                     fiscal_quarter = paste0("-Q", quarter(month)), ""))
         })
}

second_band <- function(values, tree, slack) {
  out <- rep(NA_character_, length(values))
  out[!is.na(values)] <- tree$labels[1]
  for (i in seq_along(tree$bounds)) {
    reached <- second_compare(">=", values, tree$bounds[i], slack)
    out[!is.na(reached) & reached] <- tree$labels[i + 1]
  }
  out
}

second_banded <- function(source, tree) {
  each <- second_row(source, tree$each)
  scope <- if (is.null(tree$scope)) rep(TRUE, source$n) else second_condition(source, tree$scope)
  rows <- which(scope & !is.na(each))
  by <- factor(each[rows])
  value <- second_by(source, tree$metric, rows, by)
  slack <- second_slack(inner_decimals(source, tree$metric, value),
                        node("name", name = "it", inner = TRUE), tree$bounds)
  unname(second_band(value, tree, slack)[match(each, levels(by))])
}

second_field <- function(source, name) {
  field <- field_at(source, name)
  values <- raw_field(source, name)
  if (field$type == "number") return(as.double(values))
  if (field$type == "date") return(second_days(source, name)$value)
  if (is.numeric(values)) return(plain_text(values))
  values <- as.character(values)
  blank <- second_blanks(source, name)
  if (length(blank)) values[values %in% blank] <- NA
  values
}

# The names of a row tree and, for each line, which of them it has (missing where none): names of a
# field are looked for once.
second_names <- function(source, tree) {
  if (tree$kind != "name") {
    values <- for_lines(source, second_row(source, tree))
    names <- unique(values[!is.na(values)])
    return(list(names = names, at = match(values, names)))
  }
  if (is.null(source$plain[[tree$name]]) && is.factor(raw <- raw_field(source, tree$name))) {
    # Names that the lines have numbered themselves.
    there <- tabulate(raw, nlevels(raw)) > 0 & !is_blank(levels(raw))
    to <- cumsum(there)
    to[!there] <- NA
    source$plain[[tree$name]] <- list(names = only_where(levels(raw), there), at = to[raw])
  }
  if (is.null(source$plain[[tree$name]])) {
    values <- second_texts(source, tree$name)
    names <- second_distinct(source, tree$name, values)$names
    source$plain[[tree$name]] <- list(names = names, at = match(values, names))
  }
  source$plain[[tree$name]]
}

# A field as texts; which are blank is not asked where they stand as texts in the lines.
second_texts <- function(source, name) {
  values <- raw_field(source, name)
  if (is.character(values)) values else second_field(source, name)
}

# Texts of a field that are blank.
second_blanks <- function(source, name) second_distinct(source, name)$blank

# The distinct texts of a field, those that are names and those that are blank; looked for once.
second_distinct <- function(source, name, values = NULL) {
  if (is.null(source$distinct[[name]])) {
    raw <- raw_field(source, name)
    texts <- if (is.factor(raw)) only_where(levels(raw), tabulate(raw, nlevels(raw)) > 0) else
      unique(values %||% as.character(raw))
    blank <- is_blank(texts)
    source$distinct[[name]] <- list(names = only_where(texts, !blank),
                                    blank = Filter(Negate(is.na), texts[blank]))
  }
  source$distinct[[name]]
}

# Some of many texts, without a copy where it is all of them.
only_where <- function(texts, there) if (all(there)) texts else texts[there]

is_name_field <- function(source, tree) {
  tree$kind == "name" && !isTRUE(tree$inner) && field_at(source, tree$name)$type == "text"
}

# One value of a constant stands for every line.
for_lines <- function(source, values) {
  if (length(values) == source$n) values else rep_len(values, source$n)
}
