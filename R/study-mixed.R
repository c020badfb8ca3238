# Questions over lines in several currencies: never added up, asked of each apart.

# A question that would add up several currencies.
refuse_mixed <- function(question) {
  mixed <- question$book$currencies
  if (is.null(mixed)) return(invisible())
  money <- Filter(adds_money, question$metrics)
  if (!length(money)) return(invisible())
  asked <- question$asked
  # What is compared with counts as well.
  spans <- if (!is.null(asked$where_before) && !is.null(asked$where_now))
    node("logic", op = "|", args = list(asked$where_now, asked$where_before)) else asked$where_now
  found <- codes_on_lines(question$book, mixed$field, spans)
  if (length(found$codes) < 2) return(invisible())
  named <- found$codes[!is.na(found$codes)]
  ll_abort(c(paste0(capital(spoken(names(money)[1])), " would add up ",
                    plural(length(named), "currency"), ": ",
                    currency_counts(found), "."),
             i = paste0("Count one: --currency ", named[1], " (currency: ", named[1],
                        " in a brief); each apart: --only ",
                        shell_quoted(paste0(unguarded(mixed$field), "=", named[1])),
                        "; converted: --currency ", named[1], " --exchange-rates FILE, a table of ",
                        "date, currency and rate; or --currency any adds them as they stand.")),
           c("currencies", "data"), field = mixed$field, codes = found$codes)
}

# Metrics that add up amounts, and no quantities.
adds_money <- function(metric) {
  fields <- unlist(lapply(nodes_where(metric$tree, function(t) {
    t$kind == "aggregate" && t$fn %in% c("sum", "mean", "min", "max", "median", "quantile")
  }), names_in))
  length(fields) > 0 && !all(named_like_quantity(fields))
}

apart_most <- 12   # currencies that are told one after the other

# What `ask` gives for the book; where it would add up several currencies, for each of them, those
# of most lines first, named by them. Lines without a currency come last, as "".
each_currency <- function(book, ask) {
  tryCatch(list(ask(book)), ll_error_currencies = function(e) {
    if (length(e$codes) > apart_most) stop(e)
    out <- lapply(currency_condition(e$field, e$codes), function(only) ask(ll_where(book, only)))
    stats::setNames(out, ifelse(is.na(e$codes), "", e$codes))
  })
}

# Lines of each of these currencies, or of none, as conditions.
currency_condition <- function(field, codes) {
  ifelse(is.na(codes), paste0("is.na(", name_text(field), ")"),
         paste(name_text(field), "==", vapply(codes, function(code) deparse(as_utf8(code)), "")))
}
