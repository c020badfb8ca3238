# Detail, continued: the table, its sentences and proof.

detail_table <- function(question, found) {
  args <- question$args
  money <- money_fields(question$book)
  cells <- lapply(stats::setNames(args$with_fields, args$with_fields), function(field) {
    as_dates(field_values(found$here, field, found$lines))
  })
  unit <- vapply(args$with_fields, function(field) {
    type <- question$book$fields$type[match(field, question$book$fields$name)]
    if (field %in% money) "money" else if (type %in% c("number", "date")) type else "text"
  }, "")
  cells[unit == "text"] <- lapply(cells[unit == "text"], as.character)
  list(table = data.frame(line = line_numbers(found$here$source, found$lines), cells,
                          check.names = FALSE),
       columns = rbind(new_columns("line", "count", FALSE),
                       new_columns(args$with_fields, unname(unit))),
       parts = list(totals = data.frame(metric = names(question$metrics),
                                        value = unlist(found$total), row.names = NULL)))
}

detail_settings <- function(question, found) {
  args <- question$args
  question_settings(question, with_fields = args$with_fields, sort_by = args$sort_by,
                    first = args$first,
                    top = args$top)
}

detail_finding <- function(question, found) {
  if (!found$meets) return("No line meets these conditions.")
  totals <- vapply(question$metrics, function(metric) {
    paste(spoken(metric$name), said(found$total[[metric$name]], metric))
  }, "")
  paste0(plural(found$meets, "line"), ": ", and_list(totals), ".")
}

detail_reading <- function(question, found) {
  args <- question$args
  paste0("The lines behind ", and_list(spoken(names(question$metrics))), "; ",
         reading_tail(question,
                      if (!is.null(args$sort_by)) paste(args$first, spoken(args$sort_by), "first"),
                      if (length(found$lines) < found$meets)
                        paste(count_text(length(found$lines)), "of", count_text(found$meets),
                              "shown")))
}

detail_proof <- function(question, found) {
  rbind(prove_question(question, found$counted, found$total, found$exact),
        proof_line("lines found = lines counted", found$counted, found$meets))
}

detail_notes <- function(question, found) question_notes(question)

detail_behind <- function(question, found) list()
