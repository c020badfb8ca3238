# The helpers that sentences are made of, each on its edges; and how long a finding may be.

test_that("counts: nouns, their plurals, verbs that go with them, lists", {
  plural <- internal("plural")
  told <- c(plural(1, "account"), plural(2, "territory"), plural(0, "day"), plural(1200, "box"),
            plural(3, "salesperson"), plural(2, "k"), plural(1, "when"),
            plural(2, internal("noun")("Kunde", "Kunden")))
  expect_identical(told, c("1 account", "2 territories", "0 days", "1,200 boxes", "3 salespeople",
                           "2 values of k", "1 value of when", "2 Kunden"))
  verb <- internal("verb")
  expect_identical(c(verb(1, " is"), verb(2, " is"), verb(0, "has none"), verb(2, " reaches it"),
                     verb(3, "buys no "), verb(5, " was "), verb(2, "lies")),
                   c(" is", " are", "have none", " reach it", "buy no ", " were ", "lie"))
  list <- internal("and_list")
  expect_identical(c(list("a"), list(c("a", "b")), list(letters[1:3], last = "or"),
                     list(letters[1:9], 3)),
                   c("a", "a and b", "a, b or c", "a, b and 7 more"))
  expect_identical(list(character()), "")
  next_words <- internal("next_words")
  expect_identical(c(next_words("Ida", "reps"), next_words(c("Ida", "Tom"), "reps"),
                     next_words(letters[1:4], "reps")),
                   c("Ida is next", "Ida and Tom are next", "4 reps are next"))
})

test_that("codes and what they are called", {
  expect_identical(internal("labelled_text")(c("01", "02"), c("Hale Farm", NA)),
                   c("Hale Farm (01)", "02"))
  expect_identical(internal("labelled_cells")("01", strrep("long name ", 9)),
                   paste0(strtrim(strrep("long name ", 9), 32), "... (01)"))
})

test_that("comparisons: a change bears its sign, a rate's is in points, none is none", {
  money <- list(unit = "money")
  rate <- list(unit = "percent")
  change <- internal("said_change")
  expect_identical(c(change(c(1234.5, -3), money), change(.0123, rate), change(-4, money, FALSE)),
                   c("+1,234", "-3", "+1.2 points", "4.00"))
  than <- internal("change_words")
  expect_identical(c(than(110, 100, money), than(.4, .43, rate), than(1, 1, money)),
                   c("10.0 % above", "3.0 points below", "level with"))
  expect_null(than(5, NA, money))
  expect_null(than(5, 0, money))
  least <- internal("least_words")
  expect_identical(c(least(.00001, rate), least(3, money)), c("less than 0.05 points", "3.00"))
})

# Codes beside names are told in one breath.
word_count <- function(text) {
  text <- gsub("\\([^ ]*[0-9][^ %]*\\)", "", gsub("(?<=[0-9])[.,](?=[0-9])", "", text, perl = TRUE))
  lengths(gregexpr("[[:alnum:]][[:alnum:]'-]*", text))
}

test_that("a finding is about thirty words at most, period and names included", {
  expect_equal(word_count("In 2025: Hale Farm (Q01) leads by 3.5 % with 1,234.50, 2.1 more."), 11)
  pages <- run_pages(ll_brief(demo_path("longladder.yml")))
  told <- vapply(pages, function(page) ll_finding(page$result), "")
  book <- demo_book()
  told <- c(told, vapply(list(
    ll_bridge(book, "margin_rate", by = "territory", when = "2026-Q2"),
    ll_bridge(book, "revenue", by = "account", into = "names", when = "2026-Q2"),
    ll_substitution(book, "account", "item", when = "2026-Q2", against = "year before"),
    ll_portrait(book, "account", "03085", when = "2025"),
    ll_score(book, "rep", c("revenue", "margin_rate"), draws = 200, when = "2025"),
    ll_payout(book, "rep", "0=1%,100000=2%", when = "2025", compare_rates = "0=2%"),
    ll_cohorts(book, "account", "revenue"),
    ll_whitespace(book, "account", "item", when = "2025")), ll_finding, ""))
  expect_identical(unname(told[word_count(told) > 33]), character())
})
