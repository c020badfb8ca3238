# Check: every planted fault of the demo is found with its exact count; each finding against a
# brute-force look; nothing is found where nothing is wrong.

found <- function(x, finding, field = NULL) {
  x <- as.data.frame(x)
  x[x$finding == finding & (is.null(field) | x$field == (field %||% "")), ]
}

test_that("the demo's planted faults are found with their counts and money", {
  x <- ll_check(demo_book())
  lines <- demo_lines()
  told <- function(key) story("untidy", key)
  spelled <- found(x, "similar spellings", "rep")
  expect_equal(c(spelled$lines, spelled$revenue), c(told("second_spelling_lines"),
                                                    told("second_spelling_revenue")))
  gaps <- found(x, "missing values", "rep")
  expect_equal(c(gaps$lines, gaps$revenue), c(told("no_rep_lines"), told("no_rep_revenue")))
  expect_equal(found(x, "missing values", "net")$lines, told("no_net_lines"))
  expect_equal(found(x, "duplicate lines")$lines, told("duplicate_lines"))
  expect_equal(found(x, "duplicate lines")$revenue, sum(lines$net[duplicated(lines)]))
  expect_equal(found(x, "ship date before order date")$lines, told("ship_before_order_lines"))
  expect_equal(nrow(found(x, "orders under two accounts")), told("orders_under_two_accounts"))
  expect_match(found(x, "no recent lines", "channel")$examples, "^fair after 2025-10")
  expect_match(found(x, "registered, 60 accounts without lines")$field, "account")
  expect_equal(found(x, "below zero: returns and credits", "quantity")$lines, sum(lines$quantity < 0, na.rm = TRUE))
  expect_equal(nrow(found(x, "the last month is incomplete")), 1)
  expect_true(all(ll_proof(x)$holds))
  expect_false(is.unsorted(match(x$weight, c("high", "middle", "low"))))
})

test_that("the lines of brief that fix do fix", {
  brief <- readLines(demo_path("longladder.yml"))
  folder <- withr::local_tempdir()
  for (file in c("order_lines.csv", "accounts.csv", "items.csv",
                 "reps.csv")) file.copy(demo_path(file), folder)
  # The ledger's total is of the lines as they were.
  brief <- brief[!grepl("^control:|revenue: [0-9]", brief)]
  at <- grep("^fields:", brief)
  fixed <- append(brief, c("  rep: {same: similar, fill: unknown}", "  net: {fill: zero}"), at)
  fixed <- c("exclude: ship_date < order_date", fixed)
  writeLines(fixed, file.path(folder, "longladder.yml"))
  x <- ll_check(ll_brief(file.path(folder, "longladder.yml"))$book)
  for (gone in c("similar spellings", "ship date before order date"))
    expect_equal(nrow(found(x, gone)), 0)
  expect_equal(nrow(found(x, "missing values", "rep")), 0)
  expect_true(all(ll_proof(x)$holds))
})

test_that("each field's row is base R's", {
  fields <- ll_part(ll_check(demo_book()), "fields")
  lines <- demo_lines()
  for (name in names(lines)) {
    row <- fields[fields$field == name, ]
    expect_equal(row$missing, sum(is.na(lines[[name]])), info = name)
    expect_equal(row$distinct, length(unique(lines[[name]][!is.na(lines[[name]])])), info = name)
  }
  expect_equal(fields$missing_revenue[fields$field == "rep"],
               sum(lines$net[is.na(lines$rep)], na.rm = TRUE))
  expect_identical(fields$lowest[fields$field == "order_date"], "2024-01-02")
})

test_that("small books: gaps between months, names without recent lines, one name only, outliers", {
  n <- 400
  days <- as.Date("2024-01-01") + seq(0, 899, length.out = n)
  withr::local_seed(3)
  lines <- data.frame(day = days, k = ifelse(days < as.Date("2025-03-01") & seq_len(n) %% 2 == 0,
                                             "old", "new"), only = "web",
                      order_no = sprintf("N%03d", seq_len(n)), net = round(runif(n, 10, 20), 2))
  lines$net[7] <- 99999
  lines <- lines[format(lines$day, "%Y-%m") != "2025-07", ]
  x <- ll_check(ll_book(lines, metrics = c(revenue = "sum(net)")))
  expect_match(found(x, "no recent lines", "k")$examples, "old after 2025-02")
  expect_identical(found(x, "months without lines")$examples, "2025-07")
  expect_equal(found(x, "one name only", "only")$lines, nrow(lines))
  expect_match(found(x, "outliers", "net")$examples, "99999")
  stray <- rbind(lines, transform(lines[1, ], day = as.Date("2062-01-01"), order_no = "Z"))
  expect_match(found(ll_check(ll_book(stray, metrics = c(revenue = "sum(net)"))),
                     "dates far ahead of the others")$fix, "^as_of: 2026")
})

test_that("every line of brief that leaves lines out leaves out what it says, a tenth at most", {
  seen <- 0
  seeds <- some_of(1:12, 3)
  for (seed in seeds) {
    lines <- random_lines(seed, 300)
    withr::with_seed(seed, {
      lines$discount <- sample(c(0, .05, .1), 300, TRUE, c(runif(1, .02, .9), .2, .2))
      lines$units <- ifelse(seq_len(300) %% 150 == 0, 5000, 1)
      lines$shipped <- lines$day + sample(c(-3, 1:6, NA), 300, TRUE,
                                          c(runif(1, 0, .05), rep(.15, 6), .05))
    })
    open <- function(...) ll_book(lines, fields = c(order_no = "identifier"), date = "day",
                                  metrics = c(revenue = "sum(net)"), ...)
    x <- ll_check(open())
    whole <- sum(lines$net, na.rm = TRUE)
    notes <- paste(ll_notes(x)$text, collapse = " ")
    for (i in grep("^exclude: ", x$fix)) {
      seen <- seen + 1
      kept <- ll_standings(open(exclude = sub("^exclude: ", "", x$fix[i])), "rep")
      foot <- ll_part(kept, "foot")
      expect_lte(x$lines[i], 30)
      expect_lte(abs(x$revenue[i]), abs(whole) / 10 + 1e-9)
      expect_equal(whole - foot$revenue[nrow(foot)], x$revenue[i], info = paste(seed, x$fix[i]))
      expect_match(notes, paste0(x$fix[i], "; it leaves out ", x$lines[i], " line"), fixed = TRUE)
    }
    # What takes more is told without a way to leave it out.
    much <- x$lines > 30 & x$finding %in% c("zero", "below zero", "outliers")
    expect_true(all(x$fix[much] == ""))
  }
  expect_gt(seen, length(seeds))
})

test_that("outliers: planted ones are found whatever the shape, and shapes alone give few", {
  fences <- internal("outlier_fences")
  out <- function(x) {
    counted <- internal("count_values")(internal("scale_column")(x))
    ends <- fences(counted$value, counted$times)
    x < ends[1] | x > ends[2]
  }
  shapes <- list(normal = function(n) round(rnorm(n, 50, 8), 2),
                 long = function(n) round(exp(rnorm(n, 3, 1.2)), 2),
                 ones = function(n) 1 + rpois(n, .1), counts = function(n) rpois(n, 4),
                 zeros = function(n) ifelse(runif(n) < .8, 0, rpois(n, 3)),
                 one = function(n) rep(1, n), returns = function(n) round(exp(rnorm(n, 3, 1)) *
                                                                          sample(c(-1, 1, 1, 1), n,
                                                                                 TRUE), 2), rates =
                 function(n) sample(c(0, .05, .1), n, TRUE, c(.9, .05, .05)))
  for (name in names(shapes)) withr::with_seed(8, {
    x <- shapes[[name]](20000)
    expect_lte(sum(out(x)), 4, label = name)
    planted <- c(x, 2e6, 3e6)
    expect_true(all(utils::tail(out(planted), 2)), label = name)
    if (any(x < 0)) expect_true(utils::tail(out(c(x, -2e6)), 1), label = name)
  })
  # Units among ones, of which a few hundred are large: all of those are outliers, the greatest too.
  units <- c(rep(1, 5e5), withr::with_seed(2, sample(22:32623, 693)), 32623)
  expect_equal(sum(out(units)), 694)
  expect_identical(out(-units), out(units))
})

test_that("mistyped dates at both ends are told, and change nothing else", {
  for (seed in some_of(1:6, 2)) {
    lines <- withr::with_seed(seed, data.frame(
      day = as.Date("2024-01-01") + sample(800, 900, TRUE),
      item = sample(sprintf("i%03d", 1:90), 900, TRUE),
      net = round(runif(900, 5, 50), 2)))
    lines <- lines[!(lines$item < "i020" & lines$day > as.Date("2025-08-01")), ]
    open <- function(lines) ll_book(lines, metrics = c(revenue = "sum(net)"))
    plain <- as.data.frame(ll_check(open(lines)))
    stray <- lines[c(1, 2), ]
    stray$day <- as.Date(c("2106-03-01", "1900-01-01"))
    got <- as.data.frame(ll_check(open(rbind(lines, stray))))
    expect_equal(got$lines[grepl("^dates far", got$finding)], c(1, 1))
    expect_match(got$fix[got$finding == "dates far ahead of the others"],
                 paste0("as_of: ", max(lines$day)))
    same <- function(x) x[x$finding %in% c("no recent lines", "months without lines",
                                           "the last month is incomplete", "the first month is incomplete"),
                          c("finding", "field", "examples")]
    expect_equal(same(got), same(plain), ignore_attr = TRUE)
    # Who stopped, by brute force.
    last <- tapply(as.numeric(lines$day), lines$item, max)
    pause <- tapply(as.numeric(lines$day), lines$item, function(d) max(0, diff(sort(unique(d)))))
    months <- tapply(format(lines$day, "%Y-%m"), lines$item, function(m) length(unique(m)))
    silent <- as.numeric(max(lines$day)) - last
    stopped <- names(last)[silent > pmax(92, pause) & months >= 6]
    row <- plain[plain$finding == "no recent lines", ]
    expect_equal(sum(row$lines), sum(lines$item %in% stopped))
  }
})

test_that("a clean book, one line, all missing, refusals, and every shape draws", {
  clean <- ll_book(data.frame(k = rep(c("a", "b"), 4), n = 1:8,
                              net = c(5.5, 6, 7, 5, 6.5, 7.5, 8, 5)), fields = c(n = "identifier"),
                   metrics = c(revenue = "sum(net)"))
  x <- ll_check(clean)
  expect_equal(nrow(x), 0)
  expect_match(ll_finding(x), "^Nothing looks wrong in 8 lines")
  one <- ll_check(ll_book(data.frame(k = "a", day = as.Date("2026-01-15"), e = NA, net = 1.5),
                          metrics = c(revenue = "sum(net)")))
  expect_match(paste(one$finding, collapse = " "), "no values at all")
  expect_error(ll_check(small_book(), "average"), "adds up", class = "ll_error_argument")
  expect_error(ll_check(small_book(), "revenu"), "Nearest: 'revenue'", class = "ll_error_word")
  got <- command("check", "--brief", demo_path("longladder.yml"), "--format", "json")
  expect_equal(jsonlite::fromJSON(got$out)$study, "check")
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (shape in list(x, one, ll_check(demo_book()))) expect_silent(plot(shape))
})

test_that("a bare file is checked by its lines; bounds offered are round and part the same values",
          {
  lines <- withr::with_seed(2, data.frame(k = sample(c("Vogt", "vogt", "Lang"), 400, TRUE),
                                          units = c(sample(9, 395, TRUE), rep(5000, 4), 12345.6789),
                                          net = round(rlnorm(400, 3, 1), 2)))
  got <- ll_check(ll_book(lines))
  expect_match(ll_finding(got), "first: similar spellings in k \\([0-9]+ lines\\)\\.")
  expect_no_match(paste(ll_finding(got), ll_reading(got),
                        paste(ll_notes(got)$text, collapse = " ")), "line count")
  far <- ll_notes(got)$text[grepl("^Outliers \\(units\\)", ll_notes(got)$text)]
  bound <- as.numeric(sub(".*units > ([0-9.e+]+);.*", "\\1", far))
  expect_identical(signif(bound, 1), bound)
  expect_match(far, paste0("it leaves out ", sum(lines$units > bound), " lines."), fixed = TRUE)
  quiet <- ll_check(ll_book(data.frame(k = c("a", "b"), net = 1:2)))
  expect_match(ll_finding(quiet), "^Nothing looks wrong in 2 lines")
})
