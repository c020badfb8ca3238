# Drill as a tree from the whole on the left to the segments on the right: every box has its name
# and what changed there; segments stand out in colour by their excess.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_drill <- function(object, ...) {
  object <- inner_result(object)
  nodes <- drill_nodes(object)
  links <- nodes[!is.na(nodes$parent), ]
  at <- match(links$parent, nodes$id)
  links$px <- nodes$x[at]
  links$py <- nodes$y[at]
  deep <- max(nodes$x)
  size <- if (nrow(nodes) > 12 || deep > 2) 3 else 3.8
  # A few boxes do not grow to fill the picture.
  tall <- max(nodes$y) - min(nodes$y) + 1
  room <- max(5 - tall, 0) / 2
  ggplot2::ggplot(nodes, ggplot2::aes(x = .data$x, y = .data$y)) +
    ggplot2::geom_segment(data = links, ggplot2::aes(x = .data$px + .44, y = .data$py,
                                                     xend = .data$x - .44, yend = .data$y),
                          colour = house$rest, linewidth = .8) +
    ggplot2::geom_tile(ggplot2::aes(fill = .data$kind), width = .88, height = .8,
                       colour = house$line) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, colour = .data$kind == "gain"),
                       size = size, lineheight = .95) +
    ggplot2::scale_fill_manual(values = c(gain = house$main, loss = "#F3C778", whole = "#DCE8E8",
                                          step = "#EFF4F4", rest = "#F4F5F5"), guide = "none") +
    ggplot2::scale_colour_manual(values = c(`TRUE` = house$paper, `FALSE` = house$ink),
                                 guide = "none") +
    ggplot2::scale_x_continuous(limits = c(-.5, max(deep, 1) + .5), labels = NULL,
                                expand = ggplot2::expansion(0)) +
    ggplot2::scale_y_continuous(labels = NULL, expand = ggplot2::expansion(add = .15 + room)) +
    theme_house() +
    figure_words(object, paste("coloured: what goes beyond the growth of everything else,",
                               "teal more, amber less"),
                 paste0("Tree: ", paste(gsub("\n", " ", nodes$label), collapse = "; "), "."))
}

# id, parent, x, y, label, kind; the whole at x = 0.
drill_nodes <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  path <- facts$parts$path
  table <- plain_frame(x)
  m <- set$metrics[1]
  unit <- column_unit(facts, m)
  rate <- is.null(table[[paste0(m, "_growth")]])
  change <- function(v) {
    text <- if (rate) paste(format_number(abs(v) * 100, digits = 2), "pts") else
      format_short(abs(v), unit)
    paste0(ifelse(v < 0, "-", "+"), text)
  }
  excess <- table$excess[path$leaf]
  own <- table[[paste0(m, "_change")]][path$leaf]
  last <- !duplicated(path$leaf, fromLast = TRUE)
  nodes <- data.frame(id = path$segment, x = path$level,
                      name = path$name, kind = ifelse(!last, "step", ifelse(
                        excess > 0, "gain", "loss")),
                      text = ifelse(last, paste0(change(own), "; own ", change(excess)),
                                    change(path$change)), leaf = path$leaf)
  nodes$parent <- ifelse(nodes$x == 1, "whole", c("", nodes$id)[seq_len(nrow(nodes))])
  nodes <- nodes[!duplicated(nodes$id), ]
  ends <- nrow(table)
  rest <- table[ends, ]
  nodes <- rbind(nodes, data.frame(id = "rest", x = 1, name = "everything else", kind = "rest",
                                   text = change(rest[[paste0(m, "_change")]]), leaf = ends,
                                   parent = "whole"))
  # A box stands at the mean height of the segments that it leads to.
  nodes$y <- vapply(seq_len(nrow(nodes)), function(i) {
    below <- unique(path$leaf[path$segment == nodes$id[i]])
    mean(ends - if (nodes$kind[i] == "rest") ends else below)
  }, 0)
  whole <- data.frame(id = "whole", x = 0, name = spoken(m), kind = "whole",
                      text = paste0(format_short(set$then, unit), " to ",
                                    format_short(set$now, unit), "\n", change(set$now - set$then)),
                      leaf = 0, parent = NA, y = mean(range(nodes$y)))
  nodes <- rbind(whole, nodes)
  nodes$label <- paste0(wrap_labels(nodes$name, 22), "\n", nodes$text)
  nodes
}
