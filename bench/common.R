# What the benchmarks share: the lines they run on, rivals, interleaved timing, the table and figure.
#
# Each script times whole calls in one process, subject after subject and who after who, several
# rounds after a first one, and gives medians. A ratio is the time of a rival over ours: above 1 we
# are faster. LINES=1e7 sets how many lines, ROUNDS how many rounds.

suppressMessages(library(longladder))
# Every fold is made anew; keeping them would be no measure of folding.
options(longladder.kept_folds = 0)
n_lines <- as.integer(as.numeric(Sys.getenv("LINES", "2e6")))
rounds <- as.integer(Sys.getenv("ROUNDS", "5"))
internal <- function(name) getFromNamespace(name, "longladder")
count <- function(n) format(n, big.mark = ",", scientific = FALSE, trim = TRUE)
# To the microsecond, which system.time() does not tell.
seconds <- function(expression) {
  start <- Sys.time()
  force(expression)
  as.numeric(Sys.time() - start, units = "secs")
}
has <- function(package) requireNamespace(package, quietly = TRUE)

# Order lines with a hundredth as many accounts as lines, in no order; text as text.
order_lines <- function(n = n_lines, accounts = max(n %/% 100, 1), seed = 1) {
  set.seed(seed)
  orders <- max(n %/% 3, 1)
  data.frame(
    order_no = sprintf("N%08d", seq_len(orders))[sample(orders, n, TRUE)],
    day = as.Date("2024-01-01") + sample(900, n, TRUE),
    account = sprintf("A%07d", seq_len(accounts))[sample(accounts, n, TRUE)],
    product = sprintf("P%05d", 1:5000)[sample(5000, n, TRUE)],
    region = c("north", "south", "east", "west")[sample(4, n, TRUE)],
    net = round(runif(n, 1, 500), 2), cost = round(runif(n, 1, 400), 2))
}

metrics <- c(revenue = "sum(net)", cost_total = "sum(cost)", orders = "distinct(order_no)",
             margin_rate = "(sum(net) - sum(cost)) / sum(net)")

# Parts of the fold, as the language reads them.
field <- function(name) list(kind = "name", name = name)
month_of <- function(name) list(kind = "bucket", part = "month", arg = field(name))
part <- function(fn, name, where = NULL, prob = NULL) {
  list(kind = "aggregate", fn = fn, arg = field(name), where = where, prob = prob)
}
fold <- function(...) internal("source_fold")(...)

# A line of what the operating system says of this process, in MB.
process_memory <- function(what) {
  line <- grep(paste0("^", what, ":"), readLines("/proc/self/status"), value = TRUE)
  as.numeric(sub("[^0-9]*([0-9]+).*", "\\1", line)) / 1024
}

# Bytes a second that all threads together read, and write into memory not used before, with next to
# no work between.
memory_speed <- function() {
  ones <- integer(5e7)
  invisible(internal("kernel_threads")(internal("thread_count")()))
  middle <- function(work) median(vapply(1:7, function(i) seconds(work()), 0))
  read <- middle(function() internal("kernel_sums")(list(ones), NULL, 1L, NULL, FALSE))
  both <- middle(function() internal("kernel_recode")(ones, 1L))
  4 * length(ones) / c(read = read, write = both - read)
}

# DuckDB, through its own package or its library alone (LONGLADDER_TEST_DUCKDB); NULL without.
connect_duckdb <- function() {
  library <- Sys.getenv("LONGLADDER_TEST_DUCKDB")
  if (nzchar(library) && has("adbi")) {
    driver <- adbcdrivermanager::adbc_driver(library, "duckdb_adbc_init")
    return(DBI::dbConnect(adbi::adbi(driver), path = ":memory:"))
  }
  if (has("duckdb")) DBI::dbConnect(duckdb::duckdb())
}

# Subjects: a list by subject of lists by who ("ours" first) of functions. A first round warms up.
measure <- function(subjects, warm = TRUE, times = rounds) {
  taken <- lapply(subjects, function(s) matrix(NA_real_, times, length(s),
                                               dimnames = list(NULL, names(s))))
  for (i in seq(if (warm) 0 else 1, times)) for (subject in names(subjects)) {
    # Once a subject: with millions of texts in memory it takes longer than what is measured.
    gc(FALSE)
    for (who in names(subjects[[subject]])) {
      spent <- seconds(subjects[[subject]][[who]]())
      if (i > 0) taken[[subject]][i, who] <- spent
    }
  }
  do.call(rbind, lapply(names(subjects), function(subject) {
    middle <- apply(taken[[subject]], 2, median)
    data.frame(subject = subject, who = names(middle), seconds = middle,
               ratio = middle / middle[[1]], least = apply(taken[[subject]], 2, min),
               row.names = NULL)
  }))
}

machine <- function() {
  version <- function(p) if (has(p)) paste(p, packageVersion(p))
  processor <- grep("model name", if (file.exists("/proc/cpuinfo")) readLines("/proc/cpuinfo"),
                    value = TRUE)
  paste0(R.version.string, ", ", parallel::detectCores(), " cores",
         if (length(processor)) paste0(" (", sub(".*: ", "", processor[1]), ")"), "; ",
         paste(unlist(lapply(c("longladder", "data.table", "collapse"), version)), collapse = ", "),
         if (exists("duckdb_version")) paste(", DuckDB", duckdb_version), ". ", format(Sys.Date()),
         ".")
}

# Writes bench/NAME.md and prints it.
write_page <- function(name, title, ...) {
  text <- c(paste("#", title), "", unlist(list(...)), "", machine())
  writeLines(text, file.path("bench", paste0(name, ".md")))
  writeLines(text)
}

table_of <- function(rows) {
  c("| subject | who | median s | times ours |", "|---|---|---|---|",
    sprintf("| %s | %s | %.3f | %.2f |", rows$subject, rows$who, rows$seconds, rows$ratio))
}

# Ours alone, as multiples of the first subject.
table_of_folds <- function(rows, what) {
  c(paste0("| subject | median s | ", what, " |"), "|---|---|---|",
    sprintf("| %s | %.2f | %.1f |", rows$subject, rows$seconds, rows$seconds / rows$seconds[1]))
}

# How long each took, on a scale of ratios, who by shape and shade.
draw_rows <- function(name, rows, title, caption = NULL) {
  house <- internal("house")
  rows$subject <- factor(rows$subject, rev(unique(rows$subject)))
  rows$who <- factor(rows$who, unique(rows$who))
  shades <- rep_len(c(house$main, house$mark, "#8A4F7D", "#5B7FB5", house$soft, "#A9B4B8"),
                    nlevels(rows$who))
  # As many beside each other as the width holds.
  columns <- ggplot2::guide_legend(ncol = min(nlevels(rows$who),
                                              max(1, 115 %/% (max(nchar(levels(rows$who))) + 6))))
  figure <- ggplot2::ggplot(rows, ggplot2::aes(pmax(seconds, 5e-4), subject, colour = who,
                                               shape = who)) +
    ggplot2::geom_line(ggplot2::aes(group = subject), colour = house$line, linewidth = 1.2) +
    ggplot2::geom_point(size = 3.4) + ggplot2::scale_colour_manual(values = shades) +
    ggplot2::scale_shape_manual(values = rep_len(c(19, 17, 15, 18, 8, 4, 1, 2, 0, 5, 3),
                                                 length(shades))) +
    ggplot2::scale_x_log10(labels = function(x) paste(format(x, drop0trailing = TRUE, trim = TRUE,
                                                             scientific = FALSE), "s")) +
    ggplot2::guides(colour = columns, shape = columns) + internal("theme_house")() + ggplot2::theme(
      legend.position = "top", legend.title = ggplot2::element_blank(),
      legend.justification = "left",
      panel.grid.major.x = ggplot2::element_line(colour = house$line),
      axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink)) +
    ggplot2::labs(title = title,
                  subtitle = "seconds, medians, on a scale where equal steps are equal ratios",
                  caption = caption)
  save_drawn(name, figure)
}

save_drawn <- function(name, figure) {
  ggplot2::ggsave(file.path("bench", paste0(name, ".png")), figure, width = 10.67, height = 6.67,
                  dpi = 120)
}
