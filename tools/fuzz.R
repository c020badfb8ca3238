# Throws random input of many kinds at the package and tells what came back other than an answer
# whose proof holds or a message of ours. Seeded: the same seed gives the same cases.
#
#   Rscript tools/fuzz.R [SECONDS] [SEED] [CLASS...]
#
# Each class draws a case, asks, and gives back what is wrong, or nothing. The last line tells how
# many of each were tried; the status is 1 where anything was wrong. A failure is told with its seed:
# `Rscript tools/fuzz.R 0 SEED CLASS` draws that case again.
suppressPackageStartupMessages(library(longladder))
options(warn = 1, width = 200, longladder.strict = TRUE)

given <- commandArgs(TRUE)
seconds <- if (length(given) > 0) as.numeric(given[1]) else 120
first_seed <- if (length(given) > 1) as.numeric(given[2]) else as.integer(Sys.time()) %% 1e6 * 1000
wanted <- given[-(1:2)]
for (helper in c("helper-shapes.R", "helper-shapes-beside.R"))
  source(file.path("tests/testthat", helper), encoding = "UTF-8")
scratch <- tempfile("fuzz-")
dir.create(scratch)

pick <- function(x) x[[sample.int(length(x), 1)]]
some <- function(x, most = 3) x[sample.int(length(x), min(sample.int(most, 1), length(x)))]
chance <- function(p) stats::runif(1) < p

odd_texts <- c("", " ", "NA", "NULL", "TRUE", "0", "-1", "1e400", "1e308", "NaN", "Inf", "-0",
               "1,5", "0x10", "2026", "2026-Q2", "9999-Q4", "last 0 days", "`", "'", "\"", "\\",
               "%s", "%", "$(id)", "`r 1`", "a\nb", "a\tb", "\033[31m", "\u00fc", "\U1F41D",
               "\u202e", "\ufffe", "it", "per", "all", "total", "(none)", "other", "; DROP TABLE x",
               "../x", "~", "*", "?", "[", "{}", "null", "yes", ":", "a=b", "=", "--x", "-")

fields <- c("order_no", "day", "rep", "area", "qty", "net", "size", "team")

lines_drawn <- function(n = pick(c(1, 2, 7, 40, 150))) {
  data.frame(order_no = paste0("N", sample(max(n %/% 2, 1), n, TRUE)),
             day = as.Date("2025-01-01") + sample(400, n, TRUE),
             rep = sample(c("Ann", "Bo", "Cy", NA, "(none)", "total"), n, TRUE),
             area = sample(c("x", "y", NA, "\u00e4 b"), n, TRUE),
             qty = sample(c(-2:6, NA), n, TRUE), net = sample(c(round(stats::rnorm(n, 50, 80), 2),
                                                                NA, 0), n, TRUE))
}

plain_book <- function(lines = lines_drawn(150)) {
  ll_book(lines, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)",
                             average = "revenue / orders"),
          fields = list(size = list(is = "qty * 2")), date = "day", order = "order_no",
          registers = list(rep = data.frame(rep = c("Ann", "Bo", "Cy", "Di"),
                                            team = c("a", "b", NA, "a"))))
}

own_book <- local({
  book <- NULL
  function() {
    if (is.null(book)) book <<- withr_seed(1, plain_book())
    book
  }
})

withr_seed <- function(seed, code) {
  old <- get0(".Random.seed", globalenv())
  set.seed(seed)
  on.exit(if (!is.null(old)) assign(".Random.seed", old, globalenv()))
  force(code)
}

# What is wrong with how a call ended: an error of R's own, a warning, a proof that does not hold, a
# message that would steer a terminal.
outcome <- function(call) {
  warned <- NULL
  value <- tryCatch(withCallingHandlers(call(), warning = function(w) {
    warned <<- conditionMessage(w)
    invokeRestart("muffleWarning")
  }), error = identity)
  if (inherits(value, "ll_error")) return(message_trouble(conditionMessage(value)))
  if (inherits(value, "error")) return(paste("raw error:", substr(conditionMessage(value), 1, 300)))
  if (length(warned)) return(paste("warning:", substr(warned, 1, 300)))
  if (inherits(value, "ll_result")) result_trouble(value)
}

steers <- "[\u0001-\u0008\u000b-\u001f\u007f\u009b\u202a-\u202e\u2066-\u2069]"

message_trouble <- function(text) {
  if (!validUTF8(text) || grepl(steers, text)) return(paste("steers a terminal:",
                                                            encodeString(substr(text, 1, 300))))
  if (grepl("subscript|argument is of length zero|object '.*' not found|non-numeric|C stack|invalid '|missing value where", text))
    paste("words of R's:", substr(text, 1, 300))
}

result_trouble <- function(x) {
  if (!all(ll_proof(x)$holds)) return(paste("proof does not hold:",
                                            ll_proof(x)$check[!ll_proof(x)$holds][1]))
  text <- c(ll_finding(x), ll_reading(x), ll_notes(x)$text)
  # Names that look like these are drawn for what is saved.
  if (anyNA(text) || !any(odd_texts %in% c(unlist(x), longladder:::facts(x)$book$fields$name)) &&
      any(grepl("\\bNA\\b|NULL|Inf\\b|NaN", gsub("'[^']*'|\\([^)]*\\)", "", text))))
    return(paste("says:", substr(paste(text, collapse = " / "), 1, 300)))
  message_trouble(paste(format(x, width = 120), collapse = "\n"))
}

# Text by a grammar, some of it broken afterwards.
words <- c(fields, "revenue", "orders", "nobody", "it", "sum", "mean", "count", "distinct",
           "median", "min", "max", "quantile", "per", "ifelse", "abs", "pmin", "is.na", "contains",
           "startsWith", "between", "year", "month", "weekday", "hour", "change", "growth", "as_of",
           "c", "system", "x")
marks <- c("(", ")", ",", "+", "-", "*", "/", "==", "!=", "<", ">=", "&", "|", "!", "%in%", "[",
           "]", "\"Ann\"", "'x'", "1", "2.5", "1e5", "`net`", "~", ":", "$", "{", "}", "<-",
           "function", "if", "\n", ";", "#", "@", "::", "^", "?", "=", "NULL", "TRUE", "NA", "Inf",
           "\"2025-03-01\"")

grown_row <- function(deep) {
  if (deep == 0) return(pick(c("net", "qty", "size", "1", "2.5", "-3", "day", "rep", "as_of()")))
  one <- function() grown_row(deep - 1)
  switch(sample(7, 1), paste(one(), pick(c("+", "-", "*", "/")), one()), paste0("(", one(), ")"),
         paste0("abs(", one(), ")"), paste0(pick(c("pmin", "pmax")), "(", one(), ", ", one(), ")"),
         paste0("ifelse(", grown_condition(deep - 1), ", ", one(), ", ", one(), ")"),
         paste0(pick(c("year", "month", "weekday", "week", "quarter")), "(", one(), ")"), one())
}

grown_condition <- function(deep) {
  if (deep == 0) return(pick(c("net > 10", "rep == \"Ann\"", "is.na(area)", "qty %in% c(1, 2)",
                               "contains(rep, \"n\")", "day >= \"2025-06-01\"", "area != \"\"",
                               "team == \"a\"")))
  one <- function() grown_condition(deep - 1)
  switch(sample(6, 1), paste(one(), pick(c("&", "|")), one()), paste0("!(", one(), ")"),
         paste(grown_row(deep - 1), pick(c("==", "<", ">=", "!=")), grown_row(deep - 1)),
         paste0("between(", grown_row(deep - 1), ", ", grown_row(0), ", ", grown_row(0), ")"),
         paste0(grown_row(0), " %in% ", pick(c("c(1, 2)", "c(\"a\")", "saved", "1"))), one())
}

grown_metric <- function(deep) {
  if (deep == 0 || chance(.5)) {
    where <- if (chance(.3)) paste0("[", grown_condition(1), "]") else ""
    inner <- if (chance(.2)) paste0("per(", pick(c("order_no", "rep", "day")), ", ",
                                    grown_metric(0), ")") else grown_row(sample(0:2, 1))
    return(switch(sample(4, 1), "count()", "revenue", paste0("quantile(", inner, where, ", ",
                                                             pick(c("0.5", "0.9", "2", "net")),
                                                             ")"),
                  paste0(pick(c("sum", "mean", "min", "max", "median", "sd", "distinct", "count")),
                         "(", inner, where, ")")))
  }
  one <- function() grown_metric(deep - 1)
  switch(sample(3, 1), paste(one(), pick(c("+", "-", "*", "/")), one()), paste0("(", one(), ")"),
         paste0(pick(c("change", "growth", "abs")), "(", one(), ")"))
}

broken_text <- function(text) {
  if (chance(.5) || !nzchar(text)) return(text)
  signs <- strsplit(text, "")[[1]]
  at <- sample.int(length(signs), 1)
  switch(sample(5, 1), paste(signs[-at], collapse = ""),
         paste(append(signs, pick(c(marks, odd_texts)), at), collapse = ""),
         paste(rev(signs), collapse = ""), paste0(text, pick(c(marks, odd_texts))),
         paste(signs[seq_len(at)], collapse = ""))
}

soup <- function() paste(sample(c(words, marks, odd_texts), sample(8, 1), TRUE),
                         collapse = pick(c("", " ")))

any_value <- function(deep = 2) {
  switch(sample(22, 1), NULL, NA, NA_character_, character(), list(), pick(odd_texts),
         some(odd_texts), stats::rnorm(1), 1e300, -1L, NaN, Inf, TRUE, function(x) x, quote(x + 1),
         ~ sum(net), as.Date("2026-01-01"), factor("a"), data.frame(a = 1), new.env(),
         if (deep) lapply(1:2, function(i) any_value(deep - 1)) else 1,
         stats::setNames(list(pick(odd_texts), 1), c(pick(odd_texts), "")))
}

studies <- setdiff(names(longladder:::declarations()), "check")

# Arguments that a study could be asked with; `odd` of them are anything.
drawn_args <- function(study, odd = .15) {
  args <- longladder:::declaration_of(study)$args
  args <- args[vapply(args, `[[`, NA, "required") | stats::runif(length(args)) < .25]
  out <- lapply(names(args), function(name) if (chance(odd)) any_value() else
                plain_value(name, args[[name]]))
  stats::setNames(out, names(args))
}

plain_value <- function(name, spec) {
  switch(spec$type, words = switch(name, names = c("Ann", "Bo"), sort = "revenue",
                                   some(c("rep", "area", "team", "order_no"), 2)),
         metrics = some(c("revenue", "orders", "average"), 2),
         condition = grown_condition(sample(0:2, 1)), period = drawn_period(),
         whole = pick(c(1, 2, 3, 10, 1000)), number = pick(c(0, .5, 1, 100)),
         choice = if (length(spec$choices)) pick(spec$choices) else "rep",
         flag = pick(c(TRUE, FALSE)), text = pick(c("rep", "area", "Ann", "net", "2025", "month")),
         shares = pick(list("80%", c("50%", "80%"))), percents = "5%",
         bounds = pick(list("A=0,B=100", c(A = 0, B = 100))), steps = "0,100,1000",
         sets = c(a = "active(\"2025\")", b = "bought(rep == \"Ann\")"), values = c(1, 2),
         level = .9, pick(odd_texts))
}

drawn_period <- function() {
  switch(sample(8, 1), pick(c("2025", "2026-Q1", "2025-03", "all", "last month", "last 90 days",
                              "this year to date", "2025-W14", "FY2025-Q2", "last fiscal year")),
         sprintf("%04d-Q%d", sample(0:9999, 1), sample(0:5, 1)),
         sprintf("last %d %s", sample(0:99999, 1), pick(c("days", "weeks", "months", "years",
                                                          "quarters", "fiscal years"))),
         sprintf("%04d-%02d-%02d/%04d-%02d-%02d", sample(0:9999, 1), sample(0:13, 1),
                 sample(0:32, 1), sample(0:9999, 1), sample(0:13, 1), sample(0:32, 1)),
         broken_text("this quarter to date"), pick(odd_texts),
         sprintf("FY%d-P%02d", sample(c(0:20, 2025), 1), sample(0:14, 1)),
         paste0(strrep(" ", sample(0:200, 1)), "last", strrep("\t", 3), "year"))
}

call_study <- function(study, book, args) {
  do.call(get(paste0("ll_", study), asNamespace("longladder")), c(list(book), args), quote = TRUE)
}

command_status <- function(args) {
  err <- utils::capture.output(out <- utils::capture.output(status <- ll_main(args)),
                               type = "message")
  text <- paste(c(err, out), collapse = "\n")
  if (!status %in% c(0, 2) || grepl("should not",
                                    text)) return(paste("status", status, substr(text, 1, 300)))
  if (grepl("^note: ", text) && grepl("coerc|length",
                                      text)) return(paste("warning:", substr(text, 1, 300)))
  if (status == 2 && !any(nzchar(err))) return("status 2 without a word")
  message_trouble(paste(err, collapse = "\n"))
}

classes <- list(
  formula = function() {
    formula <- if (chance(.2)) soup() else broken_text(grown_metric(sample(0:2, 1)))
    list(case = formula, ask = function() call_study("standings", own_book(),
                                                     list(each = "rep", metrics = c(m = formula),
                                                          when = "2025",
                                                          against = pick(list(NULL,
                                                                              "year before")))))
  },
  condition = function() {
    condition <- if (chance(.2)) soup() else broken_text(grown_condition(sample(0:3, 1)))
    list(case = condition, ask = function() call_study("standings", own_book(),
                                                       list(each = pick(c("rep", "area")),
                                                            where = condition)))
  },
  field = function() {
    formula <- if (chance(.2)) soup() else broken_text(grown_row(sample(0:3, 1)))
    list(case = formula, ask = function() ll_check(ll_book(lines_drawn(20),
                                                           fields = list(made = list(is = formula)),
                                                           metrics = c(m = "sum(net)"))))
  },
  period = function() {
    when <- drawn_period()
    against <- pick(list(NULL, "year before", "previous", drawn_period()))
    list(case = c(when, against), ask = function() call_study("standings", own_book(),
                                                              list(each = "rep", when = when,
                                                                   against = against)))
  },
  study = function() {
    study <- pick(studies)
    args <- drawn_args(study)
    list(case = c(study, args), ask = function() call_study(study, own_book(), args))
  },
  figure = function() {
    study <- pick(setdiff(studies, "detail"))
    args <- drawn_args(study, .02)
    list(case = c(study, args), ask = function() {
      x <- call_study(study, own_book(), args)
      ggplot2::ggplotGrob(ggplot2::autoplot(x))
      x
    })
  },
  lines = function() {
    lines <- odd_frame()
    # A line at the foot that is called a total is none of these lines.
    if (nrow(lines) && length(lines) > 2 && lines[[3]][nrow(lines)] %in%
        "total") lines[[3]][nrow(lines)] <- "Ann"
    study <- pick(c("standings", "trend", "pareto", "distribution", "crosstab", "check", "cohorts",
                    "detail"))
    list(case = lines, ask = function() {
      book <- ll_book(lines, metrics = c(m = "sum(net)", n = "count()"))
      if (study == "standings") sums_differ(book, lines)
      call_study(study, book, if (study == "check") list() else drawn_args(study, 0))
    })
  },
  exports = function() {
    one <- draw_shape()
    list(case = one$style, trouble = function() shape_trouble(one, write_shape(one, scratch)))
  },
  beside = function() {
    one <- draw_beside()
    list(case = one$style, trouble = function() beside_trouble(one, scratch))
  },
  open = function() {
    given <- stats::setNames(lapply(1:2, function(i) any_value()),
                             sample(setdiff(names(formals(ll_book)), c("lines", "table", "query")),
                                    2))
    if (chance(.2)) given$lines <- any_value() else given$lines <- lines_drawn(20)
    list(case = given, ask = function() do.call(ll_book, given, quote = TRUE))
  },
  options = function() {
    args <- drawn_command()
    list(case = args, trouble = function() command_status(args))
  },
  brief = function() {
    text <- broken_brief()
    file <- file.path(scratch, "brief.yml")
    list(case = text, trouble = function() {
      writeLines(text, file, useBytes = TRUE)
      command_status(c(pick(list("standings", "check", c("trend", "--quiet"))), "--brief", file))
    })
  },
  csv = function() {
    file <- file.path(scratch, "bytes.csv")
    bytes <- broken_bytes()
    writeBin(bytes, file)
    list(case = bytes, trouble = function() command_status(c("check", file)))
  },
  table = function() {
    drawn <- written_table()
    list(case = drawn[c("how", "lines")], trouble = function() table_trouble(drawn))
  },
  lost = function() {
    study <- pick(studies)
    args <- drawn_args(study, 0)
    at <- sample(12, 1)
    list(case = list(at = at, study, args), ask = function() {
      con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
      on.exit(if (DBI::dbIsValid(con)) DBI::dbDisconnect(con))
      lines <- withr_seed(1, lines_drawn(150))
      lines$day <- as.character(lines$day)
      DBI::dbWriteTable(con, "sold", lines)
      at_call("fetch_answer", at, function(real) {
        DBI::dbDisconnect(con)
        real()
      }, call_study(study, plain_book(list(connect = con, table = "sold")), args))
    })
  },
  growing = function() {
    study <- pick(studies)
    args <- drawn_args(study, 0)
    at <- sample(6, 1)
    list(case = list(at = at, study, args), trouble = function() growing_trouble(study, args, at))
  },
  kept = function() {
    drawn <- list(n = pick(c(1, 40, 150, 3000)), file = stats::runif(1), at = stats::runif(4),
                  how = pick(c("bit", "bit", "bit", "byte", "zeros", "cut", "more", "none", "swap")))
    # While it is mapped a file may be cut short; what is written into it then is read as it stands.
    drawn$mapped <- drawn$how == "cut" && chance(.5)
    list(case = drawn, trouble = function() kept_trouble(drawn))
  },
  fault = function() {
    drawn <- list(kind = if (chance(.1)) "run" else pick(c("csv", "json", "xlsx", "parquet", "svg",
                                                           "pdf")), at = sample(6, 1),
                  what = pick(c("kernel_write", "kernel_settle", "move_file", "damage")))
    list(case = drawn, trouble = function() fault_trouble(drawn))
  },
  saved = function() {
    lines <- lines_drawn(40)
    lines$rep <- sample(c(odd_texts, NA), 40, TRUE)
    names(lines)[4] <- if (chance(.3)) pick(setdiff(odd_texts, c("", " "))) else "area"
    list(case = lines, trouble = function() saved_trouble(lines))
  })

odd_frame <- function() {
  lines <- lines_drawn()
  n <- nrow(lines)
  for (i in seq_len(sample(0:2, 1))) {
    at <- sample.int(6, 1)
    lines[[at]] <- switch(sample(14, 1), rep(NA, n), rep(pick(odd_texts), n),
                          factor(sample(letters, n, TRUE)), stats::rnorm(n) * 10^sample(-5:15, 1),
                          as.POSIXct("2026-01-01", tz = "UTC") + seq_len(n),
                          sample(c(TRUE, FALSE, NA), n, TRUE), I(as.list(seq_len(n))),
                          complex(n, 1, 1), sample(c(odd_texts, NA), n, TRUE),
                          as.raw(rep_len(1:255, n)), seq_len(n) - .5, rep(.Machine$integer.max, n),
                          sample(c(1, NaN, Inf, NA), n, TRUE),
                          as.difftime(seq_len(n), units = "days"))
  }
  if (chance(.1)) names(lines)[sample.int(6, 1)] <- pick(c("rep", NA, odd_texts))
  if (chance(.05)) lines <- lines[0, ]
  if (chance(.05)) lines <- lines[1]
  lines
}

# Base R's sums by rep against ours.
sums_differ <- function(book, lines) {
  ours <- as.data.frame(ll_standings(book, "rep", metrics = "m", no_lines = FALSE))
  own <- tapply(as.numeric(lines$net), factor(ifelse(is.na(lines$rep), NA,
                                                     as.character(lines$rep))),
                function(x) if (all(is.na(x))) NA else sum(x, na.rm = TRUE))
  own <- own[!is.na(own) & nzchar(trimws(names(own)))]
  ours <- ours[!is.na(ours$m) & !is.na(ours$rank), ]
  if (nrow(ours) != length(own) || any(abs(sort(ours$m) - sort(unname(own))) > 1e-7 *
                                       pmax(1, abs(sort(ours$m))))) stop("sums differ from base R's")
}

drawn_command <- function() {
  study <- pick(c(names(longladder:::declarations()), "sql", "draft", "run", "schema",
                  pick(odd_texts)))
  specs <- c(if (study %in%
                 names(longladder:::declarations())) longladder:::declaration_of(study)$args,
             longladder:::common_options())
  specs <- specs[setdiff(names(specs), c("out", "log", "help", "connect", "brief"))]
  given <- unlist(lapply(some(names(specs), 5), function(name) {
    spec <- specs[[name]]
    option <- paste0("--", if (chance(.05)) broken_text(name) else gsub("_", "-", name))
    if (spec$type == "flag" && chance(.9)) return(option)
    value <- if (chance(.4)) pick(odd_texts) else
      paste(unlist(lapply(plain_value(name, spec), as.character)), collapse = ",")
    if (chance(.5)) c(option, value) else paste0(option, "=", value)
  }))
  file <- if (study == "run") c("--out", file.path(scratch, "no", "such")) else
    if (chance(.9)) file.path(scratch, pick(c("plain.csv", paste0("tiny", 1:8, ".csv"))))
  c(study, file, given)
}

broken_brief <- function() {
  text <- c("title: Fuzz", "lines: plain.csv", "date: day", "order: order_no", "fields:",
            "  size: {is: 'qty * 2'}", "  net: {role: measure}",
            "registers: {rep: {file: reps.csv, key: rep}}", "metrics:",
            "  revenue: {is: sum(net), unit: money}", "  big: 'count(net[net > floor])'",
            "parameters: {floor: 20}",
            "bands: {tier: {of: net, from: [0, 50], labels: [low, high]}}",
            "calendar: {fiscal_start: april}", "exclude: 'net == 0'", "control: {revenue: 1}",
            "pages:", "  reps: {study: standings, each: rep, top: 2}",
            "  months: {study: trend, metrics: [revenue]}")
  for (i in seq_len(sample(3, 1))) {
    at <- sample.int(length(text), 1)
    text <- switch(sample(7, 1), text[-at], append(text, text[pick(seq_along(text))], at),
                   { text[at] <- broken_text(text[at]); text },
                   { text[at] <- sub(":.*", paste0(": ",
                                                   pick(c(odd_texts, "[1, [2]]", "{a: {b: c}}",
                                                          "[]", "{}", "!!binary x", "&a *a",
                                                          "!expr 1", "|", "- 1"))),
                                     text[at]); text }, { text[at] <-
                                       sub("[a-z]+(?=[:,}])", pick(odd_texts), text[at],
                                           perl = TRUE); text },
                   { text[at] <- paste0("  ", text[at]); text }, sample(text))
  }
  text
}

broken_bytes <- function() {
  lines <- lines_drawn(pick(c(1, 5, 60)))
  text <- utils::capture.output(utils::write.table(lines, sep = pick(c(",", ";", "\t", "|")),
                                                   row.names = FALSE, quote = chance(.5), na = ""))
  bytes <- charToRaw(paste0(text, pick(c("\n", "\r\n", "\r")), collapse = ""))
  if (chance(.1)) bytes <- unlist(iconv(rawToChar(bytes), "UTF-8", pick(c("UTF-16", "latin1")),
                                        toRaw = TRUE))
  for (i in seq_len(sample(0:4, 1))) {
    at <- sample.int(length(bytes), 1)
    bytes <- switch(sample(6, 1), bytes[-at], append(bytes,
                                                     as.raw(sample(0:255, sample(4, 1), TRUE)), at),
                    { bytes[at] <- as.raw(sample(0:255, 1)); bytes }, bytes[seq_len(at)],
                    append(bytes, bytes[seq(at, min(at + 20, length(bytes)))], pick(c(0, at))),
                    append(bytes, charToRaw(pick(c("\"", "\n", ",", "\r", "\"\"", "\ufeff",
                                                   "Total;", "1.234,5", "=1+1"))), at))
    if (!length(bytes)) break
  }
  bytes
}

# A table with hard names in one of the ways in which tables are written, for a reader that is not ours.
hard_names <- c("O\"Brien", "a,b", "x;y", "new\nline", "two\n\nlines", " lead", "=1+1",
                "\u00fc\u00e9", "tab\there", "it's", "a\\b", "100%", "# no", "'q'", "|", "\"\"",
                "\"", "a\"", "7", "1,5")

written_table <- function() {
  n <- pick(c(1, 3, 30, 200))
  lines <- data.frame(no = paste0("N", seq_len(n)), rep = sample(hard_names, n, TRUE),
                      net = round(stats::rnorm(n, 50, 80), pick(c(0, 1, 2, 4))),
                      qty = sample(9, n, TRUE))
  lines$net[sample.int(n, n %/% 9)] <- NA
  # One number such as 1.234 alone could be read two ways, which is refused.
  lines$net[1] <- 12.5
  how <- list(sep = pick(c(",", ";", "\t", "|")), eol = pick(c("\n", "\r\n")),
              encoding = pick(c("UTF-8", "UTF-8", "UTF-8-BOM", "latin1", "UTF-16LE")), dec = ".")
  if (how$sep != "," && chance(.3)) how$dec <- ","
  list(lines = lines, how = how)
}

# The names' sums as the independent reader has them, and as they were written.
table_trouble <- function(drawn) {
  file <- file.path(scratch, "table.csv")
  how <- drawn$how
  text <- utils::capture.output(utils::write.table(drawn$lines, sep = how$sep, dec = how$dec,
                                                   row.names = FALSE, qmethod = "double", na = "",
                                                   fileEncoding = ""))
  text <- enc2utf8(paste0(paste(text, collapse = how$eol), how$eol))
  writeBin(if (how$encoding == "UTF-8") charToRaw(text) else
           if (how$encoding == "UTF-8-BOM") c(as.raw(c(0xef, 0xbb, 0xbf)), charToRaw(text)) else
    c(if (how$encoding == "UTF-16LE") as.raw(c(0xff, 0xfe)),
      iconv(text, "UTF-8", how$encoding, toRaw = TRUE)[[1]]), file)
  theirs <- utils::read.table(text = text, sep = how$sep, dec = how$dec, header = TRUE,
                              quote = "\"", comment.char = "", na.strings = "",
                              colClasses = c(rep = "character", no = "character"),
                              encoding = "UTF-8")
  sums <- function(x) {
    x$rep <- trimws(gsub("\r\n", "\n", x$rep))
    x <- x[nzchar(x$rep), ]
    out <- tapply(as.numeric(x$net), x$rep, sum, na.rm = TRUE)
    round(out[order(names(out), method = "radix")], 6)
  }
  book <- ll_book(file, fields = c(no = "identifier", rep = "dimension", net = "measure"),
                  metrics = c(m = "sum(net)", n = "count()"))
  x <- ll_standings(book, "rep", c("n", "m"))
  if (!all(ll_proof(x)$holds)) return("proof does not hold")
  ours <- as.data.frame(x)
  ours$m[is.na(ours$m)] <- 0
  own <- sums(data.frame(rep = ours$rep, net = ours$m))
  want <- sums(drawn$lines)
  if (!identical(sums(theirs),
                 want)) return("the independent reader reads something else than was written")
  beyond <- function(a, b) paste(encodeString(setdiff(names(a), names(b))), collapse = "  ")
  if (!isTRUE(all.equal(own, want))) paste("names or sums differ:", beyond(want, own), "/",
                                           beyond(own, want))
}

# Code during which one call of a function of ours, by its number, is another; `instead` may still make it.
at_call <- function(name, at, instead, code) {
  n <- 0
  real <- get(name, asNamespace("longladder"))
  on.exit(utils::assignInNamespace(name, real, "longladder"))
  utils::assignInNamespace(name, function(...) {
    n <<- n + 1
    if (n == at) instead(function() real(...)) else real(...)
  }, "longladder")
  code
}

# One step of writing fails: the older file is whole, or the newer one, and nothing else is left.
fault_trouble <- function(drawn) {
  folder <- file.path(scratch, "fault")
  unlink(folder, recursive = TRUE)
  dir.create(folder)
  file.copy(file.path(scratch, c("plain.csv", "reps.csv")), folder)
  out <- file.path(folder, if (drawn$kind == "run") "out" else paste0("out.", drawn$kind))
  write <- function(top) {
    if (drawn$kind != "run") return(ll_save(ll_standings(own_book(), "rep", top = top), out))
    writeLines(c("lines: plain.csv", "metrics: {m: sum(net)}", "pages:",
                 paste0("  reps: {study: standings, each: rep, top: ", top, "}")),
               file.path(folder, "b.yml"))
    suppressMessages(ll_run(ll_brief(file.path(folder, "b.yml")), out))
  }
  texts <- function() {
    files <- sort(list.files(folder, recursive = TRUE, all.files = TRUE))
    lapply(stats::setNames(files, files),
           function(file) unname(tools::md5sum(file.path(folder, file))))
  }
  write(1)
  before <- texts()
  came <- FALSE
  value <- tryCatch(at_call(drawn$what, drawn$at, function(real) {
    came <<- TRUE
    if (drawn$what == "move_file") stop("no")
    "No space left on device"
  }, write(2)), error = identity)
  after <- texts()
  if (drawn$kind == "run") before[["b.yml"]] <- after[["b.yml"]] <- ""
  if (!inherits(value, "error")) return(if (came && drawn$what != "damage" &&
                                            identical(before, after)) "a fault passed unsaid")
  if (!inherits(value, "ll_error")) return(paste("raw error:", conditionMessage(value)))
  if (!identical(before, after)) paste("an older file changed, or something is left:",
                                       paste(setdiff(names(after), names(before)), collapse = ", "))
}

# A table that grows between two statements of one answer: it is of the lines before, of those after,
# or a refusal, never of both.
growing_trouble <- function(study, args, at) {
  file <- file.path(scratch, "growing.sqlite")
  unlink(file)
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  beside <- DBI::dbConnect(RSQLite::SQLite(), file)
  on.exit(lapply(list(con, beside), DBI::dbDisconnect))
  lines <- withr_seed(1, lines_drawn(150))
  lines$day <- as.character(lines$day)
  more <- withr_seed(2, lines_drawn(40))
  more$day <- as.character(more$day)
  DBI::dbWriteTable(con, "sold", lines)
  asked <- function(instead = function(real) real()) {
    out <- tryCatch(at_call("fetch_answer", at, instead, call_study(
      study, plain_book(list(connect = con, table = "sold")), args)), error = identity)
    if (inherits(out, "ll_result") && !all(ll_proof(out)$holds)) return("a proof that does not hold")
    if (inherits(out, "ll_error")) return("refused")
    if (inherits(out, "error")) return(paste("raw error:", conditionMessage(out)))
    list(as.data.frame(out), ll_finding(out))
  }
  before <- asked()
  came <- FALSE
  between <- asked(function(real) {
    came <<- TRUE
    DBI::dbWriteTable(beside, "sold", more, append = TRUE)
    real()
  })
  if (identical(between, "refused") || !came) return(NULL)
  if (is.character(between)) return(between)
  if (!identical(between, before) && !identical(between, asked())) "an answer of two states of a table"
}

# A file of a kept book is hurt: the answer is right, from the book opened anew, or a refusal; asked in
# a process of its own, which must not end by a signal.
kept_trouble <- function(drawn) {
  folder <- file.path(scratch, "kept")
  unlink(folder, recursive = TRUE)
  dir.create(folder, mode = "0700")
  old <- Sys.getenv("LONGLADDER_CACHE", NA)
  Sys.setenv(LONGLADDER_CACHE = folder)
  on.exit(if (is.na(old)) Sys.unsetenv("LONGLADDER_CACHE") else Sys.setenv(LONGLADDER_CACHE = old))
  file <- file.path(scratch, "kept.csv")
  lines <- lines_drawn(drawn$n)
  lines$net[1] <- 12.5
  utils::write.csv(lines, file, row.names = FALSE, na = "")
  open <- function(cache = NULL) ll_book(file, metrics = c(revenue = "sum(net)", n = "count()"),
                                         fields = c(net = "measure", rep = "dimension",
                                                    area = "dimension"), cache = cache)
  asked <- function(book) tryCatch({
    lapply(c("rep", "area"), function(each) {
      x <- ll_standings(book, each, c("revenue", "n"))
      list(as.data.frame(x), all(ll_proof(x)$holds))
    })
  }, ll_error = function(e) "refused", error = function(e) paste("raw error:", conditionMessage(e)))
  want <- asked(open(FALSE))
  open(TRUE)
  process <- parallel::mcparallel({
    book <- if (drawn$mapped) open()
    hurt_kept(folder, drawn)
    asked(if (drawn$mapped) book else open())
  }, mc.set.seed = FALSE)
  got <- suppressWarnings(parallel::mccollect(process))[[1]]
  if (is.null(got)) return("the process ended by a signal")
  if (identical(got, "refused")) return(NULL)
  if (is.character(got)) return(got)
  if (inherits(got, "try-error")) return(paste("raw error:", got))
  if (!identical(got, want)) "another table than of the file"
}

hurt_kept <- function(folder, drawn) {
  files <- setdiff(list.files(folder, recursive = TRUE, full.names = TRUE),
                   list.files(folder, "^used$", recursive = TRUE, full.names = TRUE))
  file <- files[ceiling(drawn$file * length(files))]
  bytes <- readBin(file, "raw", 1e7)
  places <- ceiling(drawn$at * length(bytes))
  at <- places[1]
  if (drawn$how == "none") return(unlink(file))
  if (drawn$how == "cut") {
    con <- file(file, "r+b")
    on.exit(close(con))
    seek(con, at %/% 2, rw = "write")
    return(truncate(con))
  }
  if (drawn$how == "more") bytes <- c(bytes, as.raw(0:7))
  else if (length(bytes)) bytes <- switch(
    drawn$how, bit = replace(bytes, at, xor(bytes[at], as.raw(2^(places[2] %% 8)))),
    byte = replace(bytes, at, as.raw(places[2] %% 256)),
    zeros = replace(bytes, seq(at, min(at + 63, length(bytes))), as.raw(0)),
    swap = replace(bytes, places[1:2], bytes[places[2:1]]))
  # In place, as a disk that errs does; a file that is written anew would be another one.
  con <- file(file, "r+b")
  on.exit(close(con))
  writeBin(bytes, con)
}

# A result in every kind of file, read back by readers that are not ours.
saved_trouble <- function(lines) {
  asked <- outcome(function() x <<- ll_standings(ll_book(lines, metrics = c(m = "sum(net)"),
                                                         fields = c(rep = "dimension")), "rep",
                                                 "m"))
  if (length(asked) || !exists("x", globalenv())) return(asked)
  x <- get("x", globalenv())
  rm("x", envir = globalenv())
  table <- as.data.frame(x)
  save <- function(kind) {
    file <- file.path(scratch, paste0("saved.", kind))
    ll_save(x, file)
    file
  }
  same <- function(read, kind, clean = identity) {
    read <- clean(as.character(read))
    own <- clean(table$rep)
    if (!identical(read, own)) paste(kind, "names differ:",
                                     paste(encodeString(own[!own %in% read]), collapse = "|"),
                                     "read as", paste(encodeString(read[!read %in% own]),
                                                      collapse = "|"))
  }
  problems <- c(
    same(jsonlite::fromJSON(save("json"))$rows$rep, "json"),
    same(nanoparquet::read_parquet(save("parquet"))$rep, "parquet"),
    same(unescaped(utils::head(openxlsx::read.xlsx(save("xlsx"), skipEmptyRows = FALSE,
                                                   na.strings = "\u0001none")$rep, nrow(table))),
         "xlsx", function(t) trimws(gsub("\r", "\n", t))),
    same(sub("^'(?=[=+@\t\r-])", "", data.table::fread(save("csv"), na.strings = NULL,
                                                       colClasses = list(character = "rep"),
                                                       data.table = FALSE, strip.white = FALSE)$rep,
             perl = TRUE), "csv",
         function(t) gsub("\"\"", "\"", t)))
  for (kind in c("svg", "xlsx")) {
    folder <- file.path(scratch, "parts")
    unlink(folder, recursive = TRUE)
    parts <- if (kind == "svg") save("svg") else utils::unzip(save("xlsx"), exdir = folder)
    for (part in grep("(svg|xml|rels|vml)$", parts,
                      value = TRUE)) tryCatch(xml2::read_xml(part), error = function(e) {
      problems <<- c(problems, paste(kind, "is no XML:", basename(part), conditionMessage(e)))
    })
  }
  if (chance(.1)) {
    said <- file.path(scratch, "said.txt")
    ll_report(list(page = x), file.path(scratch, "saved.html"))
    rmarkdown::pandoc_convert(file.path(scratch, "saved.html"), "plain", "html", said)
    letters_of <- function(text) gsub("[^A-Za-z0-9]", "", paste(text, collapse = ""))
    if (!grepl(letters_of(ll_finding(x)), letters_of(readLines(said, encoding = "UTF-8",
                                                               warn = FALSE)),
               fixed = TRUE)) problems <- c(problems, "pandoc finds no finding in the report")
  }
  if (length(problems)) problems[1]
}

unescaped <- function(text) {
  hits <- gregexpr("_x([0-9A-Fa-f]{4})_", text)
  regmatches(text, hits) <- lapply(regmatches(text, hits),
                                   function(found) vapply(found, function(f) {
    code <- strtoi(substr(f, 3, 6), 16)
    if (code == 0x5f) "_" else intToUtf8(code)
  }, ""))
  text
}

utils::write.csv(withr_seed(2, lines_drawn(60)), file.path(scratch, "plain.csv"), row.names = FALSE,
                 na = "", fileEncoding = "UTF-8")
# Books of hardly anything: one line, none, no amount, ties everywhere, sums below and at zero, one
# day, one name, nothing but names.
tiny_lines <- withr_seed(3, lines_drawn(7))
for (i in 1:8) {
  lines <- switch(i, tiny_lines[1, ], tiny_lines[0, ], transform(tiny_lines, net = NA),
                  transform(tiny_lines, net = 5, qty = 1), transform(tiny_lines, net = -abs(net)),
                  transform(tiny_lines, net = c(1, -1, 2, -2, 3, -3, 0)),
                  transform(tiny_lines, day = day[1], rep = "Ann"), tiny_lines["rep"])
  utils::write.csv(lines, file.path(scratch, paste0("tiny", i, ".csv")), row.names = FALSE, na = "",
                   fileEncoding = "UTF-8")
}
utils::write.csv(data.frame(rep = c("Ann", "Bo"), team = c("a", "b")),
                 file.path(scratch, "reps.csv"), row.names = FALSE)

chosen <- if (length(wanted)) classes[wanted] else classes
tried <- stats::setNames(numeric(length(chosen)), names(chosen))
failed <- 0
slowest <- list(took = 0)
ends <- Sys.time() + seconds
seed <- first_seed
repeat {
  for (class in names(chosen)) {
    set.seed(seed)
    drawn <- chosen[[class]]()
    began <- Sys.time()
    wrong <- if (is.null(drawn$trouble)) outcome(drawn$ask) else
      tryCatch(drawn$trouble(), error = function(e) paste("raw error:", conditionMessage(e)))
    took <- as.numeric(Sys.time() - began, units = "secs")
    if (took > slowest$took) slowest <- list(took = took, class = class, seed = seed)
    tried[[class]] <- tried[[class]] + 1
    if (length(wrong)) {
      failed <- failed + 1
      if (failed <= as.numeric(Sys.getenv("FUZZ_SHOWN",
                                          "20"))) cat(sprintf("%s, seed %d: %s\n  case: %s\n",
                                                              class, seed, encodeString(wrong),
                                                              substr(encodeString(paste(deparse(drawn$case), collapse = " ")), 1, 400)))
    }
    if (seconds > 0 && Sys.time() > ends) break
  }
  seed <- seed + 1
  if (seconds == 0 || Sys.time() > ends) break
}
unlink(scratch, recursive = TRUE)
cat(sprintf("slowest case: %.1f s (%s, seed %d)\n", slowest$took, slowest$class, slowest$seed))
cat("fuzz:", paste(names(tried), tried, collapse = ", "),
    sprintf("cases from seed %d on, %d failed\n", first_seed, failed))
quit(status = if (failed) 1 else 0)
