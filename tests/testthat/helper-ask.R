# The books that questions in plain words are put to, and the questions with what they come to.

# How many random questions: few every day, some in all tests, LONGLADDER_TEST_ASKED=10000 of them
# for a measure.
many_asked <- function(few) {
  as.integer(Sys.getenv("LONGLADDER_TEST_ASKED", if (all_tests()) "1000" else few))
}

# A tool-hire firm: depots, machines, hire days, no reps.
hire_book <- local({
  book <- NULL
  function() {
    if (is.null(book)) book <<- make_hire_book()
    book
  }
})

make_hire_book <- function() {
  withr::local_seed(11)
  n <- 3000
  customers <- data.frame(
    customer = sprintf("C%04d", 1:120),
    customer_name = c("Garth Builders", paste(
      sample(c("Alder", "Birk", "Calder", "Dunnock", "Esker", "Fell", "Gill", "Howe"), 119, TRUE),
      sample(c("Homes", "Gardens", "Works", "Lands"), 119, TRUE), 2:120)),
    sector = c("builder", sample(c("builder", "landscaper", "council", "farmer"), 119, TRUE)),
    town = sample(c("Harle", "Kirk Lea", "Stang", "Old Stang", "Wath"), 120, TRUE))
  machines <- data.frame(
    machine = c(sprintf("EX-%02d", 1:8), sprintf("SW-%02d", 1:8), sprintf("LF-%02d", 1:6),
                sprintf("HT-%02d", 1:6)),
    class = rep(c("excavators", "saws", "lifts", "heaters"), c(8, 8, 6, 6)))
  day <- as.Date("2024-01-03") + sort(sample(0:909, n, TRUE))
  day[c(1, n)] <- as.Date(c("2024-01-03", "2026-06-30"))
  days <- sample(1:14, n, TRUE)
  lines <- data.frame(
    hire_no = sprintf("H%05d", sort(sample(1:1500, n, TRUE))), out_date = day,
    depot = sample(c("Eskholme", "Fellgate", "Cragwell"), n, TRUE, c(5, 3, 2)),
    machine = sample(machines$machine, n, TRUE),
    customer = customers$customer[pmin(120, 1 + floor(stats::rexp(n, 1 / 30)))], days = days,
    charge = round(days * stats::runif(n, 15, 90), 2),
    damage = ifelse(stats::runif(n) < .05, round(stats::runif(n, 20, 400), 2), 0))
  ll_book(lines, fields = list(hire_no = "identifier", machine = "dimension"),
          registers = list(customer = customers, machine = machines), order = "hire_no",
          metrics = list(takings = list(is = "sum(charge)", unit = "money"),
                         hire_days = "sum(days)", hires = "distinct(hire_no)",
                         average_hire = list(is = "takings / hires", unit = "money"),
                         damage_rate = list(is = "sum(damage) / takings", unit = "percent",
                                            better = "low")),
          title = "Tarnside Tool Hire")
}

# A printing house: estimators, towns, kinds of paper; no registers.
print_book <- local({
  book <- NULL
  function() {
    if (is.null(book)) book <<- make_print_book()
    book
  }
})

make_print_book <- function() {
  withr::local_seed(12)
  n <- 2500
  clients <- c("Alder Theatre", paste(
    sample(c("Beck", "Corrie", "Dell", "Elm", "Ford"), 90, TRUE),
    sample(c("School", "Brewery", "Museum", "Dental", "Choir"), 90, TRUE), "of",
    sample(LETTERS, 90, TRUE)))
  day <- as.Date("2023-05-02") + sort(sample(0:1053, n, TRUE))
  day[c(1, n)] <- as.Date(c("2023-05-02", "2026-03-20"))
  price <- round(stats::rlnorm(n, 5.5, .8), 2)
  lines <- data.frame(
    job_no = sprintf("J%05d", sort(sample(1:1800, n, TRUE))), job_date = day,
    client = sample(clients, n, TRUE),
    estimator = sample(c("Ada Finch", "Bruno Leck", "Cora Dunmore", "Denis Marl", "Edith Finch"), n,
                       TRUE),
    town = sample(c("Harwick", "Stonebeck", "Little Orme", "Great Orme"), n, TRUE),
    paper = sample(c("gloss", "silk", "uncoated", "recycled", "card"), n, TRUE),
    product = sample(c("brochures", "posters", "booklets", "cards"), n, TRUE),
    sheets_printed = sample(100:5000, n, TRUE), price = price,
    paper_cost = round(price * stats::runif(n, .3, .7), 2))
  lines$price[sample(n, 20)] <- -50
  ll_book(lines, fields = list(job_no = "identifier"), order = "job_no", people = "estimator",
          metrics = list(sales = list(is = "sum(price)", unit = "money"),
                         gross_profit = list(is = "sales - sum(paper_cost)", unit = "money"),
                         profit_share = list(is = "gross_profit / sales", unit = "percent"),
                         jobs = "distinct(job_no)",
                         average_job = list(is = "sales / jobs", unit = "money"),
                         sheets = "sum(sheets_printed)"),
          title = "Quoin and Bodkin")
}

# The questions of a file: kind, question, expected; away: those put away until the end.
ask_questions <- function(name) {
  text <- readLines(test_path("ask", paste0(name, ".txt")))
  text <- text[grepl("=>", text, fixed = TRUE) & !startsWith(text, "#")]
  first <- regmatches(text, regexpr(" : ", text, fixed = TRUE), invert = TRUE)
  kind <- vapply(first, `[`, "", 1)
  rest <- vapply(first, `[`, "", 2)
  at <- regexpr(" => ", rest, fixed = TRUE)
  question <- substr(rest, 1, at - 1)
  sums <- vapply(question, function(one) sum(utf8ToInt(one) * seq_len(nchar(one))) %% 3, 0)
  data.frame(kind = kind, question = question, expected = substring(rest, at + 4),
             away = unname(sums == 0))
}

# What came of a question: right, back (a question back), refused, wrong.
ask_outcome <- function(book, question, expected) {
  got <- tryCatch(internal("ask_read")(book, question), ll_error_question = identity)
  wanted <- trimws(strsplit(expected, "||", fixed = TRUE)[[1]])
  if (inherits(got, "condition")) {
    said <- conditionMessage(got)
    if (any(wanted %in% c("?", "!"))) return(list(outcome = "right", got = said))
    return(list(outcome = if (length(got$choices)) "back" else "refused", got = said))
  }
  mine <- comparable_call(book, got$study, got$args)
  hit <- vapply(setdiff(wanted, c("?", "!")), function(one) {
    call <- call_of_words(one)
    identical(comparable_call(book, call$study, call$args), mine)
  }, NA)
  list(outcome = if (any(hit)) "right" else "wrong",
       got = internal("call_command")(got$study, internal("check_args")(
         internal("declaration_of")(got$study), got$args)))
}

# An expected call, metrics of the question's own as name=formula.
call_of_words <- function(text) {
  words <- scan(text = text, what = "", quote = "'", quiet = TRUE)
  declared <- internal("declaration_of")(words[1])
  read <- internal("read_words")(declared, words[-1], internal("common_options")(), most = 0)
  args <- unclass(internal("study_args")(declared, read$options))
  for (name in internal("metric_args")(declared)) if (!is.null(args[[name]]))
    args[[name]] <- internal("typed_value")(gsub("(?<=[a-z])_(?=[A-Z a-z]+\")", " ", args[[name]],
                                                 perl = TRUE), list(type = "metrics"))
  list(study = words[1], args = args)
}

# A call in one form: defaults out, periods as days, conditions and formulas as trees read again,
# conditions joined by & in one order.
comparable_call <- function(book, study, args) {
  declared <- internal("declaration_of")(study)
  args <- internal("asked_args")(study, args)
  if (!is.null(book$date)) {
    dates <- internal("book_dates")(book, "when")
    for (name in names(args)) if (declared$args[[name]]$type == "period") {
      text <- args[[name]]
      if (text %in% c("previous", "year before")) next
      p <- internal("read_period")(text, dates)
      args[[name]] <- paste(p$from, p$to)
    }
  }
  if (!is.null(args$where)) args$where <- comparable_condition(args$where)
  first <- names(book$metrics)[1]
  if (identical(args$metrics, first)) args$metrics <- NULL
  if (!is.null(names(args$metrics))) {
    own <- nzchar(names(args$metrics))
    args$metrics[own] <- vapply(args$metrics[own], function(one) {
      internal("tree_text")(internal("read_metric")(one, "metric"))
    }, "")
    names(args$metrics) <- NULL
  }
  if (!is.null(args$sets)) args$sets <- vapply(args$sets, function(one) {
    comparable_set(book, one)
  }, "", USE.NAMES = FALSE)
  list(study = study, args = args[order(names(args))])
}

comparable_condition <- function(text) {
  tree <- internal("read_condition")(text)
  parts <- function(t) if (t$kind == "logic" && t$op == "&") unlist(lapply(t$args, parts)) else
    internal("tree_text")(t)
  sort(unname(parts(tree)))
}

comparable_set <- function(book, text) {
  dates <- if (!is.null(book$date)) internal("book_dates")(book, "when")
  walk <- function(t) {
    if (t$kind == "joined")
      return(paste0("(", paste(vapply(t$args, walk, ""), collapse = t$op), ")"))
    when <- if (!is.null(t$when) && !is.null(dates)) {
      p <- internal("read_period")(t$when, dates)
      paste(p$from, p$to)
    }
    where <- if (!is.null(t$where)) paste(comparable_condition(internal("tree_text")(t$where)),
                                          collapse = " & ")
    t$when <- t$where <- NULL
    if (identical(t$kind, "active") && is.null(when)) when <- "all"
    paste(t$kind, t$op, if (!is.null(t$metric)) internal("tree_text")(t$metric),
          if (!is.null(t$value)) internal("tree_text")(t$value), when, where)
  }
  walk(internal("read_set")(text, "sets"))
}

random_call <- function(book) {
  declared <- internal("declarations")()[[sample(length(internal("declarations")()), 1)]]
  dims <- c("account", "item", "rep", "territory", "channel", "type", "family", "team")
  metrics <- names(book$metrics)
  names_of <- function(field) internal("known_names")(book, field)
  some <- function(x, n = 1) x[sample(length(x), min(n, length(x)))]
  period <- function() some(c("2025", "2026-Q2", "2026-04", "2026-04-01/2026-06-30", "last quarter",
                              "this year to date", "last 90 days", "FY2026", "FY2026-Q1", "all",
                              "last 12 months", "2026-W14", "2026-04-01", "FY2025-P03"))
  condition <- function() {
    field <- some(setdiff(dims, c("account", "item")))
    some(c(paste0(field, " == ", encodeString(some(names_of(field)), quote = "\"")), "net > 100",
           "!(quantity < 0)", paste0("channel != \"web\" & ", field, " %in% c(",
                                     paste(encodeString(some(names_of(field), 2), quote = "\""),
                                           collapse = ", "), ")"),
           "contains(item, \"HV\")"))
  }
  each <- some(dims)
  value <- function(name, spec) {
    switch(name, each = return(if (sample(8, 1) == 1) some(dims, 2) else each),
           name = , names = return(some(names_of(each), if (declared$name == "versus") 3 else 1)),
           rows = , columns = , by = , within = , product = , not_by = , path = , like =
             return(some(dims, if (sample(5, 1) == 1) 2 else 1)),
           old = , new = return(some(names_of("item"), 2)), low = , tie_break =
             return(some(metrics)),
           sets = return(some(c("active(\"2025\") - active(\"2026\")",
                                "old=having(revenue > 5000, when = \"2025\")"), 1)),
           listed = return("old"), sort_by = , column = return("net"),
           with_fields = return(some(c("contact", "rep", "type"), 2)), plan = return("quota"),
           against = return(some(c("year before", "previous", "2024"))))
    switch(spec$type, words = some(dims, 2), period = period(), condition = condition(),
           metrics = if (sample(6, 1) == 1) c(rise = "growth(revenue)") else some(metrics,
                                                                                  sample(3, 1)),
           whole = max(spec$from %||% 1, sample(60, 1)), number = round(stats::runif(
             1, max(spec$from %||% 0, 0), min(spec$to %||% 50, 50)), 3),
           choice = some(spec$choices), flag = TRUE, text = "net", level = some(c("mean", "400")),
           shares = some(c("80%", "20%,95%")), percents = "50%,100%", bounds =
             "Copper=0,Brass=5000", steps = "0=1%,1000=2%", values = "3,2,1", plan = "quota",
           sets = "active(\"2025\")")
  }
  args <- list()
  for (name in names(declared$args)) {
    spec <- declared$args[[name]]
    if (spec$required || sample(3, 1) == 1) args[[name]] <- value(name, spec)
  }
  checked <- tryCatch(internal("check_args")(declared, args), ll_error = function(e) NULL)
  if (is.null(checked)) random_call(book) else
    list(study = declared$name, args = internal("telling_args")(declared, checked))
}
