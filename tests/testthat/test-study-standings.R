# Standings: by hand, against SQL, as properties, and the planted stories.

test_that("a small book by hand", {
  got <- ll_standings(small_book(), "rep", c("revenue", "orders", "average"))
  expect_equal(got$rep, c("Tom", "Uma", "Ida", "(none)"))
  # Tom 30.30 + 5.00; Uma 25.05 + 10.15; Ida 10.10 + 20.20 + 0.10; no rep 7.50
  expect_identical(got$revenue, c(35.3, 35.2, 30.4, 7.5))
  expect_equal(got$rank, c(1, 2, 3, NA))
  expect_equal(got$orders, c(2, 2, 2, 1))
  expect_equal(got$orders_rank, c(1, 1, 1, NA))
  expect_equal(got$average, c(17.65, 17.6, 15.2, 7.5))
  expect_equal(got$revenue_share, c(35.3, 35.2, 30.4, 7.5) / 108.4)
  expect_identical(got$revenue_running_total, c(35.3, 70.5, 100.9, 108.4))
  foot <- ll_part(got, "foot")
  expect_identical(foot$revenue[foot$rep == "total"], 108.4)
  expect_equal(foot$orders[foot$rep == "total"], 7)
  expect_true(all(ll_proof(got)$holds))
})

test_that("lower is better where the metric says so", {
  book <- ll_book(small_lines(), metrics = list(revenue = list(is = "sum(net)", better = "low")))
  expect_equal(ll_standings(book, "rep")$rep, c("Ida", "Uma", "Tom", "(none)"))
  expect_match(ll_finding(ll_standings(book, "rep")), "^Ida has the lowest revenue with 30.40")
})

test_that("values, ranks and shares agree with SQL window functions on random lines", {
  db <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(db))
  for (seed in some_of(1:12, 3)) {
    lines <- random_lines(seed)
    DBI::dbWriteTable(db, "l", transform(lines, day = as.numeric(day), cents = round(net * 100)),
                      overwrite = TRUE)
    sql <- DBI::dbGetQuery(db, paste(
      "with g as (select area, rep, sum(cents) / 100.0 revenue, count(distinct order_no) orders,",
      "sum(cents) / 100.0 / count(distinct order_no) average from l",
      "where qty > 0 group by area, rep)",
      "select *, rank() over (partition by area order by revenue desc) rank,",
      "rank() over (partition by area order by average desc) average_rank from g",
      "where rep is not null and revenue is not null"))
    book <- ll_book(lines, metrics = list(revenue = "sum(net)", orders = "distinct(order_no)",
                                          average = "revenue / orders"))
    got <- ll_standings(book, "rep", c("revenue", "orders", "average"), within = "area",
                        where = "qty > 0")
    expect_true(all(ll_proof(got)$holds))
    got <- as.data.frame(got)[!is.na(got$rank), ]
    sql$area[is.na(sql$area)] <- "(none)"
    sql <- sql[match(paste(got$area, got$rep), paste(sql$area, sql$rep)), ]
    for (column in c("revenue", "orders", "average", "rank", "average_rank"))
      expect_equal(got[[column]], as.numeric(sql[[column]]), info = paste(seed, column))
  }
})

test_that("properties: the order of lines does not matter, parts add up, doubling keeps ranks", {
  for (seed in 21:26) {
    lines <- random_lines(seed)
    ask <- function(lines) {
      book <- ll_book(lines, fields = list(order_no = "identifier"),
                      metrics = list(revenue = "sum(net)", orders = "distinct(order_no)"))
      ll_standings(book, "rep", c("revenue", "orders"))
    }
    got <- ask(lines)
    mixed <- ask(lines[withr::with_seed(seed, sample(nrow(lines))), ])
    expect_identical(as.data.frame(mixed), as.data.frame(got))
    expect_equal(sum(got$revenue, na.rm = TRUE), sum(lines$net, na.rm = TRUE))
    doubled <- ask(rbind(lines, lines))
    expect_identical(doubled$rank, got$rank)
    expect_equal(doubled$revenue, got$revenue * 2)
    expect_equal(doubled$orders, got$orders)
  }
})

tied_book <- function() {
  lines <- data.frame(k = letters[1:6], day = as.Date("2026-01-01"), other = c(1, 3, 2, 5, 6, 4),
                      net = c(10, 8, 8, 8, 5, 1))
  ll_book(lines, fields = list(k = "dimension", other = "measure", net = "measure"),
          metrics = list(revenue = "sum(net)", second = "sum(other)"))
}

test_that("ties at the edge of the top are kept and said, or cut and said", {
  kept <- ll_standings(tied_book(), "k", "revenue", top = 2)
  expect_equal(kept$k, c("a", "b", "c", "d"))
  expect_match(ll_notes(kept)$text[1],
               "b, c and d tie at 8.00 for the last rank of the top 2, so 4")
  cut <- ll_standings(tied_book(), "k", "revenue", top = 2, last_ties = "exact",
                      tie_break = "second")
  expect_equal(cut$k, c("a", "d"))
  expect_match(paste(ll_notes(cut)$text, collapse = " "), "was cut: d is shown, b and c are not")
  expect_equal(ll_part(cut, "foot")$revenue, c(22, 40))
})

test_that("top goes by the shared rank whatever ties says; bottom counts from the last", {
  for (ties in c("shared", "dense", "average", "broken"))
    expect_equal(ll_standings(tied_book(), "k", "revenue", top = 3, ties = ties)$k,
                 c("a", "b", "c", "d"), info = ties)
  rank <- function(ties) ll_standings(tied_book(), "k", "revenue", ties = ties)$rank
  expect_equal(rank("shared"), c(1, 2, 2, 2, 5, 6))
  expect_equal(rank("dense"), c(1, 2, 2, 2, 3, 4))
  expect_equal(rank("average"), c(1, 3, 3, 3, 5, 6))
  expect_equal(rank("broken"), 1:6)
  expect_equal(ll_standings(tied_book(), "k", "revenue", bottom = 2)$k, c("f", "e"))
  expect_equal(ll_standings(tied_book(), "k", "revenue", bottom = 3)$k, c("f", "e", "b", "c", "d"))
  expect_equal(ll_standings(tied_book(), "k", "revenue", top = 1, bottom = 1)$k, c("a", "f"))
  expect_match(ll_finding(ll_standings(tied_book(), "k", "revenue", bottom = 1)),
               "^Last by revenue: f")
})

test_that("ties broken by a further metric, then by name", {
  broken <- ll_standings(tied_book(), "k", "revenue", ties = "broken", tie_break = "second")
  expect_equal(broken$k, c("a", "d", "b", "c", "e", "f"))
  expect_equal(broken$rank, 1:6)
  expect_equal(broken$second, c(1, 5, 3, 2, 6, 4))
})

test_that("missing values are last from both ends and counted", {
  lines <- data.frame(k = c("a", "b", "c", "c"), day = as.Date("2026-01-01"),
                      net = c(5, NA, -2, NA), q = c(1, 2, 0, 0))
  book <- ll_book(lines, fields = list(k = "dimension", q = "measure"),
                  metrics = list(revenue = "sum(net)", price = "revenue / sum(q)"))
  got <- ll_standings(book, "k", c("revenue", "price"))
  expect_equal(got$k, c("a", "c", "b"))
  expect_equal(got$rank, c(1, 2, NA))
  expect_identical(got$price, c(5, NA, NA))
  expect_equal(ll_standings(book, "k", "revenue", bottom = 1)$k, "c")
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "1 value of k without a value of revenue, not ranked: b")
  expect_equal(got$revenue_share, c(1, -0.4, NA))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "shares are of the positive total")
})

test_that("negative totals everywhere leave no shares, and the proof holds", {
  lines <- transform(small_lines(), net = -abs(net))
  got <- ll_standings(ll_book(lines, metrics = c(revenue = "sum(net)")), "rep")
  expect_true(all(is.na(got$revenue_share)))
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "nothing is above zero")
})

test_that("against: ranks moved, entered and left", {
  got <- ll_standings(small_book(), "rep", "revenue", when = "2026-02-01/2026-03-31",
                      against = "2026-01")
  # January: Ida 30.30, Tom 30.30. February and March: Uma 35.20, Tom 5.00, Ida 0.10.
  expect_equal(got$rep, c("Uma", "Tom", "Ida", "(none)"))
  expect_equal(got$revenue_before, c(0, 30.3, 30.3, 0))
  expect_equal(got$rank_before, c(NA, 1, 1, NA))
  expect_equal(got$moved, c(NA, -1, -2, NA))
  expect_identical(got$revenue_change, c(35.2, -25.3, -30.2, 7.5))
  expect_equal(got$revenue_growth, c(NA, -25.3 / 30.3, -30.2 / 30.3, NA))
  moves <- ll_part(got, "moves")
  expect_equal(moves$move[match(c("Uma", "Tom", "Ida"), moves$rep)], c("entered", "down", "down"))
  back <- ll_standings(small_book(), "rep", "revenue", when = "2026-01", against = "2026-03")
  expect_equal(ll_part(back, "moves")$move[3], "left")
  expect_match(paste(ll_notes(back)$text, collapse = " "), "is covered from 5 January 2026")
})

test_that("within: ranks inside each group with the overall rank beside", {
  got <- ll_standings(small_book(), "rep", "revenue", within = "area")
  # Fen: Tom 35.30, Uma 10.15, Ida 0.10. Moor: Ida 30.30, Uma 25.05, no rep 7.50.
  expect_equal(got$area, rep(c("Moor", "Fen"), each = 3))
  expect_equal(got$rep, c("Ida", "Uma", "(none)", "Tom", "Uma", "Ida"))
  expect_equal(got$rank, c(1, 2, NA, 1, 2, 3))
  expect_equal(got$rank_overall, c(3, 2, NA, 1, 2, 3))
  expect_equal(got$revenue_share, c(30.3, 25.05, 7.5, 35.3, 10.15,
                                    0.1) / rep(c(62.85, 45.55), each = 3))
  expect_equal(ll_part(got, "groups")$revenue, c(62.85, 45.55))
})

test_that("pairs, min_orders and names without lines", {
  pair <- ll_standings(small_book(), c("rep", "area"), "revenue", top = 2)
  expect_equal(paste(pair$rep, pair$area), c("Tom Fen", "Ida Moor"))
  few <- ll_standings(small_book(), "area", "average", min_orders = 4)
  expect_equal(few$rank, c(1, NA))
  expect_match(paste(ll_notes(few)$text, collapse = " "), "fewer than 4 orders, not ranked: Moor")
  staff <- data.frame(rep = c("Ida", "Tom", "Uma", "Zed"), team = c("p", "p", "q", "q"))
  book <- small_book(registers = list(rep = staff))
  all <- ll_standings(book, "rep", c("revenue", "average"), no_lines = TRUE)
  expect_equal(all$rep, c("Tom", "Uma", "Ida", "Zed", "(none)"))
  expect_equal(all$revenue[4], 0)
  expect_identical(all$average[4], NA_real_)
  expect_true(all(ll_proof(all)$holds))
  expect_equal(ll_standings(book, "team", "revenue")$team, c("p", "q", "(none)"))
})

test_that("one line, one name, ties everywhere, nothing left", {
  one <- ll_book(small_lines()[1, ], fields = list(rep = "dimension"),
                 metrics = c(revenue = "sum(net)"))
  expect_match(ll_finding(ll_standings(one, "rep")), "Ida leads .*no one else is ranked")
  flat <- ll_book(transform(small_lines(), net = 1, rep = paste0("r", 1:8)),
                  fields = list(rep = "dimension"), metrics = c(revenue = "sum(net)"))
  expect_equal(nrow(ll_standings(flat, "rep", top = 3)), 8)
  empty <- ll_standings(small_book(), "rep", when = "2030")
  expect_equal(nrow(empty), 0)
  expect_equal(names(empty), names(ll_standings(small_book(), "rep")))
  expect_match(ll_finding(empty), "could be ranked")
  expect_true(all(ll_proof(empty)$holds))
  expect_output(print(empty), "nothing to list")
})

test_that("names keep quotes, newlines, commas and scripts", {
  odd <- c("a \"b\"", "line\nbreak", "comma, semicolon;", "\u6771\u4eac", "=1+1", "'")
  book <- ll_book(data.frame(k = odd, day = as.Date("2026-01-01"), net = 6:1 + 0.5),
                  fields = list(k = "dimension"), metrics = c(revenue = "sum(net)"))
  got <- ll_standings(book, "k")
  expect_identical(got$k, odd)
  expect_identical(ll_standings(ll_where(book, k = odd[2]), "k")$k, odd[2])
  expect_false(any(grepl("\n", format(got))))
})

test_that("the planted tie at tenth rank", {
  got <- ll_standings(demo_book(), "account", "revenue", top = 10)
  expect_equal(nrow(got), 11)
  expect_setequal(got$account[got$rank == 10], c(story("tie", "tenth_a"), story("tie", "tenth_b")))
  expect_identical(got$revenue[10:11], rep(story("tie", "tenth_revenue"), 2))
  expect_equal(got$account[1], story("tie", "leader"))
  expect_true("tie_edge" %in% ll_notes(got)$kind)
})

test_that("the planted reps: close, spelled twice, no name, no net, a lead in one territory", {
  got <- ll_standings(demo_book(), "rep", c("revenue", "orders", "average_order"))
  notes <- ll_notes(got)
  text <- function(kind) paste(notes$text[notes$kind == kind], collapse = " ")
  expect_equal(got$rep[1:2], c(story("leader", "leader"), story("leader", "second")))
  expect_identical(got$revenue[1], story("leader", "leader_revenue"))
  at <- match(story("close", "ahead"), got$rep)
  expect_equal(at, story("close", "rank"))
  expect_equal(got$rep[at + 1], story("close", "behind"))
  expect_match(text("near_equal"), "by only 0.07")
  expect_match(text("spelling"), "Tamsin Orrell")
  none <- got[got$rep == "(none)", ]
  expect_identical(none$revenue, story("untidy", "no_rep_revenue"))
  expect_match(text("none"), paste(story("untidy", "no_rep_lines"), "lines without rep"))
  expect_match(text("missing"), paste(story("untidy", "no_net_lines"), "lines have no net"))
  expect_match(text("leaders_differ"), paste0("by revenue ", story("hands", "most_revenue"),
                                              "; by orders ", story("hands", "most_orders"),
                                              "; by average order ",
                                              story("hands", "highest_average")))
  expect_match(text("few_orders"), "Jory Blackwood \\(3\\)")
  expect_equal(got$average_order[got$rep == "Jory Blackwood"],
               story("hands", "highest_average_value"), tolerance = 1e-6)
  within <- ll_standings(demo_book(), "rep", within = "territory")
  leads <- within$territory[within$rep == story("leader", "leader") & within$rank %in% 1]
  expect_equal(leads, story("leader", "leads_in"))
  expect_match(ll_finding(within), "first in 1 of 6 territories")
})

test_that("the planted territory that leads by heads only", {
  got <- ll_standings(demo_book(), "territory", "revenue")
  expect_equal(got$territory[1], story("heads", "leader"))
  note <- ll_notes(got)$text[ll_notes(got)$kind == "people"]
  expect_match(note, "Moor leads by revenue with 7 reps; per rep Fen leads, 451,645")
  expect_equal(got$revenue[1] / story("heads", "leader_heads"), story("heads", "leader_per_head"),
               tolerance = 1e-6)
})

test_that("the planted quarter: totals, part periods, names without lines", {
  q2 <- ll_standings(demo_book(), "territory", "revenue", when = "2026-Q2", against = "year before")
  total <- ll_part(q2, "foot")
  expect_identical(total$revenue[total$territory == "total"], story("hive", "revenue_2026Q2"))
  expect_identical(total$revenue_before[total$territory == "total"],
                   story("hive", "revenue_2025Q2"))
  expect_identical(ll_standings(demo_book(), "territory", when = "last quarter")$revenue,
                   q2$revenue)
  part <- ll_standings(demo_book(), "rep", when = "2026-Q3")
  expect_match(paste(ll_notes(part)$text, collapse = " "), "78 of its 92 days")
  all <- ll_standings(demo_book(), "account", no_lines = TRUE)
  expect_equal(sum(all$revenue == 0 & !is.na(all$rank)), story("stopped", "never_ordered"))
  hive <- ll_standings(ll_where(demo_book(), item = "HV-018"), "territory", when = "2026-Q2")
  expect_identical(ll_part(hive, "foot")$revenue[ll_part(hive, "foot")$territory == "total"],
                   story("hive", "new_hive_2026Q2"))
})

test_that("the demo's figures agree with base R on every dimension", {
  lines <- demo_lines()
  for (field in c("rep", "territory", "channel", "item", "account")) {
    got <- ll_standings(demo_book(), field, c("revenue", "orders"))
    key <- ifelse(is.na(lines[[field]]), "(none)", lines[[field]])
    expect_equal(got$revenue, as.vector(tapply(lines$net, key, sum, na.rm = TRUE)[got[[field]]]))
    expect_equal(got$orders, as.vector(tapply(lines$order_no, key, function(x)
      length(unique(x)))[got[[field]]]))
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("the proof sees what does not hold", {
  book <- small_book(control = list(revenue = 108.4))
  expect_true(all(ll_proof(ll_standings(book, "rep"))$holds))
  wrong <- ll_standings(small_book(control = list(revenue = 100)), "rep")
  proof <- ll_proof(wrong)
  expect_false(all(proof$holds))
  expect_equal(proof$found[!proof$holds], 108.4)
  expect_output(print(wrong), "does not hold: ledger's revenue")
})

test_that("bad values are refused with one message each", {
  book <- small_book()
  expect_snapshot(error = TRUE, {
    ll_standings(book)
    ll_standings(book, "rep", top = 0)
    ll_standings(book, "rep", top = -3)
    ll_standings(book, "rep", top = "x")
    ll_standings(book, "rep", top = 1.5)
    ll_standings(book, "rep", ties = "share")
    ll_standings(book, "rep", against = "2025")
    ll_standings(book, "qty")
    ll_standings(book, "day")
    ll_standings(book, "rep", within = "rep")
    ll_standings(book, "rep", metrics = "sum(net)")
    ll_standings(book, "rep", metrics = "net")
    ll_standings(book, "rep", no_lines = TRUE)
    ll_standings(book, "rep", min_orders = NA)
    ll_standings(small_lines(), "rep")
  })
})

test_that("standings print as they should", {
  local_reproducible_output(width = 110)
  expect_snapshot(ll_standings(demo_book(), "rep", c("revenue", "margin_rate", "orders"), top = 5))
  expect_snapshot(ll_standings(demo_book(), "account", top = 10, when = "2026-Q2",
                               against = "year before"))
  expect_snapshot(ll_standings(demo_book(), "rep", within = "territory", top = 2))
})

test_that("everyone else and the nameless are recalculated, for pairs and within groups too", {
  for (seed in 31:36) {
    lines <- random_lines(seed)
    book <- ll_book(lines, metrics = list(revenue = "sum(net)", orders = "distinct(order_no)",
                                          average = "revenue / orders"))
    fresh <- function(mine) {
      total <- if (all(is.na(mine$net))) NA else sum(mine$net, na.rm = TRUE)
      n <- length(unique(mine$order_no))
      c(total, n, total / n)
    }
    for (within in list(NULL, "area")) {
      each <- if (is.null(within)) c("area", "rep") else "rep"
      got <- ll_standings(book, each, c("revenue", "orders", "average"), within = within, top = 2)
      foot <- ll_part(got, "foot")
      key <- function(x) ifelse(is.na(x), "(none)", x)
      shown <- paste(key(lines$area), key(lines$rep)) %in% paste(got$area, got$rep)
      nameless <- is.na(lines$rep) | is.null(within) & is.na(lines$area)
      rest <- foot[grepl("everyone", foot[[each[1]]]), c("revenue", "orders", "average")]
      expect_equal(unlist(rest, use.names = FALSE), fresh(lines[!shown & !nameless, ]))
      none <- foot[foot[[each[1]]] == "(none)", c("revenue", "orders", "average")]
      expect_equal(unlist(none, use.names = FALSE), fresh(lines[!shown & nameless, ]))
    }
  }
})

test_that("what notes say of ties and near neighbours are the ranks of the table", {
  for (seed in some_of(1:8, 3)) for (ties in c("shared", "dense", "average", "broken")) {
    lines <- withr::with_seed(seed, data.frame(k = letters[1:12],
                                               net = sample(c(1000, 1000.5, 40, 7, 7), 12, TRUE),
                                               n = sample(3, 12, TRUE)))
    got <- ll_standings(ll_book(lines, fields = c(n = "measure"),
                                metrics = c(r = "sum(net)", q = "sum(n)")), "k", c("r", "q"),
                        ties = ties)
    rank <- function(names) got$rank[match(names, got$k)]
    split_names <- function(text) strsplit(text, ", | and ")[[1]]
    notes <- ll_notes(got)$text
    for (text in notes[grepl(" tie at rank | are level by ", notes)]) {
      names <- setdiff(split_names(sub(" (tie at|are level by).*", "", text)),
                       c("2 more", "3 more", "4 more", "1 more"))
      said <- as.numeric(setdiff(split_names(sub("[.]$", "", sub(".* ranks? ", "", text))),
                                 paste(1:7, "more")))
      expect_setequal(said, utils::head(sort(unique(rank(names))), length(said)))
      expect_length(unique(got$r[match(names, got$k)]), 1)
    }
    for (text in notes[grepl(" is ahead of ", notes)]) {
      part <- regmatches(text, regexec("^(.) is ahead of (.) by .*ranks ([0-9.]+) and ([0-9.]+)",
                                       text))[[1]]
      expect_equal(rank(part[2:3]), as.numeric(part[4:5]))
    }
  }
})
