# Whose folder a run writes into, and whose servers a brief speaks to: what this account signed or
# agreed to, and nothing that a stranger's file says of itself. See SECURITY.md.

# An account whose home nobody has used yet.
fresh_account <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  withr::local_envvar(LONGLADDER_CONFIG = file.path(folder, "own"), .local_envir = env)
  file.path(folder, "own")
}

# A brief of two pages and its folder of output, run once.
run_once <- function(env = parent.frame()) {
  file <- run_brief_file(env)
  out <- file.path(dirname(file), "out")
  expect_equal(command("run", file, "--out", out)$status, 0)
  list(file = file, out = out)
}

sums_of <- function(folder) {
  files <- list.files(folder, all.files = TRUE, recursive = TRUE)
  stats::setNames(tools::md5sum(file.path(folder, files)), files)
}

test_that("a record with right sums that this account did not sign deletes and replaces nothing", {
  skip_without_pandoc()
  own <- fresh_account()
  made <- run_once()
  record <- jsonlite::fromJSON(file.path(made$out, "record.json"))
  expect_match(record$signed, "^[0-9a-f]{64}$")
  expect_identical(format(file.info(own)$mode), "700")
  expect_identical(format(file.info(file.path(own, "key"))$mode), "600")
  # The forger names files of the folder's owner by their very names, sizes and sums.
  forge <- function(signed) {
    for (name in c("plan.csv", "areas.csv")) writeLines("mine", file.path(made$out, name))
    mine <- file.path(made$out, c("plan.csv", "areas.csv"))
    record$written <- data.frame(file = basename(mine), bytes = file.size(mine),
                                 md5 = unname(tools::md5sum(mine)))
    record$signed <- signed
    writeLines(jsonlite::toJSON(record, auto_unbox = TRUE), file.path(made$out, "record.json"))
  }
  stranger <- digest::hmac("a key of theirs", internal("written_text")(record$written), "sha256")
  for (signed in list(record$signed, NULL, "", stranger, c("a", "b"), 1)) {
    forge(signed)
    before <- sums_of(made$out)
    got <- command("run", made$file, "--out", made$out)
    expect_equal(got$status, 2)
    expect_match(got$err, "bears no signature of this account.*--trust-folder.*--replace")
    expect_identical(sums_of(made$out), before)
    # Over what stands in its way, if the person says so; nothing else goes.
    if (is.null(signed)) {
      expect_equal(command("run", made$file, "--out", made$out, "--replace")$status, 0)
      expect_identical(readLines(file.path(made$out, "plan.csv")), "mine")
    }
  }
})

test_that("an unattended run from a fresh home goes on in last month's folder by --trust-folder", {
  skip_without_pandoc()
  fresh_account()
  made <- run_once()
  cat("my own thoughts\n", file = file.path(made$out, "notebook.Rmd"), append = TRUE)
  writeLines("mine", file.path(made$out, "remarks.txt"))
  # Another account, a container: no home is set, nobody sits there.
  home <- withr::local_tempdir()
  go_on <- function(...) run_process("run", made$file, ..., "--out", made$out, env = c(
    paste0("HOME=", home), "LONGLADDER_CONFIG=", "XDG_CONFIG_HOME="))
  refused <- go_on("reps")
  expect_equal(refused$status, 2)
  expect_match(paste(refused$err, collapse = "\n"), "--trust-folder")
  taken <- go_on("reps", "--trust-folder")
  expect_equal(taken$status, 0)
  # As in the account that wrote it: what is no longer made goes, what was edited stays.
  expect_false(file.exists(file.path(made$out, "areas.csv")))
  expect_identical(utils::tail(readLines(file.path(made$out, "notebook.Rmd")), 1),
                   "my own thoughts")
  expect_identical(readLines(file.path(made$out, "remarks.txt")), "mine")
  # That account's own record from here on.
  expect_equal(go_on("reps")$status, 0)
  # A home that takes no key: it is said, and the run is made.
  none <- run_process("run", made$file, "reps", "--out", paste0(made$out, 2),
                      env = "LONGLADDER_CONFIG=/proc/nowhere")
  expect_equal(none$status, 0)
  expect_match(none$err, "no key could be kept in '/proc/nowhere'", all = FALSE)
})

test_that("a run of any account goes where nothing is, and a key of others' is none", {
  own <- fresh_account()
  sign <- internal("own_signature")
  expect_null(sign("a"))
  first <- sign("a", make = TRUE)
  expect_identical(sign("a", make = TRUE), first)
  expect_false(identical(sign("b"), first))
  # The published example of HMAC with SHA-256 (RFC 4231, case 2).
  expect_identical(digest::hmac("Jefe", "what do ya want for nothing?", "sha256"),
                   "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843")
  Sys.chmod(own, "0777", use_umask = FALSE)
  expect_null(sign("a", make = TRUE))
  Sys.chmod(own, "0700", use_umask = FALSE)
  writeLines("short", file.path(own, "key"))
  expect_null(sign("a", make = TRUE))
})

# A brief that wants to connect, and the class of what comes of opening it.
connecting_brief <- function(..., env = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".yml", .local_envir = env)
  rewrite <- function(...) {
    writeLines(c(paste0("lines: {connect: {", paste(c(...), collapse = ", "), "}, table: order_lines}"),
                 "metrics: {revenue: sum(net)}",
                 "pages: {reps: {study: standings, each: rep}}"), file)
    file
  }
  rewrite(...)
  list(file = file, rewrite = rewrite)
}

outcome_of <- function(file, ...) {
  class(tryCatch(ll_brief(file, ...), ll_error = identity))[1]
}

test_that("a brief's password and other machines wait for the person's word, which is remembered", {
  skip_if_not_installed("RPostgres")
  fresh_account()
  withr::local_envvar(LL_SECRET = "s3cret-word")
  here <- c("driver: postgres", "host: 127.0.0.1", "port: 9")
  for (wanted in list(c(here, "password_from: LL_SECRET"), c(here[-2], "host: db.example.invalid"),
                      c(here[-2], "host: '127.0.0.1,db.example.invalid'"),
                      c(here[-2], "host: 127.0.0.1.example.invalid"),
                      c("driver: postgres", "password_from: HOME"))) {
    brief <- do.call(connecting_brief, as.list(wanted))
    expect_identical(outcome_of(brief$file), "ll_error_trust", info = paste(wanted, collapse = " "))
  }
  # This machine without a password is nobody else's.
  for (host in c("127.0.0.1", "localhost", "'::1'", "/nowhere"))
    expect_identical(outcome_of(connecting_brief(here[-2], paste("host:", host))$file),
                     "ll_error_database", info = host)
  brief <- connecting_brief(here, "password_from: LL_SECRET")
  got <- command("ask", "top reps", "--brief", brief$file)
  expect_equal(got$status, 2)
  expect_match(got$err, paste0("postgres at 127.0.0.1:9, and sends it the password in 'LL_SECRET'",
                               ".*--trust-connection"))
  expect_no_match(got$err, "s3cret")
  # Agreed to once by the command, and for every way of opening it.
  expect_match(command("run", brief$file, "--out", withr::local_tempdir(),
                       "--trust-connection")$err, "No connection to postgres")
  expect_identical(outcome_of(brief$file), "ll_error_database")
  process <- run_process("standings", "--brief", brief$file, "--each", "rep")
  expect_match(process$err, "No connection to postgres", all = FALSE)
  # Another host in the same brief, the same connection in another brief, another account: asked.
  brief$rewrite(here[-2], "host: localhost", "password_from: LL_SECRET")
  expect_identical(outcome_of(brief$file), "ll_error_trust")
  expect_identical(outcome_of(connecting_brief(here, "password_from: LL_SECRET")$file),
                   "ll_error_trust")
  brief$rewrite(here, "password_from: LL_SECRET")
  home <- withr::local_tempdir()
  fresh <- function(...) run_process("standings", "--brief", brief$file, "--each", "rep", ...,
                                     env = c(paste0("HOME=", home), "LONGLADDER_CONFIG=",
                                             "XDG_CONFIG_HOME="))
  expect_match(fresh()$err, "Nobody said on this account", all = FALSE)
  expect_match(fresh("--trust-connection")$err, "No connection to postgres", all = FALSE)
  expect_match(fresh()$err, "No connection to postgres", all = FALSE)
})

test_that("registers and sets that connect are asked for too; lines of one's own are not", {
  skip_if_not_installed("RPostgres")
  fresh_account()
  folder <- withr::local_tempdir()
  utils::write.csv(small_lines(), file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  away <- "{connect: {driver: postgres, host: db.example.invalid}, table: reps}"
  file <- file.path(folder, "b.yml")
  writeLines(c("lines: lines.csv", paste("registers: {rep:", away, "}"),
               "metrics: {revenue: sum(net)}"), file)
  expect_identical(outcome_of(file), "ll_error_trust")
  # What is given instead of a brief's lines is the person's own.
  writeLines(c(paste("lines:", away), "metrics: {revenue: sum(net)}"), file)
  expect_identical(outcome_of(file), "ll_error_trust")
  expect_identical(outcome_of(file, lines = file.path(folder, "lines.csv")), "ll_brief")
  expect_identical(outcome_of(file, trust_connection = TRUE), "ll_error_database")
  expect_identical(outcome_of(file), "ll_error_database")
})
