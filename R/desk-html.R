# The parts of the desk as HTML. Every text is escaped by htmltools; buttons say by attributes what
# they do (see inst/desk/desk.js), and carry no code. None submits: shiny would hold back every
# input of a page that has such a button.

desk_button <- function(act, text, ..., class = "plain") {
  htmltools::tags$button(type = "button", class = class, "data-act" = act, ..., page_text(text))
}

desk_title <- function(book) book$title %||% "Desk"

# The whole page; its parts are filled in as they are known.
desk_page <- function(book, upload) {
  tags <- htmltools::tags
  title <- desk_title(book)
  part <- function(name) shiny::uiOutput(name)
  htmltools::tagList(
    tags$head(
      tags$title(page_text(paste(title, "- Long Ladder"))), tags$meta(charset = "utf-8"),
      tags$meta(name = "viewport", content = "width=device-width, initial-scale=1"),
      tags$meta(name = "color-scheme", content = "light dark"),
      tags$link(rel = "icon", href = "data:,"),
      tags$link(rel = "stylesheet", href = "desk/report.css"),
      tags$link(rel = "stylesheet", href = "desk/desk.css"),
      tags$script(src = "desk/tables.js", defer = NA),
      tags$script(src = "desk/desk.js", defer = NA)),
    tags$a(class = "skip", href = "#question", "To the question"),
    tags$header(tags$h1(page_text(title)), tags$p(page_text(book_words(book)))),
    tags$div(id = "lost", role = "alert", hidden = NA),
    tags$div(
      class = "desk",
      tags$main(
        id = "main",
        tags$section(id = "held", class = "held", "aria-label" = "What holds", part("held_part")),
        tags$section(id = "agenda", "aria-label" = "What to ask", part("agenda_part")),
        tags$section(id = "trail", "aria-label" = "Answers"),
        tags$section(id = "ask", "aria-label" = "The question", ask_html(book), part("said_part"),
                     part("form_part"))),
      tags$aside(id = "book", "aria-label" = "The book", part("book_part"), define_html(),
                 if (upload) bring_html())),
    tags$div(id = "menu", role = "menu", hidden = NA))
}

# The side: the book, what looks wrong in it, the brief.
side_html <- function(shared) {
  tags <- htmltools::tags
  file <- shared$brief$file
  health <- shared$health
  list(
    book_html(shared$book),
    tags$details(
      open = if (!is.null(health)) NA, tags$summary("What looks wrong"),
      if (is.null(health)) desk_button("health", "Look through the lines") else health_html(
        health, !is.null(file))),
    if (!is.null(file)) tags$details(
      tags$summary("The brief"), tags$p(class = "help", page_text(
        if (is.null(shared$brief$unsaved)) basename(file) else
          "As a first look would write it; not saved yet")),
      tags$pre(class = "yaml", tabindex = "0", paste(brief_to_save(shared$brief), collapse = "\n")),
      tags$p(shiny::downloadLink("brief_saved", "Save as a file")),
      if (is.null(shared$brief$unsaved))
        desk_button("hand_over", "Hand over: report, workbook, notebook", class = "small")))
}

health_html <- function(health, has_brief) {
  tags <- htmltools::tags
  if (!nrow(health)) return(tags$p("Nothing that check looks for was found."))
  tags$ul(class = "health", lapply(seq_len(nrow(health)), function(i) {
    one <- health[i, ]
    tags$li(page_text(paste0(one$finding, if (nzchar(one$field)) paste0(" in ", spoken(one$field)),
                             if (one$lines > 0) paste0(", ", plural(one$lines, "line")))),
            if (nzchar(one$fix)) tags$code(page_text(one$fix)),
            if (has_brief && is_fix(one$fix)) desk_button("fix", "Put into the brief",
                                                         "data-at" = i))
  }))
}

# A new metric or field: its name and formula, looked at as they are typed.
define_html <- function() {
  tags <- htmltools::tags
  tags$details(
    tags$summary("A new metric or field"),
    tags$form(
      id = "defining", autocomplete = "off",
      tags$label("Name ", tags$input(name = "name", maxlength = "60")),
      tags$label("Formula ", tags$input(name = "formula", maxlength = "400",
                                        placeholder = "sum(net) / distinct(account)")),
      tags$label("Kind ", tags$select(name = "kind", tags$option(value = "metric", "metric"),
                                      tags$option(value = "field", "field of each line"))),
      shiny::uiOutput("defined_part"),
      desk_button("define", "Put into the brief", class = "small")))
}

defined_html <- function(checked) {
  tags <- htmltools::tags
  if (!is.null(checked$right)) return(tags$p(class = "reading", role = "status",
                                             page_text(checked$right)))
  if (!is.null(checked$wrong)) failed_html(said_error(checked$wrong))
}

# What is shown as an error without having stopped anything.
said_error <- function(text) {
  structure(class = c("ll_error", "error", "condition"), list(message = text, call = NULL))
}

# What there is to ask about.
book_html <- function(book) {
  tags <- htmltools::tags
  fields <- named_once(book$fields)
  fields <- fields[!fields$name %in% book$made, ]
  fields <- fields[order(match(fields$role, roles)), ]
  list(tags$details(
    open = NA, tags$summary("The book"),
    if (length(book$metrics)) list(tags$h3("Metrics"), tags$dl(lapply(
      names(book$metrics), function(name) {
        list(tags$dt(desk_button("put", spoken(unguarded(name)), "data-text" = spoken(name))),
             tags$dd(page_text(book$metrics[[name]]$text)))
      }))),
    tags$h3("Fields"), tags$dl(lapply(seq_len(nrow(fields)), function(i) {
      gaps <- fields$missing[i]
      list(tags$dt(desk_button("put", spoken(unguarded(fields$name[i])),
                               "data-text" = spoken(fields$name[i]))),
           tags$dd(page_text(paste0(
             fields$role[i], if (!fields$from[i] %in% c("lines", "computed"))
               paste0(", of the register of ", plural_word(spoken(fields$from[i]))),
             if (isTRUE(gaps > 0)) paste0("; ", count_text(gaps), " missing")))))
    }))))
}

ask_html <- function(book) {
  tags <- htmltools::tags
  hint <- question_hint(book)
  tags$form(
    id = "asking", autocomplete = "off",
    tags$label(class = "ahead", "for" = "question", "The next question"),
    tags$div(class = "line",
             tags$input(id = "question", placeholder = page_text(hint),
                        maxlength = "500", role = "combobox", "aria-expanded" = "false",
                        "aria-controls" = "choices", "aria-autocomplete" = "list"),
             desk_button("ask_typed", "Ask", class = "strong"),
             desk_button("form", "As a form", "aria-expanded" = "false")),
    tags$ul(id = "choices", role = "listbox", "aria-label" = "How it may go on", hidden = NA))
}

question_hint <- function(book) paste0("Ask in plain words, such as: ", first_example(book))

first_example <- function(book) {
  metric <- names(book$metrics)[1]
  field <- few_names_dimension(book)
  paste0(spoken(metric %||% "count"), if (length(field)) paste(" by", spoken(field)))
}

# What holds for every answer, each part with a cross to take it off.
held_html <- function(book, desk) {
  tags <- htmltools::tags
  chip <- function(text, act, at = NULL) {
    tags$li(tags$span(page_text(text)),
            desk_button(act, "\u00d7", "data-at" = at, "aria-label" = paste("no longer:", text),
                        class = "cross"))
  }
  none <- !length(desk$where) && is.null(desk$when)
  list(
    tags$span(class = "what", if (none) "Holds for every answer: all lines, all dates" else
      "Holds for every answer:"),
    tags$ul(class = "chips", lapply(seq_along(desk$where), function(i) {
      chip(held_words(book, desk$where[i]), "release", i)
    }), if (!is.null(desk$when)) chip(period_said(book, desk$when), "release_when")),
    tags$form(id = "holding", autocomplete = "off",
              tags$label(class = "ahead", "for" = "hold", "Hold also"),
              tags$input(id = "hold", maxlength = "300",
                         placeholder = page_text(held_example(book))),
              desk_button("hold_typed", "Hold", class = "small")),
    tags$span(class = "ways", desk_button("undo", "Undo"),
              if (length(desk$steps) || !none) desk_button("anew", "Begin anew")))
}

# "only Moor, 2026 ...", in the book's names and years.
held_example <- function(book) {
  field <- few_names_dimension(book)
  name <- if (length(field)) known_names(book, field)[1]
  year <- if (length(book$days)) format(last_day(book), "%Y")
  paste0(paste(c(if (length(name) && !is.na(name)) paste("only", fit_text(name, 14)), year),
               collapse = ", "), " ...")
}

held_words <- function(book, text) {
  tree <- tryCatch(condition_of(book, text, "condition"), ll_error = function(e) NULL)
  if (is.null(tree)) text else tree_words(tree)
}

# The agenda: the pages with their findings as these are known, and what is worth asking now.
agenda_html <- function(items, open) {
  tags <- htmltools::tags
  line <- function(i) {
    item <- items[[i]]
    tags$li(tags$button(
      type = "button", class = "item", "data-act" = "open", "data-item" = item$id,
      tags$span(class = "kicker", page_text(item$title)),
      tags$span(class = if (is.null(item$finding)) "said waiting" else "said",
                page_text(item$finding %||% "\u2026"))))
  }
  kinds <- vapply(items, `[[`, "", "kind")
  part <- function(kind, head) {
    if (any(kinds == kind)) list(tags$h2(head), tags$ul(class = "items",
                                                        lapply(which(kinds == kind), line)))
  }
  tags$details(open = if (open) NA, tags$summary("What to ask"),
               part("worth", "Worth asking now"), part("page", "The pages"))
}

# A step around its answer: what was asked, and what can be done with it.
step_html <- function(id) {
  htmltools::tags$article(
    id = paste0("step-", id), class = "step", tabindex = "-1", "data-step" = id,
    shiny::uiOutput(paste0("head_", id)), shiny::uiOutput(paste0("body_", id)))
}

step_head <- function(book, step, at, held) {
  tags <- htmltools::tags
  tool <- function(act, text, ...) desk_button(act, text, "data-step" = step$id, ...)
  reach <- period_reach(step)
  tags$div(
    class = "head",
    tags$p(class = "kicker", tags$a(href = paste0("#step-", step$id), class = "nth", at), " ",
           page_text(step$asked %||% step$sentence),
           if (!is.null(step$pinned)) tags$span(class = "mark", page_text(paste0(
             "pinned to ", held_said(book, step$pinned)))),
           if (!is.null(held$when) && reach != "yes") tags$span(class = "mark", if (reach == "own")
             "has its own period" else "takes no period")),
    tags$div(class = "tools", role = "toolbar", "aria-label" = paste("Answer", at),
             tool("copy_sentence", "Copy sentence"), tool("copy_table", "Copy table"),
             tool("copy_figure", "Copy figure"), tool("save_figure", "Save figure"),
             pictures_html(step), tool("keep_open", "Keep"),
             tool("pin", if (is.null(step$pinned)) "Pin" else "Unpin"),
             tool("beside", if (step$beside) "Below" else "Beside"),
             tool("shut", if (step$shut) "Open" else "Close"),
             tool("up", "Up"), tool("down", "Down"), tool("remove", "Remove")),
    tags$form(
      class = "keeping", hidden = NA, autocomplete = "off", "data-step" = step$id,
      tags$label("Title ", tags$input(name = "title", maxlength = "120", value = page_text(
        step$asked %||% step$sentence))),
      tags$label("Comment ", tags$input(name = "comment", maxlength = "500", placeholder = paste(
        "what you have to say to it"))),
      desk_button("keep_typed", "Keep as a page of the brief", "data-step" = step$id,
                  class = "strong")))
}

# Other pictures of the same answer.
pictures_html <- function(step) {
  tags <- htmltools::tags
  known <- pictures_for(step$study, step$args)
  if (length(known) < 2) return(NULL)
  tags$label(tags$span(class = "ahead", "Picture"), tags$select(
    class = "plain", "data-act" = "picture", "data-step" = step$id, lapply(known, function(one) {
      tags$option(value = one, selected = if (identical(one, step$picture)) NA, paste("As", one))
    })))
}

held_said <- function(book, held) {
  text <- c(vapply(held$where, held_words, "", book = book),
            if (!is.null(held$when)) period_said(book, held$when))
  if (length(text)) and_list(text, 9) else "all lines, all dates"
}

# The answer of a step: what came out, picture, table, what to know, how it was read, proof, what to
# ask next.
step_body <- function(id, result, follows) {
  tags <- htmltools::tags
  if (inherits(result, "condition")) return(failed_html(result))
  told <- facts(result)
  list(
    unproven_line(told$proof), tags$h3(page_text(told$finding)),
    if (draws(result)) tags$figure(
      class = paste("away", if (points_rows(told$study)) "points"), style = paste0(
        "--across: ", figure_width, "; --down: ", figure_height(result)),
      shiny::plotOutput(paste0("plot_", id), click = paste0("click_", id),
                        width = paste0(figure_width, "px"),
                        height = paste0(figure_height(result), "px"))),
    tags$div(class = "tables", "data-step" = id, "data-rows" = if (rows_have_next(result)) "yes",
             tables_html(inner_result(result), paste0("table-", id))),
    notes_html(told$notes),
    tags$p(class = "reading", page_text(told$reading)), proof_html(told$proof),
    follows_html(id, follows))
}

# Pictures are drawn for this many points across and shown as wide as there is room.
figure_width <- 860

figure_height <- function(result) {
  rows <- nrow(result)
  height <- figure_width * if (rows > 26) .72 else .56
  # Rungs have conditions of two lines beside them.
  if (inherits(result, "ll_result_drill"))
    height <- max(height, 60 + 46 * (rows + min(NROW(ll_part(result, "others")), 3)))
  round(height)
}

draws <- function(result) !facts(result)$study %in% c("detail", "total") && nrow(result) > 0

rows_have_next <- function(result) length(declaration_of(facts(result)$study)$next_row) > 0

unproven_line <- function(proof) {
  broken <- broken_proof(proof)
  if (length(broken)) htmltools::tags$p(class = "broken", role = "alert", page_text(broken))
}

failed_html <- function(error) {
  tags <- htmltools::tags
  lines <- strsplit(enc2utf8(conditionMessage(error)), "\n", fixed = TRUE)[[1]]
  # What is typed on a command does not help here.
  lines <- grep("(^i .*--[a-z]|ask with \")", lines, value = TRUE, invert = TRUE)
  tags$div(class = "failed", role = "alert",
           if (!inherits(error, "ll_error")) tags$p("Something went wrong that should not:"),
           lapply(page_text(sub("^(i|x|\\*) ", "", lines)), tags$p))
}

follows_html <- function(id, follows) {
  tags <- htmltools::tags
  if (!NROW(follows)) return(NULL)
  tags$nav(class = "next", "aria-label" = "Next questions", lapply(seq_len(nrow(follows)),
                                                                   function(i) {
    desk_button("follow", follows$question[i], "data-step" = id, "data-at" = i, class = "follow")
  }))
}

# What to ask of a row or cell that was pointed at.
menu_html <- function(id, title, follows, condition) {
  tags <- htmltools::tags
  item <- function(...) desk_button(..., role = "menuitem", class = "follow")
  list(tags$p(class = "kicker", page_text(title)),
       lapply(seq_len(NROW(follows)), function(i) {
         item("follow_row", follows$question[i], "data-step" = id, "data-at" = i)
       }),
       if (!is.null(condition)) list(item("hold_row", "hold this for every answer"),
                                     item("hold_not", "leave this out of every answer")),
       item("menu_shut", "close"))
}

# A question that was not understood: why, and the choices where there are some.
refused_html <- function(error) {
  tags <- htmltools::tags
  choices <- error$choices
  list(failed_html(error), if (length(choices)) tags$div(
    class = "next", lapply(seq_along(choices), function(i) {
      desk_button("choose", bare_choice(choices[i]), "data-at" = i, class = "follow")
    })))
}

waiting_html <- function() {
  htmltools::tags$p(class = "waiting", role = "status", "Working \u2026")
}
