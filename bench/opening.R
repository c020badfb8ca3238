# Opening a book, from a data frame and from a CSV file, against reading alone; and the first question
# on a fresh book. Writes bench/opening.md and bench/opening.png.

source("bench/common.R")
lines <- order_lines()
file <- tempfile(fileext = ".csv")
data.table::fwrite(lines, file)
table <- data.table::as.data.table(lines)
open <- function(x) ll_book(x, metrics = metrics)
texts <- names(lines)[vapply(lines, is.character, NA)]
subjects <- list(
  "open a data frame" = list(
    ours = function() open(lines),
    "collapse, sorted factors of its text columns" = function() lapply(lines[texts], collapse::qF,
                                                                       sort = TRUE),
    "collapse, grouping by each text column" = function() lapply(lines[texts], collapse::GRP,
                                                                 sort = FALSE),
    "base R, factors of its text columns" = function() lapply(lines[texts], factor)),
  "open a CSV file" = list(
    ours = function() open(file),
    "data.table, reading alone" = function() data.table::fread(file),
    "base R, reading alone" = function() utils::read.csv(file)),
  "first standings on a fresh book" = list(
    ours = NULL,
    "data.table, one grouping by a text key" = function() table[, .(sum(net)), by = account],
    "collapse, one grouping by a text key" = function() collapse::fsum(lines$net,
                                                                       collapse::GRP(lines$account,
                                                                                     sort = FALSE))))
# Base R takes minutes beyond a few million lines.
if (nrow(lines) > 3e6) subjects <- lapply(subjects, function(s) s[!startsWith(names(s), "base R")])
if (!has("collapse")) subjects <- lapply(subjects, function(s) s[!startsWith(names(s), "collapse")])
fresh <- subjects[["first standings on a fresh book"]][-1]
rows <- measure(subjects[1:2], warm = FALSE, times = min(rounds, 3))
# A book is fresh once only.
first <- vapply(seq_len(min(rounds, 3)), function(i) {
  book <- open(lines)
  gc(FALSE)
  seconds(ll_standings(book, "account", "revenue", top = 10))
}, 0)
others <- measure(list(x = fresh), times = min(rounds, 3))
last <- data.frame(subject = names(subjects)[3], who = c("ours", others$who),
                   seconds = c(median(first), others$seconds))
last$ratio <- last$seconds / last$seconds[1]
last$least <- last$seconds
rows <- rbind(rows, last)
write_page("opening", "Opening a book", paste0(
  count(nrow(lines)), " lines with 4 text columns (", count(length(unique(lines$order_no))),
  " orders), a date and 2 measures; a CSV file of ",
  round(file.size(file) / 1e6), " MB; medians of ", min(rounds, 3),
  " rounds. Opening finds types and roles, codes every text column in the order of its names ",
  "and looks for fixes. The first standings are a whole call: table, notes and proof by a second route."), "", table_of(rows), "", "![opening](opening.png)")
draw_rows("opening", rows, paste("Opening", count(nrow(lines)), "lines"))
