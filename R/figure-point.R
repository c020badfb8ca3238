# Which row of a result's table, and which cell, a point in its figure stands for. `at` is where the
# figure was pointed at, in the figure's own units: x, y and, where there are panels, panel.

# list(row, column), column only where a cell is meant; NULL where nothing stands there, or where
# the study's figure is of more than rows: the table's rows serve then.
figure_row <- function(x, at) {
  x <- inner_result(x)
  point <- figure_points[[facts(x)$study]]
  if (is.null(point) || !nrow(x)) return(NULL)
  found <- point(x, at)
  if (is.null(found) || is.na(found$row) || found$row < 1 || found$row > nrow(x)) return(NULL)
  found
}

# Whether pointing into the figure of a study finds rows.
points_rows <- function(study) study %in% names(figure_points)

# A row for each name, the first at the top: bars, lines in time, stretches.
row_from_top <- function(drawn, at) {
  row <- drawn + 1 - round(at$y)
  if (abs(at$y - round(at$y)) <= .45 && row >= 1 && row <= drawn) list(row = row)
}

point_standings <- function(x, at) {
  bars <- standings_bars(x)
  if (!inside_groups(x)) return(row_from_top(nlevels(bars$row), at))
  # A panel for each group, with its own names.
  mine <- bars[bars$panel == at$panel, ]
  hit <- row_from_top(nrow(mine), at)
  if (is.null(hit)) return(NULL)
  set <- facts(x)$settings
  groups <- as.character(x[[set$within]])
  within <- unique(groups)[match(at$panel, levels(bars$panel))]
  list(row = which(groups == within)[hit$row])
}

point_crosstab <- function(x, at) {
  tiles <- crosstab_tiles(x)
  set <- facts(x)$settings
  rows <- levels(tiles$row)
  row <- rows[round(at$y)]
  if (is.na(row)) return(NULL)
  table <- plain_frame(x)
  hit <- match(row, drawn_names(table, set$rows))
  column <- NULL
  if (length(set$columns)) {
    metric <- if (length(set$metrics) > 1) set$metrics[match(at$panel, spoken(set$metrics))]
    column <- column_of_tile(x, levels(tiles$column)[round(at$x)], metric)
  }
  list(row = hit, column = column)
}

# The column of the table whose cells are of this head, of several metrics those of one.
column_of_tile <- function(x, head, metric = NULL) {
  columns <- facts(x)$columns
  columns <- columns[columns$name %in% names(facts(x)$behind$columns), ]
  wanted <- if (is.null(metric)) head else paste0(head, ": ", c(metric, spoken(metric)))
  hit <- columns$name[columns$name %in% wanted | column_headings(columns) %in% wanted]
  if (length(hit)) hit[1]
}

point_quadrants <- function(x, at) {
  axes <- list(x = quadrant_axis(x, 1), y = quadrant_axis(x, 2))
  if (nrow(x) > points_most) return(NULL)
  wide <- function(v) max(diff(range(v, na.rm = TRUE)), 1e-300)
  far <- ((axes$x$value - at$x) / wide(axes$x$value))^2 +
    ((axes$y$value - at$y) / wide(axes$y$value))^2
  nearest <- which.min(far)
  # Nearer than about a fortieth of the figure.
  if (length(nearest) && sqrt(far[nearest]) < .025) list(row = nearest)
}

# Steps in their own order; those between the first and the last stand for no row.
point_bridge <- function(x, at) {
  drawn <- nrow(bridge_rows(x))
  hit <- row_from_top(drawn, at)
  steps <- facts(x)$parts$steps
  if (is.null(hit)) return(NULL)
  step <- hit$row
  if (nrow(steps) > drawn) {
    if (step == 9) return(NULL)
    if (step > 9) step <- nrow(steps) - (drawn - step)
  }
  by <- facts(x)$settings$by
  if (length(by) == 1) list(row = match(steps$step[step], x[[by]]))
}

point_drill <- function(x, at) {
  rungs <- drill_rungs(x)
  hit <- which(abs(rungs$row - at$y) < .45)
  if (!length(hit) || rungs$kind[hit[1]] == "candidate") return(NULL)
  list(row = if (rungs$kind[hit[1]] == "rest") nrow(x) else hit[1])
}

# The line nearest to the point, at the nearest period.
point_trend <- function(x, at) {
  lines <- trend_drawn(x)
  if (!is.null(at$panel)) lines <- lines[lines$panel == at$panel, ]
  lines <- lines[lines$at == round(at$x) & !is.na(lines$value), ]
  if (!nrow(lines)) return(NULL)
  list(row = lines$row[which.min(abs(lines$value - at$y))])
}

point_pareto <- function(x, at) {
  if (at$x >= 0 && at$y >= 0) list(row = max(1, ceiling(at$x)))
}

point_versus <- function(x, at) {
  rows <- levels(versus_marks(x)$row)
  name <- if (abs(at$y - round(at$y)) <= .45) rows[max(round(at$y), 0)]
  names <- drawn_names(plain_frame(x), versus_columns(facts(x))[1])
  if (length(name)) list(row = match(name, names))
}

# A framed tile is a row of the table; what is bought is none.
point_whitespace <- function(x, at) {
  facts <- facts(x)
  cells <- facts$parts$cells
  tiles <- space_tiles(x, cells)
  hit <- which(as.integer(tiles$row) == round(at$y) & as.integer(tiles$column) == round(at$x) &
                 tiles$gap)
  if (!length(hit)) return(NULL)
  both <- c(facts$settings$each, facts$settings$product)
  is_row <- Reduce(`&`, lapply(both, function(key) x[[key]] %in% cells[[key]][hit[1]]))
  list(row = which(is_row)[1])
}

plain_rows <- function(drawn) function(x, at) row_from_top(drawn(x), at)

figure_points <- list(
  standings = point_standings, crosstab = point_crosstab, quadrants = point_quadrants,
  bridge = point_bridge, drill = point_drill, trend = point_trend, pareto = point_pareto,
  versus = point_versus, whitespace = point_whitespace,
  lapsed = plain_rows(function(x) nrow(lapsed_bars(x))),
  benchmark = plain_rows(function(x) nrow(benchmark_bars(x))),
  holders = plain_rows(function(x) nrow(holder_bars(x))),
  score = plain_rows(function(x) nrow(score_bars(x)$rows)),
  payout = plain_rows(function(x) nrow(payout_bars(x))),
  associations = plain_rows(function(x) NROW(association_bars(x))),
  check = plain_rows(function(x) min(nrow(x), findings_drawn)))
