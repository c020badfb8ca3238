# One page of the report as HTML. Every text is escaped; nothing is loaded from elsewhere.

report_rows <- 200       # rows shown of a table
report_csv <- 400000     # largest CSV, in bytes, that is kept inside the report

escaped <- function(x) htmltools::htmlEscape(one_line(as_utf8(x)), attribute = TRUE)

# <tag attributes>text</tag>; `text` must be HTML already.
tag <- function(name, text, ..., attributes = c(...)) {
  given <- if (length(attributes)) paste0(" ", names(attributes), "=\"", attributes, "\"",
                                          collapse = "")
  paste0("<", name, given, ">", paste(text, collapse = "\n"), "</", name, ">")
}

page_html <- function(page, id) {
  if (page_failed(page)) return(tag("article", c(
    tag("p", escaped(page$title), class = "kicker"), tag("h3", "This page could not be made"),
    tag("pre", htmltools::htmlEscape(conditionMessage(page$error)))), id = id, class = "failed"))
  facts <- facts(page$result)
  tag("article", c(
    tag("p", escaped(page$title), class = "kicker"), tag("h3", escaped(facts$finding)),
    tag("p", escaped(facts$reading), class = "reading"), figure_html(page$result),
    tables_html(page$result, id),
    if (nrow(facts$notes)) tag("ul", tag_each("li", escaped(facts$notes$text)), class = "notes"),
    proof_html(facts$proof), csv_html(page$result, page$file)), id = id)
}

tag_each <- function(name, texts) vapply(texts, function(one) tag(name, one), "", USE.NAMES = FALSE)

# The figure inside the page, without the words that stand around it there; a study that has
# nothing to draw goes without.
figure_html <- function(x) {
  path <- tempfile(fileext = ".png")
  on.exit(unlink(path))
  alt <- NULL
  tryCatch(write_whole(path, function(part) alt <<- write_figure(x, part, "png", 8.9, 5, TRUE)),
           ll_error = function(e) {
             # A full disk is another matter than nothing to draw.
             if (inherits(e, "ll_error_target")) stop(e)
           })
  if (is.null(alt)) return(NULL)
  if (!nzchar(alt)) alt <- ll_finding(x)
  tag("figure", paste0("<img alt=\"", escaped(alt), "\" width=\"1281\" height=\"720\" src=\"",
                       data_uri("image/png", readBin(path, "raw", file.size(path))), "\">"))
}

data_uri <- function(type, bytes) {
  paste0("data:", type, ";base64,", gsub("\n", "", jsonlite::base64_enc(bytes), fixed = TRUE))
}

# The tables that printing shows: further ones first, then the result itself.
tables_html <- function(x, id) {
  facts <- facts(x)
  c(unlist(lapply(names(facts$further), function(part) {
    table_html(facts$parts[[part]], facts$further[[part]], NULL, paste0(id, "-", file_words(part)),
               spoken(part))
  })), table_html(plain_frame(x), facts$columns, facts$parts$foot, paste0(id, "-table"), "table"))
}

table_html <- function(table, columns, foot, id, what) {
  columns <- columns[columns$shown, ]
  if (!nrow(table)) return(tag("p", "(no names)", class = "tools"))
  shown <- table[seq_len(min(nrow(table), report_rows)), , drop = FALSE]
  cells <- lapply(seq_len(nrow(columns)), function(i) {
    values <- shown[[columns$name[i]]]
    c(column_texts(shown, columns[i, ], foot),
      list(class = if (columns$unit[i] %in% c("text", "own")) "text" else "number",
           key = if (is.numeric(values)) ifelse(is.na(values), "", sprintf("%.15g", values))))
  })
  class <- vapply(cells, `[[`, "", "class")
  head <- paste0("<th scope=\"col\" class=\"", class, "\"><button type=\"button\">",
                 escaped(spoken(columns$name)), "</button></th>", collapse = "")
  cell <- function(c) {
    paste0("<td class=\"", c$class, "\"", if (!is.null(c$key)) paste0(" data-v=\"", c$key, "\""),
           ">", escaped(c$text), "</td>")
  }
  body <- paste0("<tr>", do.call(paste0, unname(lapply(cells, cell))), "</tr>")
  below <- if (NROW(foot)) do.call(paste0, lapply(cells, function(c) {
    text <- if (length(c$below)) escaped(c$below) else rep("", nrow(foot))
    paste0("<td class=\"", c$class, "\">", text, "</td>")
  }))
  cut <- nrow(table) > nrow(shown)
  many <- plural(nrow(table), "row")
  if (cut) many <- paste("the first", count_text(nrow(shown)), "of", many)
  c(if (nrow(shown) > 12) tag("div", c(
    tag("label", c("Search", paste0("<input type=\"search\" data-for=\"", id, "\">"))),
    tag("output", many)), class = "tools"),
    tag("div", tag("table", c(
      tag("thead", tag("tr", head)), tag("tbody", body),
      if (length(below)) tag("tfoot", paste0("<tr>", below, "</tr>"))), id = id, class = "sorts"),
      class = "sheet", tabindex = "0", role = "region", "aria-label" = escaped(what)))
}

proof_html <- function(proof) {
  broken <- !all(proof$holds)
  number <- function(x) escaped(vapply(x, format_number, ""))
  rows <- paste0("<tr><td class=\"text\">", escaped(proof$check), "</td><td>",
                 number(proof$expected), "</td><td>", number(proof$found), "</td><td",
                 ifelse(proof$holds, ">holds", " class=\"broken\">does not hold"), "</td></tr>")
  paste0(if (broken) "<details open>" else "<details>",
         tag("summary", escaped(proof_text(proof)), attributes = if (broken) c(class = "broken")),
         tag("div", tag("table", c(
           paste0("<thead><tr><th class=\"text\" scope=\"col\">check</th>",
                  "<th scope=\"col\">expected</th><th scope=\"col\">found</th>",
                  "<th scope=\"col\">holds</th></tr></thead>"),
           tag("tbody", rows))), class = "sheet"), "</details>")
}

# The page's CSV, to be saved from within the report while it is small.
csv_html <- function(x, file) {
  name <- paste0(file, ".csv")
  path <- tempfile(fileext = ".csv")
  on.exit(unlink(path))
  write_whole(path, function(part) write_csv(plain_frame(x), part))
  size <- file.size(path)
  if (size > report_csv) return(tag("p", paste0(
    "All ", plural(nrow(x), "row"), " stand in the file ", escaped(name), "."), class = "save"))
  tag("p", paste0("<a download=\"", escaped(name), "\" href=\"",
                  data_uri("text/csv", readBin(path, "raw", size)), "\">Save ",
                  plural(nrow(x), "row"), " as CSV</a>"), class = "save")
}
