# Lapsed names as lines in time: a dot on the last order, the days since then, a mark where the
# next order was due; what is at stake stands at the end.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_lapsed <- function(object, ...) {
  object <- inner_result(object)
  rows <- lapsed_bars(object)
  if (!nrow(rows)) return(empty_figure(object))
  today <- as.Date(facts(object)$settings$today)
  span <- as.numeric(today - min(rows$last))
  size <- label_size(nrow(rows), 1)
  colour <- c(gone = house$mark, overdue = house$main, waiting = house$rest,
              elsewhere = house$soft, back = house$rest)
  kinds <- intersect(names(colour), rows$status)
  rows$status <- factor(rows$status, kinds)
  due <- rows[!is.na(rows$due) & rows$due <= today & !rows$status %in% c("back", "elsewhere"), ]
  ggplot2::ggplot(rows, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$last, xend = today, yend = .data$row,
                                       colour = .data$status, linetype = .data$status),
                          linewidth = 2.2) +
    ggplot2::geom_point(ggplot2::aes(x = .data$last), size = 2.6, colour = house$lead) +
    ggplot2::geom_point(data = due, ggplot2::aes(x = .data$due), shape = 124, size = 4,
                        colour = house$ink) +
    ggplot2::annotate("text", x = today + span * .02, y = rows$row, label = rows$label, hjust = 0,
                      size = size, colour = house$ink) +
    ggplot2::scale_colour_manual(values = colour[kinds], name = NULL) +
    ggplot2::scale_linetype_manual(values = c(gone = "solid", overdue = "11",
                                              waiting = "21", elsewhere = "42",
                                              back = "13")[kinds], name = NULL) +
    ggplot2::scale_y_continuous(breaks = rows$row, labels = rows$name,
                                expand = ggplot2::expansion(add = .6)) +
    ggplot2::scale_x_date(date_labels = "%b %Y", limits = c(min(rows$last) - span * .02,
                                                            today + span * .78),
                          breaks = lapsed_breaks(min(rows$last), today),
                          guide = ggplot2::guide_axis(check.overlap = TRUE),
                          expand = ggplot2::expansion(mult = c(.01, 0))) +
    theme_rows(size) +
    ggplot2::theme(axis.text.x = ggplot2::element_text(colour = house$soft),
                   legend.position = "bottom",
                   panel.grid.major.x = ggplot2::element_line(colour = house$line,
                                                              linewidth = .3)) +
    figure_words(object, c(paste0("dot: the last line; stroke: when the next was due; figures: ",
                                  spoken(facts(object)$settings$metrics[1]),
                                  " at stake, days since then"),
                           first_names(object, nrow(rows), sum(object$status != "never"))),
                 paste0("Without lines: ", paste(utils::head(paste(rows$name, rows$label), 5),
                                            collapse = "; "), "."))
}

lapsed_bars <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  table <- plain_frame(x)
  table <- utils::head(table[table$status != "never", ], 20)
  if (!nrow(table)) return(table)
  name <- drawn_names(table, set$each)
  label_field <- set$with_fields[vapply(set$with_fields,
                                        function(field) is.character(table[[field]]), NA)][1]
  if (length(label_field) && !is.na(label_field) && !length(label_of_column(table, set$each)))
    name <- paste(name, ifelse(is.na(table[[label_field]]), "", table[[label_field]]))
  last <- table[[intersect(c("last_order", "last_line"), names(table))[1]]]
  gap <- ifelse(is.na(table$usual_interval), "", paste0(", usual ", format_number(
    table$usual_interval, digits = 0)))
  data.frame(row = rev(seq_len(nrow(table))), name = fit_text(name, 34), status = table$status,
             last = last, due = last + round(table$usual_interval),
             label = paste0(format_short(as.numeric(table$at_stake),
                                         column_unit(facts, "at_stake")),
                            "   ", format_number(table$days_since), " days", gap))
}

# Half-years or so, left of today.
lapsed_breaks <- function(from, to) {
  months <- max(round(as.numeric(to - from) / 30 / 5), 1)
  rev(seq(as.Date(format(to, "%Y-%m-01")), from, by = paste0("-", months, " months")))
}
