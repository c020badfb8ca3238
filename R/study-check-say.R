# Check, continued: its sentences, notes and proof.

check_finding <- function(s) {
  n <- nrow(s$findings)
  if (!n) return(paste0("Nothing looks wrong in ", plural(s$q$book$lines, "line"), "."))
  first <- s$findings[1, ]
  high <- sum(s$findings$weight == "high")
  money <- if (!is.na(first$money))
    paste0(", ", said(first$money, s$q$first), " of ", spoken(s$q$first$name))
  paste0(plural(n, "finding"), if (high) paste0(", ", high, " of weight"), "; first: ",
         first$finding,
         if (nzchar(first$field) && !says_field(first$finding, first$field))
           paste0(" in ", spoken(first$field)),
         if (first$lines) paste0(" (", plural(first$lines, "line"), money, ")"), ".")
}

check_reading <- function(s) {
  q <- s$q
  paste0(plural(nrow(s$fields), "field"), " of ", plural(q$book$lines, "line"),
         " looked at, weighed by ", if (s$bare) "their lines" else metric_words(q$first), "; ",
         reading_tail(q))
}

check_notes <- function(s) {
  mends <- s$findings[nzchar(s$findings$mend), ]
  takes <- startsWith(mends$mend, "set_aside:")
  rbind(note("mend", if (nrow(mends)) paste0(capital(mends$finding), ifelse(
    nzchar(mends$field), paste0(" (", mends$field, ")"), ""), ": ", mends$mend,
    ifelse(takes, paste0("; it leaves out ", vapply(mends$lines, plural, "", "line"),
                         if (!s$bare) paste0(" and ", said(mends$money, s$q$first), " of ",
                                             spoken(s$q$first$name))), ""), ".")),
    opening_notes(s$q$book))
}

check_proof <- function(s) {
  q <- s$q
  source <- q$book$source
  own <- own_fields(s)
  held <- plain_cells(source, own$name)
  whole <- as.list(s$lines$values[1, , drop = FALSE])
  rbind(prove_question(q, s$lines$lines, whole, s$lines$exact),
        proof_line("cells of every field = missing + held",
                   as.double(source_size(source)) * nrow(own), sum(held) + sum(own$missing)))
}
