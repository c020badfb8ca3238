# A call as a sentence that can be asked again. The plain sentence of its study is tried first;
# where that would not be read as just this call, every argument is said by its name.

#' A call as a question in plain words
#'
#' Every call of a study can be said in words, and asking those words again gives the same call.
#'
#' @param result (`ll_result`) what a study returned; its book must still be open.
#' @return The question, one text.
#' @section Errors: `ll_error_argument` for what is no result, or whose book is no longer open.
#' @examples
#' book <- ll_demo()
#' ll_question(ll_standings(book, each = "rep", top = 5, when = "2026-Q2"))
#' @export
ll_question <- function(result) {
  told <- facts(inner_result(result))
  say_call(book_of(result), told$study, told$asked)
}

say_call <- function(book, study, args) {
  args <- asked_args(study, args)
  plain <- tryCatch(plain_sentence(book, study, args), error = function(e) NULL)
  if (!is.null(plain) && says_call(book, plain, study, args)) return(capital(plain))
  named_sentence(study, args)
}

# Whether a sentence is read as a call.
says_call <- function(book, text, study, args) {
  read <- tryCatch(ask_read(book, text), ll_error = function(e) NULL)
  if (is.null(read) || read$study != study || length(read$taken)) return(FALSE)
  identical(same_form(asked_args(study, read$args)), same_form(args))
}

# Names that a list has or not, and numbers as text or not, make no other call.
same_form <- function(args) {
  lapply(args[order(names(args))], function(value) {
    if (is.atomic(value) && !any(nzchar(names(value)))) names(value) <- NULL
    if (is.numeric(value)) as.double(value) else value
  })
}

# "standings: with each "rep", with top "5""
named_sentence <- function(study, args) {
  declared <- declaration_of(study)
  parts <- Map(function(value, name) {
    texts <- arg_texts(value, declared$args[[name]])
    paste0("with ", gsub("_", " ", name), " ",
           paste(in_quotes(texts), collapse = " and "))
  }, args, names(args))
  trimmed(paste0(study, ": ", paste(unlist(parts), collapse = ", ")))
}

plain_sentence <- function(book, study, args) {
  used <- new.env()
  used$names <- character()
  take <- function(name) {
    used$names <- c(used$names, name)
    args[[name]]
  }
  say <- ask_sayings[[study]]
  if (is.null(say)) return(NULL)
  text <- say(book, take)
  if (is.null(text)) return(NULL)
  where <- said_where(take("where"))
  # Names stand apart from what comes before them.
  if (!is.null(where) && grepl("^(only|not) ", where)) text <- paste0(text, ",")
  tail <- c(where, said_when(book, take("when")), said_against(take("against")))
  if (length(setdiff(names(args), used$names))) return(NULL)
  paste(c(text, tail), collapse = " ")
}

said_metrics <- function(book, metrics) {
  if (is.null(metrics)) return(NULL)
  if (!is.null(names(metrics)) || is.list(metrics)) stop("no plain words for these metrics")
  and_list(spoken(metrics), 99)
}

said_fields <- function(book, fields) {
  and_list(vapply(fields, function(field) {
    noun <- field_noun(book, field)
    if (is_countable(noun)) plural_word(noun) else spoken(field)
  }, ""), 99)
}

by_metrics <- function(book, take) {
  metrics <- said_metrics(book, take("metrics"))
  if (!is.null(metrics)) paste("by", metrics)
}

# only territory "Moor" or "Fen", not channel "web", where "net > 100"
said_where <- function(where) {
  if (is.null(where)) return(NULL)
  tree <- read_condition(where)
  parts <- if (tree$kind == "logic" && tree$op == "&") and_parts(tree) else list(tree)
  said <- lapply(parts, said_condition)
  if (any(vapply(said, is.null, NA)))
    return(paste("where", in_quotes(where)))
  paste(unlist(said), collapse = " ")
}

and_parts <- function(tree) {
  if (tree$kind == "logic" && tree$op == "&") unlist(lapply(tree$args, and_parts), FALSE) else
    list(tree)
}

said_condition <- function(tree) {
  no <- tree$kind == "logic" && tree$op == "!"
  if (no) tree <- tree$args[[1]]
  values <- NULL
  if (tree$kind == "compare" && tree$op %in% c("==", "!=") && tree$args[[1]]$kind == "name" &&
        tree$args[[2]]$kind == "text") {
    if (no) return(NULL)
    no <- tree$op == "!="
    field <- tree$args[[1]]$name
    values <- tree$args[[2]]$value
  }
  if (tree$kind == "within" && tree$arg$kind == "name" && is.character(tree$set$values)) {
    field <- tree$arg$name
    values <- tree$set$values
  }
  if (is.null(values)) return(NULL)
  paste(if (no) "not" else "only", spoken(field),
        paste(in_quotes(values), collapse = " or "))
}

said_when <- function(book, when) {
  if (is.null(when)) return(NULL)
  if (when == "all") return("all time")
  fixed <- fixed_period(tolower(when))
  if (grepl("^(last|this)", when)) return(if (grepl("^this", when)) when else paste("in the", when))
  paste("in", if (is.null(fixed) || grepl("/", when, fixed = TRUE) || grepl("-[0-9]{2}-", when))
    when else fixed$words)
}

said_against <- function(against) {
  if (is.null(against)) return(NULL)
  paste("against", switch(against, "year before" = "the year before",
                          previous = "the period before", said_when(NULL, against)))
}

bare_period <- function(when) sub("^in (the )?", "", said_when(NULL, when))

size_words <- function(take) {
  top <- take("top")
  bottom <- take("bottom")
  if (!is.null(top) && !is.null(bottom)) stop("both ends are not said plainly")
  if (!is.null(top)) paste("top", full_number_text(top)) else
    if (!is.null(bottom)) paste("bottom", full_number_text(bottom))
}

# Ranks by the change or growth of a metric: "10 biggest decliners among accounts by revenue".
said_moves <- function(book, take) {
  metrics <- take("metrics")
  if (length(metrics) != 1 || !identical(names(metrics) %in% c("change", "growth"), TRUE))
    return(NULL)
  metric <- sub(".*[(]|[)]$", "", sub("[)]$", "", metrics))
  if (!metric %in% names(book$metrics)) return(NULL)
  top <- take("top")
  bottom <- take("bottom")
  n <- full_number_text(top %||% bottom %||% 10)
  fast <- names(metrics) == "growth"
  paste(n, if (fast) "fastest" else "biggest", if (!is.null(top)) if (fast) "growing" else "gainers"
        else if (fast) "falling" else "decliners", "among", one_field(book, take("each")), "by",
        spoken(metric))
}

one_field <- function(book, fields) {
  if (length(fields) != 1) stop("several dimensions are not said plainly")
  said_fields(book, fields)
}

# What a study's plain sentence is: function(book, take), NULL where it has none for the arguments.
ask_sayings <- list(
  standings = function(book, take) {
    moved <- said_moves(book, take)
    if (!is.null(moved)) return(moved)
    size <- size_words(take)
    least <- take("min_orders")
    within <- take("within")
    paste(c(size %||% "rank", one_field(book, take("each")), by_metrics(book, take),
            if (!is.null(least)) paste("with at least", full_number_text(least), "orders"),
            if (!is.null(within)) paste("within each", spoken(within))), collapse = " ")
  },
  total = function(book, take) {
    paste(c("how much", said_metrics(book, take("metrics"))), collapse = " ")
  },
  trend = function(book, take) {
    by <- take("by")
    every <- sub("_", " ", take("every") %||% "month")
    paste(c("trend of", said_metrics(book, take("metrics")), paste("by", every),
            if (!is.null(by)) paste("and", one_field(book, by))), collapse = " ")
  },
  crosstab = function(book, take) {
    rows <- take("rows")
    columns <- take("columns")
    share <- take("share_of")
    if (length(rows) != 1 || length(columns) != 1) return(NULL)
    paste(c(if (!is.null(share)) "share of",
            said_metrics(book, take("metrics") %||% names(book$metrics)[1]), "by",
            paste(spoken(rows), "and", spoken(columns)),
            switch(share %||% "all", row = "along rows", column = "along columns", NULL)),
          collapse = " ")
  },
  drill = function(book, take) {
    paste("why did", said_metrics(book, take("metrics")) %||% "it", "change")
  },
  bridge = function(book, take) {
    into <- take("into")
    by <- take("by")
    if (is.null(by) || !is.null(into) && into != "price") return(NULL)
    paste(c("bridge of", said_metrics(book, take("metrics")), "by", spoken(by),
            if (!is.null(into)) "price volume and mix"), collapse = " ")
  },
  lapsed = function(book, take) {
    if (!identical(take("never"), "leave")) return(NULL)
    top <- take("top")
    inactive <- take("inactive")
    active <- take("active")
    paste(c(if (!is.null(top)) paste("top", full_number_text(top)), one_field(book, take("each")),
            "that stopped buying", by_metrics(book, take),
            if (!is.null(active)) said_when(book, active),
            if (!is.null(inactive)) paste(if (!is.null(active)) "but not in" else "in",
                                          bare_period(inactive))), collapse = " ")
  },
  pareto = function(book, take) {
    cut <- take("cut")
    if (length(cut) > 1) return(NULL)
    paste(c(if (is.null(cut)) "pareto of" else "which", one_field(book, take("each")),
            if (is.null(cut)) by_metrics(book, take) else
              paste0("make up ", full_number_text(100 * cut), "% of ",
                     said_metrics(book, take("metrics") %||% names(book$metrics)[1]))),
          collapse = " ")
  },
  portrait = function(book, take) {
    each <- take("each")
    paste("everything on", spoken(each), in_quotes(take("name")))
  },
  versus = function(book, take) {
    each <- take("each")
    paste(c("compare", spoken(each), paste(in_quotes(take("names")), collapse = " and "),
            paste("by", spoken(take("by"))), by_metrics(book, take)), collapse = " ")
  },
  distribution = function(book, take) {
    each <- take("each")
    if (is.null(each)) return(NULL)
    paste("distribution of", said_metrics(book, take("metrics") %||% names(book$metrics)[1]), "of",
          one_field(book, each))
  },
  benchmark = function(book, take) {
    best <- take("best")
    paste(c("benchmark of", one_field(book, take("each")), by_metrics(book, take),
            if (!is.null(best)) paste("from the best", full_number_text(best))), collapse = " ")
  },
  score = function(book, take) {
    paste("score", one_field(book, take("each")), "on", said_metrics(book, take("metrics")))
  },
  tiers = function(book, take) {
    groups <- take("groups")
    if (is.null(groups)) return(NULL)
    paste(c(full_number_text(groups), "groups of", one_field(book, take("each")),
            by_metrics(book, take)), collapse = " ")
  },
  quadrants = function(book, take) {
    paste("quadrants of", one_field(book, take("each")), by_metrics(book, take))
  },
  cohorts = function(book, take) {
    every <- take("every")
    paste(c("cohorts of", one_field(book, take("each")), by_metrics(book, take),
            if (!is.null(every)) paste("by", sub("_", " ", every))), collapse = " ")
  },
  whitespace = function(book, take) {
    paste("white space of", one_field(book, take("each")), "by", spoken(take("product")))
  },
  associations = function(book, take) {
    paste("what goes with", said_metrics(book, take("metrics") %||% names(book$metrics)[1]))
  },
  check = function(book, take) paste(c("check the data", by_metrics(book, take)), collapse = " "),
  detail = function(book, take) {
    top <- take("top")
    paste(c("show", if (!is.null(top)) paste("the latest", full_number_text(top)), "order lines"),
          collapse = " ")
  })
