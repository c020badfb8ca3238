# Portrait as one page of small panels: its metrics, its months, its weekdays, and the dimensions in
# which it lies furthest from the book, each as bars with the book's share as a mark across them.
# Every panel has axes of its own, from 0 to 1 across, so that one kind of drawing serves all.

portrait_panels <- 9

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_portrait <- function(object, ...) {
  object <- inner_result(object)
  if (!nrow(object)) return(empty_figure(object))
  shown <- portrait_shown(object)
  names <- c("how it stands", if (!is.null(ll_part(object, "months"))) "month by month",
             spoken(shown))
  panel <- function(data) {
    data$panel <- factor(data$panel, levels = names)
    data
  }
  bars <- panel(portrait_bars(object, shown))
  metrics <- panel(portrait_figures(object))
  months <- portrait_line(object)
  plot <- ggplot2::ggplot(bars, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_blank(data = panel(portrait_frame(names)), ggplot2::aes(x = .data$x)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = .data$row - .32,
                                    ymax = .data$row + .32),
                       fill = house$main) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$book, xend = .data$book, y = .data$row - .42,
                                       yend = .data$row + .42),
                          colour = house$mark, linewidth = 1.1, na.rm = TRUE) +
    ggplot2::geom_text(ggplot2::aes(x = 0, label = .data$label), hjust = 0, size = 2.8,
                       colour = house$ink) +
    ggplot2::geom_text(ggplot2::aes(x = 1, label = .data$figure), hjust = 1, size = 2.8,
                       colour = house$ink) +
    ggplot2::geom_text(data = metrics, ggplot2::aes(x = .data$x, label = .data$label,
                                                    hjust = .data$side),
                       size = 2.8, colour = ifelse(metrics$head, house$soft, house$ink)) +
    portrait_months_drawn(if (!is.null(months)) panel(months)) +
    ggplot2::facet_wrap("panel", ncol = 3, scales = "free") +
    ggplot2::scale_x_continuous(expand = ggplot2::expansion(mult = .01)) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(mult = .04)) +
    theme_house() +
    ggplot2::theme(axis.text = ggplot2::element_blank(),
                   strip.text = ggplot2::element_text(margin = ggplot2::margin(4, 0, 4, 0)),
                   panel.spacing.x = ggplot2::unit(26, "pt"))
  plot + figure_words(object, portrait_caption(object, shown), portrait_seen(object, shown))
}

# Weekdays first, then the dimensions in which the name lies furthest from the book.
portrait_shown <- function(x) {
  set <- facts(x)$settings
  weekday <- setdiff(set$by, set$telling)
  room <- portrait_panels - 1 - !is.null(ll_part(x, "months"))
  utils::head(c(weekday, set$telling), room)
}

# Six rows a panel (seven weekdays): label from 0, bar from .47 to .86, figure at the end.
portrait_bars <- function(x, shown) {
  table <- plain_frame(x)
  adds <- "share" %in% names(table)
  own <- if (adds) table$share else as.numeric(table[[facts(x)$settings$metrics[1]]])
  book <- if (adds) table$book_share else as.numeric(table$overall)
  unit <- if (adds) "percent" else
    column_unit(facts(x), facts(x)$settings$metrics[1])
  do.call(rbind, lapply(shown, function(dimension) {
    at <- utils::head(which(table$dimension == dimension), 12)
    rest <- grepl("^everyone else [(]", table$name[at])
    # The rest of many names would leave no room for those shown.
    most <- max(own[at][!rest], book[at][!rest], 0, na.rm = TRUE)
    reach <- function(v) if (most > 0) .47 + .39 * pmax(v, 0) / most else rep(.47, length(v))
    label <- table$name[at]
    if (!is.null(table$name_label))
      label <- ifelse(is.na(table$name_label[at]), label, table$name_label[at])
    label[rest] <- sub("everyone else", "others", label[rest])
    value <- own[at]
    value[is.na(value)] <- 0
    data.frame(panel = spoken(dimension), row = -seq_along(at), from = .47,
               to = ifelse(rest, .47, reach(value)), book = ifelse(rest, NA, reach(book[at])),
               label = fit_text(one_line(label), 19),
               figure = if (unit == "percent") format_number(own[at], "percent", 0) else
                 format_short(own[at], unit))
  }))
}

# The metrics as lines of figures: name, value, the book's, rank.
portrait_figures <- function(x) {
  m <- utils::head(ll_part(x, "metrics"), 6)
  one <- function(v, unit) {
    if (is.na(v) || abs(v) < 1e6) format_number(v, unit) else format_short(v, unit)
  }
  own <- function(v) mapply(one, v, m$unit)
  rank <- ifelse(is.na(m$rank), "-", paste(format_number(m$rank, "rank"), "of",
                                           count_text(m$of)))
  cells <- list(c("", spoken(m$metric)), c("value", own(m$value)), c("book", own(m$overall)),
                c("rank", rank))
  at <- c(0, .52, .73, 1)
  do.call(rbind, lapply(seq_along(cells), function(j) {
    data.frame(panel = "how it stands", row = -seq_len(nrow(m) + 1), x = at[j],
               side = if (j == 1) 0 else 1, label = cells[[j]], head = c(TRUE, rep(FALSE, nrow(m))))
  }))
}

# Corners that keep each panel's rows from 0.5 above the first to 0.5 below the seventh.
portrait_frame <- function(names) {
  rows <- expand.grid(panel = names[names != "month by month"], row = c(-.5, -6.5), x = c(0, 1))
  rows$panel <- as.character(rows$panel)
  rows
}

# The months from 0 to 1 across; the book's scaled to the same total.
portrait_line <- function(x) {
  months <- ll_part(x, "months")
  if (NROW(months) < 2) return(NULL)
  value <- as.numeric(months[[2]])
  book <- as.numeric(months$overall)
  if (facts(x)$settings$metrics[1] %in% facts(x)$settings$adds_up)
    book <- book * sum(value, na.rm = TRUE) / sum(book, na.rm = TRUE)
  data.frame(panel = "month by month", month = months[[1]],
             at = seq(0, 1, length.out = nrow(months)), row = value, book = book,
             from_zero = facts(x)$settings$metrics[1] %in% facts(x)$settings$adds_up,
             low = facts(x)$settings$better[[1]] == "low")
}

portrait_months_drawn <- function(months) {
  if (is.null(months)) return(NULL)
  best <- months[if (months$low[1]) which.min(months$row) else which.max(months$row), ]
  ends <- months[c(1, nrow(months)), ]
  ends$side <- c(0, 1)
  low <- min(if (months$from_zero[1]) 0, months$row, months$book, na.rm = TRUE)
  gap <- (max(months$row, months$book, na.rm = TRUE) - low) * .13
  room <- months[c(1, 1), ]
  room$row <- c(low - gap * 1.6, low + gap / .13 + gap * 1.6)
  list(ggplot2::geom_blank(data = room, ggplot2::aes(x = .data$at, y = .data$row)),
       ggplot2::geom_line(data = months, ggplot2::aes(x = .data$at, y = .data$book),
                          colour = house$mark, linewidth = .6, na.rm = TRUE),
       ggplot2::geom_line(data = months, ggplot2::aes(x = .data$at, y = .data$row),
                          colour = house$main, linewidth = .9, na.rm = TRUE),
       ggplot2::geom_point(data = best, ggplot2::aes(x = .data$at, y = .data$row),
                           colour = house$main, size = 2),
       ggplot2::geom_text(data = best, ggplot2::aes(x = .data$at, y = .data$row + gap * .8,
                                                    label = .data$month,
                                                    hjust = .data$at), size = 2.8,
                          colour = house$ink),
       ggplot2::geom_text(data = ends, ggplot2::aes(x = .data$at, y = low - gap,
                                                    label = .data$month, hjust = .data$side),
                          size = 2.8, colour = house$soft))
}

portrait_caption <- function(x, shown) {
  set <- facts(x)$settings
  left <- length(set$by) - length(shown)
  c(if (set$metrics[1] %in% set$adds_up) "amber: the book's share, and its months scaled to these"
    else "amber: the book", if (left) paste(left, "more dimensions in the table"))
}

portrait_seen <- function(x, shown) {
  paste0("Small panels of ", spoken(facts(x)$settings$metrics[1]), ", by ",
         and_list(spoken(shown), 9), ".")
}
