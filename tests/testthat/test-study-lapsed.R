# Lapsed: by brute force in base R, gaps by diff() and median(), status by hand, odd books,
# pictures.

lapsed_lines <- function(seed = 1, n = 400) {
  withr::with_seed(seed, data.frame(
    order_no = sprintf("o%03d", seq_len(n)), day = as.Date("2024-01-01") +
    pmin(floor(rexp(n, 1 / 350)), 1000),
    k = sample(c(sprintf("k%02d", 1:60), NA), n, TRUE), net = round(rnorm(n, 40, 40), 2)))
}
lapsed_book <- function(lines = lapsed_lines(), ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension"),
          metrics = list(revenue = "sum(net)", rate = "revenue / count()"),
          registers = list(k = data.frame(k = sprintf("k%02d", 1:66), kind = rep(c("a", "b"), 33))),
          date = "day", order = "order_no", as_of = "2026-09-30", ...)
}

test_that("every column is that of a brute force over the names", {
  withr::local_seed(13)
  for (seed in some_of(1:5, 3)) {
    lines <- lapsed_lines(seed)
    got <- ll_lapsed(lapsed_book(lines), "k", active = "2024", inactive = "2025-Q2",
                     overdue_after = 1.5,
                     metrics = c("revenue", "rate"))
    own <- function(k, from = "2024-01-01", to = "2026-12-31") lines[lines$k %in% k &
                                                                     lines$day >= as.Date(from) &
                                                                     lines$day <= as.Date(to), ]
    names <- setdiff(own(unique(lines$k), "2024-01-01", "2024-12-31")$k,
                     c(own(unique(lines$k), "2025-04-01", "2025-06-30")$k, NA))
    want <- do.call(rbind, lapply(names, function(k) {
      mine <- own(k)
      days <- sort(unique(mine$day))
      gaps <- as.numeric(diff(days))
      last <- max(days)
      data.frame(k = k, at_stake = sum(mine$net[mine$day > last - 365]), last_order = last,
                 days_since = as.numeric(as.Date("2026-09-30") - last), n = length(days),
                 gap = if (length(days) >= 3) median(gaps) else NA,
                 longest = if (length(gaps)) max(gaps) else NA,
                 revenue_before = sum(own(k, "2024-01-01", "2024-12-31")$net),
                 revenue = sum(mine$net), rate = mean(mine$net))
    }))
    all <- median(vapply(sort(unique(lines$k)), function(k) { d <-
      sort(unique(own(k)$day)); if (length(d) >= 3) median(as.numeric(diff(d))) else NA }, 0),
                  na.rm = TRUE)
    want <- want[order(-want$at_stake, want$k), ]
    listed <- got[got$status != "never", ]
    expect_identical(listed$k, want$k)
    for (one in c("at_stake", "last_order", "days_since", "revenue_before", "revenue",
                  "rate")) expect_equal(listed[[one]], want[[one]], info = one)
    expect_equal(listed$order_days, want$n)
    expect_equal(listed$longest_gap, want$longest)
    expect_equal(listed$usual_interval, ifelse(is.na(want$gap), all, want$gap))
    expect_identical(listed$gap_of, ifelse(is.na(want$gap), "all", "own"))
    expect_true(all(listed$revenue_inactive == 0))
    over <- want$days_since > 1.5 * listed$usual_interval
    status <- ifelse(!over, "waiting", ifelse(!is.na(want$gap) & want$days_since <= want$longest,
                                              "overdue", "gone"))
    status[want$last_order > as.Date("2025-06-30")] <- "back"
    expect_identical(listed$status, status)
    expect_setequal(got$k[got$status == "never"], setdiff(sprintf("k%02d", 1:66), lines$k))
    expect_true(all(ll_proof(got)$holds))
    # The order of the lines does not matter.
    again <- ll_lapsed(lapsed_book(lines[sample(nrow(lines)), ]), "k", active = "2024",
                       inactive = "2025-Q2", overdue_after = 1.5, metrics = c("revenue", "rate"))
    expect_equal(as.data.frame(again), as.data.frame(got))
  }
})

test_that("a buyer of once a year is not called gone after two months; by hand", {
  lines <- data.frame(k = rep(c("yearly", "weekly", "season", "once"), c(4, 5, 5, 1)),
                      day = as.Date(c("2022-07-01", "2023-07-01", "2024-07-01", "2025-07-01",
                                      "2025-06-01", "2025-06-08", "2025-06-15", "2025-06-22",
                                      "2025-06-29", "2024-05-01", "2024-05-08", "2025-05-01",
                                      "2025-05-08", "2025-05-15", "2025-06-30")), net = 10)
  book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(revenue = "sum(net)"),
                  as_of = "2025-09-01")
  got <- ll_lapsed(book, "k", inactive = "2025-07-02/2025-09-01")
  expect_identical(stats::setNames(got$status, got$k)[c("yearly", "weekly", "season", "once")],
                   c(yearly = "waiting", weekly = "gone", season = "overdue", once = "gone"))
  expect_equal(got$usual_interval[match(c("yearly", "season", "once"), got$k)], c(365, 7, 7))
  # Of equal stakes the name decides; the year before the last line counts.
  expect_equal(got$at_stake[got$k == "yearly"], 10)
  expect_match(ll_finding(got),
               paste0("4 values of k have had no lines from 2 July to 1 September 2025: 2 ",
                      "gone, 1 overdue, 1 within the usual interval"))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               paste0("1 value of k with fewer than three days of lines is judged by the usual ",
                      "interval of all values of k, 7 days"))
  expect_identical(ll_lapsed(book, "k", inactive = "2025-07-02/2025-09-01",
                             overdue_after = 20)$status,
                   rep("waiting", 4))
})

test_that("credits, names that came back, the register under conditions, the demo's accounts", {
  lines <- rbind(lapsed_lines(), data.frame(order_no = "c1", day = as.Date("2026-08-08"), k = "k07",
                                            net = -5))
  lines <- lines[!(lines$k %in% "k07" & lines$day > as.Date("2025-09-01") & lines$net > 0), ]
  book <- lapsed_book(lines)
  said <- paste(ll_notes(ll_lapsed(book, "k"))$text, collapse = " ")
  expect_match(said,
               paste0("no revenue above zero in the inactive period, and counts? as active all ",
                      "the same:.*k07"))
  expect_true("k07" %in% ll_lapsed(book, "k", where = "net > 0")$k)
  expect_match(paste(ll_notes(ll_lapsed(book, "k", where = "net > 0"))$text, collapse = " "),
               "register cannot tell which")
  kind <- ll_lapsed(book, "k", where = "kind == \"a\"", with_fields = c("kind", "order_no"))
  expect_identical(unique(kind$kind), "a")
  expect_true("k63" %in% kind$k && !"k64" %in% kind$k)
  expect_false("never" %in% ll_lapsed(book, "k", never = "leave")$status)
  expect_lte(nrow(ll_lapsed(book, "k", top = 2)), 2)
  expect_true(all(ll_proof(kind)$holds))
  demo <- demo_book()
  stopped <- ll_lapsed(demo, "account", with_fields = "account_name")
  expect_equal(sum(stopped$status == "never"), story("stopped", "never_ordered"))
  expect_equal(sum(stopped$status != "never"), story("stopped", "silent_last_12_months"))
  expect_equal(sum(stopped$revenue_before), story("stopped", "silent_revenue"))
  expect_equal(nrow(ll_detail(stopped, row = 1)), sum(demo_lines()$account == stopped$account[1]))
})

test_that("odd books, refusals, and what is drawn", {
  book <- lapsed_book()
  lone <- ll_book(data.frame(k = c("a", "b\"c\n"), day = as.Date("2026-01-01") + c(0, 400),
                             net = c(1, 2)), fields = c(k = "dimension"),
                  metrics = list(r = "sum(net)", m = "median(net)"))
  expect_sound(list(ll_lapsed(book, "k"), ll_lapsed(lone, "k"), ll_lapsed(lone, "k", metrics = "m"),
                    ll_lapsed(book, "k", min_orders = 5),
                    ll_lapsed(book, "k", where = "k == \"k02\""),
                    ll_lapsed(book, "k", where = "kind == \"b\" & kind == \"a\""),
                    ll_lapsed(book, "k", active = "2024-01", inactive = "2024-02",
                              metrics = "rate"),
                    ll_lapsed(demo_book(), "item", inactive = "last quarter")))
  refused <- function(text, ..., class = "ll_error_argument") {
    expect_error(ll_lapsed(book, "k", ...), text, class = class)
  }
  refused("overlap: nobody is both", active = "2025", inactive = "2025-Q2")
  refused("Nothing lies before", inactive = "2024", class = "ll_error_data")
  refused("'overdue_after' must be a number from 0.1", overdue_after = 0)
  expect_error(ll_lapsed(ll_book(data.frame(k = "a", net = 1), metrics = list(r = "sum(net)")),
                         "k"), "has no date", class = "ll_error_data")
  expect_identical(command("lapsed", demo_path("order_lines.csv"), "--define", "revenue=sum(net)",
                           "--each", "acount")$status, 2L)
})
