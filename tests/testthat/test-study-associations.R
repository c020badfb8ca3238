# Associations: against base R's linear models, by simulation where nothing goes with anything, the
# ways a field may run through another, and what is drawn.

# The same question in base R: adjusted R squared of value on the names, and beyond another field.
by_lm <- function(value, field, given = NULL) {
  if (is.null(given)) return(summary(stats::lm(value ~ factor(field)))$adj.r.squared)
  both <- stats::lm(value ~ factor(given) + factor(field))
  one <- stats::lm(value ~ factor(given))
  1 - (sum(both$residuals^2) / both$df.residual) / (sum(one$residuals^2) / one$df.residual)
}

names_book <- function(seed, n = 90) {
  withr::with_seed(seed, {
    register <- data.frame(k = sprintf("n%03d", seq_len(n)), a = sample(letters[1:4], n, TRUE),
                           c = sample(LETTERS[1:3], n, TRUE))
    register$b <- paste0(register$a, sample(1:3, n, TRUE))
    lines <- data.frame(k = sample(register$k, 6 * n, TRUE), qty = sample(1:9, 6 * n, TRUE))
    lines$net <- round(lines$qty * 3 + 5 * match(register$a, letters)[match(lines$k, register$k)] +
                       rnorm(6 * n, 0, 4), 2)
    list(lines = lines, register = register,
         book = ll_book(lines, fields = c(k = "dimension", qty = "measure"),
                        registers = list(k = register), metrics = list(revenue = "sum(net)",
                                                                       units = "sum(qty)")))
  })
}

test_that("shares agree with linear models: alone and beyond another field, nested ones included", {
  for (seed in some_of(1:6, 2)) {
    made <- names_book(seed)
    got <- ll_associations(made$book, each = "k", metrics = "revenue",
                           by = c("a", "b", "c", "units"), shuffles = 99)
    expect_true(all(ll_proof(got)$holds))
    value <- tapply(made$lines$net, made$lines$k, sum)
    at <- match(names(value), made$register$k)
    for (field in c("a", "b", "c"))
      expect_equal(got$adjusted[got$field == field], by_lm(value, made$register[[field]][at]))
    units <- tapply(made$lines$qty, made$lines$k, sum)
    expect_equal(got$rank_correlation[got$field == "units"], cor(value, units, method = "spearman"))
    expect_equal(got$explained[got$field == "b"],
                 summary(lm(value ~ made$register$b[at]))$r.squared)
    pairs <- ll_part(got, "pairs")
    for (i in which(pairs$field != "units" & pairs$given != "units"))
      expect_equal(pairs$left[i], by_lm(value, made$register[[pairs$field[i]]][at],
                                        made$register[[pairs$given[i]]][at]), tolerance = 1e-6)
  }
})

test_that("over lines too, with conditions; the order of lines does not matter", {
  lines <- random_lines(3, 400)
  lines$tag <- withr::with_seed(2, sample(c("p", "q", "r"), 400, TRUE))
  open <- function(lines) ll_book(lines, fields = c(order_no = "identifier"),
                                  metrics = list(revenue = "sum(net)"))
  got <- ll_associations(open(lines), metrics = "revenue", by = c("rep", "area", "tag", "qty"),
                         where = "qty > 0")
  kept <- lines[lines$qty %in% 1:9 & !is.na(lines$net), ]
  for (field in c("rep", "tag"))
    expect_equal(got$explained[got$field == field], summary(lm(kept$net ~ kept[[field]]))$r.squared)
  expect_equal(got$rank_correlation[got$field == "qty"],
               cor(kept$net, kept$qty, method = "spearman"))
  expect_true(all(ll_proof(got)$holds))
  mixed <- lines[withr::with_seed(5, sample(400)), ]
  other <- ll_associations(open(mixed), metrics = "revenue", by = c("rep", "area", "tag", "qty"),
                           where = "qty > 0")
  expect_equal(as.data.frame(other)[c("field", "explained")],
               as.data.frame(got)[c("field", "explained")])
})

test_that("strength is among those where the field is known; whether it is known is told apart", {
  for (seed in some_of(1:8, 2)) {
    made <- names_book(seed)
    few <- made$register$a
    # Known for few and telling nothing; known for the larger ones; a number; blank on some lines
    # only.
    sizes <- tapply(made$lines$net, made$lines$k, sum)[made$register$k]
    withr::with_seed(seed, {
      made$register$rare <- ifelse(runif(90) < .2, sample(c("u", "v"), 90, TRUE), NA)
      made$register$flag <- ifelse(sizes > median(sizes, na.rm = TRUE),
                                   sample(c("y", "z"), 90, TRUE), "")
      made$register$age <- ifelse(runif(90) < .5, sample(100, 90), NA)
      made$lines$seat <- ifelse(runif(nrow(made$lines)) < .3, "",
                                made$register$a[match(made$lines$k, made$register$k)])
    })
    book <- ll_book(made$lines, fields = c(k = "dimension", qty = "measure"),
                    registers = list(k = made$register), metrics = list(revenue = "sum(net)"))
    by <- c("rare", "flag", "age", "seat", "c")
    got <- ll_associations(book, each = "k", by = by, shuffles = 99)
    expect_true(all(ll_proof(got)$holds))
    value <- sizes[!is.na(sizes)]
    at <- match(names(value), made$register$k)
    for (field in c("rare", "flag", "c")) {
      x <- made$register[[field]][at]
      x[x == ""] <- NA
      expect_equal(got$adjusted[got$field == field], by_lm(value, x), info = paste(seed, field))
      expect_equal(got$known[got$field == field], sum(!is.na(x)))
    }
    known <- !is.na(made$register$age[at])
    expect_equal(got$rank_correlation[got$field == "age"],
                 cor(value[known], made$register$age[at][known], method = "spearman"))
    seated <- names(value) %in% made$lines$k[made$lines$seat != ""]
    expect_equal(got$adjusted[got$field == "seat"], by_lm(value[seated],
                                                          made$register$a[at][seated]))
    expect_true(all(got$strength[got$field == "rare"] %in% c("no more than chance", "weak",
                                                             "moderate")))
    notes <- ll_notes(got)
    expect_false(any(grepl("seat .varies within", notes$text)))
    told <- notes$text[notes$kind == "known" & grepl("flag", notes$text)]
    flag <- made$register$flag[at] != ""
    said <- regmatches(told,
                       regexec(paste0("^Values of k where flag is known have a mean revenue of ",
                                      "([0-9.]+), the others ([0-9.]+): ([0-9.]+) % of its ",
                                      "variation \\(strong\\)[.]$"), told))[[1]]
    expect_equal(as.numeric(said[-1]), c(round(mean(value[flag]), 2), round(mean(value[!flag]), 2),
                                         round(100 * by_lm(value, flag), 1)))
    if (got$field[1] %in% c("flag", "age") && got$strength[1] %in% c("moderate", "strong"))
      expect_match(ll_finding(got), paste0("among the ", got$known[1], " of ", length(value),
                                           " values of k where it is known"))
    # The order of lines does not matter.
    book <- ll_book(made$lines[rev(seq_len(nrow(made$lines))), ],
                    fields = c(k = "dimension", qty = "measure"),
                    registers = list(k = made$register), metrics = list(revenue = "sum(net)"))
    expect_equal(as.data.frame(ll_associations(book, each = "k", by = by, shuffles = 99)),
                 as.data.frame(got))
  }
  # Over lines of orders too: what is left beyond another field, where both are known.
  lines <- random_lines(4, 600)
  lines$tag <- withr::with_seed(2, ifelse(runif(600) < .6, sample(c("p", "q", "r"), 600, TRUE), NA))
  lines$kind <- ifelse(lines$tag %in% "p" | withr::with_seed(3, runif(600)) < .2, "one", "two")
  lines$net <- lines$net + 100 * (lines$kind == "one")
  got <- ll_associations(ll_book(lines, fields = c(order_no = "identifier"),
                                 metrics = list(revenue = "sum(net)")), metrics = "revenue",
                         by = c("tag", "kind"), shuffles = 99)
  expect_identical(got$through[got$field == "tag"], "kind")
  expect_match(ll_finding(got),
               paste0("tag, [0-9.]+ %.* among the [0-9]+ of [0-9]+ lines where it is known, which ",
                      "runs through kind"))
  expect_true(all(ll_proof(got)$holds))
})

test_that("a field of very many names, or one that repeats orders, does not win by chance", {
  false <- vapply(1:60, function(seed) {
    withr::with_seed(seed, {
      # Orders of one to six lines with a level of their own; customers drawn anew for each order.
      size <- sample(1:6, 150, TRUE)
      lines <- data.frame(order_no = rep(sprintf("o%03d", 1:150), size),
                          who = rep(sample(sprintf("c%02d", 1:60), 150, TRUE), size),
                          kind = rep(sample(c("x", "y"), 150, TRUE), size),
                          net = round(rep(rnorm(150, 50, 10), size) + rnorm(sum(size)), 2))
    })
    got <- ll_associations(ll_book(lines, fields = c(order_no = "identifier"),
                                   metrics = list(revenue = "sum(net)")),
                           metrics = "revenue", by = c("who", "kind"), shuffles = 99)
    got$strength[match(c("who", "kind"), got$field)] != "no more than chance"
  }, c(NA, NA))
  # One in twenty is expected; three standard errors above it allowed.
  expect_lt(mean(false[1, ]), .05 + 3 * sqrt(.05 * .95 / 60))
  expect_lt(mean(false[2, ]), .05 + 3 * sqrt(.05 * .95 / 60))
})

test_that("a field that only stands for another is shown as running through it", {
  withr::with_seed(7, {
    n <- 3000
    size <- sample(c("small", "large"), n, TRUE)
    # Large ones are mostly served by phone; the value depends on size alone.
    channel <- ifelse(runif(n) < .85, ifelse(size == "large", "phone", "web"),
                      sample(c("phone", "web"), n, TRUE))
    lines <- data.frame(order_no = sprintf("o%04d", 1:n), size = size, channel = channel,
                        other = sample(letters[1:3], n, TRUE),
                        net = round(ifelse(size == "large", 200, 50) + rnorm(n, 0, 40), 2))
    # A code that is just a finer form of size.
    lines$code <- paste0(substr(lines$size, 1, 1), sample(1:5, n, TRUE))
  })
  got <- ll_associations(ll_book(lines, fields = c(order_no = "identifier", code = "dimension"),
                                 metrics = list(revenue = "sum(net)")), metrics = "revenue")
  expect_identical(got$through[match(c("size", "channel", "code", "other"), got$field)],
                   c("", "size", "size", ""))
  expect_lt(got$left[got$field == "channel"], .01)
  expect_identical(got$strength[match(c("size", "other"), got$field)],
                   c("strong", "no more than chance"))
  expect_match(ll_finding(got),
               paste0("^Of 4 fields looked at, what goes most with revenue of lines is size, ",
                      "7[0-9] % of its variation \\(strong\\); next"))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "Going together is no cause")
})

test_that("a seed gives the same again; large books are sampled by whole orders", {
  ask <- function(...) as.data.frame(ll_associations(demo_book(), metrics = "revenue",
                                                     by = c("family", "rep"), shuffles = 49, ...))
  one <- ask()
  expect_identical(one, ask())
  withr::with_options(list(longladder.threads = 2), expect_identical(one, ask()))
  expect_false(identical(one$chance, ask(seed = 2)$chance))
  few <- ll_associations(demo_book(), metrics = "revenue", by = c("family", "rep"), shuffles = 49,
                         sample = 5000)
  expect_match(ll_reading(few), "of 40,512 lines, whole orders taken evenly")
  expect_lt(abs(few$explained[few$field == "family"] - one$explained[one$field == "family"]), .05)
  expect_true(all(ll_proof(few)$holds))
})

test_that("one level, one line, all equal, nothing there", {
  open <- function(...) ll_book(data.frame(...), metrics = list(revenue = "sum(net)"))
  one <- ll_associations(open(k = "a", net = 5), metrics = "revenue")
  expect_match(ll_finding(one), "does not vary")
  level <- ll_associations(open(k = rep("a", 9), net = 1:9), metrics = "revenue")
  expect_match(ll_finding(level), "No field here can go with")
  expect_match(paste(ll_notes(level)$text, collapse = " "), "k \\(one name only\\)")
  equal <- ll_associations(open(k = c("a", "a", "b", "b"), net = 3), metrics = "revenue")
  expect_match(ll_finding(equal), "does not vary: there is nothing to go with")
  none <- ll_associations(open(k = c("a", "b"), net = c(1, 2)), metrics = "revenue",
                          where = "k == \"a\" & net > 5")
  expect_match(ll_finding(none), "no line has a revenue")
  each <- ll_associations(open(k = c("a", "b", "c", "d"), net = c(1, 2, 5, 9)), metrics = "revenue")
  expect_match(paste(ll_notes(each)$text, collapse = " "), "nearly a name for each")
  for (x in list(one, level, equal, none, each)) {
    expect_true(all(ll_proof(x)$holds))
    expect_equal(nrow(x), 0)
  }
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (x in list(one, ll_associations(demo_book(), each = "item", metrics = "margin_rate",
                                      shuffles = 19),
                 ll_associations(demo_book(), metrics = "revenue",
                                 shuffles = 19))) expect_silent(plot(x))
})

test_that("refusals say what to do", {
  book <- demo_book()
  expect_error(ll_associations(book, metrics = "margin_rate"), "Say what to count",
               class = "ll_error_argument")
  expect_error(ll_associations(book, metrics = c("revenue", "units")), "one metric",
               class = "ll_error_argument")
  expect_error(ll_associations(book, metrics = "revenue", by = "famly"), "Nearest: 'family'",
               class = "ll_error_word")
  expect_error(ll_associations(book, metrics = "revenue", by = "units"),
               "is a metric; lines have none", class = "ll_error_argument")
  expect_error(ll_associations(book, each = "account", metrics = "revenue", by = "quantity"),
               "sum\\(quantity\\)", class = "ll_error_argument")
  expect_error(ll_associations(book, metrics = "revenue", shuffles = 5), "'shuffles'",
               class = "ll_error_argument")
})
