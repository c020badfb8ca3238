# Ways of questions about who was there and who was not: new, gone, back again, bought this and not
# that, above and below a number. They come to sets of names, or to those who have lapsed.

# What such a question is about: whom, the names that tell who they are (types), and those of what
# was bought or not; NULL where nobody is meant.
who_question <- function(x) {
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  x$has("active")
  names <- x$raw$names
  negative <- vapply(names, function(one) one$negative, NA)
  types <- vapply(names, function(one) (one$subject || one$loose) && one$from == each, NA)
  list(each = each, types = names[!negative & types], things = names[!negative & !types],
       negative = names[negative], whens = vapply(x$raw$whens, `[[`, "", "text"),
       never = x$has("never"), no = isTRUE(x$raw$not_deal))
}

set_call <- function(x, q, text) {
  # The finding tells how many.
  x$take("counting")
  refuse_fields(x, q$each, call_of("sets", each = q$each, sets = text, metrics = asked_metrics(x),
                                   top = x$take("n")))
}

active_text <- function(x, when, where = NULL) {
  paste0("active(", text_literal(when), if (length(where)) paste0(", ", where), ")")
}

where_text <- function(x, names) {
  id <- function(one) paste(one$at, one$value)
  same <- function(one) id(one) %in% vapply(names, id, "")
  x$mark(paste0("name:", which(vapply(x$raw$names, same, NA))))
  all_hold(c(name_conditions(x, names), x$take("conditions")))
}

with_sign <- function(names, negative) {
  lapply(names, function(one) {
    one$negative <- negative
    one
  })
}

# One period, or all dates; NULL where two are named.
one_period <- function(x, q) if (length(q$whens) < 2) asked_when(x) %||% "all"

# In one period, and in none before.
way_new <- function(x) {
  if (!x$has("new")) return(NULL)
  q <- who_question(x)
  if (is.null(q) || q$never || length(q$whens) > 1) return(NULL)
  if (!length(q$whens)) assumed(x, "new in this year to date")
  when <- asked_when(x) %||% "this year to date"
  before <- read_period(when, book_dates(x$book, "when"))$from - 1
  if (before < first_day(x$book)) return(NULL)
  where <- where_text(x, x$raw$names)
  set_call(x, q, paste0(active_text(x, when, where), " - ",
                        active_text(x, paste0(first_day(x$book), "/", before), where)))
}

# In 2024 and 2026 but not in 2025.
way_two_periods <- function(x) {
  if (length(x$raw$whens) != 2 || !length(x$raw$not_when)) return(NULL)
  q <- who_question(x)
  if (is.null(q)) return(NULL)
  x$take("whens")
  gone <- x$take("not_when")
  where <- where_text(x, x$raw$names)
  set_call(x, q, paste0(active_text(x, q$whens[1], where), " & ", active_text(x, q$whens[2], where),
                        " - ", active_text(x, gone, where)))
}

# Bought frames and jars, both; bought only feed, and nothing else.
way_bought <- function(x) {
  counted <- length(x$raw$metrics) || length(x$raw$size) || isTRUE(x$raw$counting)
  if (is.null(x$raw$deal) || counted) return(NULL)
  q <- who_question(x)
  if (is.null(q) || q$no || q$never || length(q$negative) || !length(q$things)) return(NULL)
  alone <- isTRUE(x$take("nothing_else"))
  both <- isTRUE(x$raw$both) && q$things[[1]]$field != q$each
  when <- one_period(x, q)
  if (!same_field(q$things) || !alone && !both || is.null(when)) return(NULL)
  active <- function(names) active_text(x, when, where_text(x, c(q$types, names)))
  set_call(x, q, if (alone) paste0(active(q$things), " - ", active(with_sign(q$things, TRUE))) else
    paste(vapply(q$things, function(one) active(list(one)), ""), collapse = " & "))
}

# Did not buy feed; never bought booklets; bought hives but not frames.
way_not_bought <- function(x) {
  q <- who_question(x)
  if (is.null(q)) return(NULL)
  denying <- q$no || q$never
  # What stands before the verb tells who the customers are.
  if (denying && identical(q$each, customer_field(x$book))) {
    told <- Filter(function(one) one$at < x$raw$deal_at %||% 0, q$things)
    q$types <- c(q$types, told)
    q$things <- setdiff_names(q$things, told)
  }
  denied <- if (denying) q$things else q$negative
  but_not <- length(q$negative) && !is.null(x$raw$deal) && length(c(q$types, q$things)) &&
    same_field(c(q$negative, q$things))
  if (!length(denied) || !denying && !but_not) return(NULL)
  x$take("not_deal")
  when <- one_period(x, q)
  if (is.null(when)) return(NULL)
  have <- c(q$types, if (denying) q$negative else q$things)
  set_call(x, q, paste0(active_text(x, when, where_text(x, have)), " - ",
                        active_text(x, when, where_text(x, with_sign(denied, FALSE)))))
}

# Never ordered at all: of the register.
way_never <- function(x) {
  q <- who_question(x)
  if (is.null(q) || !q$never || length(q$things) || !q$each %in% names(x$book$registers))
    return(NULL)
  when <- one_period(x, q)
  if (is.null(when)) return(NULL)
  x$take("not_deal")
  where <- where_text(x, c(q$types, q$negative))
  set_call(x, q, paste0("registered(", where, ") - ", active_text(x, when)))
}

# The year before a period.
gap_period <- function(x, when) {
  start <- read_period(when[1], book_dates(x$book, "when"))$from
  as.character(as.integer(format(start, "%Y")) - 1L)
}

# Came back: there before a gap and after it, not in it.
way_back <- function(x) {
  if (!x$has("back")) return(NULL)
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  x$has("gap")
  whens <- x$take("whens")
  texts <- vapply(whens, `[[`, "", "text")
  after_gap <- !is.null(x$raw$cues$gap) && length(texts) > 1
  now <- if (length(texts)) texts[1] else "this year to date"
  gap <- x$take("not_when") %||% (if (after_gap) texts[2] else gap_period(x, now))
  if (length(texts) > 2) return(NULL)
  dates <- book_dates(x$book, "when")
  before <- read_period(gap, dates)$from - 1
  if (before < first_day(x$book)) return(NULL)
  whole <- fixed_period(format(before, "%Y"))
  earlier <- if (whole$to == before && whole$from - first_day(x$book) >= -part_days)
    format(before, "%Y") else paste0(first_day(x$book), "/", before)
  cond <- where_text(x, x$raw$names)
  refuse_fields(x, each, call_of("sets", each = each, sets = paste0(
    active_text(x, earlier, cond), " & ", active_text(x, now, cond), " - ",
    active_text(x, gap, cond)), metrics = asked_metrics(x), top = x$take("n")))
}

way_lapsed <- function(x) {
  whens <- vapply(x$raw$whens, `[[`, "", "text")
  stopped <- x$has("stopped")
  no <- isTRUE(x$raw$not_deal)
  then_not <- length(whens) == 1 && length(x$raw$not_when)
  if (!stopped && !no && !then_not) return(NULL)
  x$take("not_deal")
  x$take("grows")
  # The finding tells how many.
  x$take("counting")
  x$has("active")
  for (cue in c("fall", "never")) x$has(cue)
  each <- subject_of(x, "always")
  if (is.null(each) && stopped && isTRUE(x$raw$who)) whom_back(x)
  if (is.null(each)) return(NULL)
  inactive <- x$take("not_when")
  when <- asked_when(x)
  active <- NULL
  if (!is.null(inactive)) active <- when else inactive <- when
  size <- asked_size(x)
  if (length(size) && names(size) == "bottom") return(NULL)
  refuse_fields(x, each, call_of("lapsed", each = each, active = active, inactive = inactive,
                                 never = "leave", metrics = asked_metrics(x), top = size$top,
                                 where = asked_where(x), min_orders = asked_min_orders(x)))
}

# Metrics held against numbers: who is above, below.
way_having <- function(x) {
  compares <- metric_compares(x)
  # "accounts with net over 10,000": of each in all, as long as the measure is one that adds up.
  named <- any(vapply(x$raw$fields, function(one) one$role == "subject", NA))
  in_all <- function(one) named && one$type == "field" && is_added_up(x$book, one$name)
  compares <- c(compares, lapply(compares_of(x, in_all), function(one) {
    assumed(x, quoted(spoken(one$name)), " is taken in all, not of single lines")
    total <- sum_of_measure(x$book, one$name)
    one$formula <- if (is.null(total$metric)) total$formula else name_text(total$metric)
    one
  }))
  if (!length(compares)) return(NULL)
  orders <- trade_metric(x$book, "orders")
  ranked <- !is.null(x$raw$size) || length(x$raw$metrics)
  is_least <- function(one) identical(one$name, orders) && one$op == ">=" && one$with
  only_orders <- ranked && all(vapply(compares, is_least, NA))
  if (only_orders) return(NULL)
  each <- subject_of(x)
  if (is.null(each) || length(x$raw$metrics) || !is.null(x$raw$size)) return(NULL)
  # How many they are is what the answer tells first.
  x$take("counting")
  when <- asked_when(x)
  where <- asked_where(x, in_all = in_all)
  further <- c(if (!is.null(when)) paste0(", when = ", text_literal(when)),
               if (!is.null(where)) paste0(", where = ", where))
  part <- vapply(compares, function(one) {
    paste0("having(", one$formula %||% name_text(one$name), " ", one$op, " ", compared_with(one),
           paste(further, collapse = ""), ")")
  }, "")
  refuse_fields(x, each, call_of("sets", each = each, sets = paste(part, collapse = " & ")))
}
