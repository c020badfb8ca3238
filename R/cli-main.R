#' Run the command
#'
#' `longladder <study> [LINES] [options]`, as on a command line. The script `longladder` calls it;
#' `Rscript -e 'longladder::ll_main()' <study> ...` works anywhere R does.
#'
#' @param args (text) the words of the command line.
#' @return The exit status, invisibly: 0 done, 2 something that the person can fix, a proof that
#'   does not hold included, 1 any other.
#'   The result goes to standard output, everything else to standard error.
#' @section Errors: None leaves the command: what went wrong is told on standard error, and the
#' status says whose it is to fix.
#' @examples
#' ll_main(c("standings", "--help"))
#' @export
ll_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  utf8_if_can()
  start_log()
  kernel_outlive_writes()
  if (!interactive()) {
    kernel_interrupts(TRUE)
    on.exit(kernel_interrupts(FALSE))
  }
  mark_temporary()
  tell_environment()
  status <- tryCatch(
    withCallingHandlers({
      done <- run_command(args)
      check_stdout()
      check_log()
      done
    }, warning = function(w) {
      tell(paste("note:", conditionMessage(w)))
      invokeRestart("muffleWarning")
    }),
    ll_error = function(e) {
      tell(paste0("longladder: ", conditionMessage(e)), "error")
      # A server that went away is nothing that was typed wrong.
      if (inherits(e, "ll_error_lost")) 1L else 2L
    },
    interrupt = function(e) {
      kernel_interrupts(FALSE)
      tell("longladder: stopped", "error")
      1L
    },
    error = function(e) {
      tell(c(paste0("longladder: something went wrong that should not: ", conditionMessage(e)),
             "Please report it with the command that you typed."), "error")
      1L
    })
  invisible(as.integer(status))
}

# Names in any script need a UTF-8 locale, R may have been started without one, and patterns that
# leave case out need one with the letter i of most languages.
utf8_if_can <- function() {
  if (l10n_info()[["UTF-8"]] && !dotless()) return(invisible())
  for (locale in c("C.UTF-8", "en_US.UTF-8", "UTF-8"))
    if (nzchar(suppressWarnings(Sys.setlocale("LC_CTYPE", locale)))) return(invisible())
}

# R read the folder's .Renviron before the command began, unless it was told of another: the folder
# may be anybody's, and its settings reach far.
tell_environment <- function() {
  if (!file.exists(".Renviron") || nzchar(Sys.getenv("R_ENVIRON_USER")) ||
        normalizePath(".") == normalizePath("~")) return(invisible())
  tell(paste("note: R was started with the settings of '.Renviron' in this folder; set",
             "R_ENVIRON_USER to leave them out"))
}

run_command <- function(args) {
  args <- as_utf8(args)
  if (!length(args) || args[1] %in% c("--help", "-h", "help")) return(show_help())
  if (args[1] %in% c("--version", "-V")) {
    writeLines(paste("longladder", utils::packageVersion("longladder")))
    return(0L)
  }
  if (startsWith(args[1], "-"))
    ll_abort(c(paste0("A study comes first; ", quoted(args[1]), " is an option."),
               i = paste0("Studies: ", and_list(names(declarations()), 30), ".")), "word")
  if (args[1] == "draft") return(run_draft(args[-1]))
  if (args[1] == "run") return(run_brief(args[-1]))
  if (args[1] == "render") return(run_render(args[-1]))
  if (args[1] == "schema") return(run_schema(args[-1]))
  if (args[1] == "sql") return(run_sql(args[-1]))
  if (args[1] == "cache") return(run_cache(args[-1]))
  if (args[1] == "ask") return(run_ask(args[-1]))
  if (args[1] == "desk") return(run_desk(args[-1]))
  if (!args[1] %in% names(declarations()) && names_a_file(args[1])) return(run_look(args))
  run_study(declaration_of(args[1]), args[-1])
}
