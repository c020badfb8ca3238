# What a session shows: the parts of the page and the steps of the trail, as their answers come.

show_parts <- function(me) {
  me$output$book_part <- shiny::renderUI({
    me$book()
    me$shared$opened()
    me$shared$found()
    side_html(me$shared)
  })
  me$output$brief_saved <- save_brief(me)
  me$output$defined_part <- shiny::renderUI(defined_html(me$defined()))
  me$output$held_part <- shiny::renderUI({
    me$book()
    held_html(me$shared$book, me$desk())
  })
  me$output$agenda_part <- shiny::renderUI({
    items <- me$agenda()
    if (is.null(items)) waiting_html() else agenda_html(items, !length(me$desk()$steps))
  })
  me$output$said_part <- shiny::renderUI({
    said <- me$said()
    if (inherits(said, "condition")) refused_html(said) else if (!is.null(said))
      htmltools::tags$p(class = "reading", role = "status", page_text(said$note))
  })
  me$output$form_part <- shiny::renderUI(if (!is.null(me$form()))
    form_html(me$form()$study, me$form()$args))
  for (name in c("book_part", "defined_part", "held_part", "agenda_part", "said_part", "form_part"))
    shiny::outputOptions(me$output, name, suspendWhenHidden = FALSE)
}

# Steps that are new get their place on the page; those that went lose it; the order is told.
show_trail <- function(me) {
  desk <- me$desk()
  ids <- vapply(desk$steps, function(step) as.character(step$id), "")
  for (id in setdiff(ids, me$made)) {
    shiny::insertUI("#trail", "beforeEnd", step_html(id), immediate = TRUE, session = me$session)
    show_step(me, id)
  }
  me$made <- union(me$made, ids)
  # What of a step is as it was is not shown again: heads by what they tell, figures by their kind.
  for (k in seq_along(ids)) {
    step <- desk$steps[[k]]
    me$heads[[ids[k]]] <- list(step = step, at = k, held = held_for(desk, step))
    me$pictures[[ids[k]]] <- step$picture
  }
  flag <- function(name) as.list(vapply(desk$steps, function(step) isTRUE(step[[name]]), NA))
  tell_page(me, "trail", list(steps = as.list(ids), shut = flag("shut"), beside = flag("beside")))
}

show_step <- function(me, id) {
  output <- me$output
  output[[paste0("head_", id)]] <- shiny::renderUI({
    head <- me$heads[[id]]
    if (!is.null(head)) step_head(me$shared$book, head$step, head$at, head$held)
  })
  output[[paste0("body_", id)]] <- shiny::renderUI({
    got <- me$answers[[id]]
    if (is.null(got)) return(waiting_html())
    if (!is.null(got$job)) return(list(waiting_html(), desk_button("cancel", "Stop",
                                                                   "data-step" = id)))
    step_body(id, got$result, got$follows)
  })
  # Drawn once for the picture and for its words.
  drawn <- shiny::reactive({
    result <- me$answers[[id]]$result
    shiny::req(inherits(result, "ll_result"))
    drawn_bare(result, me$pictures[[id]])
  })
  # As large as it is shown, but never so narrow that its words would lie on one another: on a small
  # screen it is made smaller as a whole.
  size <- function(side) {
    shown <- function(side) me$session$clientData[[paste0("output_plot_", id, "_", side)]]
    shiny::req(shown("width"))
    shown(side) * max(1, figure_width / shown("width"))
  }
  output[[paste0("plot_", id)]] <- shiny::renderPlot(
    drawn(), res = 96, width = function() size("width"), height = function() size("height"),
    alt = function() picture_words(drawn(), me$answers[[id]]$result))
  shiny::observeEvent(me$input[[paste0("click_", id)]], {
    click <- me$input[[paste0("click_", id)]]
    result <- me$answers[[id]]$result
    found <- if (inherits(result, "ll_result") && is.null(me$pictures[[id]]))
      figure_row(result, list(x = click$x, y = click$y, panel = click$panelvar1))
    if (!is.null(found)) point_at(me, id, found$row, found$column)
  })
}

drawn_bare <- function(result, picture = NULL) {
  ll_picture(result, picture) + ggplot2::labs(title = NULL, subtitle = NULL, caption = NULL)
}

# What a picture shows, for those who cannot see it.
picture_words <- function(plot, result) {
  alt <- ggplot2::get_alt_text(plot)
  page_text(if (nzchar(alt)) alt else ll_finding(result))
}
