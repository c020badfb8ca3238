# What rendering needs: rmarkdown, pandoc, and for pandoc a home folder.

need_pandoc <- function() {
  if (!requireNamespace("rmarkdown", quietly = TRUE))
    ll_abort(c("A report needs the rmarkdown package.", i = "install.packages(\"rmarkdown\")"),
             "package")
  if (!with_pandoc_home(function() rmarkdown::pandoc_available("2.0")))
    ll_abort(c("A report needs pandoc 2.0 or later.",
               i = "Install pandoc (on Debian: apt install pandoc), or run from RStudio."),
             "package")
}

# pandoc does nothing without a home folder, which a bare service has not.
with_pandoc_home <- function(work) {
  if (nzchar(Sys.getenv("HOME"))) return(work())
  home <- tempfile("home-")
  dir.create(home, mode = "0700")
  Sys.setenv(HOME = home)
  on.exit({
    Sys.unsetenv("HOME")
    unlink(home, recursive = TRUE)
  })
  work()
}
