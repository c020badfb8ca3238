# Bands: stretches of a field or of a metric, as dimensions, and the bounds that tiers take.


check_bands <- function(bands) {
  if (is.null(bands)) return(list())
  if (!is.list(bands) || is.null(names(bands)) || any(!nzchar(names(bands))))
    ll_abort(c("'bands' must be named lists.",
               i = "For example list(size = list(of = \"net\", from = c(0, 100, 1000)))."),
             "argument")
  thunks <- lapply(names(bands), function(name) function() check_band(name, bands[[name]]))
  stats::setNames(do.call(together, thunks), names(bands))
}

check_band <- function(name, spec) {
  if (!is.list(spec) || is.data.frame(spec))
    ll_abort(paste0("The band ", quoted(name), " needs at least 'of' and 'from'."), "argument")
  known <- book_keys("bands")
  unknown <- setdiff(names(spec), known)
  if (length(unknown))
    ll_abort(c(paste0("The band ", quoted(name), " has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  if (is.null(spec$of))
    ll_abort(paste0("The band ", quoted(name), " needs 'of': the field or metric that is banded."),
             "argument")
  over <- check_choice(spec$over %||% "book", paste("over of", name),
                       list(choices = c("book", "shown")))
  text <- if (inherits(spec$of, "formula")) formula_text(spec$of) else spec$of
  label <- paste0("band ", quoted(name))
  tree <- if (is.null(spec$each)) read_row(spec$of, label) else read_metric(spec$of, label)
  c(list(tree = tree, of_text = text, each = spec$each, over = over), band_table(name, spec))
}

# Lower bounds and labels, from `from` and `labels` or from a table of label, from and to. Labels
# come one more than bounds, the first for what is below.
band_table <- function(name, spec) {
  if (!is.null(spec$table)) return(band_rows(name, spec))
  bounds <- vapply(unlist(spec$from), as_single_number, 0, USE.NAMES = FALSE)
  if (!length(bounds) || anyNA(bounds))
    ll_abort(c(paste0("'from' of the band ", quoted(name), " must be numbers: the lower bounds."),
               x = paste0("It is ", shown(spec$from), ".")), "argument")
  check_rising(bounds, name)
  labels <- as.character(unlist(spec$labels))
  if (!length(labels)) labels <- bound_labels(bounds)
  if (length(labels) != length(bounds))
    ll_abort(c(paste0("The band ", quoted(name), " has ", plural(length(bounds), "bound"), " and ",
                      plural(length(labels), "label"), "; there must be as many."),
               i = "What lies below the first bound has its label in 'below'."), "argument")
  finish_bands(name, bounds, labels, spec$below)
}

finish_bands <- function(name, bounds, labels, below) {
  below <- below %||% paste("below", bound_text(bounds)[1])
  all <- c(as.character(below), labels)
  if (anyDuplicated(all))
    ll_abort(paste0("Two bands of ", quoted(name), " are called ", quoted(all[duplicated(all)][1]),
                    "."), "argument")
  list(bounds = bounds, labels = all)
}

check_rising <- function(bounds, name) {
  at <- which(diff(bounds) <= 0)
  if (length(at))
    ll_abort(c(paste0("The bounds of the band ", quoted(name), " must rise."),
               x = paste0(format_plain(bounds[at[1] + 1]), " comes after ",
                          format_plain(bounds[at[1]]), ".")), "argument")
}

bound_text <- function(bounds) format_number(bounds, digits = fitting_digits(bounds, "number"))

bound_labels <- function(bounds) {
  text <- bound_text(bounds)
  n <- length(bounds)
  c(if (n > 1) paste(text[-n], "to", text[-1]), paste(text[n], "and above"))
}

# A table of from and to must leave no gap and no overlap: each band ends where the next begins.
band_rows <- function(name, spec) {
  table <- spec$table
  word <- function(x) if (is.atomic(x) && length(x) == 1) as.character(x) else NA_character_
  if (!is.data.frame(table)) table <- do.call(rbind, lapply(table, function(row) {
    row <- as.list(row)
    data.frame(label = word(row$label), from = word(row$from), to = word(row$to))
  }))
  if (!all(c("label", "from") %in% names(table)) || !nrow(table))
    ll_abort(paste0("The table of the band ", quoted(name), " needs label, from and, if you like, ",
                    "to."), "argument")
  from <- vapply(as.character(table$from), as_single_number, 0, USE.NAMES = FALSE)
  to <- if (is.null(table$to)) rep(NA_real_, nrow(table)) else
    vapply(as.character(table$to), as_single_number, 0, USE.NAMES = FALSE)
  if (anyNA(from) || anyNA(table$label))
    ll_abort(paste0("Every row of the band ", quoted(name), " needs a label and a number 'from'."),
             "argument")
  check_rising(from, name)
  n <- length(from)
  after <- from[-1]
  ends <- to[-n]
  first <- which(!is.na(ends) & ends != after)[1]
  if (!is.na(first))
    ll_abort(c(paste0("The bands of ", quoted(name),
                      if (ends[first] < after[first]) " leave a gap" else " overlap",
                      ": each must end where the next begins."),
               x = paste0(quoted(table$label[first]), " ends at ", format_plain(ends[first]),
                          " and ", quoted(table$label[first + 1]), " begins at ",
                          format_plain(after[first]), ".")), "argument")
  bounds <- from
  labels <- as.character(table$label)
  # An upper end of the last row leaves a band above it.
  if (!is.na(to[n])) {
    bounds <- c(bounds, to[n])
    labels <- c(labels, paste(format_number(to[n]), "and above"))
  }
  finish_bands(name, bounds, labels, spec$below)
}

add_band <- function(book, name, table, context) {
  known <- known_to(book, lapply(table$metrics, `[[`, "typed"))
  if (is.null(table$each)) {
    tree <- with_codes(book, resolve_row(table$tree, known, context))
    if (row_type(tree, known) != "number")
      refuse(context, "bands are made of numbers",
             c(i = "The band of a metric also says whose: each = \"account\"."))
    made <- node("band", name = name, arg = tree, bounds = table$bounds, labels = table$labels)
    return(put_field(book, name, made, "dimension", "text", paste("bands of", table$of_text)))
  }
  book$waiting[[name]] <- table
  put_field(book, name, NULL, "dimension", "text",
            paste0("bands of ", table$of_text, " of each ", table$each,
                   if (table$over == "book") ", over the whole book" else ", over what is shown"))
}

# Bands of metrics can be made once the metrics are known, those first that need no other; metrics
# that look at such bands are completed after them.
finish_metric_bands <- function(book) {
  waiting <- names(book$waiting)
  if (!length(waiting)) return(book)
  while (length(waiting)) {
    before <- length(waiting)
    for (name in waiting) {
      made <- finish_metric_band(book, name, waiting)
      if (is.null(made)) next
      book$computed[[name]] <- made
      waiting <- setdiff(waiting, name)
    }
    if (length(waiting) == before)
      ll_abort(paste0("Bands and metrics refer to each other in a circle: ",
                      and_list(quoted(waiting)), "."), "formula")
  }
  book$waiting <- NULL
  known <- known_to(book)
  known$resolved <- new.env()
  book$metrics <- lapply(book$metrics, complete_metric, book = book, known = known)
  book
}

# NULL while its metric looks at a band that is not made yet.
finish_metric_band <- function(book, name, waiting) {
  table <- book$waiting[[name]]
  context <- list(label = paste0("band ", quoted(name)), text = table$of_text)
  table$each <- check_dimension(book, table$each, paste("each of", name))
  metric <- with_codes(book, resolve_metric(table$tree, known_to(book), context))
  if (needs_against(metric)) refuse(context, "change() and growth() make no bands")
  if (length(intersect(c(names_in(metric), table$each), waiting))) return(NULL)
  node("banded", name = name, each = key_tree(book, table$each), metric = metric,
       bounds = table$bounds, labels = table$labels, over = table$over, scope = NULL,
       of = table$of_text, whose = table$each)
}
