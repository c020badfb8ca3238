# How long the desk takes from a press to what is painted, in a real browser: page, table and figure
# of an answer, an answer anew under what holds, ten answers anew; at the demo and at more lines;
# and ten people at once. Writes bench/desk.md.
#
#   Rscript bench/desk.R                   the demo and a million lines
#   LINES=1e7 Rscript bench/desk.R         and ten million
#   PEOPLE=10 MINUTES=3 Rscript bench/desk.R
#   DEMO_ONLY=1 Rscript bench/desk.R

source("bench/common.R")
suppressMessages(library(testthat))
source("tests/testthat/helper-desk.R")
`%||%` <- function(a, b) if (is.null(a)) b else a

# Seconds from a press to a condition on the page, looked at by the browser on every frame.
painted <- function(page, press, shown) {
  page$js(paste0(
    "window.painted = null; (() => { const t = performance.now(); (", press, ")(); ",
    "(function look() { const s = (performance.now() - t) / 1000; ",
    "if (", shown, " || s > 60) window.painted = s; else requestAnimationFrame(look); })(); })()"))
  page$wait("window.painted !== null")
  page$js("window.painted")
}
heads <- "document.querySelectorAll('.step:not([hidden]) h3').length"
pictures <- paste0("Array.from(document.querySelectorAll('.step:not([hidden]) figure img'))",
                   ".filter(i => i.complete && i.naturalWidth > 0).length")
typed <- function(field, text, act) {
  paste0("() => { document.querySelector('", field, "').value = ",
         jsonlite::toJSON(text, auto_unbox = TRUE), "; document.querySelector('[data-act=", act,
         "]').click(); }")
}
ask <- function(text) typed("#question", text, "ask_typed")
hold <- function(text) typed("#hold", text, "hold_typed")

measure <- function(label, words, questions, held, heard) {
  # The browser is there already, as a person's is.
  page <- open_tab("about:blank")
  started <- Sys.time()
  desk <- do.call(served_desk, as.list(words))
  page$tab$Page$navigate(desk$address, wait_ = FALSE)
  page$wait("!!document.querySelector('#holding')", 120)
  up <- as.numeric(Sys.time() - started, units = "secs")
  # The first answer finds a browser and an R that have done nothing yet.
  painted(page, ask(questions[1]), paste(heads, "> 0"))
  page$wait(paste(pictures, "> 0"), 60)
  # So has a person read the agenda, whose findings are worked out beside meanwhile.
  page$wait("document.querySelectorAll('#agenda .said.waiting').length == 0", 120)
  rows <- lapply(questions, function(text) {
    n <- page$js(heads)
    drawn <- page$js(pictures)
    table <- painted(page, ask(text), paste(heads, ">", n))
    started <- Sys.time()
    page$wait(paste(pictures, ">", drawn), 60)
    data.frame(book = label, press = text, table = table,
               figure = table + as.numeric(Sys.time() - started, units = "secs"))
  })
  again <- painted(page, hold(held), paste0(
    "document.querySelector('.step:not([hidden]) h3').innerText.indexOf('", heard, "') >= 0"))
  every <- painted(page, hold("2026"), paste0(
    "Array.from(document.querySelectorAll('.step:not([hidden]) h3')).every(h => ",
    "h.innerText.indexOf('2026') >= 0)"))
  rbind(data.frame(book = label, press = "from the command to the page", table = up, figure = NA),
        do.call(rbind, rows),
        data.frame(book = label, press = c(
          paste0("hold '", held, "': the first answer anew"),
          paste("hold 2026: all", length(questions) + 1, "answers anew")),
          table = c(again, every), figure = NA))
}

demo <- measure("the demo, 40,535 lines", "inst/extdata/longladder.yml", c(
  "top 10 garden centres by margin", "revenue by territory and channel", "revenue by month",
  "which accounts make up 80% of revenue", "why did revenue change in Q2 2026",
  "revenue by family", "accounts above average on revenue and margin rate", "revenue by rep",
  "bridge of revenue by territory"), "only Moor", "Moor")
sizes <- if (!nzchar(Sys.getenv("DEMO_ONLY"))) unique(c(1e6, n_lines))
large <- lapply(sizes, function(n) {
  if (n < 1e6) return(NULL)
  folder <- tempfile("desk-bench-")
  dir.create(folder)
  file <- file.path(folder, "lines.csv")
  n_lines <<- n
  data.table::fwrite(order_lines(), file)
  Sys.setenv(LONGLADDER_CACHE = file.path(folder, "cache"))
  on.exit(unlink(folder, recursive = TRUE))
  internal("ll_main")(c("cache", file, "--define", "revenue=sum(net)", "--quiet"))
  # What was written is still on its way to the disk.
  gc(FALSE)
  Sys.sleep(n / 3e5)
  measure(paste(count(n), "lines, kept"),
          c(file, "--define", "revenue=sum(net)", "--cache", "yes"),
          c("revenue by region", "top 5 products", "revenue by month",
            "top 10 accounts"), "only north", "region is north")
})
found <- rbind(demo, do.call(rbind, large))

# Several people, each asking one question after another, of one process.
people <- as.integer(Sys.getenv("PEOPLE", "10"))
minutes <- as.numeric(Sys.getenv("MINUTES", "1"))
desk <- served_desk("inst/extdata/longladder.yml")
pages <- lapply(seq_len(people), function(i) open_tab(desk$address, frame = globalenv()))
for (page in pages) page$wait("!!document.querySelector('#holding')", 60)
asks <- c("top 10 accounts by margin", "revenue by month", "revenue by territory and channel",
          "why did revenue change in Q2 2026", "which accounts make up 80% of revenue",
          "reps by revenue in 2025", "revenue by family in Moor", "who stopped buying")
# Each asks again as soon as the answer is there; the browser notes how long each took.
talk <- paste0("(first => {
  window.took = [];
  const asks = ", jsonlite::toJSON(asks), ";
  let i = first;
  const question = document.querySelector('#question');
  const waits = () => question.value || document.querySelector('.step:not([hidden]) .waiting');
  function next() {
    if (", heads, " > 20) document.querySelector('[data-act=anew]').click();
    const t = performance.now();
    // Another year each time, so that not all is answered already.
    const text = asks[i++ % asks.length];
    question.value = text + (i > 8 && !/20/.test(text) ? ' in 202' + (4 + i % 3) : '');
    document.querySelector('[data-act=ask_typed]').click();
    (function look() {
      const s = (performance.now() - t) / 1000;
      if (waits() && s < 60) return setTimeout(look, 20);
      window.took.push(s);
      setTimeout(next, 500);
    })();
  }
  next();
})")
for (i in seq_along(pages)) pages[[i]]$js(paste0(talk, "(", i, ")"))
Sys.sleep(60 * minutes)
told <- function(page) unlist(tryCatch(page$js("window.took"), error = function(e) NULL))
took <- unlist(lapply(pages, told))

seconds_text <- function(x) ifelse(is.na(x), "", sprintf("%.2f", x))
lines <- c(
  "# The desk, from a press to what is painted", "",
  paste("Made by `Rscript bench/desk.R` in a browser on the same machine, one press after another;",
        "seconds until the sentence and the table stand there, and until the picture does. The",
        "first answer of each desk is not counted, and the agenda has its findings."), "",
  "| book | press | table s | figure s |", "|---|---|---|---|",
  paste0("| ", found$book, " | ", found$press, " | ", seconds_text(found$table), " | ",
         seconds_text(found$figure), " |"), "",
  paste0(people, " people at once, each asking again half a second after the answer, for ", minutes,
         " min: ", length(took), " answers, median ", seconds_text(stats::median(took)),
         " s, nine of ten within ", seconds_text(stats::quantile(took, .9)), " s, the longest ",
         seconds_text(max(took)), " s (all browsers and the desk on two cores)."), "", machine())
writeLines(lines, "bench/desk.md")
cat(lines, sep = "\n")
