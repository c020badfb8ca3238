# One page of the report as HTML. Every text is escaped; nothing is loaded from elsewhere.

report_rows <- 200       # rows shown of a table
report_csv <- 400000     # largest CSV, in bytes, that is kept inside the report

# What stands in the report is made by htmltools, which escapes every text and every attribute.
page_text <- function(x) one_line(as_utf8(x))

page_html <- function(page, id) {
  tags <- htmltools::tags
  if (page_failed(page)) return(tags$article(
    id = id, class = "failed", tags$p(class = "kicker", page_text(page$title)),
    tags$h3("This page could not be made"), tags$pre(conditionMessage(page$error))))
  facts <- facts(page$result)
  tags$article(
    id = id, tags$p(class = "kicker", page_text(page$title)), tags$h3(page_text(facts$finding)),
    comment_html(page$comment), tags$p(class = "reading", page_text(facts$reading)),
    figure_html(page$result),
    tables_html(page$result, id),
    notes_html(facts$notes),
    proof_html(facts$proof), following_html(page$follows), csv_html(page$result, page$file))
}

# The first notes, the others behind how many they are.
notes_html <- function(notes) {
  tags <- htmltools::tags
  list_of <- function(text) tags$ul(class = "notes", lapply(page_text(text), tags$li))
  if (!nrow(notes)) return(NULL)
  more <- more_notes(notes, notes_most)
  list(list_of(utils::head(notes$text, notes_most)),
       if (length(more)) tags$details(class = "more", tags$summary(more),
                                      list_of(notes$text[-seq_len(notes_most)])))
}

# What a person has to say to a page, as it was written.
comment_html <- function(comment) {
  if (length(comment)) htmltools::tags$p(class = "comment", page_text(comment))
}

# Links to the pages that answer what is asked next.
following_html <- function(found) {
  tags <- htmltools::tags
  if (!NROW(found)) return(NULL)
  tags$p(class = "next", "Next: ", lapply(seq_len(nrow(found)), function(i) {
    htmltools::tagList(if (i > 1) ", ", tags$a(href = paste0("#", found$id[i]),
                                               page_text(found$words[i])))
  }))
}

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
  picture <- data_uri("image/png", readBin(path, "raw", file.size(path)))
  htmltools::tags$figure(htmltools::tags$img(alt = page_text(alt), width = 1281, height = 720,
                                             src = picture))
}

data_uri <- function(type, bytes) {
  paste0("data:", type, ";base64,", gsub("\n", "", jsonlite::base64_enc(bytes), fixed = TRUE))
}

# The tables that printing shows: further ones first, then the result itself.
tables_html <- function(x, id) {
  facts <- facts(x)
  c(lapply(names(facts$further), function(part) {
    table_html(facts$parts[[part]], facts$further[[part]], NULL, paste0(id, "-", file_words(part)),
               spoken(part))
  }), list(table_html(plain_frame(x), facts$columns, facts$parts$foot, paste0(id, "-table"),
                      "table")))
}

table_html <- function(table, columns, foot, id, what) {
  tags <- htmltools::tags
  columns <- columns[columns$shown, ]
  if (!nrow(table)) return(tags$p(class = "tools", "(nothing to list)"))
  shown <- table[seq_len(min(nrow(table), report_rows)), , drop = FALSE]
  cells <- lapply(seq_len(nrow(columns)), function(i) {
    values <- shown[[columns$name[i]]]
    c(column_texts(shown, columns[i, ], foot),
      list(head = column_headings(columns[i, ]), name = columns$name[i],
           class = if (columns$unit[i] %in% c("text", "own")) "text" else "number",
           key = if (is.numeric(values)) ifelse(is.na(values), "", sprintf("%.15g", values))))
  })
  many <- plural(nrow(table), "row")
  if (nrow(table) > nrow(shown)) many <- paste("the first", count_text(nrow(shown)), "of", many)
  list(
    if (nrow(shown) > 12) tags$div(
      class = "tools", tags$label("Search", tags$input(type = "search", "data-for" = id)),
      tags$output(many)),
    tags$div(
      class = "sheet", tabindex = "0", role = "region", "aria-label" = page_text(what),
      tags$table(id = id, class = "sorts", tags$thead(tags$tr(lapply(cells, function(column) {
        tags$th(scope = "col", class = column$class, "data-name" = page_text(column$name),
                tags$button(type = "button", page_text(column$head)))
      }))), tags$tbody(body_html(cells)), if (NROW(foot)) tags$tfoot(foot_html(cells, foot)))))
}

# The cells as text: a tag for each of some thousands takes a second a page.
body_html <- function(cells) {
  columns <- lapply(cells, function(column) {
    paste0("<td class=\"", column$class, "\"",
           if (!is.null(column$key)) paste0(" data-v=\"", column$key, "\""), ">",
           htmltools::htmlEscape(page_text(column$text)), "</td>")
  })
  rows <- do.call(paste0, unname(columns))
  htmltools::HTML(paste0("<tr>", rows, "</tr>", collapse = "\n"))
}

foot_html <- function(cells, foot) {
  tags <- htmltools::tags
  lapply(seq_len(nrow(foot)), function(i) {
    tags$tr(lapply(cells, function(column) {
      tags$td(class = column$class, if (length(column$below)) page_text(column$below[i]))
    }))
  })
}

proof_html <- function(proof) {
  tags <- htmltools::tags
  broken <- !all(proof$holds)
  number <- function(x) page_text(format_number(x))
  rows <- lapply(seq_len(nrow(proof)), function(i) {
    holds <- proof$holds[i]
    tags$tr(tags$td(class = "text", page_text(proof$check[i])), tags$td(number(proof$expected[i])),
            tags$td(number(proof$found[i])),
            tags$td(class = if (!holds) "broken", if (holds) "holds" else "does not hold"))
  })
  head <- tags$tr(tags$th(class = "text", scope = "col", "check"),
                  lapply(c("expected", "found", "holds"), tags$th, scope = "col"))
  tags$details(open = if (broken) NA,
               tags$summary(class = if (broken) "broken", page_text(proof_text(proof))),
               tags$div(class = "sheet", tags$table(tags$thead(head), tags$tbody(rows))))
}

# The page's CSV, to be saved from within the report while it is small.
csv_html <- function(x, file) {
  tags <- htmltools::tags
  name <- paste0(file, ".csv")
  path <- tempfile(fileext = ".csv")
  on.exit(unlink(path))
  write_whole(path, function(part) write_csv(plain_frame(x), part))
  size <- file.size(path)
  rows <- plural(nrow(x), "row")
  if (size > report_csv) {
    told <- paste0("All ", rows, " stand in the file ", page_text(name), ".")
    return(tags$p(class = "save", told))
  }
  tags$p(class = "save", tags$a(download = page_text(name), paste("Save", rows, "as CSV"),
                                href = data_uri("text/csv", readBin(path, "raw", size))))
}
