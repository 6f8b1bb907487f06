# Work shared among copies of this process, where the system can copy processes.

# lapply() on several cores: the same values, warnings and errors, in the order of `x`. What f()
# changes outside of itself is lost with its copy.
side_by_side <- function(x, f) {
  copies <- min(length(x), process_count())
  if (copies < 2 || !can_copy_process()) return(lapply(x, f))
  gc()  # what is not needed any more would be copied with the rest
  # what happens to a copy is looked at below
  done <- suppressWarnings(parallel::mclapply(
    unname(x), function(item) outcome_of(f(item)), mc.cores = copies, mc.preschedule = FALSE,
    mc.set.seed = FALSE
  ))
  # one that the system ended, for its memory perhaps, is done here
  lapply(seq_along(x), function(k) if (is.list(done[[k]])) value_of(done[[k]]) else f(x[[k]]))
}

# What a call gives, and what it warns of: list(value = list() of the value or NULL in it, error,
# warnings).
outcome_of <- function(code) {
  warnings <- list()
  error <- NULL
  value <- tryCatch(
    withCallingHandlers(code, warning = function(w) {
      warnings[[length(warnings) + 1]] <<- w
      tryInvokeRestart("muffleWarning")
    }),
    error = function(e) {
      error <<- e
      NULL
    }
  )
  list(value = list(value), error = error, warnings = warnings)
}

value_of <- function(outcome) {
  for (one in c(outcome$warnings, list(outcome$error))) if (!is.null(one)) rlang::cnd_signal(one)
  outcome$value[[1]]
}

# processx takes over the signal that tells `parallel` of copies that have ended, and passes it on
# only where this is set before processx is loaded. Else the session would wait for them at its end.
.onLoad <- function(libname, pkgname) {
  if (!isNamespaceLoaded("processx")) Sys.setenv(PROCESSX_NOTIFY_OLD_SIGCHLD = "true")
  the$told_of_copies <- nzchar(Sys.getenv("PROCESSX_NOTIFY_OLD_SIGCHLD"))
}

can_copy_process <- function() .Platform$OS.type != "windows" && the$told_of_copies
