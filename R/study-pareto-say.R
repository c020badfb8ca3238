# Pareto, continued: the table, its sentences, notes and proof.

pareto_table <- function(s) {
  q <- s$q
  m <- q$first
  several <- length(q$cut) > 1
  what <- if (several) "class" else "inside"
  name <- function(ending) paste0(m$name, ending)
  table <- data.frame(named_keys(s$keys), place = s$place, in_unit(s$value, m),
                      share_of_positive(s$value), s$running$total, s$running$share, s$class,
                      check.names = FALSE)
  names(table) <- c(q$each, "place", m$name, name("_share"), name("_running_total"),
                    name("_running_share"), what)
  columns <- rbind(new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
                   new_columns(m$name, m$unit),
                   new_columns(c(name("_share"), name("_running_total"), name("_running_share")),
                               c("percent", m$unit, "percent"), c(TRUE, FALSE, TRUE), c(2, NA, 1)),
                   new_columns(what, "text"))
  if (!is.null(s$before)) {
    table[[name("_before")]] <- in_unit(s$value_before, m)
    table[[paste0(what, "_before")]] <- s$class_before
    columns <- rbind(columns, new_columns(c(name("_before"), paste0(what, "_before")),
                                          c(m$unit, "text")))
  }
  list(table = table, columns = columns, foot = pareto_foot(s, table))
}

pareto_foot <- function(s, table) {
  q <- s$q
  m <- q$first
  row <- function(label, value, share) {
    out <- foot_row(table, q$each, label)
    out[[m$name]] <- in_unit(value, m)
    out[[paste0(m$name, "_share")]] <- share
    out
  }
  classes <- s$classes
  label <- if (length(q$cut) == 1) c(yes = "inside", no = "outside")[classes$class] else
    ifelse(classes$class == "below zero", classes$class, paste("class", classes$class))
  label <- paste0(label, " (", vapply(classes$names, count_text, ""), ")")
  parts <- lapply(seq_len(nrow(classes)), function(i) {
    row(label[i], classes$value[i], classes$share[i])
  })
  none <- if (length(s$none)) list(row("(none)", exact_total(s$none), NA))
  out <- do.call(rbind, c(parts, none, list(row("total", s$total[[1]], NA))))
  rownames(out) <- NULL
  out
}

pareto_settings <- function(q) {
  question_settings(q, each = q$each, cut = q$cut, of = q$of, crossing = q$crossing)
}

percent_words <- function(share) {
  whole <- abs(share * 100 - round(share * 100)) < 1e-7
  format_number(share, "percent", if (whole) 0 else 1)
}

pareto_finding <- function(s) {
  q <- s$q
  m <- q$first
  n <- length(s$value)
  what <- each_word(q)
  if (!n) return(paste0("No ", what, " has ", spoken(m$name), " here."))
  if (!any(s$value > 0))
    return(paste0("None of ", plural(n, what), " has ", spoken(m$name), " above zero, so there is ",
                  "no share to cut."))
  first <- s$classes[1, ]
  bring <- if (first$names == 1) " brings " else " bring "
  text <- if (!first$names)
    paste0("No ", what, " is inside the first ", percent_words(q$cut[1]), ": ",
           one_line(s$keys[[1]][1]), " alone brings ", format_number(s$running$share[1], "percent"),
           share_of_words(q, m, s$value, s$total[[1]])) else
    paste0(count_text(first$names), " of ", plural(n, what), " (",
           format_number(first$names / n, "percent", 0), ")", bring,
           format_number(first$share, "percent"), share_of_words(q, m, s$value, s$total[[1]]))
  half <- names_to_half(s$value)
  paste0(text, "; the first ", if (half == 1) "one brings" else paste(count_text(half), "bring"),
         " half.")
}

pareto_reading <- function(s) {
  q <- s$q
  cut <- and_list(vapply(q$cut, percent_words, ""))
  paste0(each_words(q), " by ", metric_words(q$first),
    ", largest first; cut at ", cut, " of the ",
    if (q$of == "names") "names" else if (any(s$value < 0)) "total of the positive values" else
      "total", ", the one that crosses it ",
    switch(q$crossing, `in` = "inside", out = "outside", nearest = "on the nearer side"), "; ",
    reading_tail(q))
}

pareto_notes <- function(s) {
  q <- s$q
  m <- q$first
  n <- length(s$value)
  below <- s$value < 0
  words <- function(class) {
    if (length(q$cut) > 1) return(class)
    c(yes = "inside", no = "outside", `no lines` = "no lines")[class]
  }
  moves <- if (!is.null(s$moves)) move_words(s$moves, words)
  rbind(note("ties", unlist(lapply(seq_along(q$cut), function(j) tie_at_cut(s, j)))),
        note("large", if (n && q$of == "total" && isTRUE(s$running$share[1] > q$cut[1])) paste0(
          one_line(s$keys[[1]][1]), " alone is more than the first cut.")),
        note("negative", if (any(below)) paste0(
          plural(sum(below), "name"), if (sum(below) == 1) " is" else " are",
          " below zero (", said(exact_total(s$value[below]), m),
          " in all): shares are of the positive total, and concentration is not defined.")),
        nameless_note(q, s$none), valueless_note(s$valueless),
        note("moves", if (!is.null(moves)) paste0("Moved: ", moves, ".")),
        question_notes(q))
}

# Names tied with the last one inside a cut go with it.
tie_at_cut <- function(s, j) {
  last <- s$inside[j]
  if (last < 1 || last > length(s$value)) return(NULL)
  tied <- which(s$place == s$place[last])
  if (length(tied) < 2) return(NULL)
  paste0(and_list(one_line(s$keys[[1]][tied]), 4), " tie at ", said(s$value[last], s$q$first),
         " where the cut at ", percent_words(s$q$cut[j]), " falls, and stay together.")
}

pareto_proof <- function(s) {
  q <- s$q
  m <- q$first
  values <- c(s$value, s$none)
  rbind(prove_question(q, s$counted, s$total, s$exact),
        prove_parts(q$metrics, stats::setNames(list(values), m$name), s$total, s$exact, "names"),
        proof_line("classes and lines without a name add up to the total",
                   if (is.na(s$total[[1]])) 0 else s$total[[1]],
                   sum(s$classes$value, s$none, na.rm = TRUE), s$exact[[1]]),
        proof_line("names = names of all classes", length(s$value), sum(s$classes$names)))
}
