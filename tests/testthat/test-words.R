# The languages: text to tree, tree to text, refusals.

read_metric <- internal("read_metric")
read_condition <- internal("read_condition")
tree_text <- internal("tree_text")

test_that("a formula printed and read again is the same tree", {
  metrics <- c("sum(net)", "sum(net[qty >= 10 & area == \"x\"])", "count()", "distinct(order_no)",
               "mean(net - cost)", "(sum(a) - sum(b)) / sum(c)", "-sum(net[qty < 0])", "2 * sum(a)",
               "sum(`odd name` * 2)", "sum(a) - (sum(b) - sum(c))", "abs(sum(a))", "x / y / 2",
               "sum((a + b)[z == 1])", "count(x[is.na(y)])", "1 - sum(a) / sum(b)")
  for (text in metrics) {
    tree <- read_metric(text, "metric")
    expect_identical(read_metric(tree_text(tree), "metric"), tree, info = text)
  }
  conditions <- c("a == 'x'", "a %in% c('x', 'y') & b > 3", "!(a == 'x' | b <= -1)",
                  "is.na(a) | a != \"quote \\\" and \\n line\"", "(a == 1 | b == 2) & c == 3",
                  "a - b > 0.5", "1 < a")
  for (text in conditions) {
    tree <- read_condition(text)
    expect_identical(read_condition(tree_text(tree)), tree, info = text)
  }
})

test_that("a one-sided formula is the same tree as its text", {
  expect_identical(read_metric(~ sum(net[qty > 3]), "m"), read_metric("sum(net[qty > 3])", "m"))
  expect_identical(read_condition(~ area == "x" & qty > 3), read_condition("area == 'x' & qty > 3"))
})

test_that("nothing typed is ever run: code is refused as a metric and as a condition", {
  trap <- tempfile()
  attacks <- c(
    sprintf("system('touch %s')", trap), sprintf("file.create('%s')", trap),
    sprintf("sum(system('touch %s'))", trap), sprintf("sum(net[system('touch %s') == 0])", trap),
    sprintf("base::file.create('%s')", trap), sprintf("(function() file.create('%s'))()", trap),
    sprintf("{file.create('%s')}", trap), sprintf("sum(eval(parse(text = 'file.create(\"%s\")')))",
                                                  trap),
    sprintf("do.call(file.create, list('%s'))", trap), sprintf("net <- file.create('%s')", trap),
    sprintf("`system`('touch %s')", trap), sprintf("'system'('touch %s')", trap),
    sprintf("a == b; file.create('%s')", trap), sprintf("if (file.create('%s')) a == 1", trap),
    sprintf("sapply('%s', file.create)", trap), sprintf("c(file.create('%s'))", trap),
    sprintf("a %%in%% c(file.create('%s'))", trap), sprintf("a %%in%% file.create('%s')", trap),
    sprintf("is.na(file.create('%s'))", trap), sprintf("get('file.create')('%s')", trap),
    "~ a", "a$b", "a@b", "a[[1]]", "function(x) x", "quit()", "q()", "sum(net)(1)", "NULL == a",
    "-'text'", "TRUE", "a == TRUE", "a %o% b", "sum()", "sum(a, b)", "sum(x = a)", "sum(a[])",
    "a == ", "sum(", ")", "", " ", "a b", "@", "\\", "1e999 == a", "sum(net[1])", "\"a\"",
    "while(1) 1",
    "repeat {}", "for (i in 1) i", "a := 1", "?sum", "a == NA", "Inf < a", "mean(sum(net))",
    "distinct(a + b)", "library(stats)", "sum(c(1, 2))",
    sprintf("sum(per(order_no, file.create('%s')))", trap),
    sprintf("sum(per(file.create('%s'), sum(net)))", trap),
    sprintf("ifelse(file.create('%s'), 1, 2)", trap),
    sprintf("sum(ifelse(net > 1, file.create('%s'), 2))", trap),
    sprintf("month(file.create('%s'))", trap),
    sprintf("contains(rep, file.create('%s'))", trap), sprintf("between(net, 0, file.create('%s'))",
                                                               trap),
    sprintf("quantile(net, file.create('%s'))", trap), sprintf("growth(file.create('%s'))", trap),
    sprintf("count(per(order_no, sum(net))[file.create('%s')])", trap),
    sprintf("as_of(file.create('%s'))", trap),
    sprintf("sum(`file.create`('%s'))", trap), sprintf("sum(net)\nfile.create('%s')", trap),
    "sum(net %>% q)", "sum(net |> q())",
    "\\(x) x", "sum((\\(x) x)(net))", "new.env()", "Recall()", "Sys.getenv('HOME')",
    "sum(net, net)", "net[[1]] == 2",
    "sum(net$q)", "sum(.Internal(q()))", "per(order_no, sum(net))", "it > 5", "sum(it)",
    "assign('x', 1)", "sum(get('net'))", "local(1)", "sum(with(x, net))", "environment()",
    "sum(net)$x", "Reduce(sum, net)",
    sprintf("unlink('%s')", trap), "sum(Negate(is.na)(net))", "options(warn = 2)",
    "sum(net[net[1]])", "on.exit(1)",
    "tryCatch(1)", "sum(identity(net))", "max(net)(net)", "ifelse(net > 1, 1)")
  book <- small_book()
  for (text in some_of(attacks, 5)) {
    for (reader in list(function(x) read_metric(x, "metric"), read_condition)) {
      e <- tryCatch(reader(text), error = identity)
      if (inherits(e, "error")) expect_s3_class(e, "ll_error")
    }
    expect_error(ll_standings(book, "rep", where = text), class = "ll_error", info = text)
    expect_error(ll_book(small_lines(), metrics = list(m = text)), class = "ll_error", info = text)
    expect_error(ll_book(small_lines(), fields = list(f = list(is = text))), class = "ll_error",
                 info = text)
    expect_error(ll_book(small_lines(), bands = list(b = list(of = text, from = 1))),
                 class = "ll_error", info = text)
    expect_error(ll_book(small_lines(), bands = list(b = list(of = text, each = "rep", from = 1))),
                 class = "ll_error", info = text)
    expect_error(ll_book(small_lines(), exclude = text), class = "ll_error", info = text)
    expect_error(ll_standings(book, text), class = "ll_error", info = text)
    expect_error(ll_standings(book, "rep", when = text), class = "ll_error", info = text)
  }
  expect_gt(length(attacks), 100)
  expect_false(file.exists(trap))
})

test_that("refusals quote the word and offer the nearest", {
  book <- small_book()
  expect_snapshot(error = TRUE, {
    ll_book(small_lines(), metrics = c(a = "sum(nett)"))
    ll_book(small_lines(), metrics = c(a = "middle(net)"))
    ll_book(small_lines(), metrics = c(a = "sum(rep)"))
    ll_book(small_lines(), metrics = c(a = "sum(order_no)"))
    ll_book(small_lines(), metrics = c(a = "net"))
    ll_book(small_lines(), metrics = c(a = "b + 1", b = "a * 2"))
    ll_standings(book, "rep", where = "area = \"Moor\"")
    ll_standings(book, "rep", where = "area == \"Mor\"")
    ll_standings(book, "rep", where = "qty == \"three\"")
    ll_standings(book, "rep", where = "area == 3")
    ll_standings(book, "rep", where = "day > \"soon\"")
    ll_standings(book, "rep", where = "area > \"Moor\"")
    ll_standings(book, "rep", where = "qty > 3 && area == \"Moor\"")
    ll_standings(book, "reps", metrics = c("revenu", "order"), when = "last quart")
  })
})

test_that("conditions are two-valued and agree with base R", {
  lines <- random_lines(3, 300)
  book <- ll_book(lines, metrics = c(n = "count()"))
  cases <- list(
    list("area == 'x'", lines$area %in% "x"),
    list("area != 'x'", !is.na(lines$area) & lines$area != "x"),
    list("!(area == 'x')", !lines$area %in% "x"),
    list("is.na(area) & qty > 2", is.na(lines$area) & lines$qty %in% 3:6),
    list("qty <= 0 | net > 100", lines$qty %in% -2:0 | (!is.na(lines$net) & lines$net > 100)),
    list("rep %in% c('Ann', 'Bo')", lines$rep %in% c("Ann", "Bo")),
    list("qty %in% c(1, 2)", lines$qty %in% 1:2),
    list("net * 2 > qty * 40", !is.na(lines$net * lines$qty) & lines$net * 2 > lines$qty * 40),
    list("day >= '2025-06-01'", lines$day >= as.Date("2025-06-01")),
    list("10 < net", !is.na(lines$net) & lines$net > 10))
  for (case in cases) {
    got <- ll_standings(book, "rep", where = case[[1]])
    want <- table(ifelse(is.na(lines$rep), "(none)", lines$rep)[case[[2]]])
    expect_equal(got$n[order(got$rep)], as.vector(want[sort(names(want))]), info = case[[1]])
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("0.1 + 0.2 is at most 0.3", {
  lines <- data.frame(k = c("a", "b", "a"), day = as.Date("2026-01-01"), x = c(0.1, 0.1, 0.5),
                      y = c(0.2, 0.3, 0.5))
  book <- ll_book(lines, metrics = c(n = "count()"))
  got <- ll_standings(book, "k", where = "x + y <= 0.3")
  expect_equal(got$n, 1)
})
