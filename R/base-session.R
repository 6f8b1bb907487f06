# The session's own options must not reach what is computed, written or read.

# Until the calling function ends, numbers become text as R does it by default (decimal point, no
# forced exponent), names are ordered by their codes and not by a country's alphabet, and a warning
# stays one: with `warn = 2` it would end a batch half-way.
steady_session <- function(env = parent.frame()) {
  withr::local_collate("C", .local_envir = env)
  withr::local_options(
    list(
      OutDec = ".", scipen = 0, digits = 7, warn = min(getOption("warn"), 1),
      stringsAsFactors = FALSE
    ),
    .local_envir = env
  )
}

# Memory that cannot be had is reported by R in the session's language, without a class of its own.
is_out_of_memory <- function(e) {
  told <- sub("%.*", "", gettext("cannot allocate vector of size %0.1f Gb", domain = "R"))
  grepl(told, conditionMessage(e), fixed = TRUE) ||
    grepl("cannot allocate|bad_alloc|memory exhausted", conditionMessage(e))
}

# A time as records keep it.
utc_time <- function(time = Sys.time()) format(time, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
