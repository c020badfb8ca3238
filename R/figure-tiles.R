# Pictures of tiles: their heads, their labels, their colours.

# The size of the heads at which the longest word of one stays within its column.
head_size <- function(rows, heads, across) {
  left <- min(max(nchar(rows, "width")), 34)
  words <- unlist(strsplit(wrap_each(heads, across), "\n", fixed = TRUE))
  fits <- (picture_characters - left - 4) / across / (max(nchar(words, "width"), 1) + 1)
  max(10.5 * min(1, fits), 5)
}

wrap_each <- function(x, across) wrap_labels(x, max(floor(84 / max(across, 1)), 6))

# Short, or in full where the smallest would be lost, then without coins.
tile_label <- function(value, unit) {
  if (!unit %in% c("money", "number")) return(format_number(value, unit))
  short <- format_short(value, unit)
  if (max(abs(value), 0, na.rm = TRUE) < 1000 || any(grepl("[kmn]$", short))) short else
    format_number(value, unit, 0)
}

# Colours of tiles from nothing (0) to the most (1).
tile_colour <- function(depth) {
  shade <- grDevices::colorRamp(c("#EFF4F4", house$main))(ifelse(is.na(depth), 0, pmax(depth, 0)))
  grDevices::rgb(shade, maxColorValue = 255)
}
