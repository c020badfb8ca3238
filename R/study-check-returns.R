# Check, continued: returns and credits, which are trade and no faults. No fix leaves them out.

credit_words <- paste0("(credit|return|refund|cancel|reversal|^cn$|^cr$|^cm$|gutschrift|storno|",
                       "retour|avoir|abono|reso)")
amount_words <- "(net|amount|revenue|sales|turnover|total|value|betrag|umsatz|montant|importe)"
returns_most <- .4       # more lines than this below zero are no returns
returns_least <- .001    # fewer than this, or in fewer than three months, may be slips
returns_names <- 30      # fields with more names are no kinds of documents
mostly <- .8

# The lines that are returns or credits, as a condition: those below zero in an established share,
# or
# of a kind of document that is nearly always below zero. NULL where there are none.
returns_of <- function(question, found) {
  field <- returns_field(question, found)
  if (is.null(field)) return(NULL)
  below <- less_than(field, 0)
  types <- credit_types(question, below)
  if (!is.null(types)) return(or_all(list(types, below)))
  if (is_established(question, found, below)) below
}

# The measure whose sign tells: of the metric, else one of amounts.
returns_field <- function(question, found) {
  own <- own_fields(question)
  measures <- own$name[own$role == "measure" & own$type == "number"]
  below <- Filter(function(field) any(found$counted[[field]]$value < 0), measures)
  of_metric <- intersect(names_in(first_metric(question)$tree), below)
  amounts <- below[grepl(amount_words, tolower(below))]
  if (length(below)) c(of_metric, amounts, below)[1]
}

# A share of the lines that goes on from month to month.
is_established <- function(question, found, below) {
  book <- question$book
  dated <- !is.null(book$date) && length(book$days) > 0
  key <- if (dated) list(month = node("bucket", part = "month",
                                      arg = node("name", name = book$date))) else list()
  fold <- source_fold(book$source, key, list(), and_also(question$asked$where_now, below))
  n <- sum(fold$lines)
  share <- n / found$lines$lines
  n >= 5 && share >= returns_least && share <= returns_most && (!dated || length(fold$lines) >= 3)
}

# Kinds of documents that bear a word for credits, or hold nearly all that is below zero, and are
# nearly always so.
credit_types <- function(question, below) {
  own <- own_fields(question)
  for (field in own$name[own$role == "dimension" & own$type == "text"]) {
    names <- names_of(question$book, field)
    if (length(names) < 2 || length(names) > returns_names) next
    count <- function(where) {
      fold <- source_fold(question$book$source, field, list(), where)
      or_zero(fold$lines[match(names, fold$keys[[1]])])
    }
    inside <- count(and_also(question$asked$where_now, below))
    share <- inside / pmax(count(question$asked$where_now), 1)
    named <- grepl(credit_words, tolower(names))
    hit <- names[share >= mostly & (named | inside >= mostly * sum(inside) & sum(inside) >= 5)]
    if (length(hit) && length(hit) < length(names))
      return(node("within", arg = node("name", name = field), set = node("set", values = hit)))
  }
  NULL
}

# Findings with how many of their lines are returns or credits; where most are, they are called so
# and nothing is offered that would take them away.
with_returns <- function(question, found, findings) {
  findings$returns <- numeric(nrow(findings))
  returns <- returns_of(question, found)
  if (is.null(returns)) return(findings)
  touched <- which(findings$lines > 0 & !vapply(findings$where, is.null, NA))
  findings$returns[touched] <- vapply(touched, function(i) {
    source_lines_of(question, and_also(findings$where[[i]], returns))
  }, 0)
  most <- findings$returns > 0 & findings$returns >= findings$lines / 2
  takes <- grepl("^(exclude|fields):", findings$fix) & !grepl("same:", findings$fix)
  findings$fix[most & takes] <- ""
  findings$weight[most & takes] <- "low"
  sign <- findings$finding == "below zero"
  findings$finding[most & sign] <- "below zero: returns and credits"
  other <- most & takes & !sign
  findings$finding[other] <- paste(findings$finding[other], "on returns")
  findings
}

# How many lines meet a condition.
source_lines_of <- function(question, where) {
  sum(source_fold(question$book$source, list(), list(),
                  and_also(question$asked$where_now, where))$lines)
}
