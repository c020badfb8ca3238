# What one column holds, and what its name says.

# German and its neighbours write the word for a number to the word before.
id_words <- paste0("(^|[^a-z])(no|nr|num|number|id|code|key|ref|reference|sku|ean|barcode)$",
                   "|[a-z](nr|nummer)$")

# Columns that are named by one of these words, the plainest first: by itself or with a word for a
# name or number ("Customer Name", "Kundennummer"), then with others that tell no kind of them.
columns_named <- function(names, words) {
  word <- column_word(names)
  plain <- grepl(paste0("^(", words, ")(_?(name|no|nr|num|number|nummer|id|code|key|text|",
                        "description|bezeichnung))*$"), word)
  kind <- grepl("_(manager|executive|owner|rep|type|class|kind|status|since|region|country|city)$",
                word)
  c(names[plain], names[!plain & !kind & grepl(paste0("^(", words, ")_"), word)])
}

# What a role is guessed from: the type, how many lines have a value (`known`) of how many (`of`),
# how many distinct values there are, whether numbers are whole, and rise with every line.
column_facts <- function(x, coded = NULL) {
  type <- column_type(x)
  if (type == "text" && is.null(coded)) coded <- with_lines(code_column(x))
  known <- function() if (anyNA(x)) x[!is.na(x)] else x
  whole <- function(v) all(v == round(v))
  list(type = type, of = length(x), timed = inherits(x, "POSIXct"), numeric = is.numeric(x),
       known = if (is.null(coded)) length(known()) else sum(coded$lines[-1]),
       distinct = function() if (is.null(coded)) length(unique(known())) else length(coded$levels),
       # Most that are not whole show it soon.
       whole = function() is.integer(x) || whole(utils::head(known(), 1000)) && whole(known()),
       rising = function() !anyNA(x) && !is.unsorted(x, strictly = TRUE),
       positions = function() is.numeric(x) && are_positions(known()),
       of_one_width = function() is.numeric(x) && are_of_one_width(known()),
       shares = function() is.numeric(x) && all(abs(known()) <= 1))
}

# Whether numbers count 1, 2, 3 or 10, 20, 30 and begin anew with every order.
are_positions <- function(x) {
  if (length(x) < 4) return(FALSE)
  first <- min(x)
  if (!first %in% c(1, 10, 100)) return(FALSE)
  some <- utils::head(x, 1000)
  counts <- function(x) {
    up <- diff(x) == first
    all(up | x[-1] == first) && mean(up) > .2
  }
  counts(some) && any(x[-1] == first) && counts(x)
}

# Numbers that name things have as many digits each, and are no round ones.
are_of_one_width <- function(x) {
  if (length(x) < 4) return(FALSE)
  some <- utils::head(x, 1000)
  digits <- function(x) floor(log10(pmax(x, .5)))
  width <- digits(some[1])
  width >= 3 && all(digits(some) == width) && mean(some %% 100 == 0) < .5 &&
    all(digits(x) == width)
}

# Some of the values that hold something, to guess by.
first_held <- function(x) {
  some <- x[seq_len(min(length(x), 1000))]
  some <- unique(if (is.factor(x)) as.character(some) else some)
  some <- some[!is_blank(some)]
  if (!length(some)) some <- utils::head(as.character(x[!is_blank(x)]), 200)
  utils::head(some, 200)
}

# The first values that are not missing; of a long column whose beginning is full no more is read.
first_known <- function(x, n) {
  some <- utils::head(x, n)
  if (anyNA(some)) utils::head(x[!is.na(x)], n) else some
}

column_type <- function(x) {
  if (inherits(x, c("Date", "POSIXct"))) return("date")
  if (is.logical(x) || is.factor(x) || is.character(x))
    return(if (all_missing(x)) "empty" else "text")
  if (is.numeric(x)) return(if (all_missing(x)) "empty" else "number")
  "other"
}

all_missing <- function(x) !length(x) || is.na(x[1]) && all(is.na(x))
