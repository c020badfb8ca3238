# Rows that hold the sum of those above them: subtotals of groups, totals of pages, grand totals.
#
# A row counts as a total where what it calls itself (a word for a total, or most of its names left
# empty) and its arithmetic agree over at least two lines. Arithmetic alone excludes nothing; a word
# alone does at the foot of the file, and where rows of the same form were found to be totals.

# `values`: list of the columns that add up. `rows`: data frame of the rows that may be totals, in
# the order of the file: row; worded (it calls itself a total, else it bears few names); foot (its
# word alone is enough); form (which cells it fills). `starts`: for each of them, where the runs of
# lines begin that share a name with it.
#
# Gives a data frame of those that are: row, first (where its lines begin), agrees (FALSE where the
# sum of its lines is another), and whether it is of `all` lines.
total_rows <- function(values, rows, starts) {
  found <- walk_totals(values, rows, starts, character())
  # With what is known now: totals of one line, and those whose sum is wrong.
  forms <- unique(found$form[found$agrees])
  if (length(forms) || any(rows$foot)) found <- walk_totals(values, rows, starts, forms)
  found$all <- found$first == 1 & seq_len(nrow(found)) == nrow(found)
  found
}

walk_totals <- function(values, rows, starts, forms) {
  sums <- line_sums(values)
  taken <- list(row = integer(), first = integer(), form = character(), agrees = logical(),
                below = list(rep(0, length(values))))
  last <- 0L
  for (i in seq_len(nrow(rows))) {
    one <- rows[i, ]
    known <- one$form %in% forms
    from <- starts_of_total(taken, one, last, starts[[i]])
    fits <- Filter(function(first) {
      is_total(sums, taken, one, first, if ((known || one$foot) && one$worded) 1 else 2)
    }, from)
    if (length(fits) || one$worded && (known || one$foot)) {
      taken$row <- c(taken$row, one$row)
      taken$first <- c(taken$first, c(fits, if (one$foot && !known) 1L else from)[1])
      taken$form <- c(taken$form, one$form)
      taken$agrees <- c(taken$agrees, length(fits) > 0)
      of_row <- sums$at(one$row)
      taken$below <- c(taken$below, list(taken$below[[length(taken$below)]] +
                                           ifelse(is.na(of_row), 0, of_row)))
    }
    if (one$worded) last <- one$row
  }
  data.frame(taken[c("row", "first", "form", "agrees")])
}

# Where the lines of a total may begin: after the total before it, with the name that it shares, after
# the last one of its form, at the first line.
starts_of_total <- function(taken, one, last, starts) {
  same <- taken$row[taken$form == one$form]
  from <- c(max(last, taken$row, 0L), sort(starts, decreasing = TRUE), max(same, 0L)) + c(1L, rep(
    0L, length(starts)), 1L)
  unique(c(from[from < one$row], 1L))
}

# Sums over stretches of rows, and the values of one.
line_sums <- function(values) {
  plain <- lapply(values, function(x) ifelse(is.na(x), 0, as.double(x)))
  upto <- lapply(plain, function(x) c(0, cumsum(x)))
  size <- lapply(plain, function(x) c(0, cumsum(abs(x))))
  between <- function(of, first, row) vapply(of, function(x) x[row] - x[first], 0)
  list(sum = function(first, row) between(upto, first, row),
       size = function(first, row) between(size, first, row),
       at = function(row) vapply(values, function(x) as.double(x[row]), 0),
       one_holds = function(first, row, says) {
         held <- which(!is.na(says))
         hit <- Reduce(`&`, lapply(held, function(k) {
           abs(plain[[k]][first:(row - 1)] - says[k]) <= 1e-9 * abs(says[k])
         }))
         any(hit)
       })
}

# Whether a row holds the sum of the lines from `first` on, totals among them left out.
is_total <- function(sums, taken, one, first, least) {
  before <- findInterval(first - 1L, taken$row)
  inside <- length(taken$row) - before
  if (one$row - first - inside < least) return(FALSE)
  says <- sums$at(one$row)
  held <- !is.na(says)
  if (!any(says[held] != 0)) return(FALSE)
  sum <- sums$sum(first, one$row) - taken$below[[inside + before + 1]] + taken$below[[before + 1]]
  # Less than half a cent, and what doubles lose on the way.
  room <- pmin(.004, 1e-4 * abs(says)) + 1e-12 * sums$size(first, one$row)
  same <- held & abs(says - sum) <= room
  if (!all(same[held])) return(FALSE)
  one$worded || telling_digits(says[held]) >= 4 && !sums$one_holds(first, one$row, says)
}

# How many digits agree: few of them agree by chance as well.
telling_digits <- function(says) {
  says <- abs(says[says != 0])
  cents <- ifelse(says == round(says), says, says * 100)
  sum(log10(1 + unique(cents)))
}
