# What a person does on the desk: each act changes the state, or says why it cannot.

act_on <- function(me, act) {
  if (!is.list(act) || !one_text(act$act) || !act$act %in% names(acts)) return(invisible())
  tryCatch(acts[[act$act]](me, act), error = function(e) me$said(e))
}

# An act on a step changes it where it stands.
on_step <- function(change) {
  function(me, act) {
    desk <- me$desk()
    at <- step_place(desk, act$step)
    if (length(at)) set_desk(me, change(desk, at))
  }
}

acts <- list(
  ask = function(me, act) ask_question(me, act$text),
  choose = function(me, act) {
    doubt <- me$doubt
    if (is.null(doubt)) return(invisible())
    at <- as.integer(act$at)
    if (!is.null(doubt$word)) return(ask_question(me, with_choice(doubt, at)))
    # Where no word stands in doubt the person says where the choice belongs.
    tell_page(me, "question", list(text = paste(doubt$question, bare_choice(doubt$choices[at]))))
  },
  open = function(me, act) {
    # By its name: what is worth asking comes before the pages later on.
    item <- Filter(function(one) identical(one$id, act$item), me$shared$agenda)
    if (length(item)) put_told(me, item[[1]]$study, item[[1]]$args, item[[1]]$title)
  },
  follow = function(me, act) {
    follows <- me$answers[[as.character(act$step)]]$follows
    put_call(me, follows, act$at)
  },
  follow_row = function(me, act) put_call(me, me$point$follows, act$at),
  point = function(me, act) point_at(me, as.character(act$step), as.integer(act$row), act$column),
  hold = function(me, act) {
    held <- ask_held(me$shared$book, act$text)
    me$said(NULL)
    set_desk(me, hold_also(me$desk(), held))
    tell_page(me, "held", list(text = ""))
  },
  hold_row = function(me, act) hold_point(me, FALSE),
  hold_not = function(me, act) hold_point(me, TRUE),
  release = function(me, act) {
    desk <- me$desk()
    desk$where <- desk$where[-as.integer(act$at)]
    set_desk(me, desk)
  },
  release_when = function(me, act) {
    desk <- me$desk()
    desk["when"] <- list(NULL)
    set_desk(me, desk)
  },
  anew = function(me, act) {
    me$said(NULL)
    set_desk(me, new_desk())
  },
  pin = on_step(pin_step), shut = on_step(function(desk, at) flip_step(desk, at, "shut")),
  beside = on_step(function(desk, at) flip_step(desk, at, "beside")),
  up = on_step(function(desk, at) move_step(desk, at, -1)),
  down = on_step(function(desk, at) move_step(desk, at, 1)),
  remove = on_step(function(desk, at) {
    desk$steps <- desk$steps[-at]
    desk
  }),
  picture = function(me, act) choose_picture(me, act$step, act$text),
  keep = function(me, act) keep_step(me, act$step, act$title, act$comment),
  health = function(me, act) find_health(me),
  fix = function(me, act) put_fix(me, act$at),
  define = function(me, act) put_definition(me, act),
  hand_over = function(me, act) hand_over(me),
  cancel = function(me, act) {
    id <- as.character(act$step)
    drop_job(me, id)
    me$answers[[id]] <- list(result = stopped_error())
  },
  form = function(me, act) {
    if (!is.null(me$form())) return(me$form(NULL))
    call <- form_of_words(me, act$text)
    me$form(call %||% list(study = "standings", args = list()))
  },
  form_study = function(me, act) me$form(list(study = act$text, args = list())),
  form_ask = function(me, act) {
    call <- form_call(act$study, act$values)
    put_step(me, new_step(call$study, call$args))
  },
  form_say = function(me, act) {
    call <- form_call(act$study, act$values)
    me$said(NULL)
    tell_page(me, "question", list(text = say_call(me$shared$book, call$study, call$args)))
  })

# Another picture of an answer, where it is sound.
choose_picture <- function(me, id, picture) {
  desk <- me$desk()
  at <- step_place(desk, id)
  result <- me$answers[[as.character(id)]]$result
  if (!length(at) || !inherits(result, "ll_result") || !one_text(picture)) return(invisible())
  own <- pictures_of(result)[1]
  if (!identical(picture, own)) tryCatch(ll_picture(result, picture), ll_error = function(e) {
    # The choice goes back with what was chosen before.
    me$desk(desk)
    tell_page(me, "picture", list(step = id, picture = desk$steps[[at]]$picture %||% own))
    stop(e)
  })
  desk$steps[[at]]["picture"] <- list(if (!identical(picture, own)) picture)
  me$said(NULL)
  set_desk(me, desk)
}

stopped_error <- function() said_error("Stopped. Ask again to begin anew.")

put_step <- function(me, step) {
  me$said(NULL)
  me$doubt <- NULL
  set_desk(me, add_step(me$desk(), step))
  tell_page(me, "asked", list(step = me$last_id))
}

put_call <- function(me, follows, at) {
  at <- as.integer(at)
  if (!length(at) || is.na(at) || at < 1 || NROW(follows) < at) return(invisible())
  put_told(me, follows$study[at], follows$args[[at]], follows$question[at])
}

# A call that was pressed: told in its own words, and where these are its arguments one by one, in
# those that were pressed.
put_told <- function(me, study, args, words) {
  step <- new_step(study, args)
  step$sentence <- say_call(me$shared$book, study, step$args)
  if (identical(step$sentence, named_sentence(study, step$args))) step$asked <- words
  put_step(me, step)
}

# A question in words goes on from the last answer, where there is one.
ask_question <- function(me, text) {
  me$doubt <- NULL
  call <- tryCatch(read_on_desk(me, text), ll_error = function(e) {
    me$doubt <- list(question = text, word = e$word, choices = e$choices)
    stop(e)
  })
  put_step(me, read_step(call, one_line(text)))
}

read_on_desk <- function(me, text) {
  page <- Filter(function(item) {
    item$kind == "page" && plain_words(item$title) == plain_words(text %||% "")
  }, me$shared$agenda)
  if (length(page)) return(list(study = page[[1]]$study, args = page[[1]]$args))
  steps <- me$desk()$steps
  last <- if (length(steps)) me$answers[[as.character(steps[[length(steps)]]$id)]]$result
  book <- me$shared$book
  if (inherits(last, "ll_result")) follow_read(book, last, text) else ask_read(book, text)
}

# What stands in the question as a call, for the form; NULL where it is none.
form_of_words <- function(me, text) {
  if (!one_text(text) || !nzchar(trimmed(text))) {
    steps <- me$desk()$steps
    return(if (length(steps)) steps[[length(steps)]][c("study", "args")])
  }
  call <- tryCatch(read_on_desk(me, text), ll_error = function(e) NULL)
  if (!is.null(call)) list(study = call$study, args = asked_args(call$study, call$args))
}

complete_typed <- function(me, typed) {
  found <- tryCatch(ll_complete(me$shared$book, typed$text, 8), ll_error = function(e) NULL)
  tell_page(me, "choices", list(text = typed$text, found = if (NROW(found)) lapply(
    seq_len(nrow(found)), function(i) as.list(found[i, c("text", "phrase", "what")])) else list()))
  # Words fill the form that is open.
  if (!is.null(me$form())) {
    call <- form_of_words(me, typed$text)
    if (!is.null(call)) me$form(call)
  }
}

# A row or cell was pointed at: what may be asked of it.
point_at <- function(me, id, row, column = NULL) {
  result <- me$answers[[id]]$result
  if (!inherits(result, "ll_result") || is.na(row) || row < 1 || row > nrow(result))
    return(invisible())
  # Other columns' cells are of the row's lines.
  if (!isTRUE(column %in% names(facts(inner_result(result))$behind$columns))) column <- NULL
  context <- tryCatch(next_context(result, row, column), ll_error = function(e) NULL)
  if (is.null(context)) return(invisible())
  follows <- ll_next(result, row, column)
  me$point <- list(id = id, follows = follows, here = context$here)
  title <- point_title(context, result, row)
  tell_page(me, "menu", list(step = id, html = as.character(htmltools::tagList(
    menu_html(id, title, follows, context$here)))))
}

point_title <- function(context, result, row) {
  names <- sub("^ of ", "", about_row(context))
  if (nzchar(names) && names != "this row") return(names)
  cells <- vapply(plain_frame(result)[row, ], function(x) as.character(x)[1], "")
  one_line(cells[!is.na(cells)][1])
}

hold_point <- function(me, but) {
  here <- me$point$here
  if (is.null(here)) return(invisible())
  set_desk(me, hold_also(me$desk(), list(where = if (but) paste0("!(", here, ")") else here)))
}
