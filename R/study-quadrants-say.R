# Quadrants, continued: the table, its sentences, notes and proof.

quadrants_table <- function(question, found) {
  args <- question$args
  shown <- args$shown
  if (!is.null(args$held)) shown[[args$held$name]] <- args$held
  cells <- Map(in_unit, found$values[names(shown)], shown)
  table <- data.frame(named_keys(found$keys), rank = found$rank, cells, check.names = FALSE)
  names(table) <- c(args$each, "rank", names(shown))
  columns <- rbind(new_columns("rank", "rank"), new_columns(args$each, "text"),
                   new_columns(names(shown), vapply(shown, `[[`, "", "unit")))
  add <- function(name, value) {
    table[[name]] <<- value
    columns <<- rbind(columns, new_columns(name, "text"))
  }
  if (!is.null(args$third)) add(paste0(args$third$name, "_band"), found$band)
  add("quadrant", found$quadrant)
  add("near_divide", found$near)
  if (!is.null(found$moves)) add("quadrant_before", found$quadrant_before)
  list(table = table, columns = columns,
       parts = list(foot = quadrants_foot(question, found, table), quadrants = found$held,
                    bands = found$bands, moves = found$moves))
}

quadrants_foot <- function(question, found, table) {
  args <- question$args
  row <- function(label, values) {
    out <- foot_row(table, args$each, label)
    for (name in intersect(names(values), names(out)))
      out[[name]] <- in_unit(values[[name]], question$metrics[[name]])
    out
  }
  held <- if (!is.null(args$held)) lapply(seq_len(4), function(i) {
    out <- row(plural(found$held$names[i], each_word(question)),
               stats::setNames(list(found$held$value[i]), args$held$name))
    out$quadrant <- found$held$quadrant[i]
    out
  })
  left <- if (!is.null(args$held)) left_out_value(question, found)
  out <- do.call(rbind, c(held, list(if (isTRUE(left != 0)) row(
    "left out", stats::setNames(list(left), args$held$name)), row("total", found$total))))
  rownames(out) <- NULL
  out
}

# What names not shown and lines without a name hold.
left_out_value <- function(question, found) {
  name <- question$args$held$name
  exact_total(c(found$all[[name]], -found$values[[name]]))
}

quadrants_settings <- function(question, found) {
  args <- question$args
  asked <- altered(question, metrics = args$shown)
  word <- function(line) if (is.character(line)) line else "given"
  question_settings(asked, each = args$each, x_divide = found$x_divide, y_divide = found$y_divide,
                    x_divide_is = word(args$x_divide), y_divide_is = word(args$y_divide),
                    over = args$over,
                    held = args$held$name, min_orders = args$min_orders,
                    highlight = forward_label(question, found), axes = args$axes)
}

# The label of the quadrant brought forward.
forward_label <- function(question, found) {
  if (is.null(question$args$highlight)) return(NULL)
  high <- question$args$highlight == "high"
  found$labels$label[found$labels$x == high[1] & found$labels$y == high[2]]
}

quadrants_finding <- function(question, found) {
  args <- question$args
  what <- each_word(question)
  n <- length(found$x)
  if (!n) return(paste0("No ", what, " has both ", spoken(args$x$name), " and ",
                        spoken(args$y$name), " here."))
  one <- function(i, of = NULL, whole = NULL) {
    n <- found$held$names[i]
    paste0(if (n) count_text(n) else if (is.null(of)) "none" else "None", of,
           if (n < 2) " has " else " have ",
           sub(",", " and", found$held$quadrant[i], fixed = TRUE),
           if (isTRUE(found$held$value_share[i] > 0)) paste0(
             " (", format_number(found$held$value_share[i], "percent"), whole, ")"))
  }
  flat <- flat_words(question, found)
  if (!is.null(flat)) return(flat)
  # First what was asked for; else those good by the first metric and not by the second.
  first <- match(forward_label(question, found) %||% found$labels$label[2], found$held$quadrant)
  second <- if (first == 1) 2 else 1
  # The first percentage says of what it is.
  whole <- if (!is.null(args$held)) share_of_words(question, args$held,
                                                   found$values[[args$held$name]],
                                                   found$total[[args$held$name]])
  paste0(one(first, paste(" of", plural(n, what)), whole), edge_words(found, first), "; ",
         one(second, whole = if (!isTRUE(found$held$value_share[first] > 0)) whole), ".")
}

# A metric that is the same for all divides nobody, which is said instead of what it seems to part.
flat_words <- function(question, found) {
  args <- question$args
  n <- length(found$x)
  same <- c(same_for_all(found$x), same_for_all(found$y))
  if (n < 2 || !any(same)) return(NULL)
  axes <- list(args$x, args$y)
  value <- list(found$x, found$y)
  told <- vapply(which(same), function(i) {
    paste0(spoken(axes[[i]]$name), ", ", said(value[[i]][1], axes[[i]]))
  }, "")
  other <- which(!same)
  split <- if (length(other)) {
    line <- if (other == 1) found$x_divide else found$y_divide
    high <- sum(above_line(value[[other]], line, found$exact[[axes[[other]]$name]]))
    paste0("; by ", spoken(axes[[other]]$name), ", ", count_text(high), verb(high, " is"),
           " high and ", count_text(n - high), " low")
  }
  paste0("All ", plural(n, each_word(question)), " have the same ", and_list(told),
         ", which divides nobody", split, ".")
}

same_for_all <- function(x) length(x) > 1 && max(x) - min(x) <= 1e-9 * max(abs(x))

# ", 7 of them exactly on a dividing value", where that is so of half of them or more.
edge_words <- function(found, i) {
  mine <- found$quadrant == found$held$quadrant[i]
  on <- sum((on_line(found$x, found$x_divide) | on_line(found$y, found$y_divide)) & mine)
  if (on > 0 && 2 * on >= sum(mine))
    paste0(", ", if (on == sum(mine)) "all" else count_text(on),
           " of them exactly on a dividing value")
}

quadrants_reading <- function(question, found) {
  args <- question$args
  line <- function(metric, wanted, value) {
    if (is.na(value)) return(paste("no dividing value of", spoken(metric$name)))
    paste0(switch(if (is.character(wanted)) wanted else "given", given = "a given ",
                  mean = "the mean ", median = "the median ", total = "the overall "), spoken(metric$name), ", ", said(value, metric))
  }
  paste0(each_words(question), " by ", metric_words(args$x), " and ",
    metric_words(args$y), "; the dividing values are ", line(args$x, args$x_divide, found$x_divide),
         ", and ",
    line(args$y, args$y_divide, found$y_divide), "; equal counts as high; ",
    if (!is.null(args$third)) paste0("bands of ", spoken(args$third$name), " over ",
                                     if (args$over == "book") "the whole book" else "what is shown",
                                     "; "), reading_tail(question))
}

quadrants_notes <- function(question, found) {
  near <- found$near != ""
  on <- sum(on_line(found$x, found$x_divide) | on_line(found$y, found$y_divide))
  turned <- if (!is.null(found$moves)) turned_words(question, found)
  sure <- if (length(found$x) < 4) paste("Too few", plural_word(each_word(question)),
                                         "to be divided.")
  rbind(note("near", if (any(near)) paste0(
          plural(sum(near), each_word(question)), verb(sum(near), " lies"),
          " near a dividing value and may as well be on its other side: ",
          and_list(told_as_keys(question, found$keys, near), 4), ".")),
        note("on_line", if (on) paste0(plural(on, each_word(question)),
                                       verb(on, " lies"),
                                       " exactly on a dividing value and ",
                                       verb(on, "counts"), " as high.")),
        note("few", sure), few_note(question, found$few),
        note("missing", if (found$valueless) paste0(
          plural(found$valueless, each_word(question)), " without both ",
          spoken(question$args$x$name), " and ", spoken(question$args$y$name),
          verb(found$valueless, " is"), " left out.")),
        note("none", if (any(found$none)) "Lines without a name are not ranked."),
        note("moves", if (!is.null(turned)) paste0("Moved: ", turned, ".")),
        note("line_moved", if (isTRUE(found$line_moved > 0)) paste0(
          "Of ", count_text(found$crossed), " that crossed, ", count_text(found$line_moved),
          " would be there by the earlier values too: the dividing value moved, not they.")),
        question_notes(question))
}

# "12 to high revenue, 3 to high revenue and low margin rate and 2 no longer ranked"
turned_words <- function(question, found) {
  args <- question$args
  moves <- found$moves[found$moves[[1]] != found$moves[[2]], ]
  if (!NROW(moves)) return(NULL)
  from <- match(moves[[1]], found$labels$label)
  to <- match(moves[[2]], found$labels$label)
  side <- function(axis, metric) {
    turned <- found$labels[[axis]][from] != found$labels[[axis]][to]
    ifelse(turned, paste(ifelse(found$labels[[axis]][to], "high", "low"), spoken(metric$name)), "")
  }
  x <- side("x", args$x)
  y <- side("y", args$y)
  text <- paste0("to ", x, ifelse(nzchar(x) & nzchar(y), " and ", ""), y)
  text[is.na(from)] <- "ranked anew"
  text[is.na(to)] <- "no longer ranked"
  count <- rowsum(moves$names, text)
  count <- count[order(-count[, 1]), , drop = FALSE]
  and_list(paste(vapply(count[, 1], count_text, ""), rownames(count)), 10)
}

on_line <- function(value, line) abs(value - line) <= 1e-9 * abs(line)

quadrants_proof <- function(question, found) {
  args <- question$args
  proof <- rbind(prove_question(question, found$counted, found$total, found$exact),
                 proof_line("names = names of all quadrants", length(found$x),
                            sum(found$held$names)))
  if (is.null(args$held)) return(proof)
  whole <- found$total[[args$held$name]]
  rbind(proof, proof_line(paste0("quadrants and what is left out of ", args$held$name,
                                 " add up to the total"), if (is.na(whole)) 0 else whole,
                          sum(found$held$value) + left_out_value(question, found),
                          found$exact[[args$held$name]]))
}

quadrants_behind <- function(question, found) rows_of_names(question$args$each)
