# A brief from start to end: files, record, groups, failures, an earlier output left whole.

small_brief <- function(pages = c("  reps: {study: standings, each: rep, top: 2}",
                                  "  areas: {title: By area, study: standings, each: area}"),
                        lines = small_lines(),
                        env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  utils::write.csv(lines, file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  file <- file.path(folder, "longladder.yml")
  writeLines(c("title: Small", "lines: lines.csv",
               "metrics: {revenue: {is: sum(net), unit: money}, big: 'count(net[net > floor])'}",
               "parameters: {floor: 20}", "pages:", pages), file)
  file
}

read_record <- function(out) jsonlite::fromJSON(file.path(out, "record.json"))

test_that("every file of a run, and the record of what was read", {
  skip_without_pandoc()
  file <- small_brief()
  out <- file.path(dirname(file), "out")
  got <- command("run", file, "--out", out, "--set", "floor=5")
  expect_equal(got$status, 0)
  expect_setequal(list.files(out), c("reps.csv", "reps.png", "areas.csv", "areas.png",
                                     "workbook.xlsx", "report.html", "notebook.Rmd", "record.json"))
  expect_match(paste(got$out, collapse = "\n"), "found\n  1\\. .* leads by revenue")
  expect_match(paste(got$out, collapse = "\n"), "report +.*out/report.html")
  brief <- ll_brief(file)
  expect_equal(utils::read.csv(file.path(out, "reps.csv"))$revenue,
               as.data.frame(ll_standings(brief$book, "rep", top = 2))$revenue)
  record <- read_record(out)
  expect_identical(record$lines, 8L)
  expect_identical(c(record$first_day, record$last_day), c("2026-01-05", "2026-03-20"))
  expect_identical(record$set$floor, "5")
  expect_identical(record$read$rows, 8L)
  expect_identical(record$read$md5, unname(tools::md5sum(file.path(dirname(file), "lines.csv"))))
  expect_identical(record$brief$md5, unname(tools::md5sum(file)))
  expect_setequal(record$files, list.files(out))
  expect_identical(record$pages$problem, c("", ""))
})

test_that("a page that fails is told, and the others still come", {
  skip_without_pandoc()
  file <- small_brief(c("  bad: {study: standings, each: nobody}",
                        "  reps: {study: standings, each: rep}"))
  out <- file.path(dirname(file), "out")
  got <- command("run", file, "--out", out)
  expect_equal(got$status, 2)
  expect_match(got$err, "page bad could not be made: .*'nobody'")
  expect_true(all(file.exists(file.path(out, c("reps.csv", "reps.png", "workbook.xlsx",
                                               "report.html")))))
  expect_false(file.exists(file.path(out, "bad.csv")))
  expect_match(read_record(out)$pages$problem[1], "nobody")
  contents <- openxlsx::read.xlsx(file.path(out, "workbook.xlsx"), "contents", startRow = 3)
  expect_match(contents$finding[which(contents$page == "Bad")], "could not be made")
})

test_that("one set for each name holds what is its own; odd names get folders", {
  skip_unless_all()
  skip_without_pandoc()
  lines <- small_lines()
  lines$area[1:3] <- "../Moor & \"Fen\"?"
  file <- small_brief("  reps: {study: standings, each: rep}", lines)
  out <- file.path(dirname(file), "out")
  got <- command("run", file, "--out", out, "--for-each", "area")
  expect_equal(got$status, 0)
  expect_setequal(list.files(out), c("fen", "moor", "moor-fen", "record.json"))
  per <- vapply(c("fen", "moor", "moor-fen"),
                function(f) sum(utils::read.csv(file.path(out, f, "reps.csv"))$revenue), 0)
  expect_equal(sum(per), sum(lines$net))
  expect_equal(per[["moor-fen"]], sum(lines$net[1:3]))
  expect_identical(read_record(out)$for_each, "area")
  html <- paste(readLines(file.path(out, "moor-fen", "report.html"), encoding = "UTF-8"),
                collapse = "\n")
  expect_match(html, "<h1>Small \u00b7 ../Moor &amp; \"Fen\"?</h1>", fixed = TRUE)
  expect_equal(command("run", file, "--out", out, "--for-each", "aera")$status, 2)
})

test_that("lines without a name have a folder of their own, and all folders make the whole", {
  skip_without_pandoc()
  lines <- small_lines()
  lines$area[c(2, 4)] <- NA
  file <- small_brief("  reps: {study: standings, each: rep}", lines)
  out <- file.path(dirname(file), "out")
  made <- ll_run(file, out, for_each = "area")
  expect_setequal(made$group, c("Fen", "Moor", "(none)"))
  per <- vapply(c("fen", "moor", "none"),
                function(f) sum(utils::read.csv(file.path(out, f, "reps.csv"))$revenue), 0)
  expect_equal(sum(per), sum(lines$net))
  expect_equal(per[["none"]], sum(lines$net[c(2, 4)]))
  expect_true("book <- ll_where(brief$book, area = \"(none)\")" %in%
              readLines(file.path(out, "none", "notebook.Rmd")))
  book <- ll_brief(file)$book
  for (both in list(c("Fen", "(none)"), c("Fen", NA)))
    expect_equal(ll_total(ll_where(book, area = both))$value,
                 sum(lines$net[lines$area %in% c("Fen", NA)]))
  expect_equal(command("total", "--brief", file, "--only", "area=(none)")$status, 0)
})

test_that("a run narrowed to names says so in record and notebook", {
  skip_without_pandoc()
  file <- small_brief("  reps: {study: standings, each: rep}")
  out <- file.path(dirname(file), "out")
  expect_equal(command("run", file, "--out", out, "--only", "area=Fen,Moor", "--only",
                       "rep=Ida")$status, 0)
  expect_identical(read_record(out)$only, list(area = c("Fen", "Moor"), rep = "Ida"))
  expect_true("book <- ll_where(brief$book, area = c(\"Fen\", \"Moor\"), rep = \"Ida\")" %in%
              readLines(file.path(out, "notebook.Rmd")))
  expect_equal(utils::read.csv(file.path(out, "reps.csv"))$revenue, 30.4)
})

test_that("groups are the names on lines, of register fields and computed ones too", {
  book <- ll_brief(demo_path("longladder.yml"))$book
  on_lines <- getFromNamespace("names_on_lines", "longladder")
  expect_identical(on_lines(book, "territory"), c("Coast", "Downs", "Fen", "Heath", "Moor", "Vale"))
  expect_identical(on_lines(book, "account_size"), sort(c("small", "middle", "large", "key")))
})

test_that("next month: new lines and names; what is no longer made goes, others' stays", {
  skip_unless_all()
  skip_without_pandoc()
  file <- small_brief()
  out <- file.path(dirname(file), "out")
  expect_equal(command("run", file, "--out", out)$status, 0)
  writeLines("mine", file.path(out, "remarks.txt"))
  more <- rbind(small_lines(), transform(small_lines()[1, ], order_no = "B1", rep = "Newcomer",
                                         net = 500, day = as.Date("2026-04-02")))
  utils::write.csv(more, file.path(dirname(file), "lines.csv"), row.names = FALSE, na = "")
  got <- command("run", file, "reps", "--out", out)
  expect_equal(got$status, 0)
  expect_identical(utils::read.csv(file.path(out, "reps.csv"))$rep[1], "Newcomer")
  expect_setequal(list.files(out), c("reps.csv", "reps.png", "workbook.xlsx", "report.html",
                                     "notebook.Rmd", "record.json", "remarks.txt"))
  expect_identical(read_record(out)$last_day, "2026-04-02")
})

test_that("a run that is stopped midway leaves the earlier output whole", {
  skip_unless_all()
  skip_without_pandoc()
  file <- small_brief()
  out <- file.path(dirname(file), "out")
  ll_run(file, out)
  before <- tools::md5sum(list.files(out, full.names = TRUE))
  stop_at <- function(text) if (text == "workbook.xlsx") stop("pulled the plug")
  expect_error(ll_run(file, out, tell = stop_at), "plug")
  expect_identical(tools::md5sum(list.files(out, full.names = TRUE)), before)
  # Nothing is left beside it either.
  expect_setequal(list.files(dirname(out), all.files = TRUE, no.. = TRUE),
                  c("lines.csv", "longladder.yml", "out"))
})

test_that("what cannot be run is told, with status 2 and nothing written", {
  file <- small_brief()
  out <- file.path(dirname(file), "out")
  cases <- list("one folder" = file,
                "no page called 'repz'(.|\n)*'reps'" = c(file, "repz", "--out", out),
                "cannot be written" = c(file, "--out", file),
                "does not exist" = c(file, "--out", file.path(out, "a", "b")),
                "lines.csv|gone.csv" = c(file, "--lines", "gone.csv", "--out", out),
                "takes one brief" = c(file, file, "--out", out),
                "no option '--fro-each'(.|\n)*--for-each" =
                  c(file, "--fro-each", "area", "--out", out),
                "exclude each other" = c(file, "--out", out, "--quiet", "-v"),
                "no pages" = c(small_brief("  # none"), "--out", out))
  for (pattern in names(cases)) {
    got <- command("run", cases[[pattern]])
    expect_equal(got$status, 2, info = pattern)
    expect_match(got$err, pattern)
  }
  expect_false(file.exists(out))
  unlink(file.path(dirname(file), "lines.csv"))
  expect_match(command("run", file, "--out", out)$err, "lines.csv")
})

test_that("the notebook is plain calls and renders as it is", {
  skip_unless_all()
  skip_without_pandoc()
  file <- small_brief(c("  reps: {study: standings, each: rep, top: 2, no_lines: no,",
                        "    where: 'area == \"Fen\"'}",
                        "  'odd *name*': {title: 'Odd *title*', study: tiers, each: rep,",
                        "    tiers: {Low: 0, High: 30}}"))
  text <- ll_notebook(ll_brief(file, set = c(floor = 7)))
  expect_true(paste0("result <- ll_standings(book, each = \"rep\", top = 2, no_lines = FALSE, ",
                     "where = \"area == \\\"Fen\\\"\")") %in% text)
  expect_true(any(grepl("set = c(floor = 7)", text, fixed = TRUE)))
  expect_true("## Odd \\*title\\*" %in% text)
  made <- file.path(dirname(file), "notebook.Rmd")
  ll_notebook(ll_brief(file), made, only = list(area = "Fen"))
  rendered <- rmarkdown::render(made, quiet = TRUE, envir = new.env())
  expect_true(page_says(rendered, "Tom leads by revenue"))
  expect_false(page_says(rendered, "Error in"))
})

test_that("one workbook: contents with links, sheets of odd and equal names, formats, proofs", {
  skip_unless_all()
  book <- small_book()
  long <- strrep("a very long name ", 4)
  results <- stats::setNames(list(ll_standings(book, "rep"), ll_standings(book, "area"),
                                  ll_pareto(book, "rep"), ll_standings(book, "rep", "orders")),
                             c(long, paste0(long, "!"), "a/b:[c]*?", "Contents"))
  file <- withr::local_tempfile(fileext = ".xlsx")
  ll_workbook(results, file, "Title")
  sheets <- openxlsx::getSheetNames(file)
  expect_length(sheets, 6)
  expect_true(all(nchar(sheets) <= 31) && !anyDuplicated(tolower(sheets)))
  expect_identical(sheets[c(1, 6)], c("contents", "proofs"))
  got <- openxlsx::read.xlsx(file, sheets[2], startRow = 5)
  expect_equal(got$revenue[1:3], as.data.frame(results[[1]])$revenue[1:3])
  above <- openxlsx::read.xlsx(file, sheets[2], rows = 1:2, colNames = FALSE)
  expect_identical(above[[1]], c(ll_finding(results[[1]]), ll_reading(results[[1]])))
  proofs <- openxlsx::read.xlsx(file, "proofs")
  expect_equal(nrow(proofs), sum(vapply(results, function(r) nrow(ll_proof(r)), 0L)))
  expect_true(all(proofs$holds))
  expect_error(ll_workbook(list(), file), class = "ll_error_argument")
  expect_error(ll_workbook(results, sub("xlsx", "csv", file)), class = "ll_error_target")
})

test_that("a quiet run says nothing but errors", {
  skip_without_pandoc()
  file <- small_brief()
  got <- command("run", file, "--out", file.path(dirname(file), "quiet"), "--quiet")
  expect_identical(got, list(status = 0L, out = character(), err = ""))
})

test_that("more or less is told, and a log keeps it with its time", {
  file <- small_brief()
  log <- withr::local_tempfile(fileext = ".log")
  plain <- command("standings", "--brief", file, "--each", "rep", "--log", log)
  expect_equal(plain$status, 0)
  expect_match(readLines(log)[1], "^DEBUG \\[20[0-9-]+ [0-9:]+\\] opened 8 lines")
  expect_match(command("standings", "--brief", file, "--each", "rep", "-v")$err, "standings took")
  target <- withr::local_tempfile(fileext = ".csv")
  expect_match(command("standings", "--brief", file, "--each", "rep", "--out", target)$err, "wrote")
  expect_identical(command("standings", "--brief", file, "--each", "rep", "--out", target,
                           "--quiet")$err, "")
  # Braces in a name are text, not a formula of the logger.
  writeLines(sub("^title:.*", "title: '{stop(1)}'", readLines(file)), file)
  got <- command("standings", "--brief", file, "--each", "{Sys.time()}", "-v")
  expect_equal(got$status, 2)
  expect_match(got$err, "{Sys.time()}", fixed = TRUE)
  expect_equal(command("standings", "--brief", file, "--each", "rep", "--log",
                       file.path(log, "no", "x"))$status, 2)
})

test_that("a page of lines is made without a picture", {
  skip_without_pandoc()
  file <- small_brief("  lines: {study: detail, where: \"area == 'Fen'\"}")
  out <- file.path(dirname(file), "out")
  got <- command("run", file, "--out", out)
  expect_equal(got$status, 0)
  expect_identical(got$err, "")
  expect_setequal(list.files(out), c("lines.csv", "workbook.xlsx", "report.html", "notebook.Rmd",
                                     "record.json"))
})

test_that("what was typed is not looked for in the brief; a computed field asks no set", {
  file <- small_brief()
  wrong <- function(...) command("standings", "--brief", file, "--each", "rep", ...)$err
  for (typed in list(c("--define", "big=sum(nett)"), c("--define", "own=sum(nett)"),
                     c("--compute", "k=nett * 2"), c("--saved-set", "top=rep: activ(2026)")))
    expect_no_match(wrong(typed), "In the brief")
  expect_match(wrong("--set", "metrics.big=sum(nett)"), "nett")
  expect_match(wrong("--saved-set", "top=rep: active(2026)", "--compute",
                     "k=ifelse(rep %in% top, 1, 0)"), "a computed field cannot ask the set 'top'")
  expect_equal(command("standings", "--brief", file, "--each", "rep", "--saved-set",
                       "top=rep: active(2026)", "--define", "own=sum(net[rep %in% top])",
                       "--metrics", "own")$status, 0)
})

test_that("pages come in the order of the brief, under the stages of the work where they stand so",
          {
  skip_unless_all()
  skip_without_pandoc()
  pages <- c("  late: {study: standings, each: rep}", "  first: {study: check}",
             "  again: {study: standings, each: area}")
  file <- small_brief(pages)
  report <- function(file) {
    out <- file.path(dirname(file), "out")
    expect_equal(command("run", file, "--out", out, "--replace")$status, 0)
    text <- paste(readLines(file.path(out, "report.html"), warn = FALSE), collapse = "\n")
    expect_identical(read_record(out)$pages$page, names(ll_brief(file)$pages))
    ids <- regmatches(text, gregexpr("id=\"(page|stage)-[a-z-]+\"", text))[[1]]
    setdiff(sub("id=\"(.*)\"", "\\1", ids), paste0(c("page-late", "page-first", "page-again"),
                                                   "-table"))
  }
  expect_identical(report(file), c("page-late", "page-first", "page-again"))
  expect_identical(report(small_brief(pages[c(2, 1, 3)])),
                   c("stage-know-the-data", "page-first", "stage-who-is-ahead", "page-late",
                     "page-again"))
  # Those asked for, in the order asked.
  out <- file.path(dirname(file), "some")
  command("run", file, "again", "first", "--out", out)
  expect_identical(read_record(out)$pages$page, c("again", "first"))
})
