# Substitution, continued: the table, its sentences, notes and proof.

substitution_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  shown <- utils::head(found$pairs, args$top)
  units <- c("text", "text", "count", rep(metric$unit, 4), "percent")
  foot <- shown[NA_integer_, ][1, ]
  foot[c("old", "new")] <- list("all pairs", "")
  foot$matched <- found$moved
  foot$old_lost <- found$lost
  foot$new_gained <- found$gained
  # Bounds to the cent would feign a precision they have not.
  coins <- if (metric$unit == "money" && found$gained >= 1000) 0 else NA
  digits <- c(NA, NA, NA, rep(coins, 4), 1)
  list(table = shown, columns = new_columns(names(shown), units, digits = digits),
       parts = list(new_products = found$new_products, old_products = found$old_products,
                    matrix = found$matrix, foot = foot),
       coded = c(old = args$product, new = args$product))
}

substitution_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, product = args$product, old = args$old,
                    new = args$new, top = args$top, lost = found$lost, gained = found$gained,
                    moved_at_most = found$moved, not_matched = found$gained - found$moved,
                    by_chance = found$chance[["mean"]])
}

substitution_finding <- function(question, found) {
  args <- question$args
  product <- function(name) told_as(question, args$product, name)
  metric <- first_metric(question)
  if (!nrow(found$pairs)) return(new_finding(compared = TRUE, nothing_replaced(question, found)))
  told <- which(!grepl(gathered_words, found$pairs$old) & !grepl(gathered_words, found$pairs$new))
  # The pair that the table and the tiles have first.
  first <- found$pairs[told[1], ]
  source <- if (is.null(args$old))
    paste("falling", plural_word(noun_of(question, args$product))) else
    and_list(product(args$old), 3)
  each <- plural_word(noun_of(question, args$each))
  one <- length(args$new) == 1
  all <- if (one) found$new_products[1, ] else
    list(gained = found$gained, at_most = found$moved, by_chance = found$chance[["mean"]],
         chance_deviation = found$chance[["deviation"]])
  text <- paste0(
    if (one) paste0("Of the ", said(all$gained, metric), " that ", each, " bought more of ",
                    product(all$new), ",") else paste("Of gains of", said(all$gained, metric)),
         " at most ", said(all$at_most, metric), " (",
         format_number(all$at_most / all$gained, "percent"), ") may have replaced ", source,
         chance_words(all),
         if (length(told)) paste0("; most: ", product(first$new), " for ", product(first$old),
                                  ", ", said(first$at_most, metric)), ".")
  new_finding(text, compared = TRUE)
}

# Of all products where nobody bought less of any and more of any other, else of those looked at.
nothing_replaced <- function(question, found) {
  args <- question$args
  each <- noun_of(question, args$each)
  one <- noun_of(question, args$product)
  if (!found$both) return(paste0("No ", each, " bought less of one ", one, " and more of another, so ",
                                 "nothing was replaced."))
  side <- function(given, word) if (is.null(given)) paste(word, one) else
    and_list(told_as(question, args$product, given), 3, "or")
  paste0("No ", each, " bought less of ", side(args$old, "a falling"), " and more of ",
         side(args$new, "a rising"), ".")
}

# What chance alone would match, and whether there is more than that.
chance_words <- function(all) {
  share <- format_number(all$by_chance / all$gained, "percent")
  if (all$at_most <= all$by_chance + 2 * all$chance_deviation)
    paste0("; chance alone gives ", share, " on average and may give as much") else
      paste0("; chance alone gives ", share)
}

substitution_reading <- function(question, found) {
  args <- question$args
  names <- function(given, all, verb) {
    if (is.null(given)) paste0("all ", count_text(length(all)), " that ", verb) else
      and_list(told_as(question, args$product, given), 4)
  }
  paste0(capital(metric_words(first_metric(question))), " that each ", spoken(args$each),
         " bought less of old ", plural_word(noun_of(question, args$product)), " (",
         names(args$old, found$old, "fell"), ") against what it bought more of new ones (",
         names(args$new, found$new, "rose"), "), matched within the ", spoken(args$each),
         " in proportion; ", reading_tail(question))
}

substitution_notes <- function(question, found) {
  args <- question$args
  rbind(note("bound", "These are upper bounds: who bought less of one and more of another need ",
             "not have replaced it. Chance is what would match if the gains fell to the ",
             plural_word(noun_of(question, args$each)), " by lot."),
        note("none", if (found$nameless != 0) paste0(
          "Lines without a name changed by ", said_change(found$nameless, first_metric(question)),
          " and are not matched.")),
        note("gathered", if (max(length(found$old), length(found$new)) > most_products) paste0(
          "The ", most_products, " old and the ", most_products, " new ",
          plural_word(noun_of(question, args$product)), " that changed most are told apart, ",
          "the others gathered.")),
        question_notes(question))
}

substitution_proof <- function(question, found) {
  metric <- first_metric(question)
  plain <- raw_lines(question)
  named <- function(x) stats::setNames(list(x), metric$name)
  proof <- prove_question(question, found$counted, named(found$total_now), named(found$exact),
                          plain)
  second <- plain_moves(question, found, plain)
  rbind(proof,
        proof_line("matched pairs add up to what may have moved", found$moved,
                   sum(found$pairs$matched), FALSE),
        proof_line("gains of all new products add up", found$gained, sum(found$new_products$gained),
                   found$exact),
        proof_line("what may have moved, by a second route on the raw lines", second[["moved"]],
                   found$moved, found$exact),
        proof_line("gains of new products, by a second route on the raw lines", second[["gained"]],
                   found$gained, found$exact))
}

# What may have moved and the gains again, in base R on the raw lines; `plain` are those now.
plain_moves <- function(question, found, plain) {
  args <- question$args
  sums <- function(lines) {
    second_sums(question$book$source, key_tree(question$book, args$each),
                key_tree(question$book, args$product), first_metric(question)$tree, lines$keep)
  }
  then <- sums(raw_lines(question, question$asked$period_before))
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
  lost <- part(change < -1e-9 & name %in% found$old)
  gained <- part(change > 1e-9 & name %in% found$new)
  c(moved = sum(pmin(lost, gained)), gained = sum(gained))
}

substitution_behind <- function(question, found) list()
