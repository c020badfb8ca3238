# The house look of all figures: one theme, one set of colours, one way to fit text.

# Teal for what is shown, amber for what is to be noticed, greys for the rest: told apart by readers
# with any of the common kinds of colour blindness, and in print without colour by lightness.
house <- list(ink = "#24323D", soft = "#5D6B75", main = "#2F6F73", lead = "#164B4F",
              mark = "#C9820A", rest = "#C3CCCF", line = "#DDE3E5", paper = "#FFFFFF")

theme_house <- function(base_size = 12) {
  ggplot2::theme_minimal(base_size = base_size) + ggplot2::theme(
    text = ggplot2::element_text(colour = house$ink),
    plot.background = ggplot2::element_rect(fill = house$paper, colour = NA),
    plot.title = ggplot2::element_text(face = "bold", size = ggplot2::rel(1.25),
                                       margin = ggplot2::margin(b = 5)),
    plot.subtitle = ggplot2::element_text(colour = house$soft, size = ggplot2::rel(.85),
                                          margin = ggplot2::margin(b = 12)),
    plot.caption = ggplot2::element_text(colour = house$soft, size = ggplot2::rel(.72), hjust = 0,
                                         margin = ggplot2::margin(t = 10)),
    plot.title.position = "plot", plot.caption.position = "plot",
    plot.margin = ggplot2::margin(14, 18, 10, 14),
    panel.grid = ggplot2::element_blank(),
    panel.spacing.x = ggplot2::unit(14, "pt"), panel.spacing.y = ggplot2::unit(10, "pt"),
    axis.title = ggplot2::element_blank(),
    strip.text = ggplot2::element_text(face = "bold", hjust = 0, colour = house$ink))
}

# The theme of pictures with a name for each row, as large as their labels.
theme_rows <- function(size) {
  theme_house() + ggplot2::theme(axis.text.y = ggplot2::element_text(
    hjust = 0, colour = house$ink, size = size * ggplot2::.pt))
}

# Each of several texts in lines of at most so many characters, three at most.
wrap_labels <- function(x, width) {
  vapply(fit_text(one_line(x), 3 * width), function(one) {
    paste(strwrap(one, width), collapse = "\n")
  }, "")
}

# Colours of tiles from nothing (0) to the most (1).
tile_colour <- function(depth) {
  shade <- grDevices::colorRamp(c("#EFF4F4", house$main))(ifelse(is.na(depth), 0, pmax(depth, 0)))
  grDevices::rgb(shade, maxColorValue = 255)
}

# What a caption says where only the first of many rows are drawn.
first_of <- function(drawn, all, what = "names") {
  if (all > drawn) paste0("the first ", drawn, " of ", count_text(all), " ", what)
}

# Text in lines of at most so many characters, so that it never leaves the picture: counted for a
# picture 8.9 inches wide in the widest of the usual sans-serif faces.
wrap_text <- function(text, characters, lines = 3) {
  # A number stays with its percent sign.
  out <- strwrap(gsub("([0-9]) %", "\\1\u00a0%", one_line(text)), characters)
  if (length(out) > lines)
    out <- c(out[seq_len(lines - 1)], fit_text(paste(out[-seq_len(lines - 1)], collapse = " "),
                                              characters))
  paste(out, collapse = "\n")
}

# Titles of a result's figure: the finding, the reading, and what belongs below. A description for
# those who cannot see it goes with it.
figure_words <- function(x, caption = NULL, seen = NULL) {
  facts <- facts(x)
  foot <- paste(c(facts$title, caption, proof_text(facts$proof)), collapse = "  \u00b7  ")
  ggplot2::labs(title = wrap_text(facts$finding, 68, 4), subtitle = wrap_text(facts$reading, 98, 4),
                caption = wrap_text(foot, 120), alt = paste(c(facts$finding, seen), collapse = " "))
}
