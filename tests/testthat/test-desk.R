# The desk: its state and its acts, and the page in a real browser.

desk_state <- function(book, ...) {
  desk <- internal("new_desk")()
  for (text in c(...))
    desk <- internal("add_step")(desk, internal("read_step")(internal("ask_read")(book, text)))
  desk
}

# The desk of an address, read to its end; `lost` counts what was left out.
desk_of_text <- function(book, text) {
  read <- internal("address_parts")(book, text)
  steps <- lapply(read$steps, function(one) internal("step_of_text")(book, one))
  read$desk$steps <- Filter(length, steps)
  c(read$desk, lost = read$lost + read$over + length(steps) - length(read$desk$steps))
}

test_that("the address holds the desk, for any calls, and gives it back", {
  book <- demo_book()
  withr::local_seed(31)
  for (i in seq_len(many_asked(8))) {
    desk <- internal("new_desk")()
    for (k in seq_len(sample(3, 1))) {
      call <- random_call(book)
      desk <- internal("add_step")(desk, internal("new_step")(call$study, call$args))
    }
    if (sample(2, 1) == 1) desk$where <- c("territory == \"Moor\"", "net > 3 | net < 0")
    if (sample(2, 1) == 1) desk$when <- "2026-Q2"
    if (sample(2, 1) == 1) desk <- internal("pin_step")(desk, 1)
    if (sample(2, 1) == 1) desk <- internal("flip_step")(desk, length(desk$steps), "beside")
    text <- internal("desk_text")(book, desk)
    again <- desk_of_text(book, text)
    expect_identical(again$lost, 0)
    expect_identical(internal("desk_text")(book, again), text)
    expect_identical(again$where, desk$where)
    expect_identical(lapply(again$steps, `[[`, "study"), lapply(desk$steps, `[[`, "study"))
  }
})

test_that("an address of another book, or a hostile one, opens nothing and runs nothing", {
  book <- demo_book()
  lost <- function(text) desk_of_text(book, text)
  file <- withr::local_tempfile()
  run <- paste0("file.create('", file, "')")
  texts <- c("{", "[1,2", "null", "{\"t\":5}", "{\"t\":[{\"q\":5}]}", "{\"w\":[7],\"p\":{}}",
             paste0("{\"t\":[{\"q\":\"", run, "\"}],\"w\":[\"", run, "\"],\"p\":\"", run, "\"}"),
             "{\"t\":[{\"q\":\"revenue by shoe\"}]}", strrep("x", 50000),
             paste0("{\"t\":[", paste(rep("{\"q\":\"revenue\"}", 500), collapse = ","), "]}"))
  for (text in texts) {
    desk <- lost(text)
    expect_lte(length(desk$steps), internal("steps_most"))
    for (step in desk$steps) expect_true(step$study %in% names(internal("declarations")()))
  }
  expect_false(file.exists(file))
  expect_identical(lost(texts[7])[c("where", "when", "steps")],
                   internal("new_desk")()[c("where", "when", "steps")])
  expect_identical(lost(texts[8])$lost, 1)
})

test_that("what holds holds for every study, in words and in numbers", {
  book <- demo_book()
  lines <- demo_lines()
  moor <- lines$territory %in% "Moor" & startsWith(as.character(lines$order_date), "2025")
  held <- internal("ask_held")(book, "only Moor in 2025")
  desk <- internal("hold_also")(desk_state(book, "revenue", "revenue by rep in 2024"), held)
  answers <- lapply(desk$steps, function(step) {
    internal("step_answer")(book, internal("step_call")(desk, step), step$read)
  })
  expect_equal(answers[[1]]$value[1], sum(lines$net[moor], na.rm = TRUE))
  # Asked with a period of its own, it keeps that.
  own <- lines$territory %in% "Moor" & startsWith(as.character(lines$order_date), "2024")
  expect_equal(sum(answers[[2]]$revenue), sum(lines$net[own], na.rm = TRUE))
  expect_identical(internal("period_reach")(desk$steps[[2]]), "own")
  for (declared in internal("declarations")()) {
    step <- internal("read_step")(internal("ask_read")(book, declared$asked[1]))
    got <- internal("step_answer")(book, internal("step_call")(list(
      where = "territory == \"Moor\"", when = NULL), step), step$read)
    expect_true(all(ll_proof(got)$holds), info = declared$name)
    expect_match(paste(ll_finding(got), ll_reading(got)), "Moor", info = declared$name)
  }
  for (wrong in c("", "revenue by rep", "Narnia", "1 == ", "top 5"))
    expect_error(internal("ask_held")(book, wrong), class = "ll_error", info = wrong)
})

test_that("a point in a figure is the row that is drawn there", {
  withr::local_seed(2)
  book <- demo_book()
  point <- function(result, ...) internal("figure_row")(result, list(...))
  top <- ll_standings(book, "rep", top = 5)
  expect_identical(point(top, x = 1, y = 7)$row, 1)
  expect_identical(point(top, x = 1, y = 3.1)$row, 5)
  # Everyone else, and between the bars.
  expect_null(point(top, x = 1, y = 2))
  expect_null(point(top, x = 1, y = 6.5))
  groups <- ll_standings(book, "rep", within = "territory", top = 3)
  bars <- internal("standings_bars")(groups)
  for (panel in levels(bars$panel)) {
    mine <- bars[bars$panel == panel, ]
    hit <- point(groups, x = 1, y = nrow(mine), panel = panel)
    expect_identical(groups$territory[hit$row], panel)
    expect_equal(groups$revenue[hit$row], mine$value[1])
  }
  cross <- ll_crosstab(book, "territory", columns = "channel", metrics = c("revenue", "orders"))
  tiles <- internal("crosstab_tiles")(cross)
  for (i in sample(nrow(tiles), 8)) {
    hit <- point(cross, x = as.integer(tiles$column[i]), y = as.integer(tiles$row[i]),
                 panel = as.character(tiles$panel[i]))
    expect_equal(as.numeric(cross[[hit$column]][hit$row]), tiles$value[i])
    # The lines of the cell come to its value.
    if (tiles$panel[i] == "revenue" && !is.na(tiles$value[i])) {
      found <- ll_next(cross, hit$row, hit$column)
      args <- found$args[[match("the lines", found$words)]]
      args$metrics <- "revenue"
      expect_equal(ll_part(do.call(ll_detail, c(list(book), args)), "totals")$value, tiles$value[i])
    }
  }
  expect_error(ll_next(cross, 1, "nowhere"), class = "ll_error_word")
  bridge <- ll_bridge(book, by = "account", when = "2026-Q2")
  steps <- ll_part(bridge, "steps")
  drawn <- nrow(internal("bridge_rows")(bridge))
  for (k in seq_len(drawn)) {
    hit <- point(bridge, x = 0, y = drawn + 1 - k)
    step <- if (nrow(steps) == drawn || k <= 8) k else nrow(steps) - (drawn - k)
    # Gathered steps are no row.
    if (steps$step[step] %in% bridge$account && !(nrow(steps) > drawn && k == 9))
      expect_identical(bridge$account[hit$row], steps$step[step]) else expect_null(hit)
  }
  trend <- ll_trend(book, by = "territory", every = "quarter")
  lines <- internal("trend_drawn")(trend)
  i <- which(lines$name == "Fen" & lines$at == 3)
  expect_identical(trend$territory[point(trend, x = 3.2, y = lines$value[i])$row], "Fen")
  quad <- ll_quadrants(book, "rep", c("revenue", "margin_rate"))
  axes <- lapply(1:2, function(k) internal("quadrant_axis")(quad, k)$value)
  expect_identical(point(quad, x = axes[[1]][4], y = axes[[2]][4])$row, 4L)
})

test_that("a name that a figure draws from top to bottom is the row of that name", {
  book <- demo_book()
  asked <- list(
    ll_benchmark(book, "rep", "revenue", when = "2025"),
    ll_holders(book, "account", "revenue", within = "territory"),
    ll_score(book, "rep", c("revenue", "orders")),
    ll_payout(book, "rep", "0=1%,100000=2%"),
    ll_associations(book, "account", "revenue"), ll_check(book),
    ll_versus(book, "territory", c("Moor", "Fen"), by = "family", metrics = "revenue"),
    ll_whitespace(book, "account", "family", top = 20))
  for (result in asked) {
    study <- internal("facts")(result)$study
    built <- ggplot2::ggplot_build(ggplot2::autoplot(result))
    scale <- built$layout$panel_params[[1]]$y
    words <- scale$get_labels()
    breaks <- if (is.numeric(scale$breaks)) scale$breaks else seq_along(words)
    columns <- if (study == "whitespace") 1:8 else 1
    hits <- lapply(breaks, function(y) Filter(Negate(is.null), lapply(columns, function(x) {
      internal("figure_row")(result, list(x = x, y = y, panel = NULL))$row
    })))
    expect_gt(length(unlist(hits)), 0, label = study)
    for (i in seq_along(breaks)) for (row in hits[[i]]) {
      told <- vapply(internal("plain_frame")(result)[row, ], function(v) as.character(v)[1], "")
      told <- c(told, internal("spoken")(told))
      near <- vapply(told[nzchar(told) & !is.na(told)], function(one) {
        grepl(substr(one, 1, 12), words[i], fixed = TRUE)
      }, NA)
      expect_true(any(near), info = paste(study, row, words[i], paste(told, collapse = "|")))
    }
  }
})

test_that("a form says a call in words, and words fill the form", {
  book <- demo_book()
  withr::local_seed(8)
  for (i in seq_len(many_asked(40))) {
    call <- random_call(book)
    texts <- internal("form_texts")(call$study, call$args)
    again <- internal("form_call")(call$study, texts)
    expect_identical(internal("same_form")(again$args), internal("same_form")(call$args),
                     info = paste(call$study, paste(names(texts), texts, collapse = "; ")))
  }
  expect_error(internal("form_call")("standings", list(each = "", top = "5")), "each",
               class = "ll_error")
  expect_error(internal("form_call")("standings", list(each = "rep", top = "many")),
               class = "ll_error_argument")
})

# --- in the browser -------------------------------------------------------------------------------

shown <- function(page) page$js(paste0(
  "Array.from(document.querySelectorAll('.step:not([hidden]) h3')).map(h => h.innerText)"))

# Points at a place of a step's figure, in parts of its width and height.
point_figure <- function(page, step, across, down) {
  at <- paste0("Array.from(document.querySelectorAll('.step:not([hidden])'))[", step - 1,
               "].querySelector('figure img')")
  page$wait(paste0("!!(", at, ") && ", at, ".complete"))
  page$js(paste0(at, ".scrollIntoView({block: 'center'})"))
  box <- NULL
  # The figure stands still.
  until(function() {
    before <- box
    box <<- unlist(page$js(paste0("(b => [b.x, b.y, b.width, b.height])(", at,
                                  ".getBoundingClientRect())")))
    identical(before, box)
  }, every = .1)
  page$mouse(box[1] + box[3] * across, box[2] + box[4] * down)
  page$wait("!document.querySelector('#menu').hidden")
  page$js("Array.from(document.querySelectorAll('#menu button')).map(b => b.innerText)")
}

choose_menu <- function(page, words) {
  page$js(paste0("Array.from(document.querySelectorAll('#menu button')).find(b => ",
                 "b.innerText.indexOf(", jsonlite::toJSON(words, auto_unbox = TRUE),
                 ") >= 0).click()"))
}

test_that("of what holds, names of one field take each other's place", {
  book <- demo_book()
  held <- function(...) {
    desk <- internal("new_desk")()
    for (text in c(...)) desk <- internal("hold_also")(desk, internal("ask_held")(book, text))
    desk[c("where", "when")]
  }
  expect_identical(held("only Moor", "2026", "only Fen"),
                   list(where = "territory == \"Fen\"", when = "2026"))
  expect_identical(held("only Moor", "only schools", "not the web")$where, c(
    "territory == \"Moor\"", "type == \"school\"", "channel != \"web\""))
  expect_identical(held("only Moor and schools", "only Fen or Heath")$where, c(
    "type == \"school\"", "territory %in% c(\"Fen\", \"Heath\")"))
  # A period alone takes nothing away; what was typed as a condition stays.
  expect_identical(held("only Moor", "2025")$where, "territory == \"Moor\"")
  expect_length(held("territory == 'Moor'", "only Fen")$where, 2)
  expect_identical(held("2025")$where, character())
})

test_that("a manager's meeting: who is ahead, only Moor, why, into the segment, the lines", {
  skip_without_browser()
  desk <- served_desk(demo_path("longladder.yml"))
  page <- open_tab(desk$address)
  # The agenda first: pages with their findings, and what is worth asking.
  page$wait("document.querySelectorAll('#agenda .item').length > 10")
  page$wait(paste0("Array.from(document.querySelectorAll('#agenda .said')).some(s => ",
                   "s.innerText.length > 20)"))
  ask_page(page, "top 5 reps by revenue this year")
  expect_match(shown(page)[[1]], "Maren Holt leads by revenue")
  # What holds reaches what was asked before, and what is asked from now on.
  page$type("#hold", "only Moor")
  page$press("[data-act=hold_typed]")
  page$wait("document.querySelector('.step h3').innerText.indexOf('territory is Moor') > 0")
  ask_page(page, "why did revenue change in Q2 2026")
  expect_match(shown(page)[[2]], "where territory is Moor")
  # Into the largest segment, by pointing at its rung; then the lines of a row of the table.
  items <- point_figure(page, 2, .6, .12)
  expect_match(unlist(items), "which lines are behind it", all = FALSE)
  choose_menu(page, "what is inside")
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length == 3")
  page$js("document.querySelectorAll('.step:not([hidden])')[2].querySelector('tbody td').click()")
  page$wait("!document.querySelector('#menu').hidden")
  choose_menu(page, "which lines are behind it")
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length == 4")
  # Back, forward, and again from the address.
  address <- page$js("location.href")
  titles <- shown(page)
  page$js("history.back()")
  page$wait("document.querySelectorAll('.step:not([hidden])').length == 3")
  page$js("history.forward()")
  page$wait("document.querySelectorAll('.step:not([hidden])').length == 4")
  page$js("location.reload()")
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length == 4")
  expect_identical(shown(page), titles)
  # Another person, another state; and a colleague with the address.
  other <- open_tab(desk$address)
  ask_page(other, "revenue by month")
  expect_no_match(shown(other)[[1]], "Moor")
  colleague <- open_tab(address)
  colleague$wait("document.querySelectorAll('.step:not([hidden]) h3').length == 4")
  expect_identical(shown(colleague), titles)
  # Pinned, an answer keeps what held; released, the others go back to all lines.
  page$press(".step [data-act=pin]")
  page$wait("!!document.querySelector('.step .mark')")
  page$press("[data-act=release]")
  page$wait("document.querySelectorAll('.step h3')[1].innerText.indexOf('Moor') < 0")
  expect_match(shown(page)[[1]], "territory is Moor")
  for (one in list(page, other, colleague)) {
    expect_identical(one$messages(), character())
    expect_identical(grep("^(data:|http://127[.]0[.]0[.]1:)", one$requested(), value = TRUE,
                          invert = TRUE), character())
  }
  # The connection is lost, and comes back with the same desk.
  desk$stop()
  other$wait("!document.querySelector('#lost').hidden")
})

test_that("refusals and choices are shown where one asked, and choosing goes on", {
  skip_without_browser()
  desk <- served_desk(demo_path("longladder.yml"))
  page <- open_tab(desk$address)
  page$wait("!!document.querySelector('#holding')")
  ask <- function(text) {
    page$js("document.querySelector('#question').value = ''")
    page$type("#question", text)
    page$enter()
  }
  ask("revenue by shoe size")
  page$wait("!!document.querySelector('#said_part .failed')")
  expect_match(page$js("document.querySelector('#said_part').innerText"), "shoe")
  expect_identical(page$js("document.querySelector('#question').value"), "revenue by shoe size")
  ask("top 10 by revenue")
  page$wait("document.querySelectorAll('#said_part button').length > 3")
  page$js("document.querySelector('#said_part button').click()")
  # No word is in doubt, so none is replaced and nothing that was asked is lost.
  page$wait("document.querySelector('#question').value == 'top 10 by revenue accounts'")
  # A question that is wrong stays one step back; nothing of it is on the desk.
  page$type("#hold", "only Narnia")
  page$press("[data-act=hold_typed]")
  page$wait("document.querySelector('#said_part').innerText.indexOf('Narnia') > 0")
  expect_match(page$js("document.querySelector('.held').innerText"), "all lines, all dates")
  # By the form, which words fill.
  page$js("document.querySelector('#question').value = ''")
  page$type("#question", "top 3 reps by margin in Moor")
  page$press("[data-act=form]")
  page$wait("document.querySelector('#filling [name=top]').value == '3'")
  page$js("document.querySelector('#filling [name=top]').value = '4'")
  page$press("[data-act=form_say]")
  page$wait("document.querySelector('#question').value.indexOf('Top 4 reps') == 0")
  page$press("[data-act=form_ask]")
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length > 0")
  # Another picture where it is sound, and why not where it is not.
  page$press("[data-act=form]")
  page$press("[data-act=anew]")
  page$wait("document.querySelectorAll('.step:not([hidden])').length == 0")
  choose <- function(picture) page$js(paste0(
    "(s => { s.value = '", picture, "'; s.dispatchEvent(new Event('change', {bubbles: true})); })",
    "(Array.from(document.querySelectorAll('.step:not([hidden]) select')).pop())"))
  ask_page(page, "revenue by territory and channel")
  page$wait("!!document.querySelector('.step:not([hidden]) figure img')")
  before <- page$js("document.querySelector('.step:not([hidden]) figure img').src")
  choose("shares")
  page$wait("decodeURIComponent(location.hash).indexOf('\"as\":\"shares\"') > 0")
  page$wait(paste0("document.querySelector('.step:not([hidden]) figure img').src !== ",
                   jsonlite::toJSON(before, auto_unbox = TRUE)))
  # It can be copied as the picture that it is, where the browser allows it.
  page$tab$Browser$grantPermissions(permissions = list("clipboardReadWrite",
                                                       "clipboardSanitizedWrite"))
  page$js("document.querySelector('.step:not([hidden]) [data-act=copy_figure]').click()")
  page$wait(paste0("/Copied|Not allowed/.test(document.querySelector(",
                   "'.step [data-act=copy_figure]').innerText)"))
  ask_page(page, "margin rate by territory and channel")
  choose("stacked")
  page$wait("document.querySelector('#said_part').innerText.indexOf('does not add up') > 0")
  expect_identical(page$js(
    "Array.from(document.querySelectorAll('.step:not([hidden]) select')).pop().value"), "tiles")
  expect_identical(page$messages(), character())
})

test_that("by the keyboard alone, narrow, dark, and with names that are markup", {
  skip_without_browser()
  folder <- withr::local_tempdir()
  odd <- c("<script>window.bad = 1</script>", "<img src=x onerror='window.bad=1'>", "A & \"B\"",
           "\u00c9t\u00e9", "plain", "=1+1")
  lines <- data.frame(buyer = rep(odd, each = 20), day = as.Date("2025-01-01") + 1:120,
                      net = rep(c(9, 7, 5, 3, 2, 1), each = 20))
  data.table::fwrite(lines, file.path(folder, "odd <b>.csv"))
  desk <- served_desk(file.path(folder, "odd <b>.csv"), "--define", "revenue=sum(net)")
  page <- open_tab(desk$address, width = 400, height = 800, dark = TRUE)
  page$wait("document.querySelectorAll('#agenda .item').length > 1")
  # The first key leads to the question; typing completes; Enter asks.
  page$key("Tab", number = 9L)
  page$enter()
  expect_identical(page$js("location.hash"), "#question")
  page$js("document.querySelector('#question').focus()")
  page$tab$Input$insertText("revenue by bu")
  page$wait("!document.querySelector('#choices').hidden")
  page$key("Tab", number = 9L)
  page$wait("document.querySelector('#question').value.indexOf('buyer') > 0")
  page$enter()
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length == 1")
  expect_match(shown(page)[[1]], odd[1], fixed = TRUE)
  page$js("document.querySelector('.step tbody tr td').focus()")
  page$enter()
  page$wait("!document.querySelector('#menu').hidden")
  expect_identical(page$js("document.activeElement.closest('#menu') !== null"), TRUE)
  page$key("Escape", number = 27L)
  expect_identical(page$js("document.querySelector('#menu').hidden"), TRUE)
  expect_identical(page$js("document.activeElement.tagName"), "TD")
  # Nothing runs, nothing is wider than the page, every picture and field has words.
  expect_null(page$js("window.bad"))
  expect_lte(page$js("document.documentElement.scrollWidth"), 400)
  page$wait("!!document.querySelector('figure img')")
  expect_gt(nchar(page$js("document.querySelector('figure img').alt")), 20)
  expect_identical(page$js(paste0(
    "Array.from(document.querySelectorAll('input, select')).filter(i => !i.labels.length && ",
    "!i.getAttribute('aria-label')).length")), 0L)
  expect_identical(page$js(
    "new Set(Array.from(document.querySelectorAll('[id]')).map(e => e.id)).size"),
    page$js("document.querySelectorAll('[id]').length"))
  expect_identical(page$messages(), character())
})

test_that("who has no token sees nothing, another site cannot connect, and headers keep all in", {
  skip_without_browser()
  desk <- served_desk(demo_path("longladder.yml"))
  bare <- sub("[?].*", "", desk$address)
  get <- function(url) {
    from <- socketConnection("127.0.0.1", as.integer(sub(".*:([0-9]+)/.*", "\\1", bare)),
                             open = "r+b", blocking = TRUE, timeout = 10)
    on.exit(close(from))
    writeLines(paste0("GET ", sub("^http://[^/]*", "", url), " HTTP/1.0\r\nHost: x\r\n\r"), from)
    readLines(from, warn = FALSE)
  }
  expect_match(get(bare)[1], "403")
  expect_match(get(paste0(bare, "?key=0000"))[1], "403")
  right <- get(desk$address)
  expect_match(right[1], "200")
  expect_match(right, "Content-Security-Policy: default-src 'self'", all = FALSE)
  expect_match(right, "X-Content-Type-Options: nosniff", all = FALSE)
  for (path in c("desk/../../../etc/passwd", "desk/%2e%2e/%2e%2e/etc/passwd", "../DESCRIPTION"))
    expect_no_match(paste(get(paste0(bare, path)), collapse = " "), "root:|Package:")
  # A page that does not bring the token in its first word is shut out.
  page <- open_tab(paste0(desk$address))
  page$wait("!!document.querySelector('#holding')")
  page$js(paste0("history.replaceState(null, '', '/?key=wrong'); ",
                 "Shiny.setInputValue('address', {key: 'wrong', state: '', nonce: 99})"))
  expect_false(internal("same_origin")(list(HTTP_ORIGIN = "http://evil.example",
                                            HTTP_HOST = "127.0.0.1:99")))
  expect_true(internal("same_origin")(list(HTTP_ORIGIN = "http://127.0.0.1:99",
                                           HTTP_HOST = "127.0.0.1:99")))
  # The port that is taken is told.
  port <- sub(".*:([0-9]+)/.*", "\\1", bare)
  got <- run_process("desk", demo_path("longladder.yml"), "--port", port, "--open", "no")
  expect_identical(got$status, 2L)
  expect_match(paste(got$err, collapse = " "), "in use")
})

test_that("a long question is asked beside, and can be stopped", {
  skip_without_browser()
  skip_on_os("windows")
  withr::local_envvar(LONGLADDER_DESK_BESIDE = "1")
  desk <- served_desk(demo_path("longladder.yml"))
  page <- open_tab(desk$address)
  ask_page(page, "why did revenue change in Q2 2026")
  # Its book is the one that is open: it can be asked on.
  ask_page(page, "by territory")
  expect_match(shown(page)[[2]], "gains of")
  expect_identical(page$messages(), character())
})

test_that("an address of hundreds of answers does not hold up another person's page", {
  skip_without_browser()
  desk <- served_desk(demo_path("longladder.yml"))
  other <- open_tab(desk$address)
  ask_page(other, "total revenue")
  steps <- paste0("{\"q\":\"top ", 1:400, " items by revenue\"}", collapse = ",")
  page <- open_tab(paste0(desk$address, "#", utils::URLencode(paste0("{\"t\":[", steps, "]}"), TRUE)))
  page$wait("document.querySelectorAll('.step:not([hidden])').length > 0")
  answered <- function() page$js(paste0("Array.from(document.querySelectorAll('.step')).filter(",
                                        "s => s.querySelector('table')).length"))
  # What the other asks is answered between the answers of the first.
  ask_page(other, "revenue by rep")
  expect_lt(answered(), 60)
  page$wait("document.querySelectorAll('.step:not([hidden])').length === 60")
  page$wait("document.querySelector('#said_part').innerText.indexOf('more than a desk holds') > 0")
  expect_match(page$js("document.querySelector('#said_part').innerText"),
               "Of this address 340 parts are more than a desk holds; left out.", fixed = TRUE)
  expect_identical(page$messages(), character())
})

test_that("what others change in a brief is told to all when it is taken in, with what changed", {
  skip_without_browser()
  file <- demo_copy()
  desk <- served_desk(file)
  page <- open_tab(desk$address)
  other <- open_tab(desk$address)
  said <- function(page, words) page$wait(paste0(
    "document.querySelector('#said_part').innerText.indexOf(", jsonlite::toJSON(
      words, auto_unbox = TRUE), ") >= 0"), 60)
  keep <- function(title) {
    page$js("document.querySelector('[data-act=keep_open]').click()")
    page$js("document.querySelector('.keeping [name=title]').value = ''")
    page$type(".keeping [name=title]", title)
    page$press("[data-act=keep_typed]")
  }
  ask_page(page, "total revenue")
  ask_page(other, "total revenue")
  # A remark changes nothing.
  cat("# a remark\n", file = file, append = TRUE)
  keep("first")
  said(page, "Kept as the page 'first' of longladder.yml.")
  expect_no_match(page$js("document.querySelector('#said_part').innerText"), "meanwhile")
  lines <- readLines(file)
  expect_length(grep("^exclude:", lines), 0)
  writeLines(c(lines, "exclude: territory == 'Moor'"), file)
  keep("second")
  said(page, paste("It had been changed on disk meanwhile, and the answers here are by what it says",
                   "now: exclude came, territory == 'Moor'."))
  said(other, "longladder.yml was changed, and the answers here are by what it says now: pages.second")
  said(other, "; exclude came, territory == 'Moor'.")
  total <- ll_total(ll_brief(file)$book, metrics = "revenue")
  for (one in list(page, other)) one$wait(paste0(
    "document.querySelector('.step').innerText.indexOf('", sub("^.* ([0-9,.]{9,}).*$", "\\1",
                                                               ll_finding(total)), "') > 0"))
  # Handed over is what stands in the file; the desk is of it from then on.
  writeLines(sub("'Moor'", "'Fen'", readLines(file)), file)
  page$press("[data-act=hand_over]")
  said(page, "exclude is territory == 'Fen', was territory == 'Moor'.")
  said(page, "Handed over")
  # One that cannot be read is not written to.
  writeLines(c(readLines(file), "metrics: ["), file)
  broken <- readLines(file)
  keep("third")
  said(page, "is no readable YAML")
  expect_identical(readLines(file), broken)
})

test_that("what changed in a brief is told key by key", {
  changes <- internal("brief_changes")(
    list(title = "A", metrics = list(r = "sum(net)", m = list(is = "sum(x)", unit = "EUR")),
         people = c("a", "b"), pages = list(p = list(study = "total"))),
    list(title = "A", metrics = list(r = "sum(gross)", m = list(is = "sum(x)")),
         people = c("a", "b", "c"), exclude = "net < 0"))
  expect_identical(changes$key, c("metrics.r", "metrics.m.unit", "people", "pages", "exclude"))
  expect_identical(changes$was, c("sum(net)", "EUR", "[a, b]", "{p: {study: total}}", NA))
  expect_identical(changes$is, c("sum(gross)", NA, "[a, b, c]", NA, "net < 0"))
  expect_identical(
    internal("changes_said")(changes, 3),
    paste("metrics.r is sum(gross), was sum(net); metrics.m.unit went, which was EUR;",
          "people is [a, b, c], was [a, b]; and 2 more"))
})

test_that("what is kept, fixed and defined stands in the brief, and is handed over", {
  skip_without_browser()
  file <- demo_copy()
  folder <- dirname(file)
  before <- readLines(file)
  data <- tools::md5sum(file.path(folder, "order_lines.csv"))
  desk <- served_desk(file)
  page <- open_tab(desk$address)
  other <- open_tab(desk$address)
  said <- function(words) page$wait(paste0(
    "document.querySelector('#said_part').innerText.indexOf(", jsonlite::toJSON(
      words, auto_unbox = TRUE), ") >= 0"), 60)
  put <- function(css, text) {
    page$js(paste0("document.querySelector(", jsonlite::toJSON(css, auto_unbox = TRUE),
                   ").value = ''"))
    page$type(css, text)
  }
  ask_page(page, "top 5 reps by margin")
  ask_page(other, "revenue by rep")
  put("#hold", "only Moor in 2026")
  page$press("[data-act=hold_typed]")
  page$wait("document.querySelector('.step h3').innerText.indexOf('Moor') > 0")
  page$press("[data-act=keep_open]")
  put(".keeping [name=title]", "Moor's best: 'a' \"b\" <i> # 5")
  put(".keeping [name=comment]", "Ida takes over: {see} to it")
  page$press("[data-act=keep_typed]")
  said("Kept as the page")
  # What looks wrong, and a fix that can be put into the brief; for all who look on.
  page$press("[data-act=health]")
  page$wait("document.querySelectorAll('.health button').length > 3")
  page$js("document.querySelector('#defining').closest('details').open = true")
  page$js(paste0("Array.from(document.querySelectorAll('.health li')).find(l => ",
                 "l.innerText.indexOf('similar') >= 0).querySelector('button').click()"))
  said("same: similar")
  other$wait("document.querySelector('main, body').textContent.indexOf('another spelling') > 0")
  # A definition is told wrong as it is typed, and right.
  put("#defining [name=name]", "spend_each")
  put("#defining [name=formula]", "sum(nett) / distinct(account)")
  page$wait("document.querySelector('#defined_part').innerText.indexOf(\"called 'nett'\") > 0")
  put("#defining [name=formula]", "sum(net) / distinct(account)")
  page$wait("document.querySelector('#defined_part').innerText.indexOf('Spend each was') >= 0")
  page$press("[data-act=define]")
  said("spend_each stands in")
  ask_page(page, "top 3 families by spend each")
  page$press("[data-act=hand_over]")
  said("Handed over: report.html, workbook.xlsx and notebook.Rmd of 1 page")
  page$tab$close()
  # The brief has just that more, and its page asks the same; the lines are as they were.
  after <- readLines(file)
  expect_identical(setdiff(before, after), character())
  expect_identical(tools::md5sum(file.path(folder, "order_lines.csv")), data)
  brief <- ll_brief(file)
  kept <- brief$pages[[length(brief$pages)]]
  expect_identical(attr(kept, "title"), "Moor's best: 'a' \"b\" <i> # 5")
  expect_identical(attr(kept, "said"), "Ida takes over: {see} to it")
  done <- run_pages(brief, names(brief$pages)[length(brief$pages)])[[1]]
  expect_equal(done$result$margin, ll_standings(brief$book, "rep", "margin", top = 5, when = "2026",
                                                where = "territory == 'Moor'")$margin)
  report <- paste(readLines(file.path(folder, "hand-over", "report.html")), collapse = "")
  expect_match(report, "Ida takes over: {see} to it", fixed = TRUE)
  expect_match(report, "Moor&#39;s best|Moor's best")
  sheet <- openxlsx::read.xlsx(file.path(folder, "hand-over", "workbook.xlsx"), "contents",
                               colNames = FALSE)
  expect_match(paste(unlist(sheet), collapse = " "), "Ida takes over: {see} to it", fixed = TRUE)
  expect_setequal(list.files(folder), c(list.files(dirname(demo_path("longladder.yml"))),
                                        "hand-over"))
})

test_that("pages and metrics that come to a brief leave its book open, whatever else opens it anew", {
  folder <- withr::local_tempdir()
  write.csv(data.frame(who = c("a", "b", "a"), amount = c(5, 7, 11)), row.names = FALSE,
            file.path(folder, "lines.csv"))
  file <- file.path(folder, "longladder.yml")
  put <- function(...) writeLines(c("lines: lines.csv", ...), file)
  metrics <- c("metrics:", "  paid: sum(amount)")
  page <- c("pages:", "  best: {study: standings, each: who}")
  put(metrics)
  brief <- ll_brief(file)
  reopened <- FALSE
  renew <- function(...) {
    put(...)
    reopened <<- FALSE
    internal("renew_brief")(brief, function() {
      reopened <<- TRUE
      ll_brief(file)
    })
  }
  further <- renew(c(metrics, "  each: paid / distinct(who)", page))
  expect_false(reopened)
  expect_identical(names(further$pages), "best")
  expect_identical(ll_total(further$book, "each")$value, 23 / 2)
  fresh <- ll_brief(file)
  expect_identical(further$book$metrics, fresh$book$metrics)
  # Also a second time, on what the first came to.
  brief <- further
  expect_identical(names(renew(metrics, "  each: paid / distinct(who)")$pages), NULL)
  expect_false(reopened)
  brief <- ll_brief(file)
  for (other in list(c("metrics:", "  paid: mean(amount)"), c(metrics, "exclude: amount > 10"),
                     c(metrics, "fields: {who: {also: [client]}}"), c("title: Other", metrics))) {
    renewed <- renew(other)
    expect_true(reopened, info = paste(other, collapse = "; "))
    expect_equal(renewed$book$metrics, ll_brief(file)$book$metrics)
  }
  # A metric that went is gone.
  expect_identical(names(renew(metrics)$book$metrics), "paid")
})

test_that("a brief without metrics gets those of a first look when a page needs them", {
  skip_without_browser()
  folder <- withr::local_tempdir()
  write.csv(data.frame(day = as.Date("2026-01-01") + 0:59, client = rep(c("Ash", "Elm", "Oak"), 20),
                       net = seq(10, 600, 10)), file.path(folder, "lines.csv"), row.names = FALSE)
  file <- file.path(folder, "longladder.yml")
  writeLines("lines: lines.csv", file)
  desk <- served_desk(file)
  page <- open_tab(desk$address)
  ask_page(page, "revenue by client")
  page$press("[data-act=keep_open]")
  page$type(".keeping [name=title]", "Clients")
  page$press("[data-act=keep_typed]")
  page$wait("document.querySelector('#said_part').innerText.indexOf('Kept as the page') >= 0", 60)
  # What was answered is answered still.
  page$wait("document.querySelector('.step').innerText.indexOf('Oak leads') >= 0")
  page$tab$close()
  brief <- ll_brief(file)
  done <- run_pages(brief, names(brief$pages))[[1]]$result
  expect_identical(done$revenue, c(6300, 6100, 5900))
})

test_that("a brief is changed as text, or not at all", {
  file <- demo_copy()
  folder <- dirname(file)
  before <- readLines(file)
  accept <- internal("accept_fix")
  health <- as.data.frame(ll_check(ll_brief(file)$book))
  fixes <- Filter(internal("is_fix"), health$fix)
  expect_gt(length(fixes), 3)
  # Each fix that check proposes can be put in, alone and after others, and its finding goes.
  for (fix in utils::head(unique(fixes), if (all_tests()) Inf else 4)) {
    writeLines(before, file)
    accept(file, fix)
    again <- as.data.frame(ll_check(ll_brief(file)$book))
    expect_false(fix %in% again$fix, info = fix)
  }
  writeLines(before, file)
  for (fix in grep("^exclude", unique(fixes), value = TRUE)) accept(file, fix)
  expect_length(grep("^exclude:", readLines(file)), 1)
  # Twice the same, what is no fix, what does not read: nothing is written.
  held <- readLines(file)
  for (wrong in c("fix the export", "exclude: nowhere > 3", "fields: {nowhere: {fill: zero}}",
                  "exclude: system('x')"))
    expect_error(accept(file, wrong), class = "ll_error", info = wrong)
  expect_identical(readLines(file), held)
  expect_error(internal("define_in_brief")(file, "metrics", "revenue", "sum(net)"),
               class = "ll_error")
  internal("define_in_brief")(file, "fields", "slow", "ship_date - order_date + 1")
  expect_true("slow" %in% ll_brief(file)$book$fields$name)
  expect_identical(list.files(folder, "yml$"), "longladder.yml")
})

test_that("lines alone have an agenda; a file of one's own is opened for one person, where let", {
  skip_without_browser()
  folder <- withr::local_tempdir()
  odd <- file.path(folder, "<img src=x onerror=alert(1)>.csv")
  utils::write.csv2(data.frame(Beleg = rep(1:60, 2), Datum = format(as.Date("2025-01-01") + 1:120,
                                                                    "%d.%m.%Y"),
                               Kunde = c("\u00dcnal", "b", "c"), Betrag = 1:120 + .5), odd,
                    row.names = FALSE)
  desk <- served_desk(demo_path("order_lines.csv"), "--upload")
  page <- open_tab(desk$address)
  other <- open_tab(desk$address)
  items <- "Array.from(document.querySelectorAll('#agenda .item')).map(e => e.innerText).join()"
  page$wait(paste0(items, ".indexOf('Top account') >= 0"))
  bring <- function(path) {
    root <- page$tab$DOM$getDocument()$root$nodeId
    page$tab$DOM$setFileInputFiles(files = list(path), nodeId = page$tab$DOM$querySelector(
      root, "#brought")$nodeId)
  }
  said <- function(words) page$wait(paste0(
    "document.querySelector('#said_part').innerText.indexOf(", jsonlite::toJSON(
      words, auto_unbox = TRUE), ") >= 0"))
  ask_page(page, "revenue by rep")
  bring(odd)
  said("onerror=alert(1)>.csv' now, 120 lines; on opening:")
  expect_match(page$js("document.querySelector('h1').textContent"), "<img src=x", fixed = TRUE)
  expect_identical(page$js("document.querySelectorAll('.step:not([hidden])').length"), 0L)
  page$wait(paste0(items, ".indexOf('Top Kunde') >= 0"))
  ask_page(page, "top 2 kunde by revenue")
  expect_match(shown(page)[[1]], "c leads by revenue with 2,480, 33.9 %")
  # What is no file of lines is told, and nothing changes; keeping has no brief to write to.
  for (wrong in list(c("a.docx", "PK", "no file of lines"), c("b.csv", "", "'b.csv' is empty"),
                     c("c.parquet", "PAR1 x PAR1", "cannot be read as Parquet"))) {
    writeLines(wrong[2], file.path(folder, wrong[1]), sep = "")
    bring(file.path(folder, wrong[1]))
    said(wrong[3])
    expect_no_match(page$js("document.querySelector('#said_part').innerText"), "brought-")
  }
  # What is kept stands in the brief of a first look, which can be saved and then runs.
  saved <- function() page$js(paste0("fetch(document.querySelector('#brief_saved').href)",
                                     ".then(r => r.text())"))
  page$press("[data-act=keep_open]")
  page$press("[data-act=keep_typed]")
  said("of the brief, which is not saved yet")
  text <- saved()
  expect_match(text, "lines: '<img src=x onerror=alert(1)>.csv'", fixed = TRUE)
  expect_no_match(text, "brought-")
  writeLines(text, file.path(folder, "longladder.yml"))
  brief <- ll_brief(file.path(folder, "longladder.yml"))
  kept <- run_pages(brief, names(brief$pages)[length(brief$pages)])[[1]]$result
  expect_identical(kept$Kunde, c("c", "b"))
  expect_equal(kept$revenue, c(2480, 2440))
  writeLines(c("kiste,net", "a,1.5", "b,2.5", "a,4"), file.path(folder, "second.csv"))
  bring(file.path(folder, "second.csv"))
  said("'second.csv' now, 3 lines")
  ask_page(page, "revenue by kiste")
  expect_match(shown(page)[[1]], "a leads by revenue with 5.50")
  # Nobody else sees it, nor does who comes anew; the desk's own lines have such a brief too.
  ask_page(other, "revenue by rep")
  other$press("[data-act=keep_open]")
  other$press("[data-act=keep_typed]")
  other$wait("document.querySelector('.yaml').textContent.indexOf('revenue by rep') > 0")
  expect_false(other$js("!!document.querySelector('[data-act=hand_over]')"))
  expect_match(other$js("document.querySelector('h1').textContent"), "order_lines")
  page$tab$Page$reload()
  page$wait("(document.querySelector('h1') || {}).textContent === 'order_lines'")
  said("not of this book; left out")
  expect_identical(c(page$messages(), other$messages()), character())
  # Where it is not let there is no place for it, and what comes all the same is refused.
  shut <- open_tab(served_desk(demo_path("order_lines.csv"))$address)
  shut$wait("!!document.querySelector('#holding')")
  expect_false(shut$js("!!document.querySelector('#brought')"))
  expect_match(shut$js(paste0(
    "new Promise(give => Shiny.shinyapp.makeRequest('uploadInit', [[{name: 'a.csv', size: 99, ",
    "type: ''}]], give, give))")), "size")
})

test_that("a question over several currencies becomes one for each", {
  skip_without_browser()
  file <- write_text(c("order,day,client,ccy,net", "1,2025-01-03,Oak,EUR,12.50", "2,2025-01-04,Fen,USD,1",
                       "3,2025-02-05,Oak,USD,2", "4,2025-02-05,Oak,EUR,5"))
  desk <- served_desk(file, "--define", "revenue=sum(net)")
  page <- open_tab(desk$address)
  at <- ask_page(page, "total revenue")
  page$wait("document.querySelectorAll('.step:not([hidden]) h3').length >= 2")
  text <- page$js("document.body.innerText")
  expect_match(text, "Where ccy is EUR: revenue was 17.50", fixed = TRUE)
  expect_match(text, "Where ccy is USD: revenue was 3.00", fixed = TRUE)
  expect_match(text, "shown apart")
  expect_length(page$messages(), 0)
})

test_that("what was pressed is told in words, never as its arguments one by one", {
  skip_without_browser()
  page <- open_tab(served_desk(demo_path("longladder.yml"))$address)
  ask_page(page, "top 10 garden centres by margin")
  menu <- "Array.from(document.querySelectorAll('#menu button.follow[data-act=follow_row]'))"
  n <- 1
  for (k in 1:3) {
    page$js("document.querySelector('.tables[data-rows] tbody td').click()")
    page$wait(paste0("!document.querySelector('#menu').hidden && ", menu, ".length > 3"))
    page$js(paste0(menu, "[", k, "].click()"))
    n <- n + 1
    page$wait(paste0("document.querySelectorAll('.step:not([hidden]) h3').length === ", n))
  }
  told <- page$js("Array.from(document.querySelectorAll('.step .kicker')).map(k => k.innerText)")
  expect_length(told, n)
  expect_no_match(unlist(told), ": with ")
  # The address asks them again all the same.
  page$tab$Page$reload()
  page$wait(paste0("document.querySelectorAll('.step:not([hidden]) h3').length === ", n))
  expect_identical(page$messages(), character())
})

test_that("a figure is drawn where it is in sight, of the answer that is there", {
  skip_without_browser()
  page <- open_tab(served_desk(demo_path("longladder.yml"))$address)
  for (text in c("revenue by rep", "margin by territory", "revenue by channel", "orders by rep"))
    ask_page(page, text)
  at <- function(k, what) page$js(paste0(
    "(s => ", what, ")(Array.from(document.querySelectorAll('.step:not([hidden])'))[", k - 1, "])"))
  look <- function(k) {
    at(k, "s.querySelector('figure').scrollIntoView({block: 'center'})")
    until(function() isTRUE(at(k, paste0(
      "(i => !!i && i.complete && i.naturalWidth > 0 && i.offsetWidth > 0 && ",
      "!s.querySelector('.recalculating'))(s.querySelector('figure:not(.away) img'))"))), 30)
  }
  source_of <- function(k) at(k, paste0("(i => i.src.length + i.src.slice(-400))",
                                        "(s.querySelector('figure img'))"))
  expect_true(look(4))
  expect_true(look(1))
  before <- source_of(1)
  # The last is far from the first: it waits, and keeps its room.
  expect_true(until(function() isTRUE(at(4, "s.querySelector('figure').matches('.away')"))))
  expect_gt(at(4, "s.querySelector('figure').offsetHeight"), 300)
  at(4, "s.scrollIntoView()")
  page$js("document.querySelector('#hold').value = 'only Moor'")
  page$press("[data-act=hold_typed]")
  page$wait(paste0("Array.from(document.querySelectorAll('.step:not([hidden]) h3')).every(h => ",
                   "h.innerText.indexOf('Moor') >= 0)"))
  # What was out of sight is of the answer that is there when it is looked at.
  expect_true(look(1))
  expect_true(until(function() source_of(1) != before))
  expect_match(at(1, "s.querySelector('figure img').alt"), "Moor|leads")
  expect_identical(page$messages(), character())
})
