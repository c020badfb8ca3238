# Briefs: read as typed, checked with their lines.

brief_with <- function(...) {
  folder <- withr::local_tempdir(.local_envir = parent.frame())
  utils::write.csv(small_lines(), file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  file <- file.path(folder, "longladder.yml")
  writeLines(c("lines: lines.csv", ...), file)
  file
}

test_that("the demo's brief opens its book and its pages", {
  brief <- ll_brief(demo_path("longladder.yml"))
  expect_s3_class(brief$book, "ll_book")
  expect_true(all(c("health", "reps", "accounts", "quarter_drill") %in% names(brief$pages)))
  expect_equal(brief$pages$reps$top, 10)
  expect_output(print(brief), "page reps: standings")
  page <- brief$pages$reps
  got <- do.call(ll_standings, c(list(brief$book), page[setdiff(names(page), "study")]))
  expect_true(all(ll_proof(got)$holds))
})

test_that("scalars stay what was typed until their declaration types them", {
  file <- brief_with("title: No", "metrics: {revenue: sum(net)}", "parameters: {big: 1e1}",
                     paste0("pages: {p: {study: standings, each: rep, top: 2, no_lines: no, ",
                            "where: net > big}}"))
  brief <- ll_brief(file)
  expect_identical(brief$book$title, "No")
  expect_identical(brief$book$parameters$big, 10)
  expect_identical(brief$pages$p$no_lines, FALSE)
  expect_identical(brief$pages$p$top, 2)
})

test_that("other lines than the brief's can be given", {
  more <- rbind(small_lines(), small_lines())
  brief <- ll_brief(brief_with("metrics: {revenue: sum(net)}"), lines = more)
  expect_equal(ll_standings(brief$book, "rep")$revenue[1], 70.6)
})

test_that("mistakes are named with their line", {
  cases <- list(
    "line 2, metrix: unknown key 'metrix'.*Nearest: 'metrics'" = "metrix: {a: sum(net)}",
    "no readable YAML.*line 2" = "metrics: [a",
    "Duplicate map key: 'title' \\(line 3\\)" = c("title: a", "title: b"),
    "line 2, metrics: needs names and values" = "metrics: sum(net)",
    "line 2, pages.p: the page has no study" = "pages: {p: {each: rep}}",
    "no study called 'standing'.*Nearest: 'standings'" = "pages: {p: {study: standing, each: rep}}",
    "line 2, pages.p.topp: unknown key 'topp'.*Nearest: 'top'" =
    "pages: {p: {study: standings, each: rep, topp: 3}}",
    "line 2, pages.p.top: 'top' must be a whole number" =
    "pages: {p: {study: standings, each: rep, top: 0}}",
    "line 4, metrics.a.unit: needs money, percent.*It is 'mony'.*Nearest: 'money'" =
      c("metrics:", "  a: {is: sum(net),", "    unit: mony}"),
    "line 3, fields.rep: needs identifier" = c("fields:", "  rep: dimensions"),
    "line 3, fixes.total_rows: needs yes or no" = c("fixes:", "  total_rows: maybe"))
  for (pattern in names(cases)) {
    e <- expect_error(ll_brief(brief_with(cases[[pattern]])), class = "ll_error_brief",
                      info = pattern)
    expect_match(gsub("\n", " ", conditionMessage(e)), pattern)
  }
  expect_error(ll_brief("nowhere.yml"), class = "ll_error_file")
  expect_error(ll_brief(brief_with("metrics: {a: sum(nett)}")),
               "Nearest: 'net'(.|\n)*In the brief, line 2", class = "ll_error_formula")
})

test_that("every problem comes in one message, in the order of the lines", {
  file <- brief_with("metrics:", "  a:", "    is: sum(net)", "    shew: money  # not so",
                     "# titel: no key", "pages:", "  p: {study: standings, each: rep,",
                     "      top: none, bottm: 2}", "  'q r':", "    study: pareto",
                     "parameters: {big: much}", "titel: x")
  e <- expect_error(ll_brief(file), class = "ll_error_brief")
  found <- regmatches(conditionMessage(e), gregexpr("- line [0-9]+, [^:]+",
                                                    conditionMessage(e)))[[1]]
  expect_identical(found, c("- line 5, metrics.a.shew", "- line 9, pages.p.bottm",
                            "- line 9, pages.p.top", "- line 10, pages.q r.each",
                            "- line 12, parameters.big", "- line 13, titel"))
  expect_match(conditionMessage(e), "has 6 problems")
})

test_that("lines of keys: blocks, braces over lines, quotes, lists, folded text", {
  text <- c("a: 1", "'b c': {d: 'x: {y', e: [f, {g: 1}],", "  h: 2} # i: 3", "j: |", "  k: no key",
            "  l: none", "m:", "- n: 1", "  o: {p: {q: 1}, r: 2}", "\"s\" : 4", "# t: 5",
            "u: {v: a:b, w: \"x, y: z\"}")
  lines <- getFromNamespace("brief_lines", "longladder")(text)
  expect_equal(lines, c(a = 1, "b c" = 2, "b c/d" = 2, "b c/e" = 2, "b c/e/g" = 2, "b c/h" = 3,
                        j = 4, m = 7, "m/n" = 8, "m/o" = 9, "m/o/p" = 9, "m/o/p/q" = 9, "m/o/r" = 9,
                        s = 10, u = 12, "u/v" = 12, "u/w" = 12)[names(lines)])
  expect_length(lines, 17)
})

test_that("values are set beside the brief: parameters, pages, any key that exists", {
  file <- brief_with(paste0("metrics: {revenue: {is: sum(net), unit: money}, big: 'count(net[net ",
                            "> floor])'}"), "parameters: {floor: {is: 20, title: A big line}}",
                     "pages: {p: {study: standings, each: rep, metrics: [revenue]}}")
  brief <- ll_brief(file, set = c(floor = 5, p.top = "2", calendar.fiscal_start = "april",
                                  p.metrics = "[revenue, big]", metrics.revenue.unit = "number"))
  expect_identical(brief$book$parameters$floor, 5)
  expect_identical(brief$pages$p$top, 2)
  expect_identical(brief$pages$p$metrics, c("revenue", "big"))
  expect_equal(sum(ll_standings(brief$book, "rep", "big")$big, na.rm = TRUE),
               sum(small_lines()$net > 5))
  expect_error(ll_brief(file, set = c(flor = 5)), "nothing called 'flor'(.|\n)*'floor'",
               class = "ll_error_word")
  expect_error(ll_brief(file, set = c(p.top = "many")), "--set pages.p.top: 'top' must be",
               class = "ll_error_brief")
  expect_error(ll_brief(file, set = c(p.topp = 2)), "unknown key 'topp'", class = "ll_error_brief")
  got <- command("standings", "--brief", file, "--each", "rep", "--metrics", "big", "--set",
                 "floor=5", "--format", "csv")
  expect_equal(got$status, 0)
  expect_match(command("standings", demo_path("order_lines.csv"), "--each", "rep", "--set",
                       "a=1")$err, "there is none")
})

test_that("a brief may hold what the book takes, key by key", {
  spec <- internal("brief_spec")()
  expect_setequal(names(spec$lines$keys$connect$keys), internal("connection_keys"))
  expect_setequal(setdiff(names(formals(ll_book)), names(spec)), c("table", "query"))
  # The book names the same keys when one is unknown.
  odd <- list(fields = list(net = list(zz = 1)), bands = list(size = list(zz = 1)),
              calendar = list(zz = 1), unpivot = list(zz = 1),
              sets = list(old = list(each = "rep", is = "active(2025)", zz = 1)),
              registers = list(area = list(zz = 1)))
  for (name in names(odd)) {
    said <- conditionMessage(expect_error(do.call(ll_book, c(list(small_lines()), odd[name])),
                                          "unknown key 'zz'", class = "ll_error_word"))
    keys <- names(spec[[name]]$each$keys %||% spec[[name]]$keys)
    for (key in keys) expect_match(said, key, fixed = TRUE, info = paste(name, key))
  }
})

test_that("the schema is the one that ships, and allows the demo's brief", {
  shipped <- system.file("schema", "longladder.schema.json", package = "longladder")
  expect_identical(readLines(shipped), ll_schema())
  schema <- jsonlite::fromJSON(shipped, simplifyVector = FALSE)
  brief <- yaml::read_yaml(demo_path("longladder.yml"))
  expect_true(all(names(brief) %in% names(schema$properties)))
  by_study <- schema$properties$pages$additionalProperties$allOf
  studies <- vapply(by_study, function(s) s[["if"]]$properties$study$const, "")
  for (page in brief$pages) {
    then <- by_study[[match(page$study, studies)]]$then
    expect_true(all(names(page) %in% names(then$properties)))
    expect_true(all(unlist(then$required) %in% names(page)))
  }
  file <- withr::local_tempfile(fileext = ".json")
  expect_equal(command("schema", "--out", file)$status, 0)
  expect_identical(readLines(file), ll_schema())
})

test_that("nothing in a brief is run", {
  trap <- tempfile()
  file <- brief_with(paste0("title: !expr file.create('", trap, "')"),
                     "metrics: {revenue: sum(net)}")
  try(ll_brief(file), silent = TRUE)
  expect_false(file.exists(trap))
})

test_that("computed fields, bands, calendar and fixes are read from a brief as from R", {
  file <- brief_with(
    "fields:", "  wait: {is: day - day + qty, also: [delay]}",
    "  rep: {same: {Ida: [Tom]}, fill: house}",
    "  qty: {fill: 0}", "bands:",
    "  size: {of: net, from: [0, 10, 20], labels: [small, middle, large]}",
    "  class_of: {of: revenue, each: rep, from: [40], below: minor, labels: [major]}",
    "calendar: {fiscal_start: april}",
    "exclude: net < 1", "fixes: {total_rows: no}",
    "metrics: {revenue: sum(net), wait_sum: sum(delay)}",
    "parameters: {big: {is: 20, title: A big line}}",
    "pages: {p: {study: standings, each: rep, metrics: [revenue, wait_sum], when: FY2026}}")
  book <- ll_brief(file)$book
  got <- ll_standings(book, "rep", c("revenue", "wait_sum"), when = "FY2026")
  # Ida and Tom as one: 30.30 + 35.30 (0.10 excluded); the line without a rep is house's.
  expect_equal(got$revenue[match(c("Ida", "Uma", "house"), got$rep)], c(65.6, 35.2, 7.5))
  expect_equal(got$wait_sum[got$rep == "Uma"], 5)
  expect_true(all(ll_proof(got)$holds))
  expect_setequal(ll_standings(book, "size")$size, c("small", "middle", "large"))
  expect_equal(ll_standings(book, "class_of", "revenue")$revenue, c(65.6, 42.7))
  expect_equal(ll_standings(book, "rep", c(n = "count(net[net > big])"))$n[1], 2)
})

test_that("a page changed in R is checked when it is changed, a new one when it runs", {
  brief <- ll_brief(demo_file("longladder.yml"))
  given <- brief$pages$reps
  refused <- function(call, class, says) expect_error(call, says, class = class, fixed = TRUE)
  refused(brief$pages$reps$top <- "ten", "ll_error_argument", "'top' must be a whole number")
  refused(brief$pages$reps$topp <- 3, "ll_error_argument", "Nearest: 'top'")
  refused(brief$pages$reps$each <- NULL, "ll_error_argument", "'each' must be given")
  refused(brief$pages$reps$study <- "standing", "ll_error_word", "Nearest: 'standings'")
  refused(brief$pages$reps[[2]] <- 3, "ll_error_argument", "by its name")
  expect_identical(brief$pages$reps, given)
  brief$pages$reps$top <- 3
  brief$pages$reps[["title"]] <- "Three"
  made <- run_pages(brief, "reps")$reps
  expect_identical(list(made$title, nrow(made$result)), list("Three", 3L))
  expect_output(print(brief$pages$reps), "page of standings: each = 'rep'.*top = 3")
  brief$pages$reps$top <- NULL
  expect_gt(nrow(run_pages(brief, "reps")$reps$result), 3)
  brief$pages$own <- list(study = "standings", each = "rep", title = "Own")
  expect_identical(run_pages(brief, "own")$own$title, "Own")
  brief$pages$own <- list(study = "standings", eac = "rep")
  refused(run_pages(brief, "own"), "ll_error_argument", "Nearest: 'each'")
})
