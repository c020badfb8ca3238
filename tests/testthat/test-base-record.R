# Records, questions and what studies find: whole names alone, nothing written afterwards.

record <- function(...) internal("new_record")("some_kind", list(...))

test_that("a field is taken by its whole name, and only where it is", {
  one <- record(book = 1, names = NULL)
  expect_identical(one$book, 1)
  expect_null(one$names)
  expect_error(one$boo, "no `boo` in this some_kind, which has: book, names")
  expect_error(one[["nam"]], "no `nam`")
  expect_error(one[c("book", "x")], "no `x`")
  expect_identical(one[["book"]], 1)
  expect_identical(one["book"], list(book = 1))
  expect_null(internal("field_or_null")(one, "x"))
})

test_that("nobody writes to a record; altered() makes another", {
  one <- record(book = 1, top = 5)
  expect_error(one$book <- 2, "not written to")
  expect_error(one[["book"]] <- 2, "not written to")
  expect_error(one["book"] <- 2, "not written to")
  two <- internal("altered")(one, top = NULL, more = "x")
  expect_identical(unclass(two), list(book = 1, top = NULL, more = "x"))
  expect_s3_class(two, "some_kind")
  expect_identical(one$top, 5)
})

test_that("a question has its book, metrics, what is asked and its arguments, and nothing else", {
  declared <- internal("declaration_of")("standings")
  args <- internal("check_args")(declared, list(each = "rep", top = "3"))
  question <- internal("standings_question")(demo_book(), args)
  expect_s3_class(question, "ll_question")
  expect_identical(names(question), c("book", "metrics", "asked", "args"))
  expect_identical(question$args$top, 3)
  expect_error(question$each, "no `each` in this ll_question")
  expect_error(question$args$ea, "no `ea` in this ll_args")
  expect_error(question$asked$wher, "no `wher` in this ll_asked")
  expect_error(question$args$top <- 4, "not written to")
  expect_identical(internal("with_args")(question, top = 4)$args$top, 4)
  expect_identical(question$args$top, 3)
})

test_that("what is found is what was declared", {
  holds <- internal("holds")
  made <- internal("found_of")(
    "sample", common = list(), value = holds("metric", "name", "values", missing = "at times"),
    name = holds("text", "name", "names"), total = holds("metric", "one", "their sum"),
    moves = holds("table", NULL, "who moved", absent = "without a period"))
  good <- made(value = c(1, NA), name = c("a", "b"), total = 1)
  expect_s3_class(good, "found_sample")
  expect_null(good$moves)
  expect_error(made(value = 1, name = "a", total = 1, other = 2), "`other` .* not declared")
  expect_error(made(value = 1, name = "a"), "`total` .* not given")
  expect_error(made(value = 1, name = NULL, total = 1), "`name` .* not there")
  expect_error(made(value = 1, name = 2, total = 1), "`name` .* not of type text")
  expect_error(made(value = 1, name = NA_character_, total = 1), "`name` .* missing values")
  expect_error(made(value = 1:2, name = "a", total = 1), "`name` .* length 1, others for each name")
  expect_error(made(value = 1, name = "a", total = 1:2), "`total` .* length 2")
  # Where nobody looks after it only the fields themselves are held.
  withr::local_options(longladder.strict = NULL)
  expect_identical(made(value = 1, name = 2, total = 1:2)$name, 2)
  expect_error(made(value = 1, name = "a", total = 1, other = 2), "not declared")
})

test_that("arguments are checked once: what was checked is handed over", {
  declared <- internal("declaration_of")("tiers")
  args <- internal("check_args")(declared, list(each = "rep", tiers = "low=0,high=400000"))
  by_args <- internal("answer")(declared, demo_book(), args)
  plain <- ll_tiers(demo_book(), each = "rep", tiers = "low=0,high=400000")
  expect_identical(as.data.frame(by_args), as.data.frame(plain))
  expect_identical(ll_reading(by_args), ll_reading(plain))
})

test_that("--verbose tells how long each step took", {
  got <- run_process("tiers", "--brief", demo_path("longladder.yml"), "--each", "rep", "--groups",
                     "4", "-v")
  skip_if_not_installed("logger")
  expect_identical(got$status, 0L)
  expect_match(paste(got$err, collapse = "\n"),
               "tiers took [0-9.]+ s [(]question [0-9.]+, work [0-9.]+, table ")
})
