# Opens a report in a real browser, without a network, and gives back what a script in it found.

browser_path <- function() {
  found <- Sys.which(c("chromium", "chromium-browser", "google-chrome", "chrome"))
  unname(found[nzchar(found)][1])
}

# On CI the browser is part of what is installed, and its absence a failure.
skip_without_browser <- function() {
  if (!is.na(browser_path())) return(invisible())
  if (nzchar(Sys.getenv("CI"))) stop("no browser is installed")
  testthat::skip("no browser is installed")
}

skip_without_pandoc <- function() {
  if (requireNamespace("rmarkdown", quietly = TRUE) &&
      rmarkdown::pandoc_available("2.0")) return(invisible())
  if (nzchar(Sys.getenv("CI"))) stop("no pandoc is installed")
  testthat::skip("no pandoc is installed")
}

# Appends `script` to a copy of the page, which fills the object `found`. list(found, console): what
# the console said; found$requests is every address that the page asked for beside itself and what
# it holds.
in_browser <- function(file, script, width = 1280) {
  folder <- withr::local_tempdir()
  page <- file.path(folder, "page.html")
  text <- readLines(file, encoding = "UTF-8", warn = FALSE)
  extra <- c("<script>window.addEventListener('load', function () { var found = {};",
             paste0("found.requests = performance.getEntriesByType('resource').map(function (e) { ",
                    "return e.name; }).filter(function (n) { return !/^data:/.test(n); });"),
             script,
             "var out = document.createElement('pre'); out.id = 'found-by-test';",
             paste0("out.textContent = JSON.stringify(found); document.body.innerHTML = ''; ",
                    "document.body.appendChild(out); });</script>"))
  at <- max(grep("</body>", text, fixed = TRUE))
  writeLines(c(text[seq_len(at - 1)], extra, text[at:length(text)]), page, useBytes = TRUE)
  err <- file.path(folder, "err.txt")
  dom <- suppressWarnings(system2(browser_path(), c(
    "--headless", "--no-sandbox", "--disable-gpu", "--enable-logging=stderr", "--v=0",
    "--disable-background-networking",
    "--host-resolver-rules='MAP * ~NOTFOUND'", paste0("--user-data-dir=",
                                                      file.path(folder, "profile")),
    paste0("--window-size=", width, ",900"),
    "--virtual-time-budget=4000", "--dump-dom", paste0("file://", page)), stdout = TRUE,
                                  stderr = err))
  dom <- paste(dom, collapse = "\n")
  found <- regmatches(dom, regexec("<pre id=\"found-by-test\">(.*)</pre>", dom))[[1]][2]
  found <- gsub("&lt;", "<", gsub("&gt;", ">", gsub("&amp;", "&", found, fixed = TRUE),
                                  fixed = TRUE), fixed = TRUE)
  list(found = jsonlite::fromJSON(found, simplifyVector = TRUE),
       console = grep("CONSOLE", readLines(err, warn = FALSE), value = TRUE))
}

# Whether a page holds a pattern. testthat's own expectations take more than a minute on the text of
# a rendered notebook, since they lay out their message first.
page_says <- function(file, pattern) grepl(pattern, paste(readLines(file, encoding = "UTF-8",
                                                                    warn = FALSE), collapse = "\n"))
