# Payouts, continued: the table, its sentences, notes and proof.

payout_table <- function(s) {
  q <- s$q
  m <- q$first
  p <- s$paid
  table <- data.frame(named_keys(s$keys), place = s$place, in_unit(s$value, m),
                      ifelse(p$number == 0, NA, s$step), check.names = FALSE)
  names(table) <- c(q$each, "place", m$name, "step")
  columns <- rbind(new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
                   new_columns(c(m$name, "step"), c(m$unit, "text")))
  unit <- change_unit(m$unit)
  add <- function(name, value, unit, digits = NA) {
    table[[name]] <<- value
    columns <<- rbind(columns, new_columns(name, unit, TRUE, digits))
  }
  if (q$pay == "offer") add("offer", p$offer, "text")
  if (q$pay %in% c("whole", "graduated"))
    add("payout_rate", ifelse(s$value > 0, p$payout / s$value, NA), "percent", 2)
  if (q$pay != "offer") add("payout", p$payout, "money", 2)
  add("to_next", p$to_next, unit)
  if (q$pay != "offer") add("next_adds", p$next_adds, "money", 2)
  for (k in seq_along(s$others))
    add(paste0(if (q$pay == "offer") "offer" else "payout", "_instead",
               if (length(s$others) > 1) paste0("_", k)),
        s$others[[k]]$payout %||% s$others[[k]]$offer, if (q$pay == "offer") "text" else "money",
        if (q$pay == "offer") NA else 2)
  list(table = table, columns = columns, foot = payout_foot(s, table))
}

payout_foot <- function(s, table) {
  q <- s$q
  m <- q$first
  row <- function(label, value, payout = NULL, others = NULL) {
    out <- foot_row(table, q$each, label)
    if (!is.na(value)) out[[m$name]] <- in_unit(value, m)
    if (!is.null(payout)) out$payout <- payout
    for (name in grep("^payout_instead", names(others), value = TRUE))
      out[[name]] <- exact_total(others[[name]])
    out
  }
  held <- lapply(seq_len(nrow(s$steps_held)), function(i) {
    one <- s$steps_held[i, ]
    if (one$names) row(paste0(one$step, " (", count_text(one$names), ")"), one$value, one$payout)
  })
  none <- if (length(s$none) && m$adds_up)
    list(row("(none)", exact_total(s$none)))
  total <- row("total", if (m$adds_up) s$total[[1]] else NA, if (q$pay != "offer")
    exact_total(s$paid$payout), if (q$pay != "offer") table)
  out <- do.call(rbind, c(held, none, list(total)))
  rownames(out) <- NULL
  out
}

payout_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, pay = q$pay, bounds = q$steps$from, pays = q$steps$pays,
                    at_bound = q$at_bound, cap = q$cap, floor = q$floor)
}

payout_finding <- function(s) {
  q <- s$q
  m <- q$first
  what <- each_word(q)
  n <- length(s$value)
  if (!n) return(paste0("No ", what, " has ", spoken(m$name), " here."))
  if (q$pay == "offer") {
    made <- sum(s$paid$offer != "no")
    return(paste0(count_text(made), " of ", plural(n, what), if (made == 1) " gets" else " get",
                  " an offer", if (made) paste0(": ", offers_made(s)), "."))
  }
  paid <- s$paid$payout
  best <- which(paid == max(paid))
  total <- format_number(exact_total(paid), "money", 2)
  paste0("Payouts come to ", total, " for ", count_text(sum(paid > 0)), " of ", plural(n, what),
         if (!is.na(s$costs$payout_rate[1])) paste0(
           ", ", format_number(s$costs$payout_rate[1], "percent", 2),
           share_of_words(q, m, s$value, s$total[[1]])),
         if (max(paid) > 0) paste0("; ", and_list(one_line(s$keys[[1]][best]), 3),
                                   if (length(best) == 1) " gets" else " get", " most, ",
                                   format_number(max(paid), "money", 2)), instead_words(s), ".")
}

offers_made <- function(s) {
  made <- rev(s$steps_held$names[s$steps_held$pays != "no"])
  words <- s$q$steps$pays
  and_list(paste0(one_line(words[made > 0]), " to ", vapply(made[made > 0], count_text, "")), 8)
}

# What the other tables would cost.
instead_words <- function(s) {
  other <- s$costs[-1, ]
  if (!nrow(other)) return(NULL)
  off <- other$difference
  paste0("; ", paste0(fit_text(other$table, 80), " would cost ", ifelse(off == 0, "the same", paste(
    format_number(abs(off), "money", 2), ifelse(off > 0, "more", "less"))), collapse = ", "))
}

payout_reading <- function(s) {
  q <- s$q
  money <- function(x) format_number(x, "money")
  paste0(each_words(q), " by ", metric_words(q$first), "; ",
    table_words(s, q$steps),
    switch(q$pay, whole = ", on the whole amount", graduated = ", each on its slice",
           sum = ", as a fixed sum", offer = ", as an offer"),
    if (!is.null(q$cap)) paste(", at most", money(q$cap)),
    if (!is.null(q$floor)) paste(", at least", money(q$floor)),
    if (q$pay != "offer") "; rounded half up to the coin", "; ", reading_tail(q))
}

payout_notes <- function(s) {
  q <- s$q
  below <- s$value < 0
  close <- sum(!is.na(s$paid$to_next) & s$paid$to_next <= near_bound *
                 abs(s$value + s$paid$to_next) & s$value >= 0)
  rbind(note("negative", if (any(below)) paste0(
          plural(sum(below), "name"), " below zero (", said(exact_total(s$value[below]), q$first),
          " in all) ", if (sum(below) == 1) "is" else "are", " paid nothing: ",
          and_list(one_line(s$keys[[1]][below]), 6), ".")),
        note("near", if (close) paste0(
          plural(close, "name"), if (close == 1) " lacks" else " lack",
          " less than 5 % to the next step.")),
        if (q$pay != "offer") money_notes(s), nameless_note(q, s$none),
        valueless_note(s$valueless), question_notes(q))
}

money_notes <- function(s) {
  q <- s$q
  bare <- s$paid$bare
  capped <- if (is.null(q$cap)) 0 else sum(bare > q$cap)
  raised <- if (is.null(q$floor)) 0 else sum(bare < q$floor & s$value >= 0)
  falls <- falling_step(q)
  off <- exact_total(s$paid$payout) - to_the_coin(sum(within_limits(bare, q, s$value)))
  rbind(note("cap", if (capped) paste0(plural(capped, "payout"), " capped at ",
                                       format_number(q$cap, "money"), ".")),
        note("floor", if (raised) paste0(plural(raised, "payout"), " raised to ",
                                         format_number(q$floor, "money"), ".")),
        note("falls", if (length(falls)) paste0(
          "Reaching ", and_list(vapply(falls, said, "", q$first)), " pays less than staying just ",
          "below it.")),
        note("rounding", if (abs(off) > .004) paste0(
          "The total is that of the rounded payouts, ", format_number(abs(off), "money", 2),
          if (off > 0) " more" else " less", " than rounding the whole at once.")))
}

# Bounds on which the payout is less than just below them.
falling_step <- function(q) {
  from <- q$steps$from[-1]
  upper <- seq_along(from) + 1
  just <- function(number) paid_by_steps(from, number, q$steps, q$pay)
  from[just(upper) < just(upper - 1) - 1e-9 * abs(from)]
}

payout_proof <- function(s) {
  q <- s$q
  m <- q$first
  proof <- rbind(prove_question(q, s$counted, s$total, s$exact),
                 prove_parts(q$metrics, stats::setNames(list(c(s$value, s$none)), m$name), s$total,
                             s$exact, "names"),
                 proof_line("names = names of all steps", length(s$value),
                            sum(s$steps_held$names)))
  if (q$pay == "offer") return(proof)
  bare <- sum(s$paid$bare)
  apart <- abs(sum(s$paid$payout) - sum(within_limits(s$paid$bare, q, s$value)))
  rbind(proof,
        proof_line(paste("payouts before limits and rounding =", switch(
          q$pay, graduated = "rates times what lies in each slice",
          whole = "rates times what lies in each step", sum = "sums times the names of each step")),
          payout_second_route(s), bare, FALSE),
        proof_line("payouts of all steps add up to the total", exact_total(s$paid$payout),
                   sum(s$steps_held$payout), TRUE),
        proof_line("rounding moves no payout by more than half a coin", 0, apart,
                   holds = apart <= .00501 * length(s$value) + 1e-9 * abs(bare)))
}

# Step by step instead of name by name.
payout_second_route <- function(s) {
  q <- s$q
  if (q$pay == "graduated") return(sum(q$steps$pays * slice_amounts(s$value, q$steps)))
  fine <- s$value >= 0
  at <- factor(s$paid$number[fine], seq_len(nrow(q$steps)))
  if (q$pay == "sum") return(sum(q$steps$pays * tabulate(at, nrow(q$steps))))
  sum(q$steps$pays * vapply(split(s$value[fine], at), sum, 0))
}
