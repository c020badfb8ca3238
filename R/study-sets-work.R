# Sets, continued: the question and what is found.

sets_most <- 6

sets_question <- function(book, args) {
  trees <- lapply(args$sets, function(one) {
    read_set(one, paste0("set ", quoted(fit_text(if (is.character(one)) one else
      formula_text(one), 30))))
  })
  if (is.null(args$each)) args$each <- dimension_of_sets(book, trees)
  q <- refuse_compared(ask_book(book, args, "each"), "sets")
  refuse_pairs(q, "sets")
  q <- check_shown(q)
  q$asked_sets <- trees
  q$typed <- label_sets(trees)
  own <- resolve_own(q, q$typed)
  q$kept <- if (!is.null(q$keep)) resolve_set(q$book, q$each, read_set(q$keep, "'keep'"),
                                              list(label = "'keep'", text = q$keep), own)
  if (is.null(q$kept) && length(own) == 1) {
    q$kept <- own[[1]]
    own <- taken_apart(own)
  }
  q$sets <- own
  if (length(q$sets) > sets_most)
    ll_abort(paste0("At most ", sets_most, " sets can be held against each other; there are ",
                    length(q$sets), "."), "argument")
  q
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
    text <- gsub("^_|_$", "", gsub("[^[:alnum:]]+", "_", gsub("\\b(when|where) = ", "",
                                                             names_text(tree))))
    substr(text, 1, 40)
  }, "")
  stats::setNames(trees, make.unique(ifelse(nzchar(labels), labels, plain), sep = "_"))
}

# Sets of the question may be made of each other, in whatever order they stand.
resolve_own <- function(q, typed) {
  done <- list()
  visit <- function(name, trail) {
    if (name %in% names(done)) return(invisible())
    own_name <- name %in% names(q$asked_sets)
    context <- list(label = if (own_name) paste0("set ", quoted(name)) else "set",
                    text = names_text(typed[[name]]))
    if (name %in% trail)
      refuse(context, paste0("sets refer to each other in a circle: ",
                             paste(c(trail, name), collapse = ", ")))
    for (leaf in set_leaves(typed[[name]])) {
      # A bare word, or one in a set of its own name, is a saved set's or nobody's.
      itself <- leaf$kind == "saved" && leaf$name == name &&
        (name %in% names(q$book$sets) || typed[[name]]$kind == "saved")
      if (leaf$kind == "saved" && leaf$name %in% names(typed) && !itself)
        visit(leaf$name, c(trail, name))
    }
    done[[name]] <<- resolve_set(q$book, q$each, typed[[name]], context, done)
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

# Which names are in which set, who is listed, and what they hold.
sets_names <- function(q) {
  all <- do.call(set_universe, c(list(q$book, q$each), unname(q$sets), list(q$kept)[
    !is.null(q$kept)]))
  members <- function(tree) set_members(q$book, q$each, tree, all, q$asked$where_ever)
  inside <- lapply(q$sets, members)
  s <- list(q = q, all = all, inside = inside, any = Reduce(`|`, inside))
  kept <- if (is.null(q$kept)) s$any else members(q$kept)
  f <- fold_each(q)
  s[c("counted", "total", "exact", "folded")] <- list(sum(f$lines), f$total,
                                                      f$exact[names(q$metrics)], f$values)
  values <- metrics_of_names(q, all, f)
  s$idle <- sum(kept & !all %in% f$keys[[1]])
  listed <- which(kept)
  # Names stand by name first, so that equal values are in their order.
  listed <- listed[order(all[listed], method = "radix")]
  s$at <- listed[best_order(values[[1]][listed], q$first$better == "high")]
  s$values <- values
  s$regions <- set_regions(s)
  s$sum <- sum_of_names(s, s$at)
  s
}

# The metrics of some of the names together: added up where all of them add up, else folded again.
sum_of_names <- function(s, at) {
  if (all(vapply(s$q$metrics, function(m) m$adds_up, NA)))
    return(lapply(s$values, function(v) exact_total(v[at])))
  if (length(at)) return(total_of_names(s$q, s$all[at]))
  lapply(s$q$metrics, function(m) if (m$zero) 0 else NA_real_)
}

# Each combination of sets: label, names, metrics, in the order of the sets.
set_regions <- function(s) {
  q <- s$q
  code <- Reduce(`+`, Map(function(member, i) member * 2^(i - 1), s$inside, seq_along(s$inside)))
  codes <- setdiff(seq_len(2^length(s$inside)) - 1, 0)
  # Those in most sets first, then in the order in which the sets stand.
  bits <- vapply(seq_along(s$inside), function(i) codes %/% 2^(i - 1) %% 2, codes)
  bits <- matrix(bits, length(codes))
  codes <- codes[do.call(order, c(list(-rowSums(bits)), as.data.frame(-bits)))]
  label <- vapply(codes, function(code) {
    held <- names(q$sets)[code %/% 2^(seq_along(q$sets) - 1) %% 2 == 1]
    if (length(held) == 1 && length(q$sets) > 1) paste(held, "only") else
      paste(held, collapse = " & ")
  }, "")
  region <- match(code, codes)
  held <- lapply(seq_along(codes), function(i) sum_of_names(s, which(region == i)))
  out <- data.frame(in_sets = label, names = tabulate(region, length(codes)),
                    do.call(rbind, lapply(held, as.data.frame, optional = TRUE)),
                    check.names = FALSE)
  list(table = out, of = region)
}
