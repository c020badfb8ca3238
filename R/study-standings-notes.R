# What a careful colleague would point out beside standings. Each function looks for one thing and
# gives a data frame of kind and text, empty where there is nothing to say.

near_share <- 0.001   # neighbours closer than this share of their value are near-equal

standings_notes <- function(question, found) {
  rbind(note_edges(question, found), note_ties(question, found), note_near(question, found),
        note_leaders(question, found), note_few_orders(question, found),
        note_groups(question, found), note_people(question, found), note_moves(question, found),
        note_unranked(question, found), note_negative(question, found), note_none(question, found),
        note_unseen(question, found), resamples_notes(question, found$resamples),
        spelling_all(question, found),
        question_notes(question))
}

of_group <- function(question, group) {
  if (length(question$args$within)) paste0(" in ", group) else ""
}

note_edges <- function(question, found) {
  metric <- first_metric(question)
  one <- function(edge) {
    names <- row_names_of(question, found, edge$rows)
    value <- found$fold$values[[metric$name]][edge$rows[1]]
    value <- format_number(value, metric$unit, if (metric$unit == "money") 2)
    where <- of_group(question, edge$group)
    if (question$args$last_ties == "all")
      return(paste0(and_list(names), " tie at ", value, where, " for the last rank of the ",
                    edge$side, " ", edge$n, ", so ", edge$shown, " are shown."))
    in_it <- edge$rows %in% found$rows
    paste0("The tie at ", value, where, " for the last rank of the ", edge$side, " ", edge$n,
           " was cut: ", and_list(names[in_it]), verb(sum(in_it), " is"), " shown, ",
           and_list(names[!in_it]), verb(sum(!in_it), " is"), " not.")
  }
  note("tie_edge", unlist(lapply(utils::head(found$edge, 5), one)))
}

# The ranks as the table has them, which `ties` decides.
shown_rank <- function(question, found, rows) {
  format_plain(found$fold$ranks[[first_metric(question)$name]][rows])
}

# Ties among the rows shown, other than at the edge.
note_ties <- function(question, found) {
  rows <- found$rows[!is.na(found$fold$shared[found$rows])]
  if (!length(rows)) return(new_notes())
  group <- found$group[rows]
  shared <- found$fold$shared[rows]
  key <- match(group, unique(group)) + (length(rows) + 1) * match(shared, unique(shared))
  twice <- key %in% key[duplicated(key)]
  tied <- split(rows[twice], factor(key[twice], unique(key[twice])))
  edge <- unlist(lapply(found$edge, `[[`, "rows"))
  tied <- Filter(function(x) !any(x %in% edge), tied)
  text <- vapply(utils::head(tied, 5), function(x) {
    rank <- unique(shown_rank(question, found, x))
    level <- if (length(rank) == 1) paste(" tie at rank", rank) else
      paste0(" are level by ", spoken(first_metric(question)$name), ", at ranks ",
             and_list(rank, 5))
    paste0(and_list(row_names_of(question, found, x), 5), level,
           of_group(question, found$group[x[1]]), ".")
  }, "")
  more <- length(tied) - length(text)
  note("tie", c(unname(text), if (more > 0) paste0("And ", plural(more, "more tie"), ".")))
}

# Neighbours so close that the difference should not be read as a lead.
note_near <- function(question, found) {
  metric <- first_metric(question)
  rows <- found$rows[!is.na(found$fold$shared[found$rows])]
  if (length(rows) < 2 || metric$unit == "date") return(new_notes())
  value <- found$fold$values[[metric$name]]
  a <- rows[-length(rows)]
  b <- rows[-1]
  follows <- integer(length(found$order))
  follows[found$order[-length(found$order)]] <- found$order[-1]
  next_rank <- found$group[a] == found$group[b] & (follows[a] == b | follows[b] == a)
  gap <- abs(value[a] - value[b])
  size <- pmax(abs(value[a]), abs(value[b]))
  near <- which(next_rank & found$fold$shared[a] != found$fold$shared[b] & gap < near_share * size)
  show <- near[order(gap[near])][seq_len(min(3, length(near)))]
  text <- vapply(show, function(i) {
    paste0(row_names_of(question, found, a[i]), " is ahead of ",
           row_names_of(question, found, b[i]), " by only ", least_words(gap[i], metric),
           " (ranks ", shown_rank(question, found, a[i]), " and ",
           shown_rank(question, found, b[i]), "): not a lead to build on.")
  }, "")
  if (length(near) > 3)
    text <- c(text, paste0(length(near) - 3, " more neighbours are less than 0.1 % apart."))
  note("near_equal", text)
}

# Rows in first rank by a metric.
leaders_by <- function(question, found, metric) {
  if (question$args$ties == "shared" && !length(question$args$within))
    return(which(found$fold$ranks[[metric$name]] == 1))
  value <- found$fold$values[[metric$name]]
  value[found$fold$none | found$fold$few] <- NA
  rank <- ranks(value, metric$better == "high", "shared", found$fold$exact[[metric$name]])
  which(rank == 1)
}

note_leaders <- function(question, found) {
  if (length(question$metrics) < 2 || length(question$args$within)) return(new_notes())
  leaders <- lapply(question$metrics, leaders_by, question = question, found = found)
  leaders <- leaders[lengths(leaders) > 0]
  if (length(unique(leaders)) < 2) return(new_notes())
  text <- vapply(names(leaders), function(name) {
    paste0("by ", spoken(name), " ", and_list(row_names_of(question, found, leaders[[name]]), 3))
  }, "")
  note("leaders_differ", "Different leaders: ", paste(text, collapse = "; "), ".")
}

# Averages, quotients and the like among the best of their metric that rest on few orders; metrics
# with the same names share a line.
note_few_orders <- function(question, found) {
  if (!is.null(question$args$min_orders) || is.null(found$fold$orders)) return(new_notes())
  what <- plural_word(order_word(question$book))
  few <- lapply(question$metrics, function(m) {
    rank <- found$fold$ranks[[m$name]]
    rows <- if (averages(m$tree)) which(!is.na(rank) & rank <= 3 & found$fold$orders < few_orders)
    rows[order(rank[rows])]
  })
  few <- few[lengths(few) > 0]
  alike <- split(names(few), vapply(few, function(rows) paste(sort(rows), collapse = " "), ""))
  text <- vapply(alike[order(match(vapply(alike, `[`, "", 1), names(few)))], function(names) {
    low <- any(vapply(question$metrics[names], function(m) m$better == "low", TRUE))
    rows <- few[[names[1]]]
    who <- paste0(row_names_of(question, found, rows), " (", found$fold$orders[rows], ")")
    paste0(if (low) "Best by " else "High by ", and_list(spoken(names)), " on fewer than ",
           few_orders, " ", what, ": ", and_list(who, 4), ". min_orders = ", few_orders,
           " leaves them not ranked.")
  }, "")
  note("few_orders", unname(text))
}

# The leader overall against the leaders of the groups.
note_groups <- function(question, found) {
  if (!length(question$args$within)) return(new_notes())
  # Where the leader has no lines it could not be first.
  leads <- !is.na(match_keys(found$fold$keys[question$args$each], found$overall$leader))
  groups <- intersect(named_groups(found), found$group[leads & found$fold$lines > 0])
  n <- groups_led(question, found)
  leader <- told_as_keys(question, found$overall$leader)
  if (!length(groups) || n > length(groups) / 2) return(new_notes())
  note("leader_not_in_groups", and_list(leader, 5), if (length(leader) > 1)
    " share the lead overall, but one of them is first in only " else
      " leads overall but is first in only ", n, " of ",
       plural(length(groups), noun_of(question, question$args$within)), ".")
}

# A lead that is owed to more people.
note_people <- function(question, found) {
  metric <- first_metric(question)
  people <- found$fold$people
  # Months and the like have no people of their own.
  if (identical(question$book$computed[[question$args$each[1]]]$tree$kind,
                "bucket")) return(new_notes())
  if (is.null(people) || metric$better == "low") return(new_notes())
  value <- found$fold$values[[metric$name]]
  value[found$fold$none] <- NA
  lead <- leaders_by(question, found, metric)
  ok <- !is.na(value) & people > 0
  if (length(lead) != 1 || sum(ok) < 2 || value[lead] <= 0) return(new_notes())
  # Per head means something only where names have several people each.
  if (stats::median(people[ok]) < 2) return(new_notes())
  per_head <- ifelse(ok, value / people, NA)
  best <- which.max(per_head)
  if (best == lead || people[lead] <= people[best]) return(new_notes())
  who <- spoken(question$book$people)
  note("people", row_names_of(question, found, lead), " leads by ", spoken(metric$name), " with ",
       plural(people[lead], who), "; per ", who, " ", row_names_of(question, found, best),
       " leads, ", said(per_head[best], metric), " against ", said(per_head[lead], metric), ".")
}

# Who came into the list shown, and who left it.
note_moves <- function(question, found) {
  args <- question$args
  if (is.null(found$before) || is.null(args$top) || length(args$within)) return(new_notes())
  now <- found$rows[!is.na(found$fold$shared[found$rows]) &
                    found$fold$shared[found$rows] <= args$top]
  was <- which(!is.na(found$before$fold$shared) & found$before$fold$shared <= args$top)
  then <- lapply(found$before$fold$keys[args$each], `[`, was)
  here <- lapply(found$fold$keys[args$each], `[`, now)
  came <- now[is.na(match_keys(here, then))]
  left <- which(is.na(match_keys(then, here)))
  text <- c(if (length(came)) paste0("Entered the top ", args$top, ": ",
                                     and_list(row_names_of(question, found, came), 8), "."),
            if (length(left)) paste0("Left the top ", args$top, ": ",
                                     and_list(told_as_keys(question, then, left), 8), "."))
  note("moves", text)
}

note_unranked <- function(question, found) {
  metric <- first_metric(question)
  value <- found$fold$values[[metric$name]]
  missing <- which(is.na(value) & !found$fold$none & !found$fold$few)
  few <- which(found$fold$few)
  one <- function(rows, why) {
    if (length(rows)) paste0(plural(length(rows), each_word(question)), " ", why, ", not ranked: ",
                             and_list(row_names_of(question, found, rows), 5), ".")
  }
  rbind(note("few_orders", one(few, paste0("with fewer than ", question$args$min_orders, " ",
                                           plural_word(order_word(question$book))))),
        note("missing", one(missing, paste("without a value of", spoken(metric$name)))))
}

note_negative <- function(question, found) {
  metric <- first_metric(question)
  value <- found$fold$values[[metric$name]]
  below <- which(!is.na(value) & value < 0)
  if (!metric$adds_up || !length(below)) return(new_notes())
  positive <- any(value > 0, na.rm = TRUE)
  note("negative", plural(length(below), each_word(question)),
       verb(length(below), " is"),
       " below zero (", said(sum(value[below]), metric), if (length(below) > 1) " in all", "); ",
       if (positive) "shares are of the positive total." else
       "nothing is above zero, so there are no shares.")
}

note_none <- function(question, found) {
  rows <- which(found$fold$none)
  if (!length(rows)) return(new_notes())
  metric <- first_metric(question)
  value <- found$fold$values[[metric$name]][rows]
  n <- sum(found$fold$lines[rows])
  worth <- if (metric$adds_up) paste0(" with ", said(sum(value, na.rm = TRUE), metric), " of ",
                                      spoken(metric$name))
  note("none", plural(n, "line"), " without ", and_list(spoken(question$args$each), last = "or"),
       worth, verb(n, " is"), " shown as (none) and not ranked.")
}

note_unseen <- function(question, found) {
  n <- sum(found$fold$unseen)
  if (!length(n) || n == 0) return(new_notes())
  note("no_lines", plural(n, each_word(question)), " of the register ",
       verb(n, "has"), " no lines in this question.")
}

spelling_all <- function(question, found) {
  do.call(rbind, lapply(question$args$each, function(field) {
    names <- own_names(found$fold$keys[[field]][!found$fold$none])
    # A row for each name, unless a row has several.
    if (length(found$fold$keys) > 1) names <- unique(names)
    spelling_notes(question$book, names, field)
  }))
}
