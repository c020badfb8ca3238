# A file read in pieces is the file read at once, wherever the cuts fall.

# Columns that are laid aside in files are the same as well.
read_both <- function(file, size, ...) {
  read <- function(size, aside = Inf) {
    withr::local_options(longladder.piece = size, longladder.aside = aside)
    tryCatch(list(book = ll_book(file, cache = FALSE, ...)), ll_error = identity)
  }
  list(whole = read(1e9), pieces = read(size), aside = read(size, 1))
}

expect_same_book <- function(both, info) {
  for (way in names(both)[-1]) expect_same_books(both$whole, both[[way]], paste(info, way))
}

expect_same_books <- function(whole, pieces, info) {
  if (inherits(whole, "ll_error")) {
    expect_identical(conditionMessage(pieces), conditionMessage(whole), info = info)
    return(invisible())
  }
  whole <- whole$book
  pieces <- pieces$book
  expect_identical(format(pieces), format(whole), info = info)
  expect_identical(pieces$fields, whole$fields, info = info)
  # A cell of two quotes holds no name, as an empty one does.
  texts <- function(x) {
    if (is.factor(x)) x <- as.character(x)
    if (is.character(x)) ifelse(x == "", NA, x) else x
  }
  expect_equal(lapply(pieces$source$columns, texts), lapply(whole$source$columns, texts),
               info = info)
  expect_identical(pieces$source$coded, whole$source$coded, info = info)
}

# Columns whose kind shows late: whole numbers, then decimals; numbers, then a word; gaps first;
# days, then no day; names that look like numbers; quotes, breaks and separators within cells.
late_lines <- function(seed, n) {
  withr::with_seed(seed, {
    late <- function(first, then) ifelse(seq_len(n) <= n * runif(1, .3, .95), first, then)
    cells <- list(
      order_no = paste0("N", sample(n, n, TRUE)),
      day = as.character(as.Date("2025-01-01") + sample(300, n, TRUE)),
      net = late(sample(100, n, TRUE), round(runif(n, 1, 900), 2)),
      mixed = late(sample(9, n, TRUE), sample(c("x", "7"), n, TRUE)),
      gaps = late("", sample(c("a", "b", ""), n, TRUE)), number_late = late("", 1:n / 4),
      zeros = late(sample(9, n, TRUE), "007"), long = late("12", "123456789012345678"),
      due = late(as.character(as.Date("2025-03-01") + 1:n), sample(c("2025-05-05", "soon"), 1)),
      money = late("5", sample(c("(45.00)", "1,234.50", "EUR 9"), 1)),
      name = sample(c("caf\u00e9", "a, b", "say \"hi\"", "two\nlines", " lead", "", "NA",
                      "Zo\u00eb", "O'Brien"), n, TRUE))
    keep <- sort(sample(length(cells), sample(4:length(cells), 1)))
    as.data.frame(cells[unique(c(1:3, keep))])
  })
}

test_that("kinds that show late, names of every sort and gaps are the same in pieces", {
  file <- withr::local_tempfile(fileext = ".csv")
  for (seed in seq_len(cases(12))) {
    data <- late_lines(seed, 60)
    text <- capture.output(utils::write.csv(data, row.names = FALSE, na = ""))
    if (seed %% 3 == 0) text <- c("Sales of the year", "", text)
    if (seed %% 4 == 0) text <- c(text, "", "printed in March")
    con <- file(file, "wb")
    writeLines(enc2utf8(text), con, sep = if (seed %% 5 == 0) "\r\n" else "\n", useBytes = TRUE)
    close(con)
    for (size in c(150, 700)) expect_same_book(read_both(file, size), paste(seed, size))
  }
})

test_that("the demo is the same in pieces, and every answer of it", {
  file <- demo_path("order_lines.csv")
  both <- read_both(file, 3e5, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"))
  expect_same_book(both, "demo")
  for (each in c("account", "rep")) {
    ask <- function(one) ll_standings(one$book, each, c("revenue", "orders"), when = "2025")
    for (way in c("pieces", "aside"))
      expect_identical_result(ask(both[[way]]), ask(both$whole), paste(each, way))
  }
})

test_that("several files, some of them read in pieces, are one book", {
  folder <- withr::local_tempdir()
  files <- file.path(folder, paste0("part-", 1:3, ".csv"))
  sizes <- c(20, 90, 15)
  for (seed in 1:6) {
    for (k in 1:3) {
      data <- late_lines(seed, sizes[k])
      if (k == 3) data <- data[setdiff(names(data), "order_no")]
      data.table::fwrite(data, files[k], na = "")
    }
    expect_same_book(read_both(files, 2000), seed)
  }
})

test_that("a broken line is told by its place in the file, a full folder as such", {
  file <- withr::local_tempfile(fileext = ".csv")
  lines <- paste0("N", 1:300, ",2025-01-01,", 1:300)
  writeLines(c("order_no,day,net", lines[1:250], "N251,2025-01-01,5,6,7", lines[251:300]), file)
  both <- read_both(file, 900)
  expect_match(conditionMessage(both$pieces), "Line 252 has 5 fields where 3 are expected")
  expect_same_book(both, "ragged")
})

test_that("cuts lie at line ends and leave nothing out", {
  file <- withr::local_tempfile(fileext = ".csv")
  for (seed in 1:20) {
    withr::local_seed(seed)
    text <- c("a,b", vapply(sample(0:40, 50, TRUE), function(n) strrep("x", n), ""))
    writeLines(text, file)
    cuts <- internal("piece_cuts")(file, 0, sample(5:300, 1))
    expect_identical(cuts[c(1, length(cuts))], c(4, file.size(file)))
    bytes <- readBin(file, "raw", 1e5)
    expect_true(all(bytes[cuts] == as.raw(10)), info = seed)
    expect_true(all(diff(cuts) > 0), info = seed)
  }
})

test_that("columns that are asked for are the only ones that are read, under every form of text", {
  file <- withr::local_tempfile(fileext = ".csv")
  for (seed in 1:6) {
    data <- late_lines(seed, 60)
    data.table::fwrite(data, file, na = "")
    wanted <- rev(names(data))[seq_len(ncol(data) - 1)]
    both <- read_both(list(file = file, columns = wanted), 500)
    expect_same_book(both, seed)
    if (inherits(both$whole, "ll_error")) next
    all <- ll_book(file, cache = FALSE)
    expect_identical(sort(names(both$whole$book$source$columns)), sort(wanted))
    expect_equal(both$whole$book$source$columns[wanted], all$source$columns[wanted], info = seed)
  }
  expect_error(ll_book(list(file = file, columns = c("nett", "day"))), "no column 'nett'",
               class = "ll_error_word")
})

test_that("a table that does not fit into memory is refused before it is read", {
  file <- demo_path("order_lines.csv")
  withr::local_options(longladder.memory = 5e6)
  expect_error(ll_book(file), "does not fit into memory.*40,535 lines of 13 columns take about",
               class = "ll_error_file")
  expect_identical(ll_book(list(file = file, columns = c("net", "account")))$lines, 40535L)
})
