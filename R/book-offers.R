# What was found on opening and is left to the person, told with what to type.

# How much money it is about, the sentence, and the option in it with its value; `unpivot` the columns
# to turn, which is of use only to a book without metrics.
an_offer <- function(money, text, option, unpivot = NA_character_) {
  data.frame(money = abs(money), text = text, option = option, unpivot = unpivot)
}

offers_for <- function(offers, metrics) {
  if (is.null(metrics) || is.null(offers)) offers else offers[is.na(offers$unpivot), , drop = FALSE]
}

# "20 lines (3,960.09 of net)": how many lines `on` tells, and what they come to where there is money.
lines_worth <- function(on, amount, money) {
  paste0(plural(sum(on), "line"),
         if (!is.null(money)) paste0(" (", amount_text(amount), " of ", money, ")"))
}

# An amount in full, to the cent.
amount_text <- function(x) {
  x <- round(x, 2)
  format(x, big.mark = ",", scientific = FALSE, trim = TRUE, digits = 15,
         nsmall = if (x == round(x)) 0 else 2)
}
