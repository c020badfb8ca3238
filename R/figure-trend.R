# Trend as lines over time: a panel for each metric with a scale of its own, incomplete periods
# hollow,
# each line named at its end.

series_colours <- c("#164B4F", "#C9820A", "#7A5C86", "#4F86A8", "#A2473B", "#6C8A3C")
series_types <- c("solid", "longdash", "twodash", "dashed", "dotdash", "solid")

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_trend <- function(object, ...) {
  object <- inner_result(object)
  lines <- trend_drawn(object)
  if (!nrow(lines)) return(empty_figure(object))
  periods <- unique(lines[c("at", "period")])
  across <- if (nlevels(lines$panel) > 3) 2 else 1
  some <- seq(1, nrow(periods), by = max(ceiling(nrow(periods) / (9 / across)), 1))
  ends <- lines[lines$at == max(lines$at) & !is.na(lines$value), ]
  several <- nlevels(lines$series) > 1
  plot <- ggplot2::ggplot(lines, ggplot2::aes(x = .data$at, y = .data$value)) +
    zero_line(lines) +
    year_line(lines) +
    (if (nrow(periods) > 1)
      ggplot2::geom_line(ggplot2::aes(colour = .data$series, linetype = .data$series),
                         linewidth = .8, na.rm = TRUE)) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$series, shape = .data$part), fill = house$paper,
                        size = 1.9, stroke = .9, na.rm = TRUE) +
    ggplot2::scale_shape_manual(values = c(`FALSE` = 19, `TRUE` = 21), guide = "none") +
    ggplot2::scale_colour_manual(values = rep_len(series_colours, nlevels(lines$series)),
                                 guide = "none") +
    ggplot2::scale_linetype_manual(values = rep_len(series_types, nlevels(lines$series)),
                                   guide = "none") +
    ggplot2::scale_x_continuous(breaks = some, labels = periods$period[match(some, periods$at)],
                                expand = ggplot2::expansion(mult = c(.03, if (several) .22 else
                                  .06))) +
    ggplot2::scale_y_continuous(labels = axis_labels(lines$unit[1], length(unique(lines$unit))),
                                expand = ggplot2::expansion(mult = .09)) +
    ggplot2::facet_wrap("panel", ncol = across, scales = "free_y") +
    theme_house() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_line(colour = house$line, linewidth = .3),
                   axis.text = ggplot2::element_text(colour = house$soft)) +
    figure_words(object, trend_caption(lines, object), trend_seen(lines))
  if (!several) return(plot)
  ends <- spread_labels(ends, lines)
  ends$at <- ends$at + max(lines$at) * .015
  plot + ggplot2::geom_text(
    data = ends, ggplot2::aes(y = .data$spot, label = .data$name, colour = .data$series),
    hjust = 0, size = 3.2, na.rm = TRUE)
}

# Sums and counts are seen from zero; rates and averages, which all lie far from it, are not.
zero_line <- function(lines) {
  panels <- unique(lines$panel[lines$from_zero])
  if (!length(panels)) return(NULL)
  ggplot2::geom_hline(data = data.frame(panel = panels, zero = 0),
                      ggplot2::aes(yintercept = .data$zero), colour = house$line)
}

# Units differ between panels, so each number tells its own size.
axis_labels <- function(unit, units) {
  function(x) {
    if (units == 1 && unit == "percent") return(format_number(x, "percent", 0))
    if (units > 1 && max(abs(x), na.rm = TRUE) <= 1.5) return(format_number(x, "percent", 1))
    sub("[.]0+ ", " ", format_short(x, if (units == 1) unit else "number"))
  }
}

# The year before as a thin line, where one line alone is drawn in a panel.
year_line <- function(lines) {
  if (all(is.na(lines$ago)) || length(unique(lines$period)) < 2) return(NULL)
  ggplot2::geom_line(ggplot2::aes(y = .data$ago), colour = house$rest, linewidth = 1.1,
                     na.rm = TRUE)
}

# Labels at line ends, pushed apart so that none covers another.
spread_labels <- function(ends, lines) {
  out <- lapply(split(ends, ends$panel, drop = TRUE), function(mine) {
    range <- range(c(if (mine$from_zero[1]) 0, lines$value[lines$panel == mine$panel[1]]),
                   na.rm = TRUE)
    gap <- diff(range) * .055
    mine <- mine[order(mine$value), ]
    mine$spot <- mine$value
    for (i in seq_len(nrow(mine))[-1]) mine$spot[i] <- max(mine$spot[i], mine$spot[i - 1] + gap)
    mine
  })
  do.call(rbind, out)
}

trend_drawn <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  table <- plain_frame(x)
  if (!nrow(table)) return(data.frame())
  rows <- if (is.null(set$by)) seq_len(nrow(table)) else which(table[[set$by]] != "(none)")
  table <- table[rows, , drop = FALSE]
  line <- if (is.null(set$by)) rep("", nrow(table)) else drawn_names(table, set$by)
  indexed <- isTRUE(set$indexed)
  out <- lapply(set$metrics, function(metric) {
    value <- as.numeric(table[[metric]])
    ago <- as.numeric(table[[paste0(metric, "_year_before")]])
    # A part of a period beside a whole one of the year before would mislead.
    ago[table$part == "part"] <- NA
    if (indexed) value <- index_of(value, line, table$part)
    unit <- if (indexed) "percent" else column_unit(facts, metric)
    name <- if (is.null(set$by)) spoken(metric) else one_line(line)
    data.frame(row = rows, period = table$period, at = match(table$period, unique(table$period)),
               value = value, ago = if (indexed || !is.null(set$by)) NA_real_ else ago,
               part = table$part == "part",
               panel = if (indexed && is.null(set$by)) "first whole period = 100 %" else
                 spoken(metric), unit = unit,
               series = if (indexed || !is.null(set$by)) name else "",
               from_zero = indexed || metric %in% set$adds_up, name = fit_text(name, 22))
  })
  out <- do.call(rbind, out)
  out$panel <- factor(out$panel, levels = unique(out$panel))
  out$series <- factor(out$series, levels = unique(out$series))
  out
}

index_of <- function(value, line, part) {
  for (rows in split(seq_along(value), line)) {
    base <- value[rows][part[rows] != "part" & !is.na(value[rows]) & value[rows] > 0][1]
    value[rows] <- value[rows] / base
  }
  value
}

trend_caption <- function(lines, x) {
  c(if (any(lines$part)) "hollow: an incomplete period",
    if (any(!is.na(lines$ago))) "light line: a year before")
}

trend_seen <- function(lines) {
  last <- lines[lines$at == max(lines$at), ]
  paste0("Lines over ", length(unique(lines$period)), " periods, from ", lines$period[1], " to ",
         last$period[1], ".")
}
