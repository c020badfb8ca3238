# Questions in plain words: what they come to, that no word is dropped, and that nothing crashes.

read_question <- function(book, question) {
  tryCatch(internal("ask_read")(book, question), ll_error_question = identity)
}

try_question <- function(book, question) tryCatch(ll_ask(book, question), ll_error = identity)

test_that("questions by habits of three trades come to the calls that were written down before", {
  outcomes <- list()
  for (name in c("demo", "hire", "print")) {
    book <- switch(name, demo = demo_book(), hire = hire_book(), print = print_book())
    asked <- ask_questions(name)
    if (!all_tests()) asked <- asked[seq(1, nrow(asked), by = 3), ]
    for (i in seq_len(nrow(asked))) {
      got <- ask_outcome(book, asked$question[i], asked$expected[i])
      outcomes <- c(outcomes, list(got$outcome))
      # Never a wrong answer in silence.
      if (got$outcome == "wrong") fail(paste(asked$question[i], "->", got$got)) else succeed()
    }
  }
  expect_gt(mean(unlist(outcomes) == "right"), .95)
})

test_that("questions that were found later come to what they ask", {
  asked <- ask_questions("later")
  for (i in seq_len(nrow(asked))) {
    got <- ask_outcome(demo_book(), asked$question[i], asked$expected[i])
    expect_identical(got$outcome, "right", info = paste(asked$question[i], "->", got$got))
  }
})

test_that("what stands after a verb is bought, whoever is asked for", {
  book <- demo_book()
  who <- c("who", "garden centres that", "which schools", "accounts that", "clubs who", "customers",
           "how many garden centres")
  verb <- c("never bought", "stopped buying", "did not buy", "no longer buy", "have not ordered")
  for (text in c(outer(outer(who, verb, paste), c("hives", "feed since spring", "HV-001"), paste))) {
    read <- internal("ask_read")(book, text)
    expect_identical(read$args$each, "account", info = text)
    expect_match(paste(unlist(read$args), collapse = " "), "hives|feed|HV-001", info = text)
  }
})

test_that("the plain words in every study's help are asked of the demo and answered by that study", {
  for (declared in internal("declarations")()) {
    expect_gt(length(declared$asked), 0)
    for (text in declared$asked) {
      result <- ll_ask(demo_book(), text)
      expect_s3_class(result, paste0("ll_result_", declared$name))
      expect_true(all(ll_proof(result)$holds), info = text)
    }
  }
})

test_that("orders are names by their numbers, and a metric per another is their quotient", {
  lines <- data.frame(
    invoice = c("A-17", "A-17", "B/3", "2025", "000123", "000123", "17"),
    day = as.Date("2025-02-03") + 1:7, client = c("a", "a", "b", "b", "c", "c", "a"),
    kilos = 1:7, net = c(5, 7, 11, 13, 17, 19, 23))
  book <- ll_book(lines, fields = c(invoice = "identifier"), order = "invoice",
                  metrics = c(revenue = "sum(net)", orders = "distinct(invoice)"),
                  parameters = c(least_client = 30))
  of <- function(text) ll_ask(book, text)$value[1]
  for (number in c("A-17", "a-17", "B/3", "000123", "17"))
    expect_identical(of(paste("how much was order", number)),
                     sum(lines$net[lines$invoice == toupper(number)]), info = number)
  expect_identical(of("revenue of invoice A-17 and B/3"), 23)
  expect_identical(nrow(ll_ask(book, "invoice B/3")), 1L)
  # A number that is a year as well is asked back.
  expect_error(ll_ask(book, "revenue of order 2025"), "not clear", class = "ll_error_question")
  expect_identical(of("revenue of order \"2025\""), 13)
  expect_error(ll_ask(book, "order 18"), "no order '18'", class = "ll_error_question")
  per <- ll_ask(book, "revenue per kilo by client")
  expect_equal(stats::setNames(per$revenue_per_kilo, per$client)[c("a", "b", "c")],
               c(tapply(lines$net, lines$client, sum) / tapply(lines$kilos, lines$client, sum)))
  expect_equal(of("revenue per order"), sum(lines$net) / 5)
  above <- ll_ask(book, "clients with revenue over the least client")
  expect_setequal(above$client, c("a", "c"))
})

test_that("letter case, fillers and marks change nothing", {
  book <- demo_book()
  withr::local_seed(5)
  asked <- ask_questions("demo")
  asked <- asked[!asked$expected %in% c("?", "!"), ]
  for (i in sample(nrow(asked), if (all_tests()) 60 else 15)) {
    question <- asked$question[i]
    if (grepl("\"", question)) next
    plain <- read_question(book, question)
    if (inherits(plain, "condition")) next
    for (other in c(toupper(question), paste("please", question), paste0(question, " ???"),
                    paste0("  could you tell me ", question, ", thanks"))) {
      again <- read_question(book, other)
      expect_identical(again[c("study", "args")], plain[c("study", "args")], info = other)
    }
  }
})

test_that("a word that narrows changes the call or ends the question", {
  book <- demo_book()
  withr::local_seed(6)
  asked <- ask_questions("demo")
  asked <- asked[!asked$expected %in% c("?", "!"), ]
  words <- c("only over the web", "not Downs", "in 2024", "with at least 7 orders", "for clubs",
             "over 500 net", "since June 2025", "without suits")
  for (i in sample(nrow(asked), if (all_tests()) 80 else 15)) for (word in words) {
    question <- asked$question[i]
    # What the question says already narrows nothing.
    if (any(strsplit(word, " ")[[1]] %in% strsplit(question, "[^[:alnum:]]+")[[1]])) next
    plain <- read_question(book, question)
    if (inherits(plain, "condition")) next
    narrowed <- read_question(book, paste(question, word))
    same <- !inherits(narrowed, "condition") &&
      identical(narrowed[c("study", "args")], plain[c("study", "args")])
    expect_false(same, info = paste(question, "+", word))
  }
})

# Conditions as people type them: an "or" open, half or wholly in brackets, denied, with a remark.
typed_conditions <- c(
  "area == 'Moor' | way == 'web'", "(area == 'Moor') | (way == 'web')", "way == 'web' | (qty > 4)",
  "(area == 'Moor' | way == 'web')", "!(area == 'Moor') | qty < 0", "area == 'Fen' & qty > 1",
  "area == 'Fen' & qty > 1 | way == 'web'", "area == 'Moor' # the east", "note != 'a # b | c'",
  "qty > 3 | note == 'a # b | c' # odd")

test_that("conditions that are joined hold all of them, wherever a question joins them", {
  lines <- withr::with_seed(12, data.frame(
    client = sample(letters[1:9], 400, TRUE), area = sample(c("Moor", "Fen", "Downs"), 400, TRUE),
    way = sample(c("web", "shop"), 400, TRUE), qty = sample(c(-2:6), 400, TRUE),
    note = sample(c("a # b | c", "plain"), 400, TRUE)))
  lines$net <- lines$qty * seq_len(400)
  book <- ll_book(lines, metrics = c(revenue = "sum(net)", returned = "sum(net[qty < 0])"))
  meets <- function(...) Reduce(`&`, lapply(c(...), function(text) {
    eval(parse(text = text)[[1]], lines)
  }))
  asked <- function(...) paste(c(...), collapse = " ")
  where <- function(text) paste0("where \"", text, "\"")
  total <- function(result) ll_total(book, where = ll_settings(result)$where)$value[1]
  for (one in typed_conditions) {
    narrow <- ll_ask(book, asked("revenue by way", where(one), "only area \"Fen\""))
    expect_equal(total(narrow), sum(lines$net[meets(one, "area == 'Fen'")]), info = one)
    lined <- ll_ask(book, asked("the lines of the returned", where(one)))
    expect_equal(total(lined), sum(lines$net[meets(one, "qty < 0")]), info = one)
    first <- ll_ask(book, asked("revenue by client", where(one)))
    turned <- ll_ask(first, "only area \"Fen\"")
    expect_equal(total(turned), sum(lines$net[meets(one, "area == 'Fen'")]), info = one)
    without <- ll_ask(first, "without this")
    top <- paste0("client != '", first$client[1], "'")
    expect_equal(total(without), sum(lines$net[meets(one, top)]), info = one)
    for (other in typed_conditions) {
      want <- sum(lines$net[meets(one, other)])
      expect_equal(total(ll_ask(book, asked("revenue by client", where(one), where(other)))), want,
                   info = paste(one, "and", other))
      expect_equal(total(ll_ask(first, where(other))), want, info = paste(one, "then", other))
    }
  }
})

test_that("random sentences never crash, and answer only with every content word used", {
  book <- demo_book()
  withr::local_seed(7)
  vocabulary <- internal("ask_vocabulary")(book)
  kinds <- internal("ask_words")()
  silent <- unlist(kinds[c("filler", "of", "and", "or", "which", "who", "data", "but", "how_much",
                           "could")])
  words <- c(sample(ls(vocabulary$phrases), 250), "2025", "Q2 2026", "last quarter", "10", "80%",
             "1,000", "xyzzy", "\"web\"", ",", "since March", "not", "only", "by", "top", "why")
  for (i in seq_len(many_asked(300))) {
    question <- paste(sample(words, sample(1:9, 1), TRUE), collapse = " ")
    read <- tryCatch(internal("ask_read")(book, question), ll_error = identity)
    if (inherits(read, "ll_error")) {
      expect_true(nzchar(conditionMessage(read)))
      next
    }
    expect_equal(read$used, read$tokens, info = question)
    # Every segment that is no filler was taken for something that is told.
    segments <- internal("read_segments")(question, book, vocabulary)$segments
    told <- paste(tolower(read$words$words), collapse = " | ")
    for (one in segments) {
      if (one$kind == "comma" || isTRUE(one$low %in% silent)) next
      expect_true(grepl(tolower(one$text), told, fixed = TRUE),
                  info = paste(question, "::", one$text))
    }
  }
})

test_that("the answer tells what each word was taken for, and its proof counts them", {
  book <- demo_book()
  x <- ll_ask(book, "top 5 custmers by turnover since spring, not Moor")
  expect_s3_class(x, "ll_result_standings")
  expect_match(ll_reading(x), "accounts (\"custmers\"), revenue (\"turnover\")", fixed = TRUE)
  expect_match(ll_reading(x), "1 March to 16 September 2026 (\"since spring\")", fixed = TRUE)
  expect_match(ll_reading(x), "not territory Moor (\"not Moor\")", fixed = TRUE)
  expect_match(ll_reading(x), "\"custmers\" is taken for \"customers\"", fixed = TRUE)
  proof <- ll_proof(x)
  expect_true("words: 9 of 9 used" %in% proof$check)
  expect_true(all(proof$holds))
  words <- ll_part(x, "words")
  expect_named(words, c("words", "taken_for", "value"))
  expect_identical(as.data.frame(x), as.data.frame(ll_standings(
    book, "account", "revenue", top = 5, when = "2026-03-01/2026-09-16",
    where = "territory != \"Moor\"")))
})

test_that("what is not understood says the word, where, the nearest, and how to teach it", {
  book <- demo_book()
  wrong <- expect_error(ll_ask(book, "revenue by shoe size"), class = "ll_error_question")
  expect_match(conditionMessage(wrong), "The word 'shoe' .*in 'revenue by shoe size'")
  expect_match(conditionMessage(wrong), "--means 'shoe=FIELD'")
  back <- expect_error(ll_ask(book, "sales of Acorn"), class = "ll_error_question")
  expect_gt(length(back$choices), 3)
  # Each choice can be typed.
  month <- expect_error(ll_ask(book, "revenue in March"), class = "ll_error_question")
  for (choice in month$choices)
    expect_s3_class(ll_ask(book, paste("revenue in", gsub("\"", "", choice))), "ll_result_total")
  for (choice in utils::head(back$choices, 3))
    expect_s3_class(ll_ask(book, paste("sales of", choice)), "ll_result_total")
  for (odd in list("", "   ", "?", strrep("revenue ", 10000), "\u0001\u0002", NA, 5,
                   "=cmd()", "\u4f60\u597d", "Umsatz nach Vertreter"))
    expect_error(ll_ask(book, odd), class = "ll_error")
  expect_s3_class(ll_ask(book, "takings by vertreter", means = c(vertreter = "rep")),
                  "ll_result_standings")
  expect_error(ll_ask(book, "x", means = c(x = "nothing there")), class = "ll_error_word")
})

test_that("a talk narrows, turns, looks inside and goes back to whole questions", {
  book <- demo_book()
  ask <- function(from, question) ll_ask(from, question)
  settings <- function(x) ll_settings(x)
  one <- ask(book, "what did schools spend in 2025")
  reps <- ask(one, "and by rep?")
  expect_identical(settings(reps)$each, "rep")
  expect_identical(settings(reps)$where, settings(one)$where)
  moor <- ask(reps, "only Moor")
  expect_match(settings(moor)$where, "school.*Moor")
  expect_identical(ll_settings(ask(moor, "top 3"))$top, 3)
  expect_identical(settings(ask(moor, "without the web"))$when, settings(moor)$when)
  why <- ask(moor, "why?")
  expect_s3_class(why, "ll_result_drill")
  expect_match(settings(why)$where, "Moor")
  lines <- ask(reps, "the lines")
  expect_s3_class(lines, "ll_result_detail")
  expect_s3_class(ask(reps, "who is inside"), "ll_result_standings")
  expect_identical(settings(ask(reps, "and margin?"))$metrics, "margin")
  expect_identical(settings(ask(reps, "in 2024"))$when$from, "2024-01-01")
  before <- ask(reps, "the year before")
  expect_identical(settings(before)$against$from, "2024-01-01")
  new <- ask(moor, "which customers stopped buying")
  expect_s3_class(new, "ll_result_lapsed")
  expect_null(settings(new)$where)
})

test_that("the command asks, reads only, answers many, keeps what was asked, and counts it", {
  brief <- demo_path("longladder.yml")
  ask <- function(...) command("ask", "--brief", brief, ...)
  expect_match(ask("top 3 reps by margin")$out[1], "Maren Holt leads by margin")
  read <- ask("top 3 reps by margin", "--read-only")$out
  expect_identical(read[2:3], c("Top 3 reps by margin",
                                "longladder standings --each rep --metrics margin --top 3"))
  expect_identical(ask("colour of the sky")$status, 2L)
  file <- withr::local_tempfile(lines = c("top 3 reps", "", "# no question",
                                          "revenue by shoe size"))
  log <- withr::local_tempfile(fileext = ".log")
  many <- ask("--from", file, "--log-questions", log)
  expect_identical(many$status, 2L)
  expect_length(many$out, 2)
  expect_identical(jsonlite::fromJSON(many$out[1])$rows$rep[1], "Maren Holt")
  expect_match(jsonlite::fromJSON(many$out[2])$error, "shoe")
  ask("revenue by shoe size", "--log-questions", log)
  counted <- command("ask", "--unanswered", log)$out
  expect_match(counted[1], "3 questions, 2 not answered")
  expect_match(counted, "shoe +2", all = FALSE)
  expect_identical(ask("takings per vertreter", "--means", "vertreter=rep")$status, 0L)
  expect_identical(jsonlite::fromJSON(paste(ask("revenue moor 2025", "--format", "json")$out,
                                            collapse = "\n"))$parts$words$words[2], "moor")
  # The agenda: every page with its finding, and lines that run.
  agenda <- ask()$out
  expect_match(agenda, "Reps in tiers", all = FALSE)
  lines <- trimws(grep("^    longladder ", agenda, value = TRUE))
  expect_gt(length(lines), 2)
  for (line in lines) expect_identical(command(scan(text = line, what = "", quote = "'",
                                                    quiet = TRUE)[-1])$status, 0L, info = line)
})

test_that("what the last answer cannot be turned to is asked by itself, or refused by its name", {
  book <- demo_book()
  cross <- ll_ask(book, "revenue by territory and channel")
  expect_identical(internal("follow_read")(book, cross, "revenue by month")$study, "trend")
  expect_error(ll_ask(cross, "at least 20 orders"), class = "ll_error_question")
  told <- tryCatch(ll_ask(cross, "by month"), ll_error_question = conditionMessage)
  if (is.character(told)) expect_no_match(told, "what '' should")
  # Each of these after each other: an answer, and never a refusal of nothing.
  asks <- c("top 10 garden centres by margin", "revenue by territory and channel",
            "revenue by month", "which accounts make up 80% of revenue", "revenue by family",
            "why did revenue change in Q2 2026", "who stopped buying", "how much did schools spend",
            "accounts above average on revenue and margin rate", "compare Moor and Fen by family")
  for (first in asks) {
    answer <- ll_ask(book, first)
    for (then in asks) {
      alone <- internal("ask_read")(book, then)
      read <- internal("follow_read")(book, answer, then)
      expect_true(internal("fits_book")(book, read), info = paste(first, "then", then))
      # Alone, or the last one turned: what drove a change is then told by each name.
      expect_true(read$study %in% c(alone$study, internal("facts")(answer)$study, "bridge"),
                  info = paste(first, "then", then))
    }
  }
})

test_that("a whole question has its own study, of the lines and days that were spoken of", {
  book <- demo_book()
  after <- function(first, then) {
    read <- internal("follow_read")(book, ll_ask(book, first), then)
    paste(internal("call_command")(read$study, internal("check_args")(
      internal("declaration_of")(read$study), read$args)))
  }
  expect_identical(after("revenue by month", "top 10 accounts"),
                   "standings --each account --metrics revenue --top 10")
  expect_identical(after("margin by month in Moor", "revenue by rep"),
                   "standings --each rep --metrics revenue --where 'territory == \"Moor\"'")
  expect_match(after("why did revenue change in Q2 2026", "top 3 items"),
               "^standings --each item --metrics revenue --top 3 --when ")
  expect_match(after("who stopped buying", "revenue by family"), "^standings --each family")
  expect_match(after("which accounts make up 80% of revenue", "revenue by family"), "^standings")
  # What goes on in half a sentence turns the last answer.
  expect_match(after("revenue by month", "by territory"), "^trend .*--by territory")
  expect_match(after("revenue by month", "and revenue by territory"), "^trend .*--by territory")
  expect_match(after("why did revenue change in Q2 2026", "by family"), "^bridge .*--by family")
  # Names of one field take each other's place; those of another are one condition more.
  expect_match(after("top 3 reps in Moor", "only Heath"), "--where 'territory == \"Heath\"'$")
  expect_match(after("top 3 reps in Moor and Fen in 2025", "top 5 accounts in Heath"),
               "--where 'territory == \"Heath\"' --when 2025$")
  expect_match(after("how much did schools spend in 2025", "top 3 items in Heath"),
               "type == \"school\" & territory == \"Heath\"")
  expect_match(after("top 3 reps in Moor", "without Moor"), "Moor.* & .*Moor")
})

test_that("names of any alphabet are asked for by their letters, and none is dropped", {
  names <- c("M\u00fcller & S\u00f6hne", "Caf\u00e9 Z\u00fcrich", "\u65e5\u672c\u5546\u4e8b",
             "\u6771\u4eac\u5546\u4e8b", "\u0410\u043b\u044c\u0444\u0430",
             "\u0411\u0435\u0442\u0430 \u0438 \u0441\u044b\u043d", "\u00c6r\u00f8 Marine",
             "e\u0301clair", "Stra\u00dfe", "\u039a\u03b1\u03c6\u03ad", "Smith \u2013 Sons",
             "\u0645\u062a\u062c\u0631", "\u0926\u0941\u0915\u093e\u0928")
  lines <- data.frame(who = rep(names, 12), place = rep(c("S\u00fcd", "Nord"), 6 * length(names)),
                      net = seq_len(12 * length(names)) / 4)
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"))
  for (name in names) for (text in c(name, tolower(name))) {
    want <- lines$net[lines$who == name]
    expect_equal(ll_ask(book, paste("revenue of", text))$value, sum(want), info = name)
    split <- ll_ask(book, paste("revenue by place for", text))
    expect_equal(sum(split$revenue), sum(want), info = name)
  }
  south <- ll_ask(book, "revenue in s\u00fcd")
  expect_equal(south$value, sum(lines$net[lines$place != "Nord"]))
  # A name that is not there is asked back, whatever its letters.
  for (odd in c("\u5927\u962a", "\u0413\u0430\u043c\u043c\u0430", "Zo\u00eb"))
    expect_error(ll_ask(book, paste("revenue of", odd)), class = "ll_error_question")
  # As similar are told those that differ in accents, and not those of other alphabets.
  found <- as.data.frame(ll_check(ll_book(rbind(lines, data.frame(
    who = "Muller & Sohne", place = "Nord", net = 5)), metrics = c(revenue = "sum(net)"))))
  similar <- found[found$finding == "similar spellings", ]
  expect_identical(nrow(similar), 1L)
  expect_match(similar$examples, "Muller & Sohne")
})

test_that("options of the study stand beside a question", {
  ask <- function(...) command("ask", ..., "--brief", demo_path("longladder.yml"))
  both <- ask("top 3 reps by margin in Moor", "--where", "quantity > 3 | quantity < 0",
              "--min-orders", "30", "--format", "json")
  asked <- ll_standings(demo_book(), "rep", "margin", top = 3, min_orders = 30, where = paste(
    "territory == 'Moor' & (quantity > 3 | quantity < 0)"))
  expect_equal(jsonlite::fromJSON(paste(both$out, collapse = "\n"))$rows$margin, asked$margin)
  for (wrong in list(c("revenue by rep", "--bands", "3"), c("top 3 reps", "--top", "5"),
                     c("top 3 reps", "--ties", "odd"), c("revenue", "--no-such", "1")))
    expect_identical(do.call(ask, as.list(wrong))$status, 2L, info = wrong[2])
  expect_match(ask("top 3 reps", "--top", "5")$err, "tells 'top' already")
})

test_that("what is begun is completed from the book's words", {
  book <- demo_book()
  expect_identical(ll_complete(book, "top 10 gar")$text, "top 10 garden centre")
  expect_setequal(ll_complete(book, "revenue by terr")$phrase, c("territories", "territory"))
  expect_identical(ll_complete(book, "quarry comb")$phrase, "Quarry Combe Garden Centre")
  expect_identical(nrow(ll_complete(book, "revenue ")), 0L)
  expect_identical(nrow(ll_complete(book, "zzqx")), 0L)
  expect_lte(nrow(ll_complete(book, "m", most = 3)), 3)
  expect_error(ll_complete(book, NA_character_), class = "ll_error_argument")
  # Whatever is completed is understood where it stands alone among names, or begins a question.
  for (begun in c("ma", "ho", "re", "Mo", "b")) for (one in ll_complete(book, begun)$text) {
    read <- tryCatch(internal("ask_read")(book, one), ll_error_question = identity)
    if (inherits(read, "condition")) expect_no_match(conditionMessage(read), "none that this book")
  }
  # Names of odd letters, quotes and new lines stay what they are.
  odd <- ll_book(data.frame(who = c("A \"b\" c", "two\nlines", "<b>x</b>", "=1+1"), v = 1:4))
  expect_identical(ll_complete(odd, "A ")$phrase, character())
  expect_identical(ll_complete(odd, "tw")$phrase, "two lines")
})

test_that("at a terminal Tab completes, and each question goes on from the last answer", {
  skip_on_os("windows")
  skip_if_not_installed("processx")
  ask <- function() processx::process$new(
    file.path(R.home("bin"), "Rscript"), c("--no-init-file", system.file(
      "exec", "longladder", package = "longladder"), "ask", "--width", "90", "--brief",
      demo_path("longladder.yml")),
    pty = TRUE, pty_options = list(echo = TRUE),
    env = c("current", TERM = "dumb", LONGLADDER_PROMPT = "",
            R_LIBS = paste(.libPaths(), collapse = ":")))
  said <- ""
  # What is typed before it is asked for may be lost.
  heard <- function(process, words, seconds = 90) {
    end <- Sys.time() + seconds
    while (!grepl(words, said, fixed = TRUE) && Sys.time() < end && process$is_alive()) {
      process$poll_io(200)
      said <<- paste0(said, process$read_output())
    }
    expect_match(said, words, fixed = TRUE)
    said <<- sub(paste0("(?s)^.*?\\Q", words, "\\E"), "", said, perl = TRUE)
  }
  type <- function(process, text) process$write_input(text)
  at <- ask()
  withr::defer(at$kill())
  heard(at, "ask> ")
  type(at, "top 3 gard\t")
  heard(at, "top 3 garden centre")
  type(at, " by rev\t")
  heard(at, "revenue")
  type(at, "\n")
  heard(at, "Where type is garden centre")
  heard(at, "ask> ")
  type(at, "only Moor\n")
  heard(at, "Where type is garden centre and territory is Moor")
  heard(at, "ask> ")
  type(at, "quit\n")
  at$wait(60000)
  expect_identical(at$get_exit_status(), 0L)
  # The end of what is typed ends the talk, the second time.
  said <- ""
  at <- ask()
  withr::defer(at$kill())
  for (i in 1:2) {
    heard(at, "ask> ")
    type(at, "\004")
  }
  at$wait(60000)
  expect_identical(at$get_exit_status(), 0L)
})

test_that("pages are found by their own wordings, and answers kept as pages ask the same again", {
  folder <- withr::local_tempdir()
  file.copy(dirname(demo_path("longladder.yml")), folder, recursive = TRUE)
  file <- file.path(folder, "extdata", "longladder.yml")
  lines <- readLines(file)
  at <- grep("study: lapsed", lines)
  writeLines(append(lines, "    asks: [whom did we lose, \"who's gone?\"]", at), file)
  gone <- command("ask", "whom did we lose", "--brief", file)
  expect_match(gone$out[1], "47 accounts have had no lines")
  book <- ll_brief(file)$book
  asked <- list(ll_ask(book, "top 5 garden centres by margin in 2026"),
                ll_ask(book, "fastest growing families in 2025"),
                ll_ask(book, "customers with revenue over 20,000 in 2025"),
                ll_ask(book, "tiers of reps by revenue: Copper from 0, Brass from 100000"))
  for (i in seq_along(asked)) ll_keep(file, asked[[i]], paste("Kept", i))
  expect_identical(readLines(file)[seq_along(lines) + 1][1:9], append(lines, "x", at)[1:9 + 1])
  kept <- internal("run_pages")(ll_brief(file), paste0("kept_", seq_along(asked)))
  for (i in seq_along(asked))
    expect_identical(as.data.frame(kept[[i]]$result), as.data.frame(asked[[i]]))
  expect_error(ll_keep(file, asked[[1]], "kept 1"), "called 'kept_1' already",
               class = "ll_error_argument")
})

test_that("a million names are asked by their own name and its beginning", {
  skip_unless_all()
  n <- 1e6
  lines <- data.frame(order_no = sprintf("N%07d", 1:n), day = as.Date("2025-01-01"),
                      customer = paste("Farm", sprintf("%07d", 1:n)), net = 1)
  book <- ll_book(lines, fields = c(customer = "dimension"), metrics = c(revenue = "sum(net)"))
  ll_ask(book, "revenue", answered = FALSE)
  took <- system.time(read <- ll_ask(book, "revenue of Farm 0004711", answered = FALSE))[[3]]
  expect_identical(read$args$where, "customer == \"Farm 0004711\"")
  expect_lt(took, 5)
})

test_that("words taught to a brief are known from then on, and the rest of the file stays", {
  folder <- withr::local_tempdir()
  file.copy(dirname(demo_path("longladder.yml")), folder, recursive = TRUE)
  file <- file.path(folder, "extdata", "longladder.yml")
  before <- readLines(file)
  ll_teach(file, c(punters = "account", patches = "territory", dosh = "revenue", gigs = "orders"))
  after <- readLines(file)
  expect_identical(setdiff(before, after),
                   c("  account: dimension", "  revenue: {is: sum(net), unit: money}",
                     "  orders: distinct(order_no)"))
  ll_teach(file, c(folk = "account"))
  book <- ll_brief(file)$book
  for (question in c("top 3 punters by dosh", "top 3 folk by dosh"))
    expect_identical(ll_ask(book, question, answered = FALSE)$args[c("each", "metrics", "top")],
                     list(each = "account", metrics = "revenue", top = 3))
  expect_identical(ll_ask(book, "gigs by patch", answered = FALSE)$args$metrics, "orders")
  whole <- readLines(file)
  expect_error(ll_teach(file, c(x = "nothing")), class = "ll_error")
  expect_identical(readLines(file), whole)
  expect_error(ll_teach(file, "account"), class = "ll_error_argument")
})

test_that("a number answers a question back", {
  book <- demo_book()
  chosen <- internal("chosen_question")
  for (question in c("revenue in March", "sales of Acorn in 2025")) {
    back <- read_question(book, question)
    doubt <- list(question = question, word = back$word, choices = back$choices)
    for (i in seq_along(back$choices)) {
      read <- read_question(book, chosen(doubt, paste0(" ", i)))
      expect_identical(read$study, "total", info = paste(question, i))
    }
    expect_identical(chosen(doubt, "99"), "99")
  }
  expect_identical(chosen(NULL, "1"), "1")
})

test_that("names are looked up alike by both ways of making them plain", {
  withr::local_seed(8)
  letters <- c("a", "B", "s", "'", "'s", " ", "-", "7", ".", "_", "&", "(")
  made <- vapply(1:500, function(i) paste(sample(letters, sample(9, 1), TRUE), collapse = ""), "")
  names <- c("O'Brien's", "Holt's", "  x  ", "", "HV-018", NA, "it's a dog's", made)
  plain <- internal("plain_words")(names)
  known <- !is.na(names)
  expect_identical(plain[known], internal("plain_letters")(names[known]))
  expect_identical(internal("plain_words")("Zo\u00eb's Caf\u00e9"), "zoe cafe")
})

test_that("books without metrics, dates or registers, and odd names, answer or say why not", {
  bare <- ll_book(small_lines())
  for (question in c("top 3 reps", "revenue", "why", "who stopped buying", "check the data",
                     "reps by month", "everything on Ida"))
    expect_true(inherits(try_question(bare, question), c("ll_result", "ll_error")), info = question)
  lines <- small_lines()
  lines$day <- NULL
  undated <- ll_book(lines, metrics = c(revenue = "sum(net)"))
  for (question in c("revenue in 2025", "revenue by month", "new customers", "why", "top 3 reps",
                     "which month was best", "last quarter"))
    expect_true(inherits(try_question(undated, question), c("ll_result", "ll_error")),
                info = question)
  odd <- small_lines()
  odd$rep <- c("M\u00fcller & S\u00f6hne \"Nord\"", "A|B [x] (y)", "top 10", "2025", "by month",
               "it's $1^", "a\nb", "\u4f60\u597d")
  book <- ll_book(odd, metrics = c(revenue = "sum(net)"))
  expect_identical(ll_settings(ll_ask(book, "revenue of muller & sohne nord"))$where,
                   paste0("rep == ", encodeString(odd$rep[1], quote = "\"")))
  for (name in odd$rep) {
    said <- paste0("revenue of rep \"", gsub("\"", "\"\"", name), "\"")
    got <- try_question(book, said)
    expect_true(inherits(got, c("ll_result", "ll_error")), info = said)
    if (inherits(got, "ll_result")) expect_identical(ll_question(got), ll_question(got))
  }
})

test_that("lines alone are asked by a first brief's metrics, which are told; what is told runs", {
  withr::local_dir(withr::local_tempdir())
  file.copy(demo_path("order_lines.csv"), "lines.csv")
  got <- command("ask", "top 3 reps by margin rate in 2025", "lines.csv")
  expect_identical(got$status, 0L)
  expect_match(got$err, "no metric was given; as a first brief has them: revenue = sum(net), ",
               fixed = TRUE)
  # The same as with the metrics of that brief.
  writeLines(ll_draft("lines.csv"), "longladder.yml")
  expect_identical(command("ask", "top 3 reps by margin rate in 2025", "--brief",
                           "longladder.yml")$out[1], got$out[1])
  unlink("longladder.yml")
  # Only what a line needs stands in it, and it runs.
  lines <- trimws(grep("^    longladder ", c(got$out, command("ask", "lines.csv")$out),
                       value = TRUE))
  expect_gt(length(lines), 5)
  expect_no_match(lines, "units=")
  for (line in lines) expect_identical(command(scan(text = line, what = "", quote = "'",
                                                    quiet = TRUE)[-1])$status, 0L, info = line)
  # Other words for things, and lines in which nothing can be added up.
  utils::write.csv2(data.frame(Belegnr = 1:40 %/% 2, Kunde = letters[1:4], Menge = 1:4,
                               `Betrag EUR` = 1:40 + .25, check.names = FALSE), "de.csv",
                    row.names = FALSE)
  got <- command("ask", "top 2 kunde", "de.csv")
  expect_identical(got$status, 0L)
  expect_match(got$err, "revenue = sum(`Betrag EUR`), orders = distinct(Belegnr)", fixed = TRUE)
  writeLines(c("name,day", "a,2025-01-01", "b,2025-01-02"), "none.csv")
  got <- command("ask", "top names", "none.csv")
  expect_identical(got$status, 2L)
  expect_match(got$err, "has no metrics")
})
