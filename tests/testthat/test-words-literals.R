# Decimal literals on, just under and just over values that occur, wherever a literal may stand,
# held against whole numbers of millionths: 0.29 times 100 is no whole number in doubles.

micro <- 1e6

literal_lines <- function(seed, n = 60) {
  withr::with_seed(seed, {
    whole <- function(most, step) sample(c(-3:most, NA), n, TRUE) * step
    data.frame(whole = "all", area = sample(c("x", "y"), n, TRUE),
               order_no = paste0("N", sample(n %/% 3, n, TRUE)), one = 1, net = whole(900, 1e4),
               cost = whole(5000, 100), fine = whole(3e6, 1), qty = whole(9, micro))
  })
}

as_decimals <- function(x) {
  numbers <- c("net", "cost", "fine", "qty")
  x[numbers] <- lapply(x[numbers], function(v) v / micro)
  x
}

# A decimal of up to six places near a value, as millionths and as typed.
draw_literal <- function(values) {
  near <- values[!is.na(values)][sample(sum(!is.na(values)), 1)]
  step <- micro / 10^sample(0:6, 1)
  at <- near + sample(c(0, 0, -1, 1), 1) * step
  list(at = at, text = sub("\\.?0+$", "", sprintf("%s%d.%06d", if (at < 0) "-" else "",
                                                  as.integer(abs(at) %/% micro),
                                                  as.integer(abs(at) %% micro))))
}

literal_rows <- list(net = function(l) l$net, cost = function(l) l$cost, fine = function(l) l$fine,
                     "(net + cost)" = function(l) l$net + l$cost,
                     "(net - 2 * cost)" = function(l) l$net - 2 * l$cost,
                     "(net * qty)" = function(l) l$net * l$qty / micro,
                     "abs(fine - net)" = function(l) abs(l$fine - l$net),
                     "(cost * 3)" = function(l) l$cost * 3,
                     "(net * cost)" = function(l) l$net * l$cost / micro)

# list(text, meets): a condition with literals, and which lines meet it.
draw_condition <- function(lines, own = literal_rows) {
  row <- sample(names(own), 1)
  v <- own[[row]](lines)
  a <- draw_literal(v)
  b <- draw_literal(v)
  op <- sample(c("==", "!=", "<", "<=", ">", ">="), 1)
  known <- !is.na(v)
  switch(sample(4, 1),
         list(text = paste(row, op, a$text), meets = known & do.call(op, list(v, a$at))),
         list(text = paste(a$text, op, row), meets = known & do.call(op, list(a$at, v))),
         list(text = paste0("between(", row, ", ", a$text, ", ", b$text, ")"),
              meets = known & v >= a$at & v <= b$at),
         list(text = paste0(row, " %in% c(", a$text, ", ", b$text, ")"),
              meets = known & (v == a$at | v == b$at)))
}

literal_book <- function(source, ...) {
  ll_book(source, fields = c(order_no = "identifier", net = "measure", cost = "measure",
                             fine = "measure", qty = "measure"), ...)
}

expect_literals <- function(kind, seeds) {
  compared <- 0
  for (seed in seeds) {
    lines <- literal_lines(seed)
    book <- literal_book(if (kind == "frame") as_decimals(lines) else
                         lines_in(kind, as_decimals(lines)))
    withr::local_seed(seed)
    made <- replicate(30, draw_condition(lines), simplify = FALSE)
    formulas <- stats::setNames(sprintf("sum(one[%s])", vapply(made, `[[`, "", "text")),
                                paste0("m", 1:30))
    got <- ll_standings(book, "area", formulas, where = made[[1]]$text)
    counted <- made[[1]]$meets
    failed <- ll_proof(got)$check[!ll_proof(got)$holds]
    expect_identical(failed, character(), info = paste(kind, seed))
    for (i in seq_along(made)) {
      want <- tapply(counted & made[[i]]$meets, lines$area, sum)
      found <- got[[paste0("m", i)]][match(names(want), got$area)]
      found[is.na(found)] <- 0
      expect_equal(found, unname(as.numeric(want)), info = paste(kind, seed, made[[i]]$text,
                                                                 "where", made[[1]]$text))
      compared <- compared + 1
    }
  }
  compared
}

test_that("literals mean the decimal that was typed, in lines at hand", {
  skip_unless_all()
  expect_gte(expect_literals("frame", 1:40), 1200)
})

test_that("literals mean the decimal that was typed, in databases", {
  skip_unless_all()
  for (kind in database_kinds()) expect_gte(expect_literals(kind, 101:105), 150)
})

test_that("literals mean the decimal that was typed for orders, parameters, bands and names", {
  for (seed in some_of(201:215, 3)) {
    lines <- literal_lines(seed)
    withr::local_seed(seed)
    level <- draw_literal(lines$cost)
    orders <- tapply(lines$cost, lines$order_no, function(v) if (all(is.na(v))) NA else
                     sum(v, na.rm = TRUE))
    it <- draw_literal(orders)
    for (kind in c("frame", "sqlite")) {
      book <- literal_book(if (kind == "frame") as_decimals(lines) else
                           lines_in(kind, as_decimals(lines)),
                           parameters = list(level = level$at / micro),
                           bands = list(size = list(of = "cost", from = as.numeric(level$text),
                                                    labels = "over", below = "under")))
      got <- ll_standings(book, "whole", c(n = "sum(one[cost > level])",
                                         big = sprintf("count(per(order_no, sum(cost))[it >= %s])",
                                                       it$text),
                                         same = sprintf("count(per(order_no, sum(cost))[it == %s])",
                                                        it$text),
                                         over = "sum(one[size == \"over\"])"))
      info <- paste(kind, seed, level$text, it$text)
      expect_true(all(ll_proof(got)$holds), info = info)
      expect_equal(unlist(as.data.frame(got)[c("n", "big", "same", "over")], use.names = FALSE),
                   c(sum(lines$cost > level$at, na.rm = TRUE), sum(orders >= it$at, na.rm = TRUE),
                     sum(orders == it$at, na.rm = TRUE), sum(lines$cost >= level$at, na.rm = TRUE)),
                   info = info)
    }
  }
})
