# Sets, continued: the question and what is found.

sets_most <- 6

sets_question <- function(book, args) {
  trees <- lapply(args$sets, function(one) {
    read_set(one, paste0("set ", quoted(fit_text(if (is.character(one)) one else
      formula_text(one), 30))))
  })
  if (is.null(args$each)) args <- altered(args, each = dimension_of_sets(book, trees))
  dated <- if (is.null(args$when)) threshold_period(trees)
  if (!is.null(dated)) args <- altered(args, when = dated)
  question <- refuse_compared(ask_book(book, args, "each"), "sets")
  refuse_pairs(question, "sets")
  listed <- if (inherits(args$listed, "formula")) formula_text(args$listed) else args$listed
  typed <- label_sets(trees)
  question <- with_args(check_shown(question), asked_sets = trees, typed = typed, listed = listed)
  own <- resolve_own(question, typed)
  kept <- if (!is.null(listed))
    resolve_set(question$book, question$args$each, read_set(listed, "'listed'"),
                list(label = "'listed'", text = listed), own)
  if (is.null(kept) && length(own) == 1) {
    kept <- own[[1]]
    own <- taken_apart(own)
  }
  if (length(own) > sets_most)
    ll_abort(paste0("At most ", sets_most, " sets can be held against each other; there are ",
                    length(own), "."), "argument")
  given <- names(trees) %||% rep("", length(trees))
  with_args(question, kept = kept, sets = own, given = given[nzchar(given)],
            dated = !is.null(dated))
}

# The one period in which thresholds are tested, whose figures are then the ones to show; NULL where
# the sets are of several periods or have none.
threshold_period <- function(trees) {
  leaves <- unlist(lapply(trees, set_leaves), recursive = FALSE)
  when <- lapply(leaves, `[[`, "when")
  tests <- vapply(leaves, function(leaf) leaf$kind %in% c("having", "first"), NA)
  saved <- any(vapply(leaves, function(leaf) leaf$kind == "saved", NA))
  if (saved || !any(tests) || any(lengths(when) == 0) || length(unique(unlist(when))) != 1)
    return(NULL)
  unname(unlist(when))[1]
}

# The dimension of the first saved set that is named.
dimension_of_sets <- function(book, trees) {
  for (tree in trees) for (leaf in set_leaves(tree)) if (leaf$kind == "saved") {
    saved <- book$sets[[leaf$name]]
    if (!is.null(saved)) return(saved$each)
  }
  ll_abort("'each' must be given: whose names the sets hold.", "argument")
}

# Sets without a name are called after what they are: active_2025.
label_sets <- function(trees) {
  labels <- names(trees)
  plain <- vapply(trees, function(tree) {
    if (tree$kind == "saved") return(tree$name)
    bare <- gsub("\\b(when|where) = ", "", names_text(tree))
    text <- gsub("^_|_$", "", gsub("[^[:alnum:]]+", "_", bare))
    substr(text, 1, 40)
  }, "")
  stats::setNames(trees, make.unique(ifelse(nzchar(labels), labels, plain), sep = "_"))
}

# Sets of the question may be made of each other, in whatever order they stand.
resolve_own <- function(question, typed) {
  args <- question$args
  done <- list()
  visit <- function(name, trail) {
    if (name %in% names(done)) return(invisible())
    own_name <- name %in% names(args$asked_sets)
    context <- list(label = if (own_name) paste0("set ", quoted(name)) else "set",
                    text = names_text(typed[[name]]))
    if (name %in% trail)
      refuse(context, paste0("sets refer to each other in a circle: ",
                             paste(c(trail, name), collapse = ", ")))
    for (leaf in set_leaves(typed[[name]])) {
      # A bare word, or one in a set of its own name, is a saved set's or nobody's.
      itself <- leaf$kind == "saved" && leaf$name == name &&
        (name %in% names(question$book$sets) || typed[[name]]$kind == "saved")
      if (leaf$kind == "saved" && leaf$name %in% names(typed) && !itself)
        visit(leaf$name, c(trail, name))
    }
    done[[name]] <<- resolve_set(question$book, args$each, typed[[name]], context, done)
  }
  for (name in names(typed)) visit(name, character())
  done[names(typed)]
}

# One joined set is shown by the sets it is made of.
taken_apart <- function(own) {
  leaves <- set_leaves(own[[1]])
  leaves <- leaves[!duplicated(vapply(leaves, names_text, ""))]
  if (length(leaves) == 1 || length(leaves) > sets_most) return(own)
  label_sets(stats::setNames(leaves, rep("", length(leaves))))
}

sets_found <- found_of(
  "sets",
  all = holds("text", "name", "every name that could be in a set"),
  inside = holds("list", NULL, "for each set whether each name is in it"),
  any = holds("flag", "name", "whether it is in one at least"),
  values = holds("table", "name", "their metrics, 0 or missing without lines"),
  folded = holds("table", NULL, "the metrics of every name with lines, and of lines without"),
  idle = holds("count", "one", "names listed that have no lines"),
  at = holds("count", NULL, "the names listed, in their order"),
  regions = holds("list", NULL, "table: in_sets, names, metrics; of: the region of each name"),
  sum = holds("list", "metric", "the metrics of all that are listed together"),
  away = holds("list", NULL, paste("period, and held, where, since, value of each name listed: lines",
                                   "that the conditions leave out in a period of no lines here"),
               absent = "without conditions, or where nobody has to be inactive"))

# Which names are in which set, who is listed, and what they hold.
sets_work <- function(question) {
  args <- question$args
  kept <- list(args$kept)[!is.null(args$kept)]
  all <- do.call(set_universe, c(list(question$book, args$each), unname(args$sets), kept))
  members <- function(tree) {
    set_members(question$book, args$each, tree, all, question$asked$where_ever)
  }
  inside <- lapply(args$sets, members)
  found <- list(all = all, inside = inside, any = Reduce(`|`, inside))
  kept <- if (is.null(args$kept)) found$any else members(args$kept)
  fold <- fold_each(question)
  found$counted <- sum(fold$lines)
  found$total <- fold$total
  found$exact <- fold$exact[names(question$metrics)]
  found$folded <- fold$values
  values <- metrics_of_names(question, all, fold)
  found$idle <- sum(kept & !all %in% fold$keys[[1]])
  listed <- which(kept)
  # Names stand by name first, so that equal values are in their order.
  listed <- listed[order(all[listed], method = "radix")]
  found$at <- listed[best_order(values[[1]][listed], first_metric(question)$better == "high")]
  found$values <- values
  found$regions <- set_regions(question, found)
  found$away <- sets_elsewhere(question, found)
  found$sum <- sum_of_names(question, found, found$at)
  do.call(sets_found, found)
}

# What names that are listed for having no lines in a period have there outside the conditions.
sets_elsewhere <- function(question, found) {
  if (is.null(question$asked$only)) return(NULL)
  period <- inactive_period(question$args$kept)
  if (is.null(period)) return(NULL)
  keys <- stats::setNames(list(found$all[found$at]), question$args$each)
  c(list(period = period), elsewhere_of(question, keys, in_period(question$book, period)))
}

# The period in which the names of a set must have no lines; NULL where there is none, or it has
# conditions of its own.
inactive_period <- function(tree) {
  if (is.null(tree) || tree$kind != "joined") return(NULL)
  right <- tree$args[[2]]
  if (tree$op == "-" && right$kind == "active" && is.null(right$where)) return(right$period)
  inactive_period(tree$args[[1]])
}

# The metrics of some of the names together: added up where all of them add up, else recalculated.
sum_of_names <- function(question, found, at) {
  if (all(vapply(question$metrics, function(m) m$adds_up, NA)))
    return(lapply(found$values, function(v) exact_total(v[at])))
  if (length(at)) return(total_of_names(question, found$all[at]))
  lapply(question$metrics, function(m) if (m$zero) 0 else NA_real_)
}

# Each combination of sets: label, names, metrics, in the order of the sets.
set_regions <- function(question, found) {
  args <- question$args
  code <- Reduce(`+`, Map(function(member, i) member * 2^(i - 1), found$inside,
                          seq_along(found$inside)))
  codes <- setdiff(seq_len(2^length(found$inside)) - 1, 0)
  # Those in most sets first, then in the order in which the sets stand.
  bits <- vapply(seq_along(found$inside), function(i) codes %/% 2^(i - 1) %% 2, codes)
  bits <- matrix(bits, length(codes))
  codes <- codes[do.call(order, c(list(-rowSums(bits)), as.data.frame(-bits)))]
  label <- vapply(codes, function(code) {
    held <- set_titles(question)[code %/% 2^(seq_along(args$sets) - 1) %% 2 == 1]
    if (length(held) == 1 && length(args$sets) > 1) paste(held, "only") else
      paste(held, collapse = " & ")
  }, "")
  region <- match(code, codes)
  held <- lapply(seq_along(codes), function(i) sum_of_names(question, found, which(region == i)))
  out <- data.frame(in_sets = label, names = tabulate(region, length(codes)),
                    do.call(rbind, lapply(held, as.data.frame, optional = TRUE)),
                    check.names = FALSE)
  list(table = out, of = region)
}
