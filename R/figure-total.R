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
    ggplot2::facet_wrap("metric", ncol = if (nlevels(bars$metric) > 3) 2 else 1) +
    theme_house() +
    figure_words(object, NULL, paste0("Bars of ", and_list(levels(bars$metric)), "."))
}

# Each metric's values as parts of its largest, so that panels need no scale.
total_bars <- function(x) {
  x <- plain_frame(x)
  x <- x[x$unit != "date" & !is.na(x$value), ]
  if (!nrow(x)) return(data.frame())
  many <- if (is.null(x$before)) 1 else 2
  value <- c(rbind(x$value, x$before))
  unit <- rep(x$unit, each = many)
  most <- vapply(split(abs(value), rep(seq_len(nrow(x)), each = many)), max, 0, na.rm = TRUE)
  bars <- data.frame(metric = rep(spoken(x$metric), each = many),
                     which = rep(c("now", "before")[seq_len(many)], nrow(x)),
                     part = value / rep(ifelse(most > 0, most, 1), each = many),
                     label = unlist(Map(format_number, value, unit)))
  bars$metric <- factor(bars$metric, unique(bars$metric))
  bars$which <- factor(bars$which, c("before", "now"))
  bars[!is.na(bars$part), ]
}
