# Check as bars: how many lines each finding touches, heaviest findings first.

findings_drawn <- 24

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_check <- function(object, ...) {
  object <- inner_result(object)
  table <- utils::head(plain_frame(object), findings_drawn)
  if (!nrow(table)) return(empty_figure(object))
  metric <- facts(object)$settings$metrics
  unit <- facts(object)$columns$unit[5]
  money <- table[[5]]
  bars <- data.frame(
    row = factor(seq_len(nrow(table)), rev(seq_len(nrow(table)))), lines = table$lines,
    name = fit_text(paste0(table$finding, ifelse(nzchar(table$field), " \u00b7 ", ""),
                           spoken(table$field)), 46),
    weight = table$weight,
    label = paste0(format_number(table$lines, "count"), ifelse(is.na(money), "", paste0(
      "   ", format_short(money, unit)))))
  # Lines run from one to all of them: lengths go by their square root, so that small ones show.
  bars$length <- sqrt(bars$lines)
  ggplot2::ggplot(bars, ggplot2::aes(x = .data$length, y = .data$row)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$weight), width = .7) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label), hjust = -.08, colour = house$ink,
                       size = label_size(nrow(bars), 2)) +
    ggplot2::scale_fill_manual(values = c(high = house$mark, middle = house$main, low = house$rest),
                               breaks = c("high", "middle", "low")) +
    ggplot2::scale_y_discrete(labels = function(row) bars$name[match(row, bars$row)]) +
    ggplot2::scale_x_continuous(labels = NULL, expand = ggplot2::expansion(mult = c(0, .3))) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink),
                   legend.position = "top", legend.justification = "left",
                   legend.title = ggplot2::element_blank()) +
    figure_words(object, paste0("lines and ", spoken(metric[1]),
                                " touched; lengths by the square root of the lines"),
                 paste0("Findings: ", paste(bars$name, bars$label, collapse = "; "), "."))
}
