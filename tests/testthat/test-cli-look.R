# A file's name alone: what it is, what was fixed, first figures, what looks wrong, what to type next.

look <- function(...) {
  lines <- utils::capture.output(status <- ll_main(c(...)))
  list(status = status, text = paste(lines, collapse = "\n"), lines = lines)
}

test_that("a file alone is told with figures that are right, and next commands that run", {
  file <- write_text(c("Doc;Pos;Datum;Kunde;Rabatt;Netto", "4001;1;02.01.2025;Hale;0,05;1.200,50",
                       "4001;2;02.01.2025;Hale;0;80,00", "4002;1;05.02.2025;Mora;0,1;19,50",
                       "Summe;;;;;1.300,00"))
  got <- look(file)
  expect_identical(got$status, 0L)
  expect_match(got$text, "3 lines of 6 columns, 2 January to 5 February 2025 (by Datum)", fixed = TRUE)
  expect_match(got$text, "counted   Doc")
  expect_match(got$text, "rates     Rabatt")
  expect_match(got$text, "revenue +1,300 +sum\\(Netto\\)")
  expect_match(got$text, "orders +2 ")
  expect_match(got$text, "1 grand-total row excluded")
  commands <- trimws(sub("^ *longladder ", "", grep("^    longladder ", got$lines, value = TRUE)))
  expect_length(commands, 3)
  for (command in grep("^draft", commands, value = TRUE, invert = TRUE)) {
    words <- scan(text = command, what = "", quiet = TRUE)
    expect_identical(suppressMessages(look(words)$status), 0L, info = command)
  }
})

test_that("what is to decide stands there with its command, and a brief is looked at as well", {
  wide <- write_text(c("rep,2025-01,2025-02,2025-03", "Ann,1,2,3", "Bo,4,5,6"))
  got <- look(wide)
  expect_match(got$text, "to decide\n  3 columns")
  expect_match(got$text, "none yet: no column tells an amount of all lines")
  turned <- grep("--unpivot '", grep("^    longladder", got$lines, value = TRUE), value = TRUE)
  words <- scan(text = sub("^ *longladder ", "", turned), what = "", quiet = TRUE)
  expect_match(look(words)$text, "revenue +21.00 +sum\\(amount\\)")
  brief <- look(system.file("extdata", "longladder.yml", package = "longladder"))
  expect_match(brief$text, "revenue +9,180,264")
  expect_identical(suppressMessages(look("no-such-file.csv")$status), 2L)
  empty <- write_text(character())
  expect_identical(suppressMessages(look(empty)$status), 2L)
})
