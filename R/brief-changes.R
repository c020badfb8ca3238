# What a brief says otherwise than it did: key by key, in words.

# A row for each key that came, went or changed: key (by its path), was and is as they are typed, NA
# where there is none.
brief_changes <- function(before, now, path = NULL) {
  rows <- lapply(union(names(before), names(now)), function(key) {
    was <- before[[key]]
    is <- now[[key]]
    at <- c(path, key)
    if (identical(was, is)) return(NULL)
    if (is_map(was) && is_map(is)) return(brief_changes(was, is, at))
    data.frame(key = paste(at, collapse = "."), was = yaml_said(was), is = yaml_said(is))
  })
  do.call(rbind, rows)
}

# A value of a brief on one line, as it is typed; NA for none.
yaml_said <- function(x) {
  if (is.null(x)) return(NA_character_)
  each <- vapply(x, function(one) {
    if (is.list(one) || length(one) != 1) yaml_said(one) else one_line(as.character(one))
  }, "")
  if (is_map(x)) paste0("{", paste0(names(x), ": ", each, collapse = ", "), "}") else
    if (is.list(x) || length(x) != 1) paste0("[", paste(each, collapse = ", "), "]") else
      unname(each)
}

# The rows in words, the first few of them.
changes_said <- function(changes, most = 5) {
  rows <- utils::head(changes, most)
  was <- fit_text(rows$was, 60)
  is <- fit_text(rows$is, 60)
  each <- paste(rows$key, ifelse(is.na(was), paste0("came, ", is), ifelse(
    is.na(is), paste0("went, which was ", was), paste0("is ", is, ", was ", was))))
  more <- nrow(changes) - nrow(rows)
  paste0(paste(each, collapse = "; "), if (more) paste0("; and ", more, " more"))
}
