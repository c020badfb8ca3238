# Codes and what they are called, in every study: beside each other in tables, together in every
# sentence, printed table, page and picture; from a register, from the lines and from a database.

coded_lines <- function(seed = 1, n = 900) {
  withr::with_seed(seed, {
    account <- sprintf("Q%02d", pmin(rpois(n, 6), 24))
    data.frame(order_no = sample(n / 3, n, TRUE), account = account,
               day = as.Date("2024-01-01") + sample(730, n, TRUE),
               item = sprintf("P%02d", pmin(rpois(n, 5), 14)),
               channel = sample(c("web", "shop", "fair"), n, TRUE),
               net = round(rexp(n, 1 / 40) - 4, 2), cost = round(rexp(n, 1 / 20), 2))
  })
}

# Two are called alike, one is called nothing.
called_words <- function(codes, stem) {
  out <- paste(c("Hale", "Moor", "Fen", "Low", "Top")[seq_along(codes) %% 5 + 1], stem,
               letters[seq_along(codes)])
  out[length(codes)] <- NA
  out[2] <- out[1]
  out
}

code_registers <- function(lines) {
  accounts <- sort(unique(lines$account))
  items <- sort(unique(lines$item))
  list(account = data.frame(account = accounts, called = called_words(accounts, "Farm"),
                            kind = rep(c("club", "school"), length.out = length(accounts))),
       item = data.frame(item = items, called = called_words(items, "jar")))
}

coded_book <- function(lines, registers = code_registers(lines), fields = list()) {
  own <- list(order_no = "identifier", account = "dimension", item = "dimension")
  ll_book(lines, fields = utils::modifyList(own, fields), registers = registers, date = "day",
          order = "order_no",
          metrics = list(revenue = list(is = "sum(net)", unit = "money"),
                         rate = list(is = "sum(cost) / sum(net)", unit = "percent")))
}



coded_questions <- list(
  standings = function(b) ll_standings(b, "account", c("revenue", "rate"), top = 5, when = "2025",
                                       against = "2024"),
  standings_within = function(b) ll_standings(b, "account", "rate", within = "item", top = 1),
  check = function(b) ll_check(b),
  crosstab = function(b) ll_crosstab(b, "account", "item", c("revenue", "rate"), top = 4),
  trend = function(b) ll_trend(b, "revenue", by = "account", every = "quarter"),
  distribution = function(b) ll_distribution(b, metrics = "revenue", by = "item"),
  portrait = function(b) ll_portrait(b, "account", "Q05"),
  versus = function(b) ll_versus(b, "account", c("Q05", "Q06"), by = "item"),
  associations = function(b) ll_associations(b, metrics = "revenue", by = c("account", "item")),
  holders = function(b) ll_holders(b, "account", within = "item", metrics = "revenue"),
  holders_order = function(b) ll_holders(b, metrics = "revenue", with_fields = "account"),
  benchmark = function(b) ll_benchmark(b, "account", "revenue"),
  score = function(b) ll_score(b, "account", c("revenue", "rate")),
  pareto = function(b) ll_pareto(b, "account", cut = .001),
  quadrants = function(b) ll_quadrants(b, "account", c("revenue", "rate")),
  total = function(b) ll_total(b, where = "account == 'Q00'"),
  tiers = function(b) ll_tiers(b, "account", tiers = c(low = 0, high = 300)),
  payout = function(b) ll_payout(b, "account", "0=1%,300=2%"),
  cohorts = function(b) ll_cohorts(b, "account"),
  lapsed = function(b) ll_lapsed(b, "account", inactive = "2025-12"),
  sets = function(b) ll_sets(b, "account", "active('2024') - active('2025-12')"),
  whitespace = function(b) ll_whitespace(b, "account", "item", buyers = 2),
  whitespace_little = function(b) ll_whitespace(b, "account", "item", gap = "little"),
  bridge = function(b) ll_bridge(b, by = "item", when = "2025", against = "2024"),
  bridge_rate = function(b) ll_bridge(b, "rate", by = "item", when = "2025", against = "2024"),
  drill = function(b) ll_drill(b, when = "2025", against = "2024", by = c("account", "item")),
  substitution = function(b) ll_substitution(b, "account", "item", when = "2025",
                                             against = "2024"),
  narrowed = function(b) ll_standings(b, "item", top = 2, where =
                                        "account %in% c('Q05', 'Q06') | item == 'P03'"),
  detail = function(b) ll_detail(b, where = "account == 'Q05'"))

# Codes that stand without what they are called.
lone_codes <- function(text) {
  unlist(regmatches(text, gregexpr("(?<![(\\w])[QP][0-9]{2}(?![()\\w])", text, perl = TRUE)))
}

test_that("a code that stands alone is found", {
  expect_identical(lone_codes("Q01 leads, Hale Farm (Q02) and P33, Moor (P04)"), c("Q01", "P33"))
})

test_that("no code is told, printed, drawn or put on a page without what it is called", {
  lines <- coded_lines()
  book <- coded_book(lines)
  nameless <- c(max(lines$account), max(lines$item))
  alone <- function(text) setdiff(lone_codes(text), nameless)
  for (study in some_of(names(coded_questions), 3)) {
    got <- coded_questions[[study]](book)
    expect_true(all(ll_proof(got)$holds), info = study)
    expect_identical(alone(c(ll_finding(got), ll_reading(got), ll_notes(got)$text)), character(),
                     info = study)
    expect_identical(alone(format(got, width = 2000)), character(), info = study)
    if (study %in% names(coded_questions)[c(1, 4, 8, 22, 26)])
      expect_identical(alone(gsub("&#4[01];", "(", knitr::knit_print(got))), character(),
                       info = study)
    drawn <- withr::local_tempfile(fileext = ".svg")
    if (is.null(tryCatch(ll_save(got, drawn), ll_error = function(e) NULL))) next
    expect_identical(alone(xml2::xml_text(xml2::xml_find_all(
      xml2::xml_ns_strip(xml2::read_xml(drawn)), "//text"))), character(), info = study)
  }
})

test_that("tables carry the labels in a column of their own, those of the register", {
  lines <- coded_lines(2)
  registers <- code_registers(lines)
  # The same from a field of the lines, of which most lines of a code decide.
  named <- transform(lines, called_as = registers$account$called[match(
    account, registers$account$account)])
  named$called_as[match("Q04", named$account)] <- "Misspelt Farm"
  from_lines <- coded_book(named, registers["item"], list(account = list(label = "called_as")))
  for (study in some_of(names(coded_questions), 4)) {
    got <- coded_questions[[study]](coded_book(lines, registers))
    tables <- c(list(as.data.frame(got)), Filter(is.data.frame, ll_part(got)))
    for (table in tables) for (field in intersect(c("account", "item"), names(table))) {
      register <- registers[[field]]
      expect_identical(table[[paste0(field, "_label")]],
                       register$called[match(table[[field]], register[[1]])], info = study)
    }
    if (study == "check") next
    same <- coded_questions[[study]](from_lines)
    expect_identical(as.data.frame(same)[names(got)], as.data.frame(got), info = study)
    expect_identical(ll_finding(same), ll_finding(got), info = study)
  }
})

test_that("lines in a database tell the same, by the register and by a field of theirs", {
  lines <- coded_lines(3)
  registers <- code_registers(lines)
  lines$called_as <- registers$account$called[match(lines$account, registers$account$account)]
  fields <- list(account = list(label = "called_as"))
  near <- coded_book(lines, registers["item"], fields)
  far <- coded_book(lines_in("sqlite", lines), registers["item"], fields)
  for (study in c("standings", "versus", "crosstab", "whitespace", "narrowed")) {
    want <- coded_questions[[study]](near)
    got <- coded_questions[[study]](far)
    expect_equal(as.data.frame(got), as.data.frame(want), tolerance = 1e-9, info = study)
    expect_identical(ll_finding(got), ll_finding(want), info = study)
  }
  expect_match(ll_finding(ll_standings(far, "item", where = "account == 'Low Farm h'")),
               "^Where account is Low Farm h \\(Q0?7\\): ")
})
