# Whether codes of the smallest width that fits would pay: a sum by one key with codes of 4 bytes and
# of fewer, beside the same sum through the package and the whole question that asks it. Writes
# bench/widths.md and bench/widths.png.

source("bench/common.R")
Sys.setenv(PKG_LIBS = "-pthread")
Rcpp::sourceCpp("bench/widths.cpp")
lines <- order_lines()
book <- ll_book(lines, metrics = metrics)
net <- internal("scaled_field")(book$source, "net")$v
fits <- c(region = 1, product = 2, account = 3)
subjects <- lapply(stats::setNames(nm = names(fits)), function(key) {
  column <- internal("coded_field")(book$source, key)
  groups <- length(column$levels) + 1L
  sum_with <- function(width) {
    codes <- pack_codes(column$codes, width)
    function() sum_packed(codes, width, net, groups)
  }
  by_width <- stats::setNames(lapply(c(4, fits[[key]]), sum_with),
                              c("codes of 4 bytes", "the smallest that fit"))
  stopifnot(identical(by_width[[1]](), by_width[[2]]()),
            identical(by_width[[1]](), internal("kernel_sums")(list(net), column$codes, groups,
                                                               NULL, FALSE)$sums[[1]]))
  c(by_width, list("the package's fold" = function() fold(book$source, key,
                                                          list(a = part("sum", "net"))),
                   "the whole question" = function() ll_standings(book, key, "revenue", top = 10)))
})
names(subjects) <- sprintf("%s, %s names, %d byte%s", names(fits),
                           vapply(names(fits), function(key) {
  count(length(internal("coded_field")(book$source, key)$levels))
}, ""), fits, ifelse(fits > 1, "s", ""))
rows <- measure(subjects)
at <- function(who) rows$seconds[rows$who == who]
saved <- at("codes of 4 bytes") - at("the smallest that fit")
write_page("widths", "Narrower codes", paste0(
  count(nrow(lines)), " lines; medians of ", rounds,
  " interleaved rounds. A sum by one key with codes of 4 bytes, as the package keeps them, ",
  "and with the smallest that fit, in the same loop on two threads; the fold of the package; and the question that asks it, with notes and proof. ",
  "\"Saved\" is what narrower codes would take off the question, where below zero they are dearer."), "",
  "| key | 4 bytes, s | smallest, s | fold, s | question, s | saved of the question |",
           "|---|---|---|---|---|---|",
  sprintf("| %s | %.4f | %.4f | %.4f | %.3f | %.1f %% |", names(subjects), at("codes of 4 bytes"),
          at("the smallest that fit"), at("the package's fold"), at("the whole question"),
          100 * saved / at("the whole question")),
  "", "![widths](widths.png)")
draw_rows("widths", rows, paste("Codes of fewer bytes,", count(nrow(lines)), "lines"))
