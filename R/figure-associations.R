# Associations as bars from strongest to weakest: what is left beyond the field it runs through
# dark, what runs through it light, what chance alone reaches as a line across.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_associations <- function(object, ...) {
  object <- inner_result(object)
  bars <- association_bars(object)
  if (!nrow(bars)) return(empty_figure(object))
  most <- max(bars$adjusted, bars$chance, .02)
  plot <- ggplot2::ggplot(bars, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_tile(ggplot2::aes(x = .data$adjusted / 2, width = .data$adjusted, height = .62),
                       fill = ifelse(bars$beyond, house$main, house$rest),
                       alpha = ifelse(bars$split, .38, 1)) +
    ggplot2::geom_tile(data = bars[bars$split, ],
                       ggplot2::aes(x = .data$left / 2, width = .data$left, height = .62),
                       fill = house$main) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$chance, xend = .data$chance, y = .data$row - .4,
                                       yend = .data$row + .4), colour = house$mark,
                          linewidth = 1.1) +
    ggplot2::geom_text(ggplot2::aes(x = pmax(.data$adjusted, .data$chance), label = .data$label),
                       hjust = 0, nudge_x = most * .015, size = 3.1, colour = house$ink) +
    ggplot2::scale_y_continuous(breaks = bars$row, labels = bars$name,
                                expand = ggplot2::expansion(add = c(.3, .6))) +
    ggplot2::scale_x_continuous(labels = function(x) format_number(x, "percent", 0),
                                limits = c(0, most * 1.75), breaks = scale_steps(most),
                                expand = ggplot2::expansion(mult = c(.005, 0))) +
    theme_house() +
    ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink),
                   axis.text.x = ggplot2::element_text(colour = house$soft))
  plot + figure_words(object, association_caption(bars, object), paste0(
    "Bars of the share explained by ", plural(nrow(bars), "field"), "."))
}

scale_steps <- function(most) {
  at <- pretty(c(0, most), 4)
  at[at <= most * 1.05]
}

association_bars <- function(x) {
  table <- utils::head(plain_frame(x), 15)
  if (!nrow(table)) return(data.frame())
  share <- function(v) format_number(v, "percent", 1)
  adjusted <- pmax(table$adjusted, 0)
  split <- nzchar(table$through)
  detail <- ifelse(table$kind == "numbers",
                   paste0("rank correlation ", format_number(table$rank_correlation, "number", 2)),
                   plural_names(table$names))
  label <- paste0(ifelse(table$strength == "no more than chance", table$strength,
                         paste(share(adjusted), table$strength)),
                  ifelse(split, paste0(", runs through ", spoken(table$through), " (",
                                       share(table$left), " left)"), ""))
  data.frame(row = rev(seq_len(nrow(table))), adjusted = adjusted,
             chance = association_chance(table),
             left = ifelse(split, pmin(table$left, adjusted), 0),
             split = split, beyond = table$strength != "no more than chance", label = label,
             name = paste0(fit_text(one_line(spoken(table$field)), 22), "  \u00b7 ", detail))
}

plural_names <- function(n) paste(vapply(n, count_text, ""), ifelse(n == 1, "name", "names"))

# What chance reaches, on the adjusted scale.
association_chance <- function(table) {
  expected <- (table$explained - table$adjusted) / (1 - table$adjusted)
  pmax((table$chance - expected) / (1 - expected), 0)
}

association_caption <- function(bars, x) {
  c("amber: what chance alone passes one time in twenty",
    if (any(bars$split)) "light: what runs through another field",
    if (nrow(x) > nrow(bars)) paste(plural(nrow(x) - nrow(bars), "weaker field"), "in the table"))
}
