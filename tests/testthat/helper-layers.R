# The call graph between the files of R/, from the parsed code: who uses a name that another file
# defines. Names that a function binds itself (arguments, variables) are not the package's; calling
# a generic reaches its methods; a declared study reaches its rooms.

layers <- c("base", "core", "words", "source", "book", "result", "study", "ask", "figure", "save",
            "brief", "report", "desk", "cli")

# Beside the tests, or as Sys.getenv("LONGLADDER_SOURCE") tells.
source_files <- function() {
  folder <- c(file.path("..", "..", "R"), file.path("..", "..", "..", "R"),
              Sys.getenv("LONGLADDER_SOURCE", "none"))
  folder <- folder[file.exists(file.path(folder, "base-conditions.R"))]
  if (!length(folder)) return(character())
  list.files(folder[1], "\\.R$", full.names = TRUE)
}

package_files <- function() {
  files <- source_files()
  files[!basename(files) %in% c("RcppExports.R", "longladder-package.R")]
}

skip_without_sources <- function() {
  skip_if(!length(source_files()) && !nzchar(Sys.getenv("CI")),
          "the sources are not beside the tests")
}

layer_of <- function(file) sub("-.*", "", basename(file))

# Name and value of a top-level assignment; without a name for other expressions.
definition <- function(e) {
  if (is.call(e) && as.character(e[[1]])[1] %in% c("<-", "=")) {
    if (is.name(e[[2]]) || is.character(e[[2]]))
      return(list(name = as.character(e[[2]]), value = e[[3]]))
  }
  list(name = "", value = e)
}

# Names that code uses (without what follows `$` and `@`, and without other packages' names) and
# does not bind itself, as argument or variable.
free_names <- function(code) {
  used <- new.env()
  bound <- new.env()
  walk <- function(x) {
    if (is.name(x)) return(assign(as.character(x), TRUE, used))
    if (!is.call(x) && !is.pairlist(x)) return(NULL)
    head <- if (is.call(x) && is.name(x[[1]])) as.character(x[[1]]) else ""
    if (head %in% c("::", ":::")) return(NULL)
    if (head %in% c("$", "@")) return(walk(x[[2]]))
    if (head == "function") for (name in names(x[[2]])) assign(name, TRUE, bound)
    if (head %in% c("<-", "=", "for") && is.name(x[[2]])) assign(as.character(x[[2]]), TRUE, bound)
    for (i in seq_along(x)) if (!identical(x[[i]], quote(expr = ))) walk(x[[i]])  # nolint
  }
  walk(code)
  setdiff(ls(used, all.names = TRUE), ls(bound, all.names = TRUE))
}

# A data frame of from, to (files), by (the definition), name (what it uses) and dispatch (whether
# it is a method that may be reached).
call_graph <- function(files) {
  defined <- do.call(rbind, unlist(lapply(files, function(file) {
    lapply(as.list(parse(file)), function(e) {
      one <- definition(e)
      data.frame(file = basename(file), name = one$name, value = I(list(one$value)))
    })
  }), recursive = FALSE))
  home <- stats::setNames(defined$file, defined$name)
  home <- home[nzchar(names(home))]
  rooms <- c("question", "work", "table", "settings", "finding", "reading", "notes", "proof",
             "behind")
  of_class <- grep("^[a-z_]+[.][a-z_]+$", names(home), value = TRUE)
  generic <- sub("[.].*", "", of_class)
  edges <- lapply(seq_len(nrow(defined)), function(i) {
    value <- defined$value[[i]]
    free <- free_names(value)
    used <- intersect(free, names(home))
    methods <- of_class[generic %in% used]
    study <- sub("^ll_", "", defined$name[i])
    reached <- if ("answer" %in% free && startsWith(defined$name[i], "ll_"))
      intersect(paste0(study, "_", rooms), names(home))
    used <- unique(c(used, methods, reached))
    used <- used[home[used] != defined$file[i]]
    if (length(used)) data.frame(from = defined$file[i], to = unname(home[used]),
                                 by = defined$name[i], name = used,
                                 dispatch = used %in% methods)
  })
  do.call(rbind, edges) %||%
    data.frame(from = character(), to = character(), by = character(), name = character(),
               dispatch = logical())
}

# Files that reach each other by calling, each circle as one text. `but` are arrows that are left
# out, "a > b". Who calls a generic does not know its methods, so these are no arrows here.
circles_of <- function(graph, but = character()) {
  arrows <- unique(graph[!graph$dispatch, c("from", "to")])
  arrows <- arrows[!paste(arrows$from, ">", arrows$to) %in% but, ]
  files <- unique(c(arrows$from, arrows$to))
  reach <- matrix(FALSE, length(files), length(files), dimnames = list(files, files))
  reach[as.matrix(arrows)] <- TRUE
  for (through in files) reach <- reach | outer(reach[, through], reach[through, ], `&`)
  both <- reach & t(reach)
  unique(apply(both[diag(reach), , drop = FALSE], 1, function(row) {
    paste(sort(files[row]), collapse = ", ")
  }))
}

# Calls of a layer further down the list.
breaches_of <- function(graph) {
  down <- match(layer_of(graph$to), layers) > match(layer_of(graph$from), layers)
  found <- graph[which(down), ]
  sprintf("%s calls %s of %s", found$from, found$name, found$to)
}
