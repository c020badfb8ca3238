# The same result from wherever the lines are: every kind of source at hand against the data frame.

test_that("servers are there where they were promised", {
  if (!nzchar(Sys.getenv("LONGLADDER_TEST_SERVERS")))
    return(succeed("servers are tested by make test-servers"))
  expect_setequal(server_kinds(), c("postgres", "duckdb", "clickhouse"))
})

test_that("every example of every study gives the same result from every kind of source", {
  skip_unless_all()
  lines <- demo_frame()
  brief <- demo_path("longladder.yml")
  frame <- ll_brief(brief, lines = lines)$book
  near <- answers_kept()
  for (kind in source_kinds()) {
    far <- ll_brief(brief, lines = lines_in(kind, lines))$book
    # Order numbers are numbers in a CSV and text in the frame; they are identifiers in both.
    own <- setdiff(names(frame$fields), "numeric")
    expect_identical(far$fields[own], frame$fields[own], info = kind)
    for (study in internal("declarations")()) for (example in study$examples) {
      read <- internal("read_words")(study, scan(text = example, what = "", quiet = TRUE))
      ask <- function(book) {
        book <- internal("add_metrics")(book, internal("book_arguments")(read$options)$metrics)
        book <- internal("narrow_by_options")(book, read$options)
        internal("answer")(study, book, internal("study_args")(study, read$options))
      }
      got <- ask(far)
      want <- near(paste(study$name, example), function() ask(frame))
      info <- paste(kind, study$name, example)
      # Lines of one day come in no order of their own, and have no number to be called by.
      if (study$name == "detail") {
        expect_same_lines(got, want, info)
      } else if (study$name == "holders" && !grepl("--each", example)) {
        expect_equal(got$revenue, want$revenue, info = info)
        expect_equal(got$order_no, want$order_no, info = info)
      } else {
        expect_same_result(got, want, info)
      }
    }
  }
})

test_that("a constant in a formula is a value of every line, as a field that holds it is", {
  skip_unless_all()
  lines <- odd_lines(3)
  lines$two <- 2
  constants <- c("abs(1 - 3)", "pmin(2, 2)", "(1 + 1)", "ifelse(qty > 0, 2, 2)")
  asked <- c("sum(%s)", "mean(%s)", "min(%s)", "max(%s)", "median(%s)", "sd(%s)", "count(%s)",
             "quantile(%s, 0.9)", "sum(%s[qty > 1])", "max(%s[qty > 1])",
             "mean(per(order_no, sum(%s)))")
  for (kind in c("frame", source_kinds())) {
    book <- odd_book(if (kind == "frame") lines else lines_in(kind, lines))
    for (when in c(if (kind == "frame") "all",
                   "2025-Q2")) for (made in if (kind == "frame") constants else
                                    constants[c(1, 4)]) {
      metrics <- stats::setNames(c(sprintf(asked, made), sprintf(asked, "two")),
                                 c(paste0("a", seq_along(asked)), paste0("b", seq_along(asked))))
      x <- ll_standings(book, "area", metrics, when = when, no_lines = FALSE)
      expect_true(all(ll_proof(x)$holds), info = paste(kind, when, made))
      table <- as.data.frame(x)
      for (i in seq_along(asked)) expect_equal(table[[paste0("a", i)]], table[[paste0("b", i)]],
                                               info = paste(kind, when, made, asked[i]))
    }
  }
})

test_that("every study of random books with odd names, gaps and ties agrees", {
  skip_unless_all()
  lines <- odd_lines(7)
  frame <- odd_book(lines)
  near <- answers_kept()
  for (kind in source_kinds()) {
    far <- odd_book(lines_in(kind, lines))
    for (study in names(odd_questions)) {
      got <- odd_questions[[study]](far)
      want <- near(study, function() odd_questions[[study]](frame))
      info <- paste(kind, study)
      expect_true(all(ll_proof(want)$holds), info = study)
      if (study %in% c("detail", "holders_lines") && kind %in% database_kinds()) {
        expect_same_lines(got, want, info)
      } else {
        expect_same_result(got, want, info)
      }
    }
    expect_setequal(sub("_.*", "", names(odd_questions)), names(internal("declarations")()))
  }
})

test_that("random books with odd names, gaps, ties and extreme values agree for every key", {
  skip_unless_all()
  keys <- list("account", "area", "code", "month(day)", "weekday(day)", "week(day)", "quarter(day)",
               "year(day)", "day(day)", "fiscal_quarter(day)", "fiscal_month(day)", "hour(at)",
               "part_of_day(at)", "kind", "size", "class_of", "shown_of", "spread", "mon", "early", "order_no",
               c("account", "area"), c("kind", "size"), c("class_of", "month(day)"),
               c("code", "spread"))
  near <- answers_kept()
  for (kind in database_kinds()) for (seed in 1:2) {
    lines <- odd_lines(seed)
    far_lines <- lines_in(kind, lines)
    frame <- odd_book(lines)
    far <- odd_book(far_lines)
    expect_identical(far$fields, frame$fields, info = kind)
    for (each in keys[(seq_along(keys) + seed) %% 2 == 0 | lengths(keys) > 1]) {
      ask <- function(book) ll_standings(book, each, names(odd_metrics))
      key <- paste(seed, paste(each, collapse = "+"))
      expect_same_result(ask(far), near(key, function() ask(frame)), paste(kind, key))
    }
    ask <- function(lines) ll_standings(odd_book(lines, odd_inner_metrics), "area",
                                        names(odd_inner_metrics))
    expect_same_result(ask(far_lines), ask(lines), paste(kind, seed, "inner"))
  }
})

test_that("every condition means the same, inside metrics and for whole questions", {
  skip_unless_all()
  inside <- stats::setNames(paste0("count(net[", odd_conditions, "])"),
                            paste0("c", seq_along(odd_conditions)))
  near <- answers_kept()
  for (kind in database_kinds()) {
    lines <- odd_lines(3)
    far_lines <- lines_in(kind, lines)
    frame <- odd_book(lines, inside)
    far <- odd_book(far_lines, inside)
    got <- ll_standings(far, "area", names(inside))
    want <- near("inside", function() ll_standings(frame, "area", names(inside)))
    for (i in seq_along(inside))
      expect_identical(got[[names(inside)[i]]], want[[names(inside)[i]]],
                       info = paste(kind, odd_conditions[i]))
    expect_true(all(ll_proof(got)$holds))
    for (where in odd_conditions[seq(1, length(odd_conditions), by = 4)])
      expect_same_result(ll_standings(far, "account", "c1", where = where),
                         near(where, function() {
                           ll_standings(frame, "account", "c1", where = where)
                         }), paste(kind, where))
  }
})

test_that("what stands in a register of the same database serves as one of a file does", {
  for (kind in database_kinds()) {
    lines <- odd_lines(4)
    far <- lines_in(kind, lines)
    register <- odd_register()
    register$kind[register$kind %in% ""] <- NA
    other <- lines_in(kind, register, table = "accounts")
    ask <- function(lines, accounts) {
      ll_standings(ll_book(lines, registers = list(account = accounts),
                           metrics = c(revenue = "sum(net)")), "kind")
    }
    want <- ask(lines, register)
    if (kind %in% c("postgres", "clickhouse"))
      expect_same_result(ask(far, list(connect = "lines", table = "accounts")), want, kind)
    expect_same_result(ask(far, list(connect = other$connect, table = "accounts")), want, kind)
    expect_same_result(ask(lines, list(connect = other$connect, query = "SELECT * FROM accounts")),
                       want, kind)
  }
})

test_that("registers of many names serve where rows cannot be put together afterwards", {
  skip_unless_all()
  names <- sprintf("A%05d", 1:20000)
  register <- data.frame(account = names, kind = c("shop", "farm")[1:20000 %% 2 + 1],
                         contact = paste("Person", 1:20000))
  lines <- withr::with_seed(1, data.frame(account = sample(names, 3e4, TRUE),
                                          order_no = paste0("N", sample(1e4, 3e4, TRUE)),
                                          net = round(runif(3e4, 1, 99), 2)))
  open <- function(lines) {
    ll_book(lines, fields = c(order_no = "identifier"), registers = list(account = register),
            metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"))
  }
  frame <- open(lines)
  for (kind in database_kinds()) {
    far <- open(lines_in(kind, lines))
    for (each in c("kind", "contact"))
      expect_same_result(ll_standings(far, each, c("revenue", "orders"), top = 5),
                         ll_standings(frame, each, c("revenue", "orders"), top = 5),
                         paste(kind, each))
  }
})
