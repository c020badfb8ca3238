# Sets: names by what they did and did not do, their overlaps, and what the names hold.

sets_most <- 6

declared_sets <- declare(
  "sets", "Sets of names: combine, keep common, subtract; who is in which, and what they hold",
  args = list(
    each = arg("words", "whose names: a dimension (default: that of the saved sets)"),
    sets = arg("sets", paste("a set, or NAME=SET, repeatable: 'old=active(\"2025\")',",
                             "'active(\"2025\") - active(\"2026\")'"), required = TRUE),
    keep = arg("text", "the names to list, in terms of the sets: 'old - now' (default: all)"),
    metrics = arg_metrics(),
    show = arg("words", "further fields of the names: account_name,contact"),
    top = arg("whole", "list only the first so many names"),
    where = arg_where, when = arg("period", "the period of the metrics (default: all dates)")),
  examples = c(
    "--each account --sets 'active(\"2025\") - active(\"2026\")' --show account_name,contact",
    paste("--each account --sets 'best=top(revenue, 50, when = \"2025\")'",
          "--sets 'now=active(\"2026\")' --keep 'best - now'"),
    "--each account --sets 'registered() - active(\"all\")'"),
  bare = "--each account --sets 'active(\"2025\") - active(\"2026\")' --top 5")

#' Sets of names
#'
#' Puts names into sets by what they did in a period, joins the sets, and lists who is in the
#' result, with the metrics asked for; the size of every part is proven.
#'
#' @section The language of sets:
#' * `active("2025")`: names with lines in a period, `active("2025", item == "HV-001")` with such
#'   lines; without a period over all dates
#' * `top(revenue, 50, when = "2025")` and `bottom()`: the first or last so many by a metric, all of
#'   those tied at the edge
#' * `having(revenue >= 5000, when = "2025")`: names whose metric compares so with a number or
#'   parameter
#' * `registered()`: all names of the register, `registered(type == "school")` some of them by its
#'   fields
#' * `c("03085", "04893")`: these names
#' * a name: another set of the question, or a saved one
#' * `a | b` either, `a & b` both, `a - b` the first without the second, with brackets. As in R, `-`
#'   binds closest, then `&`, then `|`.
#'
#' `top()`, `bottom()`, `having()` and `active()` take `when` (a period) and `where` (a condition).
#' Sets typed in a question are made of the lines that it asks about (`where`, not `when`).
#'
#' Saved sets (`sets` of [ll_book()] or of a brief, `--saved-set` on the command) serve in the
#' conditions and metrics of every study: `where = ~ account %in% gone`. They are made of all lines.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) the dimension of the names; that of the saved sets named, if not given.
#' @param sets (named text, or one-sided formulas, up to 6) the sets; one that joins others is taken
#'   apart into those.
#' @param keep (text or formula) which names are listed, in terms of the sets; for one set its own
#'   names, for several those in any, if not given.
#' @param metrics (text) as in [ll_standings()].
#' @param show (text) further fields: of the register, or of the lines as on the name's latest line.
#' @param top (whole number) only the first so many names; the rest is gathered.
#' @param where,when as in [ll_standings()]; `when` is the period of the metrics alone.
#'
#' @return A data frame of class `ll_result_sets`, a row for each name, best first by the first
#'   metric: the dimension, the fields of `show`, `in_sets` (the sets that hold it), the metrics (0
#'   without lines, for those that add up or count). Parts: `regions` (each combination of sets:
#'   names, and the metrics of those names), `listed` (how many of the names listed come from
#'   each), `foot`.
#' @section Notes given: Empty sets, ties at the edge of a top, part periods, names without lines.
#' @section Errors: As [ll_standings()]; `ll_error_formula` for a set that cannot be read, one that
#' is never defined, a circle of definitions, and `registered()` without a register.
#' @examples
#' book <- ll_demo()
#' ll_sets(book, "account", c(old = "active('2025')", now = "active('2026')"), keep = "old - now",
#'         top = 5)
#' ll_sets(book, "account", "registered() - active()", show = "account_name", top = 5)
#' @export
ll_sets <- function(book, each = NULL, sets, keep = NULL, metrics = NULL, show = NULL, top = NULL,
                    where = NULL, when = NULL) {
  check_book(book)
  given <- list(each = each, sets = if (missing(sets)) NULL else sets,
                keep = if (inherits(keep, "formula")) formula_text(keep) else keep,
                metrics = metrics, show = show, top = top, where = where, when = when)
  q <- sets_question(book, check_args(declared_sets, given))
  s <- sets_names(q)
  table <- sets_table(s)
  new_answer(q, "sets", table$table, sets_settings(q), table$columns, sets_finding(s),
             sets_reading(s), sets_notes(s), sets_proof(s),
             parts = Filter(Negate(is.null), list(regions = table$regions, foot = table$foot,
                                                  listed = table$listed)),
             further = if (length(q$sets) > 1) list(regions = table$region_columns) else list(),
             behind = list(keys = stats::setNames(nm = q$each)))
}

sets_question <- function(book, args) {
  trees <- lapply(args$sets, function(one) {
    read_set(one, paste0("set ", quoted(fit_text(if (is.character(one)) one else
      formula_text(one), 30))))
  })
  if (is.null(args$each)) args$each <- dimension_of_sets(book, trees)
  q <- refuse_compared(ask_book(book, args, "each"), "sets")
  refuse_pairs(q, "sets")
  q <- check_shown(q)
  q$asked_sets <- trees
  q$typed <- label_sets(trees)
  own <- resolve_own(q, q$typed)
  q$kept <- if (!is.null(q$keep)) resolve_set(q$book, q$each, read_set(q$keep, "'keep'"),
                                              list(label = "'keep'", text = q$keep), own)
  if (is.null(q$kept) && length(own) == 1) {
    q$kept <- own[[1]]
    own <- taken_apart(own)
  }
  q$sets <- own
  if (length(q$sets) > sets_most)
    ll_abort(paste0("At most ", sets_most, " sets can be held against each other; there are ",
                    length(q$sets), "."), "argument")
  q
}

# The dimension of the first saved set that is named.
dimension_of_sets <- function(book, trees) {
  for (tree in trees) for (leaf in set_leaves(tree)) if (leaf$kind == "saved") {
    saved <- book$sets[[leaf$name]]
    if (!is.null(saved)) return(saved$each)
  }
  ll_abort("'each' must be given: whose names the sets hold.", "argument")
}

# Sets without a name are called after what they are: active_2025.
label_sets <- function(trees) {
  labels <- names(trees)
  plain <- vapply(trees, function(tree) {
    if (tree$kind == "saved") return(tree$name)
    text <- gsub("^_|_$", "", gsub("[^[:alnum:]]+", "_", gsub("\\b(when|where) = ", "",
                                                             names_text(tree))))
    substr(text, 1, 40)
  }, "")
  stats::setNames(trees, make.unique(ifelse(nzchar(labels), labels, plain), sep = "_"))
}

# Sets of the question may be made of each other, in whatever order they stand.
resolve_own <- function(q, typed) {
  done <- list()
  visit <- function(name, trail) {
    if (name %in% names(done)) return(invisible())
    own_name <- name %in% names(q$asked_sets)
    context <- list(label = if (own_name) paste0("set ", quoted(name)) else "set",
                    text = names_text(typed[[name]]))
    if (name %in% trail)
      refuse(context, paste0("sets refer to each other in a circle: ",
                             paste(c(trail, name), collapse = ", ")))
    for (leaf in set_leaves(typed[[name]])) {
      # A bare word, or one in a set of its own name, is a saved set's or nobody's.
      itself <- leaf$kind == "saved" && leaf$name == name &&
        (name %in% names(q$book$sets) || typed[[name]]$kind == "saved")
      if (leaf$kind == "saved" && leaf$name %in% names(typed) && !itself)
        visit(leaf$name, c(trail, name))
    }
    done[[name]] <<- resolve_set(q$book, q$each, typed[[name]], context, done)
  }
  for (name in names(typed)) visit(name, character())
  done[names(typed)]
}

# One joined set is shown by the sets it is made of.
taken_apart <- function(own) {
  leaves <- set_leaves(own[[1]])
  leaves <- leaves[!duplicated(vapply(leaves, names_text, ""))]
  if (length(leaves) == 1 || length(leaves) > sets_most) return(own)
  label_sets(stats::setNames(leaves, rep("", length(leaves))))
}

# Which names are in which set, who is listed, and what they hold.
sets_names <- function(q) {
  all <- do.call(set_universe, c(list(q$book, q$each), unname(q$sets), list(q$kept)[
    !is.null(q$kept)]))
  members <- function(tree) set_members(q$book, q$each, tree, all, q$asked$where_ever)
  inside <- lapply(q$sets, members)
  s <- list(q = q, all = all, inside = inside, any = Reduce(`|`, inside))
  kept <- if (is.null(q$kept)) s$any else members(q$kept)
  f <- fold_each(q)
  s[c("counted", "total", "exact", "folded")] <- list(sum(f$lines), f$total,
                                                      f$exact[names(q$metrics)], f$values)
  values <- metrics_of_names(q, all, f)
  s$idle <- sum(kept & !all %in% f$keys[[1]])
  listed <- which(kept)
  # Names stand by name first, so that equal values are in their order.
  listed <- listed[order(all[listed], method = "radix")]
  s$at <- listed[best_order(values[[1]][listed], q$first$better == "high")]
  s$values <- values
  s$regions <- set_regions(s)
  s$sum <- sum_of_names(s, s$at)
  s
}

# The metrics of some of the names together: added up where all of them add up, else folded again.
sum_of_names <- function(s, at) {
  if (all(vapply(s$q$metrics, function(m) m$adds_up, NA)))
    return(lapply(s$values, function(v) exact_total(v[at])))
  if (length(at)) return(total_of_names(s$q, s$all[at]))
  lapply(s$q$metrics, function(m) if (m$zero) 0 else NA_real_)
}

# Each combination of sets: label, names, metrics, in the order of the sets.
set_regions <- function(s) {
  q <- s$q
  code <- Reduce(`+`, Map(function(member, i) member * 2^(i - 1), s$inside, seq_along(s$inside)))
  codes <- setdiff(seq_len(2^length(s$inside)) - 1, 0)
  # Those in most sets first, then in the order in which the sets stand.
  bits <- vapply(seq_along(s$inside), function(i) codes %/% 2^(i - 1) %% 2, codes)
  bits <- matrix(bits, length(codes))
  codes <- codes[do.call(order, c(list(-rowSums(bits)), as.data.frame(-bits)))]
  label <- vapply(codes, function(code) {
    held <- names(q$sets)[code %/% 2^(seq_along(q$sets) - 1) %% 2 == 1]
    if (length(held) == 1 && length(q$sets) > 1) paste(held, "only") else
      paste(held, collapse = " & ")
  }, "")
  region <- match(code, codes)
  held <- lapply(seq_along(codes), function(i) sum_of_names(s, which(region == i)))
  out <- data.frame(in_sets = label, names = tabulate(region, length(codes)),
                    do.call(rbind, lapply(held, as.data.frame, optional = TRUE)),
                    check.names = FALSE)
  list(table = out, of = region)
}
