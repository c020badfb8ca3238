# Who moved between groups (tiers, classes, quadrants) from one period to the other.

# How many names went from each group to each other.
group_moves <- function(then, now, labels, what) {
  out <- as.data.frame(table(factor(then, labels), factor(now, labels)), responseName = "names",
                       stringsAsFactors = FALSE)
  names(out)[1:2] <- paste0(what, c("_before", ""))
  out <- out[out$names > 0, ]
  rownames(out) <- NULL
  out
}

# "12 from B to A, 3 from A to B": the moves, most first.
move_words <- function(moves, words = identity) {
  moves <- moves[moves[[1]] != moves[[2]], ]
  if (!NROW(moves)) return(NULL)
  moves <- moves[order(-moves$names), ]
  text <- paste0(vapply(moves$names, count_text, ""), " from ", words(moves[[1]]), " to ",
                 words(moves[[2]]))
  if (length(text) < 7) return(and_list(text))
  # Names, not kinds of move, are what is counted.
  paste0(paste(text[1:5], collapse = ", "), " and ", plural(sum(moves$names[-(1:5)]), "more name"),
         " otherwise")
}

# Where the names of now stood then. `now` and `then` are lists of `keys` and, of each name,
# `group`; `absent` is the group of those that are in one of the two alone, or elsewhere where the
# conditions leave out their lines of the other period. Gives list(at, was, moves): the row of each
# name then, its group then, and how many went from each group to each other.
moves_between <- function(question, now, then, labels, absent, what) {
  pick <- function(keys, which) lapply(keys, `[`, which)
  at <- match_keys(now$keys, then$keys)
  was <- then$group[at]
  came <- which(is.na(at))
  was[came] <- absent_states(question, pick(now$keys, came), question$asked$period_before, absent)
  left <- which(is.na(match_keys(then$keys, now$keys)))
  to <- absent_states(question, pick(then$keys, left), question$asked$period_now, absent)
  list(at = at, was = was,
       moves = group_moves(c(was, then$group[left]), c(now$group, to),
                           c(labels, absent, "elsewhere"), what))
}
