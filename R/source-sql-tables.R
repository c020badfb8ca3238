# Tables of segments as statements: which lines, what of each order, and how the answer is read.

# The lines of a relation for a statement: list(with, column, from, each). Lines are picked once
# where the engine keeps such, else each use picks its own; `column` tells how columns are called.
# `tests` are conditions as SQL, each a function of that and of the lines as FROM and WHERE, or NULL
# for all lines; `common` one that all meet. With several tests the lines of each come below each
# other, by the number ll_ask (`each`).
picked_lines <- function(relation, tests = list(NULL), common = NULL) {
  dialect <- relation$writer$dialect
  columns <- relation$columns
  # A condition to which others are put, whatever the lines are.
  lines <- from_where_also(relation$writer, relation$where, ever)
  all <- paste0("SELECT ", paste(columns, "AS", names(columns), collapse = ",\n       "), "\n",
                lines)
  keeps <- !is.null(dialect$keeps)
  column <- if (keeps) identity else function(name) columns[[name]]
  own <- if (keeps) paste0("FROM (\n", all, "\n) AS ll_own\nWHERE ", ever) else lines
  told <- vapply(tests, function(test) if (is.null(test)) ever else test(column, own), "")
  shared <- if (is.null(common)) ever else common(column, own)
  if (length(tests) == 1) {
    if (!keeps) return(list(with = "", column = column, each = FALSE,
                            from = and_test(and_test(lines, shared), told)))
    if (!is.null(common) || !is.null(tests[[1]]))
      all <- paste0("SELECT * FROM (\n", all, "\n) AS ll_all\nWHERE ", and_test(shared, told))
    return(list(with = paste0(dialect$keeps("ll_few", all), "\n"), column = identity, each = FALSE,
                from = paste0("FROM ll_few WHERE ", ever)))
  }
  at <- seq_along(tests)
  if (!keeps) {
    each <- paste0("SELECT ", at, " AS ll_ask, ",
                   paste(columns, "AS", names(columns), collapse = ", "), "\n",
                   and_test(and_test(lines, shared), told), collapse = "\nUNION ALL\n")
    return(list(with = "", column = identity, each = TRUE,
                from = paste0("FROM (\n", each, "\n) AS ll_asks\nWHERE ", ever)))
  }
  some <- paste0("(", paste(unique(told), collapse = "\n   OR "), ")")
  few <- paste0("SELECT *,\n       ", paste0("CASE WHEN ", told, " THEN 1 ELSE 0 END AS ll_r", at,
                                             collapse = ",\n       "), "\nFROM (\n", all,
                "\n) AS ll_all\nWHERE ", and_test(shared, some))
  each <- paste0("SELECT ", at, " AS ll_ask, ", paste(names(columns), collapse = ", "),
                 " FROM ll_few WHERE ll_r", at, " = 1", collapse = "\nUNION ALL\n")
  list(with = paste0(dialect$keeps("ll_few", few), ",\n",
                     sub("^WITH ", "", dialect$keeps("ll_asks", each)), "\n"),
       column = identity, each = TRUE, from = paste0("FROM ll_asks WHERE ", ever))
}

# Lines that have a condition, with one more.
and_test <- function(lines, test) paste0(lines, "\n  AND ", test)

# A test for the lines of a segment, by the names as the engine has them.
segment_test <- function(relation, segment) {
  function(column, lines) {
    dialect <- relation$writer$dialect
    each <- vapply(segment$dims, function(dim) {
      at <- match(dim, names(relation$keyed))
      # Segments are made of names that were read.
      raw <- relation$raw[[dim]][segment$codes[[dim]]]
      stopifnot(!anyNA(raw))
      raw <- quoted_text(relation$writer, raw)
      paste0(dialect$text(column(sprintf("ll_k%d", at))),
             if (length(raw) == 1) " = " else " IN (", paste(raw, collapse = ", "),
             if (length(raw) > 1) ")")
    }, "")
    paste(each, collapse = " AND ")
  }
}

# A test for the lines that none of these segments has; NULL where there are none.
lacking_test <- function(relation, segments) {
  if (!length(segments)) return(NULL)
  function(column, lines) {
    each <- vapply(segments, function(segment) segment_test(relation, segment)(column, lines), "")
    paste("NOT", relation$writer$dialect$sure(paste0("(", each, ")")), collapse = " AND ")
  }
}

both_tests <- function(a, b) {
  if (is.null(a) || is.null(b)) return(a %||% b)
  function(column, lines) paste0("(", a(column, lines), " AND ", b(column, lines), ")")
}

# The test of an ask's segment: for its lines, for all lines of orders that have one of them, or for
# those of them that are not its.
ask_test <- function(relation, ask) {
  own <- segment_test(relation, ask$segment)
  if (ask$orders == "own") return(own)
  if (!"ll_o" %in% names(relation$columns))
    return(if (ask$orders == "whole") own else function(column, lines) never)
  mine <- both_tests(own, lacking_test(relation, ask$rows))
  sure <- relation$writer$dialect$sure
  function(column, lines) {
    order <- column("ll_o")
    orders <- paste0("SELECT ", order, " ", and_test(and_test(lines, mine(column, lines)),
                                                      paste(order, "IS NOT NULL")))
    of <- sure(paste0(order, relation$writer$dialect$rows_in, "(", orders, ")"))
    its <- sure(paste0("(", own(column, lines), ")"))
    paste0("(", of, if (ask$orders == "whole") " OR " else " AND NOT ", its, ")")
  }
}

asked_segments <- "tables of segments"

# Tables of `of`, each over the lines of its ask; those of the same dimensions are one for all asks.
ask_segments <- function(relation, asked, ask, of, names, floor, orders) {
  asks <- unique(ask)
  lacks <- lapply(asked[asks], `[[`, "rows")
  # What all of them lack is left out once.
  alike <- all(vapply(lacks, identical, NA, lacks[[1]]))
  tests <- lapply(asked[asks], function(one) {
    both_tests(if (!is.null(one$segment)) ask_test(relation, one),
               if (!alike) lacking_test(relation, one$rows))
  })
  picked <- picked_lines(relation, tests, if (alike) lacking_test(relation, lacks[[1]]))
  kind <- lapply(seq_along(of), function(k) list(of[[k]], floor[k], orders[k]))
  kinds <- unique(kind)
  set <- match(kind, kinds)
  all <- vapply(seq_along(kinds), function(k) {
    at <- match(kinds[[k]][[1]], names(names))
    whole <- !length(at)
    sql_segment_table(relation, picked, k, at, if (whole) 0 else kinds[[k]][[2]],
                      if (whole) 0 else kinds[[k]][[3]])
  }, "")
  answer <- ask(relation$source, paste0(picked$with, "SELECT * FROM (\n",
                                        paste(all, collapse = "\nUNION ALL\n"), "\n) AS ll_tables"),
                asked_segments, guard = TRUE)
  of_ask <- if (picked$each) answer$ll_ask else rep(1, nrow(answer))
  rows <- split(seq_len(nrow(answer)), list(factor(answer$ll_set, seq_along(kinds)),
                                            factor(of_ask, seq_along(asks))))
  rows <- rows[set + (match(ask, asks) - 1) * length(kinds)]
  Map(function(dims, rows) {
    read_segment_table(relation, names, dims, answer[rows, , drop = FALSE])
  }, of, unname(rows))
}

# One table as SQL, its names as text. What groups did is told of wholes and of rates alone.
sql_segment_table <- function(relation, picked, set, at, floor, orders) {
  dialect <- relation$writer$dialect
  keys <- sprintf("ll_k%d", at)
  weighed <- "ll_w" %in% names(relation$columns)
  grouped <- !length(at) || weighed
  group <- if (grouped) segment_group(relation, picked)
  by <- c(if (picked$each) "ll_ask", keys)
  from <- sql_of_orders(relation, picked, keys, group)
  w <- if (weighed) c("ll_wa", "ll_wb") else c("ll_a", "ll_b")
  sums <- c(a = "ll_a", b = "ll_b", wa = w[1], wb = w[2], qa = "ll_a * ll_a", qb = "ll_b * ll_b",
            ab = dialect$double("0"), na = "ll_na", nb = "ll_nb")
  if (grouped) {
    by_group <- c(by, if (!is.null(group)) "ll_g")
    within <- paste0("SUM(", sums, ") AS ll_g", names(sums))[names(sums) != "ab"]
    from <- paste0("SELECT ", paste(c(by_group, within), collapse = ", "), "\nFROM (\n", from,
                   "\n) AS ll_entries", group_by(by_group))
    sums[] <- paste0("ll_g", names(sums))
    sums[["ab"]] <- "ll_gwa * ll_gwb"
  }
  named <- function(i) if (i > length(keys)) "''" else dialect$text(keys[i])
  having <- c(
    if (floor > 0) paste0(sql_held(relation, sums), " >= ", double_literal(floor)),
    if (orders > 0) paste0("SUM(", sums[["na"]], ") + SUM(", sums[["nb"]], ") >= ", orders))
  paste0("SELECT ", set, " AS ll_set, ", if (picked$each) "ll_ask, ", named(1), " AS ll_first, ",
         named(2), " AS ll_second, ",
         paste0("SUM(", sums, ") AS ll_s", names(sums), collapse = ", "), ", ",
         if (grouped) "COUNT(*)" else "0", " AS ll_sng\nFROM (\n", from, "\n) AS ll_groups",
         group_by(by),
         if (length(having)) paste0("\nHAVING ", paste(having, collapse = " AND ")))
}

group_by <- function(names) {
  if (length(names)) paste0("\nGROUP BY ", paste(names, collapse = ", "))
}

# The column of the groups: that of their dimension, else the order.
segment_group <- function(relation, picked) {
  if (!is.null(relation$group))
    return(picked$column(sprintf("ll_k%d", match(relation$group, names(relation$keyed)))))
  if ("ll_o" %in% names(relation$columns)) picked$column("ll_o")
}

# What each order's lines come to within each name; lines without an order are one each.
sql_of_orders <- function(relation, picked, keys, group) {
  dialect <- relation$writer$dialect
  column <- picked$column
  has <- function(name) name %in% names(relation$columns)
  # Of the past all lines are then.
  side <- function(x, now) {
    if (!has("ll_n")) return(if (now) "0" else x)
    paste0("CASE WHEN ", column("ll_n"), " = ", now, " THEN ", x, " ELSE 0 END")
  }
  lines <- function(alone) {
    total <- function(x) {
      if (alone) dialect$double(x) else dialect$sum(x, !is.na(relation$decimals))
    }
    count <- function(now) if (alone) side("1", now) else paste0("MAX(", side("1", now), ")")
    # Lines without an order are none of the orders that are counted.
    weigh <- function(now) {
      if (is.null(relation$per_order)) return(total(side(column("ll_w"), now)))
      dialect$double(if (alone) "0" else count(now))
    }
    amount <- function(now) {
      paste0(total(side(column("ll_v"), now)), if (!is.null(relation$per_order))
        paste0(" - ", double_literal(relation$per_order), " * ", weigh(now)))
    }
    select <- c(if (picked$each) c(ll_ask = "ll_ask"),
                stats::setNames(vapply(keys, column, ""), keys),
                if (!is.null(group)) c(ll_g = if (alone) group else paste0("MIN(", group, ")")),
                ll_a = amount(0), ll_b = amount(1), ll_na = count(0), ll_nb = count(1),
                if (has("ll_w")) c(ll_wa = weigh(0), ll_wb = weigh(1)))
    from <- picked$from
    if (has("ll_o") && !identical(relation$alone, 0))
      from <- and_test(from, paste(column("ll_o"), if (alone) "IS NULL" else "IS NOT NULL"))
    paste0("SELECT ", paste(select, "AS", names(select), collapse = ", "), "\n", from,
           if (!alone) group_by(c(if (picked$each) "ll_ask", keys, column("ll_o"))))
  }
  if (!has("ll_o")) return(lines(TRUE))
  if (identical(relation$alone, 0)) return(lines(FALSE))
  paste0(lines(FALSE), "\nUNION ALL\n", lines(TRUE))
}

# What a name holds, then and now together, by the scale of each period.
sql_held <- function(relation, sums) {
  of <- function(side, k) {
    paste0("abs(SUM(", sums[[side]], "))", if (relation$scale[k] != 1)
      paste0(" / ", double_literal(relation$scale[k])))
  }
  sides <- c(of("a", 1), of("b", 2), if ("ll_w" %in% names(relation$columns))
    c(of("wa", 1), of("wb", 2)))
  paste(sides, collapse = " + ")
}

read_segment_table <- function(relation, names, dims, answer) {
  sums <- matrix(as.double(unlist(answer[paste0("ll_s", segment_columns)])), nrow(answer),
                 length(segment_columns),
                 dimnames = list(NULL, segment_columns))
  sums[is.na(sums)] <- 0
  s <- relation$scale
  by <- c(a = s[1], b = s[2], wa = s[1], wb = s[2], qa = s[1]^2, qb = s[2]^2, ab = s[1] * s[2])
  for (name in names(by)) sums[, name] <- sums[, name] / by[[name]]
  # The whole of no lines is nothing.
  if (!length(dims)) return(if (nrow(sums)) sums else
                            matrix(0, 1, ncol(sums), dimnames = dimnames(sums)))
  codes <- Map(function(dim, text) coded_names(relation, names, dim, text), dims,
               list(answer$ll_first, answer$ll_second)[seq_along(dims)])
  at <- do.call(order, unname(codes))
  codes <- do.call(cbind, lapply(codes, as.double))
  named_table(cbind(unname(codes), sums)[at, , drop = FALSE])
}

# The codes of an answer's names, which are text, 0 for none.
coded_names <- function(relation, names, dim, x) {
  coded <- relation$keyed[[dim]]$coded(x)
  out <- c(0L, match(coded$levels, names[[dim]], nomatch = 0L))[coded$codes + 1L]
  relation$raw[[dim]][out[out > 0]] <- as.character(x[out > 0])
  out
}
