# Kept books: what the next command takes, and which way of keeping columns is fast enough. Writes
# bench/kept.md.
#
#   LINES=1e7 Rscript bench/kept.R
#
# Processes of their own are timed whole, R's own start among them.

source("bench/common.R")
folder <- tempfile("kept-")
dir.create(folder, mode = "0700")
Sys.setenv(LONGLADDER_CACHE = file.path(folder, "cache"))
file <- file.path(folder, "lines.csv")
lines <- order_lines()
lines <- lines[order(lines$order_no), ]
data.table::fwrite(lines, file)
script <- function(text) {
  path <- tempfile(fileext = ".R", tmpdir = folder)
  writeLines(text, path)
  function() system2(file.path(R.home("bin"), "Rscript"), c("--no-init-file", path), stdout = FALSE,
                     stderr = FALSE)
}
command <- function(...) {
  script(paste0("longladder::ll_main(c(", paste(shQuote(c(...)), collapse = ", "), "))"))
}
ask <- function(..., cache = "yes") {
  command("standings", file, "--define", "revenue=sum(net)", "--when", "2025", "--format", "line",
          "--cache", cache, ...)
}
fresh <- seconds(ask("--each", "region", cache = "no")())
keeping <- seconds(ask("--each", "region")())
reading <- script(paste0(
  "x <- data.table::fread('", file, "'); day <- as.Date('2025-01-01'); ",
  "x[day >= as.Date('2025-01-01') & day < as.Date('2026-01-01'), .(sum(net)), by = region]"))
duckdb <- Sys.getenv("LONGLADDER_TEST_DUCKDB")
# DuckDB by its own library, or by its package.
engine <- if (nzchar(duckdb)) paste0(
  "con <- DBI::dbConnect(adbi::adbi(adbcdrivermanager::adbc_driver('", duckdb,
  "', 'duckdb_adbc_init')), path = ':memory:'); ") else if (has("duckdb"))
  "con <- DBI::dbConnect(duckdb::duckdb()); "
asking <- if (length(engine)) script(paste0(
  engine, "DBI::dbGetQuery(con, \"SELECT region, sum(net) FROM read_csv('", file,
  "') WHERE day >= '2025-01-01' AND day < '2026-01-01' GROUP BY region\")"))
parquet <- file.path(folder, "lines.parquet")
nanoparquet::write_parquet(lines, parquet)
asking_parquet <- if (length(engine)) script(paste0(
  engine, "DBI::dbGetQuery(con, \"SELECT region, sum(net) FROM read_parquet('", parquet,
  "') WHERE day >= '2025-01-01' AND day < '2026-01-01' GROUP BY region\")"))
whole <- list(
  "standings of 4 names, a kept book" = ask("--each", "region"),
  "standings of all accounts, a kept book" = ask("--each", "account"),
  "R's own start" = script("1"),
  "data.table, reading and one grouping" = reading,
  "DuckDB, one grouping of the CSV file" = asking,
  "DuckDB, one grouping of a Parquet file" = asking_parquet)
whole <- Filter(Negate(is.null), whole)
rows <- measure(list("a process of its own" = whole), times = min(rounds, 3))
rows <- rbind(data.frame(rows[1, c("subject", "who")][c(1, 1), ], rows[1, -(1:2)][c(1, 1), ]), rows)
rows$who[1:2] <- c("opened anew", "opened anew and kept")
rows$seconds[1:2] <- c(fresh, keeping)

# The columns of one question: two of codes, days and amounts.
columns <- list(region = match(lines$region, unique(lines$region)),
                account = match(lines$account, unique(lines$account)),
                day = as.integer(lines$day), net = lines$net)
paths <- file.path(folder, names(columns))
for (k in seq_along(columns)) internal("kernel_write_vector")(paths[k], columns[[k]])
nanoparquet::write_parquet(as.data.frame(columns), file.path(folder, "columns.parquet"))
total <- function(x) sum(vapply(x, function(v) as.numeric(max(v)), 0))
stores <- list(
  "mapped files" = function() total(Map(function(path, v) {
    internal("kernel_mapped")(path, typeof(v), file.size(path), list())
  }, paths, columns)),
  nanoparquet = function() total(nanoparquet::read_parquet(file.path(folder, "columns.parquet"))))
if (has("fst")) {
  fst::write_fst(as.data.frame(columns), file.path(folder, "columns.fst"), compress = 50)
  stores$fst <- function() total(fst::read_fst(file.path(folder, "columns.fst")))
}
read <- measure(list("reading four columns, and their largest" = stores), times = min(rounds, 3))
size <- sum(ll_cache()$size)
both <- rbind(rows, read)
both$ratio <- both$seconds / ave(both$seconds, both$subject, FUN = function(x) x[1])
for (subject in unique(both$subject)) {
  at <- both$subject == subject
  base <- if (subject == "a process of its own") both$seconds[both$who == names(whole)[1]] else
    both$seconds[at][1]
  both$ratio[at] <- both$seconds[at] / base
}
write_page("kept", "Kept books", paste0(
  count(nrow(lines)), " lines, a CSV file of ", round(file.size(file) / 1e6), " MB, ",
  round(size / 1e6), " MB kept; medians of ", min(rounds, 3), " rounds, opening anew once. Every ",
  "answer of ours is a whole one: table, notes, proof by a second route."), "",
  table_of(both))
unlink(folder, recursive = TRUE)
