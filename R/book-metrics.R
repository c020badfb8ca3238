# The book's metrics: read, checked against its fields, and completed with unit and direction.

add_metrics <- function(book, metrics) {
  if (is.null(metrics)) return(book)
  if (inherits(metrics, "formula") || is.null(names(metrics)) || any(!nzchar(names(metrics))))
    ll_abort(c("Metrics must be named: c(revenue = \"sum(net)\").",
               x = paste0("They are ", shown(metrics), ".")), "argument")
  names(metrics) <- guarded(names(metrics))
  check_metric_names(names(metrics), book)
  thunks <- lapply(names(metrics), function(name) function() read_spec(name, metrics[[name]]))
  specs <- stats::setNames(do.call(together, thunks), names(metrics))
  trees <- c(lapply(book$metrics, `[[`, "typed"), lapply(specs, `[[`, "typed"))
  sizes <- metric_sizes(trees)
  known <- known_to(book, trees)
  known$resolved <- new.env()
  # One that others name comes before them, so that none waits for a long row of others.
  thunks <- lapply(specs[intersect(sizes$order, names(specs))], function(spec) {
    function() complete_sized(spec, book, known, sizes$size)
  })
  made <- stats::setNames(do.call(together, unname(thunks)), names(thunks))
  book$metrics <- c(book$metrics, made[names(specs)])
  book
}

check_metric_names <- function(names, book) {
  check_name_size(names, "The name of a metric", "argument")
  clash <- intersect(names, c(book$fields$name, names(book$parameters)))
  if (length(clash))
    ll_abort(c(paste0("A metric may not bear the name of a field or parameter: ",
                      and_list(quoted(clash)), "."),
               i = paste0("For example total_", clash[1], ".")), "word")
  twice <- c(names[duplicated(names)], intersect(names, names(book$metrics)))
  if (length(twice))
    ll_abort(paste0("A metric is given twice: ", and_list(quoted(unique(twice))), "."), "word")
}


read_spec <- function(name, given) {
  spec <- if (is.list(given)) given else list(is = given)
  keys <- c("is", "unit", "better", "also")
  unknown <- setdiff(names(spec), keys)
  if (length(unknown))
    ll_abort(c(paste0("The metric ", quoted(name), " has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], keys, "Keys")), "word")
  if (is.null(spec$is))
    ll_abort(paste0("The metric ", quoted(name), " needs a formula: list(is = \"sum(net)\")."),
             "argument")
  if (!is.null(spec$unit))
    check_choice(spec$unit, paste("unit of", name),
                 list(choices = metric_units))
  if (!is.null(spec$better))
    check_choice(spec$better, paste("better of", name), list(choices = c("high", "low")))
  also <- unlist(spec$also)
  if (!is.null(also)) check_words(also, paste("also of", name))
  list(name = name, typed = read_metric(spec$is, paste0("metric ", quoted(name))), unit = spec$unit,
       also = also,
       better = spec$better %||% "high",
       text = if (inherits(spec$is, "formula")) formula_text(spec$is) else trimmed(spec$is))
}

# Of metrics that name one another the first that is too large is told.
complete_sized <- function(spec, book, known, size) {
  inner <- lapply(guarded(names_in(spec$typed)), size)
  if (any(vapply(inner, overgrown, NA))) return(NULL)
  refuse_overgrown(size(spec$name), metric_context(spec))
  complete_metric(spec, book, known)
}

# How large each metric is with what it names written out, see written_out(), those that others name
# first (A. Kahn 1962, topological sorting, Communications of the ACM 5): list(size, order), `size` a
# function of a name. Those that name themselves on the way come last; they are refused as circles.
metric_sizes <- function(trees) {
  named <- lapply(trees, function(tree) {
    inner <- guarded(names_in(tree))
    unique(inner[inner %in% names(trees)])
  })
  waits <- lengths(named)
  used_by <- split(rep(names(trees), lengths(named)), factor(unlist(named), names(trees)))
  known <- new.env()
  size <- function(name) known[[guarded(name)]] %||% if (guarded(name) %in% names(trees)) c(0, 0)
  order <- character()
  ready <- names(trees)[waits == 0]
  while (length(ready)) {
    # In the order in which they were typed, as far as that can be.
    name <- ready[which.min(match(ready, names(trees)))]
    ready <- setdiff(ready, name)
    assign(name, written_out(trees[[name]], size), envir = known)
    order <- c(order, name)
    for (user in used_by[[name]]) {
      waits[[user]] <- waits[[user]] - 1
      if (waits[[user]] == 0) ready <- c(ready, user)
    }
  }
  list(size = size, order = c(order, setdiff(names(trees), order)))
}

metric_context <- function(spec) {
  list(label = paste0("metric ", quoted(spec$name)), text = spec$text)
}

complete_metric <- function(spec, book, known) {
  context <- metric_context(spec)
  tree <- resolve_metric(spec$typed, known, context, trail = spec$name)
  assign(spec$name, tree, envir = known$resolved)
  tree <- with_codes(book, tree)
  asked <- tree
  lines <- book$fields$from == "lines" & book$fields$missing > 0
  tree <- over_like_lines(tree, book$fields$name[lines])
  if (!has_kind(tree, "aggregate"))
    refuse(context, "a metric must add up, average or count lines")
  unit <- if (metric_type(tree) == "date") "date" else
    spec$unit %||% unit_of(tree, money_fields(book))
  c(spec[intersect(c("name", "typed", "text", "better", "also"), names(spec))],
    list(tree = tree, like_lines = !identical(tree, asked), unit = unit,
         adds_up = adds_up(tree), distinct = counts_distinct(tree),
         zero = zero_without_lines(tree), against = needs_against(tree)))
}

# The metrics of a study, in the order asked: names, or named formulas that serve this time only.
# Without any, the book's first.
pick_metrics <- function(book, asked) {
  if (is.null(asked)) {
    if (!length(book$metrics))
      ll_abort(c("The book has no metrics, so there is nothing to rank by.",
                 i = paste0("Give one: metrics = c(revenue = \"sum(net)\") in R, ",
                            "--define 'revenue=sum(net)' on the command.")), "argument")
    return(list(book = book, metrics = book$metrics[1]))
  }
  labels <- guarded(names(asked)) %||% rep("", length(asked))
  fresh <- nzchar(labels)
  if (any(fresh)) book <- add_metrics(book, asked[fresh])
  wanted <- ifelse(fresh, labels, guarded(vapply(asked, one_metric_word, "")))
  if (anyDuplicated(wanted))
    ll_abort(paste0("The metric ", quoted(wanted[duplicated(wanted)][1]), " is asked for twice."),
             "argument")
  thunks <- lapply(wanted, function(name) function() known_metric(name, book))
  do.call(together, thunks)
  list(book = book, metrics = book$metrics[wanted])
}

one_metric_word <- function(x) if (is.character(x)) x else formula_text(x)

known_metric <- function(name, book) {
  name <- guarded(name)
  if (name %in% names(book$metrics)) return(name)
  if (grepl("(", name, fixed = TRUE))
    ll_abort(c(paste0(quoted(name), " is a formula; give it a name."),
               i = paste0("In R: metrics = c(my_metric = \"", name,
                          "\"). On the command: --define 'my_metric=", name, "'.")), "word")
  fields <- book$fields$name
  hint <- if (name %in% fields)
    c(i = paste0(quoted(name), " is a field; a metric says how it adds up, such as sum(", name,
                 ")."))
  ll_abort(c(paste0("There is no metric called ", quoted(name), "."), hint,
             offer(name, names(book$metrics), "Metrics", list(field = setdiff(fields, name)))),
           "word")
}

# The ledger's totals as a list of list(metric, period, value); period is NULL for the whole book.
check_control <- function(control, book) {
  if (is.null(control)) return(list())
  values <- as.list(control)
  names(values) <- guarded(names(values))
  if (length(values) && (is.null(names(values)) || any(!nzchar(names(values)))))
    ll_abort(c("'control' must be named totals of metrics.",
               i = paste0("For example c(revenue = 12345.60), or ",
                          "list(revenue = c(\"2026-01\" = 12345.60)).")),
             "argument")
  thunks <- unlist(lapply(names(values), function(name) {
    known_metric(name, book)
    given <- as.list(values[[name]])
    lapply(seq_along(given), function(i) {
      function() one_control(book, name, names(given)[i], given[[i]])
    })
  }), recursive = FALSE)
  do.call(together, as.list(thunks))
}

one_control <- function(book, name, period, value) {
  label <- paste(c("control", name, period), collapse = " ")
  whole <- is.null(period) || !nzchar(period)
  list(metric = name, value = check_number(value, label, list()),
       period = if (!whole) check_whole_periods(book, read_period(
         period, book_dates(book, "control"), label)))
}
