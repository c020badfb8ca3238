# Real names that read like our own labels, beside lines without a name: every study gives the
# numbers that it gives for plain names, and what is shown tells the two apart.

label_names <- c("(none)", "(all)", "total", "everyone else", "everyone else (3)", "'(none)'",
                 "all gains")
second_names <- c("(nonf)", "(alm)", "totam", "everyone elsf", "everyone elsg", "'(nonf)'",
                  "all gaint")

label_book <- function(names, seed = 5) {
  withr::with_seed(seed, {
    n <- 240
    who <- sample(c(seq_along(names), NA), n, TRUE)
    kind <- sample(c(1, 2, 3, NA), n, TRUE)
    lines <- data.frame(order_no = paste0("N", sample(120, n, TRUE)),
                        day = as.Date("2025-01-01") + sample(720, n, TRUE), k = names[who],
                        area = c(names[1:2], "x")[kind], net = round(exp(rnorm(n, 4)), 2),
                        qty = sample(5, n, TRUE))
  })
  register <- data.frame(k = c(names, "never"), group = c(rep(names[c(1, 3)],
                                                              length.out = length(names)), NA))
  ll_book(lines, metrics = c(revenue = "sum(net)", price = "sum(net) / sum(qty)"),
          registers = list(k = register), order = "order_no")
}

label_questions <- list(
  standings = function(b) ll_standings(b, "k", c("revenue", "price"), within = "area",
                                       when = "2026", against = "2025"),
  top = function(b) ll_standings(b, "k", "price", top = 3, no_lines = TRUE),
  pairs = function(b) ll_standings(b, c("k", "area"), "revenue", resamples = 60),
  crosstab = function(b) ll_crosstab(b, "k", "area", c("revenue", "price")),
  crosstab_top = function(b) ll_crosstab(b, "k", "group", "price", top = 3),
  crosstab_two = function(b) ll_crosstab(b, c("area", "k"), "group",
                                         "revenue"),
  trend = function(b) ll_trend(b, c("revenue", "price"), every = "quarter", by = "k", top = 3),
  distribution = function(b) ll_distribution(b, metrics = "revenue",
                                             by = "k"),
  portrait = function(b) ll_portrait(b, "area", "x", "revenue", by = c("k", "group"), top = 3),
  versus = function(b) ll_versus(b, "area", c("x", b$names2), by = "k",
                                 metrics = "revenue"),
  holders = function(b) ll_holders(b, "k", "revenue", within = "area"),
  holders_lines = function(b) ll_holders(b, within = "k",
                                         metrics = "revenue"),
  benchmark = function(b) ll_benchmark(b, "k", "price"),
  score = function(b) ll_score(b, "k", c("revenue", "price")),
  pareto = function(b) ll_pareto(b, "k", "revenue", when = "2026",
                                 against = "2025"),
  quadrants = function(b) ll_quadrants(b, "k", c("revenue", "price"), x_divide = "median"),
  total = function(b) ll_total(b, "revenue", when = "2026", against = "2025"),
  tiers = function(b) ll_tiers(b, "k", metrics = "revenue",
                               tiers = c(low = 0, high = 3000)),
  payout = function(b) ll_payout(b, "k", metrics = "revenue", rates = c("0" = "1%", "3000" = "2%")),
  cohorts = function(b) ll_cohorts(b, "k", "revenue", every = "quarter"),
  lapsed = function(b) ll_lapsed(b, "k", "revenue", active = "2025", inactive = "2026-12"),
  sets = function(b) ll_sets(b, "k", c(s = "top(revenue, 3)")),
  whitespace = function(b) ll_whitespace(b, "k", "area", "revenue", buyers = 1, like = "group"),
  bridge = function(b) ll_bridge(b, "revenue", by = "k", when = "2026",
                                 against = "2025", top = 3),
  bridge_names = function(b) ll_bridge(b, "revenue", by = "k", into = "names", when = "2026",
                                       against = "2025"),
  bridge_rate = function(b) ll_bridge(b, "price", by = "area", when = "2026",
                                      against = "2025"),
  drill = function(b) ll_drill(b, "revenue", when = "2026", against = "2025",
                               by = c("k", "area")),
  substitution = function(b) ll_substitution(b, "k", "area", "revenue",
                                             when = "2026", against = "2025"),
  associations = function(b) ll_associations(b, metrics = "revenue", by = c("k", "area")),
  detail = function(b) ll_detail(b, top = 20))

test_that("names that read like labels change nothing but their names", {
  odd <- label_book(label_names)
  odd$names2 <- "(all)"
  plain <- label_book(second_names)
  plain$names2 <- "(alm)"
  shown <- internal("shown_names")
  back <- function(x) {
    for (i in order(-nchar(label_names))) x <- gsub(shown(label_names[i]), second_names[i], x,
                                                    fixed = TRUE)
    x
  }
  for (study in some_of(names(label_questions), 3)) {
    got <- label_questions[[study]](odd)
    want <- label_questions[[study]](plain)
    failed <- ll_proof(got)$check[!ll_proof(got)$holds]
    expect_identical(failed, character(), info = study)
    for (part in c("table", names(ll_part(want)))) {
      a <- if (part == "table") as.data.frame(got) else ll_part(got, part)
      b <- if (part == "table") as.data.frame(want) else ll_part(want, part)
      if (!is.data.frame(b)) next
      # Conditions have names in quotes of their own.
      a$condition <- b$condition <- NULL
      rows <- function(x, change) {
        plain <- function(v) if (is.character(v)) change(v) else
          if (is.double(v)) signif(as.numeric(v), 12) else v
        sort(do.call(paste, c(unname(lapply(x, plain)), sep = "|")))
      }
      # Detail and parts for pictures show names as they are on the lines.
      raw <- function(x) ifelse(x %in% label_names & !shown(x) %in% x,
                                second_names[match(x, label_names)], back(x))
      as_is <- part == "table" && study %in% c("detail", "versus")
      if (part == "table" || part == "foot")
        expect_identical(rows(a, if (as_is) raw else back), rows(b, identity),
                         info = paste(study, part))
    }
    if (length(internal("facts")(got)$behind) &&
        nrow(got)) for (row in seq_len(min(nrow(got), 12))) {
      lines <- tryCatch(nrow(ll_detail(got, row = row)), ll_error = function(e) NA)
      same <- tryCatch(nrow(ll_detail(want, row = row)), ll_error = function(e) NA)
      if (identical(as.data.frame(lapply(as.data.frame(got)[row, ],
                                         function(v) if (is.character(v)) back(v) else v)),
                    as.data.frame(lapply(as.data.frame(want)[row, ], identity))))
        expect_identical(lines, same, info = paste(study, row))
    }
  }
})

test_that("what is shown can be told apart and read back", {
  shown <- internal("shown_names")
  own <- internal("own_names")
  names <- c(label_names, "''total''", "Total", "no one", NA, "everyone else (1,200)", "(none) ")
  expect_identical(own(shown(names)), names)
  expect_identical(anyDuplicated(shown(names)), 0L)
  got <- ll_standings(ll_book(data.frame(k = c("(none)", NA, "a"), net = c(5, 7, 1))), "k",
                      c(revenue = "sum(net)"))
  expect_identical(got$k, c("'(none)'", "a", "(none)"))
  expect_identical(got$rank, c(1, 2, NA))
})
