# Like with like: a period that the lines do not cover is held against the same days, in every
# study;
# and what is known of a name outside the question.

like_book <- function(days, ...) {
  n <- length(days)
  lines <- withr::with_seed(3, data.frame(
    o = seq_len(n), day = days, k = sample(paste0("k", 1:12), n, TRUE),
    p = sample(c("x", "y", "z"), n, TRUE), area = sample(c("North", "South"), n, TRUE),
    net = round(stats::rlnorm(n, 4, .5), 2)))
  ll_book(lines, date = "day", order = "o", fields = list(o = "identifier"),
          metrics = c(revenue = "sum(net)", size = "mean(net)"), ...)
}
each_day <- function(from, to) seq(as.Date(from), as.Date(to), by = "day")
on_weekdays <- function(days) days[as.integer(format(days, "%u")) <= 5]
covered_to <- function(book, to) format(internal("covered_to")(book, as.Date(to)))

test_that("a period is covered where no more days lack lines than usually do there", {
  daily <- like_book(each_day("2024-01-01", "2025-12-29"))
  expect_identical(covered_to(daily, "2025-12-31"), "2025-12-29")
  # Where nothing is sold between the years, 29 December is the year's end.
  closed <- each_day("2023-01-02", "2025-12-29")
  closed <- closed[!format(closed, "%m-%d") %in% c("12-28", "12-29", "12-30", "12-31")]
  expect_identical(covered_to(like_book(c(closed, as.Date("2025-12-29"))), "2025-12-31"),
                   "2025-12-31")
  # Friday 29 May 2026 is the last working day of its month; Thursday is not.
  friday <- on_weekdays(each_day("2025-01-01", "2026-05-29"))
  expect_identical(covered_to(like_book(friday), "2026-05-31"), "2026-05-31")
  expect_identical(covered_to(like_book(friday[-length(friday)]), "2026-05-31"), "2026-05-28")
  # Lines of the first of each month stand for the month.
  monthly <- rep(seq(as.Date("2024-01-01"), as.Date("2026-09-01"), by = "month"), each = 5)
  expect_identical(covered_to(like_book(monthly), "2026-09-30"), "2026-09-30")
  expect_identical(covered_to(like_book(monthly), "2026-12-31"), "2026-09-01")
  # The brief may say so; a mistyped date far ahead does not.
  told <- like_book(each_day("2024-01-01", "2025-12-20"), calendar = list(covered_to = "2025-12-31"))
  expect_identical(covered_to(told, "2025-12-31"), "2025-12-31")
  stray <- like_book(c(each_day("2024-01-01", "2025-10-10"), as.Date("2062-01-01")))
  expect_identical(covered_to(stray, "2025-12-31"), "2025-10-10")
})

test_that("every study that compares takes the same days where the word is relative", {
  book <- like_book(each_day("2024-01-01", "2025-09-16"))
  lines <- as.data.frame(ll_detail(book))
  asked <- list(bridge = list(by = "p"), drill = list(), pareto = list("k"),
                quadrants = list("k", c("revenue", "size")), standings = list("k"),
                substitution = list("k", "p"), tiers = list("k", groups = 3), total = list())
  compares <- Filter(function(study) "against" %in% names(formals(paste0("ll_", study))),
                     sub("declared_", "", ls(asNamespace("longladder"), pattern = "^declared_")))
  expect_setequal(names(asked), compares)
  spans <- list(c("2025", "2024-01-01", "2024-09-16"), c("2025-Q3", "2024-07-01", "2024-09-16"),
                c("2025-09", "2024-09-01", "2024-09-16"), c("2025-H2", "2024-07-01", "2024-09-16"))
  for (study in names(asked)) for (span in spans) for (word in c("year before", "last year")) {
    if (word == "last year" && span[1] != "2025") next
    got <- do.call(paste0("ll_", study), c(list(book), asked[[study]],
                                           list(when = span[1], against = word)))
    expect_identical(unlist(ll_settings(got)$against, use.names = FALSE), span[-1],
                     info = paste(study, span[1], word))
    expect_true(all(ll_proof(got)$holds), info = study)
  }
  previous <- ll_total(book, when = "2025-Q3", against = "previous")
  expect_identical(ll_settings(previous)$against, list(from = "2025-04-01", to = "2025-06-16"))
  # What was typed stays, and the same days are told beside it, first among the notes.
  typed <- ll_tiers(book, "k", groups = 3, when = "2025", against = "2024")
  expect_identical(ll_settings(typed)$against, list(from = "2024-01-01", to = "2024-12-31"))
  expect_match(ll_finding(typed), "against all of 2024: .*Revenue is .* the same days of 2024, ")
  alike <- ll_tiers(book, "k", groups = 3, when = "2025", against = "year before")
  expect_identical(ll_notes(typed)$kind[1], "same_days")
  expect_match(ll_notes(typed)$text[1], sub("^.*?[0-9]{4}: ", "", ll_finding(alike), perl = TRUE),
               fixed = TRUE)
  before <- function(from, to) sum(lines$net[lines$day >= as.Date(from) & lines$day <= as.Date(to)])
  expect_equal(ll_total(book, when = "2025")$before, before("2024-01-01", "2024-09-16"))
})

test_that("days stand for days: months, quarters, leap years, weeks, fiscal weeks", {
  same_day <- internal("same_day")
  read <- internal("read_period")
  dates <- list(first = as.Date("2023-01-01"), last = as.Date("2025-09-16"),
                calendar = internal("plain_calendar"))
  day <- function(day, now, other) format(same_day(as.Date(day), read(now, dates), read(other, dates)))
  expect_identical(day("2025-09-16", "2025", "2024"), "2024-09-16")
  expect_identical(day("2024-02-29", "2024", "2023"), "2023-02-28")
  expect_identical(day("2025-02-28", "2025", "2024"), "2024-02-29")
  expect_identical(day("2025-08-31", "2025-Q3", "2025-Q2"), "2025-05-31")
  expect_identical(day("2025-03-30", "2025-03", "2025-02"), "2025-02-28")
  expect_identical(day("2025-03-31", "2025-03", "2025-02"), "2025-02-28")
  expect_identical(day("2025-09-10", "2025-W37", "2024-W37"), "2024-09-11")
  # Every day of a year stands for one of the year before, none is left out but 29 February.
  days <- each_day("2025-01-01", "2025-12-31")
  back <- vapply(days, function(d) format(same_day(d, read("2025", dates), read("2024", dates))), "")
  expect_identical(setdiff(format(each_day("2024-01-01", "2024-12-31")), back), "2024-02-28")
  fiscal <- c(dates[1:2], list(calendar = internal("check_calendar")(
    list(fiscal_start = "february", weeks = "4-4-5", week_starts = "sunday"))))
  now <- read("this fiscal year to date", fiscal)
  before <- internal("like_compared")(
    list(days = each_day("2023-01-01", "2025-09-16"), unit = "day", calendar = fiscal$calendar,
         source = new.env(), date = "day"), "year before", now, fiscal)$before
  expect_identical(as.integer(before$to - before$from), as.integer(now$to - now$from))
  expect_identical(format(before$from), format(read("FY2025", fiscal)$from))
})

test_that("weeks are held against the same week, halves are periods, a feast from its day", {
  book <- like_book(each_day("2024-01-01", "2026-09-16"),
                    calendar = list(events = list("spring fair" = c("2025-04-20", "2026-04-05"))))
  against <- function(...) unlist(ll_settings(ll_total(book, ...))$against, use.names = FALSE)
  expect_identical(against(when = "2026-W14"), c("2025-03-31", "2025-04-06"))
  expect_identical(against(when = "2026-W14", against = "previous"), c("2026-03-23", "2026-03-29"))
  expect_identical(against(when = "2026-W38"), c("2025-09-15", "2025-09-17"))
  expect_identical(against(when = "last 2 weeks"), c("2025-09-01", "2025-09-14"))
  expect_identical(against(when = "2026-H1"), c("2025-01-01", "2025-06-30"))
  expect_identical(against(when = "H2"), c("2025-07-01", "2025-09-16"))
  expect_identical(against(when = "last 12 months", against = "previous"),
                   c("2024-09-01", "2025-08-31"))
  expect_identical(against(when = "2026-03-22/2026-04-11", against = "spring fair"),
                   c("2025-04-06", "2025-04-26"))
  expect_identical(against(when = "spring fair 2026"), rep("2025-04-20", 2))
  expect_match(paste(ll_notes(ll_total(book, when = "2026-04-01/2026-04-10"))$text, collapse = " "),
               "Spring fair lies in only one of the two periods; against = 'spring fair'")
  expect_error(ll_total(book, when = "2025-04", against = "spring fair"), "no 'spring fair' before",
               class = "ll_error_word")
  expect_error(ll_book(data.frame(day = as.Date("2026-01-01"), x = 1),
                       calendar = list(events = list(fair = "soon"))), "dates such as",
               class = "ll_error_argument")
})

test_that("a part of a date that is incomplete says so beside the others", {
  book <- like_book(each_day("2024-01-01", "2025-09-16"))
  got <- ll_standings(book, "year(day)", when = NULL)
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "In 2025 to 16 September revenue was .* the same days of 2024")
  expect_match(ll_finding(ll_versus(book, "year(day)", c("2024", "2025"), by = "p")),
               "2025 (to 16 September)", fixed = TRUE)
})

test_that("a territory whose last month is missing is told, and which days all have", {
  for (seed in some_of(1:6, 2)) {
    n <- 3000
    lines <- withr::with_seed(seed, data.frame(
      day = as.Date("2024-01-01") + sample(800, n, TRUE), net = round(stats::rlnorm(n, 3, 1), 2),
      area = sample(c("North", "South", "East", "West"), n, TRUE),
      channel = sample(c("web", "shop"), n, TRUE)))
    last <- max(lines$day)
    book <- function(d) ll_book(d, date = "day", metrics = c(revenue = "sum(net)"))
    late <- function(x) x$text[x$kind == "late"]
    when <- format(last, "%Y")
    expect_length(late(ll_notes(ll_total(book(lines), when = when))), 0)
    cut <- lines[!(lines$area == "East" & lines$day > last - 31), ]
    after <- max(cut$day[cut$area == "East"])
    got <- ll_total(book(cut), when = when)
    expect_match(late(ll_notes(got)), paste0("^Area East has no lines after .*", format(after, "%Y"),
                                             ", the others go on to .*when = '", when,
                                             "-01-01/", after, "'[.]$"))
    expect_identical(ll_notes(got)$kind[1], "late")
    found <- ll_check(book(cut))
    expect_match(found$examples[found$finding == "no lines in the last days"], paste("East after", after))
    # Told only of what is asked for.
    expect_length(late(ll_notes(ll_total(book(cut), when = when, where = "area == 'North'"))), 0)
    expect_length(late(ll_notes(ll_total(book(cut), when = "2024"))), 0)
    thin <- lines[!(lines$day > last - 12 & lines$day < last), ]
    expect_match(late(ll_notes(ll_total(book(thin), when = when))), "^The book has (no|hardly any) lines")
  }
})

test_that("waves, weekends and seasons are not taken for late lines", {
  late_days <- internal("late_days")
  withr::with_seed(5, for (rate in c(.2, 1, 5, 40)) for (wave in c(1, 4)) {
    false <- mean(replicate(60, {
      day <- 1:640
      mean <- rate * (1 + .4 * sin(day / 58)) * (day %% 7 > 1)
      late_days(stats::rnbinom(640, mu = mean + 1e-9, size = (mean + 1e-9) / wave)) > 0
    }))
    expect_lt(false, .05)
  })
  expect_identical(late_days(c(rep(6, 400), rep(0, 12))), 12L)
  expect_identical(late_days(numeric(10)), 0L)
})

test_that("who has lines elsewhere is not gone, whatever the filter is of", {
  lines <- data.frame(
    o = 1:9, k = c("a", "a", "b", "b", "c", "c", "d", "e", "e"),
    rep = c("R1", "R2", "R1", "R1", "R1", "R2", "R1", "R2", "R1"),
    item = c("x", "y", "x", "x", "x", "x", "x", "x", "x"), net = 10,
    day = as.Date(c("2024-03-01", "2025-03-01", "2024-03-01", "2025-03-01", "2024-03-01",
                    "2025-04-01", "2024-03-01", "2024-05-01", "2025-05-01")))
  book <- ll_book(lines, date = "day", order = "o", fields = list(o = "identifier"),
                  metrics = c(revenue = "sum(net)"))
  got <- ll_lapsed(book, "k", active = "2024", inactive = "2025", where = "rep == 'R1'")
  expect_identical(stats::setNames(got$status, got$k)[c("a", "c", "d")],
                   c(a = "elsewhere", c = "elsewhere", d = "gone"))
  expect_identical(got$elsewhere[match(c("a", "c", "d"), got$k)], c("R2", "R2", NA))
  expect_identical(format(got$elsewhere_since[match("c", got$k)]), "2025-04-01")
  expect_match(ll_finding(got), "1 gone, 2 with lines elsewhere in the book; .*brought 30.00")
  whole <- ll_lapsed(book, "k", active = "2024", inactive = "2025")
  expect_identical(whole$k, "d")
  steps <- ll_bridge(book, "revenue", "k", "names", when = "2025", against = "2024",
                     where = "rep == 'R1'")
  expect_identical(stats::setNames(steps$name_count, steps$step),
                   c("from elsewhere" = 1L, unchanged = 1L, elsewhere = 2L, gone = 1L))
  expect_setequal(ll_bridge(book, "revenue", "k", when = "2025", against = "2024",
                            where = "rep == 'R1'")$presence,
                  c("from elsewhere", "stayed", "elsewhere", "gone"))
  # The item x is bought by a no more, and a buys y.
  item <- ll_lapsed(book, "k", active = "2024", inactive = "2025", where = "item == 'x'")
  expect_identical(item$elsewhere[item$k == "a"], "y")
  moves <- ll_part(ll_tiers(book, "k", tiers = "Low=0,High=50", when = "2025", against = "2024",
                            where = "rep == 'R1'"), "moves")
  expect_identical(moves$names[moves$tier == "elsewhere"], 2L)
  sets <- ll_sets(book, "k", sets = 'active("2024") - active("2025")', where = "rep == 'R1'")
  expect_match(ll_finding(sets), "2 of them have lines elsewhere in the book in 2025")
})

test_that("returned is not first ever between the two periods", {
  lines <- data.frame(o = 1:7, k = c("old", "old", "back", "back", "since", "since", "new"), net = 5,
                      day = as.Date(c("2024-02-01", "2025-02-01", "2023-05-01", "2025-02-01",
                                      "2024-08-01", "2025-02-01", "2025-03-01")))
  book <- ll_book(lines, date = "day", order = "o", fields = list(o = "identifier"),
                  metrics = c(revenue = "sum(net)"))
  got <- ll_bridge(book, "revenue", "k", "names", when = "2025-Q1", against = "2024-Q1")
  names <- ll_part(got, "names")
  expect_identical(stats::setNames(names$step, names$k)[c("old", "back", "since", "new")],
                   c(old = "unchanged", back = "returned", since = "new since", new = "new"))
})
