# Sets, continued: the table, its sentences, notes and proof.

sets_table <- function(question, found) {
  args <- question$args
  names <- found$all[found$at]
  shown <- if (is.null(args$top)) seq_along(names) else seq_len(min(args$top, length(names)))
  fields <- shown_fields(question, names[shown])
  label <- found$regions$table$in_sets[found$regions$of[found$at[shown]]]
  label[is.na(label)] <- "none of them"
  away <- if (!is.null(found$away))
    list(elsewhere = found$away$where[shown], elsewhere_since = found$away$since[shown])
  cells <- c(stats::setNames(list(shown_names(names[shown])), args$each), fields$cells,
             list(in_sets = label), away,
             lapply(found$values[names(question$metrics)], function(v) v[found$at[shown]]))
  for (m in question$metrics) cells[[m$name]] <- in_unit(cells[[m$name]], m)
  table <- as.data.frame(cells, optional = TRUE)
  metrics <- new_columns(names(question$metrics),
                         unname(vapply(question$metrics, `[[`, "", "unit")))
  region_columns <- rbind(new_columns(c("in_sets", "names"), c("text", "count")), metrics)
  regions <- found$regions$table
  for (m in question$metrics) regions[[m$name]] <- in_unit(regions[[m$name]], m)
  rest <- if (length(shown)) found$at[-shown] else found$at
  held <- table(found$regions$table$in_sets[found$regions$of[found$at]])
  list(table = table,
       parts = list(regions = regions,
                    foot = if (length(names)) sets_foot(question, found, table, rest),
                    listed = data.frame(in_sets = names(held), names = as.vector(held))),
       further = if (length(args$sets) > 1) list(regions = region_columns),
       columns = rbind(new_columns(args$each, "text"), fields$columns,
                       new_columns("in_sets", "text", length(args$sets) > 1),
                       if (!is.null(away)) new_columns(c("elsewhere", "elsewhere_since"),
                                                       c("text", "date"), any(found$away$held)),
                       metrics))
}

sets_foot <- function(question, found, table, rest) {
  row <- function(label, values) {
    out <- foot_row(table, question$args$each, label)
    for (m in question$metrics) out[[m$name]] <- in_unit(values[[m$name]], m)
    out
  }
  rbind(if (length(rest)) row(paste0("everyone else (", count_text(length(rest)), ")"),
                              sum_of_names(question, found, rest)), row("total", found$sum))
}

sets_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, sets = lapply(args$typed, names_text),
                    listed = args$listed, top = args$top,
                    with_fields = if (length(args$with_fields)) args$with_fields)
}

# What the names listed are called.
kept_words <- function(question) {
  args <- question$args
  if (!is.null(args$listed)) return(one_line(args$listed))
  if (length(args$typed) == 1) return(set_words_of(args$typed[[1]]))
  if (!length(args$given)) return("at least one of the sets")
  and_list(set_titles(question), 6, "or")
}

set_words_of <- function(tree) fit_text(one_line(names_text(tree)), 80)

sets_finding <- function(question, found) {
  # The sets name the period of the figures themselves.
  new_finding(sets_sentence(question, found), dated = question$args$dated)
}

sets_sentence <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  n <- length(found$at)
  what <- noun_of(question, args$each)
  if (!n) return(paste0("No ", what, " ", member_words(question, 1), "."))
  part <- if (metric$adds_up && isTRUE(found$total[[metric$name]] > 0))
    of_the_total(found$sum[[metric$name]] / found$total[[metric$name]])
  # The sets may be of one period and the money of all.
  leaves <- unlist(lapply(args$sets, set_leaves), recursive = FALSE)
  dated <- any(vapply(leaves, function(leaf) !is.null(leaf$period), NA))
  holds <- paste0(if (dated && is.null(question$asked$now)) " over all dates", " ",
                  spoken(metric$name), " ", said(found$sum[[metric$name]], metric), part)
  if (found$idle == n && !is.null(args$kept))
    return(paste0(plural(n, what), " ", member_words(question, n), ", all without lines."))
  regions <- found$regions$table
  if (is.null(args$kept)) {
    all <- regions$names[1]
    single <- regions$names[grepl(" only$", regions$in_sets)]
    return(paste0("Of ", plural(n, what), " in ", kept_words(question), ", ", count_text(all),
                  verb(all, " is"), " in ", if (length(args$sets) == 2) "both" else
                    "all of them", "; ",
                  and_list(paste(vapply(single, count_text, ""), "only in",
                                 set_titles(question)), 6), "."))
  }
  paste0(plural(n, what), " ", member_words(question, n), ":", holds, away_words(found), ".")
}

# "; 8 of them have lines elsewhere in the book in 2026"
away_words <- function(found) {
  n <- sum(found$away$held)
  if (n) paste0("; ", count_text(n), " of them", verb(n, " has"), " lines elsewhere in the book ",
                period_phrase(found$away$period, NULL))
}

# "are active in 2025 and not active in 2026", "have revenue over 20,000", "are in old - now"
member_words <- function(question, n) {
  args <- question$args
  plain <- if (!is.null(args$kept)) plain_set_words(question, args$kept, n)
  plain %||% paste(verb(n, "is"), "in", kept_words(question))
}

sets_reading <- function(question, found) {
  args <- question$args
  named <- length(args$typed) > 1 || !is.null(args$listed)
  text <- vapply(args$typed, set_words_of, "")
  sets <- if (named) paste0(", with ", and_list(paste(names(args$typed), "=", text), 8))
  paste0(each_words(question), " in ", kept_words(question), sets, "; ",
         metric_words(first_metric(question)), " over ", reading_tail(question))
}

sets_notes <- function(question, found) {
  args <- question$args
  leaves <- unlist(lapply(args$sets, set_leaves), recursive = FALSE)
  size <- vapply(found$inside, sum, 0)
  empty <- set_titles(question)[size == 0]
  periods <- lapply(leaves, function(leaf) {
    if (!is.null(leaf$period)) part_period_notes(question$book, list(now = leaf$period))
  })
  ties <- unlist(lapply(names(args$sets), function(name) {
    tree <- args$sets[[name]]
    if (tree$kind == "first" && size[[name]] > tree$count$value)
      paste0(capital(spoken(name)), " holds ", plural(size[[name]], each_word(question)),
             ": of those tied at ",
             "the edge none is left out.")
  }))
  short <- unlist(lapply(names(args$sets), function(name) {
    tree <- args$sets[[name]]
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
      and_list(capital(empty)), verb(length(empty), " holds"),
      " no name.")),
    note("ties", ties), note("few", short), note("saved", unique(saved)),
    note("no_lines", if (found$idle) paste0(
      plural(found$idle, each_word(question)), verb(found$idle, " has"),
                                            " no lines in ",
      if (is.null(question$asked$now) && is.null(question$asked$only)) "the book." else
        "this question.")),
    do.call(rbind, periods), question_notes(question))
  out[!duplicated(out$text), ]
}

sets_proof <- function(question, found) {
  args <- question$args
  proof <- prove_question(question, found$counted, found$total, found$exact)
  pairs <- if (length(found$inside) > 1) utils::combn(names(found$inside), 2, simplify = FALSE)
  for (pair in utils::head(pairs, 6)) {
    a <- found$inside[[pair[1]]]
    b <- found$inside[[pair[2]]]
    proof <- rbind(proof, proof_line(
      paste0(pair[1], " + ", pair[2], " - both = either"),
      length(union(which(a), which(b))),
      sum(a) + sum(b) - length(intersect(which(a), which(b)))))
  }
  for (name in names(args$sets)) {
    raw <- plain_members(question, args$sets[[name]])
    if (!is.null(raw)) proof <- rbind(proof, proof_line(
      paste0("names of ", name, " on the raw lines, by a second route"), raw,
      sum(found$inside[[name]])))
  }
  rbind(proof,
        proof_line("names of all combinations = names in any set", sum(found$any),
                   sum(found$regions$table$names)),
        prove_parts(question$metrics, found$folded, found$total, found$exact,
                    "names in the sets and all others"))
}

# How many names have such lines, counted in base R on the raw columns; NULL for other sets.
plain_members <- function(question, tree) {
  if (tree$kind != "active") return(NULL)
  source <- question$book$source
  where <- leaf_lines(question$book, tree, question$asked$where_ever)
  keep <- if (!is.null(where)) second_pick(source, where)
  length(second_held(source, key_tree(question$book, question$args$each), keep))
}

sets_behind <- function(question, found) rows_of_names(question$args$each)
