# Briefs: read as typed, checked with their lines.

brief_with <- function(...) {
  folder <- withr::local_tempdir(.local_envir = parent.frame())
  utils::write.csv(small_lines(), file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  file <- file.path(folder, "longladder.yml")
  writeLines(c("lines: lines.csv", ...), file)
  file
}

test_that("the demo's brief opens its book and its pages", {
  brief <- ll_brief(demo_path("longladder.yml"))
  expect_s3_class(brief$book, "ll_book")
  expect_equal(names(brief$pages), c("reps", "accounts"))
  expect_equal(brief$pages$reps$top, 10)
  expect_output(print(brief), "page reps: standings")
  page <- brief$pages$reps
  got <- do.call(ll_standings, c(list(brief$book), page[setdiff(names(page), "study")]))
  expect_true(all(ll_proof(got)$holds))
})

test_that("scalars stay what was typed until their declaration types them", {
  file <- brief_with("title: No", "metrics: {revenue: sum(net)}", "parameters: {big: 1e1}",
                     "pages: {p: {study: standings, each: rep, top: 2, no_lines: no, where: net > big}}")
  brief <- ll_brief(file)
  expect_identical(brief$book$title, "No")
  expect_identical(brief$book$parameters$big, 10)
  expect_identical(brief$pages$p$no_lines, FALSE)
  expect_identical(brief$pages$p$top, 2)
})

test_that("other lines than the brief's can be given", {
  more <- rbind(small_lines(), small_lines())
  brief <- ll_brief(brief_with("metrics: {revenue: sum(net)}"), lines = more)
  expect_equal(ll_standings(brief$book, "rep")$revenue[1], 70.6)
})

test_that("mistakes are named with their line", {
  cases <- list(
    "unknown key 'metrix' \\(line 2\\).*Nearest: 'metrics'" = "metrix: {a: sum(net)}",
    "no readable YAML.*line 2" = "metrics: [a",
    "needs names and values under 'metrics' \\(line 2\\)" = "metrics: sum(net)",
    "page 'p' \\(line 2\\) without a study" = "pages: {p: {each: rep}}",
    "unknown study.*no study called 'standing'.*Nearest: 'standings'" = "pages: {p: {study: standing, each: rep}}",
    "unknown key 'topp' on page 'p'.*Nearest: 'top'" = "pages: {p: {study: standings, each: rep, topp: 3}}",
    "wrong value on page 'p'.*'top' must be a whole number" = "pages: {p: {study: standings, each: rep, top: 0}}")
  for (pattern in names(cases)) {
    e <- expect_error(ll_brief(brief_with(cases[[pattern]])), class = "ll_error_brief", info = pattern)
    expect_match(gsub("\n", " ", conditionMessage(e)), pattern)
  }
  expect_error(ll_brief("nowhere.yml"), class = "ll_error_file")
  expect_error(ll_brief(brief_with("metrics: {a: sum(nett)}")), "Nearest: 'net'", class = "ll_error_formula")
})

test_that("nothing in a brief is run", {
  trap <- tempfile()
  file <- brief_with(paste0("title: !expr file.create('", trap, "')"), "metrics: {revenue: sum(net)}")
  try(ll_brief(file), silent = TRUE)
  expect_false(file.exists(trap))
})
