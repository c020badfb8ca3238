# Sets, continued: sets in words.

# What each set is called: by the name it was given, else by what its names are or have.
set_titles <- function(question) {
  args <- question$args
  names <- names(args$sets)
  title <- vapply(names, function(name) {
    if (name %in% args$given) return(spoken(name))
    plain_set_words(question, args$sets[[name]], 1, follows = TRUE) %||%
      fit_text(one_line(names_text(args$sets[[name]])), 60)
  }, "", USE.NAMES = FALSE)
  make.unique(sub("^has ", "", title), " ")
}

# What so many names of a set are or have, in words: who was active when and where, who is
# registered, who has more or less than a number; NULL for others. `no` denies it, `follows` where
# the verb stands before.
plain_set_words <- function(question, tree, n, no = FALSE, follows = FALSE) {
  if (tree$kind == "joined") return(joined_set_words(question, tree, n))
  if (tree$kind == "first") return(first_set_words(question, tree, n, no, follows))
  if (!tree$kind %in% c("active", "registered", "having")) return(NULL)
  where <- if (!is.null(tree$where)) paste0(" where ", tree_words(tree$where))
  period <- if (!is.null(tree$period) && !identical(tree$period$text, "all"))
    paste0(" ", period_phrase(tree$period, NULL))
  if (tree$kind != "having")
    return(paste0(if (!follows) verb(n, "is "), if (no) "not ", tree$kind, where, period))
  bound <- bound_words(question, tree)
  if (is.null(bound)) return(NULL)
  has <- if (no) (if (n == 1) "does not have " else "do not have ") else verb(n, "has ")
  paste0(has, bound, where, period)
}

# "are among the first 20 by revenue in 2025"; NULL of formulas without a name.
first_set_words <- function(question, tree, n, no, follows) {
  own <- vapply(question$book$metrics, function(m) identical(m$tree, tree$metric), NA)
  if (!any(own) || tree$count$kind != "number") return(NULL)
  paste0(if (!follows) verb(n, "is "), if (no) "not ", "among the ",
         if (tree$which == "bottom") "last " else "first ", count_text(tree$count$value), " by ",
         spoken(names(question$book$metrics)[own][1]),
         if (!is.null(tree$where)) paste0(" where ", tree_words(tree$where)),
         if (!is.null(tree$period) && !identical(tree$period$text, "all"))
           paste0(" ", period_phrase(tree$period, NULL)))
}

# "revenue over 20,000", "orders of at least 50", "a total cost under 500" of a sum without a name;
# NULL of other formulas.
bound_words <- function(question, tree) {
  metrics <- question$book$metrics
  own <- vapply(metrics, function(metric) identical(metric$tree, tree$metric), NA)
  field <- summed_field(tree$metric)
  if (!any(own) && is.null(field) || tree$value$kind != "number") return(NULL)
  paste(if (any(own)) spoken(names(metrics)[own][1]) else paste("a total", spoken(field)), c(
    `>` = "over", `>=` = "of at least", `<` = "under", `<=` = "of at most", `==` = "of",
    `!=` = "other than")[[tree$op]], if (any(own)) said(tree$value$value, metrics[own][[1]]) else
      prettyNum(full_number_text(tree$value$value), big.mark = ","))
}

# One after the other, as they are read: "a and b and not c"; brackets have no words.
joined_set_words <- function(question, tree, n) {
  left <- tree$args[[1]]
  right <- tree$args[[2]]
  mixed <- left$kind == "joined" && "|" %in% c(left$op, tree$op) && left$op != tree$op
  if (right$kind == "joined" || mixed) return(NULL)
  last <- if (left$kind == "joined") left$args[[2]] else left
  sides <- list(plain_set_words(question, left, n),
                plain_set_words(question, right, n, tree$op == "-", last$kind != "having"))
  if (any(lengths(sides) == 0)) return(NULL)
  paste0(sides[[1]], if (tree$op == "|") " or " else " and ", sides[[2]])
}
