# A total as bars: now and before, a panel for each metric with a scale of its own.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_total <- function(object, ...) {
  object <- inner_result(object)
  bars <- total_bars(object)
  if (!nrow(bars)) return(empty_figure(object))
  reach <- max(abs(bars$part), 0, na.rm = TRUE)
  ggplot2::ggplot(bars, ggplot2::aes(x = .data$part, y = .data$which)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$which), width = .6, na.rm = TRUE) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, hjust = ifelse(.data$part < 0, 1.1, -.1)),
                       colour = house$ink, size = 3.6, na.rm = TRUE) +
    ggplot2::scale_fill_manual(values = c(now = house$main, before = house$rest), guide = "none") +
    ggplot2::scale_x_continuous(limits = c(min(0, bars$part, na.rm = TRUE) * 1.35, reach * 1.35),
                                breaks = NULL) +
    ggplot2::facet_wrap("metric", ncol = 1) +
    theme_house() +
    figure_words(object, NULL, paste0("Bars of ", and_list(levels(bars$metric)), "."))
}

# Each metric's values as parts of its largest, so that panels need no scale.
total_bars <- function(x) {
  settings <- ll_settings(x)
  one <- function(metric) {
    value <- c(now = as.numeric(x[[metric]]), before = as.numeric(x[[paste0(metric, "_before")]]))
    unit <- column_unit(facts(x), metric)
    if (unit == "date" || all(is.na(value))) return(NULL)
    data.frame(metric = spoken(metric), which = names(value), part = value / max(abs(value), 1e-300,
                                                                              na.rm = TRUE),
               label = format_number(value, unit))
  }
  bars <- do.call(rbind, lapply(settings$metrics, one))
  if (is.null(bars)) return(data.frame())
  bars$metric <- factor(bars$metric, unique(bars$metric))
  bars$which <- factor(bars$which, c("before", "now"))
  bars
}
