# Fixes that the person asks for: spellings merged, gaps filled, lines excluded. They touch the
# book's own columns, never the file or the data frame.

fix_columns <- function(data, specs, fixes, tables = list()) {
  for (name in names(column_specs(specs))) {
    spec <- specs[[name]]
    if (!is.null(spec$same)) {
      made <- merge_spellings(data[[name]], name, spec$same, tables[[name]]$names)
      data[[name]] <- made$value
      fixes <- rbind(fixes, made$fix)
    }
    if (!is.null(spec$fill)) {
      made <- fill_gaps(data[[name]], name, spec$fill)
      data[[name]] <- made$value
      fixes <- rbind(fixes, made$fix)
    }
  }
  list(data = data, fixes = fixes)
}

# `same`: "similar" merges names that differ only in case, blanks or accents into the one that the
# register holds (`known`), else the commonest of them; list("Tamsin Orrell" = c("tamsin orrell",
# "T. Orrell")) says which.
merge_spellings <- function(x, name, same, known = NULL) {
  text <- plain_key(x)
  to <- if (identical(same, "similar")) similar_spellings(text, known) else
    listed_spellings(text, name, same)
  hit <- text %in% names(to)
  text[hit] <- unname(to[text[hit]])
  pairs <- paste0(quoted(show_blanks(names(to))), " as ", quoted(show_blanks(to)))
  list(value = text, fix = fix("same", name, sum(hit), paste0(
    plural(sum(hit), "line"), " of ", name, " under another spelling: ",
    if (length(pairs)) and_list(pairs, 4) else "none found")))
}

similar_spellings <- function(text, known) {
  count <- table(text)
  names <- union(names(count), known)
  count <- as.vector(count)[match(names, names(count))]
  count[is.na(count)] <- 0
  groups <- split(seq_along(names), spelling_key(names))
  groups <- groups[lengths(groups) > 1]
  unlist(lapply(unname(groups), function(at) {
    held <- names[at] %in% known
    # Names that the register holds apart stay apart.
    if (sum(held) > 1) return(NULL)
    best <- at[order(-held, -count[at], names[at], method = "radix")][1]
    others <- setdiff(at, best)
    stats::setNames(rep(names[best], length(others)), names[others])
  }))
}

listed_spellings <- function(text, name, same) {
  if (!is.list(same) && is.null(names(same)) || !length(same))
    ll_abort(c(paste0("'same' of ", quoted(name), " must be \"similar\" or a list of spellings."),
               x = paste0("It is ", shown(same), "."),
               i = "For example list(\"Tamsin Orrell\" = c(\"tamsin orrell\", \"T. Orrell\"))."),
             "argument")
  same <- lapply(as.list(same), function(words) as.character(unlist(words)))
  to <- unlist(lapply(names(same), function(good) {
    stats::setNames(rep(good, length(same[[good]])), same[[good]])
  }))
  twice <- names(to)[duplicated(names(to))]
  if (length(twice))
    ll_abort(paste0("The spelling ", quoted(twice[1]), " of ", quoted(name),
                    " is given to two names."), "argument")
  unknown <- setdiff(names(to), text)
  if (length(unknown))
    ll_abort(c(paste0("No line has the spelling ", quoted(show_blanks(unknown[1])), " of ",
                      quoted(name), "."), offer(unknown[1], unique(text), "Known")), "word")
  to
}

# `fill`: above, zero, mean, median, or a value.
fill_gaps <- function(x, name, fill) {
  gaps <- if (is.character(x) || is.factor(x)) is_blank(as.character(x)) else is.na(x)
  if (identical(fill, "above")) return(fill_above(x, name, gaps))
  value <- fill_value(x, name, fill)
  if (is.factor(x)) x <- as.character(x)
  x[gaps] <- value
  list(value = x, fix = fix("fill", name, sum(gaps), paste0(
    plural(sum(gaps), "gap"), " of ", name, " filled with ",
    if (is.numeric(value)) paste0(if (is.character(fill) && fill %in% c("mean", "median"))
      paste0("the ", fill, ", "), format_plain(round(value, 6))) else quoted(value))))
}

# Each gap has what stands above it; those before the first value stay.
fill_above <- function(x, name, gaps) {
  last <- cummax(ifelse(gaps, 0L, seq_along(gaps)))
  filled <- gaps & last > 0
  x[filled] <- x[last[filled]]
  list(value = x, fix = fix("fill", name, sum(filled), paste0(
    plural(sum(filled), "gap"), " of ", name, " filled with what stands above")))
}

# Names that a report prints once above the lines of their group, an offer: the first line has one,
# more than half of the lines none, and no name comes again later. `rows` is the table of fields.
offer_fill <- function(data, rows, coded, specs) {
  money <- first_money(rows)
  n <- length(data[[1]])
  texts <- rows$column[rows$role == "dimension" & rows$type == "text" & rows$missing > n / 2 &
                         rows$missing < n]
  for (field in texts) {
    column <- coded[[guarded(field)]]
    named <- column$codes[column$codes > 0]
    once <- column$codes[1] > 0 && length(named) > 1 && !anyDuplicated(named)
    if (!once || !is.null(specs[[field]]$fill)) next
    gap <- column$codes == 0
    amount <- if (is.null(money)) 0 else sum(as.double(data[[money]][gap]), na.rm = TRUE)
    option <- paste("--fill", shell_quoted(paste0(field, "=above")))
    return(an_offer(amount, paste0(
      lines_worth(gap, amount, money), " without ", field, " stand below a line that has one, as reports print a name once. If it ",
      "holds for the lines below, ", option, " (in a brief: fields: {", field, ": {fill: above}}) ",
      "gives them it"), option))
  }
}

fill_value <- function(x, name, fill) {
  if (length(fill) != 1 || is.na(fill))
    ll_abort(paste0("'fill' of ", quoted(name), " must be above, zero, mean, median or one value."),
             "argument")
  if (!is.numeric(x)) {
    if (inherits(x, c("Date", "POSIXct")))
      ll_abort(c(paste0("The date field ", quoted(name), " cannot be filled."),
                 i = "Exclude those lines: exclude = \"is.na(day)\"."), "argument")
    return(as.character(fill))
  }
  if (all(is.na(x)) && fill %in% c("mean", "median"))
    ll_abort(paste0("Every value of ", quoted(name), " is missing, so there is no ", fill, "."),
             "data")
  if (identical(fill, "zero")) return(0)
  if (identical(fill, "mean")) return(mean(x, na.rm = TRUE))
  if (identical(fill, "median")) return(stats::median(x, na.rm = TRUE))
  number <- as_single_number(fill)
  if (is.na(number))
    ll_abort(c(paste0("'fill' of ", quoted(name), " must be above, zero, mean, median or a number."),
               x = paste0("It is ", shown(fill), ".")), "argument")
  number
}

# The fixes to tell of, columns read alike as one; checks of totals are told in the proof alone. NULL
# or a frame.
fixes_made <- function(book) {
  done <- book$fixes[!book$fixes$kind %in% "total_check", , drop = FALSE]
  rows <- which(done$kind %in% "numbers")
  how <- sub("^.* read as numbers", "", done$text[rows])
  again <- rows[duplicated(how)]
  for (each in unique(how[duplicated(how)])) {
    alike <- rows[how == each]
    n <- sum(done$n[alike])
    done$text[alike[1]] <- paste0(plural(n, "cell"), " of ", and_list(unique(done$field[alike]), 3),
                                  " read as numbers", each)
    done$n[alike[1]] <- n
  }
  if (length(again)) done[-again, , drop = FALSE] else done
}
