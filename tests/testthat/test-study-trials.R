# What trials found wrong in single studies, each as its class.

test_that("bands above 100 % are what was typed, on the command and in R", {
  file <- write_text("rep,net", paste0(letters[1:6], ",", c(100, 100, 100, 95, 112, 60)))
  bands <- function(...) {
    out <- command("benchmark", file, "--define", "revenue=sum(net)", "--each", "rep", "--fixed",
                   "100", "--format", "json", ...)
    jsonlite::fromJSON(paste(out$out, collapse = "\n"))$parts$bands$band
  }
  want <- c("110 % and above", "100 to 110 %", "80 to 100 %", "below 80 %")
  expect_identical(bands("--bands", "80,100,110"), want)
  expect_identical(bands("--bands", "80%,100%,110%"), want)
  book <- ll_book(file, metrics = c(revenue = "sum(net)"))
  for (given in list(c(.8, 1, 1.1), c(80, 100, 110), "80,100,110", c("80 %", "100 %", "110 %")))
    expect_identical(ll_part(ll_benchmark(book, "rep", fixed = 100, bands = given), "bands")$band,
                     want)
})

test_that("nobody is gone within the longest gap of their own, two days of lines included", {
  for (seed in some_of(1:40, 3)) {
    withr::local_seed(seed)
    days <- lapply(1:12, function(i) sort(sample(600, sample(1:5, 1))))
    lines <- data.frame(k = rep(letters[1:12], lengths(days)),
                        day = as.Date("2024-01-01") + unlist(days), net = 1)
    book <- ll_book(lines, metrics = c(revenue = "sum(net)"), as_of = "2025-09-30")
    got <- tryCatch(ll_lapsed(book, "k", inactive = "last 90 days"), ll_error = function(e) NULL)
    if (is.null(got) || !nrow(got)) next
    longest <- vapply(got$k, function(k) {
      gaps <- diff(sort(unique(lines$day[lines$k == k])))
      if (length(gaps)) max(as.numeric(gaps)) else NA_real_
    }, 0)
    expect_equal(got$longest_gap, unname(longest), info = seed)
    within <- !is.na(longest) & got$days_since <= longest
    expect_false(any(got$rhythm[within] == "gone"), info = seed)
  }
})

test_that("where no order is known, nothing is said of orders", {
  lines <- small_lines()[c("day", "rep", "area", "qty", "net")]
  book <- ll_book(lines, metrics = list(revenue = "sum(net)", each_one = "sum(net) / sum(qty)"))
  asked <- list(ll_standings(book, "rep", "each_one", min_orders = 2),
                ll_standings(book, "rep", "each_one"), ll_holders(book, "rep", "each_one",
                                                                  within = "area"),
                ll_holders(book, "rep", "each_one", min_orders = 3),
                ll_benchmark(book, "rep", "each_one"), ll_benchmark(book, "rep", "each_one",
                                                                    min_orders = 3),
                ll_score(book, "rep", c("revenue", "each_one"), min_orders = 3),
                ll_quadrants(book, "rep", c("revenue", "each_one"), min_orders = 3),
                ll_portrait(book, "rep", "Ida"))
  for (x in asked) expect_no_match(c(ll_finding(x), ll_reading(x), ll_notes(x)$text), "\\border")
})

test_that("whitespace tells the last day outside the period", {
  for (seed in some_of(1:25, 3)) {
    withr::local_seed(seed)
    lines <- data.frame(k = sample(letters[1:8], 150, TRUE), p = sample(LETTERS[1:5], 150, TRUE),
                        day = as.Date("2025-01-01") + sample(700, 150, TRUE),
                        net = sample(c(-5, 5, 10), 150, TRUE))
    got <- ll_whitespace(ll_book(lines, metrics = c(revenue = "sum(net)")), "k", "p", when = "2026",
                         buyers = 2, gap = "none")
    last <- mapply(function(k, p) {
      d <- lines$day[lines$k == k & lines$p == p & format(lines$day, "%Y") != "2026"]
      if (length(d)) as.numeric(max(d)) else NA_real_
    }, got$k, got$p)
    if (nrow(got)) expect_equal(as.numeric(got$last_bought), unname(last), info = seed)
  }
})

test_that("a share of new ones is told only where it is known of all whether they are new", {
  lines <- data.frame(k = c("a", "b", "c", "a", "d"),
                      day = as.Date(c("2025-01-05", "2025-02-01", "2025-03-01", "2026-01-05",
                                      "2026-02-01")), net = 1:5)
  since <- data.frame(k = c("a", "b", "c", "d"), since = as.Date(c("2020-01-01", NA, NA, NA)))
  got <- ll_cohorts(ll_book(lines, registers = list(k = since), metrics = c(revenue = "sum(net)")),
                    "k", every = "year")
  expect_equal(got$new_share, c(NA, 5 / 9))
  all <- transform(since, since = as.Date("2020-01-01"))
  got <- ll_cohorts(ll_book(lines, registers = list(k = all[1:3, ]),
                            metrics = c(revenue = "sum(net)")), "k", every = "year")
  expect_equal(got$new_share, c(0, 5 / 9))
})

test_that("names rise and fall between tiers only when they have lines then and now", {
  for (seed in some_of(1:25, 3)) {
    withr::local_seed(seed)
    lines <- data.frame(k = sample(letters, 60, TRUE), day = as.Date("2025-01-01") +
                        c(0, 729, sample(729, 58, TRUE)), net = sample(100, 60, TRUE))
    got <- ll_tiers(ll_book(lines, metrics = c(revenue = "sum(net)"),
                            calendar = list(covered_to = "2026-12-31")), "k",
                    tiers = c(low = 0, mid = 60, high = 120), when = "2026", against = "2025")
    tier <- function(year) {
      part <- lines[format(lines$day, "%Y") == year, ]
      vapply(split(part$net, part$k), function(v) findInterval(sum(v), c(0, 60, 120)), 0L)
    }
    then <- tier("2025")
    now <- tier("2026")
    both <- intersect(names(then), names(now))
    expect_match(ll_finding(got), paste0("; ", sum(now[both] > then[both]), " rose and ",
                                         sum(now[both] < then[both]), " fell"), info = seed)
  }
})

test_that("lines without a name are a row of their own in a portrait", {
  lines <- data.frame(k = "a", p = c(LETTERS[1:8], NA), net = 9:1)
  got <- ll_portrait(ll_book(rbind(lines, transform(lines, k = "b")),
                             metrics = c(revenue = "sum(net)")), "k", "a", top = 3)
  part <- as.data.frame(got)
  expect_equal(part$revenue[part$name == "(none)"], 1)
  expect_equal(part$revenue[grepl("^everyone else", part$name)], sum(6:2))
})

test_that("shares of lines, orders and amounts change by points", {
  shares <- c(late = "count(net[qty > 2]) / count(net)", held = "count(net) / count()",
              moor = "sum(net[area == \"Moor\"]) / sum(net)",
              orders = "distinct(order_no[qty > 1]) / distinct(order_no)")
  other <- c(each_one = "count() / distinct(order_no)", price = "sum(net) / sum(qty)")
  book <- ll_book(small_lines(), metrics = c(shares, other))
  units <- vapply(book$metrics, `[[`, "", "unit")
  expect_identical(unname(units[names(shares)]), rep("percent", 4))
  expect_false(any(units[names(other)] == "percent"))
  got <- ll_trend(book, "late")
  expect_true("late_change" %in% names(got))
})

test_that("lines of one order count once in what is left of an association", {
  share_beyond <- internal("share_beyond")
  withr::local_seed(11)
  orders <- data.frame(o = paste0("N", 1:400), g = sample(letters[1:4], 400, TRUE))
  orders$f <- paste0(orders$g, sample(1:6, 400, TRUE))
  orders$net <- round(100 + 40 * match(orders$g, letters) + rnorm(400, 0, 20), 2)
  left <- function(lines, order) {
    got <- ll_associations(ll_book(lines, metrics = c(revenue = "sum(net)"), order = order,
                                   fields = c(o = "identifier")), by = c("g", "f"))
    pairs <- ll_part(got, "pairs")
    pairs$left[pairs$field == "f" & pairs$given == "g"]
  }
  alone <- left(orders, NULL)
  again <- left(orders[rep(1:400, each = 5), ], "o")
  expect_lt(abs(alone - again), .03)
})

test_that("lines without a date are told where periods are asked for", {
  lines <- small_lines()
  lines$day[c(1, 3)] <- NA
  book <- ll_book(lines, metrics = list(revenue = "sum(net)"), date = "day")
  told <- "2 lines have no day, with 40.40 of revenue; they are in no period."
  for (x in list(ll_trend(book), ll_standings(book, "rep", when = "2026"),
                 ll_cohorts(book, "rep", every = "month", since = "none")))
    expect_true(told %in% ll_notes(x)$text)
  expect_false(any(grepl("no period", ll_notes(ll_standings(book, "rep"))$text)))
})

test_that("a misspelt name is refused where it is typed, and told where a brief has it", {
  book <- small_book(fields = list(who = list(is = "ifelse(rep == \"Idda\", \"a\", \"b\")")))
  for (formula in c("sum(net[rep == \"Idda\"])", "sum(ifelse(rep != \"Idda\", net, 0))",
                    "count(per(order_no, sum(net[rep %in% c(\"Ida\", \"Idda\")]))[it > 3])"))
    expect_error(ll_standings(book, "area", c(m = formula)),
                 "No rep is called 'Idda'.*Nearest: 'Ida'", class = "ll_error_word")
  expect_error(ll_standings(book, "who"), "No rep is called 'Idda'", class = "ll_error_word")
  expect_error(ll_sets(book, "rep", c(a = "having(sum(net[area == \"Fenn\"]) > 3)")),
               "No area is called 'Fenn'", class = "ll_error_word")
  folder <- withr::local_tempdir()
  utils::write.csv(small_lines(), file.path(folder, "l.csv"), row.names = FALSE)
  brief <- file.path(folder, "longladder.yml")
  writeLines(c("lines: l.csv", "metrics: {m: 'sum(net[rep == \"Idda\"])', revenue: sum(net)}",
               "pages: {reps: {study: standings, each: rep}}"), brief)
  told <- function(metric) ll_notes(ll_standings(ll_brief(brief)$book, "rep", metric))$text
  expect_match(told("m"), paste("No rep is called 'Idda' (nearest: 'Ida'), which a formula names:",
                                "it counts no line."), fixed = TRUE, all = FALSE)
  expect_no_match(told("revenue"), "Idda")
})

test_that("where no order is known nothing is said of orders, in any table, sentence or note", {
  lines <- random_lines(2, 300)
  lines$order_no <- NULL
  lines$part <- withr::with_seed(5, sample(letters[1:5], nrow(lines), TRUE))
  book <- ll_book(lines, metrics = c(revenue = "sum(net)", average = "sum(net) / count()"),
                  date = "day", fields = c(part = "dimension"))
  asked <- list(
    ll_standings(book, "rep", c("revenue", "average"), when = "2025-Q4", against = "previous",
                 min_orders = 2), ll_check(book), ll_crosstab(book, "rep", "area", "average"),
    ll_trend(book, "average", rolling = 2), ll_distribution(book, metrics = "revenue",
                                                            each = "rep"),
    ll_portrait(book, "rep", "Ann", c("revenue", "average")),
    ll_versus(book, "rep", c("Ann", "Cy"), "area", "average"),
    ll_holders(book, metrics = "revenue", within = "area"),
    ll_holders(book, "rep", "average", within = "area"),
    ll_benchmark(book, "rep", "average", min_orders = 2), ll_score(book, "rep",
                                                                   c("revenue", "average"),
                                                                   draws = 50, min_orders = 2),
    ll_pareto(book, "rep"),
    ll_quadrants(book, "rep", c("revenue", "average"), min_orders = 2),
    ll_total(book, c("revenue", "average"), when = "2025-Q4", against = "previous"),
    ll_tiers(book, "rep", tiers = c(low = 0, high = 900)),
    ll_cohorts(book, "rep", "revenue", every = "quarter"),
    ll_lapsed(book, "rep", inactive = "last 30 days"), ll_sets(book, "rep", c(a = "active('2025')"),
                                                               metrics = "revenue"),
    ll_whitespace(book, "rep", "part", "revenue"),
    ll_bridge(book, "revenue", by = "area", when = "2025-Q4", against = "previous"),
    ll_drill(book, "revenue", when = "2025-Q4", against = "previous"),
    ll_substitution(book, "rep", "part", "revenue", when = "2025-Q4", against = "previous"),
    ll_associations(book, metrics = "revenue"), ll_detail(book, top = 5))
  for (x in asked) expect_no_match(c(format(x, width = 120), names(x)), "order", info = class(x)[1])
})
