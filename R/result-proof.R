# Lines of a proof: what was expected, what was found, and whether they agree.

# `exact` numbers must agree to half a unit of their last decimal, others within a relative 1e-9.
proof_line <- function(check, expected, found, exact = TRUE, holds = NULL) {
  if (is.null(holds)) holds <- agrees(expected, found, exact)
  data.frame(check = check, expected = as.double(expected), found = as.double(found), holds = holds)
}

# What the ledger says is typed, and must be met to the last decimal of what is exact.
control_line <- function(check, expected, found, exact) {
  proof_line(check, expected, found,
             holds = if (exact && !is.na(found)) abs(expected - found) < 5e-7 else
               agrees(expected, found, FALSE))
}

agrees <- function(a, b, exact) {
  if (is.na(a) || is.na(b)) return(is.na(a) && is.na(b))
  # Of infinities nothing can be told.
  if (is.infinite(a) || is.infinite(b)) return(FALSE)
  # The second route adds doubles; its last bits may differ from an exact sum.
  abs(a - b) <= max(if (exact) 5e-7 else 0, 1e-9 * max(abs(a), abs(b)))
}

proof_text <- function(proof) {
  n <- sum(proof$holds)
  paste0("proof: ", n, " of ", nrow(proof), " hold")
}

# What does not hold, a text for each line: the first thing that is said.
broken_proof <- function(proof) {
  broken <- proof[!proof$holds, ]
  digits <- function(x) format_number(x, digits = max(2, fitting_digits(x, "number")))
  texts <- vapply(seq_len(nrow(broken)), function(i) {
    values <- unlist(broken[i, c("expected", "found")])
    shown <- digits(values)
    apart <- if (anyNA(values)) "" else paste0(", ", digits(values[[2]] - values[[1]]), " apart")
    paste0("The proof does not hold: ", broken$check[i], " (expected ", shown[1], ", found ",
           shown[2], apart, ").")
  }, "")
  unique(texts)
}
