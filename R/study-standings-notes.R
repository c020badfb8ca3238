# What a careful colleague would point out beside standings. Each function looks for one thing and
# gives a data frame of kind and text, empty where there is nothing to say.

few_orders <- 5       # a quotient on fewer orders is pointed out
near_share <- 0.001   # neighbours closer than this share of their value are near-equal

standings_notes <- function(s) {
  q <- s$q
  rbind(note_edges(s), note_ties(s), note_near(s), note_leaders(s), note_few_orders(s),
        note_groups(s), note_people(s), note_moves(s), note_unplaced(s), note_negative(s),
        note_none(s), note_unseen(s), certainty_notes(s$certainty), spelling_all(s),
        question_notes(q))
}

of_group <- function(s, group) if (length(s$q$within)) paste0(" in ", group) else ""

note_edges <- function(s) {
  one <- function(edge) {
    names <- row_names_of(s, edge$rows)
    value <- s$f$values[[s$q$first$name]][edge$rows[1]]
    value <- format_number(value, s$q$first$unit, if (s$q$first$unit == "money") 2)
    where <- of_group(s, edge$group)
    if (s$q$at_edge == "keep")
      return(paste0(and_list(names), " tie at ", value, where, " for the last place of the ",
                    edge$side, " ", edge$n, ", so ", edge$shown, " are shown."))
    in_it <- edge$rows %in% s$rows
    paste0("The tie at ", value, where, " for the last place of the ", edge$side, " ", edge$n,
           " was cut: ", and_list(names[in_it]), if (sum(in_it) == 1) " is" else " are", " shown, ",
           and_list(names[!in_it]), if (sum(!in_it) == 1) " is" else " are", " not.")
  }
  note("tie_edge", unlist(lapply(utils::head(s$edge, 5), one)))
}

# The places as the table has them, which `ties` decides.
shown_place <- function(s, rows) format_plain(s$f$places[[s$q$first$name]][rows])

# Ties among the rows shown, other than at the edge.
note_ties <- function(s) {
  rows <- s$rows[!is.na(s$f$shared[s$rows])]
  if (!length(rows)) return(new_notes())
  group <- s$group[rows]
  key <- paste(match(group, unique(group)), s$f$shared[rows])
  tied <- Filter(function(x) length(x) > 1, split(rows, factor(key, unique(key))))
  edge <- unlist(lapply(s$edge, `[[`, "rows"))
  tied <- Filter(function(x) !any(x %in% edge), tied)
  text <- vapply(utils::head(tied, 5), function(x) {
    place <- unique(shown_place(s, x))
    level <- if (length(place) == 1) paste(" tie at place", place) else
      paste0(" are level by ", spoken(s$q$first$name), ", at places ", and_list(place, 5))
    paste0(and_list(row_names_of(s, x), 5), level, of_group(s, s$group[x[1]]), ".")
  }, "")
  more <- length(tied) - length(text)
  note("tie", c(unname(text), if (more > 0) paste0("And ", plural(more, "more tie"), ".")))
}

# Neighbours so close that the difference should not be read as a lead.
note_near <- function(s) {
  m <- s$q$first
  rows <- s$rows[!is.na(s$f$shared[s$rows])]
  if (length(rows) < 2 || m$unit == "date") return(new_notes())
  value <- s$f$values[[m$name]]
  a <- rows[-length(rows)]
  b <- rows[-1]
  follows <- integer(length(s$order))
  follows[s$order[-length(s$order)]] <- s$order[-1]
  next_place <- s$group[a] == s$group[b] & (follows[a] == b | follows[b] == a)
  gap <- abs(value[a] - value[b])
  size <- pmax(abs(value[a]), abs(value[b]))
  near <- which(next_place & s$f$shared[a] != s$f$shared[b] & gap < near_share * size)
  show <- near[order(gap[near])][seq_len(min(3, length(near)))]
  text <- vapply(show, function(i) {
    paste0(row_names_of(s, a[i]), " is ahead of ", row_names_of(s, b[i]), " by only ",
           least_words(gap[i], m), " (places ", shown_place(s, a[i]), " and ",
           shown_place(s, b[i]), "): not a lead to build on.")
  }, "")
  if (length(near) > 3)
    text <- c(text, paste0(length(near) - 3, " more neighbours are less than 0.1 % apart."))
  note("near_equal", text)
}

# A gap too small for the digits it is told with is less than half of their last.
least_words <- function(gap, metric) {
  text <- said_change(gap, metric, FALSE)
  if (gap == 0 || grepl("[1-9]", text)) return(text)
  digits <- nchar(sub("^[0-9]*[.]?([0-9]*).*", "\\1", text))
  paste0("less than ", sub("^[0-9.]+", format(.5 * 10^-digits, scientific = FALSE), text))
}

# Rows in first place by a metric.
leaders_by <- function(s, metric) {
  if (s$q$ties == "shared" && !length(s$q$within))
    return(which(s$f$places[[metric$name]] == 1))
  value <- s$f$values[[metric$name]]
  value[s$f$none | s$f$few] <- NA
  place <- places(value, metric$better == "high", "shared", s$f$exact[[metric$name]])
  which(place == 1)
}

note_leaders <- function(s) {
  q <- s$q
  if (length(q$metrics) < 2 || length(q$within)) return(new_notes())
  leaders <- lapply(q$metrics, leaders_by, s = s)
  leaders <- leaders[lengths(leaders) > 0]
  if (length(unique(leaders)) < 2) return(new_notes())
  text <- vapply(names(leaders), function(name) {
    paste0("by ", spoken(name), " ", and_list(row_names_of(s, leaders[[name]]), 3))
  }, "")
  note("leaders_differ", "Different leaders: ", paste(text, collapse = "; "), ".")
}

# Averages, quotients and the like among the best of their metric that rest on few orders; metrics
# with the same names share a line.
note_few_orders <- function(s) {
  if (!is.null(s$q$at_least) || is.null(s$f$orders)) return(new_notes())
  what <- plural_word(order_word(s$q$book))
  found <- lapply(s$q$metrics, function(m) {
    place <- s$f$places[[m$name]]
    rows <- if (averages(m$tree)) which(!is.na(place) & place <= 3 & s$f$orders < few_orders)
    rows[order(place[rows])]
  })
  found <- found[lengths(found) > 0]
  alike <- split(names(found), vapply(found, function(rows) paste(sort(rows), collapse = " "), ""))
  text <- vapply(alike[order(match(vapply(alike, `[`, "", 1), names(found)))], function(names) {
    low <- any(vapply(s$q$metrics[names], function(m) m$better == "low", TRUE))
    rows <- found[[names[1]]]
    who <- paste0(row_names_of(s, rows), " (", s$f$orders[rows], ")")
    paste0(if (low) "Best by " else "High by ", and_list(spoken(names)), " on fewer than ",
           few_orders, " ", what, ": ", and_list(who, 4), ". at_least = ", few_orders,
           " leaves them unplaced.")
  }, "")
  note("few_orders", unname(text))
}

# The leader overall against the leaders of the groups.
note_groups <- function(s) {
  if (!length(s$q$within)) return(new_notes())
  groups <- named_groups(s)
  n <- groups_led(s)
  leader <- do.call(paste, c(unname(s$overall$leader), sep = " \u00b7 "))
  if (!length(groups) || n > length(groups) / 2) return(new_notes())
  note("leader_not_in_groups", and_list(leader, 5), if (length(leader) > 1)
    " share the lead overall, but one of them is first in only " else
      " leads overall but is first in only ", n, " of ",
       plural(length(groups), spoken(s$q$within)), ".")
}

# A lead that is owed to more people.
note_people <- function(s) {
  q <- s$q
  people <- s$f$people
  # Months and the like have no people of their own.
  if (identical(q$book$computed[[q$each[1]]]$tree$kind, "bucket")) return(new_notes())
  if (is.null(people) || q$first$better == "low") return(new_notes())
  value <- s$f$values[[q$first$name]]
  value[s$f$none] <- NA
  lead <- leaders_by(s, q$first)
  ok <- !is.na(value) & people > 0
  if (length(lead) != 1 || sum(ok) < 2 || value[lead] <= 0) return(new_notes())
  # Per head means something only where names have several people each.
  if (stats::median(people[ok]) < 2) return(new_notes())
  per_head <- ifelse(ok, value / people, NA)
  best <- which.max(per_head)
  if (best == lead || people[lead] <= people[best]) return(new_notes())
  who <- spoken(q$book$people)
  note("people", row_names_of(s, lead), " leads by ", spoken(q$first$name), " with ",
       plural(people[lead], who), "; per ", who, " ", row_names_of(s, best), " leads, ",
       said(per_head[best], q$first), " against ", said(per_head[lead], q$first), ".")
}

# Who came into the list shown, and who left it.
note_moves <- function(s) {
  q <- s$q
  if (is.null(s$before) || is.null(q$top) || length(q$within)) return(new_notes())
  now <- s$rows[!is.na(s$f$shared[s$rows]) & s$f$shared[s$rows] <= q$top]
  was <- which(!is.na(s$before$f$shared) & s$before$f$shared <= q$top)
  then <- lapply(s$before$f$keys[q$each], `[`, was)
  here <- lapply(s$f$keys[q$each], `[`, now)
  came <- now[is.na(match_keys(here, then))]
  left <- which(is.na(match_keys(then, here)))
  label <- function(keys, rows) do.call(paste, c(unname(lapply(keys, `[`, rows)), sep = " \u00b7 "))
  text <- c(if (length(came)) paste0("Entered the top ", q$top, ": ",
                                     and_list(row_names_of(s, came), 8), "."),
            if (length(left)) paste0("Left the top ", q$top, ": ", and_list(label(then, left), 8),
                                     "."))
  note("moves", text)
}

note_unplaced <- function(s) {
  value <- s$f$values[[s$q$first$name]]
  missing <- which(is.na(value) & !s$f$none & !s$f$few)
  few <- which(s$f$few)
  one <- function(rows, why) {
    if (length(rows)) paste0(plural(length(rows), "name"), " ", why, ", not placed: ",
                             and_list(row_names_of(s, rows), 5), ".")
  }
  rbind(note("few_orders", one(few, paste0("with fewer than ", s$q$at_least, " ",
                                           plural_word(order_word(s$q$book))))),
        note("missing", one(missing, paste("without a value of", spoken(s$q$first$name)))))
}

note_negative <- function(s) {
  m <- s$q$first
  value <- s$f$values[[m$name]]
  below <- which(!is.na(value) & value < 0)
  if (!m$adds_up || !length(below)) return(new_notes())
  positive <- any(value > 0, na.rm = TRUE)
  note("negative", plural(length(below), "name"), if (length(below) == 1) " is" else " are",
       " below zero (", said(sum(value[below]), m), if (length(below) > 1) " in all", "); ",
       if (positive) "shares are of the positive total." else
         "nothing is above zero, so there are no shares.")
}

note_none <- function(s) {
  rows <- which(s$f$none)
  if (!length(rows)) return(new_notes())
  m <- s$q$first
  value <- s$f$values[[m$name]][rows]
  n <- sum(s$f$lines[rows])
  worth <- if (m$adds_up) paste0(" with ", said(sum(value, na.rm = TRUE), m), " of ",
                                 spoken(m$name))
  note("none", plural(n, "line"), " without ", and_list(spoken(s$q$each), last = "or"), worth,
       if (n == 1) " is" else " are", " shown as (none) and not placed.")
}

note_unseen <- function(s) {
  n <- sum(s$f$unseen)
  if (!length(n) || n == 0) return(new_notes())
  note("no_lines", plural(n, "name"), " of the register ", if (n == 1) "has" else "have",
       " no lines in this question.")
}

spelling_all <- function(s) {
  do.call(rbind, lapply(s$q$each, function(field) {
    names <- own_names(s$f$keys[[field]][!s$f$none])
    # A row for each name, unless a row has several.
    if (length(s$f$keys) > 1) names <- unique(names)
    spelling_notes(s$q$book, names, field)
  }))
}
