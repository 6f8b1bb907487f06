# Methods: the lab's written procedure, as a file and as something to run.

new_method <- function(steps, title, objects, file = NULL, sha256 = NULL) {
  structure(list(title = title, objects = objects, steps = steps, file = file, sha256 = sha256), class = "bm_method")
}

#' Make a method of what was done
#'
#' Takes the steps from the trail of an object, so that what was done by hand once can be written down and run
#' on any other picture. Reading and calibrating are not steps: they belong to the single picture.
#'
#' @param x A field, mask, set of objects or table of measures.
#' @param title What the method is for, in words.
#' @param objects What the objects are called in reports, such as `"pores"`.
#' @return A `bm_method`.
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
  if (is.null(trail)) bm_abort("{.obj_type_friendly {x}} has no trail to make a method of.", "class")
  steps <- Filter(function(entry) entry$step %in% names(step_registry()), trail)
  steps <- lapply(steps, function(entry) entry[c("step", "args")])
  if (length(steps) == 0) bm_abort("Nothing has been done to this yet, so there is no method in its trail.", "empty")
  new_method(check_steps(steps), title, objects)
}

#' Read and write methods
#'
#' A method file is YAML: `bemrick: method 1`, `title`, `objects` (what they are called) and `steps`, a list
#' of calls such as `- filter_median: {radius: 2 px}`. Every step is the function of that name with those
#' arguments; `null` stands for "no limit". Unknown steps and arguments are refused with the nearest known
#' name.
#'
#' @param file Path of the file.
#' @param method A `bm_method`.
#' @param replace Whether a file that is there may be written over.
#' @return `read_method()` gives a `bm_method`; `write_method()` the path, invisibly.
#' @examples
#' method <- read_method(system.file("extdata", "beads.method.yml", package = "bemrick"))
#' method
#' file <- tempfile(fileext = ".yml")
#' write_method(method, file)
#' @export
read_method <- function(file) {
  given <- read_yaml_file(file, "method", c("bemrick", "title", "objects", "steps"))
  where <- paste0(" in ", basename(file))
  listed <- as.list(given$steps)  # steps written as words only come as a vector
  if (length(listed) == 0) bm_abort("{.field steps}{where} must list at least one step.", "file_content")
  steps <- lapply(seq_along(listed), function(k) {
    step <- listed[[k]]
    if (rlang::is_string(step)) step <- stats::setNames(list(list()), step)
    if (!is.list(step) || length(step) != 1 || is.null(names(step)) || !(is.null(step[[1]]) || is.list(step[[1]]))) {
      bm_abort(c(
        "Step {k}{where} is not valid.",
        i = "Write for example {.code - filter_median: {{radius: 2 px}}}."
      ), "file_content")
    }
    list(step = names(step), args = if (length(step[[1]])) lapply(step[[1]], missing_for_null) else list())
  })
  check_steps(steps, where)
  title <- if (rlang::is_string(given$title)) given$title else sub("\\.method\\.ya?ml$|\\.ya?ml$", "", basename(file))
  objects <- if (rlang::is_string(given$objects)) given$objects else "objects"
  new_method(steps, title, objects, basename(file), file_sha256(file))
}

# A list such as ["2 um", null] becomes c("2 um", NA); lists of lists and named ones stay.
missing_for_null <- function(x) {
  if (!is.list(x) || !is.null(names(x)) || any(lengths(x) > 1)) return(x)
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
  list(
    bemrick = "method 1", title = method$title, objects = method$objects,
    steps = lapply(method$steps, function(s) stats::setNames(list(if (length(s$args)) s$args else empty), s$step))
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
#' field <- calibrate(field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick"))
#' apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' @export
apply_method <- function(field, method) {
  check_field(field)
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.")
  registry <- step_registry()
  x <- field
  for (k in seq_along(method$steps)) {
    step <- method$steps[[k]]
    x <- tryCatch(
      do.call(registry[[step$step]]$run, c(list(x), step$args)),
      bemrick_error = function(e) {
        bm_abort("Step {k} of the method, {.field {step$step}}, failed.", "step", parent = e, call = NULL)
      }
    )
  }
  x
}
