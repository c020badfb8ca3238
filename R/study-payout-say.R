# Payouts, continued: the table, its sentences, notes and proof.

payout_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  p <- found$paid
  table <- data.frame(named_keys(found$keys), rank = found$rank, in_unit(found$value, metric),
                      ifelse(p$number == 0, NA, found$step), check.names = FALSE)
  names(table) <- c(args$each, "rank", metric$name, "step")
  columns <- rbind(new_columns("rank", "rank"), new_columns(args$each, "text"),
                   new_columns(c(metric$name, "step"), c(metric$unit, "text")))
  unit <- change_unit(metric$unit)
  add <- function(name, value, unit, digits = NA) {
    table[[name]] <<- value
    columns <<- rbind(columns, new_columns(name, unit, TRUE, digits))
  }
  if (args$pay == "offer") add("offer", p$offer, "text")
  if (args$pay %in% c("whole", "graduated"))
    add("payout_rate", ifelse(found$value > 0, p$payout / found$value, NA), "percent", 2)
  if (args$pay != "offer") add("payout", p$payout, "money", 2)
  add("to_next", p$to_next, unit)
  if (args$pay != "offer") add("next_adds", p$next_adds, "money", 2)
  for (k in seq_along(found$others))
    add(paste0(if (args$pay == "offer") "offer" else "payout", "_compared",
               if (length(found$others) > 1) paste0("_", k)),
        found$others[[k]]$payout %||% found$others[[k]]$offer,
        if (args$pay == "offer") "text" else "money", if (args$pay == "offer") NA else 2)
  list(table = table, columns = columns,
       parts = list(foot = payout_foot(question, found, table), steps = found$steps_held,
                    costs = found$costs))
}

payout_foot <- function(question, found, table) {
  args <- question$args
  metric <- first_metric(question)
  row <- function(label, value, payout = NULL, others = NULL) {
    out <- foot_row(table, args$each, label)
    if (!is.na(value)) out[[metric$name]] <- in_unit(value, metric)
    if (!is.null(payout)) out$payout <- payout
    for (name in grep("^payout_compared", names(others), value = TRUE))
      out[[name]] <- exact_total(others[[name]])
    out
  }
  held <- lapply(seq_len(nrow(found$steps_held)), function(i) {
    one <- found$steps_held[i, ]
    if (one$names) row(paste0(one$step, " (", count_text(one$names), ")"), one$value, one$payout)
  })
  none <- if (length(found$none) && metric$adds_up)
    list(row("(none)", exact_total(found$none)))
  total <- row("total", if (metric$adds_up) found$total[[1]] else NA, if (args$pay != "offer")
    exact_total(found$paid$payout), if (args$pay != "offer") table)
  out <- do.call(rbind, c(held, none, list(total)))
  rownames(out) <- NULL
  out
}

payout_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, pay = args$pay, bounds = args$steps$from,
                    pays = args$steps$pays, at_bound = args$at_bound, cap = args$cap,
                    floor = args$floor)
}

payout_finding <- function(question, found) {
  metric <- first_metric(question)
  what <- each_word(question)
  n <- length(found$value)
  if (!n) return(paste0("No ", what, " has ", spoken(metric$name), " here."))
  if (question$args$pay == "offer") {
    made <- sum(found$paid$offer != "no")
    return(paste0(count_text(made), " of ", plural(n, what), verb(made, " gets"),
                  " an offer", if (made) paste0(": ", offers_made(question, found)), "."))
  }
  paid <- found$paid$payout
  best <- which(paid == max(paid))
  total <- format_number(exact_total(paid), "money", 2)
  paste0("Payouts come to ", total, " for ", count_text(sum(paid > 0)), " of ", plural(n, what),
         if (!is.na(found$costs$payout_rate[1])) paste0(
           ", ", format_number(found$costs$payout_rate[1], "percent", 2),
           share_of_words(question, metric, found$value, found$total[[1]])),
         if (max(paid) > 0) paste0("; ", and_list(told_as_keys(question, found$keys, best), 3),
                                   verb(length(best), " gets"), " most, ",
                                   format_number(max(paid), "money", 2)),
         compared_words(found), ".")
}

offers_made <- function(question, found) {
  made <- rev(found$steps_held$names[found$steps_held$pays != "no"])
  words <- question$args$steps$pays
  and_list(paste0(one_line(words[made > 0]), " to ", vapply(made[made > 0], count_text, "")), 8)
}

# What the other tables would cost.
compared_words <- function(found) {
  other <- found$costs[-1, ]
  if (!nrow(other)) return(NULL)
  off <- other$difference
  paste0("; ", paste0(fit_text(other$table, 80), " would cost ", ifelse(off == 0, "the same", paste(
    format_number(abs(off), "money", 2), ifelse(off > 0, "more", "less"))), collapse = ", "))
}

payout_reading <- function(question, found) {
  args <- question$args
  money <- function(x) format_number(x, "money")
  paste0(each_words(question), " by ", metric_words(first_metric(question)), "; ",
    table_words(question, found, args$steps),
    switch(args$pay, whole = ", on the whole amount", graduated = ", each on its slice",
           sum = ", as a fixed sum", offer = ", as an offer"),
    if (!is.null(args$cap)) paste(", at most", money(args$cap)),
    if (!is.null(args$floor)) paste(", at least", money(args$floor)),
    if (args$pay != "offer") "; rounded half up to the cent", "; ", reading_tail(question))
}

payout_notes <- function(question, found) {
  below <- found$value < 0
  close <- sum(!is.na(found$paid$to_next) & found$paid$to_next <= near_bound *
                 abs(found$value + found$paid$to_next) & found$value >= 0)
  rbind(note("negative", if (any(below)) paste0(
          plural(sum(below), each_word(question)), " below zero (",
          said(exact_total(found$value[below]), first_metric(question)), " in all) ",
          verb(sum(below), "is"), " paid nothing: ",
          and_list(told_as_keys(question, found$keys, below), 6), ".")),
        note("near", if (close) paste0(
          plural(close, each_word(question)), verb(close, " is"),
          " within 5 % of the next step.")),
        if (question$args$pay != "offer") money_notes(question, found),
        nameless_note(question, found$none), valueless_note(question, found$valueless),
        question_notes(question))
}

money_notes <- function(question, found) {
  args <- question$args
  bare <- found$paid$bare
  capped <- if (is.null(args$cap)) 0 else sum(bare > args$cap)
  raised <- if (is.null(args$floor)) 0 else sum(bare < args$floor & found$value >= 0)
  falls <- falling_step(question)
  off <- exact_total(found$paid$payout) -
    to_the_cent(sum(within_limits(bare, question, found$value)))
  rbind(note("cap", if (capped) paste0(plural(capped, "payout"), " capped at ",
                                       format_number(args$cap, "money"), ".")),
        note("floor", if (raised) paste0(plural(raised, "payout"), " raised to ",
                                         format_number(args$floor, "money"), ".")),
        note("falls", if (length(falls)) paste0(
          "Reaching ", and_list(vapply(falls, said, "", first_metric(question))),
          " pays less than staying just below it.")),
        note("rounding", if (abs(off) > .004) paste0(
          "The total is that of the rounded payouts, ", format_number(abs(off), "money", 2),
          if (off > 0) " more" else " less", " than rounding the whole at once.")))
}

# Bounds on which the payout is less than just below them.
falling_step <- function(question) {
  args <- question$args
  from <- args$steps$from[-1]
  upper <- seq_along(from) + 1
  just <- function(number) paid_by_steps(from, number, args$steps, args$pay)
  from[just(upper) < just(upper - 1) - 1e-9 * abs(from)]
}

payout_proof <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  proof <- rbind(prove_question(question, found$counted, found$total, found$exact),
                 prove_parts(question$metrics,
                             stats::setNames(list(c(found$value, found$none)), metric$name),
                             found$total, found$exact, "names"),
                 proof_line("names = names of all steps", length(found$value),
                            sum(found$steps_held$names)))
  if (args$pay == "offer") return(proof)
  bare <- sum(found$paid$bare)
  apart <- abs(sum(found$paid$payout) - sum(within_limits(found$paid$bare, question, found$value)))
  rbind(proof,
        proof_line(paste("payouts before limits and rounding =", switch(
          args$pay, graduated = "rates times what lies in each slice",
          whole = "rates times what lies in each step", sum = "sums times the names of each step")),
          payout_second_route(question, found), bare, FALSE),
        proof_line("payouts of all steps add up to the total", exact_total(found$paid$payout),
                   sum(found$steps_held$payout), TRUE),
        proof_line("rounding moves no payout by more than half a cent", 0, apart,
                   holds = apart <= .00501 * length(found$value) + 1e-9 * abs(bare)))
}

# Step by step instead of name by name.
payout_second_route <- function(question, found) {
  args <- question$args
  if (args$pay == "graduated") return(sum(args$steps$pays * slice_amounts(found$value, args$steps)))
  fine <- found$value >= 0
  at <- factor(found$paid$number[fine], seq_len(nrow(args$steps)))
  if (args$pay == "sum") return(sum(args$steps$pays * tabulate(at, nrow(args$steps))))
  sum(args$steps$pays * vapply(split(found$value[fine], at), sum, 0))
}

payout_behind <- function(question, found) rows_of_names(question$args$each)
