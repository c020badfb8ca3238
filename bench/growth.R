# How time grows with lines, and with names at the same lines. Writes bench/growth.md and
# bench/growth.png. MOST=3e7 sets the most lines.

source("bench/common.R")
most <- as.numeric(Sys.getenv("MOST", "1e7"))
sizes <- unique(c(1e5, 3e5, 1e6, 3e6, 1e7, 3e7, most))
sizes <- sort(sizes[sizes <= most])
names_of <- 10^(1:7)
ask <- list(
  open = function(lines, book) ll_book(lines, metrics = metrics),
  "sum by account" = function(lines, book) fold(book$source, "account",
                                                list(a = part("sum", "net"))),
  "sum by account and region" = function(lines, book) fold(book$source, c("account", "region"),
                                                           list(a = part("sum", "net"))),
  "distinct orders by account" = function(lines, book) fold(book$source, "account",
                                                            list(a = part("distinct", "order_no"))),
  "median by account" = function(lines, book) fold(book$source, "account",
                                                   list(a = part("quantile", "net",
                                                                 prob = list(value = .5)))),
  standings = function(lines, book) ll_standings(book, "account", "revenue", top = 10))
time_of <- function(n, accounts) {
  lines <- order_lines(n, accounts)
  book <- ll_book(lines, metrics = metrics, fields = c(account = "dimension"))
  out <- vapply(ask, function(f) {
    f(lines, book)
    gc(FALSE)
    median(vapply(1:3, function(i) seconds(f(lines, book)), 0))
  }, 0)
  data.frame(lines = n, accounts = accounts, subject = names(ask), seconds = out)
}
by_lines <- do.call(rbind, lapply(sizes, function(n) time_of(n, 1000)))
middle <- min(3e6, most)
by_names <- do.call(rbind, lapply(names_of[names_of <= 4 * middle], function(k) time_of(middle, k)))
cells <- function(rows, by) {
  wide <- vapply(unique(rows$subject), function(s) rows$seconds[rows$subject == s],
                 numeric(length(unique(rows[[by]]))))
  c(paste("|", by, "|", paste(colnames(wide), collapse = " | "), "|"),
    paste0("|", strrep("---|", ncol(wide) + 1)), sprintf("| %s | %s |",
                                                         vapply(unique(rows[[by]]), count, ""),
                                                         apply(wide, 1,
                                                               function(x) paste(sprintf("%.3f", x),
                                                                                 collapse = " | "))))
}
slope <- function(rows, by) vapply(split(rows, factor(rows$subject, unique(rows$subject))),
                                   function(r) {
  last <- utils::tail(order(r[[by]]), 2)
  diff(log(pmax(r$seconds[last], 1e-3))) / diff(log(r[[by]][last]))
}, 0)
write_page("growth", "How time grows", "Seconds, medians of 3. With lines, at 1,000 accounts:", "",
           cells(by_lines, "lines"), "",
  paste0("Exponent of the last step (1 is linear): ", paste(sprintf("%s %.2f", names(ask),
                                                                    slope(by_lines, "lines")),
                                                            collapse = ", "), "."), "",
  "What grows faster than the lines no longer fits the processor's caches: distinct orders first, whose numbers grow with the lines.", "",
  paste0("With accounts, at ", count(middle), " lines (accounts that have lines only):"), "",
           cells(by_names, "accounts"), "", "![growth](growth.png)")
house <- internal("house")
both <- rbind(data.frame(by_lines, x = by_lines$lines, panel = "lines, at 1,000 accounts"),
              data.frame(by_names, x = by_names$accounts,
                         panel = paste("accounts, at", count(middle), "lines")))
both$panel <- factor(both$panel, unique(both$panel))
both$subject <- factor(both$subject, names(ask))
tens <- function(x) format(x, big.mark = ",", scientific = FALSE, trim = TRUE, drop0trailing = TRUE)
figure <- ggplot2::ggplot(both, ggplot2::aes(x, pmax(seconds, 1e-3), colour = subject,
                                             shape = subject)) + ggplot2::geom_line() +
                                               ggplot2::geom_point(size = 2.6) +
  ggplot2::facet_wrap(~panel, scales = "free_x") + ggplot2::scale_x_log10(labels = tens) +
    ggplot2::scale_y_log10(labels = function(x) paste(tens(x), "s")) +
  ggplot2::scale_colour_manual(values = c(house$main, house$mark, "#8A4F7D", "#5B7FB5", house$soft,
                                          house$ink)) +
  internal("theme_house")() + ggplot2::theme(legend.position = "top",
                                             legend.title = ggplot2::element_blank(),
                                             legend.justification = "left",
    panel.grid.major = ggplot2::element_line(colour = house$line)) +
  ggplot2::labs(title = "How time grows",
                subtitle = "seconds, medians, both scales logarithmic: a straight line at 45 degrees is linear growth")
save_drawn("growth", figure)
