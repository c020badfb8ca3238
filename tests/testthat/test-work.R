# Work that ends: whatever comes in a hundred kilobytes ends in an answer or a refusal of ours, after
# work of the order of a plain answer's.

rows <- c("order_no,day,rep,net", paste0("o", 1:3, ",2024-01-0", 2:4, ",r", 1:3, ",", 1:3))

repeated <- function(n, form, first = 0) paste(sprintf(form, seq_len(n) - 1 + first), collapse = "")

# Texts of briefs, each under a hundred kilobytes, beside the lines.
heavy_briefs <- function() {
  r <- "metrics: {r: sum(net)}\n"
  chain <- function(order) paste(sprintf("  m%d: m%d + m%d\n", order, order - 1, order - 1),
                                 collapse = "")
  list(
    doubled = paste0("metrics:\n  m0: sum(net)\n", chain(1:40)),
    backwards = paste0("metrics:\n", paste(sprintf("  m%d: m%d + 1\n", 499:1, 498:0), collapse = ""),
                       "  m0: sum(net)\n"),
    chained = paste0("metrics:\n  m0: sum(net)\n",
                     paste(sprintf("  m%d: m%d + 1\n", 1:99, 0:98), collapse = "")),
    lists = paste0("metrics: ", strrep("[", 1e4), strrep("]", 1e4), "\n"),
    maps = paste0("metrics: ", strrep("{a: ", 1e4), "1", strrep("}", 1e4), "\n"),
    brackets = paste0("metrics: {r: '", strrep("(", 4e4), "sum(net)", strrep(")", 4e4), "'}\n"),
    open_brackets = paste0("metrics: {r: '", strrep("abs(", 2e4), "sum(net)'}\n"),
    many_metrics = paste0("metrics:\n", repeated(3000, "  m%d: sum(net)\n")),
    all_metrics = paste0("metrics:\n", repeated(500, "  m%d: sum(net)\n")),
    many_fields = paste0(r, "fields:\n", repeated(400, "  f%d: {is: net + 1}\n")),
    doubled_fields = paste0(r, "fields:\n  f0: {is: net + 1}\n", paste(sprintf(
      "  f%d: {is: f%d + f%d}\n", 1:40, 0:39, 0:39), collapse = "")),
    remarks = paste0(strrep("#\n", 48000), r),
    terms = paste0("metrics: {r: '", paste(rep("sum(net)", 1000), collapse = " + "), "'}\n"),
    pages = paste0(r, "pages:\n", repeated(2000, "  p%d: {study: standings, each: rep}\n")),
    wrong_pages = paste0(r, "pages:\n", repeated(450, "  p%d: {study: stxndings, each: rep}\n")),
    wrong_keys = paste0(r, repeated(8000, "key%d: 1\n")),
    registers = paste0(r, "registers: {", repeated(4000, "k%d: l.csv, "), "z: l.csv}\n"),
    exclude = paste0(r, "exclude: '", repeated(6000, "net == %d | "), "net == 1'\n"),
    aliases = paste0("a: &a [x,x,x,x,x,x,x,x,x]\n", paste(sprintf(
      "%s: &%s [*%s,*%s,*%s,*%s,*%s,*%s,*%s,*%s,*%s]\n", letters[2:9], letters[2:9], letters[1:8],
      letters[1:8], letters[1:8], letters[1:8], letters[1:8], letters[1:8], letters[1:8],
      letters[1:8], letters[1:8]), collapse = ""), r))
}

heavy_files <- function() {
  list(
    columns = paste0(repeated(9000, "c%d,"), "z\n", strrep("1,", 9000), "1\n"),
    separators = c(strrep(";", 49000), strrep(";", 40000)),
    long_header = c(paste0(strrep("a", 49000), ",net"), "x,1"),
    open_quote = c(rows[1], strrep("\"", 49000)),
    long_cell = c(rows[1], paste0("a,2024-01-01,", strrep("x", 49000), ",1")),
    empty_lines = strrep("\n", 90000),
    centuries = c("day,net", sprintf("%02d.%02d.%04d,1", 1:5600 %% 28 + 1, 1:5600 %% 12 + 1, 1:5600)),
    far = c(rows, "z,9999-12-31,r1,4"))
}

heavy_words <- function() {
  long <- strrep("a", 90000)
  list(c("ask", paste(rep("top reps", 11000), collapse = " ")), c("ask", long),
       c("ask", paste("top reps", strrep("and net > 1 ", 8000))),
       c("standings", "--each", "rep", "--where", paste(rep("net > 1", 9000), collapse = " & ")),
       c("standings", "--each", paste(rep("rep", 9000), collapse = ",")), c("standings", "--each", long),
       c("standings", "--each", "rep", "--when", strrep("2024, ", 9000)),
       c("standings", "--each", "rep", "--only", paste0("rep=", repeated(9000, "x%d,"), "r1")),
       c("standings", "--each", "rep", "--define", paste0("r=", strrep("-", 40000), "sum(net)")),
       c("standings", "--each", "rep", "--define", paste0(long, "=sum(net)")),
       c("trend", "--every", "day", "--when", "0001-01-01/9999-12-31"), c("standings", "--", long),
       c("standings", "--each", "rep", "--set", paste0(long, "=1")), c(long), c(paste0("--", long)))
}

# The seconds of processor time that a command took; it must end as ours does.
expect_ends <- function(words, plain, info, folder) {
  setTimeLimit(elapsed = 240)
  on.exit(setTimeLimit())
  took <- system.time(got <- command(words))[["user.self"]]
  expect_true(got$status %in% c(0, 2), info = paste(info, got$err))
  expect_no_match(got$err, "went wrong", info = info)
  # What is told is of a length that can be read.
  expect_lt(nchar(got$err), 20000)
  # Against a plain answer of the same run: some five seconds where that takes a third of one.
  expect_lt(took, max(20 * plain, 5), label = paste(info, "takes", round(took, 1), "s, which"))
}

test_that("every input of a hundred kilobytes ends soon, in an answer or a refusal of ours", {
  skip_unless_all()
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  writeLines(rows, "l.csv")
  writeLines(c("lines: l.csv", "metrics: {revenue: sum(net)}"), "longladder.yml")
  command("standings", "--each", "rep")
  plain <- system.time(command("standings", "--each", "rep"))[["user.self"]]
  for (name in names(heavy_briefs())) {
    writeLines(c("lines: l.csv", heavy_briefs()[[name]]), "b.yml")
    expect_lt(file.size("b.yml"), 1e5)
    expect_ends(c("standings", "--brief", "b.yml", "--each", "rep"), plain, name)
  }
  for (name in names(heavy_files())) {
    writeLines(heavy_files()[[name]], "f.csv")
    expect_ends("f.csv", plain, name)
    expect_ends(c("trend", "f.csv", "--every", "year", "--define", "r=sum(net)"), plain, name)
  }
  for (words in heavy_words()) expect_ends(words, plain, paste(substr(words, 1, 20), collapse = " "))
})

test_that("a word of thousands of letters is refused as any other by every argument", {
  skip_unless_all()
  book <- ll_book(small_lines(), metrics = c(revenue = "sum(net)"))
  long <- strrep("a", 20000)
  for (study in internal("declarations")()) {
    if (study$of_results) next
    for (arg in names(study$args)) {
      args <- stats::setNames(list(long), arg)
      got <- tryCatch({
        do.call(paste0("ll_", study$name), c(list(book), args))
        NULL
      }, ll_error = function(e) conditionMessage(e), error = function(e) paste("RAW", conditionMessage(e)))
      expect_false(any(startsWith(got %||% "", "RAW")), info = paste(study$name, arg, substr(got, 1, 99)))
      expect_lt(max(0, nchar(got)), 5000)
    }
  }
  for (key in names(internal("book_declaration")())) {
    got <- tryCatch({
      do.call(ll_book, c(list(small_lines()), stats::setNames(list(long), key)))
      ""
    }, ll_error = function(e) conditionMessage(e), error = function(e) paste("RAW", conditionMessage(e)))
    expect_false(startsWith(got, "RAW"), info = paste(key, substr(got, 1, 99)))
    got <- tryCatch({
      do.call(ll_book, c(list(small_lines()), stats::setNames(list(stats::setNames(list("net"), long)),
                                                              key)))
      ""
    }, ll_error = function(e) conditionMessage(e), error = function(e) paste("RAW", conditionMessage(e)))
    expect_false(startsWith(got, "RAW"), info = paste(key, "named", substr(got, 1, 99)))
  }
})
