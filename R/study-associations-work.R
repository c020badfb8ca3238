# Associations, continued: the question and what is found.

pairs_most <- 12       # fields looked at two by two
numbers_bands <- 20    # stretches into which numbers are cut, of at least five values each
few_differ <- .01      # a field may differ within this share of the names
through_left <- .5     # a field runs through another that leaves less than this of its strength

associations_question <- function(book, args) {
  asked <- args$by
  named <- vapply(asked, function(name) {
    if (guarded(name) %in% names(book$metrics)) guarded(name) else real_name(book, name)
  }, "", USE.NAMES = FALSE)
  numbers <- intersect(named, c(names(book$metrics),
                                book$fields$name[book$fields$role == "measure"]))
  args["by"] <- list(setdiff(named, numbers))
  if (!length(args$by)) args["by"] <- list(NULL)
  q <- refuse_compared(ask_book(book, args, c("each", "by")), "associations")
  refuse_several(q, "'associations' looks at")
  if (length(q$each) > 1) ll_abort("'each' takes one dimension.", "argument")
  if (is.null(q$each)) refuse_no_sum(q$first)
  if (is.null(asked)) return(default_fields(q))
  unfit <- setdiff(numbers, number_names(q))
  if (length(unfit))
    ll_abort(c(paste0(quoted(unfit[1]), if (is.null(q$each)) " is a metric; lines have none." else
      " is a measure of lines; orders and names have metrics."),
      i = if (is.null(q$each)) "Give a measure of the lines, or say each = \"account\"." else
        paste0("For example --define 'total=sum(", unfit[1], ")' and its name here.")), "argument")
  q$numbers <- setdiff(numbers, q$first$name)
  q$by <- setdiff(q$by, q$each)
  q$left_out <- fields_out()
  q
}

# Every field that tells something; what is made from the metric's own fields goes with it by
# construction.
default_fields <- function(q) {
  book <- q$book
  own <- lines_fields(book, names_in(q$first$tree))
  made <- function(tree) {
    length(intersect(lines_fields(book, names_in(tree)), setdiff(own, book$order))) > 0
  }
  q$by <- telling_dimensions(book, q$each)
  computed <- intersect(q$by, names(book$computed))
  same <- computed[vapply(lapply(computed, key_tree, book = book), made, NA)]
  numbers <- setdiff(number_names(q), q$first$name)
  tree_of <- function(name) {
    if (name %in% names(book$metrics)) book$metrics[[name]]$tree else key_tree(book, name)
  }
  also <- numbers[vapply(lapply(numbers, tree_of), made, NA)]
  q$by <- setdiff(q$by, same)
  q$numbers <- setdiff(numbers, also)
  q$left_out <- fields_out(c(same, also), "made from the same fields")
  if (!is.null(book$date) && (is.null(q$each) || identical(q$each, book$order))) {
    parts <- pick_dimensions(book, paste0(c("month(", "weekday("), name_text(book$date), ")"), "by")
    q$book <- parts$book
    q$by <- c(q$by, parts$names)
  }
  q
}

# What has a number for each: measures over lines; over names the metrics, and the numbers of their
# register.
number_names <- function(q) {
  fields <- named_once(q$book$fields[q$book$fields$role == "measure", ])
  if (is.null(q$each)) return(fields$name[fields$from %in% c("lines", "computed")])
  c(names(Filter(function(m) !m$against, q$book$metrics)), fields$name[fields$from == q$each])
}

# The fields of the lines behind names, through computed fields.
lines_fields <- function(book, names) {
  unlist(lapply(names, function(name) {
    if (!name %in% names(book$computed)) return(name)
    lines_fields(book, setdiff(names_in(key_tree(book, name)), name))
  }))
}

fields_out <- function(field = character(), why = character()) {
  data.frame(field = as.character(field), why = rep_len(why, length(field)))
}

# The values compared, the blocks that are shuffled whole, and each field beside them.
association_values <- function(q) {
  total <- fold_question(q, character())
  s <- list(q = q, total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
            counted = total$lines, left_out = q$left_out)
  s <- if (is.null(q$each)) values_of_lines(s) else values_of_names(s)
  s$fields <- stats::setNames(s$fields, vapply(s$fields, `[[`, "", "name"))
  s <- in_strata(s)
  s$centre <- mean(s$value)
  s <- centred(s)
  unfit <- vapply(s$fields, unfit_field, "", s = s)
  if (length(s$value))
    s$left_out <- rbind(s$left_out, fields_out(names(unfit)[nzchar(unfit)], unfit[nzchar(unfit)]))
  s$partly <- Filter(function(field) !all(is_known(field)), s$fields)
  s$fields <- s$fields[!nzchar(unfit)]
  s
}

# Why a field cannot be looked at, or "".
unfit_field <- function(field, s) {
  known <- is_known(field)
  if (!any(known)) return("known for none")
  if (field$size < 2) return("one name only")
  if (field$size > sum(known) / 2) return("nearly a name for each")
  if (s$spread > 0 && !spread_of(s$value[known]) > 0)
    return(paste(spoken(s$q$first$name), "is the same wherever it is known"))
  ""
}

values_of_lines <- function(s) {
  q <- s$q
  source <- lines_here(q, c(q$by, q$numbers, q$book$order))
  keep <- line_mask(source, q$asked$where_now)
  rows <- if (is.null(keep)) seq_len(source_size(source)) else which(keep)
  value <- scaled_value(row_values(source, q$first$tree$arg))[rows]
  rows <- rows[!is.na(value)]
  s$missing <- sum(is.na(value))
  block <- blocks_of(q$book, source, rows)
  taken <- evenly(block, q$sample, q$seed)
  s$sampled <- length(taken) < length(rows)
  s$of <- length(rows)
  rows <- rows[taken]
  value <- value[!is.na(value)][taken]
  codes <- lapply(key_trees(q$book, q$by, q$asked$where_now), function(tree) {
    coded_tree(source, tree)$codes[rows]
  })
  numbers <- lapply(q$numbers, function(name) {
    scaled_value(row_values(source, key_tree(q$book, name)))[rows]
  })
  # What is shuffled does not depend on the order in which the lines came: those that stand alone
  # are told by their values.
  block <- block[taken]
  block[occurs_once(block)] <- Inf
  at <- do.call(order, c(list(block, value), unname(codes), numbers, list(method = "radix")))
  block <- block[at]
  alone <- is.infinite(block)
  block[alone] <- max(0, block[!alone]) + seq_len(sum(alone))
  s$block <- block
  s$value <- value[at]
  s$fields <- c(Map(function(name, codes) names_field(name, codes[at]), q$by, codes),
                Map(function(name, x) numbers_field(name, x[at]), q$numbers, numbers))
  s$fields <- unname(s$fields)
  s
}

# Which values occur once.
occurs_once <- function(x) !(duplicated(x) | duplicated(x, fromLast = TRUE))

# Lines of one order belong together; a line without an order stands alone, after all others.
blocks_of <- function(book, source, rows) {
  if (is.null(book$order) || book$grain == "summed") return(seq_along(rows))
  codes <- coded_field(source, book$order)$codes[rows]
  alone <- codes == 0L
  codes[alone] <- max(codes, 0L) + seq_len(sum(alone))
  codes
}

# Whole blocks until there are about `most` lines: those whose number, times the golden ratio, has
# the smallest fraction, which spreads them evenly whatever the order of the file.
evenly <- function(block, most, seed) {
  if (length(block) <= most) return(seq_along(block))
  fraction <- ((block + seed) * ((sqrt(5) - 1) / 2)) %% 1
  which(fraction <= sort(fraction, partial = most)[most])
}

values_of_names <- function(s) {
  q <- s$q
  numbers <- q$book$metrics[intersect(q$numbers, names(q$book$metrics))]
  fold <- fold_metrics(q$book, q$each, c(q$metrics, numbers), q$asked$where_now)
  known <- !is.na(fold$keys[[1]]) & !is.na(fold$values[[1]])
  s$missing <- sum(!known)
  s$of <- sum(known)
  s$sampled <- FALSE
  s$value <- fold$values[[1]][known]
  s$block <- seq_along(s$value)
  names <- fold$keys[[1]][known]
  fields <- lapply(q$by, function(name) {
    of <- commonest_value(q, name, names)
    if (of$differ > few_differ * length(names)) return(name)
    c(names_field(name, of$codes), list(differ = of$differ))
  })
  varies <- vapply(fields, is.character, NA)
  s$left_out <- rbind(s$left_out, fields_out(unlist(fields[varies]),
                                           paste("varies within", spoken(q$each))))
  s$fields <- c(fields[!varies], lapply(q$numbers, function(name) {
    numbers_field(name, if (name %in% names(numbers)) fold$values[[name]][known] else
      register_numbers(q$book, name, names))
  }))
  s
}

# What most lines of each name say of a field, the first of several: codes, and how many names have
# lines that differ.
commonest_value <- function(q, field, names) {
  fold <- source_fold(q$book$source, key_trees(q$book, c(q$each, field), q$asked$where_now),
                      list(), q$asked$where_now)
  value <- code_column(fold$keys[[2]])$codes
  at <- match(fold$keys[[1]], names)
  best <- order(at, -fold$lines, value)
  # A blank cell says nothing against what the other lines of the name say.
  best <- best[!is.na(at[best]) & value[best] > 0L]
  first <- best[!duplicated(at[best])]
  codes <- integer(length(names))
  codes[at[first]] <- value[first]
  list(codes = codes, differ = sum(tabulate(at[best], length(names)) > 1))
}

register_numbers <- function(book, field, names) {
  at <- book$fields[match(field, book$fields$name), ]
  register <- book$registers[[at$from]]
  as.numeric(register$table[[at$column]][match(names, register$names)])
}

# `codes` as columns have them: 0 where there is no value.
names_field <- function(name, codes) {
  codes[codes == 0L] <- NA
  c(list(name = name, kind = "names"), pack_codes(codes))
}

numbers_field <- function(name, x) {
  most <- max(min(numbers_bands, length(x) %/% 5), 1)
  c(list(name = name, kind = "numbers", x = x), bands_of_numbers(x, most))
}
