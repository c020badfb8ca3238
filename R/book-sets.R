# Sets of names against a book: definitions resolved, saved sets, and the names that they hold.


# Saved sets are known from the start, so that metrics and bands may look into them, and read last,
# since they may be made of metrics. What they hold is looked up when first asked for.
declare_sets <- function(sets) {
  if (!length(sets)) return(list())
  if (!is.list(sets) || is.null(names(sets)) || any(!nzchar(names(sets))))
    ll_abort(c("'sets' must be named lists of each and is.",
               i = paste0("For example list(gone = list(each = \"account\", ",
                          "is = \"active('2025') - active('2026')\")).")), "argument")
  if (anyDuplicated(names(sets)))
    ll_abort(paste0("The set ", quoted(names(sets)[duplicated(names(sets))][1]),
                    " is given twice."), "word")
  thunks <- lapply(names(sets), function(name) function() declare_set(name, sets[[name]]))
  stats::setNames(do.call(together, thunks), names(sets))
}

declare_set <- function(name, spec) {
  if (!is.list(spec) || is.data.frame(spec) || is.null(spec$each))
    ll_abort(paste0("The set ", quoted(name), " needs 'each', the dimension of its names, and ",
                    "'is'."), "argument")
  known <- book_keys("sets")
  unknown <- setdiff(names(spec), known)
  if (length(unknown))
    ll_abort(c(paste0("The set ", quoted(name), " has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  if (sum(known[-1] %in% names(spec)) != 1)
    ll_abort(paste0("The set ", quoted(name), " needs one of 'is' (a definition), 'names' or ",
                    "'file' (a list of names)."), "argument")
  tree <- if (!is.null(spec$is)) read_set(spec$is, paste0("set ", quoted(name))) else
    given_names(name, spec)
  list(name = name, each = spec$each, typed = tree, text = names_text(tree),
       lazy = new.env(parent = emptyenv()))
}

# A list of names from elsewhere; they need not be on the lines.
given_names <- function(name, spec) {
  names <- unlist(spec$names)
  if (!is.null(spec$file)) {
    table <- read_side_table(spec$file, paste("the set", name), key = spec$each)$table
    names <- table[[if (spec$each %in% names(table)) spec$each else 1]]
  }
  names <- plain_key(names)
  names <- unique(as_utf8(names[!is_blank(names)]))
  if (!length(names)) ll_abort(paste0("The list of the set ", quoted(name), " is empty."), "data")
  node("listed", names = names, given = TRUE)
}

finish_sets <- function(book) {
  thunks <- lapply(names(book$sets), function(name) {
    function() {
      set <- book$sets[[name]]
      set$each <- check_dimension(book, set$each, paste("each of the set", name))
      context <- list(label = paste0("set ", quoted(name)), text = set$text)
      set$tree <- resolve_set(book, set$each, set$typed, context)
      set
    }
  })
  book$sets <- stats::setNames(do.call(together, thunks), names(book$sets))
  refuse_circles(book)
  lapply(book$sets, function(set) bind_names(set$lazy, book, set))
  book
}

# A set, by itself or through metrics and conditions, may not need itself.
refuse_circles <- function(book) {
  uses <- lapply(book$sets, function(set) sets_in(set$tree))
  visit <- function(name, trail) {
    if (name %in% trail)
      ll_abort(paste0("Sets refer to each other in a circle: ",
                      paste(c(trail[match(name, trail):length(trail)], name), collapse = ", "),
                      "."), "formula")
    for (other in uses[[name]]) visit(other, c(trail, name))
  }
  for (name in names(uses)) visit(name, character())
}

# The names are kept with the source. Neither they nor the source are held by the set, which goes
# into conditions and so into results.
bind_names <- function(lazy, book, set) {
  name <- set$name
  held <- kernel_weak(book$source)
  book["source"] <- list(NULL)
  lazy$names <- function() {
    source <- kernel_strong(held)
    if (is.null(source))
      ll_abort(paste0("The book of the set ", quoted(name), " is no longer open."), "argument")
    if (is.null(source$sets[[name]])) {
      book$source <- source
      all <- set_universe(book, set$each, set$tree)
      source$sets[[name]] <- all[set_members(book, set$each, set$tree, all, kept_lines(book))]
    }
    source$sets[[name]]
  }
}

# A set's definition against the book: periods, fields, metrics and other sets looked up. `own` are
# resolved sets of the question, by name.
resolve_set <- function(book, each, tree, context, own = list()) {
  again <- function(t) resolve_set(book, each, t, context, own)
  switch(tree$kind,
         joined = {
           tree$args <- lapply(tree$args, again)
           tree
         },
         saved = saved_set(book, each, tree, context, own),
         listed = {
           if (!isTRUE(tree$given)) tree$names <- check_names(book, each, tree$names)
           tree
         },
         registered = resolve_registered(book, each, tree, context),
         resolve_lines_set(book, tree, context))
}

saved_set <- function(book, each, tree, context, own) {
  if (tree$name %in% names(own)) return(own[[tree$name]])
  saved <- book$sets[[tree$name]]
  if (is.null(saved)) {
    hint <- if (guarded(tree$name) %in% c(names(book$metrics), book$fields$name))
      c(i = paste0(quoted(tree$name), " is a metric or field; a set is made of ",
                   and_list(paste0(set_functions, "()")), ".")) else
        if (!length(own) && !length(book$sets))
          c(i = paste0("Define it: sets = c(", tree$name, " = ...) in R, --sets '", tree$name,
                       "=...' on the command, or among the sets of the brief."))
    refuse(context, paste0("there is no set called ", quoted(tree$name)), hint,
           offer(tree$name, unique(c(names(own), names(book$sets))), "Sets"), word = tree$name)
  }
  if (!identical(real_name(book, saved$each), each))
    refuse(context, paste0("the set ", quoted(tree$name), " is one of ",
                           plural_word(spoken(saved$each)), ", not of ",
                           plural_word(spoken(each))), word = tree$name)
  node("saved", name = tree$name, from = tree$name, lazy = saved$lazy, text = saved$text)
}

resolve_registered <- function(book, each, tree, context) {
  if (!each %in% names(book$registers))
    refuse(context, paste0("registered() needs a register of ", plural_word(spoken(each)),
                           ", and there is none"),
           c(i = paste0("Give one on opening: registers = list(", each, " = \"",
                        plural_word(each), ".csv\") in R, --register ", each, "=",
                        plural_word(each), ".csv on the command.")),
           word = "registered")
  if (!is.null(tree$where)) {
    fields <- register_known(book, each)
    known <- known_to(book)
    known[c("fields", "also", "computed")] <- list(fields, NULL, NULL)
    tree$where <- resolve_condition(tree$where, known, context)
  }
  tree
}

# The fields of a register, as conditions on its own rows know them.
register_known <- function(book, each) {
  fields <- book$fields[book$fields$from == each | book$fields$name == each, ]
  fields$column[fields$name == each] <- each
  fields$from <- "lines"
  fields
}

resolve_lines_set <- function(book, tree, context) {
  if (!is.null(tree$when)) {
    dates <- book_dates(book, "when")
    refuse_stray_date(book, tree$when)
    tree$period <- check_whole_periods(book, read_period(tree$when, dates, context$label))
  }
  if (!is.null(tree$where)) {
    tree$where <- resolve_condition(tree$where, known_to(book), context)
    tree$where <- check_condition_names(book, tree$where)
  }
  if (is.null(tree$metric)) return(tree)
  named <- tree$metric$kind == "name"
  tree$text <- tree_text(tree$metric)
  # Which of two is better belongs to a metric of the book.
  tree$better <- if (named) book$metrics[[guarded(tree$metric$name)]]$better
  metric <- resolve_metric(tree$metric, known_to(book), context)
  tree$metric <- if (named) with_codes(book, metric) else check_condition_names(book, metric)
  if (!has_kind(tree$metric, "aggregate"))
    refuse(context, "a metric must add up, average or count lines")
  if (needs_against(tree$metric))
    refuse(context, "change() and growth() make no sets; name two periods and join them",
           word = "(")
  number <- if (tree$kind == "first") "count" else "value"
  value <- tree[[number]]
  if (value$kind == "name") {
    known <- book$parameters[[value$name]]
    if (is.null(known))
      refuse(context, paste0("there is no parameter called ", quoted(value$name)),
             offer(value$name, names(book$parameters), "Parameters"), word = value$name)
    tree[[number]]$value <- known
  }
  count <- tree$count$value
  if (tree$kind == "first" && (count < 1 || count != round(count)))
    refuse(context, paste0(tree$which, "() takes a whole number of names, from 1 up"),
           word = tree$which)
  tree
}

# Every name that a set may hold: of lines, of the register, and of lists from elsewhere.
set_universe <- function(book, each, ...) {
  leaves <- unlist(lapply(list(...), set_leaves), recursive = FALSE)
  further <- unlist(lapply(leaves, function(leaf) {
    switch(leaf$kind, listed = leaf$names, saved = leaf$lazy$names())
  }))
  known <- known_names(book, each)
  c(known, setdiff(further, known))
}

# Which of the names `all` a set holds, TRUE or FALSE for each; `only` are the lines that count.
set_members <- function(book, each, tree, all, only) {
  if (tree$kind == "joined") {
    sides <- lapply(tree$args, set_members, book = book, each = each, all = all, only = only)
    return(switch(tree$op, `|` = sides[[1]] | sides[[2]], `&` = sides[[1]] & sides[[2]],
                  `-` = sides[[1]] & !sides[[2]]))
  }
  names <- switch(tree$kind,
                  listed = tree$names, saved = tree$lazy$names(),
                  registered = registered_names(book, each, tree),
                  set_by_lines(book, each, tree, only))
  marked <- logical(length(all))
  marked[match(names, all)] <- TRUE
  marked
}

registered_names <- function(book, each, tree) {
  register <- book$registers[[each]]
  if (is.null(tree$where)) return(register$names)
  columns <- c(stats::setNames(list(register$names), each), register$table)
  source <- new_frame_source(columns, register_known(book, each), calendar = book$calendar)
  register$names[line_mask(source, tree$where)]
}

# Lines that a function of a set looks at.
leaf_lines <- function(book, tree, only) {
  and_also(and_also(only, tree$where), in_period(book, tree$period))
}

set_by_lines <- function(book, each, tree, only) {
  where <- leaf_lines(book, tree, only)
  key <- stats::setNames(list(key_tree(book, each)), each)
  if (tree$kind == "active") {
    names <- source_fold(book$source, key, list(), where)$keys[[1]]
    return(names[!is.na(names)])
  }
  metric <- list(metric = list(tree = tree$metric))
  fold <- fold_metrics(book, each, metric, where)
  value <- fold$values[[1]]
  named <- !is.na(fold$keys[[1]]) & !is.na(value)
  if (tree$kind == "first") {
    higher <- xor(tree$which == "bottom", identical(tree$better, "low"))
    value[!named] <- NA
    rank <- ranks(value, !higher, exact = fold$exact[[1]])
    return(fold$keys[[1]][!is.na(rank) & rank <= tree$count$value])
  }
  level <- scaled_number(tree$value$value)
  holds <- compare_scaled(tree$op, metric_value(tree$metric, fold$parts), level)
  fold$keys[[1]][named & holds]
}
