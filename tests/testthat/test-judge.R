# Sentences are claims: of random books each is worked out again by base R, see helper-judge.R.
# `make
# fuzz` judges twenty thousand.

test_that("what sentences claim is so, on books with an unfinished period, late lines and returns", {
  for (seed in some_of(c(2, 31:37), 2)) {
    told <- judge_all(seed)
    expect_gt(nrow(told), 150)
    expect_identical(told$wrong[nzchar(told$wrong)], character())
  }
})

test_that("the judge sees what is wrong", {
  expect_identical(judge_text("revenue was 1,234.50 here", "was (-?[0-9,.]+)", list(1234.5)), "")
  for (wrong in list(list(1234.4), list("x"), list(1234.5, 2)))
    expect_true(nzchar(judge_text("revenue was 1,234.50 here", "was (-?[0-9,.]+)", wrong)))
  expect_true(nzchar(judge_text("nothing", "was (.*)", list(1))))
  expect_true(judge_number("12 %", 11.6) && !judge_number("12", 12.6))
})
