# The command: in this process for its many messages, as a process of its own for the contract.

brief <- function() c("--brief", demo_path("longladder.yml"))

test_that("help and version", {
  expect_snapshot(ll_main(character()))
  expect_snapshot(ll_main(c("standings", "--help")))
  expect_match(command("--version")$out, "^longladder [0-9.]+$")
})

test_that("every example of every study's help runs", {
  skip_unless_all()
  for (declaration in internal("declarations")()) for (example in declaration$examples) {
    words <- scan(text = example, what = "", quiet = TRUE)
    got <- command(declaration$name, brief(), words)
    expect_equal(got$status, 0, info = example)
  }
})

test_that("the example of a file alone that a help ends with runs", {
  for (declaration in internal("declarations")()) if (!is.null(declaration$bare)) {
    shown <- utils::tail(command(declaration$name, "--help")$out, 1)
    words <- scan(text = sub("inst/extdata/order_lines.csv", shQuote(demo_path("order_lines.csv")),
                             shown, fixed = TRUE), what = "", quiet = TRUE)
    expect_identical(words[1], "longladder")
    expect_equal(command(words[-1])$status, 0, info = shown)
  }
})

test_that("table, csv and json to standard output carry the same numbers", {
  line <- command("holders", brief(), "--each", "order_no", "--format", "line")$out
  expect_length(line, 1)
  expect_match(line, "^The largest order by revenue: 253451")
  ask <- function(format) command("standings", brief(), "--each", "rep", "--top", "5", "--format",
                                  format)
  json <- jsonlite::fromJSON(ask("json")$out)
  csv <- data.table::fread(text = ask("csv")$out, data.table = FALSE)
  want <- ll_standings(demo_book(), "rep", top = 5)
  expect_identical(json$rows$revenue, want$revenue)
  expect_equal(csv$revenue, want$revenue)
  expect_match(ask("table")$out[1], ll_finding(want), fixed = TRUE)
})

test_that("all options reach the study", {
  got <- command("standings", brief(), "--each", "rep", "--metrics=revenue,over_limit", "--define",
                 "over_limit=count(net[net > limit])", "--define", "gap = revenue / 2",
                 "--parameter", "limit=500", "--only", "territory=Moor,Fen", "--only",
                 "channel=web", "--where", "quantity > 1", "--when", "2026-Q2", "--against",
                 "year before", "--top", "3", "--ties", "dense", "--min-orders", "2", "--tie_break",
                 "orders", "--format", "json")
  expect_equal(got$status, 0)
  json <- jsonlite::fromJSON(got$out)
  book <- ll_where(demo_book(), territory = c("Moor", "Fen"), channel = "web")
  want <- ll_standings(book, "rep", c("revenue", over_limit = "count(net[net > 500])"), top = 3,
                       where = "quantity > 1", when = "2026-Q2", against = "year before",
                       ties = "dense", min_orders = 2, tie_break = "orders")
  expect_equal(json$rows$revenue, want$revenue)
  expect_equal(json$rows$over_limit, want$over_limit)
  expect_equal(json$rows$orders_rank, want$orders_rank)
})

test_that("lines without a brief: roles guessed and said, LINES win over the brief's", {
  file <- write_text("order_no,day,rep,net", "1,2026-01-01,Ida,5", "2,2026-01-02,Tom,7.5")
  got <- command("standings", file, "--define", "revenue=sum(net)", "--each", "rep")
  expect_equal(got$status, 0)
  expect_match(got$err, "read as identifier: order_no; date: day; dimension: rep; measure: net")
  expect_match(got$out[1], "Tom leads by revenue with 7.50")
  own <- withr::local_tempfile(fileext = ".yml")
  writeLines(c("lines: nowhere.csv", "metrics: {revenue: sum(net)}"), own)
  won <- command("standings", file, "--brief", own, "--each", "rep", "--format", "csv")
  expect_equal(won$status, 0)
  as_text <- command("standings", file, "--define", "n=count()", "--each", "net", "--field",
                     "net=dimension")
  expect_equal(as_text$status, 0)
})

test_that("what the person can fix ends with status 2 and one clear message", {
  one <- write_text("order_no,day,rep,net", "1,2026-01-01,Ida,5", "2,2026-01-02,Tom,7.5")
  none <- write_text("order_no,day,rep", "1,2026-01-01,Ida", "2,2026-01-02,Tom")
  ask <- function(...) c("standings", one, "--define", "revenue=sum(net)", "--each", "rep", ...)
  cases <- list(
    "no study called 'standing'.*Nearest: 'standings'" = "standing",
    "A study comes first" = "--each", "There is no option '--eech'.*'--each'" = c("standings",
                                                                                  "--eech", "rep"),
    "There is no option '-x'" = ask("-x"),
    "'--top' is given twice" = ask("--top", "1", "--top", "2"),
    "'--top' needs a value" = ask("--top"),
    "'--source-field' needs a value" = ask("--source-field=="),
    "'--where' needs a value" = ask("--where", " "),
    "no set called 'x'" =
      c("sets", one, "--define", "revenue=sum(net)", "--each", "rep", "--sets", "x"),
    "no field called 'revenu'.*Nearest: the metric 'revenue'.*Fields: " =
      c("standings", one, "--define", "revenue=sum(net)", "--each", "revenu"),
    "no metric called 'dayy'.*Nearest: the field 'day'" = ask("--metrics", "dayy"),
    "'top' must be a whole number.*'0'" = ask("--top", "0"),
    "'top' must be a whole number.*'-3'" = ask("--top", "-3"),
    "'top' must be a whole number.*'x'" = ask("--top", "x"),
    "No lines: give a file" = c("standings", "--each", "rep"),
    "does not exist" = c("standings", "nowhere.csv", "--each", "rep"),
    "'sheet' belongs to spreadsheets" = c("standings", one, "--sheet", "1", "--each", "rep"),
    "'each' must be given" = c("standings", one, "--define", "revenue=sum(net)"),
    "no field called 'rap'.*Nearest: 'rep'" = c("standings", one, "--define", "a=sum(net)",
                                                "--each", "rap"),
    "no metric called 'revenu'" = ask("--metrics", "revenu"),
    "has no metrics" = c("standings", none, "--each", "rep"),
    "'--define' must be NAME=VALUE" = c("standings", one, "--define", "sum(net)", "--each", "rep"),
    "sum\\(\\) needs numbers" = c("standings", one, "--define", "a=sum(rep)", "--each", "rep"),
    "'system' is not allowed" = c("standings", one, "--define", "a=system('ls')", "--each", "rep"),
    "'system' is not allowed" = ask("--where", "system('touch x') == 0"),
    "cannot be read" = ask("--when", "soon"), "'format' must be" = ask("--format", "html"),
    "ending of 'a.docx'" = ask("--out", "a.docx"), "does not exist" = ask("--out",
                                                                          "no/such/folder/a.csv"),
    "No rep is called 'Idda'.*'Ida'" = ask("--only", "rep=Idda"),
    "must be words with commas" = ask("--metrics", "revenue,,"))
  withr::local_dir(withr::local_tempdir())
  for (i in seq_along(cases)) {
    got <- command(cases[[i]])
    expect_equal(got$status, 2, info = names(cases)[i])
    expect_match(gsub("\n", " ", got$err), names(cases)[i])
    expect_length(got$out, 0)
    expect_match(got$err, "^(read as .*\n)?longladder: ")
  }
  expect_length(list.files(), 0)
})

test_that("two fields that could count orders are told with how to choose", {
  file <- write_text("serial,slip,day,rep,net", paste0("S", 1:6, ",T", c(1, 1, 2, 2, 3, 3),
                                                       ",2026-01-0", 1:6, ",", c("Ida", "Tom"),
                                                       ",5"))
  roles <- c("--field", "serial=identifier", "--field", "slip=identifier", "--define",
             "revenue=sum(net)")
  expect_match(command("check", file, roles)$err, paste0("orders are not counted: serial and ",
               "slip could tell them; choose with --order serial"), fixed = TRUE)
  expect_no_match(command("check", file, roles, "--order", "slip")$err, "not counted")
  book <- ll_book(file, fields = c(serial = "identifier", slip = "identifier"))
  expect_match(format(book, width = 120), "choose with order = \"serial\"", all = FALSE)
})

test_that("after -- whatever comes is a file", {
  withr::local_dir(withr::local_tempdir())
  writeLines(c("rep,net", "Ida,5", "Tom,7.5"), "--file.csv")
  got <- command("standings", "--define", "revenue=sum(net)", "--each", "rep", "--", "--file.csv")
  expect_equal(got$status, 0)
  expect_match(got$out[1], "Tom leads by revenue")
})

test_that("as a process: streams, files, status, and nothing heavy loaded", {
  folder <- withr::local_tempdir()
  got <- run_process("standings", brief(), "--each", "rep", "--top", "3", "--format", "csv",
                     "--out", "a.xlsx", "--out", "b.csv", folder = folder)
  expect_equal(got$status, 0)
  expect_match(got$out[1], "^rank,rep,revenue,")
  expect_length(got$out, 4)
  expect_equal(got$err, c("wrote a.xlsx", "wrote b.csv"))
  expect_setequal(list.files(folder), c("a.xlsx", "b.csv"))
  bad <- run_process("standings", "-e", "rep", folder = folder)
  expect_equal(bad$status, 2)
  expect_length(bad$out, 0)
  expect_false(any(grepl("Traceback|Calls:|Warning|Execution halted", bad$err)))
})

test_that("as a process without a UTF-8 locale, names keep their letters", {
  file <- write_text("rep,net", "Jos\u00e9,1.5", "\u6771\u4eac,2.5")
  got <- run_process("standings", file, "--define", "revenue=sum(net)", "--each", "rep", "--format",
                     "csv", env = c("LC_ALL=C", "LANG=C"))
  expect_equal(got$status, 0)
  expect_match(got$out[2], "^1,\u6771\u4eac,2.5")
})

test_that("a fault of ours ends with status 1 and says so", {
  got <- command(list(quote(x)))
  expect_equal(got$status, 1)
  expect_match(got$err, "something went wrong that should not")
})

test_that("fields, periods and fixes of the book can be given as options", {
  file <- write_text("Report;;;", "no;day;rep;net", "A1;01.04.2026;Ida;1.200,50",
                     "A2;02.05.2026;Tom;(3,00)", "Total;;;1.197,50")
  got <- command("standings", file, "--each", "size", "--define", "r=sum(net)", "--compute",
                 "size=ifelse(net > limit, 'large', 'small')", "--parameter", "limit=100",
                 "--fiscal-start", "april", "--when", "FY2027-Q1", "--exclude", "net < -100",
                 "--field", "no=identifier", "--format", "csv")
  expect_equal(got$status, 0)
  expect_match(got$out[2], "^1,large,1200.5")
  expect_match(got$err, "fixed: 1 grand-total row excluded .*2 more things on opening")
  off <- command("standings", file, "--each", "rep", "--define", "r=sum(net)", "--fix",
                 "title_rows=no")
  expect_equal(off$status, 2)
  wide <- write_text("k,2026-01,2026-02", "x,1,2")
  got <- command("standings", wide, "--each", "k", "--unpivot", "2026-*", "--unpivot-into",
                 "month,net", "--define", "r=sum(net)", "--when", "2026-02", "--format", "csv")
  expect_match(got$out[2], "^1,x,2,")
  bad <- list(c("--unpivot", "2027-*"), c("--unpivot-into", "a,b"), c("--fix", "totals=no"),
              c("--fiscal-start", "Smarch"), c("--grain", "heap"), c("--compute", "a"),
              c("--compute", "a=b+"), c("--exclude", "x"))
  for (words in bad) {
    got <- command("standings", wide, "--each", "k", "--define", "r=count()", words)
    expect_equal(got$status, 2, info = paste(words, collapse = " "))
    expect_match(got$err, "^longladder: ", info = paste(words, collapse = " "))
  }
})

test_that("the help names every option of every study once, in its group", {
  named <- unlist(internal("option_groups")(), use.names = FALSE)
  expect_setequal(named, names(internal("common_options")()))
  expect_false(anyDuplicated(named) > 0)
})
