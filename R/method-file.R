# Method files: read word by word, and written.

method_keys <- c("bemrick", "title", "objects", "report", "steps", "branches")

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
#' A method may end in named branches: `steps` are then done once, and each of `branches` goes on
#' from there to a table of its own. Limits of a specification name a branch by `branch` where
#' several could be meant.
#' ```yaml
#' steps:
#'   - filter_gaussian: {sigma: 1 px}
#' branches:
#'   clips:
#'     - locate_pattern: {pattern: clip.pattern.yml, score: 0.7}
#'   pores:
#'     - segment_auto: {phase: dark}
#'     - find_objects: {}
#'     - measure_objects: {}
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
  given <- read_yaml_file(file, "method", method_keys)
  method_of_content(given, basename(file), file_sha256(file), dirname(file))
}

# What a file says as a method; paths in it are seen from `folder`.
method_of_content <- function(given, name, sha256, folder) {
  where <- paste0(" in ", name)
  branched <- !is.null(given$branches)
  if (length(given$steps) == 0 && !branched) {
    bm_abort("{.field steps}{where} must list at least one step.", "file_content")
  }
  steps <- read_steps(given$steps, folder, where)
  branches <- if (branched) read_branches(given$branches, folder, where)
  title <- if (rlang::is_string(given$title)) {
    given$title
  } else {
    sub("\\.method\\.ya?ml$|\\.ya?ml$", "", name)
  }
  objects <- if (rlang::is_string(given$objects)) given$objects else "objects"
  check_steps(steps, where)
  method <- new_method(steps, title, objects, name, sha256, branches = branches)
  check_branches(method, where)
  method["report"] <- list(report_keys(given$report, chains_of(method), where))

  method
}

read_branches <- function(given, folder, where, call = rlang::caller_env()) {
  if (!is.list(given) || !rlang::is_named(given)) {
    bm_abort(
      c(
        "{.field branches}{where} must hold named lists of steps.",
        i = "Write for example {.code branches: {{beads: [segment_auto, ...], pores: [...]}}}."
      ),
      "file_content", call = call
    )
  }
  check_branch_names(names(given), where, call)
  Map(function(steps, name) {
    read_steps(steps, folder, paste0(" of branch ", name, where), call)
  }, given, names(given))
}

# Steps written as words only come as a vector.
read_steps <- function(given, folder, where, call = rlang::caller_env()) {
  listed <- as.list(given)
  lapply(seq_along(listed), function(k) {
    step <- listed[[k]]
    if (rlang::is_string(step)) step <- stats::setNames(list(list()), step)
    if (!is.list(step) || length(step) != 1 || is.null(names(step)) ||
        !(is.null(step[[1]]) || is.list(step[[1]]))) {
      bm_abort(c(
        "Step {k}{where} is not valid.",
        i = "Write for example {.code - filter_median: {{radius: 2 px}}}."
      ), "file_content", call = call)
    }
    args <- if (length(step[[1]])) lapply(step[[1]], missing_for_null) else list()
    args <- with_tables(args, names(step), folder, k, where, call)
    list(step = names(step), args = with_files(args, names(step), folder, k, where, call))
  })
}

# What a method says of the report: list(measures, classes), each a vector or NULL.
report_keys <- function(given, chains, where, call = rlang::caller_env()) {
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
    if (!any(vapply(chains, is_measured, NA, measure = measure))) {
      bm_abort(
        c(
          "{.field report}{where} names {.field {measure}}, which the steps do not measure.",
          i = "It comes from {.code {measured_by(measure)}}."
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

check_named_file <- function(path, name, step) {
  if (name %in% registered$steps[[step]]$patterns) read_pattern(path)
  else picture_header(check_file(path))
}

# The images that rows of hand edits name.
edited_images <- function(method) {
  steps <- c(method$steps, unlist_steps(method$branches))
  tables <- lapply(steps, function(s) s$args[registered$steps[[s$step]]$tables])
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
  content <- function(steps) {
    lapply(steps, function(s) {
      stats::setNames(list(if (length(s$args)) s$args else empty), s$step)
    })
  }
  c(
    list(bemrick = "method 1", title = method$title, objects = method$objects),
    if (!is.null(method$report)) list(report = method$report),
    if (length(method$steps)) list(steps = content(method$steps)),
    if (!is.null(method$branches)) list(branches = lapply(method$branches, content))
  )
}
