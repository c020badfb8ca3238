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
  expect_match(ll_finding(got),
               paste0("^Tom leads by revenue, 35.30 against 30.40; of 2 areas, Ida leads in 1 and ",
                      "Tom leads in 1"))
})

test_that("cells and totals agree with base R on random lines; rates without lines are missing", {
  for (seed in some_of(1:8, 3)) {
    lines <- random_lines(seed, 120)
    book <- ll_book(lines, fields = c(order_no = "identifier"),
                    metrics = list(average = "sum(net) / count()", revenue = "sum(net)"))
    for (metric in c("average", "revenue")) {
      got <- ll_versus(book, "rep", c("Ann", "Cy", "Di"), "month(day)", metric, where = "qty > 1")
      expect_true(all(ll_proof(got)$holds))
      for (name in c("Ann", "Di")) for (i in seq_len(nrow(got))) {
        mine <- lines[lines$rep %in% name & format(lines$day, "%Y-%m") == got$day_month[i] &
                      lines$qty %in% 2:9, ]
        sum <- if (nrow(mine) && all(is.na(mine$net))) NA else sum(mine$net, na.rm = TRUE)
        # An average is of the lines that have an amount.
        want <- if (metric == "revenue") sum else sum / sum(!is.na(mine$net))
        expect_equal(got[[name]][i], as.numeric(want))
      }
    }
  }
})

test_that("a whole that says the reverse of its parts is pointed out with the weights behind it", {
  # In every area B's rate is higher; A sells mostly where rates are high.
  lines <- data.frame(k = rep(c("A", "B"), each = 3), area = rep(c("x", "y", "z"), 2),
                      day = as.Date("2026-01-01"), part = c(54, 2, 1, 7, 30, 2),
                      whole = c(90, 10, 10, 10, 90, 10))
  book <- ll_book(lines, fields = c(k = "dimension", part = "measure", whole = "measure"),
                  metrics = list(rate = list(is = "sum(part) / sum(whole)", unit = "percent")))
  got <- ll_versus(book, "k", c("A", "B"), "area")
  expect_true(all(got$leader == "B"))
  expect_equal(unlist(ll_part(got, "foot")[c("A", "B")], use.names = FALSE), c(57 / 110, 39 / 110))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "A leads as a whole, but B in 3 of 3 areas: x weighs 82 % in A and 9 % in B")
})

test_that("the rest is gathered and nothing is lost; names without lines are told", {
  got <- ll_versus(demo_book(), "territory", c("Moor", "Fen"), "item", c("revenue", "orders"),
                   top = 4)
  expect_equal(nrow(got), 5)
  expect_true(all(ll_proof(got)$holds))
  lines <- demo_lines()
  expect_equal(sum(got$Fen), sum(lines$net[lines$territory == "Fen"], na.rm = TRUE))
  silent <- ll_versus(demo_book(), "account", c("00251", setdiff(
    utils::read.csv(demo_path("accounts.csv"), colClasses = "character")$account,
    lines$account)[1]), "family")
  expect_match(paste(ll_notes(silent)$text, collapse = " "), "has no lines in this question")
  expect_true(all(silent[[3]] == 0))
})

test_that("the headline counts names where a lead is possible, whatever is gathered", {
  for (seed in some_of(1:12, 3)) {
    lines <- random_lines(seed, 150)
    lines$shop <- withr::with_seed(seed, sample(c(paste0("s", 1:14), NA), nrow(lines), TRUE))
    names <- if (seed %% 3) c("Ann", "Cy") else c("Ann", "Cy", "Di")
    book <- ll_book(lines, fields = c(order_no = "identifier", shop = "dimension"),
                    metrics = list(revenue = "sum(net)", average = "sum(net) / count(net)"))
    for (metric in c("revenue", "average")) for (top in list(NULL, 3)) {
      got <- ll_versus(book, "rep", names, "shop", metric, top = top)
      mine <- lines[lines$rep %in% names & !is.na(lines$shop), ]
      cells <- tapply(mine$net, list(mine$shop, factor(mine$rep, names)),
                      function(x) if (all(is.na(x))) NA else
                      if (metric == "revenue") sum(x, na.rm = TRUE) else mean(x, na.rm = TRUE))
      held <- tapply(mine$net, list(mine$shop, factor(mine$rep, names)), length)
      if (metric == "revenue") cells[is.na(held)] <- 0
      cells <- round(cells[rowSums(!is.na(cells)) > 1, , drop = FALSE], 9)
      best <- apply(cells, 1, max, na.rm = TRUE)
      lead <- rowSums(cells == best, na.rm = TRUE) == 1
      times <- vapply(names, function(name) sum(lead & cells[, name] == best, na.rm = TRUE), 0)
      info <- paste(seed, metric, top)
      expect_match(ll_finding(got), paste0("of ", nrow(cells), " shop"), fixed = TRUE, info = info)
      for (name in names) expect_match(ll_finding(got), paste0(name, " leads in ", times[[name]]),
                                       fixed = TRUE, info = info)
      if (sum(!lead)) expect_match(ll_finding(got), paste0("; ", sum(!lead), " (is|are) level"),
                                   info = info)
    }
  }
})

test_that("two parts that say the reverse are pointed out, and nobody leads alone", {
  lines <- data.frame(k = rep(c("A", "B"), each = 2), part = rep(c("small", "large"), 2),
                      good = c(81, 192, 234, 55), all = c(87, 263, 270, 80))
  book <- ll_book(lines, fields = c(k = "dimension", good = "measure", all = "measure"),
                  metrics = list(rate = "sum(good) / sum(all)"))
  got <- ll_versus(book, "k", c("A", "B"), "part")
  expect_match(ll_finding(got), "^B leads .* of 2 parts, A leads in 2 and B leads in 0[.]$")
  expect_match(ll_notes(got)$text,
               "B leads as a whole, but A in 2 of 2 parts: small weighs 77 % in B and 25 % in A",
               all = FALSE)
  lines$part[1] <- "tiny"
  alone <- ll_versus(ll_book(lines, fields = c(k = "dimension", good = "measure", all = "measure"),
                             metrics = list(rate = "sum(good) / sum(all)")), "k", c("A", "B"),
                     "part")
  expect_match(ll_finding(alone), "of 1 part with a rate of both, A leads in 1 and B leads in 0")
  expect_identical(alone$leader[alone$part %in% c("tiny", "small")], c("", ""))
})

test_that("every metric asked for is printed, each in its own format", {
  shown <- format(ll_versus(demo_book(), "territory", c("Moor", "Fen"), "family",
                            c("revenue", "orders", "margin_rate")), width = 100)
  expect_match(shown, "^margin rate +[0-9.]+ % +[0-9.]+ %$", all = FALSE)
  expect_match(shown, "^orders +[0-9,]+ +[0-9,]+$", all = FALSE)
})

test_that("refusals, and every shape draws", {
  book <- small_book()
  expect_error(ll_versus(book, "rep", c("Ida", "Tomm"), "area"), "Nearest: 'Tom'",
               class = "ll_error_word")
  expect_error(ll_versus(book, "rep", c("Ida", "Ida"), "area"), "given twice",
               class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", "Ida", "area"), "two to five", class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", c("Ida", "Tom"), "rep"), "another dimension",
               class = "ll_error_argument")
  expect_error(ll_versus(book, "rep", c("Ida", "Tom")), "'by' must be given",
               class = "ll_error_argument")
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  shapes <- list(
    ll_versus(book, "rep", c("Ida", "Tom"), "area"), ll_versus(book, "rep", c("Ida", "Tom", "Uma"),
                                                               "month(day)", "average"),
    ll_versus(demo_book(), "territory", c("Moor", "Fen", "Vale", "Coast", "Downs"), "family",
              "margin_rate"),
    ll_versus(demo_book(), "channel", c("web", "fair"), "account"),
    ll_versus(book, "rep", c("Ida", "Tom"), "area", when = "2030"))
  for (x in shapes) expect_silent(plot(x))
})
