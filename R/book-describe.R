# What the columns of lines are and hold: dates read, fixes made, roles; and what
# is left to the person.

# The rows of the field table for the lines, and the columns with dates read and fixes made.
describe_fields <- function(columns, args, tables) {
  specs <- args$specs
  dated <- date_columns(columns, specs, args$calendar, args$switches)
  data <- dated$data
  rows <- list()
  coded <- list()
  fixed <- fix_columns(data, specs, dated$fixes, tables$tables)
  matched <- apply_matches(fixed$data, tables$tables, args$match, columns$where)
  fixed$fixes <- rbind(fixed$fixes, matched$fixes)
  data <- matched$data
  for (name in names(data)) {
    role <- specs[[name]]$role
    x <- data[[name]]
    check_usable(x, name, role, columns$where)
    refuse_infinite(x, name, columns$where)
    if (column_type(x) == "text") coded[[name]] <- with_lines(code_column(x))
    rows[[name]] <- field_rows(guarded(name), name, "lines", describe_column(
      x, name, role, name %in% names(tables$tables), coded[[name]], columns$roles[[name]]))
    # What is written with percent signs is a rate, whatever it is called.
    if (name %in% columns$rates && rows[[name]]$role == "measure") rows[[name]]$rate <- TRUE
    long <- too_long_ids(x, rows[[name]])
    if (!is.null(long)) fixed$fixes <- rbind(fixed$fixes, long)
  }
  names(coded) <- guarded(names(coded))
  known <- stack_rows(rows)
  measures <- known$column[known$role == "measure" & known$type == "number" & !known$rate]
  signed <- apply_signs(data, measures[!named_like_rate(measures)], args$sign, columns$where)
  made <- convert_currencies(signed$data, measures, known$column[known$role == "date"],
                             args$currency, columns$where)
  list(data = made$data, rows = rows, coded = coded, units = dated$units,
       fixes = rbind(fixed$fixes, signed$fixes, made$fixes),
       offers = rbind(dated$offers, if (is.null(args$unpivot)) offer_unpivot(data),
                      offer_signs(data, known, coded, args$sign),
                      if (!length(computed_specs(specs))) offer_ledger(data, known),
                      offer_thousands(data, known), offer_fill(data, known, coded, specs),
                      offer_matches(data, known, tables$tables, args$match)))
}

# The columns with dates read: list(data, fixes, units, offers). Months and the like are looked for only
# where no column holds days.
date_columns <- function(columns, specs, calendar, switches) {
  data <- columns$data
  fixes <- offers <- NULL
  units <- columns$units
  read <- function(periods, name) {
    role <- specs[[name]]$role
    if (!is.null(role) && role != "date") return(invisible())
    one <- read_date_column(data[[name]], name, columns$where, must = !is.null(role),
                            specs[[name]]$form, calendar$time_zone, switches,
                            periods || !is.null(role), calendar$fiscal_start)
    data[[name]] <<- one$value
    fixes <<- rbind(fixes, one$fix)
    offers <<- rbind(offers, one$offer)
    if (!is.null(one$unit)) units[[name]] <<- one$unit
  }
  for (name in names(data)) read(FALSE, name)
  if (!any(vapply(data, inherits, NA, c("Date", "POSIXct"))))
    for (name in names(data)) read(TRUE, name)
  timed <- join_times(data, specs)
  list(data = timed$data, fixes = rbind(fixes, timed$fixes), units = units, offers = offers)
}

# Whole numbers that name things, beyond those that doubles tell apart.
too_long_ids <- function(x, row) {
  if (!is.double(x) || row$type != "text" || !any(abs(x) >= whole_limit, na.rm = TRUE)) return(NULL)
  n <- sum(abs(x) >= whole_limit, na.rm = TRUE)
  fix("digits", row$name, n, paste0(
    plural(n, "number"), " of ", row$name, " have more digits than R's numbers tell apart (over ",
    "9,007,199,254,740,992); give the column as text"))
}

check_usable <- function(x, name, role, where) {
  if (is.null(role) || role != "measure") return(invisible())
  if (column_type(x) == "empty" || is.character(x) && all(is_blank(x)))
    ll_abort(paste0("Every value of the measure ", quoted(name), " is missing."), "data")
  if (!is.numeric(x)) {
    text <- as.character(x)
    bad <- which(!is.na(text) & is.na(suppressWarnings(as.numeric(text))))
    ll_abort(c(paste0("The measure ", quoted(name), " must hold numbers."),
               x = if (length(bad)) paste0(line_word(bad[1], where), " says ", shown(text[bad[1]]),
                                           ".")),
             "data")
  }
}
