# Associations, continued: values laid out for shuffling, and those where a field is known.

centred <- function(found) {
  found$value <- found$value - mean(found$value)
  found$spread <- sum(found$value^2)
  found
}

# Values in the order in which they are shuffled: blocks of one size side by side, sizes with few
# blocks together. Within a block the order must depend neither on the file nor on the values' size:
# the fraction of an irrational multiple decides.
in_strata <- function(found) {
  mark <- found$value * 100 * (sqrt(5) - 1) / 2
  for (i in seq_along(found$fields)) {
    codes <- found$fields[[i]]$codes
    codes[is.na(codes)] <- -1L
    mark <- mark + codes * sqrt(i + 1)
  }
  laid_out(found, order(mark %% 1))
}

# The lines `rows`, blocks in strata of their sizes among them, lines of a block in the order given.
laid_out <- function(found, rows) {
  block <- match(found$block[rows], unique(sort(found$block[rows])))
  size <- tabulate(block, max(block, 0))
  stratum <- strata_of_sizes(size)[block]
  at <- order(stratum, size[block], block)
  found$value <- found$value[rows[at]]
  found$block <- block[at]
  found$stratum <- stratum[at]
  found$fields <- lapply(found$fields, function(field) {
    field$codes <- field$codes[rows[at]]
    field$x <- field$x[rows[at]]
    field
  })
  found
}

# For each block the number of its stratum: its size, or a run of sizes that hold 5 blocks or more.
strata_of_sizes <- function(size) {
  sizes <- sort(unique(size))
  count <- tabulate(match(size, sizes), length(sizes))
  stratum <- integer(length(sizes))
  now <- 1L
  held <- 0
  for (i in seq_along(sizes)) {
    stratum[i] <- now
    held <- held + count[i]
    if (held >= 5 && i < length(sizes)) {
      now <- now + 1L
      held <- 0
    }
  }
  stratum[match(size, sizes)]
}

# What is left of the values where all fields of these names are known, with the fields `keep`.
where_known <- function(found, names, keep = names) {
  known <- Reduce(`&`, lapply(found$fields[names], is_known))
  found$fields <- found$fields[keep]
  if (all(known)) return(found)
  found <- centred(laid_out(found, which(known)))
  found$fields <- lapply(found$fields, function(field) {
    field[c("codes", "size")] <- pack_codes(field$codes)
    field
  })
  found
}

# The shares that chance gives each field where it is known: shuffles (rows) by fields (columns).
chance_shares <- function(question, found, shuffles) {
  all_known <- vapply(found$fields, function(field) all(is_known(field)), NA)
  out <- matrix(NA_real_, shuffles, length(found$fields),
                dimnames = list(NULL, names(found$fields)))
  for (names in c(list(names(which(all_known))), names(which(!all_known)))) if (length(names)) {
    own <- where_known(found, names)
    out[, names] <- kernel_shuffled(own$value, own$block, own$stratum,
                                    lapply(own$fields, `[[`, "codes"),
                                    vapply(own$fields, `[[`, 0L, "size"), shuffles,
                                    question$args$seed)
  }
  out
}

is_known <- function(field) !is.na(field$codes)
