# White space as tiles of names by products: filled where bought, framed with what it may be worth
# where there is a gap.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_whitespace <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  cells <- facts$parts$cells
  if (!NROW(cells)) return(empty_figure(object))
  tiles <- space_tiles(object, cells)
  across <- nlevels(tiles$column)
  size <- min(label_size(nlevels(tiles$row), 1), 34 / max(across, 6))
  gaps <- tiles[tiles$gap, ]
  ggplot2::ggplot(tiles, ggplot2::aes(x = .data$column, y = .data$row)) +
    ggplot2::geom_tile(fill = tiles$fill, colour = house$paper, linewidth = .8) +
    ggplot2::geom_tile(data = gaps, fill = "#FDF3DF", colour = house$mark, linewidth = 1.1,
                       width = .86, height = .8) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label), size = size,
                       colour = ifelse(tiles$dark, "#FFFFFF", house$ink),
                       fontface = ifelse(tiles$gap, "bold", "plain")) +
    ggplot2::scale_x_discrete(position = "top", labels = function(x) wrap_each(x, across)) +
    ggplot2::scale_y_discrete(labels = function(row) {
      fit_text(tiles$name[match(row, tiles$row)], 34)
    }) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink,
                                                       size = size * ggplot2::.pt),
                   axis.text.x = ggplot2::element_text(
                     colour = house$ink,
                     size = head_size(tiles$name, levels(tiles$column), across))) +
    figure_words(object, c(paste0("filled: ", spoken(facts$settings$metrics[1]),
                                  "; framed: a gap and ", "what it may be worth",
                                  if (isTRUE(facts$settings$yearly))
                                    " a year"), space_caption(facts, tiles)),
                 space_seen(gaps))
}

space_tiles <- function(x, cells) {
  facts <- facts(x)
  unit <- column_unit(facts, "worth")
  each <- facts$settings$each
  product <- drawn_names(cells, facts$settings$product)
  row <- factor(cells[[each]], rev(unique(cells[[each]])))
  value <- as.numeric(cells$value)
  depth <- sqrt(pmax(value, 0) / max(value, 1e-300, na.rm = TRUE))
  fill <- tile_colour(depth)
  fill[is.na(value) | value <= 0] <- "#F3F4F4"
  said <- ifelse(cells$gap, cells$worth, value)
  # No coins where there are hundreds.
  digits <- if (max(abs(said), 0, na.rm = TRUE) >= 100) 0 else 2
  text <- ifelse(abs(said) < 1e4, format_number(said, unit, digits), format_short(said, unit))
  data.frame(row = row, column = factor(product, unique(product)), gap = cells$gap,
             name = drawn_names(cells, each), fill = fill,
             dark = !cells$gap & light_on(fill),
             label = ifelse(is.na(said), "", sub("\\.0 k$", " k", text)))
}

space_caption <- function(facts, tiles) {
  first_of(nlevels(tiles$column), nrow(facts$parts$products),
           plural_word(spoken(facts$settings$product)))
}

space_seen <- function(gaps) {
  if (!nrow(gaps)) return("No gaps.")
  paste0("Gaps: ", paste(utils::head(paste(gaps$name, gaps$column, gaps$label), 8),
                         collapse = "; "), ".")
}
