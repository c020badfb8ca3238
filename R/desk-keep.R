# What the desk writes, and only where a person asks for it: pages, fixes and definitions into the
# brief's file, and the kept pages handed over as report, workbook and notebook in a folder beside
# it.

# An answer as a page of the brief, with what holds for it.
keep_step <- function(me, id, title, comment) {
  file <- brief_file(me)
  desk <- me$desk()
  at <- step_place(desk, id)
  if (!length(at)) return(invisible())
  title <- one_line(check_words(title %||% "", "title", one = TRUE))
  call <- step_call(desk, desk$steps[[at]])
  if (length(call$where)) {
    if (!"where" %in% names(declaration_of(call$study)$args))
      ll_abort(c(paste0("A page of ", call$study, " takes no condition, so what holds cannot be ",
                        "kept with it."),
                 i = "Ask it with the condition, or keep it without."), "argument")
    call$args$where <- all_hold(c(condition_text(call$args$where), call$where))
  }
  define_drafted(me, file)
  keep_call(file, call$study, call$args, title, title,
            if (one_text(comment) && nzchar(trimmed(comment))) comment)
  me$shared$kept <- unique(c(me$shared$kept, title))
  said_note(me, paste0("Kept as the page ", quoted(title), " of ",
                       brief_called(me$shared$brief), ".", meanwhile_said(me)))
  changed_brief(me)
}

# What `check` found, with what can be put into the brief.
find_health <- function(me) {
  shared <- me$shared
  if (is.null(shared$health))
    shared$health <- plain_frame(answer(declared_check, shared$book, list()))
  one_more(shared$found)
}

put_fix <- function(me, at) {
  fix <- me$shared$health$fix[as.integer(at)]
  if (length(fix) != 1 || is.na(fix) || !is_fix(fix)) return(invisible())
  file <- brief_file(me)
  accept_fix(file, fix)
  said_note(me, paste0("Put into ", brief_called(me$shared$brief), ": ", fix,
                       "; the file of lines stays as it is.",
                       meanwhile_said(me)))
  changed_brief(me)
}

# What is wrong with a definition that is being typed, or that it is right.
check_definition <- function(book, definition) {
  name <- definition$name %||% ""
  formula <- definition$formula %||% ""
  if (!one_text(name) || !one_text(formula) || !nzchar(trimmed(formula))) return(NULL)
  if (!grepl("^[A-Za-z][A-Za-z0-9_]*$", name))
    return(list(wrong = "A name has letters, digits and underscores, a letter first."))
  tryCatch({
    if (identical(definition$kind, "field")) {
      if (name %in% c(book$fields$name, names(book$metrics)))
        ll_abort(paste0("There is a field or metric called ", quoted(name), " already."), "word")
      spec <- stats::setNames(list(list(is = formula)), name)
      add_computed(book, spec, list())
      list(right = paste0(name, " is a field of each line."))
    } else {
      made <- add_metrics(book, stats::setNames(list(formula), name))
      total <- answer(declared_total, made, list(metrics = name))
      list(right = ll_finding(total))
    }
  }, error = function(e) list(wrong = conditionMessage(e)))
}

put_definition <- function(me, definition) {
  checked <- check_definition(me$shared$book, definition)
  if (is.null(checked$right))
    ll_abort(checked$wrong %||% "A name and a formula are needed.", "argument")
  file <- brief_file(me)
  define_drafted(me, file)
  block <- if (identical(definition$kind, "field")) "fields" else "metrics"
  define_in_brief(file, block, definition$name, definition$formula)
  said_note(me, paste0(definition$name, " stands in ", brief_called(me$shared$brief), ".",
                       meanwhile_said(me)))
  changed_brief(me)
}

# A brief without metrics gets those that the desk works with, before anything that may need them.
define_drafted <- function(me, file) {
  if (length(me$shared$brief$keys$metrics)) return(invisible())
  for (metric in me$shared$book$metrics)
    define_in_brief(file, "metrics", unguarded(metric$name), metric$text, metric$unit)
}

# The pages kept on this desk, or all of the brief, as files that can be sent.
hand_over <- function(me) {
  brief_file(me)
  me$told <- meanwhile_said(me)
  if (!is.null(me$told)) changed_brief(me)
  brief <- me$shared$brief
  if (!is.null(brief$unsaved))
    ll_abort(c("What is handed over stands beside the brief, and this one is not saved yet.",
               i = "Save it at the side, beside the lines, and open the desk on it."), "argument")
  titles <- vapply(names(brief$pages), function(name) {
    attr(as_page(name, brief$pages[[name]]), "title") %||% name
  }, "")
  pages <- names(brief$pages)[titles %in% me$shared$kept]
  if (!length(brief$pages)) ll_abort("The brief has no pages to hand over.", "argument")
  me$handing <- start_job(me$shared, list(kind = "run", pages = pages))
  one_more(me$work)
  said_note(me, paste0("Handing over the brief \u2026", me$told))
}
