# docs/screenshots/desk.png: the desk as a browser shows it, wide, narrow and in the dark, on one
# sheet. Called by tools/screenshots.sh.
suppressMessages(library(testthat))
`%||%` <- function(a, b) if (is.null(a)) b else a
source("tests/testthat/helper-desk.R")
desk <- served_desk("inst/extdata/longladder.yml")
state <- c("top 10 garden centres by margin in 2026", "why did revenue change in Q2 2026")
shot <- function(width, height, dark, asked, held = NULL, point = FALSE) {
  page <- open_tab(desk$address, width, height, dark)
  page$wait(paste0("Array.from(document.querySelectorAll('#agenda .said')).filter(s => ",
                   "s.innerText.length > 20).length > 8"), 60)
  for (text in asked) ask_page(page, text)
  if (!is.null(held)) {
    page$type("#hold", held)
    page$press("[data-act=hold_typed]")
    page$wait("document.querySelector('.step h3').innerText.indexOf('Moor') > 0")
  }
  if (length(asked)) page$wait("!!document.querySelector('.step figure img')")
  Sys.sleep(1.5)
  page$js("document.activeElement.blur(); window.scrollTo(0, 0)")
  if (point) {
    page$js("document.querySelector('.step').scrollIntoView()")
    Sys.sleep(.3)
    box <- unlist(page$js(paste0("(b => [b.x, b.y, b.width, b.height])(document.querySelector(",
                                 "'.step figure img').getBoundingClientRect())")))
    page$mouse(box[1] + box[3] * .45, box[2] + box[4] * .27)
    page$wait("!document.querySelector('#menu').hidden")
  }
  Sys.sleep(.3)
  file <- tempfile(fileext = ".png")
  page$shot(file)
  paste0("data:image/png;base64,", gsub("\n", "", jsonlite::base64_enc(readBin(
    file, "raw", file.size(file)))))
}
wide <- shot(1120, 800, FALSE, state[1], "only Moor", point = TRUE)
narrow <- shot(400, 800, FALSE, character())
dark <- shot(400, 800, TRUE, state[2])
sheet <- tempfile(fileext = ".html")
writeLines(c("<body style='margin:0;display:flex;gap:12px;background:#8a9499'>",
             paste0("<img src='", c(wide, narrow, dark), "'>"), "</body>"), sheet)
page <- open_tab(paste0("file://", sheet), 1120 + 800 + 24, 800)
page$wait("Array.from(document.images).every(i => i.complete)")
page$shot("docs/screenshots/desk.png")
