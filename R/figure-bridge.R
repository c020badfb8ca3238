# Bridge as steps from the value then, at the top, to the value now, at the bottom. Only the stretch
# that the steps cross is drawn, so values then and now are lines and not bars.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_bridge <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  steps <- bridge_rows(object)
  set <- facts$settings
  unit <- bridge_unit(facts)
  n <- nrow(steps)
  span <- range(c(set$then, set$now, steps$from, steps$to))
  wide <- max(diff(span), abs(span) * 1e-6, 1e-300)
  ends <- data.frame(row = c(n + 1, 0), value = c(set$then, set$now),
                     name = c(bridge_period(set$against), bridge_period(set$when)))
  ends$label <- format_number(ends$value, unit)
  size <- label_size(n + 2, 1)
  ggplot2::ggplot(steps, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_vline(xintercept = set$then, colour = house$rest, linewidth = .5) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$to, xend = .data$to, yend = .data$row - 1),
                          colour = house$soft, linewidth = .3) +
    ggplot2::geom_rect(ggplot2::aes(xmin = pmin(.data$from, .data$to),
                                    xmax = pmax(.data$from, .data$to), ymin = .data$row - .32,
                                    ymax = .data$row + .32, fill = .data$way)) +
    ggplot2::geom_text(ggplot2::aes(x = pmax(.data$from, .data$to) + wide * .015,
                                    label = .data$label), hjust = 0, size = size,
                       colour = house$ink) +
    ggplot2::geom_segment(data = ends, ggplot2::aes(x = .data$value, xend = .data$value,
                                                    y = .data$row - .4, yend = .data$row + .4),
                          linewidth = 2.4, colour = house$lead) +
    ggplot2::geom_text(data = ends, ggplot2::aes(x = .data$value + wide * .02,
                                                 label = .data$label), hjust = 0, size = size,
                       fontface = "bold", colour = house$ink) +
    ggplot2::scale_fill_manual(values = c(gain = house$main, loss = house$mark), guide = "none") +
    ggplot2::scale_y_continuous(breaks = c(ends$row, steps$row), labels = c(ends$name, steps$name),
                                expand = ggplot2::expansion(add = .3)) +
    ggplot2::scale_x_continuous(labels = NULL, limits = c(span[1] - wide * .03,
                                                          span[2] + wide * .25)) +
    theme_rows(size) +
    figure_words(object, "teal and +: gains; amber and -: losses; the axis does not begin at zero",
                 paste0("Steps: ", paste(steps$name, steps$label, collapse = "; "), "."))
}

# row (top first), name, from, to, way, label; sixteen at most.
bridge_rows <- function(x) {
  facts <- facts(x)
  steps <- facts$parts$steps
  unit <- step_unit(facts)
  size <- abs(steps$change)
  text <- format_short(size, unit)
  # Many steps have a line each.
  step <- drawn_names(steps, "step")
  name <- if (nrow(steps) > 9) fit_text(step, 34) else wrap_labels(step, 30)
  out <- data.frame(name = name, from = steps$from, to = steps$to,
                    way = ifelse(steps$change < 0, "loss", "gain"),
                    label = paste0(ifelse(steps$change < 0, "-", "+"), text))
  if (nrow(out) > 16) out <- gather_middle(out, steps, unit)
  out$row <- rev(seq_len(nrow(out)))
  out
}

# The first and last eight steps, those between them together.
gather_middle <- function(out, steps, unit) {
  n <- nrow(out)
  middle <- 9:(n - 8)
  change <- steps$to[n - 8] - steps$from[9]
  one <- data.frame(name = paste(length(middle), "steps between"), from = steps$from[9],
                    to = steps$to[n - 8], way = if (change < 0) "loss" else "gain",
                    label = paste0(if (change < 0) "-" else "+",
                                   format_short(abs(change), unit)))
  rbind(out[1:8, ], one, out[(n - 7):n, ])
}

# The unit of the metric, from that of the column of its change or effect.
bridge_unit <- function(facts) {
  unit <- step_unit(facts)
  if (unit == "points") "percent" else unit
}

step_unit <- function(facts) {
  columns <- paste0(facts$settings$metrics[1], c("_change", "_effect"))
  column_unit(facts, intersect(columns, facts$columns$name)[1])
}

bridge_period <- function(p) span_text(as.Date(p$from), as.Date(p$to))
