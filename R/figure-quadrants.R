# Quadrants as a scatter of names with the two lines: what each quadrant holds stands in the margin,
# names that matter bear labels, many thousands become tiles of counts.

points_most <- 5000    # beyond so many names tiles show how many lie where
labels_most <- 12

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_quadrants <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  if (!nrow(object)) return(empty_figure(object))
  axes <- list(x = quadrant_axis(object, 1), y = quadrant_axis(object, 2))
  points <- quadrant_points(object, axes)
  corners <- quadrant_corners(object)
  ggplot2::ggplot(points, ggplot2::aes(x = .data$x, y = .data$y)) +
    quadrant_marks(points) +
    ggplot2::geom_vline(xintercept = axes$x$line, colour = house$soft, linewidth = .5) +
    ggplot2::geom_hline(yintercept = axes$y$line, colour = house$soft, linewidth = .5) +
    ggrepel::geom_text_repel(data = points[points$labelled, ], ggplot2::aes(label = .data$name),
                             size = 3, colour = house$ink, segment.colour = house$rest, seed = 1,
                             max.overlaps = 20, min.segment.length = .2, max.iter = 50000,
                             max.time = 5, box.padding = .3,
                             # Clear of what stands in the corners of the margin.
                             ylim = range(points$y)) +
    ggplot2::geom_label(data = corners, ggplot2::aes(x = .data$x, y = .data$y, hjust = .data$h,
                                                     vjust = .data$v, label = .data$label),
                        size = 3.3, lineheight = 1, colour = house$ink, label.size = NA,
                        label.r = ggplot2::unit(0, "pt"),
                        fontface = ifelse(corners$highlight, "bold", "plain")) +
    quadrant_scale(axes$x, ggplot2::scale_x_continuous, .05) +
    quadrant_scale(axes$y, ggplot2::scale_y_continuous, .17) +
    theme_house() +
    ggplot2::theme(axis.text = ggplot2::element_text(colour = house$soft),
                   axis.title = ggplot2::element_text(colour = house$ink,
                                                      size = ggplot2::rel(.85)),
                   panel.border = ggplot2::element_rect(fill = NA, colour = house$line),
                   legend.position = "bottom") +
    ggplot2::labs(x = axes$x$title, y = axes$y$title, shape = points$legend[1],
                  fill = points$legend[1]) +
    figure_words(object, quadrant_caption(points, facts), paste0(
      "A scatter of ", plural(nrow(points), "name"), " in four quadrants: ",
      paste(gsub("\n", ", ", corners$label), collapse = "; "), "."))
}

# One axis: its values as drawn, where its line stands, how it is labelled. A log axis is symmetric
# about zero, so that losses and zeros have a place: asinh(v / unit).
quadrant_axis <- function(x, which) {
  facts <- facts(x)
  name <- facts$settings$metrics[which]
  value <- as.numeric(x[[name]])
  unit <- column_unit(facts, name)
  line <- facts$settings[[c("x_divide", "y_divide")[which]]]
  size <- abs(value[value != 0])
  skewed <- length(size) > 10 && max(size) > 12 * stats::quantile(abs(value), .75, names = FALSE)
  log <- facts$settings$axes == "log" || facts$settings$axes == "fitting" && skewed
  base <- if (log && length(size)) 10^floor(log10(stats::quantile(size, .1, names = FALSE))) else 1
  drawn <- if (log) function(v) asinh(v / base) else identity
  list(value = drawn(value), line = drawn(line), log = log, unit = unit, name = name,
       breaks = if (log) drawn(log_marks(value, base)) else NULL,
       marks = if (log) log_marks(value, base),
       title = paste0(spoken(name), if (log) " (log axis)"))
}

log_marks <- function(value, base) {
  tens <- 10^seq(log10(base), max(ceiling(log10(max(abs(value), base))), log10(base)))
  both <- c(if (any(value < 0)) -rev(tens), if (any(value <= base)) 0, tens)
  both[both >= min(value) * (if (min(value) < 0) 1.2 else .8) & both <= max(value) * 1.2]
}

quadrant_scale <- function(axis, scale, room) {
  words <- function(v) {
    whole <- axis$unit == "percent" && all(abs(v * 100 - round(v * 100)) < 1e-7, na.rm = TRUE)
    if (whole) format_number(v, "percent", 0) else sub("\\.0 k$", " k", format_short(v, axis$unit))
  }
  more <- ggplot2::expansion(mult = room)
  if (axis$log) scale(breaks = axis$breaks, labels = words(axis$marks), expand = more) else
    scale(labels = words, expand = more)
}

quadrant_points <- function(x, axes) {
  facts <- facts(x)
  table <- plain_frame(x)
  names <- drawn_names(table, facts$settings$each)
  bands <- facts$parts$bands
  banded <- grep("_band$", names(table), value = TRUE)
  out <- data.frame(x = axes$x$value, y = axes$y$value, name = fit_text(names, 26),
                    front = is.null(facts$settings$highlight) |
                      table$quadrant == (facts$settings$highlight %||% ""), legend = "",
                    band = if (is.null(bands)) "" else table[[banded[1]]])
  out$band <- factor(out$band, if (is.null(bands)) "" else c(bands$band, "no value"))
  if (!is.null(bands)) out$legend <- spoken(sub("_band$", "", banded[1]))
  out$labelled <- seq_len(nrow(out)) %in% telling_points(out, axes)
  out
}

# Names that matter: the farthest out, by rank on both axes, those in front first; a few names all.
telling_points <- function(points, axes) {
  n <- nrow(points)
  if (n <= labels_most) return(seq_len(n))
  far <- function(v, line) {
    spread <- stats::IQR(v)
    if (spread > 0) abs(v - line) / spread else abs(v - line)
  }
  out <- pmax(far(points$x, axes$x$line), far(points$y, axes$y$line))
  utils::head(order(!points$front, -out), labels_most)
}

# Points, or tiles of counts where there are thousands.
quadrant_marks <- function(points) {
  if (nrow(points) > points_most) return(list(
    ggplot2::geom_bin_2d(data = points[c("x", "y")], bins = c(110, 70)),
    ggplot2::scale_fill_gradient(low = "#CFDFE0", high = house$lead, trans = "log10",
                                 name = "names", labels = count_text)))
  size <- if (nrow(points) > 1000) 1.3 else if (nrow(points) > 200) 1.9 else 2.6
  if (nlevels(points$band) > 1) return(list(
    ggplot2::geom_point(ggplot2::aes(fill = .data$band, shape = .data$band), size = size + .4,
                        colour = house$paper, stroke = .2, alpha = ifelse(points$front, 1, .35)),
    ggplot2::scale_shape_manual(values = rep(c(21, 24, 22, 23, 25),
                                             length.out = nlevels(points$band)), drop = TRUE),
    ggplot2::scale_fill_manual(values = band_colours(nlevels(points$band)), drop = TRUE)))
  # Those in front are drawn last.
  points <- points[order(points$front), ]
  list(ggplot2::geom_point(data = points, size = size, alpha = if (nrow(points) > 1000) .5 else .8,
                           colour = ifelse(points$front, house$main, house$rest)))
}

band_colours <- function(n) {
  grDevices::colorRampPalette(c(house$mark, "#A3B1B6", house$lead))(n)
}

# What each quadrant holds, in its corner of the margin.
quadrant_corners <- function(x) {
  facts <- facts(x)
  held <- facts$parts$quadrants
  high <- cbind(grepl("^high ", held$quadrant), grepl(", high ", held$quadrant))
  share <- if (is.null(held$value_share)) rep("", 4) else ifelse(
    is.na(held$value_share), "", paste0(", ", format_number(held$value_share, "percent", 0),
                                        " of ", spoken(facts$settings$held)))
  data.frame(x = ifelse(high[, 1], Inf, -Inf), y = ifelse(high[, 2], Inf, -Inf),
             h = ifelse(high[, 1], 1.01, -.01), v = ifelse(high[, 2], 1.05, -.05),
             highlight = held$quadrant == (facts$settings$highlight %||% ""),
             label = paste0(held$quadrant, "\n", vapply(held$names, count_text, ""), share))
}

quadrant_caption <- function(points, facts) {
  unit <- column_unit(facts, facts$settings$metrics)
  paste0("dividing values: ", format_number(facts$settings$x_divide, unit[1]), " and ",
         format_number(facts$settings$y_divide, unit[2]),
         if (any(!points$labelled)) "; the farthest names bear labels",
         if (nrow(points) > points_most) "; darker: more names")
}
