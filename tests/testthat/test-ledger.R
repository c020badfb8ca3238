# The ledger's totals: met to the last decimal or the first thing that is said, everywhere.

ledger_lines <- function(seed) {
  withr::with_seed(seed, data.frame(order_no = paste0("N", 1:60),
                                    day = as.Date("2026-01-01") + sample(120, 60, TRUE),
                                    rep = sample(c("Ida", "Tom", "Uma"), 60, TRUE),
                                    cents = sample(-2000:900000, 60)))
}

test_that("totals by period are met to the cent, and a cent off is seen", {
  for (seed in some_of(1:60, 3)) {
    lines <- ledger_lines(seed)
    lines$net <- lines$cents / 100
    months <- tapply(lines$cents, format(lines$day, "%Y-%m"), sum)
    off <- withr::with_seed(seed, sample(c(0, 0, -1, 1, 100), length(months), TRUE))
    # Large totals too: a cent is seen beside a thousand million.
    lines$net[1] <- lines$net[1] + 1e9
    first <- match(format(lines$day[1], "%Y-%m"), names(months))
    months[first] <- months[first] + 1e11
    book <- ll_book(lines, metrics = c(revenue = "sum(net)"),
                    control = list(revenue = as.list((months + off) / 100)))
    proof <- ll_proof(ll_standings(book, "rep"))
    proof <- proof[grepl("^ledger's revenue = the book's in", proof$check), ]
    expect_identical(proof$holds, off == 0, info = seed)
    expect_identical(sub(".* ", "", proof$check), names(months))
    expect_identical(proof$found, as.vector(months) / 100)
  }
})

test_that("periods and totals that cannot be are refused with what is wrong", {
  lines <- ledger_lines(1)
  expect_error(ll_book(lines, metrics = c(n = "count()"), control = list(n = list("2026-13" = 3))),
               "'2026-13'", class = "ll_error_word")
  expect_error(ll_book(lines, metrics = c(n = "count()"),
                       control = list(n = list("2026-01" = "x"))), "control n 2026-01",
               class = "ll_error_argument")
  expect_error(ll_book(lines, metrics = c(n = "count()"), control = list(m = 3)), "no metric",
               class = "ll_error_word")
  expect_error(ll_book(lines, metrics = c(n = "count()"), control = list(3)), "named totals",
               class = "ll_error_argument")
})

test_that("what does not hold is said first: on the terminal, in the record, on the report", {
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  lines <- ledger_lines(2)
  lines$net <- lines$cents / 100
  utils::write.csv(lines[c("order_no", "day", "rep", "net")], file.path(folder, "l.csv"),
                   row.names = FALSE)
  january <- sum(lines$cents[lines$day < as.Date("2026-02-01")]) / 100
  brief <- function(total) {
    writeLines(c("lines: l.csv", "metrics: {revenue: sum(net)}", "control:", "  revenue:",
                 sprintf("    2026-01: %.2f", total),
                 "pages: {reps: {study: standings, each: rep}, months: {study: trend}}"),
               file.path(folder, "longladder.yml"))
  }
  withr::local_dir(folder)
  brief(january)
  expect_identical(command("standings", "--each", "rep")$status, 0L)
  expect_identical(command("run", "--out", "good")$status, 0L)
  record <- jsonlite::read_json("good/record.json", simplifyVector = TRUE)
  expect_identical(record$pages$proof, c("", ""))
  brief(january + .01)
  for (format in c("table", "csv", "json", "line")) {
    got <- command("standings", "--each", "rep", "--format", format)
    expect_identical(got$status, 2L)
    expect_match(got$err,
                 "^longladder: The proof does not hold: ledger's revenue = the book's in 2026-01")
    if (format == "table") expect_match(got$out[1], "^The proof does not hold: ledger's revenue")
  }
  got <- command("run", "--out", "bad")
  expect_identical(got$status, 2L)
  expect_match(got$out[1], "the proof does not hold")
  expect_match(got$err,
               paste0("^longladder: The proof does not hold: .*pages reps and months|^longladder: ",
                      "The proof does not hold: .*pages months and reps"))
  record <- jsonlite::read_json("bad/record.json", simplifyVector = TRUE)
  expect_match(record$pages$proof, "ledger's revenue = the book's in 2026-01")
  report <- readLines("bad/report.html", encoding = "UTF-8")
  expect_lt(grep("id=\"unproven\"", report)[1], grep("id=\"found\"", report)[1])
})

test_that("a line of a proof that is no yes is never counted as one", {
  proof_line <- internal("proof_line")
  proof <- rbind(proof_line("a", 1, 1), proof_line("b", Inf, Inf), proof_line("c", 1, 2),
                 proof_line("d", NA, 2), proof_line("e", 1, 1, holds = NA))
  made <- internal("new_result")("standings", data.frame(x = 1), list(),
                                 internal("new_columns")("x", "number"), "Found.", "Read.",
                                 internal("new_notes")(), proof, book = small_book())
  expect_identical(ll_proof(made)$holds, c(TRUE, FALSE, FALSE, FALSE, FALSE))
  expect_match(format(made), "^proof: 1 of 5 hold$", all = FALSE)
})
