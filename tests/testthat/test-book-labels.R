# Labels: the register's field that names a code may be typed for it, everywhere a name is.

label_lines <- data.frame(order_no = 1:6, day = as.Date("2026-01-05") + 1:6,
                          account = c("01", "02", "03", "01", "02", "04"),
                          net = c(5, 3, 2, 7, 1, 4))

label_register <- data.frame(account = c("01", "02", "03", "04", "05"),
                             size = c("big", "big", "small", "small", "big"),
                             called = c("Hale Farm", "Moor Barn", "Moor Barn", "Fen End", NA))

shop_book <- function(register = label_register, ...) {
  ll_book(label_lines, metrics = c(revenue = "sum(net)"), date = "day", order = "order_no",
          fields = list(account = list(role = "dimension", ...)),
          registers = list(account = register))
}

test_that("the label is the first field that names nearly each, or the one given", {
  fields <- function(...) internal("label_column")(shop_book(...), "account")
  expect_identical(fields(), NA_character_)
  whole <- transform(label_register, called = c("Hale Farm", "Moor Barn", "Low Moor", "Fen End",
                                                "Top Yard"))
  expect_identical(fields(whole), "called")
  expect_identical(fields(label = "called"), "called")
  expect_identical(fields(whole[c(1, 3, 2)]), "called")
  expect_error(fields(label = "caled"), "Nearest: 'called'", class = "ll_error_word")
  expect_error(ll_book(label_lines, fields = list(account = list(label = "called"))),
               "must be a field of texts", class = "ll_error_word")
  demo <- vapply(c("account", "item"), internal("label_column"), "", book = demo_book())
  expect_identical(demo, c(account = "account_name", item = "item_name"))
})

test_that("a label typed is its code: in studies, conditions, sets and narrowed books", {
  book <- shop_book(label = "called")
  same <- function(typed, coded) {
    expect_identical(as.data.frame(typed), as.data.frame(coded))
    expect_identical(ll_reading(typed), ll_reading(coded))
    expect_true(all(ll_proof(typed)$holds))
  }
  same(ll_portrait(book, "account", "Hale Farm"), ll_portrait(book, "account", "01"))
  same(ll_versus(book, "account", c("Fen End", "01"), by = "size"),
       ll_versus(book, "account", c("04", "01"), by = "size"))
  asks <- function(where) ll_standings(book, "size", where = where)
  same(asks("account == 'Hale Farm'"), asks("account == '01'"))
  same(asks("!(account != 'Fen End' & net > 2) | account %in% c('Hale Farm', '02')"),
       asks("!(account != '04' & net > 2) | account %in% c('01', '02')"))
  same(ll_standings(ll_where(book, account = c("Hale Farm", "Fen End")), "account"),
       ll_standings(ll_where(book, account = c("01", "04")), "account"))
  expect_identical(ll_sets(book, "account", "c('Hale Farm', '02')")$account, c("01", "02"))
  demo <- ll_portrait(demo_book(), "account", "Quarry Combe Garden Centre")
  expect_identical(ll_finding(demo), ll_finding(ll_portrait(demo_book(), "account", "03085")))
})

test_that("a label of two codes asks which, one that is none is offered the nearest", {
  book <- shop_book(label = "called")
  expect_error(ll_portrait(book, "account", "Moor Barn"),
               "'Moor Barn' is the name of 2 accounts: 02 and 03", class = "ll_error_word")
  expect_error(ll_standings(book, "size", where = "account == 'Moor Barn'"),
               "of 2 accounts: 02 and 03", class = "ll_error_word")
  expect_error(ll_portrait(book, "account", "Hale Fram"), "Nearest: 'Hale Farm'",
               class = "ll_error_word")
  # A code is a code, whatever else is called so.
  odd <- transform(label_register, called = c("02", "a", "b", "c", "d"))
  expect_match(ll_finding(ll_portrait(shop_book(odd, label = "called"), "account", "02")),
               "^a \\(02\\) shares rank .* with 4.00")
})

test_that("check tells labels that miss or repeat, with their lines and money", {
  found <- ll_check(shop_book(label = "called"))
  row <- found[found$finding == "one called of several accounts", ]
  expect_equal(c(row$lines, row$revenue), c(3, 6))
  expect_identical(row$examples, "Moor Barn")
  expect_identical(found$examples[found$finding == "no called in the register"], "05")
  expect_false(any(grepl("called", ll_check(shop_book())$finding)))
})

test_that("a label typed in a metric, a computed field, a band or a set is its code", {
  book <- function(name) ll_book(
    label_lines, date = "day", order = "order_no", registers = list(account = label_register),
    fields = list(account = list(role = "dimension", label = "called"),
                  whose = list(is = sprintf("ifelse(account == '%s', 'his', 'others')", name))),
    metrics = c(revenue = "sum(net)", his = sprintf("sum(net[account == '%s'])", name),
                part = "his / revenue"),
    bands = list(large = list(of = sprintf("ifelse(account != '%s', net, 0)", name),
                              from = c(0, 3))),
    sets = list(few = list(each = "account", is = sprintf("having(sum(net[account == '%s']) > 1)",
                                                          name))))
  expect_equal(ll_standings(book("Hale Farm"), "whose", c("his", "part"))$his, c(12, 0))
  for (ask in list(function(b) ll_standings(b, "whose", c("his", "part"), no_lines = FALSE),
                   function(b) ll_crosstab(b, "large", "whose", "part"),
                   function(b) ll_standings(b, "account", c(now = "sum(net[account == 'Fen End'])"),
                                            where = "account %in% few"),
                   function(b) ll_sets(b, "account", "top(part, 1)")))
    expect_identical(as.data.frame(ask(book("Hale Farm"))), as.data.frame(ask(book("01"))))
  expect_error(ll_standings(book("Moor Barn"), "whose"), "the name of 2 accounts",
               class = "ll_error_word")
})

test_that("labels on the lines: that of most lines, told by check where there are several", {
  lines <- transform(label_lines, called = c("Hale Farm", "Moor Barn", NA, "Hale Frm", "Moor Barn",
                                             "Fen End"))
  lines <- rbind(lines, transform(lines[4, ], called = "Hale Farm"))
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"), order = "order_no",
                  fields = list(account = list(role = "dimension", label = "called")))
  expect_identical(ll_standings(book, "account")$account_label,
                   c("Hale Farm", "Moor Barn", "Fen End", NA))
  expect_match(ll_finding(ll_portrait(book, "account", "Fen End")), "^Fen End \\(04\\) ")
  found <- ll_check(book)
  expect_identical(found$examples[found$finding == "several called for one account"], "01")
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(lines, file, row.names = FALSE)
  got <- command("standings", file, "--each", "account", "--define", "revenue=sum(net)", "--field",
                 "account=identifier", "--label", "account=called", "--plural", "account=farms")
  expect_match(paste(got$out, collapse = "\n"), "Hale Farm \\(0?1\\) leads .*\nFarms ranked")
  expect_match(command("standings", file, "--each", "account", "--define", "revenue=sum(net)",
                       "--label", "account=caled")$err, "Nearest: 'called'")
})
