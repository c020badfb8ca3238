# Quadrants, continued: the table, its sentences, notes and proof.

quadrants_table <- function(s) {
  q <- s$q
  shown <- q$shown
  if (!is.null(q$held)) shown[[q$held$name]] <- q$held
  cells <- Map(in_unit, s$values[names(shown)], shown)
  table <- data.frame(named_keys(s$keys), place = s$place, cells, check.names = FALSE)
  names(table) <- c(q$each, "place", names(shown))
  columns <- rbind(new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
                   new_columns(names(shown), vapply(shown, `[[`, "", "unit")))
  add <- function(name, value) {
    table[[name]] <<- value
    columns <<- rbind(columns, new_columns(name, "text"))
  }
  if (!is.null(q$third)) add(paste0(q$third$name, "_band"), s$band)
  add("quadrant", s$quadrant)
  add("near_line", s$near)
  if (!is.null(s$moves)) add("quadrant_before", s$quadrant_before)
  list(table = table, columns = columns, foot = quadrants_foot(s, table))
}

quadrants_foot <- function(s, table) {
  q <- s$q
  row <- function(label, values) {
    out <- foot_row(table, q$each, label)
    for (name in intersect(names(values), names(out)))
      out[[name]] <- in_unit(values[[name]], q$metrics[[name]])
    out
  }
  held <- if (!is.null(q$held)) lapply(seq_len(4), function(i) {
    out <- row(count_text(s$held$names[i]), stats::setNames(list(s$held$value[i]), q$held$name))
    out$quadrant <- s$held$quadrant[i]
    out
  })
  left <- if (!is.null(q$held)) left_out_value(s)
  out <- do.call(rbind, c(held, list(if (isTRUE(left != 0)) row(
    "left out", stats::setNames(list(left), q$held$name)), row("total", s$total))))
  rownames(out) <- NULL
  out
}

# What names not shown and lines without a name hold.
left_out_value <- function(s) {
  name <- s$q$held$name
  exact_total(c(s$all[[name]], -s$values[[name]]))
}

quadrants_settings <- function(s) {
  q <- s$q
  asked <- q
  asked$metrics <- q$shown
  word <- function(line) if (is.character(line)) line else "given"
  question_settings(asked, each = q$each, x_line = s$x_line, y_line = s$y_line,
                    x_line_is = word(q$x_line), y_line_is = word(q$y_line), over = q$over,
                    held = q$held$name, at_least = q$at_least, forward = forward_label(s),
                    axes = q$axes)
}

# The label of the quadrant brought forward.
forward_label <- function(s) {
  if (is.null(s$q$forward)) return(NULL)
  high <- s$q$forward == "high"
  s$labels$label[s$labels$x == high[1] & s$labels$y == high[2]]
}

quadrants_finding <- function(s) {
  q <- s$q
  what <- each_word(q)
  n <- length(s$x)
  if (!n) return(paste0("No ", what, " has both ", spoken(q$x$name), " and ", spoken(q$y$name),
                        " here."))
  one <- function(i, of = NULL, whole = NULL) {
    n <- s$held$names[i]
    paste0(if (n) count_text(n) else if (is.null(of)) "none" else "None", of,
           if (n < 2) " has " else " have ",
           sub(",", " and", s$held$quadrant[i], fixed = TRUE),
           if (isTRUE(s$held$value_share[i] > 0)) paste0(
             " (", format_number(s$held$value_share[i], "percent"), whole, ")"))
  }
  # First what was asked for; else those good by the first metric and not by the second.
  first <- match(forward_label(s) %||% s$labels$label[2], s$held$quadrant)
  second <- if (first == 1) 2 else 1
  # The first percentage says of what it is.
  whole <- if (!is.null(q$held)) share_of_words(q, q$held, s$values[[q$held$name]],
                                                s$total[[q$held$name]])
  paste0(one(first, paste(" of", plural(n, what)), whole), "; ",
         one(second, whole = if (!isTRUE(s$held$value_share[first] > 0)) whole), ".")
}

quadrants_reading <- function(s) {
  q <- s$q
  line <- function(metric, wanted, value) {
    if (is.na(value)) return(paste("no line of", spoken(metric$name)))
    paste0(switch(if (is.character(wanted)) wanted else "given", given = "a given ",
                  mean = "the mean ", median = "the median ", total = "all together, "),
           if (!identical(wanted, "total")) paste0(spoken(metric$name), ", "), said(value, metric))
  }
  paste0(each_words(q), " by ", metric_words(q$x), " and ",
    metric_words(q$y), "; the lines are ", line(q$x, q$x_line, s$x_line), ", and ",
    line(q$y, q$y_line, s$y_line), "; on a line counts as above; ",
    if (!is.null(q$third)) paste0("bands of ", spoken(q$third$name), " over ",
                                  if (q$over == "book") "the whole book" else "what is shown",
                                  "; "), reading_tail(q))
}

quadrants_notes <- function(s) {
  q <- s$q
  near <- s$near != ""
  on <- sum(on_line(s$x, s$x_line) | on_line(s$y, s$y_line))
  turned <- if (!is.null(s$moves)) turned_words(s)
  sure <- if (length(s$x) < 4) "Too few names for the lines to divide them."
  rbind(note("near", if (any(near)) paste0(
          plural(sum(near), "name"), if (sum(near) == 1) " lies" else " lie",
          " near a line and may as well be on its other side: ",
          and_list(one_line(s$keys[[1]][near]), 4), ".")),
        note("on_line", if (on) paste0(plural(on, "name"), if (on == 1) " lies" else " lie",
                                       " exactly on a line and counts as above it.")),
        note("few", sure), few_note(q, s$few),
        note("missing", if (s$valueless) paste0(
          plural(s$valueless, "name"), " without a value of both left out.")),
        note("none", if (any(s$none)) "Lines without a name are not placed."),
        note("moves", if (!is.null(turned)) paste0("Moved: ", turned, ".")),
        note("line_moved", if (isTRUE(s$line_moved > 0)) paste0(
          "Of ", count_text(s$crossed), " that crossed, ", count_text(s$line_moved),
          " would be there by the earlier values too: the line moved, not they.")),
        question_notes(q))
}

# "12 to high revenue, 3 to high revenue and low margin rate and 2 no longer placed"
turned_words <- function(s) {
  q <- s$q
  moves <- s$moves[s$moves[[1]] != s$moves[[2]], ]
  if (!NROW(moves)) return(NULL)
  from <- match(moves[[1]], s$labels$label)
  to <- match(moves[[2]], s$labels$label)
  side <- function(axis, metric) {
    turned <- s$labels[[axis]][from] != s$labels[[axis]][to]
    ifelse(turned, paste(ifelse(s$labels[[axis]][to], "high", "low"), spoken(metric$name)), "")
  }
  x <- side("x", q$x)
  y <- side("y", q$y)
  text <- paste0("to ", x, ifelse(nzchar(x) & nzchar(y), " and ", ""), y)
  text[is.na(from)] <- "placed anew"
  text[is.na(to)] <- "no longer placed"
  count <- rowsum(moves$names, text)
  count <- count[order(-count[, 1]), , drop = FALSE]
  and_list(paste(vapply(count[, 1], count_text, ""), rownames(count)), 10)
}

on_line <- function(value, line) abs(value - line) <= 1e-9 * abs(line)

quadrants_proof <- function(s) {
  q <- s$q
  proof <- rbind(prove_question(q, s$counted, s$total, s$exact),
                 proof_line("names = names of all quadrants", length(s$x), sum(s$held$names)))
  if (is.null(q$held)) return(proof)
  whole <- s$total[[q$held$name]]
  rbind(proof, proof_line(paste0("quadrants and what is left out of ", q$held$name,
                                 " add up to the total"), if (is.na(whole)) 0 else whole,
                          sum(s$held$value) + left_out_value(s), s$exact[[q$held$name]]))
}
