# Associations, continued: strengths against chance, and what runs through what.

strength_words <- c("none to speak of", "weak", "moderate", "strong")
strength_from <- c(.01, .06, .14)   # Cohen (1988)

association_strengths <- function(s) {
  q <- s$q
  n <- length(s$value)
  s$table <- data.frame(field = character(), kind = character(), names = numeric(),
                        explained = numeric(), adjusted = numeric(), chance = numeric(),
                        rank_correlation = numeric(), strength = character())
  if (!length(s$fields) || !isTRUE(s$spread > 0)) return(s)
  chance <- kernel_shuffled(s$value, s$block, s$stratum, lapply(s$fields, `[[`, "codes"),
                            vapply(s$fields, `[[`, 0L, "size"), q$shuffles, q$seed)
  single <- !anyDuplicated(s$block)
  rows <- lapply(seq_along(s$fields), function(i) {
    field <- s$fields[[i]]
    raw <- explained_share(s$value, field)$raw
    expected <- if (single) (field$size - 1) / (n - 1) else mean(chance[, i])
    beyond <- (1 + sum(chance[, i] >= raw * (1 - 1e-12))) / (q$shuffles + 1) <= .05
    adjusted <- (raw - expected) / (1 - expected)
    data.frame(field = field$name, kind = field$kind, names = field$size, explained = raw,
               adjusted = adjusted,
               chance = stats::quantile(chance[, i], .95, names = FALSE, type = 1),
               rank_correlation = if (field$kind == "numbers") rank_correlation(s$value, field$x)
                 else NA_real_,
               strength = if (!beyond) "no more than chance" else
                 strength_words[findInterval(adjusted, strength_from) + 1])
  })
  table <- do.call(rbind, rows)
  by_chance <- table$strength == "no more than chance"
  s$table <- table[order(by_chance, -table$adjusted, table$field, method = "radix"), ]
  rownames(s$table) <- NULL
  s
}

# The strongest fields two by two: what each still explains beyond each other one.
association_pairs <- function(s) {
  s$table$through <- rep("", nrow(s$table))
  s$table$left <- rep(NA_real_, nrow(s$table))
  s$pairs <- data.frame(field = character(), given = character(), alone = numeric(),
                        left = numeric())
  strong <- s$table[!s$table$strength %in% c("no more than chance", strength_words[1]), ]
  strong <- utils::head(strong, pairs_most)
  if (nrow(strong) < 2) return(s)
  pairs <- expand.grid(given = seq_len(nrow(strong)), field = seq_len(nrow(strong)))
  pairs <- pairs[pairs$given != pairs$field, ]
  s$alike <- lines_alike(s, strong$field)
  found <- Map(function(a, b) pair_strength(s, strong, a, b), pairs$field, pairs$given)
  found <- do.call(rbind, found)
  s$pairs <- found[c("field", "given", "alone", "left")]
  rownames(s$pairs) <- NULL
  for (field in strong$field) {
    mine <- found[found$field == field & found$candidate & !is.na(found$left), ]
    mine <- mine[mine$left < through_left * mine$alone, ]
    if (!nrow(mine)) next
    # Of those that leave about as little, the one with the fewest names tells it most plainly.
    mine <- mine[mine$left <= min(mine$left) + .01, ]
    mine <- mine[order(s$table$names[match(mine$given, s$table$field)]), ][1, ]
    at <- match(field, s$table$field)
    s$table$through[at] <- mine$given
    s$table$left[at] <- max(mine$left, 0)
  }
  s
}

# How many times more than of independent values each field (rows) explains by chance of what each
# other one (columns) leaves, by shuffling whole orders of that: lines of one order are alike.
lines_alike <- function(s, names) {
  out <- matrix(1, length(names), length(names), dimnames = list(names, names))
  if (!anyDuplicated(s$block)) return(out)
  fields <- s$fields[names]
  size <- vapply(fields, `[[`, 0L, "size")
  for (given in names) {
    left <- s$value - mean_by(s$value, fields[[given]])[fields[[given]]$codes + 1L]
    if (!spread_of(left) > 0) next
    chance <- kernel_shuffled(left, s$block, s$stratum, lapply(fields, `[[`, "codes"), size,
                              min(s$q$shuffles, 99), s$q$seed)
    out[, given] <- pmax(colMeans(chance) / ((size - 1) / (length(left) - 1)), 1)
  }
  out
}

# A field may run through a stronger one, or through its own coarser form when that is nearly as
# strong; never through a finer form of itself, which knows all it knows.
pair_strength <- function(s, strong, a, b) {
  field <- s$fields[[strong$field[a]]]
  given <- s$fields[[strong$field[b]]]
  finer <- is_part_of(given, field)
  coarser <- is_part_of(field, given)
  nearly <- strong$adjusted[b] >= through_left * strong$adjusted[a]
  data.frame(field = field$name, given = given$name, alone = strong$adjusted[a],
             left = share_beyond(s$value, field, given, s$alike[field$name, given$name]),
             candidate = !finer && if (coarser) nearly else b < a)
}
