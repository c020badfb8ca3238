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

# The names of rows as pictures show them, several fields joined by a dot: what codes are called,
# where that is known, with the code only where that would stand for another one too.
drawn_names <- function(table, fields) {
  joined_names(lapply(fields, function(field) {
    label <- label_of_column(table, field)
    drawn_codes(as.character(table[[field]]), if (length(label)) table[[label]])
  }))
}

drawn_codes <- function(code, label) {
  if (is.null(label)) return(code)
  first <- !duplicated(code)
  shared <- label %in% c(label[first][duplicated(label[first])], code)
  ifelse(is.na(label), code, ifelse(shared, labelled_text(code, label), label))
}

# The column of what a column's codes are called; of several that could be, that added last.
label_of_column <- function(table, field) {
  start <- paste0(unguarded(field), "_label")
  hit <- names(table)[startsWith(names(table), start) & gsub("_+$", "", names(table)) == start]
  hit[which.max(nchar(hit))]
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

# What a caption says where only the first of many rows are drawn.
first_of <- function(drawn, all, what) {
  if (all > drawn) paste0("the first ", drawn, " of ", count_text(all), " ", what)
}

# The same of the names that a picture is of: "the first 20 of 47 accounts".
first_names <- function(x, drawn, all = nrow(x)) {
  each <- facts(x)$settings$each
  word <- if (length(each) == 1) field_noun(facts(x)$book, each) else "row"
  first_of(drawn, all, plural_word(word))
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
