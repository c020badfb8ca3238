# Distribution as a histogram, with mean and median; by group as small panels on one scale.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_distribution <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  set <- facts$settings
  table <- plain_frame(object)
  if (!nrow(table)) return(empty_figure(object))
  width <- set$width
  bars <- data.frame(x = ifelse(is.na(table$from), table$to - width, table$from) + width / 2,
                     count = table$count, open = is.na(table$from) | is.na(table$to),
                     below = !is.na(table$to) & table$to <= 0,
                     panel = if (is.null(set$by)) "" else drawn_names(table, set$by))
  bars$panel <- factor(bars$panel, unique(bars$panel))
  bars$kind <- ifelse(bars$open, "open", ifelse(bars$below, "below", "above"))
  unit <- column_unit(facts, "from")
  summary <- facts$parts$summary
  group <- if (is.null(set$by)) "" else drawn_names(summary, "group")
  lines <- data.frame(panel = factor(group, levels(bars$panel)),
                      mean = summary$mean, median = summary$median)
  plot <- ggplot2::ggplot(bars, ggplot2::aes(x = .data$x, y = .data$count)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$kind), width = width * .96) +
    ggplot2::geom_vline(data = lines, ggplot2::aes(xintercept = .data$median), colour = house$lead,
                        linewidth = .7) +
    ggplot2::geom_vline(data = lines, ggplot2::aes(xintercept = .data$mean), colour = house$mark,
                        linewidth = .7, linetype = "longdash") +
    ggplot2::scale_fill_manual(values = c(above = house$main, below = house$mark,
                                          open = house$rest), guide = "none") +
    ggplot2::scale_x_continuous(labels = function(x) sub("[.]0+ ", " ", format_short(x, unit))) +
    ggplot2::scale_y_continuous(labels = function(y) format_short(y, "count"),
                                expand = ggplot2::expansion(mult = c(0, .06))) +
    theme_house() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_line(colour = house$line, linewidth = .3),
                   axis.text = ggplot2::element_text(colour = house$soft)) +
    figure_words(object, c("solid line: median", "dashed: mean",
                           if (any(bars$open)) "grey: open bands",
                           if (any(bars$below & bars$count > 0)) "amber: below zero"),
                 paste0("Histogram of ", nrow(bars), " bands."))
  if (!is.null(set$by))
    plot <- plot + ggplot2::facet_wrap("panel", scales = "free_y",
                                       ncol = if (nlevels(bars$panel) > 3) 2 else 1)
  plot
}
