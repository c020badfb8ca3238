# Ten, thirty and a hundred million lines of 12 columns on one machine: opening and keeping them,
# then questions of the kept book, each a process of its own, with the most memory it held. Writes
# bench/large.md.
#
#   SIZES=1e7,3e7,1e8 Rscript bench/large.R
#
# Takes 8 GB of disk for the file of a hundred million lines, as many for what is kept, and half an
# hour. FOLDER=path keeps the files there for another run.

source("bench/common.R")
sizes <- as.numeric(strsplit(Sys.getenv("SIZES", "1e7,3e7,1e8"), ",")[[1]])
keep <- Sys.getenv("FOLDER")
folder <- if (nzchar(keep)) keep else tempfile("large-")
dir.create(folder, mode = "0700", showWarnings = FALSE)

# Lines as a shop's system writes them out: order after order, some four lines each; a hundredth as
# many accounts as lines. In pieces, so that making them takes little memory.
write_lines <- function(path, n, seed = 1) {
  set.seed(seed)
  accounts <- max(n %/% 100, 1)
  for (from in seq(0, n - 1, by = 2e6)) {
    here <- min(2e6, n - from)
    orders <- max(here %/% 4, 1)
    order <- sort(sample(orders, here, TRUE))
    # Account, day, rep and channel are the order's.
    of <- list(account = sample(accounts, orders, TRUE), day = sample(900, orders, TRUE),
               rep = sample(300, orders, TRUE), channel = sample(4, orders, TRUE))
    quantity <- sample(50, here, TRUE)
    net <- round(quantity * runif(here, 1, 20), 2)
    data.table::fwrite(data.frame(
      order_no = sprintf("N%09d", from + order),
      day = (as.Date("2024-01-01") + 0:899)[of$day[order]],
      account = sprintf("A%07d", of$account[order]),
      product = sprintf("P%05d", sample(5000, here, TRUE)),
      region = c("north", "south", "east", "west")[of$account[order] %% 4 + 1],
      family = sprintf("F%02d", sample(40, here, TRUE)), rep = sprintf("R%03d", of$rep[order]),
      channel = c("shop", "web", "phone", "agent")[of$channel[order]],
      quantity = quantity, net = net, cost = round(net * runif(here, .4, .9), 2),
      freight = round(runif(here, 0, 9), 2)), path, append = from > 0)
  }
}

# A process of its own: seconds, and the most memory it held, in GB.
run <- function(...) {
  script <- tempfile(fileext = ".R", tmpdir = folder)
  writeLines(c(paste0("code <- longladder::ll_main(c(", paste(shQuote(c(...)), collapse = ", "),
                      "))"),
               "at <- grep('^VmHWM', readLines('/proc/self/status'), value = TRUE)",
               "writeLines(c('', gsub('[^0-9 ]', '', at)), stderr())",
               "quit(status = if (is.numeric(code)) code else 0)"), script)
  start <- Sys.time()
  # As the repository's command sets it.
  said <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"),
                                   c("--no-init-file", shQuote(script)), stdout = FALSE,
                                   stderr = TRUE, env = "R_GC_MEM_GROW=3"))
  spent <- as.numeric(Sys.time() - start, units = "secs")
  if (!is.null(attr(said, "status"))) stop(paste(said, collapse = "\n"))
  c(seconds = spent, gb = as.numeric(gsub(" ", "", utils::tail(said, 1))) / 2^20)
}

questions <- list(
  "standings of 4 regions" = c("standings", "--each", "region"),
  "crosstab of 40 families by 4 channels" = c("crosstab", "--rows", "family", "--columns",
                                              "channel"),
  "trend of 12 months" = "trend",
  "pareto of all accounts" = c("pareto", "--each", "account"),
  "bridge by region" = c("bridge", "--by", "region", "--against", "2024"),
  "standings of all accounts" = c("standings", "--each", "account", "--top", "10"),
  "median line by region" = c("standings", "--each", "region", "--metrics", "middle"),
  "distinct orders by region" = c("standings", "--each", "region", "--metrics", "orders"),
  "drill of a quarter, six dimensions" = c("drill", "--when", "2025-Q2", "--against", "previous",
                                           "--by", "account,product,region,family,rep,channel"),
  check = "check")
defined <- c("--define", "revenue=sum(net)", "--define", "middle=median(net)",
             "--define", "orders=distinct(order_no)")
rows <- list()
for (n in sizes) {
  Sys.setenv(LONGLADDER_CACHE = file.path(folder, paste0("cache-", n)))
  file <- file.path(folder, paste0("lines-", n, ".csv"))
  if (!file.exists(file)) write_lines(file, n)
  put <- function(what, taken) {
    rows[[length(rows) + 1]] <<- data.frame(lines = n, what = what, seconds = taken[[1]],
                                            gb = taken[[2]])
    message(count(n), " ", what, ": ", round(taken[[1]], 1), " s, ", round(taken[[2]], 1), " GB")
  }
  put("open and keep", run("cache", file, defined))
  for (what in names(questions)) {
    words <- questions[[what]]
    own <- c(if (!"--metrics" %in% words) c("--metrics", "revenue"),
             if (!"--when" %in% words && what != "check") c("--when", "2025"))
    ask <- function() run(words[1], file, words[-1], own, defined, "--format", "line", "--cache",
                          "yes")
    # Twice where it is short: the first may read from the disk.
    taken <- lapply(seq_len(if (words[1] %in% c("check", "drill")) 1 else 2), function(i) ask())
    put(what, taken[[which.min(vapply(taken, `[[`, 0, 1))]])
  }
  put("size", c(file.size(file) / 2^30, sum(file.size(list.files(
    Sys.getenv("LONGLADDER_CACHE"), recursive = TRUE, full.names = TRUE))) / 2^30))
  if (!nzchar(keep)) unlink(c(file, Sys.getenv("LONGLADDER_CACHE")), recursive = TRUE)
}
rows <- do.call(rbind, rows)
started <- vapply(1:3, function(i) seconds(system2(
  file.path(R.home("bin"), "Rscript"), c("--no-init-file", "-e", "1"), stdout = FALSE)), 0)
cell <- function(what, n, part) rows[rows$what == what & rows$lines == n, part]
table <- vapply(setdiff(unique(rows$what), "size"), function(what) {
  paste0("| ", what, " | ", paste(vapply(sizes, function(n) {
    sprintf("%.1f s, %.1f GB", cell(what, n, "seconds"), cell(what, n, "gb"))
  }, ""), collapse = " | "), " |")
}, "")
write_page("large", "As many lines as the machine holds", paste0(
  "CSV files of 12 columns (orders of four lines, a hundredth as many accounts, 5,000 products, ",
  "six more names, four numbers): ", paste(vapply(sizes, function(n) sprintf(
    "%s lines of %.1f GB, kept in %.1f GB", count(n), cell("size", n, "seconds"),
    cell("size", n, "gb")), ""), collapse = "; "), ". Seconds of a whole process, R's own start ",
  "of ", sprintf("%.2f", median(started)), " s among them, the sooner of two for all but check ",
  "and drill; and the most memory it held, mapped files among it, which leave when others need ",
  "room. Questions are of 2025, with table, notes and proof."), "",
  paste0("| a process of its own | ", paste0(count(sizes[1]), if (length(sizes) > 1)
    paste0(" | ", vapply(sizes[-1], count, ""), collapse = "")), " lines |"),
  paste0("|", strrep("---|", length(sizes) + 1)), table)
if (!nzchar(keep)) unlink(folder, recursive = TRUE)
