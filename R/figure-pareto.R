# Pareto as the running share over the names, the cuts marked, the names inside in front.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_pareto <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  curve <- pareto_curve(object)
  if (!nrow(curve)) return(empty_figure(object))
  cuts <- pareto_marks(object, curve)
  n <- max(curve$names)
  # So few names that each has room: a point each, the first ones named.
  few <- n <= 60
  named <- if (few) utils::head(curve[curve$names > 0, ], 3) else curve[0, ]
  named$side <- ifelse(named$names > n * .6, 1, 0)
  named <- named[!covered_by(named, cuts), ]
  ggplot2::ggplot(curve, ggplot2::aes(x = .data$names, y = .data$share)) +
    ggplot2::geom_area(data = curve[curve$inside, ], fill = house$main, alpha = .16) +
    ggplot2::geom_segment(data = data.frame(to = n), ggplot2::aes(x = 0, y = 0, xend = .data$to,
                                                                  yend = 1),
                          colour = house$rest, linetype = "22") +
    ggplot2::geom_line(colour = house$main, linewidth = 1) +
    (if (few) ggplot2::geom_point(data = curve[curve$names > 0, ], colour = house$main,
                                  size = 1.6)) +
    ggplot2::geom_segment(data = cuts, ggplot2::aes(x = 0, xend = n, y = .data$cut,
                                                    yend = .data$cut),
                          colour = house$mark, linewidth = .5) +
    ggplot2::geom_segment(data = cuts, ggplot2::aes(x = .data$names, xend = .data$names, y = 0,
                                                    yend = .data$share),
                          colour = house$mark, linewidth = .5) +
    on_paper(data = cuts, ggplot2::aes(x = .data$names, y = .data$at, label = .data$label,
                                       hjust = .data$side),
             nudge_x = n * .006 * ifelse(cuts$side == 0, 1, -1), size = 3.2) +
    on_paper(data = named, ggplot2::aes(label = .data$name, hjust = .data$side), vjust = 1.2,
             nudge_x = n * .004 * ifelse(named$side == 0, 1, -1), size = 3) +
    ggplot2::scale_y_continuous(labels = function(x) format_number(x, "percent", 0),
                                breaks = seq(0, 1, .2), limits = c(0, 1.02),
                                expand = ggplot2::expansion(mult = c(0, .02))) +
    ggplot2::scale_x_continuous(labels = count_text, breaks = whole_breaks,
                                expand = ggplot2::expansion(mult = c(0, .03))) +
    theme_house() +
    ggplot2::theme(axis.text = ggplot2::element_text(colour = house$soft),
                   panel.grid.major.y = ggplot2::element_line(colour = house$line,
                                                              linewidth = .3)) +
    figure_words(object, c(paste0("across: ", plural_word(spoken(facts$settings$each[1])),
                                  ", largest first; up: running share; broken curve: all alike")),
                 paste0("A rising curve over ", count_text(n), " names."))
}

# Text on a piece of paper, so that no line runs through it.
on_paper <- function(...) {
  ggplot2::geom_label(..., colour = house$ink, fill = house$paper, label.size = 0,
                      label.r = ggplot2::unit(0, "pt"), label.padding = ggplot2::unit(2, "pt"))
}

# Names whose labels would lie on those of the cuts: within a twentieth of the height.
covered_by <- function(named, cuts) {
  vapply(named$share - .04, function(at) any(abs(at - cuts$at) < .06), NA)
}

whole_breaks <- function(limits) {
  at <- pretty(limits, 6)
  at[at == round(at) & at >= 0]
}

# The curve from nothing to all, thinned to what a picture can show; the cuts' own points kept.
pareto_curve <- function(x) {
  facts <- facts(x)
  table <- plain_frame(x)
  metric <- facts$settings$metrics[1]
  share <- table[[paste0(metric, "_running_share")]]
  if (!nrow(table) || all(is.na(share))) return(data.frame())
  n <- nrow(table)
  class <- table[[intersect(c("inside", "class"), names(table))[1]]]
  edge <- which(class != c(class[-1], ""))
  at <- sort(unique(c(if (n > 2000) round(seq(1, n, length.out = 2000)) else seq_len(n), edge)))
  data.frame(names = c(0, at), share = c(0, share[at]),
             inside = c(TRUE, class[at] %in% c("yes", "A")),
             name = c("", fit_text(drawn_names(table[at, ], facts$settings$each), 24)))
}

# Between the lines of the scale, each label at a height of its own below its point.
label_heights <- function(share) {
  free <- seq(.1, .9, .2)
  out <- numeric(length(share))
  for (i in rev(order(share))) {
    best <- free[which.min(abs(free - max(share[i] - .1, .1)))]
    out[i] <- if (length(best)) best else .1
    free <- setdiff(free, best)
  }
  out
}

pareto_marks <- function(x, curve) {
  facts <- facts(x)
  classes <- facts$parts$classes
  set <- facts$settings
  upto <- cumsum(classes$names)[seq_along(set$cut)]
  share <- curve$share[match(upto, curve$names)]
  cut <- if (set$of == "names") share else set$cut
  n <- max(curve$names)
  data.frame(cut = cut, names = upto, share = share,
             at = label_heights(share),
             side = ifelse(upto > n * .6, 1, 0),
             label = paste0(vapply(upto, count_text, ""), " (",
                            format_number(upto / n, "percent", 0), ") bring ",
                            format_number(share, "percent", 0)))
}
