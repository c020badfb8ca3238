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

test_that("computed fields, bands, calendar, mends and repairs are read from a brief as from R", {
  file <- brief_with(
    "fields:", "  wait: {is: day - day + qty, also: [delay]}", "  rep: {same: {Ida: [Tom]}, fill: house}",
    "  qty: {fill: 0}", "bands:", "  size: {of: net, from: [0, 10, 20], labels: [small, middle, large]}",
    "  class_of: {of: revenue, each: rep, from: [40], below: minor, labels: [major]}", "calendar: {fiscal_start: april}",
    "set_aside: net < 1", "repairs: {total_rows: no}", "metrics: {revenue: sum(net), wait_sum: sum(delay)}",
    "parameters: {big: {is: 20, title: A big line}}",
    "pages: {p: {study: standings, each: rep, metrics: [revenue, wait_sum], when: FY2026}}")
  book <- ll_brief(file)$book
  got <- ll_standings(book, "rep", c("revenue", "wait_sum"), when = "FY2026")
  # Ida and Tom as one: 30.30 + 35.30 (0.10 set aside); the line without a rep is house's.
  expect_equal(got$revenue[match(c("Ida", "Uma", "house"), got$rep)], c(65.6, 35.2, 7.5))
  expect_equal(got$wait_sum[got$rep == "Uma"], 5)
  expect_true(all(ll_proof(got)$holds))
  expect_setequal(ll_standings(book, "size")$size, c("small", "middle", "large"))
  expect_equal(ll_standings(book, "class_of", "revenue")$revenue, c(65.6, 42.7))
  expect_equal(ll_standings(book, "rep", c(n = "count(net[net > big])"))$n[1], 2)
})
