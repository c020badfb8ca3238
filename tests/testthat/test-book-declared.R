# The book is declared once: its arguments, the keys of a brief, the options of the command, the
# schema and the reference page all come to the same.

declared <- internal("book_declaration")()
of_lines <- c("table", "query")

test_that("arguments and defaults of ll_book() are those declared", {
  arguments <- formals(ll_book)
  expect_identical(names(arguments), c("lines", names(declared), of_lines))
  for (name in names(declared))
    expect_identical(arguments[[name]], declared[[name]]$default, info = name)
})

test_that("a brief has these keys, and its schema too", {
  keys <- names(internal("brief_spec")())
  expect_setequal(keys, c(names(declared), "lines", "pages"))
  schema <- jsonlite::fromJSON(paste(ll_schema(), collapse = "\n"), simplifyVector = FALSE)
  expect_setequal(names(schema$properties), keys)
  for (name in names(declared))
    expect_identical(schema$properties[[name]]$description, declared[[name]]$spec$help, info = name)
})

test_that("every argument stands on the reference page", {
  skip_without_sources()
  page <- readLines(file.path(dirname(source_files()[1]), "..", "man", "ll_book.Rd"))
  told <- regmatches(page, regexpr("(?<=^\\\\item[{]).*?(?=[}])", page, perl = TRUE))
  told <- trimws(unlist(strsplit(told, ",")))
  expect_identical(setdiff(names(formals(ll_book)), told), character())
})

# A book opened with each option, and with the argument it stands for, is the same.
test_that("every option comes to the argument that declares it", {
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(small_lines(), file, row.names = FALSE)
  areas <- withr::local_tempfile(lines = c("area,zone", "Moor,N", "Fen,S"), fileext = ".csv")
  wide <- withr::local_tempfile(lines = c("shop,2026-01,2026-02", "A,1,2", "B,3,4"),
                                fileext = ".csv")
  rates <- withr::local_tempfile(lines = c("date,currency,rate", "2025-01-01,USD,0.9"),
                                 fileext = ".csv")
  money <- withr::local_tempfile(lines = c("shop,date,currency,net", "A,2025-02-01,EUR,2", "B,2025-02-01,EUR,4", "A,2025-02-02,USD,5"),
                                 fileext = ".csv")
  cases <- list(
    field = list("qty=dimension", list(fields = list(qty = "dimension"))),
    compute = list("twice=2 * net", list(fields = list(twice = list(is = "2 * net")))),
    label = list("rep=area", list(fields = list(rep = list(label = "area")))),
    plural = list("rep=sellers", list(fields = list(rep = list(plural = "sellers")))),
    fill = list("qty=above", list(fields = list(qty = list(fill = "above")))),
    define = list("sold=sum(net)", list(metrics = list(sold = "sum(net)"))),
    register = list(paste0("area=", areas), list(registers = list(area = areas))),
    parameter = list("big=3", list(parameters = list(big = "3"))),
    date = list("day", list(date = "day")), order = list("order_no", list(order = "order_no")),
    people = list("rep", list(people = "rep")),
    as_of = list("2026-02-01", list(as_of = "2026-02-01")),
    fiscal_start = list("july", list(calendar = list(fiscal_start = "july"))),
    covered_to = list("2026-03-31", list(calendar = list(covered_to = "2026-03-31"))),
    exclude = list("net < 5", list(exclude = "net < 5")),
    grain = list("summed", list(grain = "summed")),
    unpivot = list("2026-*", list(unpivot = list(columns = "2026-*", names = "period",
                                                 values = "amount"))),
    unpivot_into = list("month,net", list(unpivot = list(columns = "2026-*", names = "month",
                                                         values = "net"))),
    fix = list("dates=no", list(fixes = list(dates = "no"))),
    saved_set = list("early=rep: active(2026)",
                     list(sets = list(early = list(each = "rep", is = "active(2026)")))),
    match = list("area=case", list(match = list(area = "case"))),
    sign = list("area=Moor", list(sign = list(area = "Moor"))),
    currency = list("any", list(currency = list(to = "any"))),
    exchange_rates = list(rates, list(currency = list(to = "EUR", rates = rates))),
    cache = list("no", list(cache = "no")))
  options <- unlist(unname(lapply(declared, `[[`, "options")), recursive = FALSE)
  expect_setequal(names(cases), names(options))
  for (name in names(cases)) {
    given <- list(cases[[name]][[1]])
    names(given) <- name
    if (name == "unpivot_into") given$unpivot <- "2026-*"
    if (name == "match") given$register <- paste0("area=", areas)
    if (name == "exchange_rates") given <- c(currency = "EUR", given)
    got <- internal("book_arguments")(given)
    if (name == "match") cases[[name]][[2]]$registers <- list(area = areas)
    expect_identical(got[order(names(got))], cases[[name]][[2]][order(names(cases[[name]][[2]]))],
                     info = name)
    lines <- if (grepl("unpivot", name)) wide else if (name == "exchange_rates") money else file
    words <- c("check", lines, "--format", "json",
               unlist(Map(function(n, v) c(paste0("--", gsub("_", "-", n)), v), names(given),
                          given)))
    # Figures added up before are not counted.
    if (name == "grain") next
    told <- command(words)
    expect_identical(told$status, 0L, info = paste(name, told$err))
    by_option <- jsonlite::fromJSON(told$out)
    book <- do.call(ll_book, c(list(lines), cases[[name]][[2]]))
    expect_identical(by_option$reading, ll_reading(ll_check(book)), info = name)
    expect_identical(c(by_option$rows$finding, character()), ll_check(book)$finding, info = name)
  }
})

test_that("an option that only goes with another says so", {
  expect_match(command("check", demo_path("order_lines.csv"), "--unpivot-into", "a,b")$err,
               "'--unpivot-into' needs '--unpivot'")
  expect_match(command("check", demo_path("order_lines.csv"), "--unpivot", "x*", "--unpivot-into",
                       "a")$err, "'--unpivot-into' takes two names")
})
