# The desk as a shiny application: what each person's session holds and does. It computes nothing:
# it asks studies, and shows what they say.

desk_app <- function(shared, token) {
  begin <- function() {
    old <- options(shiny.maxRequestSize = brought_limit(shared$upload))
    shiny::onStop(function() options(old))
  }
  shiny::shinyApp(function(req) guarded_page(shared, token, req), desk_server(shared, token), begin)
}

# The page for who brings the token; else that it is asked for.
guarded_page <- function(shared, token, req) {
  if (!same_token(token, shiny::parseQueryString(req$QUERY_STRING)$key))
    return(shiny::httpResponse(403L, "text/plain", paste(
      "This desk opens with the whole address that 'longladder desk' printed.\n")))
  # The look is our own, the report's: Bootstrap's would be compiled anew at each start.
  bslib::page(theme = NULL, lang = "en", htmltools::suppressDependencies("bootstrap"),
              desk_page(shared$book, shared$upload))
}

same_token <- function(token, given) is.null(token) || one_text(given) && identical(given, token)

desk_server <- function(shared, token) {
  function(input, output, session) {
    # A page of another site cannot open the connection of this one.
    if (!same_origin(session$request)) return(session$close())
    me <- list2env(list(
      shared = shared, home = shared, input = input, output = output, session = session,
      made = character(), done = list(), jobs = list(), seen = list(), coming = NULL,
      last_id = 0L, doubt = NULL, point = NULL,
      desk = shiny::reactiveVal(new_desk()), answers = shiny::reactiveValues(),
      heads = shiny::reactiveValues(), pictures = shiny::reactiveValues(),
      said = shiny::reactiveVal(NULL), form = shiny::reactiveVal(NULL),
      agenda = shiny::reactiveVal(shared$agenda), defined = shiny::reactiveVal(NULL),
      handing = NULL, stood_back = NULL, opened = NULL, known = FALSE, book = shiny::reactiveVal(0),
      work = shiny::reactiveVal(0), brought = NULL, bringing = NULL), parent = emptyenv())
    shiny::observeEvent(input$address, {
      if (!me$known && !same_token(token, input$address$key)) return(session$close())
      me$known <- TRUE
      go_to(me, input$address$state)
    })
    shiny::observeEvent(input$act, if (me$known) act_on(me, input$act))
    shiny::observeEvent(input$typed, if (me$known) complete_typed(me, input$typed))
    shiny::observeEvent(input$defining, if (me$known)
      me$defined(check_definition(me$shared$book, input$defining)))
    shiny::observeEvent(input$brought, if (me$known)
      tryCatch(bring_file(me, input$brought), error = function(e) me$said(e)))
    show_parts(me)
    shiny::observe(show_trail(me))
    shiny::observe(work_on(me))
    if (!is.null(shared$first)) session$onFlushed(function() shared$first(), once = TRUE)
    session$onSessionEnded(function() {
      for (job in me$jobs) stop_job(me$shared, job$job)
      keep_brought(me, character())
    })
  }
}

same_origin <- function(request) {
  origin <- request$HTTP_ORIGIN
  is.null(origin) || identical(sub("^https?://", "", origin), request$HTTP_HOST) ||
    identical(sub("^https?://", "", origin), request$HTTP_X_FORWARDED_HOST)
}
