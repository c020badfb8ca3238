# Other pictures of the same answer, where that is sound: dots in place of bars, a trend as bars,
# parts stacked or as shares of their whole. What does not add up, or has values below zero, is no
# part of a whole and is refused.

stack_most <- 6   # parts that are told apart; the rest is gathered

#' Another picture of the same answer
#'
#' Standings as dots on an axis that need not begin at zero; a crosstab, or a trend by names, as
#' bars of parts that are stacked, or as shares of their whole; a trend as bars.
#' [autoplot()][ll_figures] gives the study's own picture.
#'
#' @param result (`ll_result`) what a study returned.
#' @param picture (text) `"bars"` or `"dots"` of standings, `"tiles"`, `"stacked"` or `"shares"` of
#'   a crosstab, `"lines"`, `"bars"`, `"stacked"` or `"shares"` of a trend; `NULL` for the study's
#'   own.
#' @return A ggplot object.
#' @section Errors: `ll_error_word` for a picture that the answer has not; `ll_error_argument` for
#' parts of what does not add up, or has values below zero.
#' @examples
#' cells <- ll_crosstab(ll_demo(), "territory", columns = "channel")
#' ll_picture(cells, "shares")
#' @export
ll_picture <- function(result, picture = NULL) {
  x <- inner_result(result)
  known <- pictures_of(x)
  if (is.null(picture) || identical(picture, known[1])) return(ggplot2::autoplot(result))
  picture <- check_words(picture, "picture", one = TRUE)
  if (!picture %in% known)
    ll_abort(c(paste0("There is no picture ", quoted(picture), " of this ", facts(x)$study, "."),
               if (length(known)) offer(picture, known, "Pictures")), "word")
  other_figures[[facts(x)$study]][[picture]](x)
}

# The pictures of a result by name, the study's own first.
pictures_of <- function(x) {
  told <- facts(inner_result(x))
  pictures_for(told$study, told$settings)
}

# The same of a call, by its arguments: a stack needs parts, bars stand for one line each.
pictures_for <- function(study, args) {
  own <- declaration_of(study)$pictures
  if (study == "standings") return(own)
  parts <- args[[if (study == "trend") "by" else "columns"]]
  setdiff(own, if (length(parts)) "bars" else c("stacked", "shares"))
}

# A part of a whole: a metric that adds up, without values below zero.
check_parts <- function(x, metric, value) {
  spec <- facts(x)$book$metrics[[metric]]
  if (!isTRUE(spec$adds_up))
    ll_abort(c(paste0(capital(spoken(metric)), " does not add up over its parts, so a stack of ",
                      "them would show a sum that is none."), i = "Its own picture stays."),
             "argument")
  if (any(value < 0, na.rm = TRUE))
    ll_abort(c(paste0("Some parts of ", spoken(metric), " are below zero, so they make no shares ",
                      "of a whole."), i = "Its own picture stays."), "argument")
}

# at (factor), part (factor, the largest first, others gathered), value; summed.
gather_parts <- function(at, part, value) {
  value <- or_zero(as.numeric(value))
  size <- sort(tapply(value, part, sum), decreasing = TRUE)
  named <- names(size)[!grepl("^everyone else \\(", names(size))]
  kept <- if (length(size) > stack_most) utils::head(named, stack_most - 1) else names(size)
  rest <- length(size) - length(kept)
  label <- ifelse(part %in% kept, as.character(part), paste("others", paste0("(", rest, ")")))
  out <- stats::aggregate(list(value = value), list(at = at, part = label), sum)
  out$part <- factor(out$part, c(kept, setdiff(unique(label), kept)))
  out
}

part_colours <- function(parts) {
  out <- rep_len(series_colours, length(parts))
  out[grepl("^(others|everyone else) \\(", parts)] <- house$rest
  stats::setNames(out, parts)
}

# Bars of parts, as they are or each as a whole of 100 %.
stacked_bars <- function(x, parts, unit, shares, across, caption = NULL) {
  whole <- stats::ave(parts$value, parts$at, FUN = sum)
  parts$share <- ifelse(whole > 0, parts$value / whole, NA)
  parts$drawn <- if (shares) parts$share else parts$value
  shown <- if (shares) parts$share else parts$value / max(whole, 1e-300)
  parts$label <- ifelse(!is.na(shown) & shown > .06, if (shares) format_number(
    parts$share, "percent", 0) else format_short(parts$value, unit), "")
  dark <- light_on(part_colours(levels(parts$part))[as.character(parts$part)])
  axis <- function(v) if (shares) format_number(v, "percent", 0) else format_short(v, unit)
  plot <- ggplot2::ggplot(parts, ggplot2::aes(x = .data$drawn, y = .data$at, fill = .data$part)) +
    ggplot2::geom_col(width = .72, position = ggplot2::position_stack(reverse = TRUE),
                      colour = house$paper, linewidth = .3, na.rm = TRUE) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, group = .data$part),
                       position = ggplot2::position_stack(vjust = .5, reverse = TRUE), size = 3,
                       colour = ifelse(dark, house$paper, house$ink), na.rm = TRUE) +
    ggplot2::scale_fill_manual(values = part_colours(levels(parts$part)), name = NULL) +
    ggplot2::scale_x_continuous(labels = axis, expand = ggplot2::expansion(mult = c(0, .03))) +
    theme_rows(label_size(nlevels(parts$at), 1)) +
    ggplot2::theme(legend.position = "bottom",
                   panel.grid.major.x = ggplot2::element_line(colour = house$line, linewidth = .3))
  if (across) plot <- plot + ggplot2::coord_flip() + ggplot2::theme(
    panel.grid.major.x = ggplot2::element_blank(),
    axis.text.x = ggplot2::element_text(hjust = .5),
    panel.grid.major.y = ggplot2::element_line(colour = house$line, linewidth = .3))
  plot + figure_words(x, c(if (shares) "each bar is 100 %", caption), paste0(
    "Stacked bars of ", paste(levels(parts$part), collapse = ", "), "."))
}

crosstab_parts <- function(x, shares) {
  facts <- facts(x)
  set <- facts$settings
  metric <- set$metrics[1]
  cells <- facts$parts$cells
  check_parts(x, metric, cells[[metric]])
  row <- drawn_names(cells, set$rows)
  row <- factor(row, rev(utils::head(unique(row), tiles_most[["rows"]])))
  kept <- !is.na(row)
  parts <- gather_parts(row[kept], drawn_names(cells, set$columns)[kept], cells[[metric]][kept])
  parts$at <- factor(parts$at, levels(row))
  stacked_bars(x, parts, metric_unit(facts, metric), shares, FALSE)
}

trend_parts <- function(x, shares) {
  facts <- facts(x)
  metric <- facts$settings$metrics[1]
  table <- plain_frame(x)
  check_parts(x, metric, table[[metric]])
  at <- factor(table$period, unique(table$period))
  parts <- gather_parts(at, drawn_names(table, facts$settings$by), table[[metric]])
  parts$at <- factor(parts$at, levels(at))
  part <- unique(table$period[table$part == "part"])
  plot <- stacked_bars(x, parts, column_unit(facts, metric), shares, TRUE,
                       if (length(part)) paste("only a part of", and_list(part), "is covered"))
  some <- levels(at)[seq(1, nlevels(at), by = max(ceiling(nlevels(at) / 9), 1))]
  plot + ggplot2::scale_y_discrete(breaks = some)
}

# A trend of one line for each metric as bars from zero.
trend_bars <- function(x) {
  lines <- trend_drawn(x)
  if (!nrow(lines)) return(empty_figure(x))
  periods <- unique(lines[c("at", "period")])
  some <- seq(1, nrow(periods), by = max(ceiling(nrow(periods) / 9), 1))
  ggplot2::ggplot(lines, ggplot2::aes(x = .data$at, y = .data$value)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$part), width = .74, na.rm = TRUE) +
    ggplot2::scale_fill_manual(values = c(`FALSE` = house$main, `TRUE` = house$rest),
                               guide = "none") +
    ggplot2::scale_x_continuous(breaks = some, labels = periods$period[match(some, periods$at)]) +
    ggplot2::scale_y_continuous(labels = axis_labels(lines$unit[1], length(unique(lines$unit)))) +
    ggplot2::facet_wrap("panel", ncol = 1, scales = "free_y") +
    theme_house() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_line(colour = house$line, linewidth = .3),
                   axis.text = ggplot2::element_text(colour = house$soft)) +
    figure_words(x, if (any(lines$part)) "grey: incomplete periods", trend_seen(lines))
}

# Ranks as dots on an axis that need not begin at zero: rates, which all lie far from it.
standings_dots <- function(x) {
  bars <- standings_bars(x)
  if (!nrow(bars)) return(empty_figure(x))
  bars <- bars[bars$kind != "rest" & !is.na(bars$value), ]
  bars$row <- droplevels(bars$row)
  facts <- facts(x)
  unit <- column_unit(facts, facts$settings$metrics[1])
  size <- label_size(nlevels(bars$row), nlevels(bars$panel))
  plot <- ggplot2::ggplot(bars, ggplot2::aes(x = .data$value, y = .data$row)) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$kind), size = 3) +
    ggplot2::scale_colour_manual(values = c(lead = house$lead, name = house$main), guide = "none") +
    ggplot2::scale_y_discrete(labels = function(row) bars$name[match(row, bars$row)]) +
    ggplot2::scale_x_continuous(labels = axis_labels(unit, length(facts$settings$metrics))) +
    theme_rows(size) +
    ggplot2::theme(panel.grid.major = ggplot2::element_line(colour = house$line, linewidth = .3),
                   axis.text.x = ggplot2::element_text(colour = house$soft)) +
    figure_words(x, "the axis need not begin at zero", bars_seen(bars))
  if (nlevels(bars$panel) > 1) plot <- plot + ggplot2::facet_wrap(
    "panel", scales = if (inside_groups(x)) "free_y" else "free_x")
  plot
}

other_figures <- list(
  standings = list(dots = standings_dots),
  crosstab = list(stacked = function(x) crosstab_parts(x, FALSE),
                  shares = function(x) crosstab_parts(x, TRUE)),
  trend = list(bars = trend_bars, stacked = function(x) trend_parts(x, FALSE),
               shares = function(x) trend_parts(x, TRUE)))
