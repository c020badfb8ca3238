# Drill as rungs on a centre rail: a rung for each segment, as long as its money moved, to the right
# for gains and to the left for losses; the part beyond the general growth is solid. At the left the
# condition, at the right how unusual it is; below a line the next candidates, hollow, and last
# everything else.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_drill <- function(object, ...) {
  object <- inner_result(object)
  rungs <- drill_rungs(object)
  reach <- range(0, rungs$change, rungs$excess, na.rm = TRUE)
  wide <- max(diff(reach), 1e-9)
  size <- label_size(max(nrow(rungs), 6), 1)
  said <- max(nchar(unlist(strsplit(rungs$said, "\n", fixed = TRUE))), 0) + 1
  most <- function(side) max(0, nchar(rungs$label[side]) + 1)
  sign <- sign_width(wide, most(rungs$end < 0) + most(rungs$end >= 0) + 2 + said)
  beyond <- if (explains_rate(facts(object))) "everything else" else "the general growth"
  ends <- rungs$end + ifelse(rungs$end < 0, -1, 1) * (nchar(rungs$label) + 1) * sign
  right <- max(ends, reach[2]) + 2 * sign
  line <- rungs$row[rungs$kind == "segment"]
  below <- if (length(line) && nrow(rungs) > length(line)) min(line) - .75
  ggplot2::ggplot(rungs, ggplot2::aes(y = .data$row)) +
    (if (!is.null(below)) ggplot2::geom_hline(yintercept = below, colour = house$line)) +
    ggplot2::annotate("segment", x = 0, xend = 0, y = min(rungs$row) - .5,
                      yend = max(rungs$row) + .5, colour = house$rest, linewidth = 1.4) +
    ggplot2::geom_rect(ggplot2::aes(xmin = pmin(.data$change, 0), xmax = pmax(.data$change, 0),
                                    ymin = .data$row - .3, ymax = .data$row + .3,
                                    colour = .data$side), fill = "#F4F5F5", linewidth = .5,
                       linetype = ifelse(rungs$kind == "candidate", "dashed", "solid")) +
    ggplot2::geom_rect(data = rungs[rungs$kind == "segment", ], ggplot2::aes(
      xmin = pmin(.data$excess, 0), xmax = pmax(.data$excess, 0), ymin = .data$row - .18,
      ymax = .data$row + .18, fill = .data$side)) +
    ggplot2::geom_text(ggplot2::aes(x = .data$end + ifelse(.data$end < 0, -1, 1) * wide * .015,
                                    label = .data$label, hjust = ifelse(.data$end < 0, 1, 0)),
                       size = size, colour = house$ink) +
    ggplot2::geom_text(ggplot2::aes(label = .data$said), x = right, hjust = 0, size = size,
                       colour = house$soft, lineheight = .95) +
    ggplot2::scale_fill_manual(values = c(gain = house$main, loss = house$mark, rest = house$rest),
                               guide = "none") +
    ggplot2::scale_colour_manual(values = c(gain = house$main, loss = house$mark,
                                            rest = house$rest), guide = "none") +
    ggplot2::scale_y_continuous(breaks = rungs$row, labels = rungs$name,
                                expand = ggplot2::expansion(add = .4)) +
    ggplot2::scale_x_continuous(labels = NULL,
                                limits = c(min(ends, reach[1]),
                                           right + said * sign),
                                expand = ggplot2::expansion(0)) +
    theme_rows(size) +
    figure_words(object, c(paste("rung: the change; solid: the part beyond", beyond),
                           if (any(rungs$kind == "candidate")) "dashed: the next candidates"),
                 paste0("Rungs: ", one_line(paste(rungs$name, rungs$label, rungs$said,
                                                  collapse = "; ")), "."))
}

drawn_candidates <- 3

# row (top first), name, change, excess, kind (segment, candidate, rest), side, end (of the longer
# of both bars), label, said.
drill_rungs <- function(x) {
  facts <- facts(x)
  table <- plain_frame(x)
  metric <- facts$settings$metrics[1]
  unit <- column_unit(facts, "beyond_growth")
  n <- nrow(table) - 1
  change <- table[[paste0(metric, "_change")]]
  others <- utils::head(facts$parts$others, drawn_candidates)
  growth <- facts$settings$rest_growth
  rest <- if (explains_rate(facts)) "" else if (round(abs(growth), 5) == 0) "no growth" else
    paste0("general growth\n", if (growth > 0) "+" else "-", format_number(abs(growth), "percent"))
  at <- c(rev(seq_len(n)) + nrow(others) + 2, rev(seq_len(nrow(others))) + 1.5, 1)
  out <- data.frame(
    row = at, name = c(wrap_labels(table$segment[seq_len(n)], 30), wrap_labels(others$segment, 30),
                       "everything else"),
    change = c(change[seq_len(n)], others$beyond_growth, change[n + 1]),
    excess = c(table$beyond_growth[seq_len(n)], rep(0, nrow(others) + 1)),
    kind = rep(c("segment", "candidate", "rest"), c(n, nrow(others), 1)),
    said = c(table$unusual[seq_len(n)], rep("", nrow(others)), rest))
  out$side <- ifelse(out$kind == "rest", "rest", ifelse(out$change < 0, "loss", "gain"))
  out$end <- ifelse(abs(out$excess) > abs(out$change), out$excess, out$change)
  amount <- if (unit == "points") format_number(abs(out$change), unit, 2) else
    format_short(abs(out$change), unit)
  out$label <- paste0(ifelse(out$change < 0, "-", "+"), amount)
  out
}

# The growth of everything else is none where a rate is explained.
explains_rate <- function(facts) is.null(facts$settings$least)
