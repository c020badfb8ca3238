# The layers and the contract of a study, by test: who may call whom, what the core may not use,
# what loading may not load. Each check first goes red on a bad sample.

namespace <- asNamespace("longladder")

# A folder of files made up for a check.
sample_files <- function(...) {
  folder <- withr::local_tempdir(.local_envir = parent.frame())
  code <- c(...)
  for (name in names(code)) writeLines(code[[name]], file.path(folder, name))
  list.files(folder, full.names = TRUE)
}

graph_once <- local({
  graph <- NULL
  function() {
    if (is.null(graph)) graph <<- call_graph(package_files())
    graph
  }
})

test_that("a file calls only its own layer and those above it", {
  bad <- sample_files("core-a.R" = "low <- function() high()",
                      "study-b.R" = "high <- function() 1; up <- function(high) high + 1")
  expect_identical(breaches_of(call_graph(bad)), "core-a.R calls high of study-b.R")
  # A generic reaches its methods, a study its rooms.
  bad <- sample_files("source-a.R" =
                      "ask <- function(x) UseMethod('ask')\nuse <- function(x) ask(x)",
                      "cli-b.R" = "ask.file_source <- function(x) 1",
                      "study-c.R" = "ll_c <- function(book) answer(book)",
                      "figure-c.R" = "c_table <- function(question, found) 1")
  expect_identical(sort(breaches_of(call_graph(bad))),
                   c("source-a.R calls ask.file_source of cli-b.R",
                     "study-c.R calls c_table of figure-c.R"))
  # What a function binds itself is not the package's.
  good <- sample_files("core-a.R" = "low <- function(high) { up <- 1; x$up + high + up }",
                       "study-b.R" = "high <- function() 1; up <- function() 1")
  expect_identical(nrow(call_graph(good)), 0L)
  skip_without_sources()
  files <- package_files()
  expect_gt(length(files), 200)
  expect_identical(setdiff(layer_of(files), layers), character())
  expect_identical(breaches_of(graph_once()), character())
})

# A condition stands inside a row (a choice asks one) and rows inside a condition (it compares
# them): reading them, adding them up by base R and writing them as SQL call each other for that
# alone.
recursion <- c("words-row.R > words-condition.R", "source-second.R > source-second-where.R",
               "source-sql.R > source-sql-where.R")

test_that("no two files call each other, directly or by way of others", {
  bad <- sample_files("core-a.R" = "a <- function() b()", "core-b.R" = "b <- function() c()",
                      "core-c.R" = "c <- function() a()", "core-d.R" = "d <- function() a()")
  graph <- call_graph(bad)
  expect_identical(circles_of(graph), "core-a.R, core-b.R, core-c.R")
  expect_identical(circles_of(graph, "core-c.R > core-a.R"), character())
  expect_identical(circles_of(call_graph(bad[c(1, 4)])), character())
  pair <- sample_files("core-a.R" = "a <- function() b()", "core-b.R" = "b <- function() a()")
  expect_identical(circles_of(call_graph(pair)), "core-a.R, core-b.R")
  skip_without_sources()
  graph <- graph_once()
  expect_identical(circles_of(graph, recursion), character())
  # Each on the list is still needed.
  for (one in recursion)
    expect_length(circles_of(graph, setdiff(recursion, one)), 1)
})

rooms <- c("question", "work", "table", "settings", "finding", "reading", "notes", "proof",
           "behind")

test_that("a study is a question, work and what is said of both", {
  for (study in names(internal("declarations")())) {
    entry <- get(paste0("ll_", study), envir = namespace)
    expect_identical(body(entry)[[2]], bquote(answer(.(as.name(paste0("declared_", study))), book,
                                                    as.list(environment()))), info = study)
    expect_length(body(entry), 2)
    for (room in rooms) {
      takes <- switch(room, question = c("book", "args"), work = "question",
                      c("question", "found"))
      made <- get0(paste0(study, "_", room), namespace, mode = "function")
      expect_identical(names(formals(made)), takes, info = paste(study, room))
    }
    expect_true(is.function(get0(paste0(study, "_found"), namespace)), info = study)
  }
})

# The study that a file belongs to, or NA.
study_of <- function(file, studies) {
  own <- sub("^study-([a-z]+)[-.].*", "\\1", file)
  ifelse(startsWith(file, "study-") & own %in% studies, own, NA)
}

crossing_of <- function(graph, studies) {
  to <- study_of(graph$to, studies)
  from <- study_of(graph$from, studies)
  found <- graph[!is.na(to) & startsWith(graph$from, "study-") & (is.na(from) | from != to), ]
  sprintf("%s calls %s of %s", found$from, found$name, found$to)
}

test_that("studies never call one another, and what they share calls none", {
  bad <- sample_files("study-tiers-say.R" = "a <- function() b() + shared()",
                      "study-trend-work.R" = "b <- function() 1",
                      "study-words.R" = "shared <- function() b()")
  expect_identical(crossing_of(call_graph(bad), c("tiers", "trend")),
                   c("study-tiers-say.R calls b of study-trend-work.R",
                     "study-words.R calls b of study-trend-work.R"))
  skip_without_sources()
  expect_identical(crossing_of(graph_once(), names(internal("declarations")())), character())
})

test_that("the core computes and nothing else: base, stats and itself, no input or output", {
  impure <- c("cat", "print", "message", "warning", "options", "getOption", "Sys.time", "Sys.Date",
              "runif", "rnorm", "sample", "readLines", "file", "readRDS", "writeLines",
              "Sys.getenv")
  dirty <- function(files) unlist(lapply(files, function(f) {
    used <- all.names(parse(f))
    c(intersect(used, impure), if (any(used %in% c("::", ":::"))) grep("::", deparse(parse(f)),
                                                                       value = TRUE))
  }))
  bad <- withr::local_tempfile(lines = "f <- function() { cat(1); data.table::fread('x') }",
                               fileext = ".R")
  expect_gt(length(dirty(bad)), 1)
  core <- grep("^core-", basename(package_files()))
  skip_without_sources()
  expect_gt(length(core), 3)
  found <- dirty(package_files()[core])
  expect_identical(found[!grepl("stats::", found)], character())
})

# Names of called functions, wherever they stand.
calls_in <- function(x) {
  if (is.expression(x) || is.pairlist(x)) return(unlist(lapply(as.list(x), calls_in)))
  if (!is.call(x)) return(character())
  own <- if (is.name(x[[1]])) as.character(x[[1]]) else as.character(x[[1]])[3]
  c(own, unlist(lapply(as.list(x)[-1], function(part) {
    if (!identical(part, quote(expr = ))) calls_in(part)  # nolint
  })))
}

# Files that could run what was typed: parse() is for the words alone.
runs_text <- function(files) {
  banned <- c("eval", "evalq", "eval.parent", "source", "sys.source")
  bad <- vapply(files, function(file) {
    used <- calls_in(parse(file))
    any(banned %in% used) || "parse" %in% used && !grepl("^words-read", basename(file))
  }, NA)
  basename(files[bad])
}

test_that("nothing typed can be evaluated: no eval, parse only in the words layer", {
  bad <- sample_files("core-a.R" = "a <- function(x) eval(x)",
                      "core-b.R" = "b <- function(x) lapply(x, function(y) base::parse(text = y))",
                      "words-read.R" = "r <- function(x) parse(text = x)")
  expect_identical(runs_text(bad), c("core-a.R", "core-b.R"))
  skip_without_sources()
  expect_identical(runs_text(package_files()), character())
})

heads_of_r <- function(files) {
  basename(Filter(function(file) any(grepl("#include <(R|Rcpp|Rinternals)", readLines(file))),
                  files))
}

test_that("kernels include no header of R", {
  bad <- sample_files("a.h" = "#include <Rinternals.h>", "b.h" = "#include <vector>")
  expect_identical(heads_of_r(bad), "a.h")
  skip_without_sources()
  heads <- list.files(file.path(dirname(source_files()[1]), "..", "src", "kernels"), "\\.h$",
                      full.names = TRUE)
  expect_gt(length(heads), 2)
  expect_identical(heads_of_r(heads), character())
})

test_that("loading the package loads nothing heavy", {
  code <- "loadNamespace('longladder'); cat(loadedNamespaces())"
  out <- system2(file.path(R.home("bin"), "Rscript"), c("--no-init-file", "-e", shQuote(code)),
                 stdout = TRUE, env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":")))
  loaded <- strsplit(paste(out, collapse = " "), " ")[[1]]
  expect_true("longladder" %in% loaded)
  expect_identical(intersect(loaded, c("ggplot2", "DBI", "knitr", "shiny", "openxlsx", "data.table",
                                       "yaml", "jsonlite", "optparse", "cli")), character())
})

test_that("every study's declaration and function agree", {
  for (declaration in internal("declarations")()) {
    f <- formals(get(paste0("ll_", declaration$name), envir = namespace))
    expect_identical(names(f), c("book", names(declaration$args)))
    for (name in names(declaration$args)) {
      if (identical(f[[name]], quote(expr = ))) {  # nolint
        expect_true(declaration$args[[name]]$required)
      } else {
        expect_identical(f[[name]], declaration$args[[name]]$default, info = name)
      }
    }
    # No argument is the beginning of another.
    for (name in names(f)) expect_identical(sum(startsWith(names(f), name)), 1L, info = name)
  }
})

test_that("no name is defined twice", {
  names_in_files <- function(files) unlist(lapply(files, function(file) {
    vapply(as.list(parse(file)), function(e) definition(e)$name, "")
  }))
  bad <- names_in_files(sample_files("a.R" = "f <- 1; g <- 2", "b.R" = "f <- 3"))
  expect_identical(bad[duplicated(bad)], "f")
  skip_without_sources()
  names <- names_in_files(package_files())
  expect_gt(length(names), 1000)
  expect_identical(setdiff(names[duplicated(names)], ""), character())
})

draws <- c("sample", "sample.int", "runif", "rnorm", "rlnorm", "rpois", "rbinom", "rexp")

# Tests that draw at random without saying from which seed.
unseeded <- function(files) {
  unlist(lapply(files, function(file) {
    tests <- Filter(function(e) is.call(e) && identical(e[[1]], quote(test_that)),
                    as.list(parse(file)))
    lacking <- vapply(tests, function(e) {
      used <- all.names(e)
      any(draws %in% used) && !any(c("with_seed", "local_seed", "set.seed") %in% used)
    }, NA)
    vapply(tests[lacking], function(e) paste0(basename(file), ": ", e[[2]]), "")
  }))
}

test_that("no test draws at random without a seed", {
  bad <- sample_files("test-a.R" = "test_that('a', sample(3))",
                      "test-b.R" = "test_that('b', withr::with_seed(1, sample(3)))")
  expect_identical(unseeded(bad), "test-a.R: a")
  expect_length(unseeded(list.files(".", "^test-.*[.]R$")), 0)
})
