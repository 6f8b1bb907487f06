# Running a method over a batch: one field at a time, a faulty one reported and the rest gone on with.

new_run <- function(objects, fields, histograms, unit, provenance, method, verdict = NULL) {
  structure(
    list(objects = objects, fields = fields, histograms = histograms, unit = unit,
         provenance = provenance, method = method, verdict = verdict),
    class = "bm_run"
  )
}

#' Run a method over a batch
#'
#' Reads, calibrates and measures every image of a batch list, judges the samples when a specification is given,
#' and writes a results folder when `out` is given. A field that cannot be read or measured is listed as
#' faulty with its reason; the others are not touched by it.
#'
#' The results folder is written beside and renamed when complete: `objects.csv`, `fields.csv`, `samples.csv`,
#' `verdicts.csv`, `histograms.csv`, `run.json` (method, specification, hashes, versions, times),
#' `outlines/*.geojson` and `overlays/*.png`.
#'
#' @param list Path of a batch list, or a tibble from [read_batch_list()].
#' @param method A `bm_method` or the path of a method file; rows of the list may name another.
#' @param spec A `bm_spec`, the path of a specification file, or `NULL`.
#' @param out Folder to write, or `NULL` to write nothing. It must not exist, or be empty. While the run works, `out.part` holds
#'   its unfinished results and keeps other runs out; what a killed run has left there is cleared with a warning.
#' @param replace Whether a results folder of an earlier run may be replaced. It is, once the new results are complete.
#' @param on_field Function called after each field with its row of the table of fields, for progress.
#' @return A `bm_run`: `objects`, `fields`, `histograms` (tibbles), `verdict` (a `bm_verdict` or `NULL`),
#'   `provenance`.
#' @section Errors: Class `bemrick_error_exists` when `out` holds something else, `bemrick_error_locked` when another run is
#'   writing to it, `bemrick_error_file` and `bemrick_error_file_content` for folders, lists, methods and specifications that
#'   cannot be used: all before work begins. `bemrick_error_write` when the disk is full; earlier results are then untouched.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), file.path(lab, "beads.spec.yml"))
#' @export
run_batch <- function(list, method, spec = NULL, out = NULL, replace = FALSE, on_field = NULL) {
  started <- Sys.time()
  steady_session()
  check_flag(replace, "replace")
  if (!is.null(on_field) && !is.function(on_field)) {
    bm_abort("{.arg on_field} must be a function or NULL, not {.obj_type_friendly {on_field}}.", "argument")
  }
  if (rlang::is_string(list)) list <- read_batch_list(list)
  if (!is.data.frame(list) || !all(c(batch_columns, optional_columns) %in% names(list))) {
    bm_abort("{.arg list} must be a batch list.", "class")
  }
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.")
  if (rlang::is_string(spec)) spec <- read_spec(spec)
  if (!is.null(spec)) check_class(spec, "bm_spec", "specification", "Read one with {.fn read_spec}.")
  methods <- methods_of(list, method)
  if (!is.null(spec)) check_measured(spec, methods)
  calibrations <- calibrations_of(list)
  unit <- one_unit(calibrations)
  if (!is.null(out)) {
    out <- check_results_folder(out, replace)
    staging <- claim_results(out, replace)
    on.exit(release_results(staging))
    names <- field_file_names(list)
  }
  reader <- apart_reader()
  on.exit(reader$close(), add = TRUE)

  done <- lapply(seq_len(nrow(list)), function(k) {
    row <- list[k, ]
    result <- run_field(row, methods[[k]], calibrations[[k]], unit, reader)
    if (!is.null(out) && !is.null(result$measures)) write_field_files(result, row, names[k], staging)
    if (!is.null(on_field)) on_field(result$field)
    result[c("objects", "field", "histogram")]
  })
  collect <- function(part) do.call(rbind, lapply(done, function(d) d[[part]]))
  run <- new_run(
    collect("objects") %||% no_objects(unit), collect("field"), collect("histogram") %||% no_histogram(), unit, NULL, method
  )
  if (!is.null(spec)) run$verdict <- judge(run, spec)
  run$provenance <- provenance_of(list, methods, calibrations, spec, started)
  if (!is.null(out)) {
    write_run(run, staging)
    publish_results(staging, out, replace)
  }
  run
}

methods_of <- function(list, method) {
  own <- unique(list$method[!is.na(list$method)])
  read <- stats::setNames(lapply(own, read_method), own)
  lapply(list$method, function(file) if (is.na(file)) method else read[[file]])
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
  lapply(list$calibration, function(file) if (is.na(file)) NULL else if (file == "tags") "tags" else read[[file]])
}

# All fields of a run are measured in one unit, so that their tables can be put together. Tags fit any unit.
one_unit <- function(calibrations, call = rlang::caller_env()) {
  of_tags <- vapply(calibrations, identical, NA, "tags")
  units <- unique(vapply(calibrations[!of_tags], function(c) if (is.null(c)) "px" else c$unit, ""))
  if (length(units) == 0) return("um")
  if (length(units) > 1 || (any(of_tags) && units == "px")) {
    shown <- c(units, if (any(of_tags)) "tags")
    bm_abort(c("The calibrations of this list use different units: {.val {shown}}.",
               i = "Write them all in one unit, and give every image a calibration or none."), "calibration", call = call)
  }
  units
}

# list(field = one row, objects, histogram, measures); measures is NULL for a faulty field.
run_field <- function(row, method, calibration, unit, reader) {
  started <- proc.time()[["elapsed"]]
  warned <- character()
  measures <- tryCatch(withCallingHandlers({
    field <- reader$read(row$image, if (!is.na(row$page)) row$page, if (is.na(row$channel)) "luminance" else row$channel)
    if (identical(calibration, "tags")) calibration <- in_unit(calibration_from_tags(field), unit)
    if (!is.null(calibration)) field <- calibrate(field, calibration, if (!is.na(row$magnification)) row$magnification)
    measures <- apply_method(field, method)
    if (!inherits(measures, "bm_measures")) bm_abort("The method ends without {.fn measure_objects}.", "step_order")
    measures
  }, warning = function(w) warned <<- c(warned, one_line(w))), error = function(e) e)
  warned <- paste(warned, collapse = " ")
  seconds <- proc.time()[["elapsed"]] - started
  if (inherits(measures, "error")) {
    return(list(field = field_row(row, status = "faulty", reason = one_line(measures), warned = warned, seconds = seconds)))
  }
  id <- tibble::tibble(batch = row$batch, sample = row$sample, field = row$field)
  objects <- tibble::as_tibble(unclass_measures(measures))
  mask <- attr(measures, "objects")$mask
  list(
    field = measured_row(row, measures, mask, seconds, warned),
    objects = if (nrow(objects) > 0) tibble::tibble(id, objects),
    histogram = tibble::tibble(id, display_histogram(mask$field)),
    measures = measures
  )
}

one_line <- function(e) {
  if (is_out_of_memory(e)) return("There is not enough memory to measure it.")
  lines <- rlang::cnd_message(e, inherit = TRUE)
  gsub("\\s+", " ", cli::ansi_strip(gsub("[\u2139\u2716\u2022] ", "", lines)))
}

# One row of fields.csv; what a faulty field does not have stays NA.
field_row <- function(row, status, seconds, reason = "", warned = "", source = NULL, width = NA, height = NA,
                      pixel = c(NA, NA), scale = NULL, area = NA, fraction = NA, fraction_error = NA, found = NA,
                      accepted = NA, accepted_weight = NA, level = "", strip = NA, by_hand = "") {
  tibble::tibble(
    batch = row$batch, sample = row$sample, field = row$field, image = basename(row$image), status = status, reason = reason,
    warnings = warned,
    width_px = as.integer(width), height_px = as.integer(height), strip_px = as.integer(strip),
    pixel_x_um = as.numeric(pixel[1]), pixel_y_um = as.numeric(pixel[2]),
    calibration = if (is.null(scale)) "" else scale$file %||% scale$found,
    calibration_uncertainty = if (is.null(scale)) 0 else scale$uncertainty,
    area_um2 = as.numeric(area), area_fraction = as.numeric(fraction),
    area_fraction_level_uncertainty = as.numeric(fraction_error), level = level,
    found = as.integer(found), accepted = as.integer(accepted), accepted_weight = as.numeric(accepted_weight),
    by_hand = by_hand, seconds = round(seconds, 2), sha256 = if (is.null(source)) "" else source$sha256
  )
}

measured_row <- function(row, measures, mask, seconds, warned = "") {
  field <- mask$field
  calibration <- field$calibration
  size <- field_pixel(field)
  to_um <- if (is.null(calibration)) NA else unit_ratio(calibration$unit, "um")
  strip <- decision(field$trail, "trim_strip")
  field_row(
    row, "measured", source = field$source, width = ncol(field$pixels), height = nrow(field$pixels), pixel = size * to_um,
    scale = calibration,
    area = sample_size(field) * prod(size) * to_um^2, fraction = area_fraction(mask),
    fraction_error = area_fraction_error(mask),
    found = nrow(measures), accepted = sum(measures$accepted), accepted_weight = sum(measures$weight),
    level = paste(mask_levels(mask), collapse = " "), strip = if (is.null(strip)) 0 else strip$pixels, seconds = seconds,
    by_hand = hand_edits(measures)
  )
}

# What was cut, joined or left out by hand, in words.
hand_edits <- function(measures) {
  lines <- function(step) decision(attr(measures, "trail"), step)$lines %||% 0
  said <- c(cut = lines("separate_cuts"), joined = lines("join_objects"),
            "left out" = sum(startsWith(measures$reason, "by hand:")))
  said <- said[said > 0]
  if (length(said) == 0) return("")
  paste0(measure_file(measures), ": ", paste(said, names(said), collapse = ", "))
}

measure_file <- function(measures) attr(measures, "objects")$mask$field$source$file %||% "field"

# At most 256 classes, enough to see the shape of a 16-bit histogram.
display_histogram <- function(field) {
  counts <- level_counts(field)
  width <- length(counts) / 256
  tibble::tibble(from = (0:255) * width, to = (1:256) * width, count = colSums(matrix(counts, ncol = 256)))
}

no_objects <- function(unit) {
  columns <- c("ecd", "area")
  empty <- stats::setNames(rep(list(numeric()), 2), vapply(columns, measure_column, "", unit = unit))
  tibble::tibble(batch = character(), sample = character(), field = character(), id = integer(), !!!empty,
                 accepted = logical(), reason = character(), weight = numeric())
}

no_histogram <- function() {
  tibble::tibble(
    batch = character(), sample = character(), field = character(), from = numeric(), to = numeric(), count = numeric()
  )
}

# Measures of one field as a run of one sample, for judge().
run_of_one <- function(measures) {
  mask <- attr(measures, "objects")$mask
  source <- mask$field$source
  row <- tibble::tibble(batch = "1", sample = "1", field = "1", image = if (is.null(source)) "field" else source$file)
  id <- row[c("batch", "sample", "field")]
  new_run(
    tibble::tibble(id, unclass_measures(measures)), measured_row(row, measures, mask, 0),
    tibble::tibble(id, display_histogram(mask$field)), field_unit(mask$field), NULL, NULL
  )
}
