# Altered copies of the demo, in which causes are planted: a quarter of 2025-Q1 to 2026-Q2 against
# the year before.

folder <- system.file("extdata", package = "longladder")
table_of <- function(file, key) {
  utils::read.csv(file.path(folder, file), check.names = FALSE,
                  colClasses = stats::setNames(rep("character", length(key)), key))
}
lines <- table_of("order_lines.csv", c("account", "order_no"))
accounts <- table_of("accounts.csv", "account")
items <- table_of("items.csv", "item")
lines <- lines[!is.na(lines$net), c("order_no", "order_date", "account", "item", "rep", "territory",
                                    "channel", "net", "cost")]
lines$day <- as.Date(lines$order_date)
lines$type <- accounts$type[match(lines$account, accounts$account)]
lines$family <- items$family[match(lines$item, items$item)]
lines <- lines[!is.na(lines$type) & !is.na(lines$family), ]
lines$rep[lines$rep == ""] <- "nobody"
dims <- c("type", "family", "territory", "channel", "account", "rep", "item")
small <- utils::combn(dims[1:4], 2, simplify = FALSE)
tied <- list(c("type", "account"), c("territory", "account"), c("rep", "account"),
             c("family", "item"), c("territory", "rep"))
quarters <- c("2025-01-01", "2025-04-01", "2025-07-01", "2025-10-01", "2026-01-01", "2026-04-01")

later <- function(day, years) {
  day <- as.POSIXlt(day)
  day$year <- day$year + years
  as.Date(day)
}
inside <- function(d, segment) Reduce(`&`, Map(function(v, k) d[[v]] == k, names(segment), segment))

# The lines with the period of each: now, then or neither; swapped where that is asked for.
altered_book <- function(at, swapped) {
  d <- lines
  from <- as.Date(at)
  to <- seq(from, by = "3 months", length.out = 2)[2] - 1
  period <- function(years) d$day >= later(from, years) & d$day <= later(to, years)
  d$when <- ifelse(period(0), "now", ifelse(period(-1), "then", "other"))
  if (swapped) {
    whose <- d$account %in% sample(unique(d$account), length(unique(d$account)) / 2)
    move <- function(side, years) {
      hit <- whose & d$when == side
      d$day[hit] <<- pmin(pmax(later(d$day[hit], years), if (years > 0) from else later(from, -1)),
                          if (years > 0) to else later(to, -1))
    }
    move("then", 1)
    move("now", -1)
    d$when[whose & d$when != "other"] <- c(now = "then", then = "now")[
      d$when[whose & d$when != "other"]]
  }
  list(d = d, when = paste0(from, "/", to))
}

choose_segment <- function(d, avoid) {
  both <- d$when != "other"
  for (try in 1:3000) {
    v <- sample(dims, sample(3, 1))
    if (any(vapply(tied, function(t) all(t %in% v), NA))) next
    segment <- as.list(d[sample(which(both), 1), v, drop = FALSE])
    m <- inside(d, segment) & both
    share <- sum(d$net[m]) / sum(d$net[both])
    if (any(m & avoid) || share < .01 || share > .4) next
    if (!"account" %in% v && length(unique(d$account[m])) < 15) next
    return(segment)
  }
}

# Which of the named segments share more than four fifths of their size with the planted lines.
hits <- function(named, planted, size) {
  vapply(named, function(lines) sum(size[lines & planted]) / sum(size[lines | planted]) > .8, NA)
}

run <- function(work) do.call(rbind, parallel::mclapply(seq_len(books), work, mc.cores = 2,
                                                        mc.preschedule = FALSE))
rate <- function(x) if (length(x)) sprintf("%.2f (%d)", mean(x), length(x)) else "-"
row <- function(name, cells) paste0("| ", name, " | ", paste(cells, collapse = " | "), " |")

# What chances were stated of books without a cause and how often as much happened, of `chances` by
# what they are of. On the line they are true, below it on the careful side.
draw_calibration <- function(chances, file) {
  points <- do.call(rbind, lapply(names(chances), function(name) {
    x <- sort(chances[[name]])
    data.frame(of = paste0(name, " (", length(x), " books)"), stated = x,
               happened = seq_along(x) / length(x))
  }))
  plot <- ggplot2::ggplot(points, ggplot2::aes(stated, happened, colour = of)) +
    ggplot2::geom_abline(colour = "grey60") + ggplot2::geom_step(direction = "vh") +
    ggplot2::scale_x_log10(limits = c(.004, 1), oob = scales::squish) +
    ggplot2::scale_y_log10(limits = c(.004, 1), oob = scales::squish) +
    ggplot2::scale_colour_manual(values = c("#1b6b72", "#b0632b"), name = NULL) +
    ggplot2::labs(x = "stated chance", y = "part of books in which as much happened",
                  title = "Books without a cause: what was stated, what happened",
                  subtitle = "on the line true, below it on the careful side") +
    ggplot2::theme_minimal() + ggplot2::theme(legend.position = "top")
  ggplot2::ggsave(file, plot, width = 7, height = 5, dpi = 120, bg = "white")
}
