# Substitution: against a brute force over customers, a worked example, the demo's hive, odd books,
# pictures.

swap_lines <- function(seed = 1, n = 500) {
  withr::with_seed(seed, data.frame(
    order_no = seq_len(n), day = as.Date("2024-01-01") + sample(0:730, n, TRUE),
    k = sample(c(paste0("k", 1:20), NA), n, TRUE),
    p = sample(c(paste0("p", 1:7), NA, "odd \"p\"\n x"), n, TRUE),
    net = sample(c(round(rnorm(n, 40, 50), 2), NA), n, TRUE)))
}
swap_book <- function(lines = swap_lines()) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension", p = "dimension",
                            net = "measure"), date = "day",
          metrics = c(revenue = "sum(net)", rate = "mean(net)", lines = "count()"))
}
swapped <- function(book, ...) ll_substitution(book, "k", "p", ..., when = "2025", against = "2024")

test_that("pairs are those of a brute force over customers", {
  for (seed in some_of(1:4, 3)) {
    d <- swap_lines(seed)
    d$net[is.na(d$net)] <- 0
    d <- d[!is.na(d$k) & !is.na(d$p), ]
    year <- format(d$day, "%Y")
    cell <- function(k, p, y) sum(round(d$net[d$k == k & d$p == p & year == y] * 100)) / 100
    ks <- sort(unique(d$k))
    ps <- sort(unique(d$p))
    change <- outer(ks, ps, Vectorize(function(k, p) round(cell(k, p, "2025") - cell(k, p, "2024"),
                                                           2)))
    total <- colSums(change)
    old <- which(total < -1e-9)
    new <- which(total > 1e-9)
    loss <- pmax(-change[, old, drop = FALSE], 0)
    gain <- pmax(change[, new, drop = FALSE], 0)
    # Products fall or rise as a whole, customers without a name included.
    got <- swapped(swap_book(swap_lines(seed)), old = ps[old], new = ps[new], top = 100)
    moved <- pmin(rowSums(loss), rowSums(gain))
    for (i in seq_along(old)) for (j in seq_along(new)) {
      row <- got[got$old == ps[old[i]] & got$new == ps[new[j]], ]
      matched <- sum(ifelse(moved > 0, moved * loss[, i] / rowSums(loss) * gain[, j] /
                            rowSums(gain), 0))
      expect_equal(sum(row$matched), matched)
      expect_equal(sum(row$at_most), sum(pmin(loss[, i], gain[, j])))
      expect_equal(sum(row$customers), sum(loss[, i] > 0 & gain[, j] > 0))
    }
    expect_equal(sum(got$matched), sum(moved))
    expect_true(all(got$matched <= got$at_most + 1e-9))
    products <- ll_part(got, "new_products")
    at <- match(products$new, ps[new])
    expect_equal(products$gained, colSums(gain)[at])
    expect_equal(products$at_most, colSums(pmin(gain, rowSums(loss)))[at])
    expect_equal(products$not_matched, products$gained - products$at_most)
    # Chance: all orders of the gains among the customers, its mean from all pairs, its deviation by
    # lot.
    by_lot <- function(a, b) {
      drawn <- withr::with_seed(seed, replicate(4000, sum(pmin(a, sample(b)))))
      c(sum(outer(a, b, pmin)) / length(a), stats::sd(drawn))
    }
    first <- by_lot(rowSums(loss), gain[, at[1]])
    expect_equal(products$by_chance[1], first[1])
    expect_equal(products$chance_deviation[1], first[2], tolerance = .1)
    expect_equal(ll_settings(got)$by_chance, by_lot(rowSums(loss), rowSums(gain))[1])
    matrix <- ll_part(got, "matrix")
    expect_equal(sum(matrix[-1]), sum(moved))
    expect_true(all(ll_proof(got)$holds))
    again <- swapped(swap_book(swap_lines(seed)[500:1, ]), old = ps[old], new = ps[new], top = 100)
    expect_equal(as.data.frame(again), as.data.frame(got))
  }
})

test_that("a worked example", {
  lines <- data.frame(order_no = 1:8, day = as.Date(rep(c("2024-06-01", "2025-06-01"), each = 4)),
                      k = c("a", "a", "b", "c", "a", "a", "b", "d"),
                      p = c("x", "y", "x", "x", "z", "y", "x", "z"),
                      net = c(100, 50, 30, 20, 80, 50, 60, 40))
  # a drops x (100) and takes z (80); c drops x (20) and takes nothing; d takes z (40) and dropped
  # nothing; b buys 30 more of x.
  got <- swapped(swap_book(lines), old = "x", new = "z")
  expect_equal(got$matched, 80)
  expect_equal(got$at_most, 80)
  expect_equal(got$customers, 1)
  expect_equal(c(got$old_lost, got$new_gained), c(120, 120))
  expect_equal(ll_part(got, "new_products")$not_matched, 40)
  expect_equal(ll_part(got, "old_products")$not_matched, 40)
  expect_match(ll_finding(got),
               "at most 80.00 \\(66.7 %\\) may have replaced x; chance alone gives 33.3 % on average and may give as much")
  expect_match(paste(ll_notes(got)$text, collapse = " "), "upper bounds")
  nothing <- swapped(swap_book(lines), where = "k == 'b'")
  expect_equal(nrow(nothing), 0)
  expect_match(ll_finding(nothing), "nothing was replaced")
  expect_s3_class(ggplot2::autoplot(nothing), "ggplot")
  expect_true(any(nzchar(format(nothing))))
})

test_that("the demo's new hive is mostly no substitution; many products are gathered", {
  got <- ll_substitution(demo_book(), "account", "item", new = "HV-018", when = "2026-Q2")
  new <- ll_part(got, "new_products")
  expect_equal(new$gained, story("hive", "new_hive_2026Q2"))
  expect_identical(got$old[1], "HV-001")
  expect_true(all(ll_proof(got)$holds))
  all <- ll_substitution(demo_book(), "account", "item", when = "2026-Q2", top = 2000)
  expect_true(any(grepl("^other items", all$new)))
  set <- ll_settings(all)
  expect_equal(sum(all$matched), set$moved_at_most)
  plot <- ggplot2::autoplot(all)
  expect_no_warning(ggplot2::ggplot_build(plot))
  expect_match(plot$labels$alt, "Tiles: ")
  run <- command("substitution", "--brief", demo_path("longladder.yml"), "--each", "account",
                 "--product", "item", "--new", "HV-018", "--when", "2026-Q2", "--format", "line")
  expect_equal(run$status, 0)
  expect_match(run$out, "may have replaced")
})

test_that("what cannot be matched is refused", {
  book <- swap_book()
  expect_error(swapped(book, "rate"), "does not add up", class = "ll_error_argument")
  expect_error(swapped(book, old = "p1", new = c("p1", "p2")), "as old and as new",
               class = "ll_error_argument")
  expect_error(swapped(book, old = "q1"), "p1", class = "ll_error_word")
  expect_error(ll_substitution(book, "k", "k"), "same dimension", class = "ll_error_argument")
  expect_error(ll_substitution(book, "k"), "'product' must be given", class = "ll_error_argument")
  expect_error(ll_substitution(book, "k", "p", when = "2031", against = "2030"), "no lines in",
               class = "ll_error_data")
  expect_equal(command("substitution", "--brief", demo_path("longladder.yml"), "--each", "acount",
                       "--product", "item")$status, 2)
  lines <- swapped(book, "lines")
  expect_true(all(ll_proof(lines)$holds))
})
