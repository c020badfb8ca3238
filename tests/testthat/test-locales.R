# Answers are the same in every locale: of Turkish letters, of none, and without a home or a place for
# temporary files.

turkish <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  made <- suppressWarnings(system2("localedef", c("-i", "tr_TR", "-f", "UTF-8", shQuote(file.path(
    folder, "tr_TR.UTF-8"))), stdout = FALSE, stderr = FALSE))
  if (identical(made, 0L)) folder
}

test_that("the command and R answer in Turkish locales as in others", {
  skip_unless_all()
  folder <- turkish()
  if (is.null(folder)) return(succeed("this machine has no sources of locales"))
  file <- write_text("INVOICE ID;CUSTOMER;DATE;ITEM;NET PRICE", "I1;IDA;01.02.2026;INK;1,50",
                     "I2;IRIS;03.02.2026;INK;2,50", "I3;IDA;05.02.2026;PIN;4,00")
  script <- write_text("suppressMessages(library(longladder)); file <- commandArgs(TRUE)",
                       "cat(base::tolower('I'), '\\n')", "print(ll_book(file))",
                       "print(ll_ask(ll_demo(), 'TOP 2 REPS BY MARGIN IN Q1'))", ending = ".R")
  run <- function(locale) {
    withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
    in_r <- system2(file.path(R.home("bin"), "Rscript"), c("--no-init-file", script, file), stdout = TRUE,
                    stderr = TRUE, env = c(paste0("LOCPATH=", folder), paste0("LC_ALL=", locale)))
    words <- list(file, c("ask", "TOP REPS BY REVENUE IN Q1", "--brief", demo_path("longladder.yml")),
                  c("standings", file, "--each", "customer", "--define", "r=sum(`NET PRICE`)"))
    list(in_r, lapply(words, function(w) run_process(w, env = c(paste0("LOCPATH=", folder),
                                                                paste0("LC_ALL=", locale)))))
  }
  theirs <- run("tr_TR.UTF-8")
  plain <- run("C.UTF-8")
  expect_identical(theirs[[1]][1], "\u0131 ")
  expect_identical(theirs[[1]][-1], plain[[1]][-1])
  expect_identical(theirs[[2]], plain[[2]])
})

test_that("a run needs no home, no place for temporary files, no locale and no open umask", {
  skip_unless_all()
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  utils::write.csv(small_lines(), "lines.csv", row.names = FALSE, na = "")
  writeLines(c("lines: lines.csv", "metrics: {revenue: sum(net)}",
               "pages: {reps: {study: standings, each: rep}}"), "b.yml")
  script <- system.file("exec", "longladder", package = "longladder")
  start <- function(before, words) {
    line <- paste(before, shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file", shQuote(script),
                  words, "2>&1")
    withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
    suppressWarnings(system2("sh", c("-c", shQuote(line)), stdout = TRUE))
  }
  i <- 0
  for (before in c("env -u HOME -u TMPDIR -u LONGLADDER_CONFIG", "env LC_ALL=C", "umask 077;",
                   "env HOME=/nonexistent LONGLADDER_CONFIG= LONGLADDER_CACHE=")) {
    i <- i + 1
    told <- start(before, paste0("run b.yml --out out", i))
    expect_null(attr(told, "status"), info = paste(c(before, told), collapse = "\n"))
    expect_true(all(c("report.html", "reps.png", "workbook.xlsx") %in% list.files(paste0("out", i))))
    # Nothing of R's own is told.
    expect_no_match(paste(told, collapse = "\n"), "path\\[1\\]|locale|translat", info = before)
  }
  # Who may not write is told so.
  if (nzchar(Sys.which("setpriv")) && identical(Sys.info()[["effective_user"]], "root")) {
    Sys.chmod(folder, "0755")
    told <- start("setpriv --reuid 65534 --clear-groups env HOME=/nonexistent", "run b.yml --out out9")
    if (!any(grepl("Permission denied|there is no package", told)))
      expect_match(told, "You may not write there", all = FALSE)
  }
})
