# Text tables in the code pages of other systems: told from their bytes, or said.

exports <- list(
  `CP1252` = c("Verk\u00e4ufer;Kunde;Betrag", "J\u00f6rg Ka\u00df;K\u00e4rntner Imker;12,50 \u20ac",
               "Zo\u00e9;L\u2019Abeille;8,00 \u20ac"),
  `CP1250` = c("Kontrahent;Handlowiec;Warto\u015b\u0107 netto",
               "Pasieka \u0141\u0105ka;Ma\u0142gorzata;1\u00a0012,50 z\u0142",
               "Ul Sp\u00f3\u0142ka;Ja\u015b;8,00 z\u0142"),
  `CP1251` = c("\u041a\u043b\u0438\u0435\u043d\u0442;\u041c\u0435\u043d\u0435\u0434\u0436\u0435\u0440;\u0421\u0443\u043c\u043c\u0430",
               "\u041f\u0430\u0441\u0435\u043a\u0430;\u0418\u0432\u0430\u043d\u043e\u0432;1 012,50",
               "\u0423\u043b\u0435\u0439;\u041f\u0435\u0442\u0440\u043e\u0432;8,00",
               "\u041e\u0431\u0449\u0438\u0439 \u0438\u0442\u043e\u0433;;1 020,50"),
  `KOI8-R` = c("\u041a\u043b\u0438\u0435\u043d\u0442;\u0421\u0443\u043c\u043c\u0430",
               "\u041f\u0430\u0441\u0435\u043a\u0430;12,50", "\u0423\u043b\u0435\u0439;8,00"),
  `CP1254` = c("M\u00fc\u015fteri;Tutar", "I\u015f\u0131k Ar\u0131c\u0131l\u0131k;12,50",
               "\u0130zmir Ba\u011f;8,00"),
  `CP850` = c("Descripci\u00f3n;A\u00f1o;Importe", "Pe\u00f1a;Sesi\u00f3n;12,50",
              "Jam\u00f3n;Espa\u00f1a;8,00"),
  `SHIFT-JIS` = c("\u5f97\u610f\u5148,\u58f2\u4e0a\u91d1\u984d", "\u8702\u871c\u5546\u5e97,12500",
                  "\u990a\u8702\u5712,8000"),
  `GB18030` = c("\u5ba2\u6237,\u91d1\u989d", "\u8702\u871c\u5546\u5e97,12500",
                "\u517b\u8702\u573a,8000"))

in_page <- function(text, page) {
  file <- tempfile(fileext = ".csv")
  bytes <- iconv(paste0(paste(text, collapse = "\r\n"), "\r\n"), "UTF-8", page, toRaw = TRUE)[[1]]
  writeBin(bytes, file)
  file
}

test_that("a table in another code page is the same book as in UTF-8", {
  for (page in names(exports)) {
    plain <- ll_book(in_page(exports[[page]], "UTF-8"))
    book <- ll_book(in_page(exports[[page]], page))
    expect_identical(book$fields$name, plain$fields$name, info = page)
    expect_identical(book$fields$role, plain$fields$role, info = page)
    for (name in book$fields$name[book$fields$type == "text"])
      expect_identical(internal("names_of")(book, name), internal("names_of")(plain, name), info = page)
    money <- book$fields$name[book$fields$role == "measure"]
    expect_length(money, 1)
    add <- function(file) ll_total(ll_book(file, metrics = c(revenue = paste0("sum(`", money, "`)"))))
    expect_equal(add(in_page(exports[[page]], page))$value,
                 add(in_page(exports[[page]], "UTF-8"))$value, info = page)
    told <- paste(book$fixes$text, collapse = "; ")
    expect_match(told, if (page == "CP1252") "Latin-1" else
      sub("CP125", "Windows-125", page), info = page)
  }
})

test_that("a sign of a currency is no word, and tells no code page", {
  file <- in_page(c("klant;bedrag", "Jan;\u20ac 12,50", "Fien;US$ 1.008,00"), "CP1252")
  book <- ll_book(file)
  expect_identical(internal("names_of")(book, "currency"), c("EUR", "USD"))
  expect_match(paste(book$fixes$text, collapse = "; "), "Latin-1")
})

test_that("the encoding can be said, and one that does not fit is refused", {
  text <- c("Z\u00e1kazn\u00edk;\u010c\u00e1stka", "Ji\u0159\u00ed;12,50", "B\u011bla;8,00")
  file <- in_page(text, "CP1250")
  book <- ll_book(list(file = file, encoding = "windows-1250"))
  expect_identical(book$fields$name, c("Z\u00e1kazn\u00edk", "\u010c\u00e1stka"))
  expect_identical(sort(internal("names_of")(book, "Z\u00e1kazn\u00edk")), c("B\u011bla", "Ji\u0159\u00ed"))
  expect_error(ll_book(list(file = file, encoding = "windows-1520")), "no encoding 'windows-1520'",
               class = "ll_error_word")
  expect_error(ll_book(list(file = file, encoding = "utf-8")), "is not in UTF-8",
               class = "ll_error_file")
  expect_error(ll_book(file, fixes = list(encoding = FALSE)), "not in UTF-8", class = "ll_error_file")
  status <- NULL
  out <- utils::capture.output(status <- suppressMessages(ll_main(c(
    "standings", file, "--encoding", "windows-1250", "--define", "revenue=sum(`\u010c\u00e1stka`)",
    "--each", "Z\u00e1kazn\u00edk", "--format", "csv"))))
  expect_identical(status, 0L)
  expect_match(paste(out, collapse = " "), "Ji\u0159\u00ed,12.5")
})

test_that("letters of several bytes that lie over the end of a block stay whole", {
  lines <- c("\u5f97\u610f\u5148,\u58f2\u4e0a\u91d1\u984d",
             rep("\u8702\u871c\u5546\u5e97\u682a\u5f0f\u4f1a\u793e,1", 250000))
  file <- in_page(lines, "SHIFT-JIS")
  book <- ll_book(file)
  expect_identical(internal("names_of")(book, "\u5f97\u610f\u5148"),
                   "\u8702\u871c\u5546\u5e97\u682a\u5f0f\u4f1a\u793e")
  expect_identical(as.numeric(book$lines), 250000)
  unlink(file)
})
