# Check, continued: its sentences, notes and proof.

check_finding <- function(question, found) {
  metric <- first_metric(question)
  n <- nrow(found$findings)
  if (!n) return(paste0("Nothing looks wrong in ", plural(question$book$lines, "line"),
                        ": there is nothing to list."))
  first <- found$findings[1, ]
  high <- sum(found$findings$weight == "high")
  money <- if (!question$args$bare && !is.na(first$money))
    paste0(", ", said(first$money, metric), " of ", spoken(metric$name))
  paste0(plural(n, "finding"), if (high) paste0(", ", high, " serious"), "; first: ",
         first$finding,
         if (nzchar(first$field) && !says_field(first$finding, first$field))
         paste0(" in ", spoken(first$field)),
         if (first$lines) paste0(" (", plural(first$lines, "line"), money, ")"), ".")
}

check_reading <- function(question, found) {
  paste0(plural(nrow(found$fields), "field"), " of ", plural(question$book$lines, "line"),
         " looked at, weighed by ", if (question$args$bare) "their lines" else
         metric_words(first_metric(question)), "; ", reading_tail(question))
}

check_notes <- function(question, found) {
  metric <- first_metric(question)
  fixes <- found$findings[nzchar(found$findings$fix), ]
  returns <- returns_words(question, found)
  rbind(note("returns", returns), note("fix", if (nrow(fixes)) paste0(
    capital(fixes$finding), ifelse(nzchar(fixes$field), paste0(" (", fixes$field, ")"), ""), ": ",
    fix_words(question, fixes), ".")), opening_notes(question$book))
}

# What each fix does and takes away: a line of brief serves where what was found are errors.
fix_words <- function(question, fixes) {
  metric <- first_metric(question)
  brief <- grepl("^(fields|exclude):", fixes$fix)
  does <- ifelse(startsWith(fixes$fix, "exclude:"), "leaves out", ifelse(
    grepl("same:", fixes$fix), "renames", "fills"))
  touched <- paste0(does, " ", vapply(fixes$lines, plural, "", "line"),
                    if (!question$args$bare) ifelse(is.na(fixes$money), "", paste0(
                      " and ", said(fixes$money, metric), " of ", spoken(metric$name))),
                    ifelse(fixes$returns > 0, paste0(
                      ", ", vapply(fixes$returns, plural, "", "return or credit"),
                      " among them"), ""))
  ifelse(brief, paste0("if these are errors, in the brief: ", fixes$fix, "; it ", touched), fixes$fix)
}

# "485 lines are returns or credits"
returns_words <- function(question, found) {
  rows <- found$findings[found$findings$finding == "below zero: returns and credits", ]
  if (!nrow(rows)) return(NULL)
  metric <- first_metric(question)
  paste0(plural(rows$lines[1], "line"), verb(rows$lines[1], " is"), " below zero in ",
         rows$field[1], if (!question$args$bare) paste0(", with ", said(rows$money[1], metric),
                                                        " of ", spoken(metric$name)),
         ", and read as returns or credits: they belong to the totals, and no fix is offered that ",
         "takes them away.")
}

check_proof <- function(question, found) {
  source <- question$book$source
  own <- own_fields(question)
  held <- second_cells(source, own$name)
  whole <- as.list(found$lines$values[1, , drop = FALSE])
  rbind(prove_question(question, found$lines$lines, whole, found$lines$exact),
        proof_line("cells of every field = missing + held",
                   as.double(source_size(source)) * nrow(own), sum(held) + sum(own$missing)))
}

check_table <- function(question, found) {
  metric <- first_metric(question)
  table <- found$findings[!names(found$findings) %in% c("where", "returns")]
  names(table)[names(table) == "money"] <- metric$name
  list(table = table, parts = list(fields = found$fields),
       columns = new_columns(names(table),
                             c("text", "text", "text", "count", metric$unit, "text", "text"),
                             c(rep(TRUE, 4), !question$args$bare, TRUE, FALSE)))
}

check_settings <- function(question, found) question_settings(question)

check_behind <- function(question, found) {
  list(rows = as.list(unclass(found$findings$where)))
}
