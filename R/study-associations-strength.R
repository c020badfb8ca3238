# Associations, continued: strengths against chance, and what runs through what.

strength_words <- c("none to speak of", "weak", "moderate", "strong")
strength_from <- c(.01, .06, .14)   # Cohen (1988)

association_strengths <- function(s) {
  s$table <- data.frame(field = character(), kind = character(), names = numeric(),
                        explained = numeric(), adjusted = numeric(), chance = numeric(),
                        rank_correlation = numeric(), strength = character(), known = numeric())
  if (!length(s$fields) || !isTRUE(s$spread > 0)) return(s)
  table <- field_strengths(s)
  by_chance <- table$strength == "no more than chance"
  s$table <- table[order(by_chance, -table$adjusted, table$field, method = "radix"), ]
  rownames(s$table) <- NULL
  s
}

# Each field among the lines where it is known.
field_strengths <- function(s) {
  chance <- chance_shares(s, s$q$shuffles)
  single <- !anyDuplicated(s$block)
  do.call(rbind, lapply(names(s$fields), function(name) {
    own <- where_known(s, name)
    field <- own$fields[[1]]
    n <- length(own$value)
    raw <- explained_share(own$value, field)$raw
    expected <- if (single) (field$size - 1) / (n - 1) else mean(chance[, name])
    beyond <- (1 + sum(chance[, name] >= raw * (1 - 1e-12))) / (s$q$shuffles + 1) <= .05
    adjusted <- (raw - expected) / (1 - expected)
    data.frame(field = field$name, kind = field$kind, names = field$size, explained = raw,
               adjusted = adjusted,
               chance = stats::quantile(chance[, name], .95, names = FALSE, type = 1),
               rank_correlation = if (field$kind == "numbers") rank_correlation(own$value, field$x)
                 else NA_real_,
               strength = if (!beyond) "no more than chance" else
                 strength_words[findInterval(adjusted, strength_from) + 1],
               known = n)
  }))
}

# Whether a field is known, as a field of two names: a row for each set of fields that are known
# for the same lines, where that goes with the value.
known_strengths <- function(s) {
  partly <- Filter(function(field) any(is_known(field)), s$partly)
  if (!length(partly) || !isTRUE(s$spread > 0)) return(NULL)
  codes <- lapply(partly, function(field) as.integer(is_known(field)))
  first <- !duplicated(codes)
  s$fields <- Map(function(name, codes) list(name = name, kind = "names", codes = codes, size = 2L),
                  names(partly)[first], codes[first])
  table <- field_strengths(s)
  table$fields <- split(names(partly), match(codes, codes[first]))
  means <- lapply(s$fields, function(field) s$centre + mean_by(s$value, field))
  table$without <- vapply(means, `[`, 0, 1)
  table$with <- vapply(means, `[`, 0, 2)
  table[!table$strength %in% c("no more than chance", strength_words[1]), ]
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
  for (given in names) {
    own <- where_known(s, given, names)
    own$value <- own$value - fitted_means(own$value, own$fields[[given]])
    if (!spread_of(own$value) > 0) next
    chance <- colMeans(chance_shares(own, min(s$q$shuffles, 99)))
    independent <- vapply(names, function(field) {
      both <- where_known(own, field)
      (both$fields[[1]]$size - 1) / (length(both$value) - 1)
    }, 0)
    out[, given] <- pmax(chance / independent, 1)
  }
  out
}

# A field may run through a stronger one, or through its own coarser form when that is nearly as
# strong; never through a finer form of itself, which knows all it knows. All among the lines where
# both are known.
pair_strength <- function(s, strong, a, b) {
  names <- strong$field[c(a, b)]
  both <- where_known(s, names)
  field <- both$fields[[1]]
  given <- both$fields[[2]]
  finer <- is_part_of(given, field)
  coarser <- is_part_of(field, given)
  nearly <- strong$adjusted[b] >= through_left * strong$adjusted[a]
  alone <- if (length(both$value) == strong$known[a]) strong$adjusted[a] else
    explained_share(both$value, field)$adjusted
  data.frame(field = names[1], given = names[2], alone = alone,
             left = share_beyond(both$value, field, given, s$alike[names[1], names[2]]),
             candidate = !finer && if (coarser) nearly else b < a)
}
