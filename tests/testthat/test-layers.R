# The layers, by test: who may call whom, what the core may not use, what loading may not load.
# Each check first goes red on a bad sample.

layers <- c("base", "core", "words", "source", "book", "result", "study", "figure", "save", "brief",
            "report", "cli")
namespace <- asNamespace("longladder")

# Where each function of the package is defined: the file kept with the source, or read from R/.
source_files <- function() {
  folder <- c(file.path("..", "..", "R"), file.path("..", "..", "..", "R"),
              Sys.getenv("LONGLADDER_SOURCE", "none"))
  folder <- folder[file.exists(file.path(folder, "base-conditions.R"))]
  if (!length(folder)) return(character())
  list.files(folder[1], "\\.R$", full.names = TRUE)
}

# Names defined at top level, by file.
defined_in <- function(files) {
  out <- list()
  for (file in files) for (e in parse(file)) {
    if (is.call(e) && as.character(e[[1]])[1] %in% c("<-", "=") && (is.name(e[[2]]) || is.character(e[[2]])))
      out[[as.character(e[[2]])]] <- basename(file)
  }
  out
}

# Names used by each top-level expression of a file.
uses_of <- function(file) {
  unique(unlist(lapply(parse(file), function(e) {
    if (is.call(e) && as.character(e[[1]])[1] == "<-") e <- e[[3]]
    all.names(e)
  })))
}

layer_of <- function(file) sub("-.*", "", basename(file))

breaches <- function(files) {
  home <- defined_in(files)
  out <- character()
  for (file in files) {
    mine <- match(layer_of(file), layers)
    for (name in intersect(uses_of(file), names(home))) {
      theirs <- match(layer_of(home[[name]]), layers)
      if (!is.na(mine) && !is.na(theirs) && theirs > mine)
        out <- c(out, paste(basename(file), "calls", name, "of", home[[name]]))
    }
  }
  out
}

package_files <- function() {
  files <- source_files()
  files[!basename(files) %in% c("RcppExports.R", "longladder-package.R")]
}

test_that("a file calls only its own layer and those above it", {
  bad <- withr::local_tempdir()
  writeLines("low <- function() high()", file.path(bad, "core-a.R"))
  writeLines("high <- function() 1", file.path(bad, "study-b.R"))
  expect_length(breaches(list.files(bad, full.names = TRUE)), 1)
  files <- package_files()
  skip_if(!length(files) && !nzchar(Sys.getenv("CI")), "the sources are not beside the tests")
  expect_gt(length(files), 20)
  expect_identical(setdiff(layer_of(files), layers), character())
  expect_identical(breaches(files), character())
})

test_that("no name is defined twice", {
  files <- package_files()
  skip_if(!length(files) && !nzchar(Sys.getenv("CI")), "the sources are not beside the tests")
  names <- unlist(lapply(files, function(file) names(defined_in(file))))
  expect_identical(names[duplicated(names)], character())
})

test_that("the core computes and nothing else: base, stats and itself, no input or output", {
  impure <- c("cat", "print", "message", "warning", "options", "getOption", "Sys.time", "Sys.Date",
              "runif", "rnorm", "sample", "readLines", "file", "readRDS", "writeLines", "Sys.getenv")
  dirty <- function(files) unlist(lapply(files, function(f) {
    used <- all.names(parse(f))
    c(intersect(used, impure), if (any(used %in% c("::", ":::"))) grep("::", deparse(parse(f)), value = TRUE))
  }))
  bad <- withr::local_tempfile(lines = "f <- function() { cat(1); data.table::fread('x') }", fileext = ".R")
  expect_gt(length(dirty(bad)), 1)
  core <- grep("^core-", basename(package_files()))
  skip_if(!length(core) && !nzchar(Sys.getenv("CI")), "the sources are not beside the tests")
  expect_gt(length(core), 3)
  found <- dirty(package_files()[core])
  expect_identical(found[!grepl("stats::", found)], NULL %||% character())
})

# Names of called functions, wherever they stand.
calls_in <- function(x) {
  if (is.expression(x) || is.pairlist(x)) return(unlist(lapply(as.list(x), calls_in)))
  if (!is.call(x)) return(character())
  own <- if (is.name(x[[1]])) as.character(x[[1]]) else as.character(x[[1]])[3]
  c(own, unlist(lapply(as.list(x)[-1], function(part) if (!identical(part, quote(expr = ))) calls_in(part))))
}

test_that("nothing typed can be evaluated: no eval, parse only in the words layer", {
  files <- package_files()
  skip_if(!length(files), "the sources are not beside the tests")
  for (file in files) {
    used <- calls_in(parse(file))
    expect_false(any(c("eval", "evalq", "eval.parent", "source", "sys.source") %in% used), info = file)
    if (!grepl("^words-read", basename(file))) expect_false("parse" %in% used, info = file)
  }
})

test_that("kernels include no header of R", {
  folder <- file.path("..", "..", "src", "kernels")
  skip_if(!dir.exists(folder), "the sources are not beside the tests")
  heads <- list.files(folder, "\\.h$", full.names = TRUE)
  expect_gt(length(heads), 2)
  for (head in heads) expect_false(any(grepl("#include <(R|Rcpp|Rinternals)", readLines(head))), info = head)
})

test_that("loading the package loads nothing heavy", {
  code <- "loadNamespace('longladder'); cat(loadedNamespaces())"
  out <- system2(file.path(R.home("bin"), "Rscript"), c("--no-init-file", "-e", shQuote(code)), stdout = TRUE,
                 env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":")))
  loaded <- strsplit(paste(out, collapse = " "), " ")[[1]]
  expect_true("longladder" %in% loaded)
  expect_identical(intersect(loaded, c("ggplot2", "DBI", "knitr", "shiny", "openxlsx", "data.table", "yaml",
                                       "jsonlite", "optparse", "cli")), character())
})

test_that("every study's declaration and function agree", {
  for (declaration in internal("declarations")()) {
    f <- formals(get(paste0("ll_", declaration$name), envir = namespace))
    expect_identical(names(f), c("book", names(declaration$args)))
    for (name in names(declaration$args)) {
      if (identical(f[[name]], quote(expr = ))) expect_true(declaration$args[[name]]$required)
      else expect_identical(f[[name]], declaration$args[[name]]$default, info = name)
    }
    # No argument is the beginning of another.
    for (name in names(f)) expect_identical(sum(startsWith(names(f), name)), 1L, info = name)
  }
})

test_that("no name is defined in two files", {
  names <- unlist(lapply(package_files(), function(file) unlist(lapply(parse(file), function(e) {
    if (is.call(e) && identical(e[[1]], quote(`<-`)) && is.name(e[[2]])) as.character(e[[2]])
  }))))
  expect_gt(length(names), 1000)
  expect_identical(names[duplicated(names)], character())
})
