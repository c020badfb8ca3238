# What missing values do to the numbers of a question, worked out from the trees of its formulas:
# lines that one part of a metric leaves out and another counts, lines that a choice takes for its
# other side, lines that meet a condition only because nothing is known.

missing_notes <- function(question) {
  asked <- Filter(Negate(is.null), c(unlike_lines(question), lost_lines(question),
                                     chosen_lines(question), negated_lines(question)))
  if (!length(asked)) return(new_notes())
  n <- count_each(question, lapply(asked, `[[`, "where"))
  text <- vapply(which(n$now + n$before > 0), function(i) {
    paste0(lines_in(n$now[i], n$before[i]), asked[[i]]$says(question, n$now[i] + n$before[i]), ".")
  }, "")
  note("missing", unique(text))
}

# How many lines meet each condition, now and in the period before.
count_each <- function(question, conditions) {
  parts <- lapply(conditions, function(one) node("aggregate", fn = "count", where = one))
  names(parts) <- paste0("n", seq_along(parts))
  count <- function(where) {
    fold <- source_fold(question$book$source, character(), parts, where)
    vapply(fold$parts, function(part) part$v[1], 0)
  }
  list(now = count(question$asked$where_now),
       before = if (is.null(question$asked$before)) 0 * seq_along(parts) else
         count(question$asked$where_before))
}

# "23 lines have", with those of the period compared with.
lines_in <- function(now, before) {
  have <- verb(now + before, "has")
  if (!before) return(paste(plural(now, "line"), have))
  if (!now) return(paste(plural(before, "line"), "of the period before", have))
  paste(plural(now, "line"), "and", count_text(before), "of the period before", have)
}

# What can be missing in a row's formula: fields, and computed ones as such.
gaps_in <- function(tree) {
  if (tree$kind %in% c("name", "computed")) return(if (!isTRUE(tree$inner)) list(tree))
  unlist(lapply(children(tree), gaps_in), recursive = FALSE)
}

# Whether a row's formula may have no value at all, as a function of its tree.
may_lack <- function(question) {
  fields <- question$book$fields
  lacking <- fields$name[fields$missing > 0 | fields$from != "lines"]
  function(tree) any(names_in(tree) %in% lacking)
}

no_value <- function(tree) node("missing", arg = tree)

# Aggregates that leave a line out where their formula has no value. Of per() the inner one does.
losing_parts <- function(tree) {
  Filter(function(t) {
    t$fn %in% c("sum", "mean", "median", "quantile", "sd", "var") && length(names_in(t$arg)) > 0
  }, counting_parts(tree))
}

counting_parts <- function(tree) {
  each_once(nodes_where(tree, function(t) t$kind == "aggregate" && !identical(t$arg$kind, "per")))
}

each_once <- function(trees) trees[!duplicated(vapply(trees, tree_text, ""))]

# When a row's formula has no value for want of a field; NULL for never. A choice that asks whether
# the field is there does not want it.
lacks_by <- function(tree, field) {
  if (tree$kind %in% c("name", "computed")) return(if (identical(tree$name, field)) no_value(tree))
  if (tree$kind == "choose") {
    sides <- lapply(tree$args, lacks_by, field)
    tests <- list(tree$test, unmet(tree$test))
    met <- Map(function(side, test) if (!is.null(side)) and_also(test, side), sides, tests)
  } else {
    met <- lapply(children(tree), lacks_by, field)
  }
  met <- Filter(Negate(is.null), met)
  if (length(met)) or_all(unname(met))
}

# Lines that a quotient leaves out, since they lack what one of its sides adds up.
unlike_lines <- function(question) {
  lapply(unname(Filter(function(m) m$like_lines, question$metrics)), function(m) {
    lacking <- question$book$fields$name[question$book$fields$missing > 0]
    fields <- intersect(summed_fields(m$tree), lacking)
    gaps <- lapply(fields, function(field) no_value(node("name", name = field)))
    # Lines that lack all of them count on neither side.
    some <- if (length(fields) > 1) unmet(Reduce(and_also, gaps))
    list(where = and_also(or_all(gaps), some), says = function(question, n) {
      paste0(" no ", and_list(fields, 4, "or"), "; ", spoken(m$name),
             " is worked out over the lines that have ",
             if (length(fields) > 1) "all of these" else "it")
    })
  })
}

# For each field the lines without it that a part leaves out, and which parts still count them.
lost_lines <- function(question) {
  # Quotients over like lines are told of by themselves.
  trees <- lapply(Filter(function(m) !m$like_lines, question$metrics), `[[`, "tree")
  parts <- each_once(unlist(lapply(trees, losing_parts), recursive = FALSE))
  gaps <- unlist(lapply(parts, function(part) gaps_in(part$arg)), recursive = FALSE)
  gaps <- Filter(may_lack(question), gaps[!duplicated(vapply(gaps, `[[`, "", "name"))])
  lapply(gaps, function(field) {
    losing <- Filter(function(part) !is.null(lacks_by(part$arg, field$name)), parts)
    if (!length(losing)) return(NULL)
    where <- or_all(lapply(losing, function(part) {
      and_also(part$where, and_also(no_value(part$arg), lacks_by(part$arg, field$name)))
    }))
    still <- parts_that_count(trees, losing)
    list(where = where, says = lost_sentence(field$name, losing, where, still))
  })
}

# Parts of the metrics that hold a losing part, beside it: list(part, metrics).
parts_that_count <- function(trees, losing) {
  texts <- vapply(losing, tree_text, "")
  beside <- lapply(trees, function(tree) {
    own <- counting_parts(tree)
    named <- vapply(own, tree_text, "")
    if (any(named %in% texts)) own[!named %in% texts]
  })
  found <- unlist(unname(beside), recursive = FALSE)
  in_metric <- rep(names(trees), lengths(beside))
  text <- vapply(found, tree_text, "")
  lapply(unique(text), function(one) {
    list(part = found[[match(one, text)]], metrics = unique(in_metric[text == one]))
  })
}

lost_sentence <- function(field, losing, where, still) {
  fn <- vapply(losing, `[[`, "", "fn")
  text <- vapply(losing, tree_text, "")
  function(question, n) {
    counted <- lapply(still, function(one) {
      known <- if (!is.null(one$part$arg)) unmet(no_value(one$part$arg))
      and_also(where, and_also(one$part$where, known))
    })
    many <- if (length(counted)) Reduce(`+`, count_each(question, counted))
    still <- still[many > 0]
    many <- many[many > 0]
    it <- if (n == 1) "it" else "they"
    s <- if (n == 1) "s" else ""
    if (!length(still) && all(fn == "sum"))
      return(paste0(" no ", field, "; ", it, " count", s, " as ",
                    if (n == 1) "a line" else "lines", " and add", s, " nothing"))
    sums <- fn == "sum"
    adds <- if (any(sums)) paste0(it, " add", s, " nothing to ", and_list(text[sums], 4))
    means <- if (any(!sums)) paste0(if (n == 1) "it is" else "they are", " left out of ",
                                    and_list(text[!sums], 4))
    yet <- if (length(still))
      paste0(", yet ", and_list(paste0(
        ifelse(many < n, paste(vapply(many, count_text, ""), "of them "), ""),
        ifelse(many == 1, "counts in ", "count in "),
        vapply(still, function(one) tree_text(one$part), ""), " of ",
        vapply(still, function(one) and_list(spoken(one$metrics), 3), "")), 3))
    paste0(" no ", field, "; ", and_list(c(adds, means)), yet)
  }
}

# Lines for which the test of a choice cannot be told: they are taken for its other side.
chosen_lines <- function(question) {
  out <- list()
  walk <- function(tree, owner, reach) {
    if (tree$kind == "computed") owner <- tree$name
    if (tree$kind == "choose") {
      other <- tree$args[[2]]
      later <- if (other$kind == "choose") vapply(open_tests(question, other$test), tree_text, "")
      first <- Filter(function(one) !tree_text(one) %in% later, open_tests(question, tree$test))
      if (length(first)) out[[length(out) + 1]] <<- taken_for_other(tree, first, owner, reach)
      walk(tree$args[[1]], owner, and_also(reach, tree$test))
      walk(other, owner, and_also(reach, unmet(tree$test)))
      return(invisible())
    }
    # An aggregate's own condition keeps lines from its formula; that of per() speaks of groups.
    if (tree$kind == "aggregate" && !identical(tree$arg$kind, "per"))
      reach <- and_also(reach, tree$where)
    for (part in children(tree)) walk(part, owner, reach)
  }
  for (name in question$asked$dimensions) walk(key_tree(question$book, name), name, NULL)
  for (m in question$metrics) walk(m$tree, m$name, NULL)
  out
}

# What a test compares that may be missing, and does not itself ask to be there.
open_tests <- function(question, test) {
  compared <- nodes_where(test, function(t) t$kind %in% c("compare", "within", "match"))
  compared <- Filter(may_lack(question), unlist(lapply(compared, children), recursive = FALSE))
  asked <- nodes_where(test, function(t) t$kind == "missing")
  asked <- vapply(asked, function(t) tree_text(t$arg), "")
  each_once(compared[!vapply(compared, tree_text, "") %in% asked])
}

taken_for_other <- function(tree, tests, owner, reach) {
  other <- tree$args[[2]]
  value <- if (other$kind == "text") shown(other$value) else tree_text(other)
  where <- and_also(reach, and_also(or_all(lapply(tests, no_value)), unmet(tree$test)))
  list(where = where, says = function(question, n) {
    paste0(" no ", and_list(vapply(tests, tree_text, ""), 3, "or"), "; ", spoken(owner),
           " takes ", if (n == 1) "it" else "them", " for ", fit_text(value, 60), ", as if ",
           fit_text(tree_text(tree$test), 80), " were false")
  })
}

# "!" turns what nothing is known of into what is asked for.
negated_lines <- function(question) {
  denied <- nodes_where(question$asked$only, function(t) t$kind == "logic" && t$op == "!")
  lapply(denied, function(one) {
    tests <- open_tests(question, one)
    if (!length(tests)) return(NULL)
    list(where = and_also(or_all(lapply(tests, no_value)), one), says = function(question, n) {
      paste0(" no ", and_list(vapply(tests, tree_text, ""), 3, "or"), " and meet", if (n == 1) "s",
             " the condition ", fit_text(tree_text(one), 80))
    })
  })
}
