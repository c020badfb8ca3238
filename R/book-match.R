# Keys of lines and registers that nearly meet: 0007 and 7, A1 and "A1 ", b2 and B2, C-001 and C001.

match_rules <- list(
  trim = function(x) with_plain_blanks(x),
  case = function(x) tolower(x),
  zeros = function(x) gsub("(?<![0-9])0+(?=[0-9])", "", x, perl = TRUE),
  punctuation = function(x) gsub("[^[:alnum:]]+", "", x))

# `match`: per dimension the rules by which its names meet those of its register.
check_match <- function(given, registers) {
  if (is.null(given)) return(NULL)
  if (is.null(names(given)) || any(!nzchar(names(given))))
    ll_abort(c("'match' must be named after the dimensions whose registers nearly meet.",
               i = "For example list(account = c(\"trim\", \"zeros\"))."), "argument")
  unknown <- setdiff(names(given), names(registers))
  if (length(unknown))
    ll_abort(c(paste0("'match' names ", quoted(unknown[1]), ", which has no register."),
               offer(unknown[1], names(registers), "Registers")), "word")
  lapply(as.list(given), function(rules) {
    rules <- trimmed(unlist(strsplit(as.character(unlist(rules)), ",", fixed = TRUE)))
    for (rule in rules) check_choice(rule, "match", list(choices = names(match_rules)))
    intersect(names(match_rules), rules)
  })
}

by_rules <- function(x, rules) {
  for (rule in rules) x <- match_rules[[rule]](x)
  x
}

# Names of the lines as the register writes them, by the rules said.
apply_matches <- function(data, tables, match, where) {
  fixes <- NULL
  for (field in intersect(names(match), names(data))) {
    text <- plain_key(data[[field]])
    each <- unique(text[!is.na(text)])
    known <- tables[[field]]$names
    meet <- meeting_names(each, known, match[[field]])
    if (length(meet$joined))
      ll_abort(c(paste0("By the rules ", and_list(match[[field]]), " names of the register of ",
                        quoted(field), " would be one: ", and_list(quoted(meet$joined), 4), "."),
                 i = "Leave out a rule, or make them one in the register."), "data")
    if (!length(meet$to)) next
    data[[field]] <- as_registered(text, meet$to)
    n <- sum(text %in% names(meet$to))
    fixes <- rbind(fixes, fix("match", field, n, paste0(
      plural(n, "line"), " of ", field, " under the name of the register: ", and_list(paste0(
        quoted(show_blanks(names(meet$to))), " as ", quoted(show_blanks(meet$to))), 3))))
  }
  list(data = data, fixes = fixes)
}

# Names with those that the register lacks as it calls them.
as_registered <- function(text, to) {
  at <- match(text, names(to))
  ifelse(is.na(at), text, unname(to)[at])
}

# What names that the register lacks are called there: list(to, joined). `joined` are names of the
# register that these rules do not tell apart.
meeting_names <- function(names, known, rules) {
  lacking <- setdiff(names, known)
  key <- by_rules(known, rules)
  mine <- by_rules(lacking, rules)
  at <- match(mine, key)
  twice <- key %in% key[duplicated(key)] & key %in% mine
  hit <- !is.na(at) & nzchar(mine)
  list(to = stats::setNames(known[at[hit]], lacking[hit]), joined = known[twice])
}

# Lines that find no entry in a register, and the rule that would let most of them meet: an offer.
offer_matches <- function(data, rows, tables, match) {
  money <- first_money(rows)
  out <- lapply(intersect(names(tables), names(data)), function(field) {
    if (!is.null(match[[field]])) return(NULL)
    text <- plain_key(data[[field]])
    each <- unique(text[!is.na(text)])
    if (length(each) > 2e5) return(NULL)
    lost <- text %in% setdiff(each, tables[[field]]$names) & !is.na(text)
    # A few are told by the notes on registers.
    if (sum(lost) < .01 * length(lost)) return(NULL)
    tried <- lapply(match_tries, function(rules) {
      meet <- meeting_names(each, tables[[field]]$names, rules)
      list(rules = rules, meet = meet, lines = if (length(meet$joined)) 0 else
        sum(text %in% names(meet$to)))
    })
    best <- tried[[which.max(vapply(tried, `[[`, 0, "lines"))]]
    # A rule is proposed where it lets most of them meet.
    if (best$lines < sum(lost) / 2) return(NULL)
    amount <- if (!is.null(money)) sum(as.double(data[[money]][lost]), na.rm = TRUE) else 0
    split <- Filter(function(t) length(t$meet$joined) && length(t$rules) == 1, tried)
    option <- paste("--match", shell_quoted(paste0(field, "=", paste(best$rules, collapse = ","))))
    an_offer(amount, paste0(
      lines_worth(lost, amount, money), " find no entry in the register of ", field, "; by ", and_list(best$rules), " ",
      quoted(show_blanks(names(best$meet$to)[1])), " is ", quoted(show_blanks(best$meet$to[1])),
      " and ", count_text(best$lines), " of them meet: ", option,
      " (in a brief: match: {", field, ": [", paste(best$rules, collapse = ", "), "]}). ",
      "Until then names without lines are not ",
      "to be trusted", if (length(split)) paste0("; ", split[[1]]$rules, " would join ", and_list(
        quoted(show_blanks(split[[1]]$meet$joined)), 2), ", which the register holds apart")), option)
  })
  do.call(rbind, out)
}

# One rule, then two, the fewest that win most.
match_tries <- list("trim", "case", "zeros", "punctuation", c("trim", "case"), c("trim", "zeros"),
                    c("case", "punctuation"), c("zeros", "punctuation"),
                    c("trim", "case", "zeros"), c("trim", "case", "zeros", "punctuation"))
