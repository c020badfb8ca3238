# Every example that a reader is shown runs: the lines of the README and of the articles, what the
# README prints, the reference pages.

shown_in <- function(file, language) {
  text <- readLines(file)
  from <- grep(paste0("^```", language, "$"), text)
  to <- vapply(from, function(i) i + match("```", text[-seq_len(i)]), 0)
  lapply(seq_along(from), function(i) text[seq(from[i] + 1, length.out = to[i] - from[i] - 1)])
}

# The files that the examples speak of, made from the demo.
readers_folder <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(dirname(demo_path("longladder.yml")), folder, recursive = TRUE)
  dir.create(file.path(folder, "inst"))
  file.rename(file.path(folder, "extdata"), file.path(folder, "inst", "extdata"))
  lines <- demo_lines()
  lines$customer <- lines$account
  for (file in c("my_lines.csv", "lines-1.csv",
                 "lines-2.csv")) utils::write.csv(lines, file.path(folder, file), row.names = FALSE,
                                                  na = "")
  file.copy(file.path(folder, "inst", "extdata", "accounts.csv"),
            file.path(folder, "my_customers.csv"))
  openxlsx::write.xlsx(list(Orders = lines[1:500, ]), file.path(folder, "orders.xlsx"))
  con <- DBI::dbConnect(RSQLite::SQLite(), file.path(folder, "shop.db"))
  DBI::dbWriteTable(con, "order_lines", lines)
  DBI::dbDisconnect(con)
  folder
}

command_lines <- function(files) {
  text <- unlist(lapply(files, function(file) {
    one <- paste(unlist(shown_in(file, "sh")), collapse = "\n")
    strsplit(gsub("\\\\\n +", "", one), "\n")[[1]]
  }))
  found <- sub("^(\\./)?longladder ", "", grep("^(\\./)?longladder ", text, value = TRUE))
  unique(sub("\\s+#.*$", "", found))
}

test_that("every command line of the README and the articles runs", {
  skip_unless_all()
  source <- source_folder()
  lines <- command_lines(c(file.path(source, "README.md"),
                           list.files(file.path(source, "vignettes"), "Rmd$", full.names = TRUE)))
  expect_gte(length(lines), 40)
  withr::local_dir(readers_folder())
  for (line in lines) {
    words <- scan(text = line, what = "", quote = "'\"", quiet = TRUE)
    # A desk is there until it is stopped.
    if (words[1] == "desk") {
      desk <- do.call(served_desk, as.list(setdiff(words[-1], c("--open", "no"))))
      expect_match(desk$address, "127.0.0.1", fixed = TRUE, info = line)
      desk$stop()
      next
    }
    # One page instead of all: what a whole run makes is tested in test-run.R.
    if (words[1] == "run" && startsWith(words[3], "--")) {
      words <- append(words, names(yaml::read_yaml(words[2])$pages)[1], 2)
    }
    run <- command(words)
    expect_identical(run$status, 0L, info = paste(line, run$err))
  }
})

test_that("what the README shows is what is printed", {
  file <- file.path(source_folder(), "README.md")
  told <- shown_in(file, "text")[[1]]
  line <- scan(text = sub("^./longladder ", "", shown_in(file, "sh")[[2]]), what = "", quiet = TRUE)
  withr::local_dir(readers_folder())
  expect_identical(command(line, "--width", "80")$out, told)
  for (code in shown_in(file, "r")) expect_error(eval(parse(text = code),
                                                      new.env(parent = globalenv())), NA)
})

test_that("every example of the reference pages runs", {
  skip_unless_all()
  pages <- list.files(file.path(source_folder(), "man"), "[.]Rd$", full.names = TRUE)
  withr::local_dir(withr::local_tempdir())
  withr::local_pdf(NULL)
  for (page in pages) {
    code <- withr::local_tempfile(fileext = ".R")
    tools::Rd2ex(page, code)
    if (!file.exists(code)) next
    run <- function() source(code, local = new.env(parent = globalenv()), echo = FALSE)
    expect_error(utils::capture.output(suppressMessages(run())), NA, info = basename(page))
  }
})
