# White space, continued: the table, its sentences, notes, proof and what is drawn.

whitespace_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  gaps <- found$gaps
  names <- found$names[gaps$name]
  fields <- shown_fields(question, names)
  all <- paste0(metric$name, "_all")
  cells <- c(stats::setNames(list(shown_names(names)), args$each), fields$cells,
             stats::setNames(list(shown_names(found$product_names[gaps$product])), args$product),
             list(worth = gaps$worth))
  columns <- rbind(new_columns(args$each, "text"), fields$columns,
                   new_columns(c(args$product, "worth"), c("text", metric$unit)))
  if (found$gap == "none") {
    cells <- c(cells, as.list(gaps[c("buyers", "peers", "common", "typical_share", "typical")]))
    columns <- rbind(columns, new_columns(
      c("buyers", "peers", "common", "typical_share", "typical"),
      c("count", "count", "percent", "percent", metric$unit), digits = c(NA, NA, 0, 1, NA)))
    if (!is.null(found$last)) {
      cells$last_bought <- found$last
      columns <- rbind(columns, new_columns("last_bought", "date"))
    }
  } else {
    cells[[metric$name]] <- gaps$value
    cells <- c(cells, list(expected = gaps$expected, share = gaps$value /
                           found$name_total[gaps$name], share_elsewhere = gaps$elsewhere,
                           sellers = gaps$sellers,
                             leader = found$names[gaps$leader]))
    columns <- rbind(columns, new_columns(
      c(metric$name, "expected", "share", "share_elsewhere", "sellers", "leader"),
      c(metric$unit, metric$unit, "percent", "percent", "count", "text"),
      digits = c(NA, NA, 1, 1, NA, NA)))
  }
  cells[[all]] <- found$name_total[gaps$name]
  list(table = as.data.frame(cells, optional = TRUE),
       columns = rbind(columns, new_columns(all, metric$unit)),
       coded = c(leader = args$each),
       parts = list(products = found$products, cells = whitespace_cells(question, found),
                    tried = as.data.frame(found$tried)))
}

whitespace_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, product = args$product, name = args$name,
                    top = args$top, like = if (length(args$like)) args$like, buyers = args$buyers,
                    gap = found$gap, yearly = found$yearly,
                    with_fields = if (length(args$with_fields)) args$with_fields,
                    peers = found$peers, gaps = found$gap_count)
}

# "the 40 best accounts"
peers_words <- function(question, found) {
  args <- question$args
  word <- plural_word(noun_of(question, args$each))
  if (found$peers == 1) return(paste("the one", spoken(args$each)))
  if (found$peers == found$all_names) paste("all", count_text(found$peers), word) else
    paste("the", count_text(found$peers), "best", word)
}

whitespace_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  who <- if (is.null(args$name)) peers_words(question, found) else
    and_list(told_as(question, args$each, args$name), 3)
  if (!nrow(found$gaps))
    return(paste0("No gaps among ", who, ": ", if (found$gap == "none") paste0(
      "none of them lacks any ", spoken(args$product), " that at least ", count_text(args$buyers),
      " of the others buy.") else
        paste0("no ", spoken(args$product), " sells far less than elsewhere.")))
  top <- found$gaps[1, ]
  name <- told_as(question, args$each, found$names[top$name])
  product <- told_as(question, args$product, found$product_names[top$product])
  if (found$gap == "little")
    return(paste0(name, " sells ", said(top$value, metric), " of ", product, ", where its share ",
                  "elsewhere would make it ", said(top$expected, metric), ": ",
                  said(top$worth, metric), " short, the most of ", plural(found$gap_count, "gap"),
                  "."))
  if (length(args$name) == 1)
    return(paste0(name, " buys no ", product, ", as ", count_text(top$buyers), " of ",
                  plural(top$peers, "other"), " do: worth about ", said(top$worth, metric),
                  a_year(found), if (found$gap_count > 1)
                    paste0(", the most of ", plural(found$gap_count, "gap")), "."))
  lead <- found$products[1, ]
  of <- if (is.null(lead$like)) who else if (is.null(args$name))
    paste0(count_text(lead$gaps + lead$buyers), " ", plural_word(noun_of(question, args$each)),
           " (",
           lead$like, ")") else paste0(who, " (", lead$like, ")")
  paste0(count_text(lead$gaps), " of ", of, verb(lead$gaps, " buys"), " no ",
         told_as(question, args$product, lead[[args$product]]), ", which ",
         count_text(lead$buyers), " of them do: worth ",
         "about ", said(lead$together, metric), a_year(found), if (lead$gaps > 1) " together", "; ",
         plural(found$gap_count, "gap"), " in all.")
}

a_year <- function(found) if (found$yearly) " a year" else ""

whitespace_reading <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  how <- if (found$gap == "none") paste0(
    "not bought at all, judged where at least ", count_text(args$buyers), " buy it; worth",
    a_year(found), ": the median share that buyers give it, of the ",
    noun_of(question, args$each), "'s own ",
    metric_words(metric),
    ", at most what buyers up to its size buy, times the share of the others that buy") else
      paste0("below ", format_number(little_part, "percent", 0), " of what the share of all ",
             "others would make it; worth: what ", metric_words(metric), " is short of that")
  like <- if (length(args$like))
    paste0(", held against those of the same ", and_list(spoken(args$like)))
  paste0("Each ", spoken(args$product), " of ", peers_words(question, found), " by ",
         spoken(metric$name), like, ", ", how, "; ", reading_tail(question))
}

# How much of what was reckoned so a year before came true.
tried_words <- function(question, found) {
  t <- found$tried
  if (is.null(t)) return(NULL)
  metric <- first_metric(question)
  paste0(" Tried a year before, on the lines of the year to ", date_text(t$cut), ": of ",
         said(t$worth, metric), " for ", plural(t$gaps, "gap"), ", ", said(t$came, metric), " (",
         format_number(t$came / t$worth, "percent", 0), ") came in the year after.")
}

# Products of the register that nobody bought are judged no more than those with few buyers.
unsold_words <- function(question, found) {
  args <- question$args
  if (is.null(question$book$registers[[args$product]])) return(NULL)
  sold <- found$product_names[unique(found$pairs$product)]
  n <- length(setdiff(registered_names(question$book, args$product, list(where = NULL)), sold))
  if (n) paste0(plural(n, noun_of(question, args$product)), " of the register ",
                verb(n, "has"),
                " no lines of those compared and ", verb(n, "is"), " not judged.")
}

whitespace_notes <- function(question, found) {
  args <- question$args
  worth <- if (nrow(found$gaps)) paste0(
    "Worth is what is usual among the ", if (found$gap == "none") "buyers" else "others",
    if (found$gap == "none") " for its size", ", not a forecast.", tried_words(question, found))
  unjudged <- if (found$gap == "none") {
    seen <- length(unique(found$pairs$product))
    seen - length(unique(found$judged$product))
  }
  returned <- if (found$gap == "none" && nrow(found$gaps)) {
    bad <- !is.na(found$pairs$value) & found$pairs$value <= 0
    sum(match_keys(list(found$gaps$name, found$gaps$product),
                   lapply(found$pairs[c("name", "product")], `[`, bad)) > 0, na.rm = TRUE)
  }
  before <- if (!is.null(found$last)) sum(!is.na(found$last))
  ties <- if (is.numeric(args$top) && found$peers > args$top && found$peers <= found$all_names)
    paste0(plural(found$peers, each_word(question)),
           " are compared: of those tied at the edge none is left out.")
  rbind(note("worth", worth),
        note("few", if (isTRUE(unjudged > 0)) paste0(
          plural(unjudged, noun_of(question, args$product)), " with fewer than ",
          count_text(args$buyers),
          " buyers in any group ", verb(unjudged, "is"), " not judged.")),
        note("no_lines", unsold_words(question, found)),
        note("more", if (found$gap_count > nrow(found$gaps)) paste0(
          count_text(nrow(found$gaps)), " of ", plural(found$gap_count, "gap"),
          " are listed, those worth most; 'max_gaps' lists more.")),
        note("returned", if (isTRUE(returned > 0)) paste0(
          "In ", plural(returned, "gap"), " listed there are lines that come to nothing or less, ",
          "as when all was returned.")),
        note("before", if (isTRUE(before > 0)) paste0(
          plural(before, "gap"), if (before == 1) " listed was" else " listed were",
          " bought outside this period: see last_bought.")),
        note("ties", ties), question_notes(question))
}

whitespace_proof <- function(question, found) {
  plain <- raw_lines(question)
  proof <- rbind(
    prove_question(question, found$counted, found$total, found$exact, plain),
    proof_line(paste0(first_metric(question)$name, " of the pairs = of the names they are of"),
               exact_total(found$name_total), exact_total(found$pairs$value) + found$unproduct,
               found$exact[[1]]))
  if (found$gap == "little" || !nrow(found$gaps)) return(proof)
  # Every name asked about and product judged in its group is a buyer or a gap.
  members <- tabulate(found$group$of[found$asked], length(found$group$labels))
  asked <- tabulate(found$asked, length(found$names)) > 0
  bought <- asked[found$pairs$name] & !is.na(found$pairs$value) & found$pairs$value > 0
  judged <- judged_row(found$judged, found$group$of[found$pairs$name[bought]],
                       found$pairs$product[bought])
  rbind(proof,
        proof_line("names by products judged = buyers + gaps", sum(members[found$judged$group]),
                   sum(!is.na(judged)) + found$gap_count), prove_buyers(question, found, plain))
}

# The buyers of the first gap's product, counted in base R on the raw lines.
prove_buyers <- function(question, found, plain) {
  args <- question$args
  top <- found$gaps[1, ]
  name <- found$product_names[top$product]
  wanted <- second_pick(question$book$source, node("within",
                                                   arg = key_tree(question$book, args$product),
                                                   set = node("set", values = name)))
  sums <- second_sums(question$book$source, key_tree(question$book, args$each),
                      key_tree(question$book, args$product), first_metric(question)$tree,
                      pick_both(plain$keep, wanted))
  like <- found$names[found$in_peers & found$group$of == found$group$of[top$name]]
  value <- sums$value[sums$each %in% like]
  proof_line(paste0("buyers of ", one_line(name), " by a second route"),
             sum(value > 0, na.rm = TRUE), top$buyers)
}

# The names and products drawn, with what was bought and where the gaps are: a row for each cell.
whitespace_cells <- function(question, found) {
  args <- question$args
  if (!nrow(found$products)) return(data.frame())
  products <- utils::head(match(found$products[[args$product]], found$product_names), 60)
  products <- utils::head(unique(products), tiles_products)
  # Of the names those with the gaps worth most, then the best of the others, by their ranks.
  held <- rowsum(found$gaps$worth, found$gaps$name)
  worth <- numeric(length(found$asked))
  worth[match(as.integer(rownames(held)), found$asked)] <- held
  names <- found$asked[sort(utils::head(order(-worth), tiles_names))]
  cells <- expand.grid(name = names, product = products)
  near <- which(found$pairs$name %in% names & found$pairs$product %in% products)
  at <- match_keys(cells, lapply(found$pairs[c("name", "product")], `[`, near))
  value <- found$pairs$value[near][at]
  # Listed or not.
  worth <- rep(NA_real_, nrow(cells))
  if (found$gap == "little") {
    pair <- list(cells$name, cells$product)
    worth <- found$short$short[match_keys(pair, found$short[c("name", "product")])]
  } else {
    row <- match_keys(list(found$group$of[cells$name], cells$product),
                      found$judged[c("group", "product")])
    gap <- which(!is.na(row) & !(!is.na(value) & value > 0))
    for (i in gap) worth[i] <- found$worth(row[i], cells$name[i])
  }
  out <- data.frame(name = found$names[cells$name], product = found$product_names[cells$product],
                    value = value, worth = worth, gap = !is.na(worth))
  names(out)[1:2] <- c(args$each, args$product)
  out
}

tiles_names <- 20
tiles_products <- 12

whitespace_behind <- function(question, found) rows_of_names(question$args$each)
