# Next questions: whatever is proposed runs, is about the row it came from, and can be pasted.

test_that("every question proposed after every answer of every study runs and is proven", {
  book <- demo_book()
  asked <- character()
  for (declared in internal("declarations")()) {
    expect_true(length(declared$next_answer) > 0, info = declared$name)
    known <- names(internal("next_makers"))
    expect_identical(setdiff(c(declared$next_answer, declared$next_row), known), character())
    for (example in utils::head(declared$examples, if (all_tests()) 2 else 1)) {
      result <- command_result(declared, example)
      rows <- unique(c(0, 1, nrow(result)))
      for (row in rows[rows == 0 | rows <= nrow(result)]) {
        proposed <- ll_next(result, if (row) row)
        expect_false(anyDuplicated(proposed$command) > 0)
        for (i in seq_len(nrow(proposed))) {
          command <- proposed$command[i]
          if (command %in% asked) next
          asked <- c(asked, command)
          run <- function() do.call(paste0("ll_", proposed$study[i]),
                                    c(list(internal("book_of")(result)), proposed$args[[i]]))
          made <- tryCatch(run(), error = identity)
          info <- paste(example, "->", command)
          expect_s3_class(made, "ll_result")
          if (inherits(made, "ll_result")) expect_true(all(ll_proof(made)$holds), info = info) else
            fail(paste(info, conditionMessage(made)))
          # The command says the same call.
          expect_identical(call_of_command(command), telling(proposed$study[i], proposed$args[[i]]),
                           info = info)
        }
      }
    }
  }
  expect_gt(length(asked), 60)
})

test_that("a row's questions are about its lines", {
  book <- demo_book()
  top <- ll_standings(book, c("account", "territory"), top = 4, when = "2026-Q2")
  lines <- ll_next(top, row = 2)
  lines <- lines[lines$words == "the lines", ]
  total <- ll_part(do.call(ll_detail, c(list(book), lines$args[[1]])), "totals")$value
  expect_equal(total, top$revenue[2])
  # A period of a trend, a gathered row, lines without a name.
  months <- ll_trend(book, "revenue", every = "quarter", when = "2025")
  inside <- ll_next(months, row = 3)
  expect_identical(inside$args[[match("the lines", inside$words)]]$when, "2025-Q3")
  few <- ll_crosstab(book, "rep", top = 2)
  rest <- ll_next(few, row = match(TRUE, grepl("^everyone else", few$rep)))
  expect_match(rest$command[rest$words == "the lines"], "!(rep %in% c(", fixed = TRUE)
  none <- ll_standings(book, "rep", where = "is.na(rep)")
  expect_match(ll_next(none, row = 1)$command, "is.na(rep)", all = FALSE, fixed = TRUE)
})

test_that("what the book does not allow is not proposed", {
  lines <- small_lines()
  lines$day <- NULL
  book <- ll_book(lines, metrics = c(revenue = "sum(net)", middle = "median(net)"))
  expect_identical(intersect(ll_next(ll_standings(book, "rep"))$study, c("drill", "trend")),
                   character())
  # Without dates a row's names are names still.
  top <- ll_standings(book, "rep")
  for (row in seq_len(nrow(top))) {
    following <- ll_next(top, row)
    expect_true(all(c("the lines", "without this") %in% following$words))
    args <- following$args[[match("the lines", following$words)]]
    lines <- do.call(ll_detail, c(list(book), args))
    expect_equal(ll_part(lines, "totals")$value, top$revenue[row])
  }
  x <- ll_standings(demo_book(), "rep")
  expect_error(ll_next(x, row = 99), class = "ll_error_argument")
  expect_error(ll_next(as.data.frame(x)), class = "ll_error_argument")
})

test_that("the command prints three that run when pasted, none in CSV, in JSON as a part", {
  brief <- demo_path("longladder.yml")
  words <- c("standings", "--brief", brief, "--each", "account", "--top", "3", "--when", "2026-Q2",
             "--only", "territory=Moor")
  out <- command(words)$out
  at <- match("next", out)
  lines <- trimws(grep("^    longladder ", out[-seq_len(at)], value = TRUE))
  expect_length(lines, 3)
  expect_match(lines, "--only territory=Moor", all = TRUE)
  for (line in lines) {
    pasted <- scan(text = line, what = "", quote = "'", quiet = TRUE)[-1]
    expect_identical(command(pasted)$status, 0L, info = line)
  }
  expect_false("next" %in% command(words, "--hints", "no")$out)
  expect_no_match(command(words, "--format", "csv")$out, "longladder")
  json <- jsonlite::fromJSON(paste(command(words, "--format", "json")$out, collapse = "\n"))
  expect_identical(json$parts[["next"]]$command, lines)
  expect_null(jsonlite::fromJSON(paste(command(words, "--format", "json", "--hints", "no")$out,
                                       collapse = "\n"))$parts[["next"]])
  expect_identical(command(words, "--hints", "maybe")$status, 2L)
})

test_that("words with commas and quotes survive the command", {
  split <- internal("split_list")
  for (words in list(c("a", "b"), c("a, b", "c"), c("say \"hi\", he", "x"), c("\"q\"", "z")))
    expect_identical(split(internal("list_text")(words), "names"), words)
  expect_identical(internal("shell_quoted")("O'Brien"), "'O'\\''Brien'")
})

test_that("what is gone is looked into where it was", {
  book <- demo_book()
  drill <- ll_drill(book, when = "2026-Q2", where = "territory == 'Moor'")
  gone <- which(drill$presence == "gone")
  expect_gt(length(gone), 0)
  bridge <- ll_bridge(book, by = "channel", when = "2026-Q2")
  rows <- list(list(drill, gone[1]), list(bridge, which(bridge$presence == "gone")[1]))
  for (one in rows) {
    found <- ll_next(one[[1]], one[[2]])
    for (words in c("who is inside", "the lines")) {
      at <- match(words, found$words)
      got <- do.call(paste0("ll_", found$study[at]), c(list(book), found$args[[at]]))
      expect_gt(nrow(got), 0)
      expect_match(ll_reading(got), "2025")
    }
  }
})
