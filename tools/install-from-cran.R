# Installs the named packages from CRAN, into the user's library when the system's may not be
# written to.
packages <- commandArgs(trailingOnly = TRUE)
if (identical(getOption("repos")[["CRAN"]], "@CRAN@")) utils::chooseCRANmirror(ind = 1)
library <- .libPaths()[1]
if (file.access(library, 2) != 0) {
  library <- Sys.getenv("R_LIBS_USER")
  dir.create(library, recursive = TRUE, showWarnings = FALSE)
}
install.packages(packages, lib = library, Ncpus = max(1, parallel::detectCores()), quiet = TRUE)
