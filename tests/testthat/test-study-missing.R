# What notes say of missing values: every count worked out again from the lines, over formulas of
# every shape.

gappy <- function(seed, n = 240) withr::with_seed(seed, {
  gap <- function(x, p) ifelse(runif(n) < p, NA, x)
  data.frame(rep = sample(c("Ann", "Bo"), n, TRUE), net = gap(round(runif(n, 1, 90), 2),
                                                              runif(1, 0, .2)),
             cost = gap(round(runif(n, 1, 50), 2), .1), qty = gap(sample(0:5, n, TRUE),
                                                                  runif(1, 0, .1)),
             days = gap(sample(1:9, n, TRUE), .2), o = sample(100, n, TRUE),
             day = as.Date("2025-01-01") + sample(700, n, TRUE))
})

gappy_book <- function(lines) {
  ll_book(lines, date = "day", order = "o", metrics = c(revenue = "sum(net)"),
          fields = list(o = "identifier",
                        speed = list(is = paste('ifelse(days > 5, "late",',
                                                'ifelse(days > 2, "on time", "early"))')),
                        known = list(is = paste('ifelse(is.na(days), "unknown",',
                                                'ifelse(days > 5, "late", "on time"))'))))
}

said_missing <- function(...) {
  notes <- ll_notes(ll_standings(...))
  notes$text[notes$kind == "missing"]
}

test_that("what a part of a metric leaves out and another counts, counted by base R", {
  for (seed in some_of(1:10, 3)) {
    d <- gappy(seed)
    book <- gappy_book(d)
    no <- lapply(d, is.na)
    have <- function(n) paste(n, if (n == 1) "line has" else "lines have")
    # Text of a note on `field`: lost in `from` (by n lines), of which `still` count in `other`.
    note <- function(field, n, plain = NULL, other = NULL, still = 0, metric = NULL) {
      if (!n) return(NULL)
      one <- n == 1
      if (!still && is.null(plain))
        return(paste0(have(n), " no ", field,
                      if (one) "; it counts as a line and adds nothing." else
                      "; they count as lines and add nothing."))
      how <- if (startsWith(plain, "sum")) (if (one) "it adds nothing to " else
                                            "they add nothing to ") else
                                              (if (one) "it is left out of " else
                                               "they are left out of ")
      yet <- if (still) paste0(", yet ", if (still < n) paste(still, "of them "),
                               if (still == 1) "counts in " else "count in ", other, " of ", metric)
      if (!still && startsWith(plain, "sum")) return(note(field, n))
      paste0(have(n), " no ", field, "; ", how, plain, yet, ".")
    }
    expect_said <- function(metric, ...) expect_setequal(said_missing(book, "rep", c(m = metric)),
                                                         c(character(), ...))
    expect_said("sum(net)", note("net", sum(no$net)))
    expect_said("sum(net) - sum(cost)", note("net", sum(no$net), "sum(net)", "sum(cost)",
                                             sum(no$net & !no$cost), "m"),
                note("cost", sum(no$cost), "sum(cost)", "sum(net)", sum(no$cost & !no$net), "m"))
    expect_said("sum(net - cost)", note("net", sum(no$net)), note("cost", sum(no$cost)))
    expect_said("sum(ifelse(is.na(net), 0, net))")
    expect_said("sum(ifelse(is.na(net), 0, net) - cost)", note("cost", sum(no$cost)))
    expect_said("mean(net)", note("net", sum(no$net), "mean(net)"))
    # A quotient is of the lines that have what both of its sides add up.
    alike <- function(n, fields, these) if (n) paste0(
      have(n), " no ", fields, "; m is worked out over the lines that have ", these, ".")
    expect_said("sum(net) / count()", alike(sum(no$net), "net", "it"))
    gaps <- names(Filter(any, no[c("net", "qty")]))
    expect_said("sum(net) / sum(qty[qty > 0])",
                alike(sum(xor(no$net, no$qty)), paste(gaps, collapse = " or "),
                      if (length(gaps) > 1) "all of these" else "it"))
    expect_equal(ll_total(book, c(m = "sum(net) / sum(qty[qty > 0])"))$value,
                 with(d[!no$net & !no$qty, ], sum(net) / sum(qty[qty > 0])))
    expect_said("count(net) + max(cost) + distinct(days)")
    expect_said("count(per(o, sum(net))[it > 50])", note("net", sum(no$net)))
    # A choice whose test cannot be told.
    lost <- sum(no$net & d$days %in% 1:2)
    expect_said("sum(ifelse(days < 3, net, 0))", note("net", lost),
                paste0(have(sum(no$days)), " no days; m takes ",
                       if (sum(no$days) == 1) "it" else "them",
                       " for 0, as if days < 3 were false."))
    # The condition of per() speaks of its groups, not of lines.
    expect_said("count(per(o, sum(ifelse(days < 3, net, 0)))[it > 50])", note("net", lost),
                paste0(have(sum(no$days)), " no days; m takes ",
                       if (sum(no$days) == 1) "it" else "them",
                       " for 0, as if days < 3 were false."))
    # An aggregate's own condition keeps lines from its choice.
    none <- sum(no$days & d$qty %in% 4:5)
    expect_said("sum(ifelse(days < 3, 1, 0)[qty > 3])",
                if (none) paste0(have(none), " no days; m takes ", if (none == 1) "it" else "them",
                                 " for 0, as if days < 3 were false."))
  }
})

test_that("computed fields, conditions and the period before", {
  for (seed in some_of(11:16, 2)) {
    d <- gappy(seed)
    book <- gappy_book(d)
    n <- sum(is.na(d$days))
    expect_setequal(said_missing(book, "speed", c(m = "count()")),
                    paste(n, "lines have no days; speed takes them for 'early',",
                          "as if days > 2 were false."))
    expect_identical(said_missing(book, "known", c(m = "count()")), character())
    narrowed <- said_missing(book, "rep", c(m = "sum(ifelse(is.na(net), 0, net))"),
                             where = "!(days > 5)", when = "2025", against = "2026")
    year <- format(d$day, "%Y")
    expect_setequal(narrowed, paste0(sum(is.na(d$days) & year == 2025), " lines and ",
                                     sum(is.na(d$days) & year == 2026), " of the period before ",
                                     "have no days and meet the condition !(days > 5)."))
    expect_identical(said_missing(book, "rep", c(m = "count()"), where = "days > 5"), character())
    expect_identical(said_missing(book, "rep", c(m = "count()"),
                                  where = "!(days > 5) & !is.na(days)"), character())
    # Told only of the lines asked for.
    one <- said_missing(book, "rep", "revenue", where = "qty == 3")
    lost <- sum(is.na(d$net) & d$qty %in% 3)
    expect_identical(one,
                     if (lost == 1) "1 line has no net; it counts as a line and adds nothing." else
                     if (lost) paste(lost,
                                     "lines have no net; they count as lines and add nothing.") else
                     character())
  }
})
