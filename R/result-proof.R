# Lines of a proof: what was expected, what was found, and whether they agree.

# `exact` numbers must agree to half a unit of their last decimal, others within a relative 1e-9.
proof_line <- function(check, expected, found, exact = TRUE, holds = NULL) {
  if (is.null(holds)) holds <- agrees(expected, found, exact)
  data.frame(check = check, expected = as.double(expected), found = as.double(found), holds = holds)
}

agrees <- function(a, b, exact) {
  if (is.na(a) || is.na(b)) return(is.na(a) && is.na(b))
  # The second route adds doubles; its last bits may differ from an exact sum.
  abs(a - b) <= max(if (exact) 5e-7 else 0, 1e-9 * max(abs(a), abs(b)))
}

proof_text <- function(proof) {
  n <- sum(proof$holds)
  paste0("proof: ", n, " of ", nrow(proof), " hold")
}
