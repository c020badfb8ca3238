# Associations, continued: the question and what is found.

numbers_bands <- 20    # stretches into which numbers are cut, of at least five values each
few_differ <- .01      # a field may differ within this share of the names

associations_question <- function(book, args) {
  asked <- args$by
  named <- vapply(asked, function(name) {
    if (guarded(name) %in% names(book$metrics)) guarded(name) else real_name(book, name)
  }, "", USE.NAMES = FALSE)
  numbers <- intersect(named, c(names(book$metrics),
                                book$fields$name[book$fields$role == "measure"]))
  others <- setdiff(named, numbers)
  args <- altered(args, by = if (length(others)) others)
  question <- refuse_compared(ask_book(book, args, c("each", "by")), "associations")
  refuse_several(question, "'associations' looks at")
  each <- question$args$each
  if (length(each) > 1) ll_abort("'each' takes one dimension.", "argument")
  if (is.null(each)) refuse_no_sum(first_metric(question))
  if (is.null(asked)) return(default_fields(question))
  unfit <- setdiff(numbers, number_names(question))
  if (length(unfit))
    ll_abort(c(paste0(quoted(unfit[1]), if (is.null(each)) " is a metric; lines have none." else
      " is a measure of lines; orders and names have metrics."),
      i = if (is.null(each)) "Give a measure of the lines, or say each = \"account\"." else
        paste0("For example --define 'total=sum(", unfit[1], ")' and its name here.")), "argument")
  with_args(question, numbers = setdiff(numbers, first_metric(question)$name),
            by = setdiff(question$args$by, each), left_out = fields_out())
}

# Every field that tells something; what is made from the metric's own fields goes with it by
# construction.
default_fields <- function(question) {
  book <- question$book
  each <- question$args$each
  own <- lines_fields(book, names_in(first_metric(question)$tree))
  made <- function(tree) {
    length(intersect(lines_fields(book, names_in(tree)), setdiff(own, book$order))) > 0
  }
  by <- telling_dimensions(book, each)
  computed <- intersect(by, names(book$computed))
  same <- computed[vapply(lapply(computed, key_tree, book = book), made, NA)]
  numbers <- setdiff(number_names(question), first_metric(question)$name)
  tree_of <- function(name) {
    if (name %in% names(book$metrics)) book$metrics[[name]]$tree else key_tree(book, name)
  }
  also <- numbers[vapply(lapply(numbers, tree_of), made, NA)]
  by <- setdiff(by, same)
  if (!is.null(book$date) && (is.null(each) || identical(each, book$order))) {
    parts <- pick_dimensions(book, paste0(c("month(", "weekday("), name_text(book$date), ")"), "by")
    question <- altered(question, book = parts$book)
    by <- c(by, parts$names)
  }
  with_args(question, by = by, numbers = setdiff(numbers, also),
            left_out = fields_out(c(same, also), "made from the same fields"))
}

# What has a number for each: measures over lines; over names the metrics, and the numbers of their
# register.
number_names <- function(question) {
  args <- question$args
  fields <- named_once(question$book$fields[question$book$fields$role == "measure", ])
  if (is.null(args$each)) return(fields$name[fields$from %in% c("lines", "computed")])
  c(names(Filter(function(m) !m$against, question$book$metrics)),
    fields$name[fields$from == args$each])
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
association_values <- function(question) {
  args <- question$args
  total <- fold_question(question, character())
  found <- list(total = as.list(total$values[1, , drop = FALSE]),
                exact = total$exact, counted = total$lines, left_out = args$left_out)
  found <- if (is.null(args$each)) values_of_lines(question, found) else
    values_of_names(question, found)
  found$fields <- stats::setNames(found$fields, vapply(found$fields, `[[`, "", "name"))
  found <- in_strata(found)
  found$centre <- mean(found$value)
  found <- centred(found)
  unfit <- vapply(found$fields, unfit_field, "", question = question, found = found)
  if (length(found$value))
    found$left_out <- rbind(found$left_out, fields_out(names(unfit)[nzchar(unfit)],
                                                       unfit[nzchar(unfit)]))
  found$partly <- Filter(function(field) !all(is_known(field)), found$fields)
  found$fields <- found$fields[!nzchar(unfit)]
  found
}

# Why a field cannot be looked at, or "".
unfit_field <- function(field, question, found) {
  known <- is_known(field)
  if (!any(known)) return("known for none")
  if (field$size < 2) return("one name only")
  if (field$size > sum(known) / 2) return("nearly a name for each")
  if (found$spread > 0 && !spread_of(found$value[known]) > 0)
    return(paste(spoken(first_metric(question)$name), "is the same wherever it is known"))
  ""
}

values_of_lines <- function(question, found) {
  args <- question$args
  tree <- first_metric(question)$tree$arg
  blocks <- if (!is.null(question$book$order) && question$book$grain != "summed")
    key_tree(question$book, question$book$order)
  trees <- c(trees_here(question, c(args$by, args$numbers)), list(blocks))
  brought <- source_sampled(question$book$source, trees, blocks, tree, question$asked$where_now,
                            args$sample, args$seed)
  source <- brought$source
  keep <- line_mask(source, question$asked$where_now)
  rows <- if (is.null(keep)) seq_len(source_size(source)) else which(keep)
  value <- scaled_value(row_values(source, tree))[rows]
  rows <- rows[!is.na(value)]
  found$missing <- brought$missing %||% sum(is.na(value))
  block <- blocks_of(question$book, source, rows)
  found$sampled <- !is.null(brought$of)
  taken <- if (found$sampled) seq_along(rows) else evenly(block, args$sample, args$seed)
  found$sampled <- found$sampled || length(taken) < length(rows)
  found$of <- brought$of %||% length(rows)
  rows <- rows[taken]
  value <- value[!is.na(value)][taken]
  codes <- lapply(key_trees(question$book, args$by, question$asked$where_now), function(tree) {
    coded_tree(source, tree)$codes[rows]
  })
  numbers <- lapply(args$numbers, function(name) {
    scaled_value(row_values(source, key_tree(question$book, name)))[rows]
  })
  # What is shuffled does not depend on the order in which the lines came: those that stand alone
  # are told by their values.
  block <- block[taken]
  block[occurs_once(block)] <- Inf
  at <- do.call(order, c(list(block, value), unname(codes), numbers, list(method = "radix")))
  block <- block[at]
  alone <- is.infinite(block)
  block[alone] <- max(0, block[!alone]) + seq_len(sum(alone))
  found$block <- block
  found$value <- value[at]
  found$fields <- c(Map(function(name, codes) names_field(name, codes[at]), args$by, codes),
                    Map(function(name, x) numbers_field(name, x[at]), args$numbers, numbers))
  found$fields <- unname(found$fields)
  found
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

# Whole blocks until there are about `most` lines.
evenly <- function(block, most, seed) {
  if (length(block) <= most) return(seq_along(block))
  fraction <- spread_evenly(block, seed)
  which(fraction <= sort(fraction, partial = most)[most])
}

values_of_names <- function(question, found) {
  args <- question$args
  numbers <- question$book$metrics[intersect(args$numbers, names(question$book$metrics))]
  fold <- fold_metrics(question$book, args$each, c(question$metrics, numbers),
                       question$asked$where_now)
  known <- !is.na(fold$keys[[1]]) & !is.na(fold$values[[1]])
  found$missing <- sum(!known)
  found$of <- sum(known)
  found$sampled <- FALSE
  found$value <- fold$values[[1]][known]
  found$block <- seq_along(found$value)
  names <- fold$keys[[1]][known]
  fields <- lapply(args$by, function(name) {
    of <- commonest_value(question, name, names)
    if (of$differ > few_differ * length(names)) return(name)
    c(names_field(name, of$codes), list(differ = of$differ))
  })
  varies <- vapply(fields, is.character, NA)
  found$left_out <- rbind(found$left_out, fields_out(unlist(fields[varies]),
  paste("varies within", spoken(args$each))))
  found$fields <- c(fields[!varies], lapply(args$numbers, function(name) {
    numbers_field(name, if (name %in% names(numbers)) fold$values[[name]][known] else
      register_numbers(question$book, name, names))
  }))
  found
}

# What most lines of each name say of a field, the first of several: codes, and how many names have
# lines that differ.
commonest_value <- function(question, field, names) {
  fold <- source_fold(question$book$source, key_trees(question$book, c(question$args$each, field),
                                                      question$asked$where_now),
                      list(), question$asked$where_now)
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

associations_found <- found_of(
  "associations",
  value = holds("metric", "value", "the values compared: of lines, orders or names"),
  block = holds("count", "value", "the block, shuffled whole, that each belongs to"),
  stratum = holds("count", "value", "blocks of one size, among which they are shuffled"),
  centre = holds("metric", "one", "their mean", missing = "without values"),
  spread = holds("number", "one", "the sum of their squared distances from it"),
  fields = holds("list", NULL, "the fields looked at: name, kind, codes, size, by name"),
  partly = holds("list", NULL, "the fields that are known for some values only"),
  left_out = holds("table", NULL, "field, why: fields that could not be looked at"),
  missing = holds("count", "one", "lines or names without a value"),
  of = holds("count", "one", "values before a sample was taken"),
  sampled = holds("flag", "one", "whether they are a sample"),
  table = holds("table", NULL, "a row for each field, strongest first"),
  pairs = holds("table", NULL, "field, given, alone, left: each field within each other one"),
  alike = holds("matrix", NULL, "how far lines of a block are alike in each field within another",
                absent = "with fewer than two strong fields"),
  known = holds("table", NULL, "what being known tells of the value, for fields known in part",
                absent = "where every field is known throughout"))

associations_work <- function(question) {
  found <- association_values(question)
  found <- association_strengths(question, found)
  found <- association_pairs(question, found)
  found$known <- known_strengths(question, found)
  do.call(associations_found, found)
}
