# Holders: for each group a bar to the value held, a mark where the runner-up stands.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_holders <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  if (!nrow(object)) return(empty_figure(object))
  bars <- holder_bars(object)
  size <- label_size(nrow(bars), 1)
  most <- max(abs(bars$value), abs(bars$after), 1e-300, na.rm = TRUE)
  low <- min(bars$value, bars$after, 0, na.rm = TRUE)
  days <- all(bars$dated)
  plot <- ggplot2::ggplot(bars, ggplot2::aes(y = .data$row))
  if (!days) plot <- plot + ggplot2::geom_rect(ggplot2::aes(
    xmin = 0, xmax = .data$value, ymin = .data$row - .34, ymax = .data$row + .34),
    fill = house$main) +
    ggplot2::geom_point(ggplot2::aes(x = .data$after), shape = 23, size = 2.4, fill = house$mark,
                        colour = house$paper, na.rm = TRUE)
  plot +
    ggplot2::geom_text(ggplot2::aes(x = if (days) 0 else pmax(.data$value, .data$after, 0,
                                                              na.rm = TRUE) + most * .02,
                                    label = .data$label), hjust = 0, size = size,
                       colour = house$ink) +
    ggplot2::scale_y_continuous(breaks = bars$row, labels = bars$name,
                                expand = ggplot2::expansion(add = .5)) +
    ggplot2::scale_x_continuous(labels = NULL, limits = if (days) c(0, 1) else
      c(low, max(bars$value, bars$after, 0, na.rm = TRUE) + most * .9),
      expand = ggplot2::expansion(mult = c(.01, 0))) +
    theme_rows(size) +
    figure_words(object, c(if (!days && any(!is.na(bars$after))) "diamond: the runner-up",
                           first_of(nrow(bars), nrow(object), "rows")),
                 paste0("Bars: ", paste(utils::head(paste(bars$name, bars$label), 5),
                                        collapse = "; "), "."))
}

holder_bars <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  table <- utils::head(plain_frame(x), 25)
  metric <- set$metrics[1]
  unit <- column_unit(facts, metric)
  joined <- function(keys) if (length(keys)) drawn_names(table, keys)
  holder <- joined(set$each) %||% joined(utils::head(set$with_fields, 1)) %||%
    paste("line", table$line)
  group <- joined(set$within)
  value <- as.numeric(table[[metric]])
  after <- as.numeric(table[[paste0(metric, "_runner_up")]])
  said <- format_number(value, unit)
  data.frame(row = rev(seq_len(nrow(table))), value = value, after = after, dated = unit == "date",
             name = fit_text(group %||% holder, 30),
             label = paste0(said, if (!is.null(group)) paste0("   ", fit_text(holder, 18)),
                            ifelse(is.na(table$lead) | table$lead == 0, "", paste0(
                              "   (+", sub("^-", "", format_number(table$lead, if (
                                unit == "date") "number" else unit)), ")"))))
}
