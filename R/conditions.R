# The one place that raises errors and warnings. Every condition has the class
# `bemrick_error` (or `bemrick_warning`) and a narrower one naming what was wrong.

bm_abort <- function(message, class, ..., call = rlang::caller_env(), parent = NULL, .envir = rlang::caller_env()) {
  cli::cli_abort(
    message,
    class = c(paste0("bemrick_error_", class), "bemrick_error"),
    ..., call = call, parent = parent, .envir = .envir
  )
}

bm_warn <- function(message, class, ..., call = rlang::caller_env(), .envir = rlang::caller_env()) {
  cli::cli_warn(
    message,
    class = c(paste0("bemrick_warning_", class), "bemrick_warning"),
    ..., call = call, .envir = .envir
  )
}

# Text that cli must not read as markup.
plain <- function(text) gsub("}", "}}", gsub("{", "{{", text, fixed = TRUE), fixed = TRUE)
