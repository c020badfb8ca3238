# Formulas evaluated by base R itself, as the reference that the product's own evaluation is held
# against. Only tests may do this: the texts are made by the tests.

# Values of a formula over some rows of the lines, with the meaning that the reference pages give.
reference_metric <- function(text, lines) {
  eval(parse(text = text)[[1]], reference_world(lines))
}

reference_condition <- function(text, lines) {
  out <- eval(parse(text = text)[[1]], reference_world(lines))
  rep_len(out, nrow(lines))
}

reference_world <- function(lines) {
  world <- new.env(parent = baseenv())
  for (name in names(lines)) world[[name]] <- lines[[name]]
  known <- function(f, none = NA_real_) function(x) {
    x <- x[!is.na(x)]
    if (length(x)) as.numeric(f(x)) else none
  }
  # Comparisons with a missing value are false; dates compare with text.
  for (op in c("==", "!=", "<", "<=", ">", ">=")) local({
    plain <- get(op, baseenv())
    world[[op]] <- function(a, b) {
      if (inherits(a, "Date") && is.character(b)) b <- as.Date(b)
      out <- plain(a, b)
      !is.na(out) & out
    }
  })
  # A quotient of sums is of the lines that have all that they add up.
  world[["/"]] <- function(a, b) {
    caller <- parent.frame()
    sides <- list(substitute(a), substitute(b))
    keep <- reference_like(sides, lines)
    if (all(keep)) return(a / ifelse(b == 0, NA, b))
    inside <- reference_world(lines[keep, , drop = FALSE])
    own <- new.env(parent = caller)
    for (fn in c("sum", "mean", "count")) local({
      whole <- get(fn, caller)
      part <- inside[[fn]]
      own[[fn]] <- function(...) {
        call <- sys.call()
        if (any(all.names(call) == "per")) eval(call, caller) else eval(call, inside)
      }
    })
    below <- eval(sides[[2]], own)
    eval(sides[[1]], own) / ifelse(below == 0, NA, below)
  }
  world$sum <- function(x) if (length(x) && all(is.na(x))) NA_real_ else
    base::sum(as.numeric(x), na.rm = TRUE)
  world$mean <- known(base::mean)
  world$min <- known(base::min)
  world$max <- known(base::max)
  world$median <- known(stats::median)
  world$sd <- known(function(x) if (length(x) > 1) stats::sd(x) else NA)
  world$var <- known(function(x) if (length(x) > 1) stats::var(x) else NA)
  world$quantile <- function(x, p) {
    x <- as.numeric(x[!is.na(x)])
    if (length(x)) stats::quantile(x, p, names = FALSE, type = 7) else NA_real_
  }
  world$count <- function(x) if (missing(x)) nrow(lines) else base::sum(!is.na(x))
  world$distinct <- function(x) length(unique(x[!is.na(x)]))
  world$between <- function(x, a, b) !is.na(x) & x >= a & x <= b
  world$contains <- function(x, text) !is.na(x) & grepl(text, x, fixed = TRUE)
  world$startsWith <- function(x, text) !is.na(x) & base::startsWith(x, text)
  world$month <- function(x) format(x, "%Y-%m")
  world$year <- function(x) format(x, "%Y")
  world$weekday <- function(x) {
    c("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday",
      "Sunday")[as.integer(format(x, "%u"))]
  }
  world$per <- function(by, inner) {
    inner <- substitute(inner)
    parts <- split(seq_len(nrow(lines)), by)
    structure(vapply(parts, function(rows) {
      as.numeric(eval(inner, reference_world(lines[rows, , drop = FALSE])))
    }, 0), class = "per")
  }
  world[["["]] <- function(x, i) {
    i <- substitute(i)
    if (!inherits(x, "per")) return(base::`[`(x, eval(i, parent.frame())))
    it <- unclass(x)
    it[eval(i, list(it = it), parent.frame())]
  }
  world
}

# The lines that a quotient of two sides is of: those with every field that its sums and means take
# their values from. A quotient within one of its sides is of its own lines.
reference_like <- function(sides, lines) {
  aggregates <- c("sum", "mean", "count", "min", "max", "median", "quantile", "sd", "var",
                  "distinct")
  has_aggregate <- function(x) any(all.names(x) %in% aggregates)
  divides <- function(x) is.call(x) && (identical(x[[1]], as.name("/")) && has_aggregate(x[[3]]) ||
                                          any(vapply(as.list(x)[-1], divides, NA)))
  if (!has_aggregate(sides[[2]]) || any(vapply(sides, divides, NA)))
    return(rep(TRUE, nrow(lines)))
  values <- function(x) {
    if (is.name(x)) return(intersect(as.character(x), names(lines)))
    if (!is.call(x)) return(character())
    fn <- as.character(x[[1]])[1]
    if (fn == "ifelse") return(unlist(lapply(as.list(x)[3:4], values)))
    if (fn == "[") return(values(x[[2]]))
    unlist(lapply(as.list(x)[-1], values))
  }
  sums <- function(x) {
    if (!is.call(x)) return(character())
    fn <- as.character(x[[1]])[1]
    if (fn %in% c("sum", "mean"))
      return(if ("per" %in% all.names(x)) character() else values(x[[2]]))
    if (fn %in% aggregates) return(character())
    unlist(lapply(as.list(x)[-1], sums))
  }
  fields <- unique(unlist(lapply(sides, sums)))
  Reduce(`&`, lapply(fields, function(f) !is.na(lines[[f]])), rep(TRUE, nrow(lines)))
}

# Random formulas, conditions and periods over the fields of random_lines().
random_row <- function(depth = 2) {
  if (depth == 0) return(sample(c("net", "qty", "net", "qty", "3", "0.5"), 1))
  one <- function() random_row(depth - 1)
  switch(sample(9, 1), paste(one(), "+", one()), paste(one(), "-", one()), paste(one(), "*", one()),
         paste0("(", one(), ") / (", one(), ")"), paste0("abs(", one(), ")"),
         paste0("pmin(", one(), ", ", one(), ")"), paste0("pmax(", one(), ", ", one(), ")"),
         paste0("ifelse(", random_condition(0), ", ", one(), ", ", one(), ")"), "net")
}

random_condition <- function(depth = 2) {
  if (depth > 0) {
    one <- function() random_condition(depth - 1)
    return(switch(sample(4, 1), paste0("(", one(), ") & (", one(), ")"),
                  paste0("(", one(), ") | (", one(), ")"), paste0("!(", one(), ")"), one()))
  }
  switch(sample(11, 1), "area == \"x\"", "area != \"y\"", "rep %in% c(\"Ann\", \"Cy\")",
         random_comparison("qty", 0:4), random_comparison("net", round(stats::rnorm(5, 50, 80), 2)),
         "is.na(net)", "is.na(rep)", paste0("between(qty, ", random_literal(0:1), ", ",
                                            random_literal(2:4), ")"), "contains(rep, \"n\")",
         "startsWith(rep, \"B\")", "day >= \"2025-07-01\"")
}

random_comparison <- function(field, near) paste(field, sample(c("<", "<=", ">", ">=", "==", "!="),
                                                               1), random_literal(near))

# On one of some values, just under or just over it, with up to six decimals.
random_literal <- function(near) {
  step <- sample(c(0, 0, -1, 1), 1) * 10^-sample(1:6, 1)
  sub("\\.?0+$", "", sprintf("%.6f", sample(near, 1) + step))
}

random_metric <- function() {
  row <- "0"
  while (!grepl("net|qty", row) || grepl("^[0-9.]+$", row)) row <- random_row(sample(0:2, 1))
  where <- if (sample(3, 1) == 1) paste0("[", random_condition(1), "]") else ""
  arg <- if (nzchar(where)) paste0("(", row, ")", where) else row
  fn <- sample(c("sum", "mean", "min", "max", "median", "sd", "var", "count"), 1)
  simple <- paste0(fn, "(", arg, ")")
  switch(sample(9, 1), simple, simple, simple, paste0("quantile(", arg, ", 0.9)"),
         paste0("distinct(order_no", where, ")"),
         paste0(fn, "(per(order_no, sum(", arg, "))[it > 20])"),
         paste0(fn, "(per(order_no, sum(net) - count()))"),
         paste0("sum(net) / ", simple), paste0(simple, " - 2 * count()"))
}
