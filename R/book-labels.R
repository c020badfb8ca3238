# Labels: what a dimension's codes are called, from a field of its register or of the lines. A label
# may be typed where a code is asked for, and stands beside the code wherever that is shown.

# The labels that the person gave, as c(account = "account_name").
given_labels <- function(book, specs) {
  labels <- spec_values(specs, "label")
  for (dimension in names(labels)) check_label(book, dimension, labels[[dimension]])
  labels
}

check_label <- function(book, dimension, label) {
  fields <- names(book$registers[[dimension]]$table)
  own <- book$fields$name[book$fields$from == "lines" & book$fields$type == "text"]
  if (!label %in% c(fields, setdiff(own, dimension)))
    ll_abort(c(paste0("The label of ", quoted(dimension), " must be a field of texts, of its ",
                      "register or of the lines."),
               x = paste0("It is ", shown(label), "."),
               offer(label, c(fields, setdiff(own, dimension)), "Fields")), "word")
}

# The columns of a register whose texts tell (nearly) every name from every other.
naming_columns <- function(register) {
  tells <- vapply(register$table, tells_apart, NA)
  names(register$table)[tells]
}

tells_apart <- function(x) is.character(x) && length(unique(x)) >= .9 * length(x)

# The field that a dimension's labels stand in: the one given, or else the first of its register
# that names (nearly) each code; NA where there is none. Names that are words need none.
label_column <- function(book, dimension) {
  if (dimension %in% names(book$labels)) return(book$labels[[dimension]])
  register <- book$registers[[dimension]]
  if (is.null(register) || !are_codes(register$names)) return(NA_character_)
  for (field in names(register$table)) {
    x <- register$table[[field]]
    if (is.character(x) && are_words(x) && tells_apart(x)) return(field)
  }
  NA_character_
}

# Codes have a digit or no small letter, as 00123, HV-018 and NTH have; half of them tell.
are_codes <- function(x) {
  x <- utils::head(x, 1000)
  length(x) > 0 && mean(grepl("[0-9]", x) | !grepl("[[:lower:]]", x)) >= .5
}

# Words have letters and are no addresses of mail or of pages.
are_words <- function(x) {
  x <- utils::head(x[!is.na(x)], 1000)
  length(x) > 0 && mean(grepl("[[:alpha:]]{2}", x) & !grepl("[@/\\]", x)) >= .9
}

# The dimensions that have labels.
labelled <- function(book) {
  all <- union(names(book$labels), names(book$registers))
  all[!vapply(all, function(dimension) is.null(label_table(book, dimension)), NA)]
}

# list(column, names, labels, several): the field of the labels of a dimension that has some, every
# code, what it is called, and those that the lines call several things; NULL for others. Found once
# for a source.
label_table <- function(book, dimension) {
  kept <- book$source$labels
  if (!dimension %in% names(kept)) {
    kept[dimension] <- list(find_labels_of(book, dimension))
    book$source$labels <- kept
  }
  kept[[dimension]]
}

find_labels_of <- function(book, dimension) {
  column <- label_column(book, dimension)
  if (is.na(column)) return(NULL)
  register <- book$registers[[dimension]]
  if (column %in% names(register$table))
    return(list(column = column, names = register$names, labels = register$table[[column]]))
  labels_on_lines(book, dimension, column)
}

# Labels on the lines: of several for one code, that of the most lines, then the first by name.
labels_on_lines <- function(book, dimension, column) {
  keys <- list(name = key_tree(book, dimension), label = key_tree(book, column))
  fold <- source_fold(book$source, keys, list(), NULL)
  pairs <- data.frame(fold$keys, lines = fold$lines)
  pairs <- pairs[!is.na(pairs$name) & !is.na(pairs$label), ]
  pairs <- pairs[order(-pairs$lines, pairs$label, method = "radix"), ]
  first <- !duplicated(pairs$name)
  list(column = column, names = pairs$name[first], labels = pairs$label[first],
       several = unique(pairs$name[!first]))
}

# What names of a dimension are called; missing where nothing tells.
labels_of <- function(book, dimension, names) {
  table <- label_table(book, dimension)
  if (is.null(table)) return(rep(NA_character_, length(names)))
  labels <- table$labels[match(names, table$names)]
  labels[is_blank(labels) | labels == names] <- NA
  labels
}

# Names, as they are shown, with what they are called: "Quarry Combe Garden Centre (03085)".
with_labels_of <- function(book, dimension, names, own = names) {
  labelled_text(one_line(names), one_line(labels_of(book, dimension, own)))
}

# Names typed by a person as codes: what is no name but one's label stands for that one.
codes_of <- function(book, dimension, names, known) {
  unknown <- which(!name_places(known, names))
  table <- if (length(unknown)) label_table(book, dimension)
  for (i in if (!is.null(table)) unknown) {
    codes <- table$names[table$labels %in% names[i]]
    if (length(codes) > 1)
      ll_abort(c(paste0(quoted(names[i]), " is the name of ",
                        plural(length(codes), field_noun(book, dimension)), ": ",
                        and_list(codes, 6), "."), i = "Give the code of the one that is meant."),
               "word")
    if (length(codes)) names[i] <- codes
  }
  names
}
