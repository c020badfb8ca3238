# Where the keys of a brief stand; reading YAML keeps no lines.

# The line of every key by its path, "metrics/revenue/show", the first where one comes twice.
# Block keys go by their indentation; keys within { } are looked for sign by sign.
brief_lines <- function(text) {
  found <- new.env()
  open <- list()          # block keys around this line: list(indent, path)
  folded <- Inf           # indentation of the key whose text in | or > form we are in
  flow <- NULL            # the scan of { } that goes on over several lines
  indents <- nchar(sub("[^ ].*$", "", text))
  # Remarks and empty lines tell of no key, in block and in { }.
  for (i in which(!grepl("^\\s*(#|$)", text))) {
    line <- text[i]
    indent <- indents[i]
    if (!is.null(flow)) {
      flow <- flow_keys(line, i, flow, found)
      next
    }
    if (indent > folded) next
    folded <- Inf
    item <- nchar(sub("^( *(- +)*).*$", "\\1", line))
    key <- block_key(substring(line, item + 1))
    if (is.null(key)) next
    open <- Filter(function(o) o$indent < item, open)
    path <- paste(c(if (length(open)) open[[length(open)]]$path, key$key), collapse = "/")
    note_line(found, path, i)
    open <- c(open, list(list(indent = item, path = path)))
    if (grepl("^[|>]", key$rest)) folded <- indent
    if (grepl("^[{[]", key$rest))
      flow <- flow_keys(key$rest, i, list(path = path, depth = character(), key = "", quote = ""),
                        found)
  }
  sort(unlist(as.list(found, all.names = TRUE)) %||% integer())
}

# Keys longer than R's names are stand on no line that anybody looks for.
note_line <- function(found, path, i) {
  if (nchar(path, "bytes") < longest_header && is.null(found[[path]])) found[[path]] <- i
}

# list(key, rest) of "key: rest"; NULL for what is no key.
block_key <- function(text) {
  word <- "(\"[^\"]*\"|'([^']|'')*'|[^][{}#,\"'][^:#]*|[^][{}#,\"':][^#]*[^#: ])"
  parts <- regmatches(text, regexec(paste0("^", word, " *:( +(.*))?$"), text))[[1]]
  if (length(parts)) list(key = bare_key(parts[2]), rest = parts[5])
}

bare_key <- function(key) {
  key <- trimmed(key)
  if (grepl("^'.*'$", key)) return(gsub("''", "'", substr(key, 2, nchar(key) - 1), fixed = TRUE))
  sub("^\"(.*)\"$", "\\1", key)
}

# Reads on within { } and [ ]; gives back the state for the next line, NULL once all are closed, or
# where they are nested deeper than any brief. `depth` holds the path of each that is open ("[" of
# lists adds nothing), `key` what was read since, `quote` the quote we are in.
flow_keys <- function(line, i, state, found) {
  signs <- strsplit(line, "")[[1]]
  inked <- cumsum(signs != " ")
  from <- 1              # where the text begins that is not yet in the key
  blank <- !nzchar(trimmed(state$key))
  for (k in which(signs %in% c("{", "[", "}", "]", ",", "#", ":", "'", "\""))) {
    sign <- signs[k]
    if (nzchar(state$quote)) {
      if (sign == state$quote) state$quote <- ""
    } else if (sign %in% c("'", "\"")) {
      if (blank && inked[k] - (if (from > 1) inked[from - 1] else 0) == 1) state$quote <- sign
    } else if (sign == "#") {
      # A remark; elsewhere the sign is text.
      if (k > 1 && signs[k - 1] == " ") return(with_key(state, line, from, k - 1))
    } else if (sign != ":" || k == length(signs) || signs[k + 1] == " ") {
      state <- flow_sign(with_key(state, line, from, k - 1), sign)
      if (!length(state$depth) || length(state$depth) > deepest_flow) return(NULL)
      if (sign == ":") note_line(found, state$path, i)
      from <- k + 1
      blank <- TRUE
    }
  }
  with_key(state, line, from, length(signs))
}

deepest_flow <- 50

with_key <- function(state, line, from, to) {
  state$key <- paste0(state$key, substr(line, from, to))
  state
}

flow_sign <- function(state, sign) {
  inner <- state$depth[length(state$depth)]
  if (sign %in% c("{", "[")) {
    state$depth <- c(state$depth, state$path)
  } else {
    state$path <- if (sign == ":") paste0(inner, "/", bare_key(state$key)) else inner
    if (sign %in% c("}", "]")) state$depth <- state$depth[-length(state$depth)]
  }
  state$key <- ""
  state
}

# The line of a path, or of the nearest key around it; 0 where there is none.
line_of <- function(path, lines) {
  while (length(path)) {
    at <- lines[paste(path, collapse = "/")]
    if (!is.na(at)) return(unname(at))
    path <- path[-length(path)]
  }
  0L
}
