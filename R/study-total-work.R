# Total, continued: the question and what is found.

total_question <- function(book, args) {
  if (is.null(args$against) && covers_year_before(book, args$when))
    args <- altered(args, against = "year before")
  ask_book(book, args)
}

covers_year_before <- function(book, when) {
  if (is.null(when) || is.null(book$date) || !length(book$days)) return(FALSE)
  dates <- book_dates(book, "when")
  now <- read_period(when, dates)
  now$text != "all" && read_against("year before", now, dates)$from >= first_day(book) - part_days
}

total_found <- found_of(
  "total",
  before = holds("list", "metric", "each metric in the period compared with",
                 absent = "without such a period"),
  like = holds("list", NULL, "now and before: the metrics on the same days of both periods",
               absent = "where the periods are alike"))

total_work <- function(question) {
  fold <- fold_question(question, character())
  values <- function(fold) as.list(fold$values[1, names(question$metrics), drop = FALSE])
  total_found(
    total = values(fold), exact = fold$exact, counted = sum(fold$lines),
    before = if (!is.null(question$asked$before))
      values(fold_metrics(question$book, character(), question$metrics,
                          question$asked$where_before)),
    like = like_totals(question))
}
