# No header is refused: every word that a study uses for a column of its own, as the name of a
# field, of a metric, and as a name on the lines, gives the same numbers as a plain word does.

word_lines <- function(field) {
  withr::with_seed(9, {
    n <- 160
    out <- data.frame(order_no = paste0("N", sample(80, n, TRUE)),
                      day = as.Date("2025-01-01") + sample(720, n, TRUE),
                      area = sample(c("x", "y"), n, TRUE),
                      k = sample(c("a", "b", "c", "d", "e", "f"), n, TRUE),
                      net = round(runif(n, 1, 90), 2), qty = sample(5, n, TRUE))
    names(out)[4] <- field
    out
  })
}

word_book <- function(field = "zeta", metric = "eta", lines = word_lines(field)) {
  ll_book(lines, metrics = stats::setNames(list("sum(net)", "sum(net) / sum(qty)"),
                                           c(metric, "other_rate")),
          fields = stats::setNames(list("dimension"), field), date = "day", order = "order_no")
}

word_questions <- list(
  standings = function(b, e, m) ll_standings(b, e, c(m, "other_rate"), when = "2026",
                                             against = "2025"),
  crosstab = function(b, e, m) ll_crosstab(b, e, "area", m),
  trend = function(b, e, m) ll_trend(b, m, by = e, rolling = 2,
                                     per_day = "calendar"),
  distribution = function(b, e, m) ll_distribution(b, metrics = m, by = e),
  total = function(b, e, m) ll_total(b, m, when = "2026", against = "2025"),
  portrait = function(b, e, m) ll_portrait(b, "area", "x", m, by = e),
  versus = function(b, e, m) ll_versus(b, "area", c("x", "y"), by = e, metrics = m),
  holders = function(b, e, m) ll_holders(b, "order_no", m, within = "area", with_fields = e),
  benchmark = function(b, e, m) ll_benchmark(b, e, m, resamples = 60),
  score = function(b, e, m) ll_score(b, e, c(m, "other_rate"), draws = 50),
  pareto = function(b, e, m) ll_pareto(b, e, m, when = "2026",
                                       against = "2025"),
  quadrants = function(b, e, m) ll_quadrants(b, e, c(m, "other_rate")),
  tiers = function(b, e, m) ll_tiers(b, e, metrics = m,
                                     tiers = c(low = 0, high = 800),
                                     when = "2026", against = "2025"),
  payout = function(b, e, m) ll_payout(b, e, metrics = m, rates = c("0" = "1%", "800" = "2%")),
  cohorts = function(b, e, m) ll_cohorts(b, e, m, every = "quarter"),
  lapsed = function(b, e, m) ll_lapsed(b, e, m, active = "2025-Q1", inactive = "2026-Q4"),
  sets = function(b, e, m) ll_sets(b, e, c(s = "active('2026-11')"),
                                   metrics = m),
  whitespace = function(b, e, m) ll_whitespace(b, "order_no", e, m, buyers = 1),
  bridge = function(b, e, m) ll_bridge(b, m, by = e, when = "2026",
                                       against = "2025"),
  drill = function(b, e, m) ll_drill(b, m, when = "2026", against = "2025", by = c(e, "area")),
  substitution = function(b, e, m) ll_substitution(b, "order_no", e, m, when = "2026",
                                                   against = "2025"),
  associations = function(b, e, m) ll_associations(b, each = "order_no", metrics = m,
                                                   by = c(e, "area")),
  detail = function(b, e, m) ll_detail(b, with_fields = c(e, "area"), metrics = m,
                                       top = 9))

numbers_of <- function(x) unname(as.list(Filter(is.numeric, as.data.frame(x))))

expect_stepped_aside <- function(study, got, want, word, info) {
  expect_identical(numbers_of(got), numbers_of(want), info = info)
  expect_true(all(ll_proof(got)$holds), info = info)
  for (part in c(list(as.data.frame(got)), Filter(is.data.frame, ll_part(got))))
    expect_false(anyDuplicated(names(part)) > 0, info = info)
  expect_no_match(c(names(got), ll_finding(got), ll_reading(got), ll_notes(got)$text,
                    internal("as_json")(got)), "\u2060", info = info)
  aside <- c(word, paste0(study, "_", word)) %in% names(got)
  if (all(aside)) expect_match(ll_notes(got)$text, "says itself stands in", all = FALSE,
                               info = info)
  if (study != "detail") expect_silent(plot(got))
}

test_that("a study's own columns step aside for fields and metrics of the same name", {
  skip_unless_all()
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  plain <- word_book()
  books <- answers_kept()
  met <- c()
  for (study in names(word_questions)) {
    ask <- word_questions[[study]]
    want <- ask(plain, "zeta", "eta")
    tables <- c(list(as.data.frame(want)), Filter(is.data.frame, ll_part(want)))
    words <- setdiff(unlist(lapply(tables, names)), c("zeta", "eta", "other_rate", "area",
                                                      "order_no", "day", "net", "qty"))
    words <- words[grepl("^[a-z_0-9]+$", words) & !grepl("zeta|^eta|other_rate", words)]
    # A word that several studies have is a field in one of them and a metric in the next.
    for (word in unique(words)) {
      met[word] <- if (word %in% names(met)) met[[word]] + 1 else nchar(word)
      as <- if (met[[word]] %% 2) "field" else "metric"
      beside <- books(paste(as, word), function() do.call(word_book, stats::setNames(list(word), as)))
      got <- if (as == "field") ask(beside, word, "eta") else ask(beside, "zeta", word)
      expect_stepped_aside(study, got, want, word, paste(study, as, word))
    }
    expect_true("eta" %in% names(want) || !is.null(words))
  }
})

test_that("a field or metric named like a derived column keeps its name, and formulas find it", {
  lines <- word_lines("class")
  lines$revenue_share <- lines$net * 2
  book <- ll_book(lines, metrics = c(revenue = "sum(net)", revenue_before = "sum(revenue_share)",
                                     score = "revenue_before / 2"),
                  bands = list(tier = list(of = "net", from = c(0, 50))),
                  control = list(revenue = sum(lines$net)))
  got <- ll_standings(book, "class", c("revenue", "revenue_before", "score"), when = "2026",
                      against = "2025", where = "class != 'a' & tier == '0 to 50'",
                      tie_break = "score")
  expect_equal(got$score, got$revenue)
  expect_true(all(ll_proof(got)$holds))
  expect_setequal(got$class, c("b", "c", "d", "e", "f"))
  row <- ll_detail(got, row = 1, with_fields = "class")
  expect_identical(unique(row$class), got$class[1])
  cells <- ll_pareto(book, "class", "score", cut = c(.5, .8))
  expect_true(all(c("class", "pareto_class", "score") %in% names(cells)))
  expect_match(format(cells), "pareto", all = FALSE)
})

test_that("a book of one line, or of one left, is proven whatever conditions and periods it meets",
          {
  line <- data.frame(k = "a", area = "x", net = 5, day = as.Date("2025-05-05"))
  for (lines in list(line, rbind(line, transform(line, net = -1)))) {
    book <- ll_book(lines, metrics = c(revenue = "sum(net)"),
                    exclude = if (nrow(lines) == 2) "net < 0")
    for (where in list(NULL, "net > 10", "net > 1", "contains(k, \"n\")",
                       "k == \"a\"")) for (when in list(NULL, "2025", "2024", "2025-05-05"))
      for (study in c("standings", "distribution", "pareto", "crosstab")) {
        args <- list(book, where = where, when = when)
        by <- switch(study, crosstab = list(rows = "k", columns = "area"), distribution = NULL,
                     list(each = "k"))
        args <- c(args, by)
        got <- tryCatch(do.call(paste0("ll_", study), args), ll_error = identity)
        if (!inherits(got, "ll_error")) expect_true(all(ll_proof(got)$holds),
                                                    info = paste(study, where, when))
      }
  }
})
