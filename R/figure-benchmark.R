# Benchmark: bars against the target; with plans a stroke of each one's own.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_benchmark <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  if (!nrow(object)) return(empty_figure(object))
  bars <- benchmark_bars(object)
  size <- label_size(nrow(bars), 1)
  common <- facts$settings$benchmark
  most <- max(bars$value, bars$line, 0, na.rm = TRUE)
  if (most == 0) most <- 1
  widths <- c(max(nchar(bars$label)) + 1, max(nchar(bars$percent)) + 2)
  sign <- sign_width(most, sum(widths) + 1)
  right <- most + (sum(widths) + 1) * sign
  shades <- stats::setNames(c(house$lead, house$main, house$rest),
                            benchmark_words(facts$settings$bands))
  plot <- ggplot2::ggplot(bars, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = 0, xmax = .data$value, ymin = .data$row - .36,
                                    ymax = .data$row + .36, fill = .data$state)) +
    ggplot2::geom_text(ggplot2::aes(x = most + sign, label = .data$label), hjust = 0, size = size,
                       colour = house$ink) +
    ggplot2::geom_text(ggplot2::aes(x = right, label = .data$percent), hjust = 1,
                       size = size, fontface = "bold", colour = house$ink)
  plot <- plot + (if (is.null(common)) ggplot2::geom_segment(ggplot2::aes(
    x = .data$line, xend = .data$line, y = .data$row - .46, yend = .data$row + .46),
    colour = house$mark, linewidth = 1.2, na.rm = TRUE) else ggplot2::geom_vline(
      xintercept = common, colour = house$mark, linewidth = .8))
  plot + ggplot2::scale_fill_manual(values = shades, breaks = names(shades), name = NULL) +
    ggplot2::scale_y_continuous(breaks = bars$row, labels = bars$name,
                                expand = ggplot2::expansion(add = .4)) +
    ggplot2::scale_x_continuous(labels = NULL, limits = c(min(bars$value, 0), right),
                                expand = ggplot2::expansion(mult = c(.01, .01))) +
    theme_rows(size) +
    ggplot2::theme(legend.position = "bottom") +
    figure_words(object, c(if (is.null(common)) "stroke: the plan" else "line: the target",
                           first_names(object, nrow(bars))),
                 paste0("Bars against a target: ", paste(utils::head(
                   paste(bars$name, bars$label, bars$percent), 5), collapse = "; "), "."))
}

# What the shades stand for: at the target, from the next band's bound on, below that.
benchmark_words <- function(bands) {
  second <- rev(bands)[2]
  if (is.na(second)) return(c("reached", "near", "below the target"))
  from <- format_number(second, "percent", 0)
  c("reached", paste("from", from, "on"), paste("below", from))
}

benchmark_bars <- function(x) {
  facts <- facts(x)
  table <- utils::head(plain_frame(x), bars_most)
  metric <- facts$settings$metrics[1]
  unit <- column_unit(facts, metric)
  names <- drawn_names(table, facts$settings$each)
  of <- table$of_benchmark
  second <- rev(facts$settings$bands)[2]
  word <- benchmark_words(facts$settings$bands)
  state <- ifelse(is.na(of), word[3], ifelse(of >= 1 - 1e-9, word[1], ifelse(
    !is.na(second) & of >= second - 1e-9, word[2], word[3])))
  data.frame(row = rev(seq_len(nrow(table))), value = table[[metric]], line = table$benchmark,
             name = rank_name(table$rank, fit_text(names, 30)), state = state,
             label = format_number(table[[metric]], unit),
             percent = ifelse(is.na(of), "", format_number(of, "percent", 0)))
}
