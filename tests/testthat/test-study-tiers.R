# Tiers: by hand, against SQL, bounds and ties at the edge, moves, refusals, and what is drawn.

tiers_book <- function(net, ...) {
  ll_book(data.frame(k = sprintf("n%02d", seq_along(net)), day = as.Date("2026-01-01"), net = net),
          fields = c(k = "dimension", net = "measure"), metrics = list(revenue = "sum(net)"), ...)
}

test_that("lower bounds by hand: on a bound is in, or still below; the way up and down", {
  book <- tiers_book(c(0, 4999.99, 5000, 20000, -3))
  ask <- function(...) ll_tiers(book, "k", c(Copper = 0, Brass = 5000, Silver = 20000), ...)
  got <- ask(below = "returned more")
  expect_identical(got$k, c("n04", "n03", "n02", "n01", "n05"))
  expect_identical(got$tier, c("Silver", "Brass", "Copper", "Copper", "returned more"))
  expect_equal(got$to_next, c(NA, 15000, .01, 5000, 3))
  expect_equal(got$to_fall, c(0, 0, 4999.99, 0, NA))
  expect_identical(ask(at_bound = "below")$tier, c("Brass", "Copper", "Copper", "below 0",
                                                   "below 0"))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "3 values of k lie exactly on a bound: in the tier above it")
  held <- ll_part(got, "tiers")
  expect_equal(held$names, c(1, 1, 2, 1))
  expect_equal(held$value, c(20000, 5000, 4999.99, -3))
  # Sums that fractions of the computer would leave beside the bound.
  thirds <- ll_book(data.frame(k = "a", net = rep(.1, 3)), fields = c(k = "dimension"),
                    metrics = list(revenue = "sum(net)"))
  expect_identical(ll_tiers(thirds, "k", c(low = 0, up = .3))$tier, "up")
})

test_that("tiers and equal groups are those of SQL", {
  con <- local_sqlite()
  for (seed in some_of(1:8, 3)) {
    lines <- withr::with_seed(seed, data.frame(k = sample(sprintf("c%02d", 1:37), 300, TRUE),
                                               net = round(rnorm(300, 40, 60), 2)))
    DBI::dbWriteTable(con, "lines", data.frame(k = lines$k, net = round(lines$net * 100)),
                      overwrite = TRUE)
    want <- DBI::dbGetQuery(con, "
      SELECT k, CASE WHEN v >= 50000 THEN 'c' WHEN v >= 20000 THEN 'b' WHEN v >= 0 THEN 'a'
                     ELSE 'under' END AS tier,
             'group ' || NTILE(5) OVER (ORDER BY v DESC, k) AS tile
      FROM (SELECT k, SUM(net) AS v FROM lines GROUP BY k) ORDER BY v DESC, k")
    book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(revenue = "sum(net)"))
    got <- ll_tiers(book, "k", list(list(label = "a", from = "0", to = "200"),
                                    list(label = "b", from = "200"),
                                    list(label = "c", from = "500")), below = "under")
    expect_identical(got$tier, want$tier)
    expect_identical(ll_tiers(book, "k", groups = 5)$tier, want$tile)
    expect_true(all(ll_proof(got)$holds))
    # A text, named numbers and a table say the same.
    expect_identical(ll_tiers(book, "k", "a=0,b=200,c=500", below = "under")$tier, got$tier)
  }
})

test_that("tied names share a group, and groups then differ in size", {
  got <- ll_tiers(tiers_book(c(9, 5, 5, 5, 1)), "k", groups = 2)
  expect_identical(got$tier, c("group 1", "group 1", "group 1", "group 1", "group 2"))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "Ties make the groups differ")
  low <- ll_tiers(demo_book(), "rep", c(quick = 0, slow = 3), metrics = "days_to_ship")
  expect_identical(ll_part(low, "tiers")$tier[1], "quick")
})

test_that("moves between tiers, names that came and left", {
  lines <- data.frame(k = c("a", "b", "c", "a", "b", "d"),
                      day = as.Date(c("2025-03-01", "2025-03-02", "2025-03-03", "2026-03-01",
                                      "2026-03-02", "2026-03-03")), net = c(80, 15, 5, 10, 70, 20))
  book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(revenue = "sum(net)"))
  got <- ll_tiers(book, "k", c(low = 0, high = 50), when = "2026-03", against = "year before")
  expect_identical(got$tier, c("high", "low", "low"))
  expect_identical(got$tier_before, c("low", "no lines", "high"))
  moves <- ll_part(got, "moves")
  expect_equal(sum(moves$names), 4)
  expect_equal(moves$names[moves$tier_before == "low" & moves$tier == "no lines"], 1)
  expect_match(ll_finding(got), "1 rose and 1 fell, 1 had no lines then, 1 has none now")
})

test_that("the demo ties out and agrees with its bands; odd books; refusals name the pair", {
  book <- demo_book()
  got <- ll_tiers(book, "account", c(middle = 5000, large = 20000, key = 50000), below = "small")
  bands <- ll_crosstab(book, rows = "account_size")
  expect_equal(ll_part(got, "tiers")$value, bands$revenue[match(ll_part(got, "tiers")$tier,
                                                                bands$account_size)])
  shapes <- list(got, ll_tiers(book, c("rep", "territory"), groups = 3, metrics = "margin_rate"),
                 ll_tiers(tiers_book(5), "k", "a=1"),
                 ll_tiers(tiers_book(c(2, 2, 2)), "k", groups = 3),
                 ll_tiers(tiers_book(c(-1, -2)), "k", "a=0"),
                 ll_tiers(tiers_book(c(NA, 4)), "k", "a=0", where = "k == \"n01\""),
                 ll_tiers(small_book(), "rep", groups = 2, when = "2030"))
  expect_sound(shapes)
  refused <- function(tiers, text) expect_error(ll_tiers(book, "account", tiers), text,
                                                class = "ll_error_argument")
  refused(c(a = 5, b = 1), "1 comes after 5")
  refused(c(a = 5, b = 5), "5 comes after 5")
  refused("a=x", "must be numbers")
  refused("a", "names with their lower bounds")
  refused(NULL, "or a number of 'groups'")
  refused(data.frame(label = c("a", "b"), from = c(0, 20), to = c(10, NA)), "leave a gap")
  refused(data.frame(label = c("a", "b"), from = c(0, 20), to = c(30, NA)), "overlap")
})
