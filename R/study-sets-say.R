# Sets, continued: the table, its sentences, notes and proof.

sets_table <- function(s) {
  q <- s$q
  names <- s$all[s$at]
  shown <- if (is.null(q$top)) seq_along(names) else seq_len(min(q$top, length(names)))
  fields <- shown_fields(q, names[shown])
  label <- s$regions$table$in_sets[s$regions$of[s$at[shown]]]
  label[is.na(label)] <- "none of them"
  cells <- c(stats::setNames(list(shown_names(names[shown])), q$each), fields$cells,
             list(in_sets = label),
             lapply(s$values[names(q$metrics)], function(v) v[s$at[shown]]))
  for (m in q$metrics) cells[[m$name]] <- in_unit(cells[[m$name]], m)
  table <- as.data.frame(cells, optional = TRUE)
  metrics <- new_columns(names(q$metrics), unname(vapply(q$metrics, `[[`, "", "unit")))
  region_columns <- rbind(new_columns(c("in_sets", "names"), c("text", "count")), metrics)
  regions <- s$regions$table
  for (m in q$metrics) regions[[m$name]] <- in_unit(regions[[m$name]], m)
  rest <- if (length(shown)) s$at[-shown] else s$at
  held <- table(s$regions$table$in_sets[s$regions$of[s$at]])
  list(table = table, regions = regions, region_columns = region_columns,
       listed = data.frame(in_sets = names(held), names = as.vector(held)),
       foot = if (length(names)) sets_foot(s, table, rest),
       columns = rbind(new_columns(q$each, "text"), fields$columns,
                       new_columns("in_sets", "text", length(q$sets) > 1), metrics))
}

sets_foot <- function(s, table, rest) {
  q <- s$q
  row <- function(label, values) {
    out <- foot_row(table, q$each, label)
    for (m in q$metrics) out[[m$name]] <- in_unit(values[[m$name]], m)
    out
  }
  rbind(if (length(rest)) row(paste0("everyone else (", count_text(length(rest)), ")"),
                              sum_of_names(s, rest)), row("total", s$sum))
}

sets_settings <- function(q) {
  question_settings(q, each = q$each, sets = lapply(q$typed, names_text), keep = q$keep,
                    show = if (length(q$show)) q$show, top = q$top)
}

# What the names listed are called.
kept_words <- function(q) {
  if (!is.null(q$keep)) return(one_line(q$keep))
  if (length(q$typed) == 1) return(set_words_of(q$typed[[1]]))
  and_list(spoken(names(q$typed)), 6, "or")
}

set_words_of <- function(tree) fit_text(one_line(names_text(tree)), 80)

sets_finding <- function(s) {
  q <- s$q
  n <- length(s$at)
  what <- spoken(q$each)
  if (!n) return(paste0("No ", what, " is ", member_words(q), "."))
  part <- if (q$first$adds_up && isTRUE(s$total[[q$first$name]] > 0))
    paste0(", ", format_number(s$sum[[q$first$name]] / s$total[[q$first$name]], "percent"),
           " of the total")
  # The sets may be of one period and the money of all.
  leaves <- unlist(lapply(q$sets, set_leaves), recursive = FALSE)
  dated <- any(vapply(leaves, function(leaf) !is.null(leaf$period), NA))
  holds <- paste0(if (dated && is.null(q$asked$now)) " over all dates", " ", spoken(q$first$name),
                  " ", said(s$sum[[q$first$name]], q$first), part)
  if (s$idle == n && !is.null(q$kept))
    return(paste0(plural(n, what), if (n == 1) " is " else " are ", member_words(q),
                  ", all without lines."))
  regions <- s$regions$table
  if (is.null(q$kept)) {
    all <- regions$names[1]
    single <- regions$names[grepl(" only$", regions$in_sets)]
    return(paste0("Of ", plural(n, what), " in ", kept_words(q), ", ", count_text(all),
                  if (all == 1) " is" else " are", " in ", if (length(q$sets) == 2) "both" else
                    "all of them", "; ",
                  and_list(paste(vapply(single, count_text, ""), "only in",
                                 spoken(names(q$sets))), 6), "."))
  }
  paste0(plural(n, what), if (n == 1) " is " else " are ", member_words(q), ":", holds, ".")
}

# "active in 2025 and not active in 2026", "in old - now"
member_words <- function(q) {
  plain <- if (is.null(q$keep) && !is.null(q$kept)) plain_set_words(q$kept)
  plain %||% paste("in", kept_words(q))
}

# A set told in words, where it is made of who was active when; NULL for others.
plain_set_words <- function(tree) {
  if (tree$kind == "active" && is.null(tree$where) && !is.null(tree$period))
    return(paste("active", period_phrase(tree$period, NULL)))
  if (tree$kind != "joined") return(NULL)
  sides <- lapply(tree$args, plain_set_words)
  if (any(lengths(sides) == 0) || any(vapply(tree$args, `[[`, "", "kind") == "joined")) return(NULL)
  word <- c(`-` = " and not ", `&` = " and ", `|` = " or ")[[tree$op]]
  paste0(sides[[1]], word, sides[[2]])
}

sets_reading <- function(s) {
  q <- s$q
  named <- length(q$typed) > 1 || !is.null(q$keep)
  text <- vapply(q$typed, set_words_of, "")
  sets <- if (named) paste0(", with ", and_list(paste(names(q$typed), "=", text), 8))
  paste0(each_words(q), " in ", kept_words(q), sets, "; ", metric_words(q$first), " over ",
         reading_tail(q))
}

sets_notes <- function(s) {
  q <- s$q
  leaves <- unlist(lapply(q$sets, set_leaves), recursive = FALSE)
  size <- vapply(s$inside, sum, 0)
  empty <- names(q$sets)[size == 0]
  periods <- lapply(leaves, function(leaf) {
    if (!is.null(leaf$period)) part_period_notes(q$book, list(now = leaf$period))
  })
  ties <- unlist(lapply(names(q$sets), function(name) {
    tree <- q$sets[[name]]
    if (tree$kind == "first" && size[[name]] > tree$count$value)
      paste0(capital(spoken(name)), " holds ", plural(size[[name]], "name"), ": of those tied at ",
             "the edge none is left out.")
  }))
  short <- unlist(lapply(names(q$sets), function(name) {
    tree <- q$sets[[name]]
    if (tree$kind == "first" && size[[name]] < tree$count$value && size[[name]] > 0)
      paste0(capital(spoken(name)), " asks for ", count_text(tree$count$value), " names and only ",
             count_text(size[[name]]), " have a value.")
  }))
  saved <- unlist(lapply(leaves, function(leaf) {
    if (leaf$kind == "saved") paste0("The saved set ", quoted(leaf$name), " is ", leaf$text,
                                     ", over the whole book.")
  }))
  out <- rbind(
    note("empty", if (length(empty)) paste0(
      and_list(capital(spoken(empty))), if (length(empty) == 1) " holds" else " hold",
      " no name.")),
    note("ties", ties), note("few", short), note("saved", unique(saved)),
    note("no_lines", if (s$idle) paste0(
      plural(s$idle, "name"), if (s$idle == 1) " has" else " have", " no lines in ",
      if (is.null(q$asked$now) && is.null(q$asked$only)) "the book." else "this question.")),
    do.call(rbind, periods), question_notes(q))
  out[!duplicated(out$text), ]
}

sets_proof <- function(s) {
  q <- s$q
  proof <- prove_question(q, s$counted, s$total, s$exact)
  pairs <- if (length(s$inside) > 1) utils::combn(names(s$inside), 2, simplify = FALSE)
  for (pair in utils::head(pairs, 6)) {
    a <- s$inside[[pair[1]]]
    b <- s$inside[[pair[2]]]
    proof <- rbind(proof, proof_line(
      paste0(pair[1], " + ", pair[2], " - both = either"),
      length(union(which(a), which(b))),
      sum(a) + sum(b) - length(intersect(which(a), which(b)))))
  }
  for (name in names(q$sets)) {
    raw <- plain_members(q, q$sets[[name]])
    if (!is.null(raw)) proof <- rbind(proof, proof_line(
      paste0("names of ", name, " on the raw lines, by a second route"), raw,
      sum(s$inside[[name]])))
  }
  rbind(proof,
        proof_line("names of all combinations = names in any set", sum(s$any),
                   sum(s$regions$table$names)),
        prove_parts(q$metrics, s$folded, s$total, s$exact, "names in the sets and all others"))
}

# How many names have such lines, counted in base R on the raw columns; NULL for other sets.
plain_members <- function(q, tree) {
  if (tree$kind != "active") return(NULL)
  source <- q$book$source
  where <- leaf_lines(q$book, tree, q$asked$where_ever)
  keep <- if (!is.null(where)) plain_pick(source, where)
  length(plain_held(source, key_tree(q$book, q$each), keep))
}
