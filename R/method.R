# Methods: the lab's written procedure, as a file and as something to run.

#' @export
format.bm_method <- function(x, ...) {
  c(
    paste0("<method> ", x$title, " (", x$objects, ")"),
    paste0("  ", seq_along(x$steps), ". ", vapply(x$steps, format_step, ""))
  )
}

#' @exportS3Method tibble::as_tibble bm_method
as_tibble.bm_method <- function(x, ...) trail_table(x$steps)

new_method <- function(steps, title, objects, file = NULL, sha256 = NULL, report = NULL) {
  structure(
    list(
      title = title, objects = objects, steps = steps, file = file, sha256 = sha256,
      report = report, files = files_of(steps)
    ),
    class = c("bm_method", "bemrick")
  )
}

#' Make a method of what was done
#'
#' Takes the steps from the trail of an object, so that what was done by hand once can be written
#' down and run on any other picture. Reading and calibrating are not steps: they belong to the
#' single picture.
#'
#' @param x A field, mask, set of objects or table of measures.
#' @param title What the method is for, in words.
#' @param objects What the objects are called in reports, such as `"pores"`.
#' @return A `bm_method`.
#' @section Errors: Class `bemrick_error_step` for a step that cannot be run on another picture: a
#'   measure of one's own ([measure_by()]), or a mask combined with one of a field treated
#'   otherwise.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' done <- field |> filter_median(radius = 1) |> segment_auto(phase = "bright") |>
#'   find_objects() |> measure_objects() |> accept_objects(edge = "drop")
#' as_method(done, title = "Beads", objects = "beads")
#' @export
as_method <- function(x, title = "Untitled method", objects = "objects") {
  check_text(title, "title")
  check_text(objects, "objects")

  trail <- if (is.data.frame(x)) attr(x, "trail") else if (is.list(x)) x$trail
  if (is.null(trail)) {
    bm_abort("{.obj_type_friendly {x}} has no trail to make a method of.", "class")
  }
  steps <- Filter(function(entry) !entry$step %in% makes_fields, trail)
  check_replayable(steps)
  steps <- lapply(steps, function(entry) entry[c("step", "args")])
  if (length(steps) == 0) {
    bm_abort("Nothing has been done to this yet, so there is no method in its trail.", "empty")
  }

  new_method(check_steps(steps), title, objects)
}

# What belongs to the single picture: how it was got, and its scale.
makes_fields <- c("read_field", "as_field", "calibrate")

check_replayable <- function(steps, call = rlang::caller_env()) {
  for (entry in steps) {
    known <- entry$step %in% names(registered$steps)
    if (known) check_pattern_files(entry, call)
    if (known && !(entry$step == "mask_combine" && is.null(entry$args$other))) next
    bm_abort(
      c(
        "{.fn {entry$step}} cannot be a step of a method.",
        i = if (known) {
          "The other mask was made of a field treated otherwise: make both of the same field."
        } else {
          "Make the method before it, and do it to what the method gives."
        }
      ),
      "step", call = call
    )
  }
}

# A pattern that was never written down cannot be followed again.
check_pattern_files <- function(entry, call) {
  for (file in unlist(entry$args[registered$steps[[entry$step]]$patterns])) {
    if (file.exists(file)) next
    bm_abort(
      c(
        "{.fn {entry$step}} followed a pattern that is in no file.",
        i = "Write it by {.fn write_pattern}, and follow the file."
      ),
      "step", call = call
    )
  }
}

#' Read and write methods
#'
#' A method file is YAML: `bemrick: method 1`, `title`, `objects` (what they are called), if wanted
#' `report` (which `measures` the report shows beside the equivalent circle diameter, and its size
#' `classes`; see [render_report()]), and `steps`, a list of calls such as `- filter_median:
#' {radius: 2 px}`. Every step is the function of that name with those arguments; `null` stands for
#' "no limit". Unknown steps and arguments are refused with the nearest known name. Tables of hand
#' edits ([separate_cuts()], [join_objects()], [exclude_objects()]) are rows in the file, or the
#' path of a CSV file relative to it, whose rows are read with the method. Pictures of the light
#' ([filter_flatten()]) and patterns ([follow_pattern()]) are named by their path relative to the
#' method file as well.
#'
#' A whole method:
#' ```yaml
#' bemrick: method 1
#' title: Size of alumina beads
#' objects: beads
#' report: {measures: [feret_max, circularity], classes: 5 um}
#' steps:
#'   - trim_strip: {}
#'   - filter_median: {radius: 1 px}
#'   - segment_auto: {rule: otsu, phase: bright}
#'   - mask_open: {radius: 1.5 px}
#'   - separate_watershed: {depth: 5 %}
#'   - measure_objects: {}
#'   - accept_objects: {edge: drop, ecd: [5 um, null]}
#' ```
#' `bemrick steps` lists all steps with their arguments, `bemrick new method FILE` writes a
#' commented file to start from.
#'
#' @param file Path of the file.
#' @param method A `bm_method`.
#' @param replace Whether to overwrite an existing file.
#' @return `read_method()` gives a `bm_method`; `write_method()` the path, invisibly.
#' @examples
#' method <- read_method(system.file("extdata", "beads.method.yml", package = "bemrick"))
#' method
#' file <- tempfile(fileext = ".yml")
#' write_method(method, file)
#' @export
read_method <- function(file) {
  given <- read_yaml_file(file, "method", c("bemrick", "title", "objects", "report", "steps"))
  where <- paste0(" in ", basename(file))
  listed <- as.list(given$steps)  # steps written as words only come as a vector
  if (length(listed) == 0) {
    bm_abort("{.field steps}{where} must list at least one step.", "file_content")
  }
  steps <- lapply(seq_along(listed), function(k) {
    step <- listed[[k]]
    if (rlang::is_string(step)) step <- stats::setNames(list(list()), step)
    if (!is.list(step) || length(step) != 1 || is.null(names(step)) ||
        !(is.null(step[[1]]) || is.list(step[[1]]))) {
      bm_abort(c(
        "Step {k}{where} is not valid.",
        i = "Write for example {.code - filter_median: {{radius: 2 px}}}."
      ), "file_content")
    }
    args <- if (length(step[[1]])) lapply(step[[1]], missing_for_null) else list()
    args <- with_tables(args, names(step), dirname(file), k, where)
    list(step = names(step), args = with_files(args, names(step), dirname(file), k, where))
  })
  check_steps(steps, where)
  title <- if (rlang::is_string(given$title)) {
    given$title
  } else {
    sub("\\.method\\.ya?ml$|\\.ya?ml$", "", basename(file))
  }
  objects <- if (rlang::is_string(given$objects)) given$objects else "objects"

  new_method(
    steps, title, objects, basename(file), file_sha256(file),
    report_keys(given$report, steps, where)
  )
}

# What a method says of the report: list(measures, classes), each a vector or NULL.
report_keys <- function(given, steps, where, call = rlang::caller_env()) {
  if (is.null(given)) return(NULL)
  if (!is.list(given) || is.null(names(given))) {
    bm_abort(
      c(
        "{.field report}{where} is not valid.",
        i = "Write for example {.code report: {{measures: [feret_max], classes: 5 um}}}."
      ),
      "file_content", call = call
    )
  }
  check_known(names(given), c("measures", "classes"), "key", paste0(" of report", where), call)
  given <- lapply(given, unlist)
  if (!is.null(given$measures)) {
    check_texts(given$measures, paste0("measures of report", where), call = call)
  }
  for (measure in given$measures) {
    check_known(measure, names(measure_table), "measure", paste0(" of report", where), call)
    if (!is_measured(measure, steps)) {
      bm_abort(
        c(
          "{.field report}{where} names {.field {measure}}, which the steps do not measure.",
          i = "See the arguments of {.fn measure_objects}."
        ),
        "file_content", call = call
      )
    }
  }
  given
}

# Tables named by their path, relative to the method, become their rows.
with_tables <- function(args, step, folder, k, where, call = rlang::caller_env()) {
  for (name in intersect(names(args), registered$steps[[step]]$tables)) {
    path <- args[[name]]
    if (!rlang::is_string(path)) next
    if (!grepl("^(/|[A-Za-z]:)", path)) path <- file.path(folder, path)
    rows <- tryCatch(read_sheet_file(path, hand_numbers), bemrick_error = function(e) {
      bm_abort(
        c(
          "{.field {name}} of {.field {step}} (step {k}{where}) cannot be read.",
          i = "Its path is relative to the method file."
        ),
        "file", parent = e, call = call
      )
    })
    args[[name]] <- lines_as_data(rows)
  }
  args
}

# Pictures and patterns named by their path, relative to the method, are there and can be read.
with_files <- function(args, step, folder, k, where, call = rlang::caller_env()) {
  for (name in intersect(names(args), file_arguments(step))) {
    path <- args[[name]]
    if (!rlang::is_string(path)) next
    if (!grepl("^(/|[A-Za-z]:)", path)) path <- file.path(folder, path)
    tryCatch(check_named_file(path, name, step), bemrick_error = function(e) {
      bm_abort(
        c(
          "{.field {name}} of {.field {step}} (step {k}{where}) cannot be read.",
          i = "Its path is relative to the method file."
        ),
        "file", parent = e, call = call
      )
    })
    args[[name]] <- normalizePath(path, "/")
  }
  args
}

file_arguments <- function(step) {
  unlist(registered$steps[[step]][c("pictures", "patterns")], use.names = FALSE)
}

check_named_file <- function(path, name, step) {
  if (name %in% registered$steps[[step]]$patterns) read_pattern(path)
  else picture_header(check_file(path))
}

# Path and hash of every picture and pattern that steps name.
files_of <- function(steps) {
  paths <- unlist(lapply(steps, function(s) {
    s$args[intersect(names(s$args), file_arguments(s$step))]
  }))
  lapply(unname(paths), function(path) list(path = path, sha256 = file_sha256(path)))
}

# The images that rows of hand edits name.
edited_images <- function(method) {
  tables <- lapply(method$steps, function(s) s$args[registered$steps[[s$step]]$tables])
  rows <- unlist(unlist(tables, recursive = FALSE), recursive = FALSE)
  unique(unlist(lapply(unname(rows), function(row) if (is.list(row)) row[["image"]])))
}

# A list such as ["2 um", null] becomes c("2 um", NA); lists of lists and named ones stay.
missing_for_null <- function(x) {
  single <- is.list(x) && is.null(names(x)) && !any(vapply(x, is.list, NA)) && all(lengths(x) <= 1)
  if (!single) return(x)
  x[vapply(x, is.null, NA)] <- NA
  unlist(x)
}

#' @rdname read_method
#' @export
write_method <- function(method, file, replace = FALSE) {
  check_class(method, "bm_method", "method", "Make one with {.fn as_method}.")
  steady_session()
  write_yaml_file(method_content(method), file, replace)
}

method_content <- function(method) {
  empty <- structure(list(), names = character())
  c(
    list(bemrick = "method 1", title = method$title, objects = method$objects),
    if (!is.null(method$report)) list(report = method$report),
    list(steps = lapply(
      method$steps, function(s) stats::setNames(list(if (length(s$args)) s$args else empty), s$step)
    ))
  )
}

#' Apply a method to a field
#'
#' @param field A `bm_field`, calibrated when the method's arguments carry length units.
#' @param method A `bm_method`, or the path of a method file.
#' @return What the last step gives, usually a `bm_measures`.
#' @section Errors: An error in a step is raised again with the number and name of the step.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(
#'   field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' @export
apply_method <- function(field, method) {
  check_field(field)
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.")

  x <- field
  for (k in seq_along(method$steps)) {
    step <- method$steps[[k]]
    x <- tryCatch(
      run_step(x, step$step, step$args),
      bemrick_error = function(e) {
        bm_abort(
          "Step {k} of the method, {.field {step$step}}, failed.", "step", parent = e, call = NULL
        )
      }
    )
  }
  x
}
