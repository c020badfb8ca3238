# A judge of sentences: random books as companies have them (a last period that has not ended, a
# territory whose last weeks are not in, customers handed over, returns, unknown amounts), questions
# put to them, and every claim of the sentences that come back worked out again by base R from the
# lines alone. It shares no code with what it judges.

judge_lines <- function(seed) withr::with_seed(seed, {
  last <- as.Date("2026-02-10") + sample(280, 1)
  days <- seq(as.Date("2024-01-02"), last, by = "day")
  weekdays <- stats::runif(1) < .6
  if (weekdays) days <- days[as.integer(format(days, "%u")) <= 5]
  reps <- data.frame(rep = c("Ada", "Bea", "Cyd", "Dov", "Eli", "Flo"),
                     territory = rep(c("North", "East", "South"), each = 2))
  n <- 36
  accounts <- data.frame(
    account = sprintf("c%02d", seq_len(n)), type = sample(c("farm", "school", "club"), n, TRUE),
    rep = sample(reps$rep, n, TRUE), weight = exp(stats::rnorm(n, 0, .9)),
    from = as.Date("2023-12-01") + ifelse(stats::runif(n) < .3, sample(700, n, TRUE), 0),
    until = as.Date("2027-01-01") - ifelse(stats::runif(n) < .25, sample(800, n, TRUE), 0),
    gap = ifelse(stats::runif(n) < .2, sample(500, n, TRUE), NA),
    moved = as.Date("2024-06-01") + ifelse(stats::runif(n) < .3, sample(700, n, TRUE), 9999),
    next_rep = sample(reps$rep, n, TRUE))
  items <- data.frame(item = sprintf("i%02d", 1:10), family = rep(c("hives", "suits", "feed"),
                                                                  length.out = 10),
                      price = round(stats::runif(10, 5, 90), 2))
  # The newest and the last of every day's orders keep the book dense.
  orders <- data.frame(day = rep(days, 1 + stats::rpois(length(days), 1.2)))
  orders$order_no <- sprintf("o%05d", seq_len(nrow(orders)))
  orders$account <- sample(accounts$account, nrow(orders), TRUE, accounts$weight)
  own <- accounts[match(orders$account, accounts$account), ]
  paused <- !is.na(own$gap) & orders$day > as.Date("2024-05-01") + own$gap &
    orders$day < as.Date("2024-05-01") + own$gap + 330
  known <- orders$day >= own$from & orders$day <= own$until & !paused
  orders <- orders[known, ]
  own <- own[known, ]
  orders$rep <- ifelse(orders$day >= own$moved, own$next_rep, own$rep)
  orders$territory <- reps$territory[match(orders$rep, reps$rep)]
  orders$type <- own$type
  orders$channel <- sample(c("web", "phone", "field"), nrow(orders), TRUE, c(.5, .3, .2))
  lines <- orders[rep(seq_len(nrow(orders)), sample(1:2, nrow(orders), TRUE)), ]
  at <- sample(10, nrow(lines), TRUE)
  lines$item <- items$item[at]
  lines$family <- items$family[at]
  lines$qty <- sample(1:6, nrow(lines), TRUE)
  lines$list_price <- items$price[at]
  lines$net <- round(lines$qty * lines$list_price * sample(c(1, .95, .9), nrow(lines), TRUE), 2)
  lines$cost <- round(lines$net * stats::runif(nrow(lines), .5, .8), 2)
  lines$fee <- 5
  back <- stats::runif(nrow(lines)) < .03
  lines[back, c("qty", "net", "cost")] <- -lines[back, c("qty", "net", "cost")]
  lines$net[stats::runif(nrow(lines)) < .01] <- NA
  lines$cost[stats::runif(nrow(lines)) < .01] <- NA
  lines$rep[stats::runif(nrow(lines)) < .01] <- NA
  late <- if (stats::runif(1) < .5) sample(unique(reps$territory), 1)
  if (!is.null(late)) lines <- lines[!(lines$territory == late & lines$day > last - sample(25:40, 1)), ]
  rownames(lines) <- NULL
  structure(lines, late = late, weekdays = weekdays)
})

judge_book <- function(lines) {
  ll_book(lines, date = "day", order = "order_no", people = "rep",
          fields = c(order_no = "identifier", fee = "measure", list_price = "measure"),
          metrics = c(revenue = "sum(net)", orders = "distinct(order_no)", units = "sum(qty)", charge = "mean(fee)",
                      margin_rate = "(sum(net) - sum(cost)) / sum(net)"))
}

# ---- what base R makes of the lines ----

judge_sum <- function(x) if (length(x) && all(is.na(x))) NA_real_ else sum(x, na.rm = TRUE)
judge_by <- function(x, by) {
  out <- tapply(x, by, judge_sum)
  stats::setNames(as.numeric(out), names(out))
}
judge_rate <- function(d) {
  d <- d[!is.na(d$net) & !is.na(d$cost), ]
  (sum(d$net) - sum(d$cost)) / sum(d$net)
}

# A period as list(from, to), and to which day the lines cover it: days on which the book never has
# lines are no gap.
judge_period <- function(from, to) list(from = as.Date(from), to = as.Date(to))
judge_covered <- function(lines, p) {
  last <- max(lines$day)
  if (p$to <= last) return(p$to)
  sold <- sort(unique(lines$day))
  # Days without lines up to one, those left out on which hardly anything is ever sold.
  weekday <- function(day) as.integer(format(day, "%u"))
  often <- table(factor(weekday(sold[sold > last - 728]), 1:7))
  open <- which(often >= max(often) / 4)
  lacking <- function(day) {
    n <- 0
    while (!day %in% sold) {
      if (weekday(day) %in% open) n <- n + 1
      day <- day - 1
    }
    n
  }
  before <- function(days) Filter(function(day) day >= sold[1] && day < last, days)
  gaps <- function(days) vapply(before(days), lacking, 0)
  weeks <- gaps(as.list(p$to - 7 * (1:104)))
  usual <- if (length(weeks) >= 12) sort(weeks)[ceiling(.9 * length(weeks))]
  if (format(p$to + 1, "%d") == "01") {
    ends <- gaps(as.list(seq(as.Date(format(p$to, "%Y-%m-01")), by = "-1 month", length.out = 24) - 1))
    if (length(ends) >= 3) usual <- c(usual, stats::median(ends))
  }
  years <- paste0(as.integer(format(p$to, "%Y")) - 1:2, format(p$to, "-%m-%d"))
  years <- gaps(as.list(as.Date(years)))
  if (length(years)) usual <- c(usual, min(years))
  if (lacking(p$to) <= max(usual)) p$to else last
}
judge_in <- function(d, p) d[d$day >= p$from & d$day <= p$to, ]

# The same days of another year, 29 February standing beside 28.
judge_back <- function(day, years = 1) {
  text <- paste0(as.integer(format(day, "%Y")) - years, format(day, "-%m-%d"))
  out <- as.Date(text, optional = TRUE)
  if (is.na(out)) as.Date(sub("-29$", "-28", text)) else
    if (format(day, "%m-%d") == "02-28" && format(out + 1, "%m-%d") == "02-29") out + 1 else out
}

judge_day <- function(day, year = TRUE) {
  paste0(as.integer(format(day, "%d")), " ", month.name[as.integer(format(day, "%m"))],
         if (year) paste0(" ", format(day, "%Y")))
}

# ---- claims ----

# A new record of judged sentences: list(say, told): say() holds a text against a pattern whose
# groups
# must be the values, told() gives what was judged as a data frame.
judge_record <- function() {
  kind <- character()
  wrong <- character()
  say <- function(of, text, pattern, ...) {
    kind <<- c(kind, of)
    wrong <<- c(wrong, judge_text(text, pattern, list(...)))
  }
  list(say = say, told = function() data.frame(kind = kind, wrong = wrong))
}

# "" where the text says just that, else what it says instead.
judge_text <- function(text, pattern, values) {
  if (length(text) != 1) return(paste("sentences:", length(text)))
  found <- regmatches(text, regexec(pattern, text, perl = TRUE))[[1]]
  if (!length(found)) return(paste0("no such claim: ", text, " <> ", pattern))
  found <- found[-1]
  if (length(found) != length(values)) return(paste("groups:", length(found)))
  for (i in seq_along(values)) {
    held <- if (is.numeric(values[[i]])) judge_number(found[i], values[[i]]) else
      identical(found[i], as.character(values[[i]]))
    if (!isTRUE(held)) return(paste0(text, " <> ", values[[i]], " in place of ", found[i]))
  }
  ""
}

# Whether a number as it is shown is the value, to the digits shown.
judge_number <- function(shown, value) {
  text <- gsub("[, %+]", "", shown)
  digits <- nchar(sub("^[^.]*[.]?", "", text))
  number <- suppressWarnings(as.numeric(text))
  !is.na(number) && !is.na(value) && abs(number - value) <= .5 * 10^-digits + 1e-6 + 1e-9 * abs(value)
}

num <- "(-?[0-9][0-9,]*(?:[.][0-9]+)?)"
pct <- paste(num, "%")

# "10.4 % above" as pattern and values; nothing where no growth is told.
judge_change <- function(now, before) {
  if (is.na(before) || before <= 0) return(NULL)
  change <- (now - before) / before
  if (abs(change) < 5e-5) return(list("level with"))
  list(paste0(pct, " ", if (change > 0) "above" else "below"), 100 * abs(change))
}

# ---- the questions ----

# All that is asked of one book; gives a data frame of kind and what is wrong ("" for nothing).
judge_all <- function(seed) {
  lines <- judge_lines(seed)
  book <- judge_book(lines)
  record <- judge_record()
  for (part in judge_parts) withr::with_seed(seed, part(lines, book, record$say))
  told <- record$told()
  told$seed <- rep(seed, nrow(told))
  told
}

judge_parts <- list()

# Periods that are asked: as typed, with their ends; and what each is relatively compared with.
judge_spans <- function(lines) {
  last <- max(lines$day)
  year <- format(last, "%Y")
  month <- as.integer(format(last, "%m"))
  quarter <- (month - 1) %/% 3 + 1
  first <- as.Date(sprintf("%s-%02d-01", year, 3 * quarter - 2))
  third <- seq(first, by = "month", length.out = 4)[4] - 1
  list(list(text = year, name = year, span = judge_period(paste0(year, "-01-01"),
                                                          paste0(year, "-12-31"))),
       list(text = paste0(year, "-Q", quarter), name = paste0("Q", quarter, " ", year),
            span = judge_period(first, third)),
       list(text = "2025", name = "2025", span = judge_period("2025-01-01", "2025-12-31")))
}

# Totals: the value, the period as far as it is covered, and the same days a year before.
judge_parts$total <- function(lines, book, say) {
  for (one in judge_spans(lines)) {
    p <- one$span
    end <- judge_covered(lines, p)
    now <- judge_sum(judge_in(lines, p)$net)
    same <- judge_period(judge_back(p$from), judge_back(end))
    before <- judge_sum(judge_in(lines, same)$net)
    change <- judge_change(now, before)
    cut <- end < p$to
    lead <- if (cut) paste0("^In ", one$name, " to ", judge_day(end, FALSE),
                            ", against the same days of ") else paste0("^In ", one$name, ", against ")
    got <- ll_total(book, when = one$text)
    do.call(say, c(list("total against the year before", ll_finding(got),
                        paste0(lead, ".*: revenue was ", num, ", ", change[[1]], " the ", num,
                               " before[.]$"), now), change[-1], list(before)))
    filtered <- lines[lines$type == "school", ]
    got <- ll_total(book, when = one$text, where = "type == 'school'", against = "year before")
    now <- judge_sum(judge_in(filtered, p)$net)
    before <- judge_sum(judge_in(filtered, same)$net)
    change <- judge_change(now, before)
    if (length(change)) do.call(say, c(
      list("total of a filter", ll_finding(got),
           paste0("where type is school: revenue was ", num, ", ", change[[1]], " the ", num,
                  " before[.]$"), now), change[-1], list(before)))
    rate <- ll_total(book, "margin_rate", when = one$text, against = "year before")
    say("rate over like lines", ll_finding(rate), paste0(": margin rate was ", pct),
        100 * judge_rate(judge_in(lines, p)))
    if (!cut) next
    # A whole year that was typed stays, and the same days are told beside.
    whole <- judge_period(paste0(as.integer(format(p$from, "%Y")) - 1, format(p$from, "-%m-%d")),
                          judge_back(p$to))
    typed <- paste0(whole$from, "/", whole$to)
    got <- ll_total(book, when = one$text, against = typed)
    now <- judge_sum(judge_in(lines, p)$net)
    before <- judge_sum(judge_in(lines, same)$net)
    change <- judge_change(now, before)
    do.call(say, c(list("total against all of a year", ll_finding(got),
                        paste0("revenue was ", num, ", ", change[[1]], " the same days of .*, ", num,
                               "; all of .* was ", num, "[.]$"), now), change[-1],
                   list(before, judge_sum(judge_in(lines, whole)$net))))
    note <- ll_notes(got)$text
    say("incomplete", grep("^Incomplete", note, value = TRUE),
        paste0("is covered to (.*), ", num, " of its ", num, " days[.]$"), judge_day(end),
        as.numeric(end - p$from + 1), as.numeric(p$to - p$from + 1))
  }
}

# Standings: who leads, who is next, shares, the last, within groups.
judge_parts$standings <- function(lines, book, say) {
  for (one in judge_spans(lines)) for (by in c("account", "rep", "territory")) {
    d <- judge_in(lines, one$span)
    value <- judge_by(d$net, d[[by]])
    value <- value[!is.na(value)]
    value <- value[order(-value, names(value))]
    if (length(value) < 2 || value[1] == value[2]) next
    got <- ll_standings(book, by, when = one$text)
    whole <- if (any(value < 0)) "positive total" else "total"
    # Lines without a name are part of the total.
    none <- judge_sum(c(0, d$net[is.na(d[[by]])]))
    share <- 100 * value[1] / (sum(value[value > 0]) + max(none, 0))
    if (none < 0) whole <- "positive total"
    say("leader", ll_finding(got),
        paste0(": (\\w+) leads by revenue with ", num, ", ", pct, " of the ", whole, "; (\\w+) is next ",
               "with ", num, "[.]$"), names(value)[1], value[[1]], share, names(value)[2], value[[2]])
    low <- ll_standings(book, by, bottom = 1, when = one$text)
    at <- length(value)
    if (value[at] < value[at - 1])
      say("last", ll_finding(low), paste0(": last by revenue: (\\w+) with ", num, "[.]$"),
          names(value)[at], value[[at]])
    below <- value[value < 0]
    if (length(below))
      say("below zero", grep("below zero", ll_notes(got)$text, value = TRUE),
          paste0("^", num, " \\w+ (?:is|are) below zero \\(", num), length(below), sum(below))
    none <- d[is.na(d[[by]]), ]
    if (nrow(none))
      say("lines without a name", grep("shown as \\(none\\)", ll_notes(got)$text, value = TRUE),
          paste0("^", num, " lines? without ", by, " with ", num, " of revenue"), nrow(none),
          judge_sum(none$net))
  }
  d <- judge_in(lines, judge_period("2025-01-01", "2025-12-31"))
  cells <- tapply(d$net, list(d$account, d$territory), judge_sum)
  whole <- judge_by(d$net, d$account)
  best <- names(which.max(whole))
  led <- sum(apply(cells, 2, function(v) names(which.max(v))) == best)
  say("first in so many groups", ll_finding(ll_standings(book, "account", within = "territory",
                                                         when = "2025")),
      paste0("(\\w+) leads overall by revenue \\(", num, "\\) and is first in ", num, " of ", num,
             " territories"), best, max(whole, na.rm = TRUE), led, ncol(cells))
}

# Bridge: what made the change, name by name, and what became of names by the whole book.
judge_parts$bridge <- function(lines, book, say) {
  filters <- list(" " = TRUE, "rep == 'Ada'" = lines$rep %in% "Ada",
                  "channel == 'web'" = lines$channel == "web", "type == 'farm'" = lines$type == "farm",
                  "territory == 'North'" = lines$territory == "North",
                  "family == 'suits'" = lines$family == "suits", "qty > 2" = lines$qty > 2)
  for (one in judge_spans(lines)) for (filter in names(filters)) {
    p <- one$span
    end <- judge_covered(lines, p)
    before <- judge_period(judge_back(p$from), judge_back(end))
    keep <- rep_len(filters[[filter]], nrow(lines))
    mine <- lines[keep, ]
    now <- judge_in(mine, p)
    then <- judge_in(mine, before)
    a <- judge_sum(then$net)
    b <- judge_sum(now$net)
    if (!nrow(now) || !nrow(then) || a <= 0 || a == b) next
    where <- if (filter != " ") filter
    got <- ll_bridge(book, "revenue", "territory", when = one$text, where = where)
    say("rose or fell", ll_finding(got),
        paste0("revenue (rose|fell) by ", num, " \\(", pct, "\\) to ", num), if (b > a) "rose" else "fell",
        abs(b - a), 100 * abs(b - a) / a, b)
    names <- sort(unique(c(now$territory, then$territory)))
    moved <- vapply(names, function(t) {
      judge_sum(c(0, now$net[now$territory == t])) - judge_sum(c(0, then$net[then$territory == t]))
    }, 0)
    for (side in c("gains", "losses")) {
      mine <- moved[if (side == "gains") moved > 0 else moved < 0]
      if (!length(mine)) next
      top <- names(which.max(abs(mine)))
      one_of <- if (length(mine) > 1) paste0("most: (\\w+) [+]?", num) else "(\\w+)"
      do.call(say, c(list(side, ll_finding(got), paste0(side, " of ", num, " \\(", one_of, "\\)"),
                          abs(sum(mine)), top), if (length(mine) > 1) list(mine[[top]])))
    }
    judge_became(lines, keep, p, before, end,
                 ll_bridge(book, "revenue", "account", "names", when = one$text, where = where), say)
  }
}

# New, returned, gone and elsewhere, by the lines of the whole book.
judge_became <- function(lines, keep, p, before, end, got, say) {
  inside <- function(which, q) unique(lines$account[which & lines$day >= q$from & lines$day <= q$to])
  here_now <- inside(keep, p)
  here_then <- inside(keep, before)
  all_now <- inside(TRUE, p)
  all_then <- inside(TRUE, before)
  first <- vapply(split(as.numeric(lines$day), lines$account), min, 0)
  fresh <- setdiff(here_now, here_then)
  left <- setdiff(here_then, here_now)
  steps <- list(
    new = fresh[!fresh %in% all_then & first[fresh] >= as.numeric(p$from)],
    "new since" = fresh[!fresh %in% all_then & first[fresh] < as.numeric(p$from) &
                               first[fresh] >= as.numeric(before$from)],
    returned = fresh[!fresh %in% all_then & first[fresh] < as.numeric(before$from)],
    "from elsewhere" = intersect(fresh, all_then), elsewhere = intersect(left, all_now),
    gone = setdiff(left, all_now))
  money <- function(names) {
    mine <- keep & lines$account %in% names
    judge_sum(c(0, lines$net[mine & lines$day >= p$from & lines$day <= p$to])) -
      judge_sum(c(0, lines$net[mine & lines$day >= before$from & lines$day <= before$to]))
  }
  for (name in names(steps)) {
    n <- length(steps[[name]])
    if (!n) {
      say(paste("nobody", name), if (grepl(paste0("[0-9] ", name, " [+-]"), ll_finding(got)))
        "told" else "not told", "^(not told)$", "not told")
      next
    }
    change <- money(steps[[name]])
    say(name, ll_finding(got), paste0(num, " ", name, " ([+-][0-9,]+(?:[.][0-9]+)?)"), n, change)
  }
}

# Tiers, classes: who is where, who rose and fell between like periods, who is elsewhere.
judge_parts$tiers <- function(lines, book, say) {
  for (one in judge_spans(lines)) for (filter in c("", "channel == 'web'")) {
    p <- one$span
    end <- judge_covered(lines, p)
    before <- judge_period(judge_back(p$from), judge_back(end))
    keep <- if (nzchar(filter)) lines$channel == "web" else rep(TRUE, nrow(lines))
    value <- function(q) {
      d <- judge_in(lines[keep, ], q)
      out <- judge_by(d$net, d$account)
      out[!is.na(out)]
    }
    now <- value(p)
    then <- value(before)
    if (!length(now) || !length(then)) next
    bounds <- c(500, 2000)
    got <- ll_tiers(book, "account", tiers = "Low=0,Mid=500,High=2000", when = one$text,
                    against = "year before", where = if (nzchar(filter)) filter)
    tier <- function(v) ifelse(v < 0, 0, 1 + findInterval(round(v, 6), bounds))
    both <- intersect(names(now), names(then))
    top <- max(tier(now))
    say("top tier", ll_finding(got), paste0(": of ", num, " accounts, ", num, " (?:is|are) "),
        length(now), sum(tier(now) == top))
    text <- paste0("; ", num, " rose and ", num, " fell")
    say("rose and fell", ll_finding(got), text, sum(tier(now[both]) > tier(then[both])),
        sum(tier(now[both]) < tier(then[both])))
    elsewhere <- function(names, q) {
      out <- unique(lines$account[!keep & lines$day >= q$from & lines$day <= q$to])
      here <- unique(lines$account[keep & lines$day >= q$from & lines$day <= q$to])
      sum(names %in% out & !names %in% here)
    }
    came <- setdiff(names(now), names(then))
    left <- setdiff(names(then), names(now))
    away <- c(elsewhere(came, before), elsewhere(left, p))
    if (length(came) - away[1] > 0)
      say("no lines then", ll_finding(got), paste0(", ", num, " had no lines then"),
          length(came) - away[1])
    if (length(left) - away[2] > 0)
      say("none now", ll_finding(got), paste0(", ", num, " ha(?:s|ve) none now"),
          length(left) - away[2])
    if (away[1]) say("elsewhere then", ll_finding(got), paste0(", ", num, " (?:was|were) elsewhere then"),
                     away[1])
    if (away[2]) say("elsewhere now", ll_finding(got), paste0(", ", num, " (?:is|are) elsewhere now"),
                     away[2])
    value <- sort(now, decreasing = TRUE)
    good <- value[value > 0]
    share <- cumsum(good) / sum(good)
    # Who crosses the cut is inside, unless others tie with it.
    n <- which(share >= .8 - 1e-12)[1]
    cut <- ll_pareto(book, "account", cut = "80%", when = one$text,
                     where = if (nzchar(filter)) filter)
    if (!anyDuplicated(good))
      say("first 80 %", ll_finding(cut), paste0(": ", num, " of ", num, " accounts \\(", pct,
                                                "\\) brings? ", pct, " of"), n, length(value),
          100 * n / length(value), 100 * share[n])
  }
}

# Who has stopped, who only buys elsewhere.
judge_parts$lapsed <- function(lines, book, say) {
  last <- max(lines$day)
  for (filter in c("", "rep == 'Ada'", "family == 'hives'")) {
    keep <- switch(filter, "rep == 'Ada'" = lines$rep %in% "Ada",
                   "family == 'hives'" = lines$family == "hives", rep(TRUE, nrow(lines)))
    recent <- lines$day > last - 180
    was <- unique(lines$account[keep & !recent])
    lapsed <- setdiff(was, lines$account[keep & recent])
    if (!length(lapsed)) next
    away <- intersect(lapsed, lines$account[!keep & recent])
    got <- ll_lapsed(book, "account", inactive = "last 180 days",
                     where = if (nzchar(filter)) filter)
    text <- ll_finding(got)
    say("lapsed", text, paste0(num, " accounts? ha(?:s|ve) had no lines in the last 180 days"),
        length(lapsed))
    if (length(away)) say("lapsed elsewhere", text, paste0(num, " with lines elsewhere in the book"),
                          length(away)) else
      say("nobody elsewhere", if (grepl("elsewhere", text)) "told" else "not told", "^(not told)$",
          "not told")
    # Each one's year up to the last line, and its usual interval.
    stake <- vapply(lapsed, function(k) {
      mine <- lines[keep & lines$account == k, ]
      judge_sum(c(0, mine$net[mine$day > max(mine$day) - 365]))
    }, 0)
    say("at stake", text, paste0("(?:they|it) brought ", num, " of revenue"), sum(stake))
    gaps <- lapply(split(lines$day[keep], lines$account[keep]), function(x) diff(sort(unique(x))))
    own <- lengths(gaps) >= 2
    usual <- vapply(gaps, function(g) as.numeric(stats::median(as.numeric(g))), 0)
    all <- stats::median(usual[own])
    usual[!own] <- all
    since <- vapply(lapsed, function(k) as.numeric(last - max(lines$day[keep & lines$account == k])), 0)
    rest <- setdiff(lapsed, away)
    within <- sum(since[rest] <= usual[rest] & since[rest] <= 2 * usual[rest])
    if (within) say("within the usual interval", text, paste0(num, " within the usual interval"),
                    within) else
      say("nobody within the usual interval",
          if (grepl("[0-9] within the usual", text)) "told" else "not told", "^(not told)$", "not told")
  }
}

# New against existing, who stays, and who only buys elsewhere.
judge_parts$cohorts <- function(lines, book, say) {
  for (filter in c("", "channel == 'web'")) {
    keep <- if (nzchar(filter)) lines$channel == "web" else rep(TRUE, nrow(lines))
    got <- ll_cohorts(book, "account", every = "year", where = if (nzchar(filter)) filter)
    first <- vapply(split(as.numeric(lines$day), lines$account), min, 0)
    year <- function(day) format(as.Date(day, origin = "1970-01-01"), "%Y")
    new <- names(first)[year(first) == "2025"]
    mine <- lines[keep & year(lines$day) == "2025", ]
    brought <- mine[mine$account %in% new, ]
    if (!nrow(brought)) next
    say("new ones", ll_finding(got), paste0("[Ii]n 2025, ", num, " new accounts? brought ", num, " \\(",
                                           pct, " of revenue\\)"), length(unique(brought$account)),
        judge_sum(brought$net), 100 * judge_sum(brought$net) / judge_sum(mine$net))
    now <- format(max(lines$day), "%Y")
    last <- lines[keep & year(lines$day) == now & lines$account %in% names(first)[year(first) == now], ]
    if (nrow(last) && judge_covered(lines, judge_period(paste0(now, "-01-01"), paste0(
      now, "-12-31"))) < as.Date(paste0(now, "-12-31")))
      say("new ones so far", ll_finding(got), paste0("; in ", now, " to (.*?), ", num, " brought ", num),
          judge_day(max(lines$day), FALSE), length(unique(last$account)), judge_sum(last$net))
  }
}

# Sets under a filter: who is active then and not now, and who is elsewhere.
judge_parts$sets <- function(lines, book, say) {
  now <- format(max(lines$day), "%Y")
  for (filter in c("", "rep == 'Bea'")) {
    keep <- if (nzchar(filter)) lines$rep %in% "Bea" else rep(TRUE, nrow(lines))
    year <- format(lines$day, "%Y")
    gone <- setdiff(lines$account[keep & year == "2025"], lines$account[keep & year == now])
    if (!length(gone) || now == "2025") next
    got <- ll_sets(book, "account", sets = list(paste0("active(\"2025\") - active(\"", now, "\")")),
                   where = if (nzchar(filter)) filter)
    money <- judge_sum(c(0, lines$net[keep & lines$account %in% gone]))
    say("active then and not now", ll_finding(got),
        paste0(num, " accounts? (?:is|are) active in 2025 and not active in ", now,
               ": over all dates revenue ", num), length(gone), money)
    away <- intersect(gone, lines$account[!keep & year == now])
    if (length(away)) say("of these elsewhere", ll_finding(got), paste0(
      "; ", num, " of them ha(?:s|ve) lines elsewhere in the book in ", now), length(away))
  }
}

# Quadrants: how many are where, and a metric that divides nobody.
judge_parts$quadrants <- function(lines, book, say) {
  for (one in judge_spans(lines)) {
    d <- judge_in(lines, one$span)
    x <- judge_by(d$net, d$account)
    y <- vapply(split(d, d$account), judge_rate, 0)
    known <- is.finite(x) & is.finite(y)
    x <- x[known]
    y <- y[known]
    whole <- judge_rate(d[d$account %in% names(x), ])
    high_x <- x >= mean(x) - 1e-9
    high_y <- y >= whole - 1e-9
    got <- ll_quadrants(book, "account", c("revenue", "margin_rate"), when = one$text)
    say("high and low", ll_finding(got),
        paste0(": ", num, " of ", num, " accounts ha(?:s|ve) high revenue and low margin rate"),
        sum(high_x & !high_y), length(x))
    both <- sum(high_x & high_y)
    say("high both", ll_finding(got), paste0("; ", if (both) num else "(none)",
                                             " ha(?:s|ve) high revenue and high margin"),
        if (both) both else "none")
    flat <- ll_quadrants(book, "account", c("revenue", "charge"), when = one$text)
    x <- judge_by(d$net, d$account)
    x <- x[!is.na(x)]
    high_x <- x >= mean(x) - 1e-9
    say("same for all", ll_finding(flat),
        paste0("all ", num, " accounts have the same charge, 5.00, which divides nobody; by revenue, ", num,
               " (?:is|are) high and ", num, " low"), length(x), sum(high_x), sum(!high_x))
  }
}

# Trend: the last whole month, and the year so far.
judge_parts$trend <- function(lines, book, say) {
  last <- max(lines$day)
  got <- ll_trend(book, every = "month")
  month <- format(lines$day, "%Y-%m")
  this <- format(last, "%Y-%m")
  first <- as.Date(paste0(this, "-01"))
  end <- seq(first, by = "month", length.out = 2)[2] - 1
  whole <- if (judge_covered(lines, judge_period(first, end)) >= end) this else format(first - 1, "%Y-%m")
  ago <- paste0(as.integer(substr(whole, 1, 4)) - 1, substr(whole, 5, 7))
  now <- judge_sum(lines$net[month == whole])
  before <- judge_sum(lines$net[month == ago])
  change <- judge_change(now, before)
  do.call(say, c(list("last whole month", ll_finding(got),
                      paste0("^Revenue in (.*?) was ", num, ", ", change[[1]], " a year before \\(", num,
                             "\\)"), whole, now), change[-1], list(before)))
  year <- judge_period(paste0(format(last, "%Y"), "-01-01"), last)
  same <- judge_period(judge_back(year$from), judge_back(last))
  now <- judge_sum(judge_in(lines, year)$net)
  before <- judge_sum(judge_in(lines, same)$net)
  change <- judge_change(now, before)
  do.call(say, c(list("year to date", grep("^The year to date", ll_notes(got)$text, value = TRUE),
                      paste0(": revenue ", num, ", ", change[[1]], " the same stretch a year before \\(",
                             num, "\\)"), now), change[-1], list(before)))
}

# Crosstab: the largest cell, the highest share of a row, and what has no name.
judge_parts$crosstab <- function(lines, book, say) {
  for (one in judge_spans(lines)) {
    d <- judge_in(lines, one$span)
    cells <- tapply(d$net, list(d$rep, d$channel), judge_sum)
    best <- which(cells == max(cells, na.rm = TRUE), arr.ind = TRUE)
    if (nrow(best) != 1) next
    got <- ll_crosstab(book, "rep", "channel", when = one$text)
    say("largest cell", ll_finding(got),
        paste0("the most revenue: rep (\\w+) and channel (\\w+), ", num, ", ", pct, " of the total"),
        rownames(cells)[best[1]], colnames(cells)[best[2]], max(cells, na.rm = TRUE),
        100 * max(cells, na.rm = TRUE) / judge_sum(d$net))
    rows <- vapply(rownames(cells), function(r) judge_sum(d$net[d$rep %in% r]), 0)
    share <- cells / rows
    share[rows <= 0, ] <- NA
    best <- which(share == max(share, na.rm = TRUE), arr.ind = TRUE)
    shared <- ll_crosstab(book, "rep", "channel", share_of = "row", when = one$text)
    if (nrow(best) == 1)
      say("share of its row", ll_finding(shared),
          paste0("the highest share of its row: rep (\\w+) and channel (\\w+), ", pct, " of ", num,
                 " revenue"), rownames(cells)[best[1]], colnames(cells)[best[2]],
          100 * max(share, na.rm = TRUE), rows[[best[1]]])
    names <- c("web", "phone")
    value <- vapply(names, function(k) judge_sum(d$net[d$channel == k]), 0)
    lead <- which.max(value)
    met <- tapply(d$net, list(d$type, factor(d$channel, names)), judge_sum)
    met <- met[rowSums(!is.na(met)) > 0, , drop = FALSE]
    met[is.na(met)] <- 0
    say("side by side", ll_finding(ll_versus(book, "channel", names, by = "type", when = one$text)),
        paste0("(\\w+) leads by revenue, ", num, " against ", num, "; of ", num, " types?, web leads in ",
               num, " and phone leads in ", num), names[lead], value[[lead]], value[[3 - lead]],
        nrow(met), sum(met[, 1] > met[, 2]), sum(met[, 2] > met[, 1]))
  }
}

# A share of draws that was counted, a change of orders and units, the largest order, who pays.
judge_parts$others <- function(lines, book, say) {
  for (one in judge_spans(lines)) {
    d <- judge_in(lines, one$span)
    order <- judge_by(d$net, d$order_no)
    order <- order[!is.na(order)]
    if (sum(order == max(order)) == 1)
      say("largest order", ll_finding(ll_holders(book, "order_no", when = one$text)),
          paste0("(o[0-9]{5}) .*?with ", num), names(which.max(order)), max(order))
    value <- judge_by(d$net, d$rep)
    value <- value[!is.na(value)]
    got <- ll_benchmark(book, "rep", fixed = 1000, when = one$text)
    say("reach a target", ll_finding(got), paste0("; ", num, " of ", num, " reps reach(?:es)? it"),
        sum(value >= 1000), length(value))
    sums <- vapply(c("net", "qty"), function(f) judge_sum(d[[f]]), 0)
    units <- ll_total(book, c("units", "orders"), when = one$text, against = "year before")
    say("units", ll_finding(units), paste0(": units were ", num), sums[["qty"]])
    say("orders", ll_finding(units), paste0("orders ", num, "[,;.]"), length(unique(d$order_no)))
  }
  {
    drill <- ll_drill(book, by = c("territory", "channel"), when = "2025-Q4", against = "2024-Q4")
    a <- judge_sum(judge_in(lines, judge_period("2024-10-01", "2024-12-31"))$net)
    b <- judge_sum(judge_in(lines, judge_period("2025-10-01", "2025-12-31"))$net)
    say("drill's change", ll_finding(drill), paste0("revenue (rose|fell) by ", num, " \\(", pct, "\\) to ",
                                                    num), if (b > a) "rose" else "fell", abs(b - a),
        100 * abs(b - a) / a, b)
  }
}

# Late lines are told where they are late, and nowhere else; returns are seen.
judge_parts$late <- function(lines, book, say) {
  late <- attr(lines, "late")
  year <- format(max(lines$day), "%Y")
  notes <- ll_notes(ll_total(book, when = year))
  told <- notes$text[notes$kind == "late"]
  if (is.null(late)) say("nothing late", if (length(told)) told else "not told", "^(not told)$", "not told")
  else if (any(startsWith(told, paste("Territory", late, "has no lines"))))
    say("late territory", told, "^Territory (\\w+) has (?:no|hardly any) lines after (.*?), the others go",
        late, judge_day(max(lines$day[lines$territory == late])))
  other <- setdiff(c("North", "East", "South"), late)[1]
  notes <- ll_notes(ll_total(book, when = year, where = paste0("territory == '", other, "'")))
  mine <- is.null(late) || any(startsWith(told, paste("Territory", late)))
  if (mine) say("late elsewhere is not told of", if (any(notes$kind == "late")) "told" else "not told",
      "^(not told)$", "not told")
  found <- ll_check(book)
  back <- found[found$finding == "below zero: returns and credits" & found$field == "net", ]
  say("returns", if (nrow(back)) as.character(back$lines) else "none", "^([0-9]+)$",
      sum(lines$net < 0, na.rm = TRUE))
  takes <- found$fix[grepl("net < 0|qty < 0", found$fix)]
  say("no fix takes returns", if (length(takes)) takes[1] else "not told", "^(not told)$", "not told")
}
