# A finding is read alone: whatever narrowed the question stands in it, in every study.

lead_book <- function(from = "2024-01-01", days = 700) {
  lines <- withr::with_seed(6, data.frame(
    o = sample(500, 1500, TRUE), k = sample(c(paste0("k", 1:30), NA), 1500, TRUE),
    p = sample(paste0("p", 1:6), 1500, TRUE),
    net = round(rlnorm(1500, 3, 1), 2),
    cost = round(rlnorm(1500, 2, 1), 2),
    channel = sample(c("web", "fair"), 1500, TRUE), day = as.Date(from) + sample(days, 1500, TRUE)))
  ll_book(lines, date = "day", order = "o", fields = list(o = "identifier"),
          metrics = c(revenue = "sum(net)", rate = "(sum(net) - sum(cost)) / sum(net)"))
}

# What each study needs beside the narrowing.
needed <- list(
  associations = list("k"), benchmark = list("k"), bridge = list(by = "p"), cohorts = list("k"),
  crosstab = list("p", "channel"), detail = list(), distribution = list("k"),
  drill = list(),
  holders = list("k"), lapsed = list("k"), pareto = list("k"), payout = list("k", rates = "0=2%"),
  portrait = list("k", "k1"), quadrants = list("k", c("revenue", "rate")),
  score = list("k", c("revenue", "rate")), sets = list("k", sets = "active(2024)"),
  standings = list("k"), substitution = list("k", "p"), tiers = list("k", groups = 3),
  total = list(), trend = list(),
  versus = list("p", c("p1", "p2"), "k"), whitespace = list("k", "p"))

told <- function(study, book, ...) ll_finding(do.call(paste0("ll_", study),
                                                      c(list(book), needed[[study]], list(...))))

test_that("every study says the period, the condition and the fewest orders that narrowed it", {
  book <- lead_book()
  all <- ls(asNamespace("longladder"), pattern = "^declared_")
  expect_setequal(sub("declared_", "", all), c(names(needed), "check"))
  for (study in names(needed)) {
    takes <- names(formals(paste0("ll_", study)))
    plain <- told(study, book)
    expect_false(grepl("where channel|at least 2 orders", plain), info = study)
    if ("where" %in% takes) expect_match(told(study, book, where = "channel != 'fair'"),
                                         "where channel is not fair: ", info = study,
                                         ignore.case = TRUE)
    if ("min_orders" %in% takes) expect_match(told(study, book, min_orders = 2),
                                              "of k[a-z]* with at least 2 orders: ", info = study,
                                              ignore.case = TRUE)
    if ("when" %in% takes)
      expect_match(told(study, book, when = "2025-Q1", where = "net > 5"),
                   if (study == "trend") "^Where net above 5: revenue in 2025-03" else
                     "^In Q1 2025, (against .*, )?where net above 5: ", info = study)
  }
  # The names that are held against each other are in the finding already.
  expect_no_match(told("versus", book, where = "net > 5"), "p is p1")
})

test_that("a change says both periods, and which part of them the lines cover", {
  book <- lead_book()   # 2 January 2024 to 1 December 2025
  lead <- function(..., of = book) sub(": .*", "", told("bridge", of, ...))
  expect_identical(lead(when = "2025", against = "2024"),
                   "In 2025 to 1 December, against all of 2024")
  expect_identical(lead(when = "2025-Q2", against = "year before"),
                   "In Q2 2025, against Q2 2024")
  expect_identical(lead(when = "2025-03", against = "previous"),
                   "In March 2025, against February 2025")
  expect_identical(lead(), "From 1 January to 1 December 2025, against the same days of 2024")
  expect_identical(lead(when = "2025-03-05/2025-04-10", against = "previous"),
                   "From 5 March to 10 April 2025, against 27 January to 4 March 2025")
  expect_identical(lead(when = "2025-W10", against = "year before"),
                   "In week 10 of 2025, against week 10 of 2024")
  expect_identical(lead(when = "2025-05-05", against = "2024-05-05"),
                   "On 5 May 2025, against the same days of 2024")
  late <- lead_book("2024-02-20")
  expect_match(lead(when = "2025-Q1", against = "2024-Q1", of = late),
               "^In Q1 2025, against only 2[0-9] February to 31 March 2024$")
  expect_match(told("tiers", book, when = "2025", against = "2024"),
               "^In 2025 to 1 December, against all of 2024: .* rose and ")
})
