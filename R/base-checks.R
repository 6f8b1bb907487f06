# Checks of arguments. Each returns its (cleaned) value, or stops with a message that says what to
# do.

# As in later versions of R. Taken from another package, it would load that package for every word
# that the program says.
`%||%` <- function(x, y) if (is.null(x)) y else x

check_number <- function(
  x, name, min = -Inf, max = Inf, whole = FALSE, call = rlang::caller_env()
) {
  kind <- if (whole) "one whole number" else "one number"
  good <- is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x) &&
    (!whole || x == round(x))
  if (!good) {
    bm_abort("{.arg {name}} must be {kind}, not {.obj_type_friendly {x}}.", "argument", call = call)
  }
  if (x < min || x > max) {
    range <- if (is.finite(min) && is.finite(max)) paste("between", min, "and", max)
    else if (is.finite(min)) paste("at least", min) else paste("at most", max)
    bm_abort("{.arg {name}} must be {range}, not {x}.", "argument", call = call)
  }
  as.numeric(x)
}

# Arguments that a method has no use for: a name misspelt would otherwise change nothing, in
# silence.
check_dots_empty <- function(..., call = rlang::caller_env()) {
  if (...length() == 0) return(invisible())
  names <- names(list(...)) %||% ""
  bm_abort(
    if (nzchar(names[1])) "Unknown argument {.arg {names[1]}}." else "Too many arguments.",
    "argument", call = call
  )
}

check_flag <- function(x, name, call = rlang::caller_env()) {
  if (!rlang::is_bool(x)) {
    bm_abort(
      "{.arg {name}} must be TRUE or FALSE, not {.obj_type_friendly {x}}.", "argument", call = call
    )
  }
  x
}

check_text <- function(x, name, call = rlang::caller_env()) {
  good <- rlang::is_string(x) && nzchar(x)
  if (!good) {
    bm_abort(
      "{.arg {name}} must be one string, not {.obj_type_friendly {x}}.", "argument", call = call
    )
  }
  check_encoding(x, name, call)
}

# Texts are UTF-8 or say what they are; bytes that are neither would be shown, compared and written
# differently everywhere.
check_encoding <- function(x, name, call = rlang::caller_env()) {
  if (is.character(x) && !all(validUTF8(x) | Encoding(x) == "latin1" | l10n_info()[["Latin-1"]])) {
    bm_abort("{.arg {name}} holds bytes that are not UTF-8 text.", "argument", call = call)
  }
  x
}

# Finite numbers, at least `least` of them.
check_numbers <- function(x, name, min = -Inf, max = Inf, least = 1, call = rlang::caller_env()) {
  if (!is.numeric(x) || is.object(x) || length(x) < least || !all(is.finite(x))) {
    bm_abort(
      "{.arg {name}} must be {if (least > 1) paste('at least', least, 'numbers') else 'numbers'},
       not
              {.obj_type_friendly {x}}.",
      "argument", call = call
    )
  }
  wrong <- x[x < min | x > max]
  if (length(wrong)) {
    bm_abort(
      "{.arg {name}} must lie between {min} and {max}, not at {wrong[1]}.", "argument", call = call
    )
  }
  as.numeric(x)
}

# Texts, at least one, out of `choices` where those are given.
check_texts <- function(x, name, choices = NULL, call = rlang::caller_env()) {
  if (!is.character(x) || length(x) == 0 || anyNA(x)) {
    bm_abort(
      "{.arg {name}} must be strings, not {.obj_type_friendly {x}}.", "argument", call = call
    )
  }
  check_encoding(x, name, call)
  if (!is.null(choices)) for (one in x) check_choice(one, name, choices, call)
  x
}

check_choice <- function(x, name, choices, call = rlang::caller_env()) {
  if (rlang::is_string(x) && x %in% choices) return(x)
  check_encoding(x, name, call)
  bm_abort(c(
    if (rlang::is_string(x)) "{.arg {name}} must be one of {.val {choices}}, not {.val {x}}."
    else "{.arg {name}} must be one of {.val {choices}}, not {.obj_type_friendly {x}}.",
    i = if (rlang::is_string(x)) did_you_mean(x, choices)
  ), "argument", choice = TRUE, choices = choices, call = call)
}

check_point <- function(x, name, call = rlang::caller_env()) {
  if (!is.numeric(x) || length(x) != 2 || !all(is.finite(x))) {
    bm_abort("{.arg {name}} must be {.code c(x, y)} in pixels.", "argument", call = call)
  }
  unname(x)
}

check_class <- function(x, class, what, hint, call = rlang::caller_env()) {
  if (!inherits(x, class)) {
    bm_abort(
      c("A {what} is needed here, not {.obj_type_friendly {x}}.", i = hint), "class", call = call
    )
  }
  x
}

is_on_disk <- function(field) inherits(field$pixels, "bm_unread")

# `on_disk`: whether a field will do whose pixels are not in memory.
check_field <- function(x, call = rlang::caller_env(), on_disk = FALSE) {
  check_class(x, "bm_field", "field", "Make one with {.fn read_field} or {.fn as_field}.", call)
  if (!on_disk) check_in_memory(x, call)
  invisible(x)
}

check_in_memory <- function(field, call = rlang::caller_env()) {
  if (!is_on_disk(field)) return(invisible())
  bm_abort(
    c(
      "This picture stays on disk; its pixels are only read part by part, by a method.",
      i = "Give it to {.fn apply_method}, or read the part to look at with {.fn part_on_disk}."
    ),
    "on_disk", call = call
  )
}

check_mask <- function(x, call = rlang::caller_env()) {
  check_class(
    x, "bm_mask", "mask", "Make one with {.fn segment_auto} or {.fn segment_level}.", call
  )
}

check_objects <- function(x, call = rlang::caller_env()) {
  check_class(
    x, "bm_objects", "set of objects",
    "Make one with {.fn find_objects} or {.fn separate_watershed}.", call
  )
}

check_measures <- function(x, call = rlang::caller_env()) {
  check_class(x, "bm_measures", "table of measures", "Make one with {.fn measure_objects}.", call)
}

check_file <- function(file, call = rlang::caller_env()) {
  check_text(file, "file", call)
  if (dir.exists(file)) bm_abort("{.file {file}} is a folder, not a file.", "file", call = call)
  if (!file.exists(file)) bm_abort("There is no file {.file {file}}.", "file", call = call)
  if (file.access(file, 4) != 0) {
    bm_abort("The file {.file {file}} may not be read.", "file", call = call)
  }
  if (file.size(file) == 0) bm_abort("The file {.file {file}} is empty.", "file", call = call)
  file
}

# Stops at the first name that is not known, offering the nearest one.
check_known <- function(names, known, what, where = "", call = rlang::caller_env()) {
  check_encoding(names, what, call)
  for (name in names) {
    if (!name %in% known) {
      bm_abort(c(
        "Unknown {what} {.val {name}}{where}.",
        i = did_you_mean(name, known), i = "Known: {.val {known}}."
      ), "unknown_name", call = call)
    }
  }
  invisible(names)
}

did_you_mean <- function(name, known) {
  if (length(known) == 0) return(NULL)
  distance <- utils::adist(name, known, ignore.case = TRUE)[1, ]
  if (min(distance) > max(2, nchar(name) / 3)) return(NULL)
  plain(paste0("Did you mean \"", known[which.min(distance)], "\"?"))
}

# Whether these parts of a list that was read are texts, or not there.
has_texts <- function(x, names) {
  all(vapply(
    names, function(n) is.null(x[[n]]) || rlang::is_string(x[[n]]), NA
  ))
}

# Packages that only some of the work needs.
need_package <- function(name, what, call = rlang::caller_env()) {
  if (requireNamespace(name, quietly = TRUE)) return(invisible())
  bm_abort(
    c(
      "{what} needs the package {.pkg {name}}, which is not installed.",
      i = "Install it by {.code install.packages(\"{name}\")}."
    ),
    "package", call = call
  )
}

check_function <- function(f, name, call = rlang::caller_env()) {
  if (is.null(f) || is.function(f)) return(invisible(f))
  bm_abort(
    "{.arg {name}} must be a function or NULL, not {.obj_type_friendly {f}}.", "argument",
    call = call
  )
}

# A day: "2026-03-01" or a Date; as a text.
day_text <- function(x, name, call = rlang::caller_env()) format(as_day(x, name, call), "%Y-%m-%d")

as_day <- function(x, name, call = rlang::caller_env()) {
  day <- if (inherits(x, "Date") && length(x) == 1) x
  if (rlang::is_string(x) && grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", x)) {
    day <- as.Date(x, optional = TRUE)
  }
  if (is.null(day) || is.na(day)) {
    bm_abort("{.arg {name}} must be a day such as {.val 2026-03-01}.", "argument", call = call)
  }
  day
}

# Where a folder is to be made: nothing is there, or an empty folder.
check_empty_folder <- function(dir, call = rlang::caller_env()) {
  check_text(dir, "dir", call)
  if (file.exists(dir) && (!dir.exists(dir) || length(list.files(dir)) > 0)) {
    bm_abort("{.file {dir}} already exists and is not empty.", "exists", call = call)
  }
}
