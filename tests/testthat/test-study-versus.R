# Versus: by hand, against base R, a planted reversal with its weights, and what is drawn.

test_that("a small book by hand, zeros filled", {
  got <- ll_versus(small_book(), "rep", c("Ida", "Tom"), "area", c("revenue", "orders", "average"))
  # Ida: Moor 30.30, Fen 0.10; Tom: Fen 35.30.
  expect_equal(got$Ida[match(c("Moor", "Fen"), got$area)], c(30.3, .1))
  expect_equal(got$Tom[match(c("Moor", "Fen"), got$area)], c(0, 35.3))
  expect_equal(got$difference[match("Fen", got$area)], -35.2)
  expect_equal(got$ratio[match(c("Moor", "Fen"), got$area)], c(NA, .1 / 35.3))
  expect_identical(got$leader[match(c("Moor", "Fen"), got$area)], c("Ida", "Tom"))
  foot <- ll_part(got, "foot")
  expect_equal(c(foot$Ida, foot$Tom), c(30.4, 35.3))
  overall <- ll_part(got, "overall")
  expect_equal(overall$value[overall$metric == "orders"], c(2, 2))
  expect_true(all(ll_proof(got)$holds))
  expect_match(ll_finding(got), "^Tom leads by revenue, 35.30 against 30.40; of 2 areas, Ida leads in 1 and Tom leads in 1")
})

test_that("cells and totals agree with base R on random lines; rates are missing where there are no lines", {
  for (seed in 1:8) {
    lines <- random_lines(seed, 120)
    book <- ll_book(lines, fields = c(order_no = "identifier"), metrics = list(average = "sum(net) / count()", revenue = "sum(net)"))
    for (metric in c("average", "revenue")) {
      got <- ll_versus(book, "rep", c("Ann", "Cy", "Di"), "month(day)", metric, where = "qty > 1")
      expect_true(all(ll_proof(got)$holds))
      for (name in c("Ann", "Di")) for (i in seq_len(nrow(got))) {
        mine <- lines[lines$rep %in% name & format(lines$day, "%Y-%m") == got$day_month[i] & lines$qty %in% 2:9, ]
        sum <- if (nrow(mine) && all(is.na(mine$net))) NA else sum(mine$net, na.rm = TRUE)
        want <- if (metric == "revenue") sum else if (nrow(mine)) sum / nrow(mine) else NA
        expect_equal(got[[name]][i], as.numeric(want))
      }
    }
  }
})

test_that("a whole that says the reverse of its parts is pointed out with the weights behind it", {
  # In every area B's rate is higher; A sells mostly where rates are high.
  lines <- data.frame(k = rep(c("A", "B"), each = 3), area = rep(c("x", "y", "z"), 2), day = as.Date("2026-01-01"),
                      part = c(54, 2, 1, 7, 30, 2), whole = c(90, 10, 10, 10, 90, 10))
  book <- ll_book(lines, fields = c(k = "dimension", part = "measure", whole = "measure"),
                  metrics = list(rate = list(is = "sum(part) / sum(whole)", show = "percent")))
  got <- ll_versus(book, "k", c("A", "B"), "area")
  expect_true(all(got$leader == "B"))
  expect_equal(unlist(ll_part(got, "foot")[c("A", "B")], use.names = FALSE), c(57 / 110, 39 / 110))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "A leads as a whole, but B in 3 of 3 areas: x weighs 82 % in A and 9 % in B")
})

test_that("the rest is gathered and nothing is lost; names without lines are told", {
  got <- ll_versus(demo_book(), "territory", c("Moor", "Fen"), "item", c("revenue", "orders"), top = 4)
  expect_equal(nrow(got), 5)
  expect_true(all(ll_proof(got)$holds))
  lines <- demo_lines()
  expect_equal(sum(got$Fen), sum(lines$net[lines$territory == "Fen"], na.rm = TRUE))
  silent <- ll_versus(demo_book(), "account", c("00251", setdiff(
    utils::read.csv(demo_path("accounts.csv"), colClasses = "character")$account, lines$account)[1]), "family")
  expect_match(paste(ll_notes(silent)$text, collapse = " "), "has no lines in this question")
  expect_true(all(silent[[3]] == 0))
})

test_that("refusals, and every shape draws", {
  book <- small_book()
  expect_error(ll_versus(book, "rep", c("Ida", "Tomm"), "area"), "Nearest: 'Tom'", class = "ll_error_word")
  expect_error(ll_versus(book, "rep", c("Ida", "Ida"), "area"), "given twice", class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", "Ida", "area"), "two to five", class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", c("Ida", "Tom"), "rep"), "another dimension", class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", c("Ida", "Tom")), "'by' must be given", class = "ll_error_argument")
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  shapes <- list(
    ll_versus(book, "rep", c("Ida", "Tom"), "area"), ll_versus(book, "rep", c("Ida", "Tom", "Uma"), "month(day)", "average"),
    ll_versus(demo_book(), "territory", c("Moor", "Fen", "Vale", "Coast", "Downs"), "family", "margin_rate"),
    ll_versus(demo_book(), "channel", c("web", "fair"), "account"), ll_versus(book, "rep", c("Ida", "Tom"), "area", when = "2030"))
  for (x in shapes) expect_silent(plot(x))
})
