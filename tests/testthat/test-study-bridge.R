# Bridge: every split against base R or a brute force, swapped periods, worked examples, odd books,
# pictures.

bridge_lines <- function(seed = 1, n = 400) {
  withr::with_seed(seed, {
    k <- sample(c(sprintf("k%02d", 1:25), NA), n, TRUE)
    data.frame(order_no = sprintf("o%03d", sample(n, n, TRUE)),
               day = as.Date("2024-01-01") + sample(0:1000, n, TRUE), k = k,
               kind = sample(c("x", "y", "z", "it's \"odd\"\n", NA), n, TRUE),
               unit = ifelse(k > "k12", "kg", "piece"), qty = sample(c(-1, 0:6, NA), n, TRUE),
               net = sample(c(round(rnorm(n, 40, 60), 2), NA), n, TRUE),
               cost = round(runif(n, 1, 20), 2))
  })
}
bridge_book <- function(lines = bridge_lines(), ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension", kind = "dimension",
                            unit = "dimension", qty = "measure", net = "measure", cost = "measure"),
          date = "day", order = "order_no", metrics = list(revenue = "sum(net)",
                                                           costs = "sum(cost)",
                                                           rate = "sum(cost) / sum(qty[qty > 0])",
                                                           average = "mean(net)",
                                                           orders = "distinct(order_no)",
                                                           lines_each = "count() / orders",
                         per_line = "revenue / count()", middle = "median(net)",
                                                           buyers = "distinct(k)"), ...)
}
then_now <- function(lines, then = "2024",
                     now = "2025") list(then = lines[format(lines$day, "%Y") == then, ],
                                        now = lines[format(lines$day, "%Y") == now, ])
added <- function(x, by, levels) vapply(levels, function(l) sum(x[!is.na(by) & by == l],
                                                                na.rm = TRUE), 0, USE.NAMES = FALSE)
with_none <- function(x) ifelse(is.na(x), "(none)", x)
swap <- function(book, ...) list(ll_bridge(book, ..., when = "2025", against = "2024"),
                                 ll_bridge(book, ..., when = "2024", against = "2025"))

test_that("segments are those of base R, add up, and flip with the periods", {
  withr::local_seed(20)
  for (seed in some_of(1:4, 3)) {
    lines <- bridge_lines(seed)
    book <- bridge_book(lines)
    both <- swap(book, "revenue", "k", top = 100)
    t <- lapply(then_now(lines), function(d) transform(d, k = with_none(k)))
    got <- both[[1]]
    names <- union(t$then$k, t$now$k)
    expect_setequal(got$k, names)
    expect_equal(got$revenue, added(t$now$net, t$now$k, got$k))
    expect_equal(got$revenue_before, added(t$then$net, t$then$k, got$k))
    expect_equal(got$revenue_change, got$revenue - got$revenue_before)
    expect_identical(got$presence, ifelse(!got$k %in% t$then$k, "new",
                                          ifelse(!got$k %in% t$now$k, "gone", "stayed")))
    gross <- sum(abs(got$revenue_change))
    expect_equal(got$gross_share, abs(got$revenue_change) / gross)
    net <- sum(t$now$net, na.rm = TRUE) - sum(t$then$net, na.rm = TRUE)
    if (abs(net) < .1 * gross) expect_true(all(is.na(got$net_share))) else
      expect_equal(got$net_share, got$revenue_change / net)
    expect_equal("cancel" %in% ll_notes(got)$kind, abs(net) < .1 * gross)
    expect_true(all(diff(got$revenue_change[got$revenue_change >= 0]) <= 0) &&
                all(diff(got$revenue_change[got$revenue_change < 0]) >= 0))
    back <- both[[2]]
    expect_equal(back$revenue_change[match(got$k, back$k)], -got$revenue_change)
    expect_true(all(ll_proof(got)$holds) && all(ll_proof(back)$holds))
    steps <- ll_part(got, "steps")
    expect_equal(steps$to[nrow(steps)], sum(t$now$net, na.rm = TRUE))
    expect_equal(steps$from[1], sum(t$then$net, na.rm = TRUE))
    expect_equal(steps$from[-1], steps$to[-nrow(steps)])
    again <- ll_bridge(bridge_book(lines[sample(nrow(lines)), ]), "revenue", "k", top = 100,
                       when = "2025", against = "2024")
    expect_equal(as.data.frame(again), as.data.frame(got))
  }
})

test_that("small steps are gathered, gains and losses apart", {
  lines <- bridge_lines(2)
  all <- ll_bridge(bridge_book(lines), "revenue", "k", top = 100, when = "2025", against = "2024")
  book <- bridge_book(lines)
  few <- ll_bridge(book, "revenue", "k", top = 5, when = "2025", against = "2024")
  expect_equal(nrow(few), 5)
  biggest <- all[order(-abs(all$revenue_change)), ]
  expect_setequal(few$k, biggest$k[1:5])
  rest <- biggest[-(1:5), ]
  foot <- ll_part(few, "foot")
  expect_equal(foot$revenue_change[grepl("other gains", foot$k)],
               sum(rest$revenue_change[rest$revenue_change > 0]))
  expect_equal(foot$revenue_change[grepl("other losses", foot$k)],
               sum(rest$revenue_change[rest$revenue_change < 0]))
  expect_equal(foot$revenue_change[foot$k == "all gains"],
               sum(all$revenue_change[all$revenue_change > 0]))
  steps <- ll_part(few, "steps")
  expect_equal(sum(steps$change), foot$revenue_change[foot$k == "total"])
  expect_equal(diff(steps$change < 0), c(rep(0, sum(steps$change >= 0) - 1), 1,
                                         rep(0, sum(steps$change < 0) - 1)))
  detail <- ll_detail(few, row = 1)
  expect_true(all(detail$k == few$k[1]))
})

test_that("a rate splits into rates and mix by the midpoint formula, exactly", {
  for (seed in some_of(1:4, 3)) {
    lines <- bridge_lines(seed)
    t <- lapply(then_now(lines), function(d) transform(d, kind = with_none(kind)))
    both <- swap(bridge_book(lines), "rate", "kind")
    got <- both[[1]]
    # Over the lines that have both.
    n <- lapply(t, function(d) added(ifelse(is.na(d$qty), NA, d$cost), d$kind, got$kind))
    d <- lapply(t, function(d) added(pmax(d$qty, 0), d$kind, got$kind))
    w <- lapply(d, function(x) x / sum(x))
    r <- Map(`/`, n, d)
    R <- Map(function(n, d) sum(n) / sum(d), n, d)
    expect_equal(got$rate, r$now)
    expect_equal(got$mix_before, w$then)
    expect_equal(got$rate_rate_effect, (r$now - r$then) * (w$now + w$then) / 2)
    expect_equal(got$rate_mix_effect, (w$now - w$then) *
                 ((r$now + r$then) / 2 - (R$now + R$then) / 2))
    expect_equal(sum(got$rate_effect), R$now - R$then)
    expect_equal(both[[2]]$rate_effect[match(got$kind, both[[2]]$kind)], -got$rate_effect)
    expect_true(all(ll_proof(got)$holds))
    mean <- ll_bridge(bridge_book(lines), "average", "kind", when = "2025", against = "2024")
    expect_equal(sum(mean$average_effect), mean(t$now$net, na.rm = TRUE) -
                 mean(t$then$net, na.rm = TRUE))
  }
  # Coming and going is mix; gathered segments add up too.
  lines <- data.frame(order_no = 1:5, day = as.Date(c("2024-05-01", "2024-05-01", "2025-05-01",
                                                      "2025-05-01", "2025-05-01")),
                      k = c("a", "gone", "a", "new", "no weight"), qty = c(10, 10, 10, 30, 0),
                      cost = c(20, 40, 20, 30, 8), net = 1, kind = "x", unit = "u")
  got <- ll_bridge(bridge_book(lines), "rate", "k", when = "2025", against = "2024")
  row <- function(k) got[got$k == k, ]
  mid <- (3 + 58 / 40) / 2
  expect_equal(c(row("gone")$rate_rate_effect, row("gone")$rate_mix_effect), c(0, -.5 * (4 - mid)))
  expect_equal(c(row("new")$rate_rate_effect, row("new")$rate_mix_effect), c(0, .75 * (1 - mid)))
  expect_equal(row("no weight")$rate_rate_effect, 8 / 40)
  expect_equal(sum(got$rate_effect), 58 / 40 - 3)
  few <- ll_bridge(bridge_book(bridge_lines(3)), "per_line", "k", top = 4, when = "2025",
                   against = "2024")
  steps <- ll_part(few, "steps")
  expect_equal(steps$to[nrow(steps)] - steps$from[1], sum(steps$change))
})

test_that("names are new, returned, grown, shrunk or gone as sets say", {
  for (seed in some_of(1:4, 3)) {
    lines <- bridge_lines(seed, 150)
    got <- ll_bridge(bridge_book(lines), "costs", "k", "names", when = "2026", against = "2025")
    t <- then_now(lines, "2025", "2026")
    early <- unique(lines$k[lines$day < as.Date("2026-01-01")])
    now <- unique(t$now$k[!is.na(t$now$k)])
    then <- unique(t$then$k[!is.na(t$then$k)])
    count <- function(step) sum(got$name_count[got$step == step])
    expect_equal(count("new"), length(setdiff(now, early)))
    # Returned: lines before the period then, none in it; a first one between the two is new since.
    first <- vapply(now, function(k) min(as.numeric(lines$day[which(lines$k == k)])), 0)
    expect_equal(count("returned"), sum(!now %in% then & first < as.numeric(as.Date("2025-01-01"))))
    expect_equal(count("gone"), length(setdiff(then, now)))
    same <- intersect(then, now)
    change <- added(t$now$cost, t$now$k, same) - added(t$then$cost, t$then$k, same)
    expect_equal(c(count("grown"), count("shrunk")), c(sum(change > 0), sum(change < 0)))
    expect_equal(sum(got$costs_change), sum(t$now$cost) - sum(t$then$cost))
    alike <- ll_part(got, "like_for_like")
    expect_equal(alike$change, sum(change))
    expect_equal(alike$name_count, length(same))
    expect_equal(alike$growth, sum(change) / sum(added(t$then$cost, t$then$k, same)))
    names <- ll_part(got, "names")
    expect_equal(sum(names$costs_change), sum(got$costs_change))
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("price, volume and mix: a worked example, and steps for what has no price", {
  lines <- data.frame(order_no = 1:9, day = as.Date(rep(c("2024-05-01", "2025-05-01"), c(4, 5))),
                      k = c("a", "b", "old", "b", "a", "b", "fresh", "back", "b"), kind = "x",
                      unit = c("kg", "kg", "piece", "kg", "kg", "kg", "piece", "kg", "kg"),
                      qty = c(10, 20, 5, NA, 12, 10, 3, -1, 0),
                      net = c(100, 100, 40, -7, 144, 60, 33, -6, -2), cost = 1)
  book <- bridge_book(lines)
  got <- ll_bridge(book, "revenue", "k", "price", quantity = "qty", when = "2025", against = "2024")
  step <- function(x, name) x$revenue_change[x$step == name]
  # a: 10 at 10, then 12 at 12; b: 20 at 5, then 10 at 6.
  expect_equal(step(got, "price"), 2 * 11 + 1 * 15)
  expect_equal(step(got, "quantity"), 2 * 11 - 10 * 5.5)
  expect_equal(step(got, "new products"), 33 - 6)
  expect_equal(step(got, "products gone"), -40)
  expect_equal(step(got, "amounts without a quantity"), -2 + 7)
  expect_equal(sum(got$revenue_change), sum(lines$net[5:9]) - sum(lines$net[1:4]))
  expect_true("units" %in% ll_notes(got)$kind)
  mixed <- ll_bridge(book, "revenue", "k", "price", quantity = "qty", alike = "all", when = "2025",
                     against = "2024")
  # The volume falls from 30 to 22; shares 1/3 and 2/3, then 12/22 and 10/22.
  share <- c(1 / 3 + 12 / 22, 2 / 3 + 10 / 22) / 2
  expect_equal(step(mixed, "volume"), -8 * sum(share * c(11, 5.5)))
  expect_equal(step(mixed, "mix"), 26 * sum(c(12 / 22 - 1 / 3, 10 / 22 - 2 / 3) * c(11, 5.5)))
  expect_equal(step(mixed, "price"), step(got, "price"))
  expect_true(all(ll_proof(got)$holds) && all(ll_proof(mixed)$holds))
  for (seed in some_of(1:4, 3)) for (alike in list(NULL, "all", "unit")) {
    lines <- bridge_lines(seed, 600)
    both <- swap(bridge_book(lines), "revenue", "k", "price", quantity = "qty", alike = alike)
    t <- then_now(lines)
    flip <- c("new products" = "products gone", "products gone" = "new products")
    there <- ifelse(both[[1]]$step %in% names(flip), flip[both[[1]]$step], both[[1]]$step)
    expect_equal(both[[2]]$revenue_change[match(there, both[[2]]$step)], -both[[1]]$revenue_change)
    expect_equal(sum(both[[1]]$revenue_change), sum(t$now$net, na.rm = TRUE) -
                 sum(t$then$net, na.rm = TRUE))
    products <- ll_part(both[[1]], "products")
    priced <- products[products$presence == "stayed", ]
    expect_equal(priced$price_effect, (priced$price - priced$price_before) *
                 (priced$quantity + priced$quantity_before) / 2)
    expect_true(all(priced$quantity > 0 & priced$quantity_before > 0))
    parts <- rowSums(priced[grepl("_effect$", names(priced))])
    if (is.null(alike)) expect_equal(parts, priced$revenue_change, ignore_attr = TRUE) else
      expect_equal(sum(parts), sum(priced$revenue_change))
    expect_true(all(ll_proof(both[[1]])$holds))
  }
  # Products of unlike units: volumes are shared within units only, so prices and quantities of one
  # do not reach the other.
  apart <- ll_bridge(bridge_book(bridge_lines(1)), "revenue", "k", "price", quantity = "qty",
                     alike = "unit", when = "2025", against = "2024", where = "unit == 'kg'")
  alone <- ll_bridge(bridge_book(bridge_lines(1)), "revenue", "k", "price", quantity = "qty",
                     alike = "all", when = "2025", against = "2024", where = "unit == 'kg'")
  expect_equal(apart$revenue_change, alone$revenue_change)
})

test_that("factors get Shapley's value, also with zeros; in order as given", {
  brute <- function(then, now) {
    orders <- function(x) if (length(x) < 2) list(x) else
      unlist(lapply(seq_along(x), function(i) lapply(orders(x[-i]), function(r) c(x[i], r))),
             recursive = FALSE)
    all <- orders(seq_along(then))
    Reduce(`+`, lapply(all, function(o) {
      at <- then
      out <- numeric(length(then))
      for (i in o) {
        was <- prod(at)
        at[i] <- now[i]
        out[i] <- prod(at) - was
      }
      out
    })) / length(all)
  }
  shapley <- getFromNamespace("shapley_product", "longladder")
  withr::with_seed(1, for (k in 2:5) {
    then <- round(runif(k, 0, 9))
    now <- round(runif(k, 0, 9))
    expect_equal(shapley(then, now), brute(then, now))
    expect_equal(sum(shapley(then, now)), prod(now) - prod(then))
    expect_equal(shapley(now, then), -shapley(then, now))
  })
  lines <- bridge_lines(1)
  t <- lapply(then_now(lines), function(d) c(length(unique(d$k[!is.na(d$k)])),
                                             length(unique(d$order_no)) /
                                             length(unique(d$k[!is.na(d$k)])),
                                             sum(d$net, na.rm = TRUE) / length(unique(d$order_no))))
  factors <- c("buyers", each = "orders / buyers", size = "revenue / orders")
  got <- ll_bridge(bridge_book(lines), "revenue", into = "factors", factors = factors,
                   when = "2025", against = "2024")
  expect_equal(got$revenue_effect, brute(t$then, t$now))
  expect_equal(got$now, t$now)
  expect_true(all(ll_proof(got)$holds))
  ordered <- ll_bridge(bridge_book(lines), "revenue", into = "factors", factors = factors,
                       in_order = TRUE, when = "2025", against = "2024")
  a <- t$then
  b <- t$now
  expect_equal(ordered$revenue_effect, c((b[1] - a[1]) * a[2] * a[3], b[1] * (b[2] - a[2]) * a[3],
                                         b[1] * b[2] * (b[3] - a[3])))
  # Nobody bought then: the whole change is that of the customers.
  from_nothing <- ll_bridge(bridge_book(lines), "revenue", into = "factors", factors = factors,
                            where = "day >= '2025-01-01' & !is.na(k)", when = "2025",
                            against = "2024")
  expect_equal(from_nothing$revenue_effect, c(sum(lines$net[format(lines$day, "%Y") == "2025" &
                                                            !is.na(lines$k)], na.rm = TRUE), 0, 0))
  expect_error(ll_bridge(bridge_book(lines), "revenue", into = "factors",
                         factors = c("buyers", each = "orders / buyers"), when = "2025",
                         against = "2024"), "is not revenue", class = "ll_error_argument")
})

test_that("unequal periods can be put per day", {
  lines <- data.frame(order_no = 1:4, day = as.Date(c("2025-01-06", "2025-03-31", "2025-04-01",
                                                      "2025-06-30")), k = c("a", "b", "a", "b"),
                      net = c(90, 90, 91, 182), kind = "x", unit = "u", qty = 1, cost = 1)
  plain <- ll_bridge(bridge_book(lines), "revenue", "k", when = "2025-Q2", against = "2025-Q1")
  expect_true(any(grepl("unequal length", ll_notes(plain)$text)))
  got <- ll_bridge(bridge_book(lines), "revenue", "k", per_day = "calendar", when = "2025-Q2",
                   against = "2025-Q1")
  # The book begins on 6 January: 85 days of the first quarter are covered, 91 of the second.
  expect_equal(got$revenue[got$k == "b"], 2)
  expect_equal(got$revenue_before[got$k == "a"], 90 / 85)
  work <- ll_bridge(bridge_book(lines), "revenue", "k", per_day = "working", when = "2025-Q2",
                    against = "2025-Q1")
  days <- function(from, to) sum(!format(seq(as.Date(from), as.Date(to), 1), "%u") %in% c("6", "7"))
  expect_equal(work$revenue[work$k == "b"], 182 / days("2025-04-01", "2025-06-30"))
  expect_equal(work$revenue_before[work$k == "a"], 90 / days("2025-01-06", "2025-03-31"))
  expect_true(all(ll_proof(work)$holds))
})

test_that("the demo's stories are told", {
  book <- demo_book()
  got <- ll_bridge(book, "revenue", "item", when = "2026-Q2")
  expect_identical(got$item[1], "HV-018")
  expect_equal(got$revenue[1], story("hive", "new_hive_2026Q2"))
  expect_identical(got$presence[1], "new")
  expect_match(ll_finding(got),
               paste0("^In Q2 2026, against Q2 2025: revenue rose by 134,042 ",
                      "\\(11.2 %\\) to 1,329,696: gains of .*HV-018"))
  text <- command("bridge", "--brief", demo_path("longladder.yml"), "--metrics", "margin_rate",
                  "--by", "family", "--when", "2026-Q2")
  expect_equal(text$status, 0)
  expect_true(any(grepl("by their mix", text$out)))
})

test_that("what cannot be split is refused with what to do", {
  book <- bridge_book()
  with <- function(...) ll_bridge(book, ..., when = "2025", against = "2024")
  expect_error(with("middle", "k"), "does not add up over segments", class = "ll_error_argument")
  expect_error(with("orders", "k"), "counted in several", class = "ll_error_argument")
  expect_error(with("rate", "k", "names"), "does not add up over names",
               class = "ll_error_argument")
  expect_error(with("lines_each", "k"), "counted in several", class = "ll_error_argument")
  expect_error(with("revenue"), "'by' must be given", class = "ll_error_argument")
  expect_error(with("revenue", "kinds"), "kind", class = "ll_error_word")
  expect_error(with(c("revenue", "costs"), "k"), "one metric", class = "ll_error_argument")
  expect_error(with("revenue", c("k", "kind")), "one dimension", class = "ll_error_argument")
  expect_error(with("revenue", "k", quantity = "qty"), "serves into", class = "ll_error_argument")
  expect_error(with("revenue", "k", "price", quantity = "middle"), "must be one sum",
               class = "ll_error_argument")
  expect_error(with("revenue", "k", "price", quantity = "qyt"), "metric", class = "ll_error_word")
  expect_error(with("revenue", into = "factors"), "'factors' must be given",
               class = "ll_error_argument")
  expect_error(with("revenue", into = "factors", factors = "orders"), "two to eight",
               class = "ll_error_argument")
  expect_error(with("rate", "kind", per_day = "working"), "add up", class = "ll_error_argument")
  expect_error(ll_bridge(book, "revenue", "k", when = "2019", against = "2018"), "no lines in",
               class = "ll_error_data")
  expect_error(ll_bridge(ll_book(data.frame(a = "x", net = 1), metrics = c(revenue = "sum(net)")),
                         "revenue", "a"), "date", class = "ll_error_data")
  status <- command("bridge", "--brief", demo_path("longladder.yml"), "--by", "territry")
  expect_equal(status$status, 2)
  expect_match(status$err, "territory")
})

test_that("odd books: distinct counts, one line, nothing known, one period empty", {
  lines <- bridge_lines(1)
  lines$k[is.na(lines$k)] <- "k01"
  lines$unit <- ifelse(lines$k > "k12", "kg", "piece")
  got <- ll_bridge(bridge_book(lines), "buyers", "unit", when = "2025", against = "2024")
  t <- then_now(lines)
  expect_equal(sum(got$buyers), length(unique(t$now$k)))
  one <- bridge_lines(1)[c(1, 1), ]
  one$day <- as.Date(c("2024-03-01", "2025-03-01"))
  one$net <- c(5, 5)
  flat <- ll_bridge(bridge_book(one), "revenue", "k", when = "2025", against = "2024")
  expect_match(ll_finding(flat), "stayed at")
  expect_s3_class(ggplot2::autoplot(flat), "ggplot")
  unknown <- ll_bridge(bridge_book(lines), "revenue", "k", where = "is.na(net)", when = "2025",
                       against = "2024")
  expect_true(all(unknown$revenue_change == 0) && all(ll_proof(unknown)$holds))
  gone <- ll_bridge(bridge_book(lines), "revenue", "k", where = "day < '2025-01-01'", when = "2025",
                    against = "2024")
  expect_true(all(gone$presence %in% c("gone", "elsewhere")))
  nobody <- ll_bridge(bridge_book(lines), "revenue", "k", where = "qty > 1000", when = "2025",
                      against = "2024")
  expect_equal(nrow(nobody), 0)
  expect_true(any(nzchar(format(nobody))))
  expect_s3_class(ggplot2::autoplot(nobody), "ggplot")
})

test_that("pictures of few and many steps are drawn and described", {
  lines <- bridge_lines(1)
  lines$k <- paste("a rather long name of a customer", lines$k)
  book <- bridge_book(lines)
  for (result in list(ll_bridge(book, "revenue", "unit", when = "2025", against = "2024"),
                      ll_bridge(book, "revenue", "k", top = 13, when = "2025", against = "2024"),
                      ll_bridge(book, "revenue", "k", top = 40, when = "2025", against = "2024"),
                      ll_bridge(book, "rate", "kind", when = "2025", against = "2024"),
                      ll_bridge(book, "revenue", "k", "names", when = "2025", against = "2024"),
                      ll_bridge(book, "revenue", "k", "price", quantity = "qty", when = "2025",
                                against = "2024"))) {
    plot <- ggplot2::autoplot(result)
    expect_no_warning(ggplot2::ggplot_build(plot))
    expect_match(plot$labels$alt, "Steps: ")
  }
})

test_that("price and quantity are refused for what does not add up over products", {
  expect_error(ll_bridge(demo_book(), "orders", by = "rep", into = "price", when = "2026-Q2"),
               "'orders' does not", class = "ll_error_argument")
  expect_error(ll_bridge(demo_book(), "margin_rate", by = "item", into = "price", when = "2026-Q2"),
               class = "ll_error_argument")
})
