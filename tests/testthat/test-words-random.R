# The languages and the fold against base R, on random formulas, conditions and periods over random
# lines: thousands of values, each also proven by the product's second route.

test_that("random metrics under random conditions and periods agree with base R", {
  compared <- 0
  seeds <- some_of(1:60, 3)
  for (seed in seeds) {
    lines <- random_lines(seed, n = sample(c(1, 5, 60, 150), 1, prob = c(1, 1, 3, 5)))
    withr::local_seed(1000 + seed)
    if (all(is.na(lines$net)) || all(is.na(lines$qty))) next
    formulas <- stats::setNames(replicate(6, random_metric()), paste0("m", 1:6))
    where <- if (seed %% 3) random_condition()
    when <- sample(c("2025", "2025-Q2", "2025-03-15/2025-11-02", "all"), 1)
    span <- switch(when, "2025" = c("2025-01-01", "2025-12-31"),
                   "2025-Q2" = c("2025-04-01", "2025-06-30"), all = c("2000-01-01", "2100-01-01"),
                   strsplit(when, "/")[[1]])
    keep <- lines$day >= as.Date(span[1]) & lines$day <= as.Date(span[2])
    if (!is.null(where)) keep <- keep & reference_condition(where, lines)
    # Names that no line of a small draw has are known from the registers.
    book_fields <- c(order_no = "identifier", rep = "dimension", area = "dimension",
                     net = "measure", qty = "measure")
    registers <- list(rep = data.frame(rep = c("Ann", "Bo", "Cy", "Di")),
                      area = data.frame(area = c("x", "y")))
    book <- ll_book(lines, fields = book_fields, registers = registers)
    got <- ll_standings(book, "area", formulas, where = where, when = when)
    proof <- ll_proof(got)
    expect_true(all(proof$holds), info = paste(seed, paste(proof$check[!proof$holds],
                                                           collapse = "; ")))
    # The second route as it goes over millions of lines.
    withr::with_options(list(longladder.second_loops = 0), for (texts in c("text", "factor")) {
      if (texts == "factor") lines$area <- factor(lines$area, sample(c("y", "x", "unused")))
      again <- ll_book(lines, fields = book_fields, registers = registers)
      expect_equal(ll_proof(ll_standings(again, "area", formulas, where = where, when = when)),
                   proof, info = paste(seed, texts))
    })
    total <- ll_part(got, "foot")
    for (name in names(formulas)) {
      info <- paste(seed, formulas[[name]], where, when)
      area <- as.character(lines$area[keep])
      groups <- split(lines[keep, ], ifelse(is.na(area), "(none)", area))
      want <- vapply(groups, function(part) as.numeric(reference_metric(formulas[[name]], part)), 0)
      expect_equal(got[[name]][match(names(want), got$area)], unname(want), tolerance = 1e-9,
                   info = info)
      whole <- as.numeric(reference_metric(formulas[[name]], lines[keep, , drop = FALSE]))
      expect_equal(total[[name]][total$area == "total"], whole, tolerance = 1e-9, info = info)
      compared <- compared + length(want) + 1
    }
  }
  expect_gt(compared, 16 * length(seeds))
})

test_that("printing a random formula and reading it again gives the same tree", {
  read_metric <- internal("read_metric")
  read_condition <- internal("read_condition")
  tree_text <- internal("tree_text")
  withr::local_seed(7)
  for (i in some_of(1:250, 3)) {
    text <- random_metric()
    tree <- read_metric(text, "metric")
    expect_identical(read_metric(tree_text(tree), "metric"), tree, info = text)
    text <- random_condition(3)
    tree <- read_condition(text)
    expect_identical(read_condition(tree_text(tree)), tree, info = text)
  }
})

test_that("long rows of terms agree with base R, whatever their signs, in memory and in SQL", {
  skip_unless_all()
  withr::local_seed(11)
  lines <- data.frame(rep = sample(c("Ann", "Bo", "Cy"), 60, TRUE),
                      net = sample(c(-4:9) / 2, 60, TRUE), qty = sample(1:3, 60, TRUE))
  far <- lines_in("sqlite", lines)
  chain <- function(terms, signs) paste(c(rbind(c("", sample(signs, length(terms) - 1, TRUE)),
                                                terms)), collapse = " ")
  metrics <- vapply(c(30, 31, 77), function(n) {
    c(paste0("sum(", chain(sample(c("net", "qty", "1.5", "(net - qty)", "abs(net)"), n, TRUE),
                           c("+", "-")), ")"),
      paste0("sum(net ", paste(sample(c("* 2", "/ 2", "* qty / qty", "/ 4 * 4"), n, TRUE),
                               collapse = " "), ")"),
      chain(sample(c("sum(net)", "count()", "3"), n, TRUE), c("+", "-")))
  }, character(3))
  metrics <- stats::setNames(c(metrics, "sum(----net)", "sum(- - -net)"), paste0("m", 1:11))
  conditions <- vapply(c(31, 77), function(n) {
    c(chain(sample(c("net > 4", "qty == 2", "net < -1.5", "(net > 1 & qty > 2)"), n, TRUE), "|"),
      chain(sample(c("net > -9", "qty < 4", "net != 1.5", "(net > 0 | qty > 1)"), n, TRUE), "&"))
  }, character(2))
  for (where in list(NULL, conditions[1], conditions[4], "!!!(net > 1)")) {
    keep <- if (is.null(where)) rep(TRUE, 60) else reference_condition(where, lines)
    for (kind in c("memory", "sqlite")) {
      book <- ll_book(if (kind == "memory") lines else far, metrics = metrics)
      x <- ll_standings(book, "rep", names(metrics), where = where, no_lines = FALSE)
      expect_true(all(ll_proof(x)$holds), info = paste(kind, where))
      groups <- split(lines[keep, ], lines$rep[keep])
      for (name in names(metrics)) expect_equal(x[[name]][match(names(groups), x$rep)],
        unname(vapply(groups, function(part) as.numeric(reference_metric(metrics[[name]], part)),
                      0)), info = paste(kind, name, where))
    }
  }
})

test_that("the order of lines and the number of threads never show in a result", {
  lines <- random_lines(5, 800)
  # Thirds are no decimals: their sums too must not depend on the order.
  lines$part <- lines$net / 3
  formulas <- c(a = "sum(net)", b = "sum(part)", c = "sd(part)", d = "median(part)",
                e = "max(per(order_no, sum(part)))", f = "distinct(order_no)",
                g = "mean(part * qty)")
  ask <- function(lines, threads = 1) {
    withr::local_options(longladder.threads = threads)
    book <- ll_book(lines, fields = c(order_no = "identifier", part = "measure"))
    as.data.frame(ll_standings(book, c("rep", "area"), formulas))
  }
  first <- ask(lines)
  for (seed in some_of(1:4, 3)) {
    at <- withr::with_seed(seed, sample(nrow(lines)))
    expect_identical(ask(lines[at, ], threads = seed), first)
  }
})
