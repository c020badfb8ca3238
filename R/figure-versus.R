# Versus as marks on one scale: a row for each name of `by`, a mark for each name compared, a line
# between the lowest and highest.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_versus <- function(object, ...) {
  object <- inner_result(object)
  marks <- versus_marks(object)
  if (!nrow(marks)) return(empty_figure(object))
  facts <- facts(object)
  set <- facts$settings
  unit <- column_unit(facts, versus_columns(facts)[2])
  ends <- do.call(rbind, lapply(split(marks, marks$row), function(mine) {
    data.frame(row = mine$row[1], low = min(mine$value, na.rm = TRUE),
               high = max(mine$value, na.rm = TRUE))
  }))
  from_zero <- set$metrics[1] %in% set$adds_up
  plot <- ggplot2::ggplot(marks, ggplot2::aes(y = .data$row)) +
    (if (from_zero) ggplot2::geom_vline(xintercept = 0, colour = house$line)) +
    ggplot2::geom_segment(data = ends, ggplot2::aes(x = .data$low, xend = .data$high,
                                                    yend = .data$row),
                          colour = house$rest, linewidth = 1.6) +
    ggplot2::geom_point(ggplot2::aes(x = .data$value, colour = .data$name, shape = .data$name),
                        size = 3.4, na.rm = TRUE) +
    ggplot2::geom_text(data = marks[marks$labelled, ], ggplot2::aes(
      x = .data$value, label = .data$label, hjust = .data$side), size = 3.1, colour = house$ink,
      na.rm = TRUE) +
    ggplot2::scale_colour_manual(values = series_colours[seq_along(set$names)]) +
    ggplot2::scale_shape_manual(values = c(16, 17, 15, 18, 8)[seq_along(set$names)]) +
    ggplot2::scale_x_continuous(labels = function(x) sub("[.]0+ ", " ", format_short(x, unit)),
                                expand = ggplot2::expansion(mult = c(.1, .16))) +
    ggplot2::scale_y_discrete(labels = function(row) fit_text(one_line(row), 34)) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink),
                   axis.text.x = ggplot2::element_text(colour = house$soft),
                   panel.grid.major.x = ggplot2::element_line(colour = house$line, linewidth = .3),
                   legend.position = "top", legend.justification = "left",
                   legend.title = ggplot2::element_blank(),
                   legend.margin = ggplot2::margin(0, 0, 0, 0)) +
    figure_words(object, if (nrow(object) > 26) paste("the first 26 of", nrow(object), "rows"),
                 paste0("Marks for ", and_list(set$names), " across ", spoken(set$by), "."))
  plot
}

# The columns of the table: that of the rows, then one for each name compared.
versus_columns <- function(facts) facts$columns$name[facts$columns$shown]

# row, name, value, label; the outermost marks of a row carry their values.
versus_marks <- function(x) {
  facts <- facts(x)
  columns <- versus_columns(facts)
  unit <- column_unit(facts, columns[2])
  table <- utils::head(plain_frame(x), 26)
  if (!nrow(table)) return(data.frame())
  rows <- drawn_names(table, columns[1])
  heads <- column_headings(facts$columns)[match(columns, facts$columns$name)]
  out <- do.call(rbind, lapply(1 + seq_along(facts$settings$names), function(j) {
    data.frame(row = rows, name = fit_text(heads[j], 40), value = as.numeric(table[[columns[j]]]))
  }))
  out <- out[!is.na(out$value), ]
  if (!nrow(out)) return(data.frame())
  out$row <- factor(out$row, levels = rev(unique(rows)))
  out$name <- factor(out$name, levels = unique(out$name))
  rank <- stats::ave(out$value, out$row, FUN = function(v) {
    rank(v, ties.method = "first", na.last = "keep")
  })
  most <- stats::ave(rank, out$row, FUN = function(r) max(r, na.rm = TRUE))
  out$labelled <- (rank == 1 | rank == most) & nrow(table) <= 16
  # Blanks keep the label clear of its mark, however short it is.
  out$side <- ifelse(rank == most, 0, 1)
  text <- sub("[.]0+ ", " ", format_short(out$value, unit))
  out$label <- ifelse(rank == most, paste0("   ", text), paste0(text, "   "))
  out
}
