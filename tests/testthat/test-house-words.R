# The public words: those that went are gone from help, reference, README, articles, briefs, schema,
# and from what the studies say. NEWS alone tells of both.

gone_words <- c(
  "places? by|\\b(un)?placed\\b|_place\\b|place_(overall|before|5|95)|share a place",
  "ranges of places", "\\bcertainty\\b", "at[_-]edge", "at[_-]least\\b",
  "\\b[xy][_-]line\\b|near[_ ]line", "set[_ -]aside", "\\bunfold(ed|ing|s)?\\b",
  "\\brepairs?\\b", "\\bmend(s|ed|ing)?\\b", "\\brhythm", "\\bpatience\\b",
  "usual[_ ]gap", "\\bsilen(t|ce)\\b", "--(show|most|forward|instead)\\b",
  "to the coin|\\bcoins?\\b", "folded", "spelled alike|same: alike",
  "entered twice|\\btwins\\b", "far out", "of weight", "payout_instead")

# The lines of texts that have one of them.
old_words <- function(text) {
  text <- text[!is.na(text)]
  # Numbers are silent in the everyday sense nowhere; a call of R's own may be.
  text <- gsub("silent = TRUE|no_nouns|--most VALUE|--most 4", "", text)
  found <- lapply(gone_words, function(word) grep(word, text, value = TRUE, perl = TRUE))
  as.character(unlist(found))
}

test_that("the old words are found where they stand", {
  expect_length(old_words(c("Reps placed by revenue", "--set-aside", "lines set aside",
                            "a mended file", "equal to the coin", "3 far out")), 6)
  expect_length(old_words(c("ranked by revenue", "in place of the table", "at the last rank")), 0)
})

test_that("help, reference pages, README, articles, briefs and schema have none of them", {
  help <- unlist(lapply(names(internal("declarations")()), function(study) {
    capture.output(ll_main(c(study, "--help", "all")))
  }))
  expect_identical(old_words(c(help, capture.output(ll_main("--help")))), character())
  pages <- tools::Rd_db("longladder")
  expect_gt(length(pages), 30)
  expect_identical(old_words(unlist(lapply(pages, function(page) capture.output(print(page))))),
                   character())
  source <- source_folder()
  files <- c(file.path(source, c("README.md", "CONTRIBUTING.md", "SECURITY.md")),
             list.files(file.path(source, "vignettes"), "Rmd$", full.names = TRUE),
             list.files(file.path(source, "inst"), "(yml|json|Rmd)$", full.names = TRUE,
                        recursive = TRUE))
  # People may ask in any words: "who placed the largest order".
  files <- grep("/ask/en[.]yml$", files, value = TRUE, invert = TRUE)
  expect_gt(length(files), 8)
  text <- unlist(lapply(files, readLines, encoding = "UTF-8"))
  # CONTRIBUTING shows sentences before and after.
  expect_identical(old_words(grep("^[|].*[.] [|].*[.] [|]$", text, value = TRUE, invert = TRUE)),
                   character())
})

test_that("what the demo's pages say has none of them, in tables and figures' words neither", {
  pages <- run_pages(ll_brief(demo_path("longladder.yml")))
  said <- unlist(lapply(pages, function(page) {
    x <- page$result
    c(ll_finding(x), ll_reading(x), ll_notes(x)$text, ll_notes(x)$kind, ll_proof(x)$check, names(x),
      unlist(lapply(ll_part(x), names)))
  }))
  expect_gt(length(said), 300)
  expect_identical(old_words(said), character())
})
