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
  depth <- ifelse(is.na(depth), 0, pmin(pmax(depth, 0), 1))
  shade <- grDevices::colorRamp(c("#EFF4F4", house$main))(depth)
  grDevices::rgb(shade, maxColorValue = 255)
}

# Whether white is read better than ink on these colours, by the ratio of their luminances (Web
# Content Accessibility Guidelines 2.1, success criterion 1.4.3).
light_on <- function(fill) {
  luminance <- function(colour) {
    part <- t(grDevices::col2rgb(colour)) / 255
    linear <- ifelse(part <= .03928, part / 12.92, ((part + .055) / 1.055)^2.4)
    as.vector(linear %*% c(.2126, .7152, .0722)) + .05
  }
  tile <- luminance(fill)
  luminance("#FFFFFF") / tile > tile / luminance(house$ink)
}
