# Substitution as tiles: old products down, new ones across, what may have moved in each tile; the
# gains that no loss matches in a row of their own.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_substitution <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  tiles <- substitution_tiles(object)
  if (!nrow(tiles)) return(empty_figure(object))
  unit <- column_unit(facts, "matched")
  tiles$text <- ifelse(tiles$value > 0, tile_label(tiles$value, unit), "")
  apart <- tiles$row == 0
  depth <- tiles$value / max(tiles$value[!apart], 1e-300)
  tiles$fill <- ifelse(apart, "#F4F5F5", tile_colour(pmin(sqrt(depth), 1)))
  dark <- light_on(tiles$fill)
  rows <- tiles[!duplicated(tiles$row), ]
  across <- tiles[!duplicated(tiles$column), ]
  ggplot2::ggplot(tiles, ggplot2::aes(x = .data$column, y = .data$row)) +
    ggplot2::geom_tile(fill = tiles$fill, colour = house$paper, linewidth = 1) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text), size = 3.2,
                       colour = ifelse(dark, house$paper, house$ink)) +
    ggplot2::scale_x_continuous(breaks = across$column, labels = across$new, position = "top",
                                expand = ggplot2::expansion(0)) +
    ggplot2::scale_y_continuous(breaks = rows$row, labels = rows$old,
                                expand = ggplot2::expansion(0)) +
    theme_rows(3.3) +
    ggplot2::theme(axis.text.x = ggplot2::element_text(colour = house$ink, size = 9)) +
    figure_words(object, paste("down: what was bought less; across: what was bought more;",
                               "tiles: matched"),
                 paste0("Tiles: ", paste(utils::head(paste(object$old, "to", object$new,
                                                           format_short(object$matched, unit)), 5),
                                         collapse = "; "), "."))
}

# row (0 at the bottom: what nothing matches), column, old, new, value.
substitution_tiles <- function(x) {
  facts <- facts(x)
  unit <- column_unit(facts, "matched")
  matrix <- facts$parts$matrix
  if (!nrow(x)) return(data.frame())
  # Products by themselves; those gathered are in the table.
  first <- function(sums) {
    named <- sums[sums > 0 & !grepl(gathered_words, names(sums))]
    names(utils::head(named[order(-named)], 8))
  }
  olds <- facts$parts$old_products
  news <- facts$parts$new_products
  # Those that gained most, whether or not much of it was matched.
  sums <- rowSums(matrix[vapply(matrix, is.numeric, NA)])
  old <- first(stats::setNames(sums, matrix$old))
  new <- first(stats::setNames(news$gained, news$new))
  out <- expand.grid(i = seq_along(old), j = seq_along(new))
  out$value <- vapply(seq_len(nrow(out)), function(k) {
    matrix[[new[out$j[k]]]][match(old[out$i[k]], matrix$old)]
  }, 0)
  of_old <- match(old, olds$old)
  of_new <- match(new, news$new)
  old <- paste0(fit_text(drawn_names(olds[of_old, ], "old"), 22), "\n-",
                format_short(olds$lost[of_old], unit))
  new <- paste0(wrap_labels(fit_text(drawn_names(news[of_new, ], "new"), 26), 14), "\n+",
                format_short(news$gained[of_new], unit))
  tiles <- data.frame(row = length(old) + 1 - out$i, column = out$j, old = old[out$i],
                      new = new[out$j], value = out$value)
  rbind(tiles, data.frame(row = 0, column = seq_along(new), old = "matched by\nnothing", new = new,
                          value = news$not_matched[of_new]))
}
