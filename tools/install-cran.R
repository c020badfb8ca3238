# Installs packages from CRAN into the first library that may be written to.
folder <- Sys.getenv("R_LIBS_USER")
if (file.access(.libPaths()[1], 2) != 0) {
  dir.create(folder, FALSE, TRUE)
  .libPaths(c(folder, .libPaths()))
}
if (identical(unname(getOption("repos")["CRAN"]), "@CRAN@"))
  options(repos = c(CRAN = getCRANmirrors(local.only = TRUE)$URL[1]))
install.packages(commandArgs(TRUE), Ncpus = 2, quiet = TRUE)
