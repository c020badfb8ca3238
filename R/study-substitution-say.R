# Substitution, continued: the table, its sentences, notes and proof.

substitution_table <- function(s) {
  q <- s$q
  m <- q$first
  shown <- utils::head(s$pairs, q$top)
  units <- c("text", "text", "count", rep(m$unit, 4), "percent")
  foot <- shown[NA_integer_, ][1, ]
  foot[c("old", "new")] <- list("all pairs", "")
  foot$matched <- s$moved
  foot$old_lost <- s$lost
  foot$new_gained <- s$gained
  # Bounds to the coin would feign a precision they have not.
  coins <- if (m$unit == "money" && s$gained >= 1000) 0 else NA
  digits <- c(NA, NA, NA, rep(coins, 4), 1)
  list(table = shown, columns = new_columns(names(shown), units, digits = digits), foot = foot)
}

substitution_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, product = q$product, old = q$old, new = q$new, top = q$top,
                    lost = s$lost, gained = s$gained, moved_at_most = s$moved,
                    not_matched = s$gained - s$moved, by_chance = s$chance[["mean"]])
}

substitution_finding <- function(s) {
  q <- s$q
  m <- q$first
  if (!nrow(s$pairs))
    return(paste0("No ", spoken(q$each), " bought less of one ", spoken(q$product),
                  " and more of another, so nothing was replaced."))
  told <- which(!grepl(gathered_words, s$pairs$old) & !grepl(gathered_words, s$pairs$new))
  first <- s$pairs[told[which.max(s$pairs$at_most[told])], ]
  source <- if (is.null(q$old)) paste("falling", plural_word(spoken(q$product))) else
    and_list(one_line(q$old), 3)
  each <- plural_word(spoken(q$each))
  one <- length(q$new) == 1
  all <- if (one) s$new_products[1, ] else
    list(gained = s$gained, at_most = s$moved, by_chance = s$chance[["mean"]],
         chance_deviation = s$chance[["deviation"]])
  paste0(if (one) paste0("Of the ", said(all$gained, m), " that ", each, " bought more of ",
                         one_line(all$new), ",") else paste("Of gains of", said(all$gained, m)),
         " at most ", said(all$at_most, m), " (",
         format_number(all$at_most / all$gained, "percent"), ") may have replaced ", source,
         if (!one) paste(", within the same", each),
         chance_words(all),
         if (length(told)) paste0("; most from ", one_line(first$old), " to ", one_line(first$new),
                                  " (", said(first$at_most, m), " at most)"), ".")
}

# What chance alone would match, and whether there is more than that.
chance_words <- function(all) {
  share <- format_number(all$by_chance / all$gained, "percent")
  if (all$at_most <= all$by_chance + 2 * all$chance_deviation)
    paste0(", no more than chance alone may give (on average ", share, ")") else
      paste0("; chance alone would give ", share)
}

substitution_reading <- function(s) {
  q <- s$q
  names <- function(given, all, verb) {
    if (is.null(given)) paste0("all ", count_text(length(all)), " that ", verb) else
      and_list(one_line(given), 4)
  }
  paste0(capital(metric_words(q$first)), " that each ", spoken(q$each), " bought less of old ",
         plural_word(spoken(q$product)), " (", names(q$old, s$old, "fell"),
         ") against what it bought more of new ones (", names(q$new, s$new, "rose"),
         "), matched within the ", spoken(q$each), " in proportion; ", reading_tail(q))
}

substitution_notes <- function(s) {
  q <- s$q
  rbind(note("bound", "These are upper bounds: who bought less of one and more of another need ",
             "not have replaced it. Chance is what would match if the gains fell to the ",
             plural_word(spoken(q$each)), " by lot."),
        note("none", if (s$nameless != 0) paste0(
          "Lines without a name changed by ", said_change(s$nameless, q$first),
          " and are not matched.")),
        note("gathered", if (max(length(s$old), length(s$new)) > most_products) paste0(
          "The ", most_products, " old and the ", most_products, " new ",
          plural_word(spoken(q$product)), " that changed most are told apart, the others ",
          "gathered.")),
        question_notes(q))
}

substitution_proof <- function(s) {
  q <- s$q
  m <- q$first
  plain <- raw_lines(q)
  proof <- prove_question(q, s$counted, stats::setNames(list(s$total_now), m$name),
                          stats::setNames(list(s$exact), m$name), plain)
  second <- plain_moves(s, plain)
  rbind(proof,
        proof_line("matched pairs add up to what may have moved", s$moved, sum(s$pairs$matched),
                   FALSE),
        proof_line("gains of all new products add up", s$gained, sum(s$new_products$gained),
                   s$exact),
        proof_line("what may have moved, by a second route on the raw lines", second[["moved"]],
                   s$moved, s$exact),
        proof_line("gains of new products, by a second route on the raw lines", second[["gained"]],
                   s$gained, s$exact))
}

# What may have moved and the gains again, in base R on the raw lines; `plain` are those now.
plain_moves <- function(s, plain) {
  q <- s$q
  sums <- function(lines) {
    plain_sums(q$book$source, key_tree(q$book, q$each), key_tree(q$book, q$product),
               q$first$tree, lines$keep)
  }
  then <- sums(raw_lines(q, q$asked$period_before))
  now <- sums(plain)
  pairs <- unique(rbind(then, now)[c("each", "product")])
  value <- function(x) or_zero(x$value[match_keys(as.list(pairs), as.list(x[1:2]))])
  change <- value(now) - value(then)
  name <- pairs$product
  who <- unique(pairs$each)
  whose <- match(pairs$each, who)
  part <- function(side) {
    out <- numeric(length(who))
    if (any(side)) {
      added <- rowsum(abs(change[side]), whose[side])
      out[as.integer(rownames(added))] <- added
    }
    out
  }
  lost <- part(change < -1e-9 & name %in% s$old)
  gained <- part(change > 1e-9 & name %in% s$new)
  c(moved = sum(pmin(lost, gained)), gained = sum(gained))
}
