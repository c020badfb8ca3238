# Sets as overlapping circles, each part with its names; four sets and more, or one, as bars of the
# parts. What is listed is dark.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_sets <- function(object, ...) {
  object <- inner_result(object)
  regions <- facts(object)$parts$regions
  if (!sum(regions$names)) return(empty_figure(object))
  n <- length(unique(unlist(sets_held(regions))))
  if (n %in% 2:3) circles_figure(object, regions, n) else region_bars(object, regions)
}

# A point lies in a circle or not; the parts are drawn as the polygons between.
circles_figure <- function(x, regions, n) {
  facts <- facts(x)
  centre <- if (n == 2) data.frame(x = c(-.62, .62), y = 0) else
    data.frame(x = c(-.62, .62, 0), y = c(.36, .36, -.71))
  # In order of the sets: that of the parts with one set each.
  sets <- sub(" only$", "", regions$in_sets[grepl(" only$", regions$in_sets)])
  centre$name <- sets
  dark <- regions_listed(facts, regions)
  fill <- ifelse(dark, house$main, "#E4ECEC")
  # Where all are listed, the more sets a part is in the darker.
  if (all(dark[regions$names > 0])) {
    dark <- lengths(sets_held(regions)) == n
    fill <- c("#E4ECEC", if (n == 3) "#B5CACC", house$main)[lengths(sets_held(regions))]
  }
  tiles <- region_tiles(centre, regions, sets, fill)
  labels <- region_labels(centre, regions, sets, facts, dark)
  ring <- do.call(rbind, lapply(seq_len(n), function(i) {
    turn <- seq(0, 2 * pi, length.out = 181)
    data.frame(x = centre$x[i] + cos(turn), y = centre$y[i] + sin(turn), name = sets[i])
  }))
  heads <- data.frame(centre, h = if (n == 2) c(1, 0) else c(1, 0, 0),
                      label = wrap_labels(spoken(sets), 24),
                      at_x = centre$x + c(-.75, .75, .78)[seq_len(n)],
                      at_y = centre$y + c(.85, .85, -.72)[seq_len(n)])
  ggplot2::ggplot() +
    ggplot2::geom_raster(data = tiles, ggplot2::aes(x = .data$x, y = .data$y), fill = tiles$fill) +
    ggplot2::geom_path(data = ring, ggplot2::aes(x = .data$x, y = .data$y, group = .data$name),
                       colour = house$lead, linewidth = .9) +
    ggplot2::geom_text(data = heads, ggplot2::aes(x = .data$at_x, y = .data$at_y, hjust = .data$h,
                                                  label = .data$label), size = 4, fontface = "bold",
                       lineheight = .95, colour = house$ink) +
    ggplot2::geom_text(data = labels, ggplot2::aes(x = .data$x, y = .data$y, label = .data$label),
                       size = 3.7, lineheight = 1,
                       colour = ifelse(labels$dark, "#FFFFFF", house$ink)) +
    ggplot2::coord_fixed(xlim = c(-1, 1) * if (n == 2) 2.2 else 3.2, clip = "off") +
    theme_house() +
    ggplot2::theme(axis.text = ggplot2::element_blank()) +
    figure_words(x, c(paste0("names and their ", spoken(facts$settings$metrics[1])),
                      if (!all(regions_listed(facts, regions)[regions$names > 0]))
                        "dark: the names listed", "circles are not drawn to size"),
                 regions_seen(labels))
}

# Whether the names of each part are among those listed.
regions_listed <- function(facts, regions) {
  regions$in_sets %in% facts$parts$listed$in_sets
}

# Which part each point of a fine grid lies in, as its colour.
region_tiles <- function(centre, regions, sets, fill) {
  grid <- expand.grid(x = seq(-1.7, 1.7, by = .01), y = seq(-1.8, 1.45, by = .01))
  inside <- vapply(seq_along(sets), function(i) {
    (grid$x - centre$x[i])^2 + (grid$y - centre$y[i])^2 <= 1
  }, logical(nrow(grid)))
  part <- match(inside %*% 2^(seq_along(sets) - 1), region_codes(regions, sets))
  grid <- grid[!is.na(part), ]
  grid$fill <- fill[part[!is.na(part)]]
  grid
}

region_codes <- function(regions, sets) {
  vapply(sets_held(regions), function(one) sum(2^(match(one, sets) - 1)), 0)
}

# The sets that each part lies in.
sets_held <- function(regions) strsplit(sub(" only$", "", regions$in_sets), " & ", fixed = TRUE)

# Where the words of each part stand.
region_labels <- function(centre, regions, sets, facts, dark) {
  middle <- colMeans(centre[c("x", "y")])
  out <- do.call(rbind, lapply(sets_held(regions), function(one) {
    at <- colMeans(centre[match(one, sets), c("x", "y"), drop = FALSE])
    # Away from the sets that do not hold it.
    far <- switch(length(one), 1.62, if (length(sets) == 2) 1 else 1.5, 1)
    data.frame(x = middle[["x"]] + (at[["x"]] - middle[["x"]]) * far,
               y = middle[["y"]] + (at[["y"]] - middle[["y"]]) * far)
  }))
  metric <- facts$settings$metrics[1]
  value <- as.numeric(regions[[metric]])
  unit <- column_unit(facts, metric)
  said <- ifelse(is.na(value), "", paste0("\n", format_short(value, unit)))
  out$label <- paste0(vapply(regions$names, count_text, ""), ifelse(regions$names, said, ""))
  out$dark <- dark
  out$part <- regions$in_sets
  out
}

regions_seen <- function(labels) {
  paste0("Parts: ", paste(labels$part, gsub("\n", ", ", labels$label), collapse = "; "), ".")
}

# Bars of how many names each part has.
region_bars <- function(x, regions) {
  facts <- facts(x)
  dark <- regions_listed(facts, regions)[regions$names > 0]
  bars <- regions[regions$names > 0, ]
  keep <- utils::head(order(-bars$names), 25)
  bars <- bars[sort(keep), ]
  dark <- dark[sort(keep)]
  metric <- facts$settings$metrics[1]
  size <- label_size(nrow(bars), 1)
  bars$row <- rev(seq_len(nrow(bars)))
  bars$label <- paste0(vapply(bars$names, count_text, ""), "   ",
                       format_short(as.numeric(bars[[metric]]), column_unit(facts, metric)))
  ggplot2::ggplot(bars, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = 0, xmax = .data$names, ymin = .data$row - .34,
                                    ymax = .data$row + .34),
                       fill = ifelse(dark, house$main, house$rest)) +
    ggplot2::geom_text(ggplot2::aes(x = .data$names + max(.data$names) * .02, label = .data$label),
                       hjust = 0, size = size, colour = house$ink) +
    ggplot2::scale_y_continuous(breaks = bars$row, labels = fit_text(bars$in_sets, 44),
                                expand = ggplot2::expansion(add = .5)) +
    ggplot2::scale_x_continuous(labels = NULL, expand = ggplot2::expansion(mult = c(.01, .25))) +
    theme_rows(size) +
    figure_words(x, c(paste(plural_word(field_noun(facts$book, facts$settings$each)), "and their",
                            spoken(metric)),
                      if (any(dark) && !all(dark)) "dark: the names listed"),
                 regions_seen(data.frame(part = bars$in_sets, label = bars$label)))
}
