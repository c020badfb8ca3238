# The vignettes run as they are; that of validation stops where a figure differs from the hand's.

test_that("every vignette runs, the worked figures agree", {
  skip_unless_all()
  skip_without_pandoc()
  files <- list.files(file.path(source_folder(), "vignettes"), "Rmd$", full.names = TRUE)
  expect_gte(length(files), 7)
  for (file in files) {
    out <- withr::local_tempdir()
    expect_error(rmarkdown::render(file, output_dir = out, intermediates_dir = out, quiet = TRUE,
                                   envir = new.env()), NA, info = basename(file))
  }
  # A wrong figure would be seen.
  text <- readLines(grep("validation", files, value = TRUE))
  wrong <- withr::local_tempfile(fileext = ".R")
  code <- knitr::purl(text = sub("130 / 316", "131 / 316", text, fixed = TRUE), quiet = TRUE)
  writeLines(code, wrong)
  expect_error(source(wrong, local = new.env(), echo = FALSE), "all.equal")
})

test_that("the site's reference has every page once, and a report a place for every study", {
  site <- yaml::read_yaml(file.path(source_folder(), "_pkgdown.yml"))
  listed <- unlist(lapply(site$reference, `[[`, "contents"))
  expect_setequal(listed, sub("[.]Rd$", "", list.files(file.path(source_folder(), "man"),
                                                       "[.]Rd$")))
  expect_false(anyDuplicated(listed) > 0)
  articles <- unlist(lapply(site$articles, `[[`, "contents"))
  expect_setequal(articles, sub("[.]Rmd$", "", list.files(file.path(source_folder(), "vignettes"),
                                                          "[.]Rmd$")))
  stages <- unlist(getFromNamespace("page_stages", "longladder"))
  expect_setequal(stages, names(getFromNamespace("declarations", "longladder")()))
})
