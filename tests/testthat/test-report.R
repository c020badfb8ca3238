# The report: whole in one file, escaped, and working in a browser without a network.

# Names with everything that HTML, Markdown and templates could stumble over.
odd_names <- c("<b>Bo</b> & \"Co\"", "`r 1+1` $body$ **x**", "</script><script>alert(1)</script>",
               "Zoë 蜂蜜 'quoted'", "a|b\nc", "```{=html}", "]]> -->", "12")

odd_book <- function() {
  lines <- small_lines()
  lines$rep <- odd_names[seq_len(nrow(lines))]
  ll_book(lines, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"),
          title = "Bees & <Sons>")
}

many_book <- function() {
  ll_book(data.frame(day = as.Date("2026-01-01") + 0:39, who = sprintf("w%02d", 40:1),
                     net = c(2, 10, 1:38)), metrics = c(revenue = "sum(net)"))
}

test_that("in a browser: no error, no request, links land, tables sort, pictures have words", {
  skip_without_pandoc()
  skip_without_browser()
  file <- withr::local_tempfile(fileext = ".html")
  results <- list(reps = ll_standings(odd_book(), "rep"),
                  "many names" = ll_standings(many_book(), "who"),
                  "<i>path</i>" = ll_pareto(odd_book(), "rep"))
  ll_report(results, file)
  got <- in_browser(file, c(
    paste0("function cells(t, at) { return Array.prototype.map.call(t.tBodies[0].rows, function ",
           "(r) { return r.cells[at].textContent; }); }"),
    "var links = document.querySelectorAll('nav a, #found a');",
    "found.links = links.length;",
    paste0("found.lost = Array.prototype.filter.call(links, function (a) { return ",
           "!document.getElementById(decodeURIComponent(a.hash.slice(1))); }).length;"),
    "found.alts = Array.prototype.map.call(document.images, function (i) { return i.alt; });",
    paste0("found.drawn = Array.prototype.every.call(document.images, function (i) { return ",
           "i.naturalWidth > 1000; });"),
    paste0("found.ids = document.querySelectorAll('[id]').length - new ",
           "Set(Array.prototype.map.call(document.querySelectorAll('[id]'), function (e) { return ",
           "e.id; })).size;"),
    "found.bold = document.querySelectorAll('main b, main i, main script, main strong').length;",
    "var t = document.getElementById('page-many-names-table'), heads = t.tHead.rows[0].cells;",
    paste0("var at = Array.prototype.findIndex.call(heads, function (h) { return ",
           "h.textContent.trim() === 'revenue'; });"),
    paste0("heads[at].querySelector('button').click(); heads[at].querySelector('button').click(); ",
           "found.up = cells(t, at); found.aria = heads[at].getAttribute('aria-sort');"),
    "heads[at].querySelector('button').click(); found.down = cells(t, at);",
    "heads[1].querySelector('button').click(); found.names = cells(t, 1);",
    paste0("var input = document.querySelector('input[data-for=page-many-names-table]'); ",
           "input.value = 'W07'; input.dispatchEvent(new Event('input'));"),
    paste0("found.left = Array.prototype.filter.call(t.tBodies[0].rows, function (r) { return ",
           "!r.hidden; }).length; found.told = input.closest('.tools').querySelector('output').tex",
           "tContent;"),
    "found.odd = cells(document.getElementById('page-reps-table'), 1);",
    paste0("found.wide = document.documentElement.scrollWidth <= window.innerWidth; found.title = ",
           "document.title; found.h1 = document.querySelector('h1').textContent;")))
  expect_identical(got$console, character())
  found <- got$found
  expect_length(found$requests, 0)
  expect_gt(found$links, 5)
  expect_identical(c(found$lost, found$ids, found$bold), c(0L, 0L, 0L))
  expect_length(found$alts, 3)
  expect_true(all(nzchar(found$alts)) && found$drawn && found$wide)
  value <- function(x) as.numeric(gsub(",", "", x))
  expect_equal(value(found$up), sort(c(2, 10, 1:38)))
  expect_equal(value(found$down), sort(c(2, 10, 1:38), decreasing = TRUE))
  expect_identical(found$names, sprintf("w%02d", 1:40))
  expect_identical(found$aria, "ascending")
  expect_identical(c(found$left, found$told), c("1", "1 of 40 rows"))
  expect_setequal(found$odd, gsub("\n", " ", odd_names))
  expect_identical(c(found$title, found$h1), rep("Bees & <Sons>", 2))
})

test_that("narrow screens: the contents fold, nothing sticks out", {
  skip_without_pandoc()
  skip_without_browser()
  file <- withr::local_tempfile(fileext = ".html")
  ll_report(list(reps = ll_standings(odd_book(), "rep")), file)
  page <- withr::local_tempfile(fileext = ".html")
  # A headless window is never narrower than 500 pixels: a frame of 400 is.
  writeLines(paste0("<body><iframe id=\"f\" style=\"width:400px;height:900px\" srcdoc=\"",
                    htmltools::htmlEscape(paste(readLines(file, warn = FALSE), collapse = "\n"),
                                          TRUE), "\"></iframe></body>"), page)
  got <- in_browser(page, c("var d = document.getElementById('f').contentDocument;",
                            "found.folded = !d.querySelector('nav details').open;",
                            "found.wide = d.documentElement.scrollWidth <= 400;"))
  expect_true(got$found$folded && got$found$wide)
})

test_that("a page that fails is shown with its reason; a broken proof is seen", {
  skip_without_pandoc()
  file <- withr::local_tempfile(fileext = ".yml")
  lines <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(small_lines(), lines, row.names = FALSE)
  writeLines(c(paste0("lines: ", lines), "metrics: {revenue: sum(net)}", "control: {revenue: 1}",
               "pages:", "  good: {study: standings, each: rep}",
               "  bad: {study: standings, each: nobody}"), file)
  html <- withr::local_tempfile(fileext = ".html")
  ll_report(ll_brief(file), html)
  text <- paste(readLines(html), collapse = "\n")
  expect_match(text, "This page could not be made")
  expect_match(text, "Bad \\(failed\\)")
  expect_match(text, "Good \\(proof does not hold\\)")
  expect_match(text, "class=\"broken\">does not hold")
})

test_that("the template renders by itself from a brief", {
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  file.copy(demo_path(c("longladder.yml", "order_lines.csv", "accounts.csv", "items.csv",
                        "reps.csv")), folder)
  # Two pages are enough here.
  text <- readLines(file.path(folder, "longladder.yml"))
  writeLines(c(text[seq_len(grep("^pages:", text))],
               "  reps: {study: standings, each: rep, top: 5}"),
             file.path(folder, "longladder.yml"))
  withr::with_dir(folder, {
    rmarkdown::draft("mine.Rmd", "report", "longladder", edit = FALSE)
    made <- rmarkdown::render("mine.Rmd", quiet = TRUE, envir = new.env())
  })
  expect_match(paste(readLines(made), collapse = "\n"), "Maren Holt leads")
})

test_that("what cannot be reported is told", {
  skip_without_pandoc()
  expect_error(ll_report(list(1), tempfile(fileext = ".html")), class = "ll_error_argument")
  expect_error(ll_report("brief", tempfile(fileext = ".html")), class = "ll_error_argument")
  one <- list(reps = ll_standings(small_book(), "rep"))
  expect_error(ll_report(one, tempfile(fileext = ".pdf")), "\\.html", class = "ll_error_target")
  expect_error(ll_report(one, file.path(tempfile(), "x.html")), class = "ll_error_target")
})

test_that("a result in a document is its sentences and tables, whatever its names hold", {
  skip_without_pandoc()
  lines <- data.frame(k = c("a|b", "*c* `d`", "<script>alert(1)</script>", "$x$ [l](u)", "e\nf",
                            "-g", NA), day = as.Date("2025-01-01") + 0:6,
                      net = c(10.5, -2, 3, 4000, 5, 6, 7))
  rmd <- withr::local_tempfile(fileext = ".Rmd")
  saveRDS(lines, paste0(rmd, ".rds"))
  writeLines(c("---", "title: t", "---", "", "```{r, echo=FALSE, message=FALSE}",
               "library(longladder)", paste0("book <- ll_book(readRDS(",
                                             deparse(paste0(rmd, ".rds")),
                                             "), metrics = c(revenue = \"sum(net)\"))"),
               "ll_standings(book, \"k\")", "ll_standings(book, \"k\", top = 2)",
               "ll_standings(book, \"k\", where = \"net > 1e6\")", "```"), rmd)
  html <- rmarkdown::render(rmd, rmarkdown::html_document(mathjax = NULL, self_contained = FALSE),
                            quiet = TRUE, envir = new.env())
  page <- xml2::read_html(html)
  tables <- xml2::xml_find_all(page, "//table")
  expect_length(tables, 2)
  cells <- function(table, path) xml2::xml_text(xml2::xml_find_all(table, path), trim = TRUE)
  result <- ll_standings(ll_book(lines, metrics = c(revenue = "sum(net)")), "k")
  expect_identical(cells(tables[[1]], ".//thead//th"), c("rank", "k", "revenue", "revenue share",
                                                         "revenue running share"))
  expect_setequal(cells(tables[[1]], ".//tbody/tr/td[2]"),
                  c("a|b", "*c* `d`", "<script>alert(1)</script>", "$x$ [l](u)", "e f", "-g",
                    "(none)", "total"))
  expect_identical(cells(tables[[1]], ".//tbody/tr[1]/td[3]"), "4,000")
  text <- xml2::xml_text(page)
  for (said in c(ll_finding(result), ll_reading(result), ll_notes(result)$text,
                 "proof: 4 of 4 hold")) expect_match(gsub("\\s+", " ", text), said, fixed = TRUE)
  expect_match(text, "(nothing to list)", fixed = TRUE)
  expect_length(xml2::xml_find_all(page, "//script[contains(., 'alert(1)')]"), 0)
})

test_that("pages lead to those that answer their next questions", {
  book <- demo_book()
  pages <- list(reps = ll_standings(book, "rep", "revenue", when = "2026-Q2"),
                cause = ll_drill(book, "revenue", when = "2026-Q2"),
                other = ll_drill(book, "revenue", when = "2026-Q1"))
  file <- withr::local_tempfile(fileext = ".html")
  ll_report(pages, file)
  html <- paste(readLines(file), collapse = "\n")
  expect_match(html, "Next:\\s*<a href=\"#page-cause\">why did revenue change\\?</a>")
  expect_no_match(html, "href=\"#page-other\">why")
})

test_that("an answer without rows says so, and nothing of how it is made", {
  none <- ll_standings(demo_book(), "rep", where = "net > 1e9")
  file <- withr::local_tempfile(fileext = ".html")
  ll_report(list(none = none), file)
  text <- xml2::xml_text(xml2::xml_find_first(xml2::read_html(file), "//article"))
  expect_match(text, "(nothing to list)", fixed = TRUE)
  expect_no_match(text, "tools")
})
