# Running a method over a batch: one field at a time, a faulty one reported and the rest gone on
# with.

#' Run a method over a batch
#'
#' Reads, calibrates and measures every image of a batch list, judges the samples when a
#' specification is given, and writes a results folder when `out` is given. A field that cannot be
#' read or measured is listed as faulty with its reason; the others are not touched by it.
#'
#' The results folder is written beside and renamed when complete: a table for each kind of rows
#' that the method measures (`objects.csv`, `finds.csv`, `widths.csv`, `thickness.csv`),
#' `fields.csv`, `samples.csv`, `grey_levels.csv`, with a specification `verdicts.csv`,
#' `batches.csv`, `budget.csv` and, where limits are per field, `pictures.csv`; `run.json` (method,
#' specification, where each picture lies, hashes, versions, times), `outlines/*.geojson` and
#' `overlays/*.jpg`.
#'
#' @param list Path of a batch list, or a tibble from [read_batch_list()].
#' @param method A `bm_method` or the path of a method file; rows of the list may name another.
#' @param spec A `bm_spec`, the path of a specification file, or `NULL`.
#' @param out Folder to write, or `NULL` to write nothing. It must not exist, or be empty. While the
#'   run works, `out.part` holds its unfinished results and keeps other runs out; what a killed run
#'   has left there is cleared with a warning.
#' @param replace Whether a results folder of an earlier run may be replaced. It is, once the new
#'   results are complete.
#' @param on_field Function called after each field with its row of the table of fields (of every
#'   branch, where the method has them), for progress.
#' @param unit Unit of the results: `"nm"`, `"um"`, `"mm"` or `"in"`; `NULL` takes that of the
#'   calibrations, and the smallest where they differ.
#' @return A `bm_run`: `objects`, `finds`, `widths`, `thickness` (`NULL` where the method measures
#'   none), `fields`, `histograms` (tibbles; with a column `branch` where the method has branches),
#'   `verdict` (a `bm_verdict` or `NULL`), `provenance`.
#' @section Errors: Class `bemrick_error_exists` when `out` holds something else,
#'   `bemrick_error_locked` when another run is writing to it, `bemrick_error_file` and
#'   `bemrick_error_file_content` for folders, lists, methods and specifications that cannot be
#'   used: all before work begins. `bemrick_error_write` when the disk is full; earlier results are
#'   then untouched.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), file.path(
#'   lab, "beads.spec.yml"
#' ))
#' @export
run_batch <- function(
  list, method, spec = NULL, out = NULL, replace = FALSE, on_field = NULL, unit = NULL
) {
  started <- Sys.time()
  steady_session()
  check_flag(replace, "replace")
  if (!is.null(on_field) && !is.function(on_field)) {
    bm_abort(
      "{.arg on_field} must be a function or NULL, not {.obj_type_friendly {on_field}}.", "argument"
    )
  }
  if (rlang::is_string(list)) list <- read_batch_list(list)
  if (!is.data.frame(list) || !all(c(batch_columns, optional_columns) %in% names(list))) {
    bm_abort("{.arg list} must be a batch list.", "class")
  }
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.")
  if (rlang::is_string(spec)) spec <- read_spec(spec)
  if (!is.null(spec)) {
    check_class(spec, "bm_spec", "specification", "Read one with {.fn read_spec}.")
  }
  methods <- methods_of(list, method)
  kinds <- kinds_of_methods(methods)
  if (!is.null(spec)) spec <- check_measured(spec, methods, kinds)
  warn_of_other_images(unique(methods), list)
  calibrations <- calibrations_of(list)
  unit <- one_unit(calibrations, unit)
  if (!is.null(out)) {
    out <- check_results_folder(out, replace)
    staging <- claim_results(out, replace)
    on.exit(release_results(staging))
    names <- split(field_file_names(places_of_list(list, kinds)), rep(
      seq_len(nrow(list)), each = length(kinds)
    ))
  }
  reader <- apart_reader()
  on.exit(reader$close(), add = TRUE)

  done <- lapply(seq_len(nrow(list)), function(k) {
    row <- list[k, ]
    result <- run_field(row, methods[[k]], calibrations[[k]], unit, reader)
    if (!is.null(out)) write_tables_files(result$tables, row, names[[k]], staging)
    if (!is.null(on_field)) on_field(result$fields)
    result[names(result) != "tables"]
  })
  collect <- function(part) bind_tables(lapply(done, function(d) d[[part]]))
  branched <- !identical(names(kinds), "")
  rows <- lapply(stats::setNames(nm = c("objects", unique(kinds))), function(kind) {
    collect(kind) %||% no_rows(kind, unit, branched)
  })
  run <- new_run(
    rows, collect("fields"), collect("histograms") %||% no_histogram(branched), unit, NULL,
    method, kinds = kinds
  )
  warn_of_phases(run, methods)
  if (!is.null(spec)) run$verdict <- judge(run, spec)
  run$provenance <- provenance_of(list, methods, calibrations, spec, started)
  if (!is.null(out)) {
    run$provenance$pictures <- pictures_of_list(list, methods, run$provenance$methods, staging)
    write_run(run, staging)
    publish_results(staging, out, replace)
    run$dir <- out
  }
  run
}

# A phase chosen field by field may be the objects in one and the ground in the next.
warn_of_phases <- function(run, methods) {
  for (branch in names(run$kinds)) {
    chosen <- vapply(methods, function(m) {
      any(vapply(chain_of(m, branch), function(s) identical(s$args$phase, "auto"), NA))
    }, NA)
    fields <- part_of_run(run, branch)$fields[chosen, ]
    measured <- fields[fields$status == "measured" & fields$phase %in% c("bright", "dark"), ]
    counts <- table(measured$phase)
    if (length(counts) < 2) next
    bm_warn(
      c(
        "Objects are bright in {counts[['bright']]} field{?s} and dark in {counts[['dark']]}.",
        i = "Where that is not meant, set {.code phase} in the method."
      ),
      "phases"
    )
  }
}

# The methods of the rows may differ, but not in what tables they end in.
kinds_of_methods <- function(methods, call = rlang::caller_env()) {
  kinds <- unique(lapply(unique(methods), kinds_of))
  if (length(kinds) == 1) return(ifelse(is.na(kinds[[1]]), "objects", kinds[[1]]))
  bm_abort(
    c(
      "The methods of this list do not all have the same branches.",
      i = "Run those that differ as batches of their own."
    ),
    "file_content", call = call
  )
}

# Which fields, and which branches of each, there will be results of.
places_of_list <- function(list, kinds) {
  places <- list[rep(seq_len(nrow(list)), each = length(kinds)), id_columns]
  if (!identical(names(kinds), "")) places$branch <- rep(names(kinds), nrow(list))
  places
}

methods_of <- function(list, method) {
  own <- unique(list$method[!is.na(list$method)])
  read <- stats::setNames(lapply(own, read_method), own)
  lapply(list$method, function(file) if (is.na(file)) method else read[[file]])
}

# Hand edits of a picture that is not in the list are more likely misspelt than meant for later.
warn_of_other_images <- function(methods, list) {
  named <- setdiff(as.character(unlist(lapply(methods, edited_images))), NA)
  strange <- named[!tolower(basename(named)) %in% tolower(basename(list$image))]
  if (length(strange)) {
    bm_warn(
      c(
        "The method has hand edits of {length(strange)} image{?s} that {?is/are} not in the list:
         {.file {strange}}.",
        i = "They change nothing in this run."
      ),
      "hand"
    )
  }
}

# The calibration of every row; "tags" stays a word until its image is read.
calibrations_of <- function(list) {
  files <- unique(list$calibration[!is.na(list$calibration) & list$calibration != "tags"])
  read <- stats::setNames(lapply(files, function(file) {
    calibration <- read_calibration(file)
    calibration$file <- basename(file)
    calibration$sha256 <- file_sha256(file)
    calibration
  }), files)
  lapply(
    list$calibration,
    function(file) if (is.na(file)) NULL else if (file == "tags") "tags" else read[[file]]
  )
}

# All fields of a run are measured in one unit, so that their tables can be put together: the one
# that is asked for, else the smallest that their calibrations have. Tags fit any unit.
one_unit <- function(calibrations, unit = NULL, call = rlang::caller_env()) {
  if (!is.null(unit)) check_choice(unit, "unit", names(length_in_um), call)
  of_tags <- vapply(calibrations, identical, NA, "tags")
  found <- unique(vapply(calibrations[!of_tags], function(c) if (is.null(c)) "px" else c$unit, ""))
  if ("px" %in% found && (length(found) > 1 || any(of_tags))) {
    bm_abort(
      c(
        "Some images of this list have a calibration and some have none.",
        i = "Give every image a calibration, or none."
      ),
      "calibration", call = call
    )
  }
  if ("px" %in% found && !is.null(unit)) {
    bm_abort(
      "Without calibrations nothing can be measured in {.val {unit}}.", "calibration", call = call
    )
  }
  if (!is.null(unit)) return(unit)
  if (length(found) == 0) return("um")
  if ("px" %in% found) "px" else found[which.min(length_in_um[found])]
}

# What a field leaves in the results folder while its pixels are at hand.
write_tables_files <- function(tables, row, names, staging) {
  for (k in which(!vapply(tables, is.null, NA))) {
    branch <- names(tables)[k]
    title <- paste0(basename(row$image), if (branch != "") ": ", branch)
    overlay <- file.path(staging, "overlays", paste0(names[k], ".jpg"))
    kind <- kind_of_rows(tables[[k]])
    if (kind != "objects") {
      save_rows(tables[[k]], overlay, title)
      next
    }
    outlines <- outlines_of(tables[[k]])
    write_outlines(
      tables[[k]], file.path(staging, "outlines", paste0(names[k], ".geojson")), outlines
    )
    save_overlay(tables[[k]], overlay, title, outlines)
  }
}
