# Payouts as bars of the amounts against the bounds of the steps, what is paid at their ends.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_payout <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  if (!nrow(object)) return(empty_figure(object))
  bars <- payout_bars(object)
  bounds <- payout_bounds(object, max(bars$value, 0, na.rm = TRUE))
  most <- max(bars$value, bounds$x, 0)
  if (most == 0) most <- 1
  size <- label_size(nrow(bars), 1)
  places <- payout_places(bars, most, facts)
  ggplot2::ggplot(bars, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = 0, xmax = .data$value, ymin = .data$row - .36,
                                    ymax = .data$row + .36),
                       fill = ifelse(bars$paid, house$main, house$rest)) +
    ggplot2::geom_segment(data = bounds, ggplot2::aes(x = .data$x, xend = .data$x, y = .4,
                                                      yend = nrow(bars) + .75),
                          colour = house$mark, linewidth = .5) +
    ggplot2::geom_text(data = bounds, ggplot2::aes(x = .data$x, y = nrow(bars) + .85 + .7 *
                                                     .data$lift, label = .data$label),
                       hjust = 0, vjust = 0, size = 3, lineheight = .95, colour = house$soft) +
    payout_columns(bars, places, size, facts) +
    ggplot2::scale_y_continuous(breaks = bars$row, labels = bars$name,
                                expand = ggplot2::expansion(add = c(.2, 1.1 + max(bounds$lift)))) +
    ggplot2::scale_x_continuous(labels = NULL, limits = c(min(bars$value, 0), places$right),
                                expand = ggplot2::expansion(mult = c(.01, 0))) +
    theme_rows(size) +
    figure_words(object, c(paste0("bars: ", spoken(facts$settings$metrics[1]),
                                  "; lines: where a step begins"),
                           first_names(object, nrow(bars))),
                 payout_seen(bars))
}

payout_bars <- function(x) {
  facts <- facts(x)
  table <- utils::head(plain_frame(x), 30)
  metric <- facts$settings$metrics[1]
  value <- as.numeric(table[[metric]])
  names <- drawn_names(table, facts$settings$each)
  unit <- column_unit(facts, metric)
  paid <- if (is.null(table$payout)) table$offer else format_number(table$payout, "money", 2)
  other <- if (!is.null(table$payout_compared))
    paste0(", by the other rates ", format_number(table$payout_compared, "money", 2))
  data.frame(row = rev(seq_len(nrow(table))), value = value, name = fit_text(names, 30),
             paid = if (is.null(table$payout)) table$offer != "no" else table$payout > 0,
             amount = format_number(value, unit), label = paste0(one_line(paid), other))
}

# Beside the bars, clear of the lines: what each name has, and what it is paid.
payout_columns <- function(bars, places, size, facts) {
  offer <- facts$settings$pay == "offer"
  column <- function(at, text, head, side) {
    list(ggplot2::annotate("text", x = at, y = bars$row, label = text, hjust = side,
                           size = size, colour = house$ink),
         ggplot2::annotate("text", x = at, y = nrow(bars) + .85, label = head, hjust = side,
                           vjust = 0, size = 3, colour = house$soft))
  }
  c(column(places$amount, bars$amount, places$metric, 1),
    if (offer) column(places$amount + 2 * places$sign, places$label, "offer", 0) else
      column(places$right, places$label, "payout", 1))
}

# Where the columns of text stand, with the widest bar before them: list(sign, amount, right); and
# what stands there.
payout_places <- function(bars, most, facts) {
  out <- list(metric = spoken(facts$settings$metrics[1]), label = fit_text(bars$label, 30))
  wide <- c(max(nchar(c(bars$amount, out$metric))), max(nchar(c(out$label, "payout")))) + 2
  out$sign <- sign_width(most, sum(wide))
  out$amount <- most + wide[1] * out$sign
  out$right <- out$amount + wide[2] * out$sign
  out
}

# Bounds in view, what each pays; labels that would touch stand one above another.
payout_bounds <- function(x, most) {
  facts <- facts(x)
  set <- facts$settings
  unit <- column_unit(facts, set$metrics[1])
  pays <- switch(set$pay, offer = one_line(as.character(set$pays)),
                 sum = format_number(set$pays, "money"), format_number(set$pays, "percent"))
  keep <- set$bounds <= max(most * 1.25, set$bounds[1])
  at <- set$bounds[keep]
  if (!length(at)) return(data.frame(x = numeric(), lift = numeric(), label = character()))
  label <- paste0(fit_text(pays[keep], 24), " from ", sub("\\.0 k$", " k", format_short(at, unit)))
  close <- c(FALSE, diff(at) < .025 * utils::head(nchar(label) + 1, -1) * max(most, at))
  lift <- Reduce(function(old, near) if (near) (old + 1) %% 3 else 0, close[-1], 0,
                 accumulate = TRUE)
  data.frame(x = at, lift = lift, label = label)
}

payout_seen <- function(bars) {
  top <- utils::head(bars, 5)
  paste0("Bars of amounts with payouts: ",
         paste(top$name, top$amount, top$label, collapse = "; "), ".")
}
