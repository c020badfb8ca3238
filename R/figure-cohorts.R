# Cohorts: on the left each period as a bar of shares, new, existing and unknown; on the right a
# triangle of tiles, what stays of each cohort, period by period.

cohorts_drawn <- c(periods = 12, cohorts = 13)

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_cohorts <- function(object, ...) {
  object <- inner_result(object)
  facts <- facts(object)
  bars <- cohort_bars(object)
  tiles <- cohort_tiles(object)
  if (!nrow(tiles)) return(empty_figure(object))
  colour <- c(new = house$mark, existing = house$main, unknown = house$rest)
  kinds <- intersect(names(colour), bars$kind)
  heads <- cohort_heads(facts, bars, tiles)
  size <- label_size(max(bars$row, tiles$row, 8), 2)
  ggplot2::ggplot() +
    ggplot2::geom_rect(data = bars, ggplot2::aes(xmin = .data$from, xmax = .data$to,
                                                 ymin = .data$row - .38, ymax = .data$row + .38,
                                                 fill = .data$kind)) +
    ggplot2::scale_fill_manual(values = colour[kinds], breaks = kinds, name = NULL) +
    ggplot2::geom_text(data = bars[bars$label != "", ],
                       ggplot2::aes(y = .data$row, label = .data$label), x = .37, hjust = 0,
                       size = size, colour = house$ink) +
    ggplot2::geom_tile(data = tiles, ggplot2::aes(x = .data$x, y = .data$row),
                       width = tiles$width * .96, height = .9, fill = tiles$fill) +
    ggplot2::geom_text(data = tiles, ggplot2::aes(x = .data$x, y = .data$row, label = .data$label),
                       size = size, colour = ifelse(tiles$dark, "#FFFFFF", house$ink)) +
    ggplot2::geom_text(data = heads, ggplot2::aes(x = .data$x, y = .data$y, label = .data$label,
                                                  hjust = .data$side), size = size,
                       colour = ifelse(heads$soft, house$soft, house$ink),
                       fontface = ifelse(heads$bold, "bold", "plain")) +
    ggplot2::scale_x_continuous(limits = c(-.25, 1.55), expand = ggplot2::expansion(0)) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(add = .3)) +
    theme_house() +
    ggplot2::theme(axis.text = ggplot2::element_blank(), legend.position = "bottom",
                   legend.justification = "left") +
    figure_words(object, cohort_caption(facts), cohort_seen(bars, tiles))
}

# Shares of each period between 0 and .36.
cohort_bars <- function(x) {
  facts <- facts(x)
  metric <- facts$settings$metrics[1]
  shown <- if ("new_share" %in% names(x)) metric else "names"
  table <- utils::tail(plain_frame(x), cohorts_drawn[["periods"]])
  held <- utils::tail(cohort_amounts(x, shown), cohorts_drawn[["periods"]])
  whole <- rowSums(pmax(held, 0))
  out <- do.call(rbind, lapply(seq_len(nrow(table)), function(i) {
    share <- if (whole[i] > 0) pmax(held[i, ], 0) / whole[i] else held[i, ] * 0
    to <- cumsum(share)
    data.frame(row = nrow(table) - i + 1, kind = names(share), from = .36 * (to - share),
               to = .36 * to, share = share, period = table$period[i], row.names = NULL)
  }))
  new <- out$kind == "new" & out$share > 0
  out$label <- ifelse(new, format_number(out$share, "percent", if (max(out$share[new], 0) < .1) 1
                                         else 0), "")
  part <- out$period %in% facts$settings$parts
  out$period <- paste0(out$period, ifelse(part, " (part)", ""))
  out
}

# New, existing and unknown amounts of each period, in the order they are stacked.
cohort_amounts <- function(x, shown) {
  if (shown == "names") {
    new <- or_zero(x$names_new)
    return(cbind(existing = x$names - new, new = new))
  }
  kinds <- c("unknown", "existing", "new")
  columns <- paste0(shown, "_", kinds)
  there <- columns %in% names(x)
  out <- vapply(columns[there], function(name) {
    or_zero(as.numeric(x[[name]]))
  }, numeric(nrow(x)))
  matrix(out, nrow(x), dimnames = list(NULL, kinds[there]))
}

# The triangle between .82 and 1.5: a column for each period.
cohort_tiles <- function(x) {
  facts <- facts(x)
  t <- facts$parts$triangle
  t$value <- if (facts$settings$share_of == "money") t$metric_share else t$names_share
  periods <- utils::tail(x$period, cohorts_drawn[["periods"]])
  t <- t[t$period %in% periods, ]
  cohorts <- utils::tail(unique(t$cohort), cohorts_drawn[["cohorts"]])
  t <- t[t$cohort %in% cohorts, ]
  width <- .68 / length(periods)
  fill <- tile_colour(t$value)
  data.frame(row = length(cohorts) - match(t$cohort, cohorts) + 1, cohort = t$cohort,
             period = t$period, width = rep(width, nrow(t)),
             x = .82 + width * (match(t$period, periods) - .5),
             fill = fill, dark = light_on(fill),
             label = ifelse(is.na(t$value), "", format_number(100 * t$value, digits = 0)),
             size = t$size)
}

# Everything written beside the bars and tiles.
cohort_heads <- function(facts, bars, tiles) {
  rows <- unique(bars[c("row", "period")])
  cohorts <- unique(tiles[c("row", "cohort", "size")])
  columns <- unique(tiles[c("x", "period")])
  columns <- columns[order(columns$x), ]
  some <- columns[seq(1, nrow(columns), by = ceiling(nrow(columns) *
                                         nchar(columns$period[1]) / 33)), ]
  top <- max(rows$row, cohorts$row)
  one <- function(x, y, label, side, bold = FALSE, soft = FALSE) {
    data.frame(x = x, y = y, label = label, side = side, bold = bold, soft = soft)
  }
  money <- facts$settings$share_of == "money"
  named <- sub("(.*) or before$", "up to \\1", cohorts$cohort)
  rbind(one(-.02, rows$row, rows$period, 1),
        one(.80, cohorts$row, paste0(fit_text(named, 16), " (",
                                     vapply(cohorts$size, count_text, ""), ")"), 1),
        one(some$x, max(cohorts$row) + .72, some$period, .5, soft = TRUE),
        one(0, top + 1.6, paste("share of", if ("new_share" %in% facts$columns$name)
          spoken(facts$settings$metrics[1]) else "names", "from new", plural_word(spoken(
            facts$settings$each))), 0, TRUE),
        one(.82, top + 1.6, if (money) "% of the first period's money" else
          "% of the cohort's names that buy", 0, TRUE))
}

cohort_caption <- function(facts) {
  paste0("in brackets: names of the cohort",
         if (length(facts$parts$triangle$period) &&
               length(unique(facts$parts$triangle$period)) > cohorts_drawn[["periods"]])
           paste0("; the last ", cohorts_drawn[["periods"]], " periods are drawn"))
}

cohort_seen <- function(bars, tiles) {
  new <- bars[bars$kind == "new", ]
  paste0("Share from new names: ", paste(new$period, new$label, collapse = "; "),
         ". Cohorts: ", paste(utils::head(paste(tiles$cohort, tiles$period, tiles$label), 12),
                              collapse = "; "), ".")
}
