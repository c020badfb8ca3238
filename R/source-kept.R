# Folded tables of lines in memory that are kept. People ask one book again and again: by the same
# names, in the same period, now for ranks and then for tiers. The lines of a book never change,
# so a fold is given again when exactly the same is asked: keys, parts, condition and totals.
#
# What a question made for itself (tables of names in keys and conditions) comes with no other one,
# and would keep those tables alive: its folds are not kept. The last asked stand first; beyond the
# room for them (option longladder.kept_folds, in bytes, 0 for none) the last go.

kept_room <- function() getOption("longladder.kept_folds", 2^28)

kept_fold <- function(source, asked) {
  for (i in seq_along(source$folds)) {
    if (!identical(source$folds[[i]]$asked, asked)) next
    source$folds <- c(source$folds[i], source$folds[-i])
    return(source$folds[[1]]$out)
  }
}

remember_fold <- function(source, asked, out) {
  if (!told_by_text(c(asked$keys, asked$parts, list(asked$where)))) return(invisible())
  one <- list(asked = asked, out = out,
              size = fold_size(out) + sum(vapply(out$totals, fold_size, 0)))
  if (one$size > kept_room()) return(invisible())
  folds <- c(list(one), source$folds)
  room <- cumsum(vapply(folds, `[[`, 0, "size"))
  source$folds <- folds[room <= kept_room()]
}

# About how many bytes a folded table takes: names, and per part a value and its counts.
fold_size <- function(fold) {
  8 * length(fold$lines) * (length(fold$keys) + 1 + 3 * length(fold$parts)) + 4096
}

# Whether keys, parts and conditions hold no table of the question's own, so that their text tells
# them from all others.
told_by_text <- function(trees) {
  own <- function(t) t$kind %in% c("mapped", "since") || t$kind == "within" && !is.null(t$set$lazy)
  !any(vapply(trees, function(tree) length(nodes_where(tree, own)) > 0, NA))
}
