# Tiers as a ladder: a rung for each lower bound, between them how many names a tier has and what it
# holds.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_tiers <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  held <- facts$parts$tiers
  if (!nrow(object)) return(empty_figure(object))
  n <- nrow(held)
  steps <- tier_steps(held, facts)
  rungs <- data.frame(y = seq_len(n) - .5, label = rev(tier_bounds(held, facts)))
  rungs <- rungs[nzchar(rungs$label), ]
  panels <- levels(steps$panel)
  # Where each panel has room for so many characters the longest label ends.
  chars <- max(nchar(steps$label)) + 1
  right <- 1 + chars * sign_width(1, chars, 72 / length(panels), 12)
  rails <- data.frame(panel = factor(panels, panels))
  ggplot2::ggplot(steps, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_segment(data = merge(rails, rungs), ggplot2::aes(
      x = 0, xend = right, y = .data$y, yend = .data$y), colour = house$rest, linewidth = .5) +
    ggplot2::geom_vline(xintercept = 0, colour = house$soft, linewidth = .9) +
    ggplot2::geom_rect(ggplot2::aes(xmin = 0, xmax = pmax(.data$length, 0), ymin = .data$row - .28,
                                    ymax = .data$row + .28),
                       fill = ifelse(steps$row == n, house$lead, house$main)) +
    ggplot2::geom_text(ggplot2::aes(x = pmax(.data$length, 0) + .02, label = .data$label),
                       hjust = 0, size = 3.5, colour = house$ink) +
    ggplot2::geom_text(data = merge(rails, rungs), ggplot2::aes(
      x = right, y = .data$y, label = .data$label), hjust = 1, vjust = -.45, size = 2.9,
      colour = house$soft) +
    ggplot2::facet_wrap("panel", nrow = 1) +
    ggplot2::scale_y_continuous(breaks = seq_len(n), labels = fit_text(rev(held$tier), 24),
                                expand = ggplot2::expansion(add = .4)) +
    ggplot2::scale_x_continuous(labels = NULL, limits = c(0, right),
                                expand = ggplot2::expansion(mult = c(.01, .02))) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink,
                                                       size = ggplot2::rel(1.05))) +
    figure_words(object, "rungs: lower bounds", paste0(
      "A ladder of ", plural(n, "tier"), ", ", held$tier[1], " at the top."))
}

# Bars of each panel from 0 to 1: names, and for metrics that add up the share of the total.
tier_steps <- function(held, facts) {
  n <- nrow(held)
  all <- sum(held$names)
  panel <- function(name, value, label) {
    most <- max(value, 0, na.rm = TRUE)
    data.frame(panel = name, row = rev(seq_len(n)), label = label,
               length = if (most > 0) or_zero(value) / most else 0)
  }
  share <- function(x) ifelse(is.na(x), "", paste0("  (", format_number(x, "percent", 0), ")"))
  out <- panel("names", held$names, paste0(vapply(held$names, count_text, ""),
                                           share(held$names / max(all, 1))))
  if (!all(is.na(held$value))) {
    unit <- column_unit(facts, facts$settings$metrics[1])
    out <- rbind(out, panel(spoken(facts$settings$metrics[1]), held$value,
                            paste0(format_short(held$value, unit), share(held$share))))
  }
  out$panel <- factor(out$panel, unique(out$panel))
  out
}

tier_bounds <- function(held, facts) {
  unit <- column_unit(facts, facts$settings$metrics[1])
  out <- paste("from", format_number(held$from, unit))
  out[!is.finite(held$from)] <- ""
  out
}
