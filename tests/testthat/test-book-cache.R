# Books kept opened: the same answers from what was kept, and nothing but an opening anew where what
# was kept does not serve. That every study answers the same is tested in test-sources.R, where
# kept books are one kind of source.

kept_file <- function(lines = random_lines(1, 400), env = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".csv", .local_envir = env)
  data.table::fwrite(lines, file, na = "")
  file
}

metrics <- c(revenue = "sum(net)", orders = "distinct(order_no)")
open_kept <- function(file, ...) ll_book(file, metrics = metrics, ...)
used <- function(book) isTRUE(book$cache$used)

test_that("nothing is written unasked; what was kept serves and answers the same", {
  folder <- local_cache()
  file <- kept_file()
  fresh <- open_kept(file)
  expect_identical(list.files(folder), character())
  kept <- open_kept(file, cache = TRUE)
  expect_false(used(kept))
  again <- open_kept(file)
  expect_true(used(again))
  expect_false(used(open_kept(file, cache = FALSE)))
  for (book in list(kept, again)) {
    expect_identical(format(book), format(fresh))
    expect_identical_result(ll_standings(book, "rep", when = "2025"),
                            ll_standings(fresh, "rep", when = "2025"), "kept")
    expect_equal(as.data.frame(ll_detail(book)), as.data.frame(ll_detail(fresh)))
  }
  # A kept book that was saved needs the folder no longer.
  path <- withr::local_tempfile(fileext = ".rds")
  saveRDS(again, path)
  unlink(folder, recursive = TRUE)
  expect_identical(as.data.frame(ll_standings(readRDS(path), "rep")),
                   as.data.frame(ll_standings(fresh, "rep")))
  # Mapped files stay while they are in use, though their names are gone.
  expect_identical(as.data.frame(ll_standings(again, "area")),
                   as.data.frame(ll_standings(fresh, "area")))
})

test_that("columns of every kind come back as they were", {
  local_cache()
  skip_if_not_installed("nanoparquet")
  odd <- data.frame(order_no = paste0("N", 1:20), net = 1:20 + .5, none = NA, many = 2^40 + 1:20,
                    flag = rep(c(TRUE, FALSE, NA, TRUE), 5), blank = c("", " ", NA, "x"),
                    at = as.POSIXct("2025-01-01 10:00", tz = "UTC") + 1:20 * 3600,
                    name = c("caf\u00e9", "cafe", "Caf\u00e9 ", "\u05e9"))
  files <- file.path(withr::local_tempdir(), c("odd.csv", "odd.parquet"))
  data.table::fwrite(odd, files[1])
  nanoparquet::write_parquet(odd, files[2])
  for (file in files) {
    open <- function(...) ll_book(file, metrics = metrics, ...)
    expect_null(open(cache = TRUE)$cache$failed)
    kept <- open()
    expect_true(used(kept))
    fresh <- open(cache = FALSE)
    expect_identical(format(kept), format(fresh))
    expect_equal(as.data.frame(ll_detail(kept)), as.data.frame(ll_detail(fresh)))
    for (each in c("flag", "blank", "name", "hour(at)"))
      expect_identical_result(ll_standings(kept, each), ll_standings(fresh, each), each)
  }
})

test_that("kept columns are not changed by what R does with a copy", {
  local_cache()
  file <- kept_file()
  open_kept(file, cache = TRUE)
  source <- open_kept(file)$source
  net <- source$columns$net
  before <- net[1:5]
  net[1] <- -1
  net[3] <- NA
  expect_identical(open_kept(file)$source$columns$net[1:5], before)
  names <- source$coded$rep$levels
  names[1] <- "changed"
  expect_false("changed" %in% source$coded$rep$levels)
})

test_that("a change of a file, its register or of how it is opened opens it anew", {
  local_cache()
  file <- kept_file()
  register <- kept_file(data.frame(rep = c("Ann", "Bo"), team = c("one", "two")))
  ask <- function(...) open_kept(file, registers = list(rep = register), ...)
  ask(cache = TRUE)
  expect_true(used(ask()))
  expect_false(used(ask(fields = c(area = "identifier"))))
  expect_false(used(ask(calendar = list(fiscal_start = "july"))))
  expect_false(used(ask(fixes = list(numbers = FALSE))))
  expect_false(used(ask(unpivot = list(columns = "qty", names = "what", values = "how_many"))))
  expect_false(used(ll_book(list(file = file, columns = c("rep", "net", "order_no")),
                            metrics = metrics)))
  # Metrics and other fields made from lines are no part of opening.
  expect_true(used(ll_book(file, registers = list(rep = register), metrics = c(n = "count()"),
                           fields = list(twice = list(is = "2 * net")))))
  data.table::fwrite(data.frame(rep = c("Ann", "Bo"), team = c("one", "six")), register)
  Sys.setFileTime(register, Sys.time() + 5)
  changed <- ask()
  expect_false(used(changed))
  expect_match(changed$cache$why, basename(register), fixed = TRUE)
  ask(cache = TRUE)
  expect_true(used(ask()))
  more <- rbind(random_lines(1, 400), random_lines(2, 10))
  data.table::fwrite(more, file, na = "")
  grown <- ask()
  expect_false(used(grown))
  expect_match(grown$cache$why, "has changed since")
  expect_equal(grown$lines, 410)
  unlink(file)
  expect_error(ask(), "does not exist", class = "ll_error_file")
})

test_that("a change in the middle, of the same size and time, is found on opening and by looking", {
  local_cache()
  file <- kept_file(random_lines(1, 20000))
  open_kept(file, cache = TRUE)
  time <- file.mtime(file)
  bytes <- readBin(file, "raw", file.size(file))
  middle <- length(bytes) %/% 2 + seq_len(2000)
  # Behind a decimal point only, so that what is read is a number still.
  digits <- middle[bytes[middle] %in% charToRaw("12345678") & bytes[middle - 1] == charToRaw(".")]
  expect_gt(length(digits), 5)
  bytes[digits] <- as.raw(as.integer(bytes[digits]) + 1L)
  writeBin(bytes, file)
  Sys.setFileTime(file, time)
  again <- open_kept(file)
  expect_false(used(again))
  expect_match(again$cache$why, "has changed since")
  expect_equal(ll_total(again)$value, sum(utils::read.csv(file)$net, na.rm = TRUE))
  there <- ll_cache(verify = TRUE)
  expect_match(attr(there, "damaged"), "has changed since")
  expect_identical(nrow(there), 0L)
})

test_that("what was kept and is no longer whole does not serve, whichever file is hurt", {
  folder <- local_cache()
  file <- kept_file()
  open_kept(file, cache = TRUE)
  want <- as.data.frame(ll_standings(open_kept(file), "rep"))
  path <- file.path(folder, ll_cache()$key)
  for (one in setdiff(list.files(path), "used")) {
    bytes <- readBin(file.path(path, one), "raw", 1e7)
    for (hurt in list(bytes[-length(bytes)], raw(), NULL)) {
      if (is.null(hurt)) unlink(file.path(path, one)) else writeBin(hurt, file.path(path, one))
      book <- open_kept(file)
      # An empty file of a column of nothing is whole.
      if (!identical(hurt, bytes)) expect_false(used(book), info = one)
      expect_identical(as.data.frame(ll_standings(book, "rep")), want, info = one)
    }
    writeBin(bytes, file.path(path, one))
    expect_true(used(open_kept(file)), info = one)
  }
  # Bytes that changed in place are found by looking through all, as on opening.
  vector <- file.path(path, "v3")
  bytes <- readBin(vector, "raw", 1e7)
  bytes[length(bytes)] <- xor(bytes[length(bytes)], as.raw(1))
  writeBin(bytes, vector)
  there <- ll_cache(verify = TRUE)
  expect_match(attr(there, "damaged"), "its own files have changed")
})

test_that("one flipped bit, anywhere in what is kept, never gives another answer", {
  skip_on_os("windows")
  folder <- local_cache()
  file <- kept_file(random_lines(1, 3000))
  want <- as.data.frame(ll_standings(open_kept(file, cache = TRUE), "rep"))
  path <- file.path(folder, ll_cache()$key)
  withr::local_seed(1)
  for (one in setdiff(list.files(path), "used")) {
    bytes <- readBin(file.path(path, one), "raw", 1e7)
    for (at in unique(sample(length(bytes), some_of(1:8, 4)[1] + 2, TRUE))) {
      hurt <- bytes
      hurt[at] <- xor(hurt[at], as.raw(2^sample(0:7, 1)))
      writeBin(hurt, file.path(path, one))
      book <- open_kept(file)
      expect_false(used(book), info = paste(one, at))
      expect_identical(as.data.frame(ll_standings(book, "rep")), want, info = paste(one, at))
    }
    writeBin(bytes, file.path(path, one))
  }
  expect_true(used(open_kept(file)))
  expect_match(ll_reading(ll_total(open_kept(file))), "From the book kept on .* at [0-9]{2}:[0-9]{2}[.]$")
})

test_that("a kept file that is cut short while it is mapped ends the answer, not the process", {
  skip_on_os("windows")
  folder <- local_cache()
  # In a file of less than a page what is gone reads as zeros, without a signal.
  for (n in c(30000, 40)) {
    file <- kept_file(random_lines(1, n))
    fresh <- open_kept(file, cache = FALSE)
    for (study in list(function(b) ll_standings(b, "rep"), ll_check, ll_detail)) {
      open_kept(file, cache = TRUE)
      book <- open_kept(file)
      expect_true(used(book))
      for (one in list.files(file.path(folder, ll_cache()$key), "^v", full.names = TRUE)) {
        con <- file(one, "r+b")
        seek(con, min(4096, file.size(one) %/% 2), rw = "write")
        truncate(con)
        close(con)
      }
      expect_error(study(book), "cut short", class = "ll_error_file")
      # Asked once more, of a part too, the pages that were lost are no zeros of the book.
      expect_error(study(book), "cut short", class = "ll_error_file")
      expect_error(study(ll_where(book, "net > 0")), "cut short", class = "ll_error_file")
      again <- open_kept(file)
      expect_match(again$cache$why, "not whole")
      expect_identical(as.data.frame(study(again)), as.data.frame(study(fresh)))
      unlink(file.path(folder, ll_cache()$key), recursive = TRUE)
    }
  }
})

test_that("a folder that others may write to is neither read nor written", {
  skip_on_os("windows")
  folder <- local_cache()
  file <- kept_file()
  open_kept(file, cache = TRUE)
  expect_identical(as.character(file.info(folder)$mode & "700"), "700")
  key <- ll_cache()$key
  expect_identical(format(file.info(file.path(folder, key))$mode), "700")
  Sys.chmod(folder, "0777", use_umask = FALSE)
  expect_false(used(open_kept(file)))
  book <- open_kept(file, cache = TRUE)
  expect_match(book$cache$failed, "is not yours alone")
  expect_error(ll_cache(remove = "all"), "not yours|No kept")
  Sys.chmod(folder, "0700")
  Sys.chmod(file.path(folder, key), "0777", use_umask = FALSE)
  expect_false(used(open_kept(file)))
  Sys.chmod(file.path(folder, key), "0700")
  expect_true(used(open_kept(file)))
})

test_that("books opened longest ago go when there is no room, and one too large is not kept", {
  local_cache()
  files <- lapply(1:3, function(seed) kept_file(random_lines(seed, 3000), parent.frame(2)))
  for (file in files) {
    open_kept(file, cache = TRUE)
    Sys.sleep(.02)
  }
  there <- ll_cache()
  expect_identical(nrow(there), 3L)
  Sys.sleep(.02)
  open_kept(files[[1]])                                # used last
  ll_cache(limit = sum(there$size) - 1)
  expect_setequal(ll_cache()$files, normalizePath(unlist(files[c(1, 3)])))
  open_kept(files[[2]], cache = TRUE)
  expect_true(files[[2]] %in% basename(files[[2]]) ||
                normalizePath(files[[2]]) %in% ll_cache()$files)
  expect_lte(sum(ll_cache()$size), attr(ll_cache(), "limit"))
  ll_cache(limit = 1000)
  expect_identical(nrow(ll_cache()), 0L)
  expect_match(open_kept(files[[1]], cache = TRUE)$cache$failed, "may hold 1 KB")
  expect_error(ll_cache(limit = -1), class = "ll_error_argument")
  expect_error(ll_cache(remove = "nothing.csv"), "No kept book", class = "ll_error_word")
})

test_that("two that keep the same at once, and one that dies midway, leave a whole book or none", {
  skip_on_os("windows")
  folder <- local_cache()
  file <- kept_file(random_lines(1, 20000))
  jobs <- lapply(1:2, function(i) {
    parallel::mcparallel(for (k in 1:5) {
      unlink(file.path(folder, ll_cache()$key), recursive = TRUE)
      open_kept(file, cache = TRUE)
    })
  })
  parallel::mccollect(jobs)
  expect_true(used(open_kept(file, cache = TRUE)) || used(open_kept(file)))
  expect_identical(nrow(ll_cache(verify = TRUE)), 1L)
  ll_cache(remove = "all")
  # Killed while it writes: nothing is found, and what it left goes with the next.
  script <- write_text(paste0(
    "library(longladder); assignInNamespace('save_sealed', ",
    "function(...) tools::pskill(Sys.getpid(), 9), 'longladder'); ",
    "ll_book(commandArgs(TRUE)[1], cache = TRUE)"), ending = ".R")
  system2(file.path(R.home("bin"), "Rscript"), c("--no-init-file", script, file),
          stdout = FALSE, stderr = FALSE,
          env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":")))
  expect_length(list.files(folder, "^[.]longladder", all.files = TRUE), 1)
  expect_false(used(open_kept(file)))
  open_kept(file, cache = TRUE)
  expect_length(list.files(folder, "^[.]longladder", all.files = TRUE), 0)
  expect_true(used(open_kept(file)))
})

test_that("a full disk: the answer comes all the same, and nothing half is kept", {
  skip_on_os("windows")
  folder <- local_cache()
  file <- kept_file(random_lines(1, 20000))
  script <- system.file("exec", "longladder", package = "longladder")
  line <- paste("ulimit -f 100;", shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file",
                script, "standings", file, "--each rep --define 'revenue=sum(net)' --cache yes",
                "--format line 2>&1")
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  told <- system2("sh", c("-c", shQuote(line)), stdout = TRUE)
  expect_match(told, "not kept: .*takes no more", all = FALSE)
  expect_match(told, "leads by revenue", all = FALSE)
  expect_identical(nrow(ll_cache()), 0L)
  expect_false(used(open_kept(file)))
})

test_that("the command keeps files and briefs, lists them, and says what stands in the way", {
  folder <- local_cache()
  file <- kept_file()
  done <- command("cache", file)
  expect_identical(done$status, 0L)
  expect_match(done$err, "kept 400 lines, .* KB, in ")
  expect_match(command("cache", file)$err, "400 lines are kept already, since 20")
  listed <- command("cache", "--list")$out
  expect_match(listed[1], "^1 kept book, .* KB of at most 20 GB, in ")
  expect_match(listed, basename(file), fixed = TRUE, all = FALSE)
  ask <- function() command("standings", file, "--each", "rep", "--define", "revenue=sum(net)")
  expect_no_match(ask()$err, "anew|opening took")
  data.table::fwrite(random_lines(3, 50), file, na = "")
  expect_match(ask()$err, "opened anew: what was kept does not serve, .* has changed since")
  brief <- file.path(dirname(file), "kept.yml")
  writeLines(c(paste0("lines: ", basename(file)), "metrics: {revenue: sum(net)}", "cache: yes"),
             brief)
  withr::defer(unlink(brief))
  expect_identical(command("standings", "--brief", brief, "--each", "rep")$status, 0L)
  expect_true(used(ll_brief(brief)$book))
  expect_match(command("cache", brief)$err, "kept already")
  expect_identical(command("cache", "--verify")$status, 0L)
  gone <- command("cache", "--remove", "all")
  expect_identical(gone$status, 0L)
  expect_match(gone$err, "removed [12] kept books?; at most 20 GB are kept")
  expect_match(command("cache", "--list", "--limit", "3GB")$out[1], "0 kept books.*most 3 GB")
  database <- c("--connect", "driver=sqlite,file=none.db", "--table", "x")
  for (words in list(character(), c("--limit", "much"), c(file, "--list"), "nowhere.csv",
                     c("--remove", "none.csv"), database)) {
    wrong <- command("cache", words)
    expect_identical(wrong$status, 2L, info = paste(words, collapse = " "))
    expect_match(wrong$err, "longladder: ")
  }
  expect_match(command("cache", "--help")$out, "usage: longladder cache FILE", all = FALSE)
})

test_that("a slow opening proposes to keep the book, and only then", {
  local_cache()
  file <- kept_file()
  ask <- function(...) command("standings", file, "--each", "rep", "--define", "revenue=sum(net)",
                               ...)$err
  with_internal("slow_opening", -1, {
    expect_match(ask(), "opening took 0 s; 'longladder cache'")
    expect_no_match(ask("--cache", "yes"), "opening took")
    expect_no_match(ask(), "opening took")
    expect_no_match(ask("--cache", "no"), "opening took")
  })
})

test_that("the index of names is kept with the book, and serves only where it is whole", {
  folder <- local_cache()
  lines <- random_lines(1, 3000)
  lines$buyer <- sprintf("Hedge %04d", seq_len(3000))
  file <- kept_file(lines)
  open_kept <- function(file, ...) {
    ll_book(file, metrics = metrics, fields = c(buyer = "dimension"), ...)
  }
  ask <- function(book) as.data.frame(ll_ask(book, "revenue of hedge 1234"))
  want <- ask(open_kept(file, cache = FALSE))
  open_kept(file, cache = TRUE)
  path <- file.path(folder, ll_cache()$key)
  before <- list.files(path)
  expect_identical(ask(open_kept(file)), want)
  made <- setdiff(list.files(path), before)
  expect_gt(length(grep("names-[0-9a-f]+$", made)), 0)
  mapped <- internal("ask_vocabulary")(open_kept(file))$index$buyer
  expect_identical(mapped$plain, internal("ask_vocabulary")(
    open_kept(file, cache = FALSE))$index$buyer$plain)
  for (one in made) {
    bytes <- readBin(file.path(path, one), "raw", 1e7)
    for (hurt in list(bytes[-length(bytes)], raw(), NULL)) {
      if (is.null(hurt)) unlink(file.path(path, one)) else writeBin(hurt, file.path(path, one))
      expect_identical(ask(open_kept(file)), want, info = one)
    }
    writeBin(bytes, file.path(path, one))
  }
  expect_length(attr(ll_cache(verify = TRUE), "damaged"), 0)
  # Kept anew while a book is open: its names do not become those of the new one.
  old <- open_kept(file)
  lines$buyer <- rev(sub("Hedge", "Owner", lines$buyer))
  data.table::fwrite(lines, file, na = "")
  new <- open_kept(file, cache = TRUE)
  expect_identical(ask(old), want)
  expect_error(ask(new), "hedge", class = "ll_error")
  # Hurt in place, it is found by looking through all.
  ll_ask(open_kept(file), "revenue by rep")
  hurt <- list.files(path, "^names-.*-plain$", full.names = TRUE)[1]
  bytes <- readBin(hurt, "raw", 1e7)
  bytes[length(bytes)] <- xor(bytes[length(bytes)], as.raw(1))
  writeBin(bytes, hurt)
  there <- ll_cache(verify = TRUE)
  expect_match(attr(there, "damaged"), "its own files have changed")
})

test_that("how amounts are counted and where dates stand are part of what was kept", {
  local_cache()
  lines <- data.frame(order_no = sprintf("N%02d", 1:12), type = rep(c("INV", "CN", "INV"), 4),
                      currency = rep(c("EUR", "USD"), 6), `Jan 2025` = 1:12 + .25,
                      `Feb 2025` = 3, `Mar 2025` = 4, check.names = FALSE)
  orders <- data.frame(order_no = lines$order_no, ordered = as.Date("2025-01-01") + 1:12,
                       shipped = as.Date("2025-03-01") + 1:12)
  rates <- data.frame(date = as.Date("2025-01-01"), currency = "USD", rate = .5)
  file <- kept_file(lines)
  ask <- function(..., metrics = c(revenue = "sum(`Jan 2025`)"), currency = "any") {
    ll_book(file, registers = list(order_no = orders), metrics = metrics, currency = currency, ...)
  }
  ask(cache = TRUE, date = "ordered")
  expect_true(used(ask(date = "ordered")))
  shipped <- ask(date = "shipped")
  expect_false(used(shipped))
  expect_identical(shipped$date, "shipped")
  expect_false(used(ask(date = "ordered", sign = list(type = "CN"))))
  rated <- list(to = "EUR", rates = rates)
  expect_null(ask(cache = TRUE, date = "ordered", currency = rated)$cache$size)
  expect_false(used(ask(date = "ordered", currency = rated)))
  # What is proposed to a book without metrics is not to one with them.
  months <- function(book) any(grepl("are months", book$offers$text))
  bare <- ask(date = "ordered", metrics = NULL)
  expect_true(used(bare))
  expect_true(months(bare))
  expect_false(months(ask(date = "ordered")))
})
