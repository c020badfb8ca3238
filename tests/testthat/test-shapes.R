# Exports of every shape, language and fault give the figures of the clean lines that they were made
# from, after at most one correction, which the first answer prints.

folder <- withr::local_tempdir(.local_envir = teardown_env())

test_that("exports of every shape, language and fault give their figures and say what was done", {
  for (seed in some_of(1:110, 3)) {
    withr::local_seed(seed)
    one <- draw_shape()
    file <- write_shape(one, folder)
    expect_null(shape_trouble(one, file), info = paste(seed, deparse(one$style)))
  }
})

test_that("what stands beside or around the lines is read right, or refused with the reason", {
  for (seed in some_of(1:70, 3)) {
    withr::local_seed(seed)
    one <- draw_beside()
    expect_null(beside_trouble(one, folder), info = paste(seed, deparse(one$style)))
  }
})

test_that("exports without rows that are no lines are read as another reader reads them", {
  for (seed in some_of(1001:1055, 3)) {
    withr::local_seed(seed)
    one <- draw_shape()
    if (one$style$kind != "csv" || one$style$titles || one$style$foot || one$totals) next
    file <- write_shape(one, folder)
    other <- data.table::fread(file, colClasses = "character", data.table = FALSE, encoding = "UTF-8",
                               sep = one$style$separator, blank.lines.skip = TRUE)
    other <- other[rowSums(other != "") > 0, ]
    book <- ll_book(file)
    expect_equal(book$lines, nrow(other), info = seed)
    head <- unname(one$head)[match("customer", one$keys)]
    expect_equal(sort(as.data.frame(ll_standings(book, head, c(n = "count()")))$n),
                 sort(as.vector(table(other[[head]]))), info = seed)
  }
})
