# Score as stacked points of each metric, with the range of ranks under other weights beside it.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_score <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  if (!nrow(object)) return(empty_figure(object))
  bars <- score_bars(object)
  ranges <- score_ranges(object, bars$panels)
  metrics <- levels(bars$parts$metric)
  n <- max(bars$rows$row)
  size <- label_size(n, 1)
  plot <- ggplot2::ggplot(bars$parts) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = .data$row - .36,
                                    ymax = .data$row + .36, fill = .data$metric),
                       colour = house$paper, linewidth = .3) +
    ggplot2::geom_text(data = bars$rows, ggplot2::aes(x = .data$end, y = .data$row,
                                                      label = .data$label),
                       hjust = -.15, size = size, colour = house$ink)
  if (!is.null(ranges)) plot <- plot +
    ggplot2::geom_segment(data = ranges, ggplot2::aes(x = .data$low, xend = .data$high,
                                                      y = .data$row, yend = .data$row),
                          colour = house$rest, linewidth = 2.2, lineend = "round") +
    ggplot2::geom_point(data = ranges, ggplot2::aes(x = .data$rank, y = .data$row), size = 2.4,
                        colour = house$lead) +
    ggplot2::facet_wrap("panel", nrow = 1, scales = "free_x")
  colours <- stats::setNames(band_colours(length(metrics)), metrics)
  plot + ggplot2::scale_fill_manual(values = colours, name = NULL) +
    ggplot2::scale_y_continuous(breaks = bars$rows$row, labels = bars$rows$name,
                                expand = ggplot2::expansion(add = .5)) +
    ggplot2::scale_x_continuous(breaks = whole_breaks,
                                expand = ggplot2::expansion(mult = c(.03, .16))) +
    theme_rows(size) +
    ggplot2::theme(axis.text.x = ggplot2::element_text(colour = house$soft),
                   legend.position = "bottom") +
    figure_words(object, c(if (!is.null(ranges)) paste(
      "dot: the rank; band: ranks in 5 to 95 % of the weightings"),
      first_names(object, n)),
      paste0("Stacked points: ", paste(utils::head(paste(bars$rows$name, bars$rows$label), 5),
                                       collapse = "; "), "."))
}

# Points of each metric as stretches of the bar; those below zero go to the left. A product has no
# parts: one stretch for the whole.
score_bars <- function(x) {
  facts <- facts(x)
  table <- utils::head(plain_frame(x), 25)
  n <- nrow(table)
  panels <- c("points", "ranks under other weights")
  points <- paste0(facts$settings$metrics, "_points")
  parts <- if (all(points %in% names(table))) as.matrix(table[points]) else
    matrix(table$score, n, dimnames = list(NULL, "score"))
  up <- t(apply(pmax(parts, 0), 1, cumsum))
  down <- t(apply(pmin(parts, 0), 1, cumsum))
  if (ncol(parts) == 1) up <- down <- parts
  to <- ifelse(parts >= 0, up, down)
  from <- to - parts
  metric <- if (ncol(parts) == 1) "score" else spoken(facts$settings$metrics)
  names <- drawn_names(table, facts$settings$each)
  row <- rev(seq_len(n))
  digits <- if (facts$settings$scaling == "z") 2 else 1
  list(panels = panels,
       parts = data.frame(row = rep(row, ncol(parts)), from = as.vector(from), to = as.vector(to),
                          metric = factor(rep(metric, each = n), metric),
                          panel = factor(panels[1], panels)),
       rows = data.frame(row = row, name = rank_name(table$rank, fit_text(names, 30)),
                         end = pmax(to[, ncol(to)], up[, ncol(up)], 0),
                         label = format_number(table$score, digits = digits),
                         panel = factor(panels[1], panels)))
}

score_ranges <- function(x, panels) {
  table <- utils::head(plain_frame(x), 25)
  if (is.null(table$rank_p5)) return(NULL)
  data.frame(row = rev(seq_len(nrow(table))), low = table$rank_p5, high = table$rank_p95,
             rank = table$rank, panel = factor(panels[2], panels))
}
