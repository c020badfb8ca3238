# Standings as ranked bars.

groups_most <- 12
panels_most <- 3
bars_most <- 40   # more names than these are not legible on one picture

#' Draw a result
#'
#' `plot()` draws a result; `autoplot()` gives the ggplot object, to which more can be added. The
#' title is the finding, the subtitle the reading.
#'
#' Standings are drawn as ranked bars: rank and name, the metric with its share, tied ranks marked
#' with `=`, everyone else below. Several metrics stand in panels of their own scale, each with the
#' rank by that metric; more than three metrics stand in two rows. With `against`, a mark shows the
#' value before. At most 40 names are drawn, 20 in two rows, and 12 groups.
#'
#' @param object,x (`ll_result`) what a study returned.
#' @param ... not used.
#' @return `autoplot()`: a ggplot object; `plot()`: the result, invisibly.
#' @examples
#' top <- ll_standings(ll_demo(), each = "rep", top = 10)
#' plot(top)
#' @name ll_figures
#' @importFrom graphics plot
#' @importFrom utils head tail
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_standings <- function(object, ...) {
  object <- inner_result(object)
  bars <- standings_bars(object)
  if (!nrow(bars)) return(empty_figure(object))
  many <- nlevels(bars$panel) > 1
  across <- nlevels(bars$panel)
  # Panels that would leave a bar no room stand in two rows, of fewer names.
  if (!inside_groups(object) && across > panels_most) across <- ceiling(across / 2)
  long <- max(nchar(bars$name, "width")) > 20
  if (inside_groups(object)) across <- min(if (across > 8 && !long) 3 else 2, across)
  down <- ceiling(nlevels(bars$panel) / across)
  size <- label_size(max(table(bars$panel)) * down, across)
  plot <- ggplot2::ggplot(bars, ggplot2::aes(x = .data$length, y = .data$row)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$kind), width = .72, na.rm = TRUE) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, hjust = .data$side), size = size,
                       colour = house$ink, na.rm = TRUE) +
    ggplot2::scale_fill_manual(values = c(lead = house$lead, name = house$main, rest = house$rest),
                               guide = "none") +
    ggplot2::scale_y_discrete(labels = function(row) bars$name[match(row, bars$row)]) +
    ggplot2::scale_x_continuous(labels = NULL,
                                expand = bar_room(bars, across, size, inside_groups(object))) +
    ggplot2::coord_cartesian(clip = "off") +
    theme_rows(size) +
    figure_words(object, bars_caption(object, bars), bars_seen(bars))
  plot <- add_before(plot, bars)
  scales <- if (inside_groups(object)) "free_y" else "free_x"
  if (many) plot <- plot + ggplot2::facet_wrap("panel", nrow = down, scales = scales)
  plot
}

#' @rdname ll_figures
#' @export
plot.ll_result <- function(x, ...) {
  print(ggplot2::autoplot(x, ...))
  invisible(x)
}

bars_drawn <- function(set) if (length(set$metrics) > panels_most) bars_most / 2 else bars_most

inside_groups <- function(x) length(facts(x)$settings$within) > 0

# The bars as data: row (its order), name (axis label), panel, value, length (of the bar), label,
# side (where the label stands), kind (lead, name, rest), before.
standings_bars <- function(x) {
  facts <- facts(x)
  set <- facts$settings
  table <- utils::head(plain_frame(x), if (inside_groups(x)) Inf else bars_drawn(set))
  if (!nrow(table)) return(data.frame())
  if (inside_groups(x)) return(group_bars(table, facts))
  names <- fit_text(drawn_names(table, set$each), 34)
  foot <- facts$parts$foot
  foot <- foot[foot[[set$each[1]]] != "total", , drop = FALSE]
  out <- lapply(set$metrics, function(metric) {
    metric_bars(metric, table, names, foot, facts)
  })
  out <- do.call(rbind, out)
  out$row <- factor(out$row, levels = rev(unique(out$row)))
  out$panel <- factor(out$panel, levels = unique(out$panel))
  out
}

metric_bars <- function(metric, table, names, foot, facts) {
  first <- metric == facts$settings$metrics[1]
  rank <- table[[if (first) "rank" else paste0(metric, "_rank")]]
  # Shares are left to the table where several metrics need the room.
  alone <- first && length(facts$settings$metrics) == 1
  share <- if (alone) table[[paste0(metric, "_share")]]
  unit <- column_unit(facts, metric)
  table[[metric]] <- as.numeric(table[[metric]])
  foot[[metric]] <- as.numeric(foot[[metric]])
  digits <- fitting_digits(table[[metric]], unit)
  label <- bar_label(table[[metric]], unit, share, if (!first) rank, digits)
  bars <- data.frame(row = paste0("n", seq_len(nrow(table))), name = rank_name(table$rank, names),
                     panel = spoken(metric), value = table[[metric]], label = label,
                     kind = ifelse(!is.na(rank) & rank == 1, "lead", "name"),
                     before = before_of(table, metric), dated = rep(unit == "date", nrow(table)))
  # A row without a name is not among those ranked.
  bars$kind[table[[facts$settings$each[1]]] == "(none)"] <- "rest"
  if (nrow(foot)) bars <- rbind(bars, data.frame(
    row = paste0("rest", seq_len(nrow(foot))), name = foot[[facts$settings$each[1]]],
    panel = spoken(metric), value = foot[[metric]],
    label = bar_label(foot[[metric]], unit, if (alone) foot[[paste0(metric, "_share")]],
                      digits = digits),
    kind = "rest", before = NA_real_, dated = unit == "date"))
  rank_bars(bars)
}

before_of <- function(table, metric) {
  was <- table[[paste0(metric, "_before")]]
  if (is.null(was)) rep(NA_real_, nrow(table)) else as.numeric(was)
}

# The lengths drawn. Everyone else is often far longer than any one bar; its bar is then left out,
# since a bar cut short would lie, and its label stands alone.
rank_bars <- function(bars) {
  longest <- max(abs(bars$value[bars$kind != "rest"]), 0, na.rm = TRUE)
  bars$length <- bars$value
  over <- bars$kind == "rest" & !is.na(bars$value) & abs(bars$value) > 1.05 * longest
  bars$length[over] <- 0
  bars$label[over] <- paste0(bars$label[over], "  (bar left out)")
  bars$length[is.na(bars$value)] <- 0
  # Dates have no zero to start a bar from.
  if (all(bars$dated)) bars$length <- 0
  bars$side <- ifelse(bars$length < 0, 1.08, -.06)
  bars
}

bar_label <- function(value, unit, share = NULL, rank = NULL, digits = NULL) {
  out <- format_number(value, unit, digits)
  out[is.na(value)] <- "no value"
  if (!is.null(share)) out <- ifelse(is.na(share), out,
                                     paste0(out, "   ", format_number(share, "percent")))
  if (!is.null(rank)) out <- ifelse(is.na(rank), out, paste0(out, "   (", mark_ties(rank), ")"))
  out
}

# "3" or "3=" where the rank is shared.
mark_ties <- function(rank) {
  shared <- rank %in% rank[duplicated(rank)]
  paste0(format_number(rank, "rank"), ifelse(shared, "=", ""))
}

rank_name <- function(rank, names) {
  # Two blanks are about as wide as a digit; that keeps the names in line.
  label <- mark_ties(rank)
  label <- paste0(strrep("  ", max(nchar(label)) - nchar(label)), label)
  ifelse(is.na(rank), names, paste0(label, "  ", names))
}

# Within groups: a panel each, by the first metric.
group_bars <- function(table, facts) {
  set <- facts$settings
  metric <- set$metrics[1]
  unit <- column_unit(facts, metric)
  groups <- utils::head(unique(table[[set$within]]), groups_most)
  heads <- drawn_names(table[match(groups, table[[set$within]]), ], set$within)
  heads <- make.unique(fit_text(heads, 30), " ")
  out <- lapply(seq_along(groups), function(i) {
    group <- groups[i]
    mine <- utils::head(table[table[[set$within]] == group, ], max(3, bars_most %/% length(groups)))
    names <- fit_text(drawn_names(mine, set$each), 20)
    rank_bars(data.frame(
      row = paste0(group, seq_len(nrow(mine))), name = rank_name(mine$rank, names),
      panel = heads[i], value = as.numeric(mine[[metric]]), label = bar_label(mine[[metric]], unit,
      if (length(groups) <= 6) mine[[paste0(metric, "_share")]]),
      kind = ifelse(!is.na(mine$rank) & mine$rank == 1, "lead", "name"),
      before = before_of(mine, metric), dated = unit == "date"))
  })
  out <- do.call(rbind, out)
  out$row <- factor(out$row, levels = rev(unique(out$row)))
  out$panel <- factor(out$panel, levels = unique(out$panel))
  out
}

# Room for the labels beyond the bars, left and right, as shares of the span that the bars take.
# A label of L characters fits when the bar's end lies at least L / P of the whole width from the
# edge, with P characters across a panel; more room makes the bars shorter, hence the rounds.
bar_room <- function(bars, panels, size, grouped) {
  axis <- max(nchar(bars$name, "width")) + 2
  across <- picture_characters * 10.5 / (size * ggplot2::.pt)
  # Groups have names beside each panel, metrics share those of the first.
  wide <- max(if (grouped) across / panels - axis - 2 else (across - axis) / panels - 2, 12)
  need <- pmin((nchar(bars$label, "width") + 2) / wide, .8)
  panel <- if (grouped) rep(1, nrow(bars)) else bars$panel
  low <- stats::ave(bars$length, panel, FUN = function(x) min(x, 0))
  span <- pmax(stats::ave(bars$length, panel, FUN = function(x) max(x, 0)) - low, 1e-300)
  left <- bars$length < 0
  from_left <- (bars$length - low) / span
  room <- c(0, .02)
  for (round in 1:30) {
    whole <- 1 + sum(room)
    room <- c(max(0, (need * whole - from_left)[left]),
              max(.02, (need * whole - (1 - from_left))[!left]))
    room <- pmin(room, 3)
  }
  ggplot2::expansion(mult = room)
}

# Characters of 10.5 points across a picture 8.9 inches wide.
picture_characters <- 104

label_size <- function(rows, panels) {
  points <- if (rows <= 14) 10.5 else if (rows <= 26) 9 else 7
  max(points - (panels > 2), 6.5) / ggplot2::.pt
}

# About a character of labels on a scale whose bars are `wide`, beside which `signs` of them stand,
# where there is room for so many in all.
sign_width <- function(wide, signs, room = 60, least = 15) wide / max(room - signs, least)

add_before <- function(plot, bars) {
  if (all(is.na(bars$before))) return(plot)
  plot + ggplot2::geom_point(ggplot2::aes(x = .data$before), shape = 23, size = 2.2,
                             fill = house$mark, colour = house$paper, na.rm = TRUE)
}

bars_caption <- function(x, bars) {
  rows <- nrow(x)
  set <- facts(x)$settings
  c(if (!inside_groups(x)) first_of(bars_drawn(set), rows, "rows") else
    first_of(groups_most, length(unique(plain_frame(x)[[set$within]])), "groups"),
    if (any(grepl("=", bars$name, fixed = TRUE))) "= marks a shared rank",
    if (any(!is.na(bars$before))) paste0("diamond: ", set$against$from, " to ", set$against$to))
}

bars_seen <- function(bars) {
  first <- bars[bars$panel == levels(bars$panel)[1], ]
  top <- utils::head(first, 5)
  paste0("Ranked bars: ", paste(paste0(top$name, " ", top$label), collapse = "; "),
         if (nrow(first) > 5) "; and more", ".")
}

empty_figure <- function(x) {
  ggplot2::ggplot() +
    ggplot2::annotate("text", x = 0, y = 0, label = "No names to show", colour = house$soft) +
    theme_house() + ggplot2::theme(axis.text = ggplot2::element_blank()) + figure_words(x)
}
