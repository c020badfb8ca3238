# Sets: their language, algebra against base R, saved sets in conditions, circles, odd books,
# pictures.

set_lines <- function(seed = 1, n = 300) {
  withr::with_seed(seed, data.frame(
    order_no = sprintf("o%03d", sample(n, n, TRUE)), day = as.Date("2024-01-01") +
    sample(0:1000, n, TRUE),
    k = sample(c(sprintf("k%02d", 1:40), NA), n, TRUE),
    item = sample(c("pot", "pan", "lid"), n, TRUE),
    net = round(rnorm(n, 40, 60), 2)))
}
set_register <- data.frame(k = sprintf("k%02d", 1:46), kind = rep(c("shop", "school"), 23),
                           since = as.Date("2024-01-01") + 1:46)
set_book <- function(lines = set_lines(), ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension"),
          metrics = list(revenue = "sum(net)", rate = "revenue / count()"),
          registers = list(k = set_register), date = "day", order = "order_no",
          parameters = c(much = 100), ...)
}

# The sets of the random cases by plain base R, and as text of our language.
plain_leaves <- function(lines) {
  year <- format(lines$day, "%Y")
  named <- function(x) sort(unique(x[!is.na(x)]))
  sums <- function(keep) {
    s <- rowsum(round(lines$net * 100)[keep & !is.na(lines$k)], lines$k[keep & !is.na(lines$k)])
    stats::setNames(s[, 1], rownames(s))
  }
  total <- sums(rep(TRUE, nrow(lines)))
  in_2025 <- sums(year == "2025")
  schools <- set_register$kind == "school" & set_register$since > as.Date("2024-01-10")
  low_2025 <- rank(in_2025, ties.method = "min")
  list('active("2025")' = named(lines$k[year == "2025"]),
       'active("2026", item == "pot")' = named(lines$k[year == "2026" & lines$item == "pot"]),
       'active(item == "lid")' = named(lines$k[lines$item == "lid"]),
       "registered()" = set_register$k,
       'registered(kind == "school" & since > "2024-01-10")' = set_register$k[schools],
       "having(revenue >= much)" = names(total)[total >= 10000],
       'having(sum(net) < 0, when = "2025")' = names(in_2025)[in_2025 < 0],
       "top(revenue, 7)" = names(total)[rank(-total, ties.method = "min") <= 7],
       'bottom(revenue, 5, when = "2025")' = names(in_2025)[low_2025 <= 5],
       'c("k03", "k45")' = c("k03", "k45"))
}

test_that("set algebra is that of base R on random expressions", {
  for (seed in some_of(1:4, 3)) {
    lines <- set_lines(seed)
    book <- set_book(lines)
    leaves <- plain_leaves(lines)
    for (i in seq_along(leaves)) expect_setequal(ll_sets(book, "k", names(leaves)[i])$k,
                                                 leaves[[i]])
    withr::with_seed(seed, for (case in 1:12) {
      pick <- sample(length(leaves), 3)
      op <- sample(c("|", "&", "-"), 2, TRUE)
      does <- list("|" = union, "&" = intersect, "-" = setdiff)
      text <- paste0(names(leaves)[pick[1]], " ", op[1], " (", names(leaves)[pick[2]], " ", op[2],
                     " ", names(leaves)[pick[3]], ")")
      want <- does[[op[1]]](leaves[[pick[1]]], does[[op[2]]](leaves[[pick[2]]], leaves[[pick[3]]]))
      got <- ll_sets(book, "k", text)
      expect_setequal(got$k, want)
      expect_true(all(ll_proof(got)$holds))
      three <- ll_sets(book, "k", stats::setNames(names(leaves)[pick], c("a", "b", "c")))
      regions <- ll_part(three, "regions")
      n <- function(label) regions$names[regions$in_sets == label]
      expect_equal(n("a & b & c"), length(Reduce(intersect, leaves[pick])))
      expect_equal(n("a only"), length(setdiff(leaves[[pick[1]]],
                                               union(leaves[[pick[2]]], leaves[[pick[3]]]))))
      expect_equal(sum(regions$names), length(Reduce(union, leaves[pick])))
      expect_equal(sum(regions$revenue), sum(three$revenue))
    })
  }
})

test_that("values, order, fields of names, tops, totals; metrics that do not add up", {
  lines <- set_lines()
  book <- set_book(lines)
  got <- ll_sets(book, "k", c(old = 'active("2024")', now = 'active("2026")'), listed = "old - now",
                 metrics = c("revenue", "rate"), with_fields = c("kind", "item"), when = "2024")
  year <- format(lines$day, "%Y")
  want <- setdiff(lines$k[year == "2024"], c(lines$k[year == "2026"], NA))
  sums <- vapply(want, function(k) sum(lines$net[lines$k %in% k & year == "2024"]), 0)
  expect_identical(got$k, names(sums)[order(-sums, names(sums))])
  expect_equal(got$revenue, unname(sums[got$k]))
  expect_equal(ll_part(got, "foot")$rate, mean(lines$net[lines$k %in% want & year == "2024"]))
  expect_identical(got$kind, set_register$kind[match(got$k, set_register$k)])
  last <- vapply(got$k, function(k) { at <- which(lines$k %in%
                                                  k); lines$item[max(at[lines$day[at] ==
                                                                        max(lines$day[at])])] }, "")
  expect_identical(got$item, unname(last))
  expect_identical(unique(got$in_sets), "old only")
  top <- ll_sets(book, "k", "registered()", top = 3)
  expect_identical(nrow(top), 3L)
  expect_match(ll_part(top, "foot")$k[1], "everyone else \\(43\\)")
  expect_match(paste(ll_notes(top)$text, collapse = " "), "values? of k ha(s|ve) no lines")
  # Lines that stand for a name, and what can be typed again.
  expect_identical(nrow(ll_detail(got, row = 1)), sum(lines$k %in% got$k[1] & year == "2024"))
  for (text in c('active("2025", item == "pot") - (active() | registered(kind == "shop"))',
                 paste('having(sum(net) / 2 >= much, when = "2025") &',
                       'top(revenue, 3, where = item == "pot")'))) {
    tree <- internal("read_set")(text, "set")
    expect_identical(internal("read_set")(internal("names_text")(tree), "set"), tree)
  }
  tied <- ll_book(data.frame(k = c("a", "b", "c"), net = c(2, 2, 1)), fields = c(k = "dimension"),
                  metrics = list(r = "sum(net)", low = list(is = "sum(net)", better = "low")))
  expect_identical(ll_sets(tied, "k", "top(r, 1)")$k, c("a", "b"))
  expect_match(paste(ll_notes(ll_sets(tied, "k", "top(r, 1)"))$text, collapse = " "),
               "holds 2 values of k: of those tied at the edge none is left out")
  expect_identical(ll_sets(tied, "k", "top(low, 1)")$k, "c")
})

test_that("saved sets serve in conditions, metrics, bands and the command, made of all lines", {
  lines <- set_lines()
  book <- set_book(lines, sets = list(gone = list(each = "k", is = "old - active(\"2026\")"),
                                      old = list(each = "k", is = "active('2024')"),
                                      few = list(each = "k", names = c("k01", "zz"))))
  year <- format(lines$day, "%Y")
  gone <- setdiff(lines$k[year == "2024"], c(lines$k[year == "2026"], NA))
  got <- ll_standings(book, "k", where = "k %in% gone", when = "2025")
  expect_setequal(got$k, intersect(gone, lines$k[year == "2025"]))
  expect_match(ll_reading(got), "k is in the set 'gone'; .*'gone' is old - active\\(\"2026\"\\)")
  expect_true(all(ll_proof(got)$holds))
  kept <- ll_standings(book, "item", c(theirs = "sum(net[!(k %in% gone)])"))
  expect_equal(sum(kept$theirs), sum(lines$net[!lines$k %in% gone]))
  expect_true(all(ll_proof(kept)$holds))
  expect_setequal(ll_sets(book, sets = "gone")$k, gone)
  expect_setequal(ll_sets(book, sets = "few")$k, c("k01", "zz"))
  expect_identical(nrow(ll_sets(ll_where(book, k = "k05"), sets = "gone", when = "2025")),
                   length(gone))
  # A metric may look into a set, and a set be made of that metric's like.
  mixed <- set_book(lines, sets = list(big = list(each = "k", is = "top(revenue, 5)")))
  expect_equal(ll_standings(mixed, "item", c(best = "sum(net[k %in% big])"))$best |> sum(),
               sum(sort(rowsum(lines$net[!is.na(lines$k)], lines$k[!is.na(lines$k)])[, 1],
                        decreasing = TRUE)[1:5]))
  file <- write_text("who,k", "x,k07", "y,never seen")
  csv <- tempfile(fileext = ".csv")
  write.csv(lines, csv, row.names = FALSE)
  brief <- write_text(paste0("lines: ", csv), "metrics: {revenue: sum(net)}",
                      "fields: {k: dimension, order_no: identifier}", "sets:",
                      "  gone: {each: k, is: active('2024') - active('2026')}",
                      paste0("  post: {each: k, file: ", file, "}"),
                      "pages: {a: {study: sets, sets: {x: gone, y: post}}}", ending = ".yml")
  expect_setequal(ll_sets(ll_brief(brief)$book, sets = "post")$k, c("k07", "never seen"))
  out <- command("standings", csv, "--define", "revenue=sum(net)", "--field", "k=dimension",
                 "--saved-set", "gone=k: active('2024') - active('2026')", "--each", "k", "--where",
                 "k %in% gone", "--format", "csv")
  expect_equal(length(out$out) - 1, length(gone))
  both <- command("sets", csv, "--define", "revenue=sum(net)", "--field", "k=dimension", "--each",
                  "k", "--sets", "a=active('2024')", "--sets", "b = active('2025')", "--listed",
                  "a & b", "--format", "json")
  expect_identical(both$status, 0L)
  expect_match(paste(both$out, collapse = ""), "\"in_sets\": ?\"a & b\"")
})

test_that("what cannot be meant is refused with what to do", {
  book <- set_book(sets = list(gone = list(each = "k", is = "active('2024')")))
  refused <- function(text, ...,
                      class = "ll_error_formula") expect_error(ll_sets(book, "k", ...), text,
                                                               class = class)
  refused("no set called 'gnoe'[^!]*gone", "gnoe - active()")
  refused("circle: a, b, a", c(a = "b", b = "a | active()"))
  refused("sets are joined by", "active() + active()")
  refused("has no opposite", "!active()")
  refused("'actve' is not allowed", "actve('2024')")
  refused("no argument 'whn'", "active(whn = '2024')")
  refused("compares a metric with a number", "having(revenue)")
  refused("whole number of names", "top(revenue, 1.5)")
  refused("no field called 'kin'", "registered(kin == 'shop')")
  refused("no parameter called 'mch'", "having(revenue > mch)")
  refused("cannot be read", "active('2024', '2025', 3)")
  refused("period 'smetime'", "active('smetime')", class = "ll_error_word")
  refused("No k is called 'k99'", "c('k99')", class = "ll_error_word")
  expect_error(ll_sets(book, "item", "registered()"), "needs a register of items.*--register item=",
               class = "ll_error_formula")
  expect_error(ll_sets(book, "item", "gone"), "is one of values of k, not of items",
               class = "ll_error_formula")
  expect_error(ll_standings(book, "k", where = "item %in% gone"), "is another field",
               class = "ll_error_formula")
  expect_error(ll_standings(book, "k", where = "k %in% gnoe"), "no set called 'gnoe'",
               class = "ll_error_formula")
  expect_error(set_book(sets = list(a = list(each = "k", is = "b"),
                                    b = list(each = "k", is = "active(k %in% a)"))),
               "circle: a, b, a", class = "ll_error_formula")
  expect_error(set_book(sets = list(a = list(is = "b"))), "needs 'each'",
               class = "ll_error_argument")
  expect_error(set_book(sets = list(a = list(each = "k", is = "active()", names = "k"))),
               "needs one of", class = "ll_error_argument")
  expect_error(ll_sets(book, sets = "active()"), "'each' must be given",
               class = "ll_error_argument")
  expect_error(ll_sets(book, "k", rep("active()", 7)), "At most 6", class = "ll_error_argument")
  bad <- command("standings", demo_path("order_lines.csv"), "--saved-set", "gone", "--each", "rep")
  expect_identical(bad$status, 2L)
})

test_that("odd books are sound, and what is drawn", {
  book <- set_book()
  demo <- demo_book()
  outside <- ll_sets(book, "k", c(a = "active('2030')", b = "active('2024')"))
  expect_match(paste(ll_notes(outside)$text, collapse = " "), "A holds no name")
  expect_match(paste(ll_notes(outside)$text, collapse = " "), "no lines in 1 January to 31 December 2030")
  lone <- ll_book(data.frame(k = "a \"b\"\nc", net = 1), fields = c(k = "dimension"),
                  metrics = list(r = "count()"))
  expect_sound(list(outside, ll_sets(book, "k", "active('2030')"),
                    ll_sets(lone, "k", c(a = "active()", b = "top(r, 3)")),
                    ll_sets(book, "k", c("active()", "registered()", "top(rate, 9)", "c('k01')"),
                            metrics = "rate"), ll_sets(demo, "account", "registered() - active()"),
                    ll_sets(demo, "account", c(a = "active('2024')", b = "active('2025')",
                                               c = "active('2026')")),
                    ll_sets(book, "k", c(a = "active()", b = "registered()"),
                            where = "k == \"k01\"", when = "2030")))
  # The demo's customers of the register without lines.
  expect_identical(nrow(ll_sets(demo, "account", "registered() - active()")), 60L)
})

test_that("who is in a set is said in words, and as many as the lines tell", {
  book <- demo_book()
  lines <- merge(demo_lines(), utils::read.csv(demo_path("accounts.csv"), colClasses = "character"),
                 by = "account")
  items <- utils::read.csv(demo_path("items.csv"), colClasses = "character")
  family <- items$family[match(lines$item, items$item)]
  who <- function(...) unique(lines$account[...])
  say <- function(set) ll_finding(ll_sets(book, "account", sets = set))
  schools <- setdiff(who(lines$type == "school"), who(family %in% "feed"))
  expect_match(say("active('all', type == 'school') - active('all', family == 'feed')"), paste0(
    "^", length(schools), " accounts are active where type is school and not active where family ",
    "is feed:"))
  in_2025 <- startsWith(as.character(lines$order_date), "2025")
  large <- tapply(lines$net[in_2025], lines$account[in_2025], sum, na.rm = TRUE)
  expect_match(say("having(revenue > 20000, when = '2025')"), paste0(
    "^", sum(large > 20000), " accounts have revenue over 20,000 in 2025:"))
  expect_match(say("having(revenue > 9e9)"), "^No account has revenue over 9,000,000,000")
  expect_match(say("having(orders >= 50) - active('2026')"),
               "have orders of at least 50 and are not active in 2026|No account has orders of at")
  # Brackets have no words of their own.
  expect_match(say("active('2026') - (active('2025') | active('2024'))"), "are in active")
})
