# Crosstab as tiles: the deeper the colour, the larger the value in its panel; each metric has a
# panel and a scale of its own.

tiles_most <- c(rows = 26, columns = 14)

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_crosstab <- function(object, ...) {
  object <- inner_result(object)
  tiles <- crosstab_tiles(object)
  if (!nrow(tiles)) return(empty_figure(object))
  panels <- nlevels(tiles$panel)
  across <- nlevels(tiles$column) * (if (length(facts(object)$settings$columns)) panels else 1)
  size <- min(label_size(nlevels(tiles$row), 1), 34 / max(across, 6))
  plot <- ggplot2::ggplot(tiles, ggplot2::aes(x = .data$column, y = .data$row)) +
    ggplot2::geom_tile(ggplot2::aes(fill = .data$depth), colour = house$paper, linewidth = .8) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, colour = .data$dark), size = size) +
    ggplot2::scale_fill_gradient2(low = house$mark, mid = "#EFF4F4", high = house$main,
                                  limits = c(-1, 1), na.value = "#F3F4F4", guide = "none") +
    ggplot2::scale_colour_manual(values = c(`FALSE` = house$ink, `TRUE` = "#FFFFFF"),
                                 guide = "none") +
    ggplot2::scale_x_discrete(position = "top", labels = function(x) wrap_each(x, across)) +
    ggplot2::scale_y_discrete(labels = function(row) fit_text(one_line(row), 34)) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink),
                   axis.text.x = ggplot2::element_text(
                     colour = house$ink,
                     size = head_size(levels(tiles$row), levels(tiles$column), across))) +
    figure_words(object, tiles_caption(object, tiles), tiles_seen(tiles))
  if (panels > 1 && length(facts(object)$settings$columns))
    plot <- plot + ggplot2::facet_wrap("panel", nrow = 1) +
      ggplot2::theme(strip.placement = "outside")
  plot
}

# row, column, panel (metric), label, depth (-1 to 1 of the panel's largest), dark.
crosstab_tiles <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  cells <- facts$parts$cells
  if (!nrow(cells)) return(data.frame())
  join <- function(fields) {
    out <- drawn_names(cells, fields)
    factor(out, levels = unique(out))
  }
  row <- join(set$rows)
  column <- if (length(set$columns)) join(set$columns)
  shares <- if (!is.null(set$share_of)) share_of_cells(cells, set, row, column)
  out <- lapply(set$metrics, function(metric) {
    value <- if (is.null(shares)) as.numeric(cells[[metric]]) else shares
    unit <- if (is.null(shares)) metric_unit(facts, metric) else "percent"
    data.frame(row = row, column = if (is.null(column)) spoken(metric) else column,
               panel = spoken(metric), value = value,
               label = ifelse(is.na(value), "", tile_label(value, unit)),
               depth = tile_depth(value, grepl("^everyone else \\(", cells[[set$rows[1]]]),
                                  is.null(shares) && !metric %in% facts$settings$adds_up))
  })
  out <- do.call(rbind, out)
  out$panel <- factor(out$panel, levels = unique(out$panel))
  out$column <- factor(out$column, levels = unique(out$column))
  few <- function(x, most) as.integer(x) <= most
  out <- out[few(out$row, tiles_most[["rows"]]) & few(out$column, tiles_most[["columns"]]), ]
  out$row <- factor(out$row, levels = rev(intersect(levels(out$row), out$row)))
  out$column <- droplevels(out$column)
  # On amber, which losses bear, ink is read better throughout.
  out$dark <- !is.na(out$depth) & out$depth > 0 & light_on(tile_colour(out$depth))
  out
}

# Depth from nothing to the largest; for averages and rates, which all lie far from nothing, from
# the lowest to the highest. The gathered row is far larger than any one and bears no colour.
tile_depth <- function(value, rest, spread) {
  value[rest] <- NA
  if (all(is.na(value))) return(value)
  if (!spread) return(value / max(abs(value), 1e-300, na.rm = TRUE))
  from <- range(value, na.rm = TRUE)
  if (from[1] == from[2]) ifelse(is.na(value), NA, .3) else
    .08 + .92 * (value - from[1]) / (from[2] - from[1])
}

# The unit of a metric's column, whatever name it bears.
metric_unit <- function(facts, metric) {
  unit <- column_unit(facts, metric)
  if (is.na(unit)) unit <- facts$columns$unit[endsWith(facts$columns$name, paste0(": ", metric))][1]
  if (is.na(unit)) unit <- utils::tail(facts$columns$unit, 1)
  unit
}

share_of_cells <- function(cells, set, row, column) {
  value <- cells[[set$metrics[1]]]
  known <- or_zero(value)
  whole <- switch(set$share_of, row = stats::ave(known, row, FUN = sum),
                  column = stats::ave(known, column %||% rep(1, length(row)), FUN = sum),
                  all = sum(known))
  ifelse(whole > 0, value / whole, NA)
}

tiles_caption <- function(x, tiles) {
  facts <- facts(x)
  cells <- facts$parts$cells
  many <- function(fields) length(unique(do.call(paste, c(unname(cells[fields]), sep = "\r"))))
  c(first_of(tiles_most[["rows"]], many(facts$settings$rows), "rows"),
    if (length(facts$settings$columns))
      first_of(tiles_most[["columns"]], many(facts$settings$columns), "columns"))
}

tiles_seen <- function(tiles) {
  best <- utils::head(tiles[order(-tiles$value), ], 5)
  paste0("Tiles: ", paste(best$row, best$column, best$label, collapse = "; "), "; and more.")
}
