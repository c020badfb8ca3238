# A result never keeps sentences or a proof about a table that it no longer is.

test_that("whatever changes rows or columns gives a plain data frame", {
  x <- ll_standings(small_book(), "rep")
  plain <- as.data.frame(x)
  changes <- list(
    x[1:2, ], x["revenue"], x[c("rep", "rank")], x[x$revenue > 1, ], x[, 1:2], head(x, 2),
    tail(x, 1),
    rbind(x, x), cbind(x, z = 1), merge(x, data.frame(rep = "Ida", z = 1)),
    transform(x, twice = revenue * 2),
    subset(x, revenue > 10), local({ x$z <- 1; x }), local({ x[["z"]] <- 1; x }),
    local({ x[1, "revenue"] <- 0; x }), local({ names(x)[1] <- "z"; x }), x[order(x$rep), ],
    local({ row.names(x) <- letters[1:4]; x }), as.data.frame(x))
  for (y in changes) {
    expect_identical(class(y), "data.frame")
    expect_null(attr(y, "ll"))
  }
  expect_identical(x[1:2, ], plain[1:2, ])
  expect_identical(x[, "revenue"], plain$revenue)
  expect_equal(transform(x, twice = revenue * 2)$twice, plain$revenue * 2)
  expect_error(ll_finding(x[1:2, ]), class = "ll_error_argument")
})

test_that("a result is taken apart by its functions", {
  x <- ll_standings(small_book(), "rep", top = 1)
  expect_s3_class(x, c("ll_result_standings", "ll_result", "data.frame"), exact = TRUE)
  expect_type(ll_finding(x), "character")
  expect_match(ll_reading(x), "^Reps ranked by revenue \\(sum\\(net\\)\\); all dates")
  expect_named(ll_notes(x), c("kind", "text"))
  expect_named(ll_proof(x), c("check", "expected", "found", "holds"))
  expect_named(ll_part(x), "foot")
  expect_error(ll_part(x, "feet"), "Nearest: 'foot'", class = "ll_error_word")
  expect_equal(ll_settings(x)$top, 1)
})

test_that("wide tables name the columns left out, long ones the rows", {
  x <- ll_standings(demo_book(), "account", c("revenue", "margin", "orders", "units"))
  out <- format(x, width = 60, most = 5)
  expect_true(all(nchar(out, "width") <= 60))
  expect_match(paste(out, collapse = " "), "not shown for want of width: .*units")
  expect_match(paste(out, collapse = " "), "575 more rows")
})

test_that("numbers for people", {
  f <- internal("format_number")
  expect_equal(f(c(1234.5, -2000), "money"), c("1,234", "-2,000"))
  expect_equal(f(c(273149.27, 273149.20), "money"), c("273,149.27", "273,149.20"))
  expect_equal(f(c(0.123, NA, -0.00001), "percent"), c("12.3 %", "-", "0.0 %"))
  expect_equal(f(numeric(), "money"), character())
  expect_equal(f(c(1, 2.5), "rank"), c("1", "2.5"))
  expect_equal(f(c(3, 12), "rank"), c("3", "12"))
  expect_equal(f(1e300, "number"), "1.000e+300")
  expect_equal(f(Inf, "money"), "Inf")
})

test_that("nearest words: by letters and by shared words", {
  nearest <- internal("nearest")
  expect_equal(nearest("revenu", c("orders", "revenue"))[1], "revenue")
  expect_true("account_kind" %in% nearest("client kind", c("account_kind", "net")))
  expect_equal(nearest("zzz", c("a", "b")), character())
  expect_equal(nearest("", "a"), character())
  expect_equal(nearest("a(b", "a(bc"), "a(bc")
})

test_that("the nearest of a great many names are those that a look at each finds", {
  withr::local_seed(14)
  nearest <- internal("nearest")
  parts <- c("Hale", "Moor", "Quarry", "Combe", "Farm", "Apiary", "Z\u00fcrich", "Ltd", "&")
  names <- unique(replicate(12000, paste(c(sample(parts, 3, TRUE), sample(1e5, 1)),
                                         collapse = " ")))
  expect_gt(length(names), 5000)
  distance <- function(word, of) as.vector(utils::adist(word, of, ignore.case = TRUE))
  for (name in sample(names, 20)) {
    word <- paste0(substr(name, 1, 3), "x", substr(name, 5, nchar(name)))
    near <- nearest(word, names)
    expect_length(near, 3)
    # None is nearer than those told.
    expect_equal(min(distance(word, near)), min(distance(word, names)))
  }
  expect_identical(nearest("qqqqqqqqqqqqqqqqqqqqqqqqqqqq", names), character())
  # The kernel's distances are those of base R.
  for (most in 0:4) for (word in tolower(sample(names, 5))) {
    few <- iconv(sample(names, 300), "UTF-8", "ASCII", sub = "u")
    word <- iconv(word, "UTF-8", "ASCII", sub = "u")
    found <- internal("kernel_text_near")(few, word, character(), most, 1000L)
    begins <- startsWith(tolower(few), word)
    expect_setequal(found, which(distance(word, few) <= most | begins))
  }
})

test_that("the change of a rate is in points: in tables, printed, in workbooks, in sentences", {
  asked <- list(
    standings = list(each = "rep", metrics = "margin_rate", when = "2026-Q2",
                     against = "year before"), trend = list(metrics = "margin_rate",
                                                            every = "quarter"),
    bridge = list(metrics = "margin_rate", by = "family", when = "2026-Q2"),
    drill = list(metrics = "margin_rate", when = "2026-Q2",
                 by = c("family", "channel")),
    versus = list(each = "rep", names = c("Nora Quince", "Piers Amory"), by = "family",
                  metrics = "margin_rate"), tiers = list(each = "rep", metrics = "margin_rate",
                                                         tiers = c(Copper = .4, Brass = .45)),
    benchmark = list(each = "rep", metrics = "margin_rate"),
    holders = list(each = "rep", metrics = "margin_rate", which = "highest"))
  for (study in names(asked)) {
    args <- asked[[study]]
    known <- names(formals(getExportedValue("longladder", paste0("ll_", study))))
    args <- args[names(args) %in% known]
    got <- tryCatch(do.call(paste0("ll_", study), c(list(demo_book()), args)),
                    ll_error = function(e) e)
    expect_s3_class(got, "ll_result")
    if (!inherits(got, "ll_result")) next
    columns <- internal("facts")(got)$columns
    change <- grepl("(_change|_effect|beyond_growth|difference|to_(next|fall|benchmark)|^lead)$",
                    columns$name)
    expect_true(any(change), info = study)
    expect_true(all(columns$unit[change] == "points"),
                info = paste(study, columns$name[change & columns$unit != "points"]))
    expect_match(paste(format(got), collapse = " "), "[0-9] points", info = study)
    # In a workbook the cell holds the points themselves.
    file <- withr::local_tempfile(fileext = ".xlsx")
    ll_save(got, file)
    name <- columns$name[change][1]
    cells <- openxlsx::read.xlsx(file, sheet = 1)
    expect_equal(as.numeric(cells[[name]][seq_len(nrow(got))]), as.data.frame(got)[[name]] * 100,
                 tolerance = 1e-6, info = study)
  }
})

test_that("a share in a finding says of what it is, where other lines have some of the total", {
  for (seed in some_of(1:10, 3)) {
    lines <- withr::with_seed(seed, data.frame(k = sample(c(letters[1:8], if (seed %% 2) NA), 60,
                                                          TRUE), net = round(runif(60, 1, 90), 2),
                                               cost = round(runif(60, 1, 40), 2)))
    if (seed %% 3 == 0) lines$net[lines$k %in% "a"] <- -5
    book <- ll_book(lines, metrics = c(revenue = "sum(net)", spent = "sum(cost)"))
    value <- tapply(lines$net, lines$k, sum)
    spent <- tapply(lines$cost, lines$k, sum)
    positive <- sum(value[value > 0])
    of <- paste0(" % of ", if (any(value < 0) || anyNA(lines$k)) "the ",
                 if (any(value < 0)) "positive ", "revenue",
                 if (anyNA(lines$k)) " of these values of k")
    share <- function(x) sprintf("%.1f", 100 * sum(x) / positive)
    said <- function(finding) sub(paste0(".*[ (]([0-9.]+)", of, ".*"), "\\1", finding)
    tiers <- ll_tiers(book, "k", tiers = c(lo = -1000, hi = 250))
    if (any(value >= 250)) expect_identical(said(ll_finding(tiers)), share(value[value >= 250]),
                                            info = seed)
    groups <- ll_tiers(book, "k", groups = 2)
    expect_match(ll_finding(groups), paste0(share(sort(value,
                                                       TRUE)[seq_len(sum(groups$tier ==
                                                                         groups$tier[1]))]), of),
                 fixed = TRUE)
    cut <- ll_pareto(book, "k")
    inside <- cut$k[seq_len(which(cut$revenue_running_share >= .8 - 1e-12)[1])]
    expect_match(ll_finding(cut), paste0(share(value[inside]), of), fixed = TRUE)
    quadrants <- ll_quadrants(book, "k", c("revenue", "spent"))
    good <- value >= mean(value) & spent < mean(spent)
    if (any(good)) expect_match(ll_finding(quadrants), paste0("(", share(value[good]), of, ")"),
                                fixed = TRUE, info = seed)
  }
})
