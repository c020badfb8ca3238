# White space, continued: the table, its sentences, notes, proof and what is drawn.

whitespace_table <- function(s) {
  q <- s$q
  m <- q$first
  gaps <- s$gaps
  names <- s$names[gaps$name]
  fields <- shown_fields(q, names)
  all <- paste0(m$name, "_all")
  cells <- c(stats::setNames(list(shown_names(names)), q$each), fields$cells,
             stats::setNames(list(shown_names(s$product_names[gaps$product])), q$product),
             list(worth = gaps$worth))
  columns <- rbind(new_columns(q$each, "text"), fields$columns,
                   new_columns(c(q$product, "worth"), c("text", m$unit)))
  if (s$gap == "none") {
    cells <- c(cells, as.list(gaps[c("buyers", "peers", "common", "typical_share", "typical")]))
    columns <- rbind(columns, new_columns(
      c("buyers", "peers", "common", "typical_share", "typical"),
      c("count", "count", "percent", "percent", m$unit), digits = c(NA, NA, 0, 1, NA)))
    if (!is.null(s$last)) {
      cells$last_bought <- s$last
      columns <- rbind(columns, new_columns("last_bought", "date"))
    }
  } else {
    cells[[m$name]] <- gaps$value
    cells <- c(cells, list(expected = gaps$expected, share = gaps$value / s$name_total[gaps$name],
                           share_elsewhere = gaps$elsewhere, sellers = gaps$sellers,
                             leader = s$names[gaps$leader]))
    columns <- rbind(columns, new_columns(
      c(m$name, "expected", "share", "share_elsewhere", "sellers", "leader"),
      c(m$unit, m$unit, "percent", "percent", "count", "text"),
      digits = c(NA, NA, 1, 1, NA, NA)))
  }
  cells[[all]] <- s$name_total[gaps$name]
  list(table = as.data.frame(cells, optional = TRUE),
       columns = rbind(columns, new_columns(all, m$unit)))
}

whitespace_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, product = q$product, name = q$name, top = q$top,
                    like = if (length(q$like)) q$like, buyers = q$buyers, gap = s$gap,
                    yearly = s$yearly, show = if (length(q$show)) q$show, peers = s$peers,
                    gaps = s$found)
}

# "the 40 best accounts"
peers_words <- function(s) {
  q <- s$q
  word <- plural_word(spoken(q$each))
  if (s$peers == 1) return(paste("the one", spoken(q$each)))
  if (s$peers == s$all_names) paste("all", count_text(s$peers), word) else
    paste("the", count_text(s$peers), "best", word)
}

whitespace_finding <- function(s) {
  q <- s$q
  who <- if (is.null(q$name)) peers_words(s) else and_list(one_line(q$name), 3)
  if (!nrow(s$gaps))
    return(paste0("No gaps among ", who, ": ", if (s$gap == "none") paste0(
      "none of them lacks any ", spoken(q$product), " that at least ", count_text(q$buyers),
      " of the others buy.") else
        paste0("no ", spoken(q$product), " sells far less than elsewhere.")))
  top <- s$gaps[1, ]
  name <- one_line(s$names[top$name])
  product <- one_line(s$product_names[top$product])
  if (s$gap == "little")
    return(paste0(name, " sells ", said(top$value, q$first), " of ", product, ", where its share ",
                  "elsewhere would make it ", said(top$expected, q$first), ": ",
                  said(top$worth, q$first), " short, the most of ", plural(s$found, "gap"), "."))
  if (length(q$name) == 1)
    return(paste0(name, " buys no ", product, ", as ", count_text(top$buyers), " of ",
                  plural(top$peers, "other"), " do: worth about ", said(top$worth, q$first),
                  a_year(s),
                  if (s$found > 1) paste0(", the most of ", plural(s$found, "gap")), "."))
  lead <- s$products[1, ]
  of <- if (is.null(lead$like)) who else if (is.null(q$name))
    paste0(count_text(lead$gaps + lead$buyers), " ", plural_word(spoken(q$each)), " (", lead$like,
           ")") else paste0(who, " (", lead$like, ")")
  paste0(count_text(lead$gaps), " of ", of, if (lead$gaps == 1) " buys" else " buy", " no ",
         one_line(lead[[q$product]]), ", which ", count_text(lead$buyers), " of them do: worth ",
         "about ", said(lead$together, q$first), a_year(s), if (lead$gaps > 1) " together", "; ",
         plural(s$found, "gap"), " in all.")
}

a_year <- function(s) if (s$yearly) " a year" else ""

whitespace_reading <- function(s) {
  q <- s$q
  how <- if (s$gap == "none") paste0(
    "not bought at all, judged where at least ", count_text(q$buyers), " buy it; worth", a_year(s),
    ": the median share that buyers give it, of the name's own ", metric_words(q$first),
    ", at most what buyers up to its size buy, times the share of the others that buy") else
      paste0("below ", format_number(little_part, "percent", 0), " of what the share of all ",
             "others would make it; worth: what ", metric_words(q$first), " is short of that")
  paste0("Each ", spoken(q$product), " of ", peers_words(s), " by ", spoken(q$first$name),
         if (length(q$like)) paste0(", held against those of the same ",
                                    and_list(spoken(q$like))),
         ", ", how, "; ", reading_tail(q))
}

# How much of what was reckoned so a year before came true.
tried_words <- function(s) {
  t <- s$tried
  if (is.null(t)) return(NULL)
  m <- s$q$first
  paste0(" Tried a year before, on the lines of the year to ", date_text(t$cut), ": of ",
         said(t$worth, m), " for ", plural(t$gaps, "gap"), ", ", said(t$came, m), " (",
         format_number(t$came / t$worth, "percent", 0), ") came in the year after.")
}

# Products of the register that nobody bought are judged no more than those with few buyers.
unsold_words <- function(s) {
  q <- s$q
  if (is.null(q$book$registers[[q$product]])) return(NULL)
  sold <- s$product_names[unique(s$pairs$product)]
  n <- length(setdiff(registered_names(q$book, q$product, list(where = NULL)), sold))
  if (n) paste0(plural(n, spoken(q$product)), " of the register ", if (n == 1) "has" else "have",
                " no lines of those compared and ", if (n == 1) "is" else "are", " not judged.")
}

whitespace_notes <- function(s) {
  q <- s$q
  worth <- if (nrow(s$gaps)) paste0(
    "Worth is what is usual among the ", if (s$gap == "none") "buyers" else "others",
    if (s$gap == "none") " for its size", ", not a forecast.", tried_words(s))
  unjudged <- if (s$gap == "none") {
    seen <- length(unique(s$pairs$product))
    seen - length(unique(s$judged$product))
  }
  returned <- if (s$gap == "none" && nrow(s$gaps)) {
    bad <- !is.na(s$pairs$value) & s$pairs$value <= 0
    sum(match_keys(list(s$gaps$name, s$gaps$product),
                   lapply(s$pairs[c("name", "product")], `[`, bad)) > 0, na.rm = TRUE)
  }
  before <- if (!is.null(s$last)) sum(!is.na(s$last))
  ties <- if (is.numeric(q$top) && s$peers > q$top && s$peers <= s$all_names)
    paste0(plural(s$peers, "name"), " are compared: of those tied at the edge none is left out.")
  rbind(note("worth", worth),
        note("few", if (isTRUE(unjudged > 0)) paste0(
          plural(unjudged, spoken(q$product)), " with fewer than ", count_text(q$buyers),
          " buyers in any group ", if (unjudged == 1) "is" else "are", " not judged.")),
        note("no_lines", unsold_words(s)),
        note("more", if (s$found > nrow(s$gaps)) paste0(
          count_text(nrow(s$gaps)), " of ", plural(s$found, "gap"),
          " are listed, those worth most; 'most' lists more.")),
        note("returned", if (isTRUE(returned > 0)) paste0(
          "In ", plural(returned, "gap"), " listed there are lines that come to nothing or less, ",
          "as when all was returned.")),
        note("before", if (isTRUE(before > 0)) paste0(
          plural(before, "gap"), if (before == 1) " listed was" else " listed were",
          " bought outside this period: see last_bought.")),
        note("ties", ties), question_notes(q))
}

whitespace_proof <- function(s) {
  q <- s$q
  plain <- raw_lines(q)
  proof <- rbind(
    prove_question(q, s$counted, s$total, s$exact, plain),
    proof_line(paste0(q$first$name, " of the pairs = of the names they are of"),
               exact_total(s$name_total), exact_total(s$pairs$value) + s$unproduct, s$exact[[1]]))
  if (s$gap == "little" || !nrow(s$gaps)) return(proof)
  # Every name asked about and product judged in its group is a buyer or a gap.
  members <- tabulate(s$group$of[s$asked], length(s$group$labels))
  asked <- tabulate(s$asked, length(s$names)) > 0
  bought <- asked[s$pairs$name] & !is.na(s$pairs$value) & s$pairs$value > 0
  judged <- judged_row(s$judged, s$group$of[s$pairs$name[bought]], s$pairs$product[bought])
  rbind(proof,
        proof_line("names by products judged = buyers + gaps", sum(members[s$judged$group]),
                   sum(!is.na(judged)) + s$found), prove_buyers(s, plain))
}

# The buyers of the first gap's product, counted in base R on the raw lines.
prove_buyers <- function(s, plain) {
  q <- s$q
  top <- s$gaps[1, ]
  name <- s$product_names[top$product]
  wanted <- plain_pick(q$book$source, node("within", arg = key_tree(q$book, q$product),
                                           set = node("set", values = name)))
  sums <- plain_sums(q$book$source, key_tree(q$book, q$each), key_tree(q$book, q$product),
                     q$first$tree, pick_both(plain$keep, wanted))
  like <- s$names[s$in_peers & s$group$of == s$group$of[top$name]]
  value <- sums$value[sums$each %in% like]
  proof_line(paste0("buyers of ", one_line(name), " by a second route"),
             sum(value > 0, na.rm = TRUE), top$buyers)
}

# The names and products drawn, with what was bought and where the gaps are: a row for each cell.
whitespace_cells <- function(s) {
  q <- s$q
  if (!nrow(s$products)) return(data.frame())
  products <- utils::head(match(s$products[[q$product]], s$product_names), 60)
  products <- utils::head(unique(products), tiles_products)
  # Of the names those with the gaps worth most, then the best of the others, by their places.
  held <- rowsum(s$gaps$worth, s$gaps$name)
  worth <- numeric(length(s$asked))
  worth[match(as.integer(rownames(held)), s$asked)] <- held
  names <- s$asked[sort(utils::head(order(-worth), tiles_names))]
  cells <- expand.grid(name = names, product = products)
  near <- which(s$pairs$name %in% names & s$pairs$product %in% products)
  at <- match_keys(cells, lapply(s$pairs[c("name", "product")], `[`, near))
  value <- s$pairs$value[near][at]
  # Listed or not.
  worth <- if (s$gap == "little")
    s$short$short[match_keys(list(cells$name, cells$product), s$short[c("name", "product")])] else {
      row <- match_keys(list(s$group$of[cells$name], cells$product),
                        s$judged[c("group", "product")])
      gap <- which(!is.na(row) & !(!is.na(value) & value > 0))
      out <- rep(NA_real_, nrow(cells))
      for (i in gap) out[i] <- s$worth(row[i], cells$name[i])
      out
    }
  out <- data.frame(name = s$names[cells$name], product = s$product_names[cells$product],
                    value = value, worth = worth, gap = !is.na(worth),
                    label = name_labels(q, s$names[names])[match(cells$name, names)])
  names(out)[1:2] <- c(q$each, q$product)
  out
}

# Names with the first text among the fields shown.
name_labels <- function(q, names) {
  text <- Filter(is.character, shown_fields(q, names)$cells)
  if (!length(text)) return(one_line(names))
  one_line(paste(names, ifelse(is.na(text[[1]]), "", text[[1]])))
}

tiles_names <- 20
tiles_products <- 12
