# Signs of amounts that another column tells: credit notes that an export writes without their minus.

# What documents that take back what was sold are called, as whole words.
credit_note_words <- paste0(
  "^(cn|crn|cr|credit|credit[ _-]?(note|memo|invoice)|gutschrift|storno|stornorechnung|avoir|",
  "note de cr\u00e9dit|abono|nota de cr[e\u00e9]dito|factura rectificativa|nota di credito|",
  "creditnota|",
  "kreditnota|return(s|ed)?|sales return|retoure|retour|refund|reversal|rma|korekta|",
  "\u0432\u043e\u0437\u0432\u0440\u0430\u0442)s?$")

# `sign`: per field the words whose lines count as negative, c(CN = -1) or the words alone.
check_sign <- function(given) {
  if (is.null(given)) return(NULL)
  if (is.null(names(given)) || any(!nzchar(names(given))))
    ll_abort(c("'sign' must be named after the field that tells credit notes.",
               i = "For example list(doc_type = c(CN = -1))."), "argument")
  lapply(as.list(given), function(words) {
    words <- unlist(words)
    if (is.null(names(words))) return(stats::setNames(rep(-1, length(words)), as.character(words)))
    value <- suppressWarnings(as.numeric(words))
    if (anyNA(value) || any(abs(value) != 1))
      ll_abort(c("'sign' gives 1 or -1 to each word.",
                 x = paste0("It gives ", shown(unname(words)[which(!value %in% c(1, -1))[1]]), ".")),
               "argument")
    stats::setNames(value, names(words))
  })
}

# The lines whose amounts count as negative, as the person said; with what was done.
apply_signs <- function(data, measures, sign, where) {
  fixes <- NULL
  for (field in names(sign)) {
    if (!field %in% names(data))
      ll_abort(c(paste0("'sign' names an unknown field ", quoted(field), "."),
                 offer(field, names(data), "Columns")), "word")
    words <- sign[[field]]
    text <- plain_key(data[[field]])
    typed <- names(words)
    # What was typed with commas are several, unless it stands in a cell.
    split <- unlist(lapply(typed, function(w) if (w %in% text) w else trimmed(strsplit(w, ",")[[1]])))
    if (length(split) > length(typed)) words <- stats::setNames(rep(-1, length(split)), split)
    unknown <- setdiff(names(words), text)
    if (length(unknown))
      ll_abort(c(paste0("No line has ", shown(unknown[1]), " in ", quoted(field), " (", where, ")."),
                 offer(unknown[1], unique(text[!is.na(text)]), "Known")), "word")
    rows <- which(text %in% names(words)[words < 0])
    for (name in measures) {
      x <- data[[name]]
      rows_up <- rows[!is.na(x[rows]) & x[rows] > 0]
      before <- sum(as.double(x), na.rm = TRUE)
      moved <- sum(as.double(x[rows_up]))
      if (!length(rows_up)) next
      data[[name]][rows_up] <- -x[rows_up]
      fixes <- rbind(fixes, fix("sign", name, length(rows_up), paste0(
        plural(length(rows_up), "amount"), " of ", name, " counted as negative (", field, " is ",
        and_list(names(words)[words < 0], 3, "or"), ")"), before - 2 * moved,
        sum(as.double(data[[name]]), na.rm = TRUE)))
    }
  }
  list(data = data, fixes = fixes)
}

# Credit notes whose amounts are positive, proposed and not changed: a table of offers, or NULL.
offer_signs <- function(data, rows, coded, sign) {
  texts <- rows$column[rows$role == "dimension" & rows$type == "text" & !rows$column %in% names(sign)]
  money <- first_money(rows)
  if (is.null(money)) return(NULL)
  x <- data[[money]]
  for (field in texts) {
    each <- coded[[guarded(field)]]$levels
    if (length(each) > 50) next
    hit <- each[grepl(credit_note_words, trimmed(each), ignore.case = TRUE, perl = TRUE)]
    if (!length(hit)) next
    on <- data[[field]] %in% hit & !is.na(x)
    if (!any(on) || any(x[on] < 0) || !any(x[on] > 0)) next
    total <- sum(as.double(x), na.rm = TRUE)
    amount <- sum(as.double(x[on]))
    option <- paste("--sign", shell_quoted(paste0(field, "=", paste(hit, collapse = ","))))
    return(an_offer(amount, paste0(
      plural(sum(on), "line"), " with ", field, " ", and_list(quoted(hit), 3, "or"), " have positive ",
      "amounts (", amount_text(amount), " of ", money, "). If these are credit notes, ", option,
      " (in a brief: sign: {",
      field, ": {", paste0(hit, ": -1", collapse = ", "), "}}) counts them as negative: ",
      amount_text(total - 2 * amount), " instead of ", amount_text(total)), option))
  }
}
