# Detail, continued: the table, its sentences and proof.

detail_table <- function(s) {
  q <- s$q
  money <- money_fields(q$book)
  cells <- lapply(stats::setNames(q$show, q$show), function(field) {
    as_dates(field_values(s$here, field, s$lines))
  })
  unit <- vapply(q$show, function(field) {
    type <- q$book$fields$type[match(field, q$book$fields$name)]
    if (field %in% money) "money" else if (type %in% c("number", "date")) type else "text"
  }, "")
  cells[unit == "text"] <- lapply(cells[unit == "text"], as.character)
  list(table = data.frame(line = line_numbers(s$here$source, s$lines), cells, check.names = FALSE),
       columns = rbind(new_columns("line", "count", FALSE), new_columns(q$show, unname(unit))))
}

detail_settings <- function(q) {
  question_settings(q, show = q$show, sort_by = q$sort_by, first = q$direction, top = q$top)
}

detail_finding <- function(s) {
  if (!s$found) return("No line meets these conditions.")
  totals <- vapply(s$q$metrics, function(m) paste(spoken(m$name), said(s$total[[m$name]], m)), "")
  paste0(plural(s$found, "line"), ": ", and_list(totals), ".")
}

detail_reading <- function(s) {
  q <- s$q
  paste0("The lines behind ", and_list(spoken(names(q$metrics))), "; ",
         reading_tail(q, if (!is.null(q$sort_by)) paste(q$direction, spoken(q$sort_by), "first"),
                      if (length(s$lines) < s$found)
                        paste(count_text(length(s$lines)), "of", count_text(s$found), "shown")))
}

detail_proof <- function(s) {
  q <- s$q
  rbind(prove_question(q, s$counted, s$total, s$exact),
        proof_line("lines found = lines counted", s$counted, s$found))
}
