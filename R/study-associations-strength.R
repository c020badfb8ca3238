# Associations, continued: strengths against chance, and what runs through what.

strength_words <- c("none to speak of", "weak", "moderate", "strong")
strength_from <- c(.01, .06, .14)   # Cohen (1988)

association_strengths <- function(question, found) {
  found$table <- data.frame(field = character(), kind = character(), names = numeric(),
                            explained = numeric(), adjusted = numeric(), chance = numeric(),
                            rank_correlation = numeric(), strength = character(), known = numeric())
  if (!length(found$fields) || !isTRUE(found$spread > 0)) return(found)
  table <- field_strengths(question, found)
  by_chance <- table$strength == "no more than chance"
  found$table <- table[order(by_chance, -table$adjusted, table$field, method = "radix"), ]
  rownames(found$table) <- NULL
  found
}

# Each field among the lines where it is known.
field_strengths <- function(question, found) {
  chance <- chance_shares(question, found, question$args$shuffles)
  single <- !anyDuplicated(found$block)
  do.call(rbind, lapply(names(found$fields), function(name) {
    own <- where_known(found, name)
    field <- own$fields[[1]]
    n <- length(own$value)
    raw <- explained_share(own$value, field)$raw
    expected <- if (single) (field$size - 1) / (n - 1) else mean(chance[, name])
    beyond <- (1 + sum(chance[, name] >= raw * (1 - 1e-12))) / (question$args$shuffles + 1) <= .05
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
known_strengths <- function(question, found) {
  partly <- Filter(function(field) any(is_known(field)), found$partly)
  if (!length(partly) || !isTRUE(found$spread > 0)) return(NULL)
  codes <- lapply(partly, function(field) as.integer(is_known(field)))
  first <- !duplicated(codes)
  two_names <- function(name, codes) list(name = name, kind = "names", codes = codes, size = 2L)
  found$fields <- Map(two_names, names(partly)[first], codes[first])
  table <- field_strengths(question, found)
  table$fields <- split(names(partly), match(codes, codes[first]))
  means <- lapply(found$fields, function(field) found$centre + mean_by(found$value, field))
  table$without <- vapply(means, `[`, 0, 1)
  table$with <- vapply(means, `[`, 0, 2)
  table[!table$strength %in% c("no more than chance", strength_words[1]), ]
}

# The strongest fields two by two: what each still explains beyond each other one.
association_pairs <- function(question, found) {
  found$table$through <- rep("", nrow(found$table))
  found$table$left <- rep(NA_real_, nrow(found$table))
  found$pairs <- data.frame(field = character(), given = character(), alone = numeric(),
                            left = numeric())
  strong <- found$table[!found$table$strength %in% c("no more than chance", strength_words[1]), ]
  strong <- utils::head(strong, pairs_most)
  if (nrow(strong) < 2) return(found)
  pairs <- expand.grid(given = seq_len(nrow(strong)), field = seq_len(nrow(strong)))
  pairs <- pairs[pairs$given != pairs$field, ]
  found$alike <- alike_within_blocks(question, found, strong$field)
  pairs <- Map(function(a, b) pair_strength(found, strong, a, b), pairs$field, pairs$given)
  pairs <- do.call(rbind, pairs)
  found$pairs <- pairs[c("field", "given", "alone", "left")]
  rownames(found$pairs) <- NULL
  for (field in strong$field) {
    mine <- pairs[pairs$field == field & pairs$candidate & !is.na(pairs$left), ]
    mine <- mine[mine$left < through_left * mine$alone, ]
    if (!nrow(mine)) next
    # Of those that leave about as little, the one with the fewest names tells it most plainly.
    mine <- mine[mine$left <= min(mine$left) + .01, ]
    mine <- mine[order(found$table$names[match(mine$given, found$table$field)]), ][1, ]
    at <- match(field, found$table$field)
    found$table$through[at] <- mine$given
    found$table$left[at] <- max(mine$left, 0)
  }
  found
}

# How many times more than of independent values each field (rows) explains by chance of what each
# other one (columns) leaves, by shuffling whole orders of that: lines of one order are alike.
alike_within_blocks <- function(question, found, names) {
  out <- matrix(1, length(names), length(names), dimnames = list(names, names))
  if (!anyDuplicated(found$block)) return(out)
  for (given in names) {
    own <- where_known(found, given, names)
    own$value <- own$value - fitted_means(own$value, own$fields[[given]])
    if (!spread_of(own$value) > 0) next
    chance <- colMeans(chance_shares(question, own, min(question$args$shuffles, 99)))
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
pair_strength <- function(found, strong, a, b) {
  names <- strong$field[c(a, b)]
  both <- where_known(found, names)
  field <- both$fields[[1]]
  given <- both$fields[[2]]
  finer <- is_part_of(given, field)
  coarser <- is_part_of(field, given)
  nearly <- strong$adjusted[b] >= through_left * strong$adjusted[a]
  alone <- if (length(both$value) == strong$known[a]) strong$adjusted[a] else
    explained_share(both$value, field)$adjusted
  data.frame(field = names[1], given = names[2], alone = alone,
             left = share_beyond(both$value, field, given, found$alike[names[1], names[2]]),
             candidate = !finer && if (coarser) nearly else b < a)
}

pairs_most <- 12       # fields looked at two by two

through_left <- .5     # a field runs through another that leaves less than this of its strength
