# Outlines for other programs: GeoJSON in lengths.

#' Write outlines for other programs
#'
#' GeoJSON (RFC 7946) with one feature per object: its number as `id`, `accepted` and `reason` as
#' properties, holes as inner rings, a MultiPolygon for an object in several pieces. Coordinates are
#' lengths from the top left corner of the picture, x to the right, y down, to a thousandth of a
#' pixel; the file says their `unit`. The files in `outlines/` of a results folder are the same in
#' pixels.
#'
#' @param measures A `bm_measures`; on a tilted plane, outlines are taken to the plane.
#' @param file Path of the file to write.
#' @param unit `"nm"`, `"um"`, `"mm"` or `"in"`; by default the unit of the measures.
#' @param replace Whether to overwrite an existing file.
#' @param run A `bm_run` with a results folder, as from [read_run()], or the folder's path.
#' @param dir Folder to make, with a file for every field; it must not exist, or be empty.
#' @return The path, invisibly.
#' @section Errors: Class `bemrick_error_no_calibration` for what was measured in pixels,
#'   `bemrick_error_plane` for runs on tilted planes, whose maps are not in the results,
#'   `bemrick_error_exists` for what is there already, `bemrick_error_argument` for a run without
#'   objects.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' export_outlines(out, file.path(dir, "for-the-customer"), unit = "mm")
#' write_outlines(measures_of(read_run(out), field = 1), file.path(dir, "one.geojson"))
#' @export
write_outlines <- function(measures, file, unit = NULL, replace = FALSE) {
  steady_session()
  check_measures(measures)
  check_target(file, replace)
  field <- field_of_rows(measures)
  scale <- field$calibration
  if (is.null(scale)) no_lengths("These objects")
  unit <- check_choice(unit %||% scale$unit, "unit", names(length_in_um))
  outlines <- outlines_of(measures)
  on_plane <- points_on_plane(field, outlines$x_px, outlines$y_px)
  outlines$x_px <- on_plane$x * unit_ratio(scale$unit, unit)
  outlines$y_px <- on_plane$y * unit_ratio(scale$unit, unit)
  save_in_lengths(measures, outlines, file, unit, field_pixel_in(field, unit), replace)
}

# The mean size of a pixel, also of a tilted plane.
field_pixel_in <- function(field, unit) {
  corners <- points_on_plane(field, c(0, ncol(field$pixels)), c(0, nrow(field$pixels)))
  sqrt(diff(corners$x)^2 + diff(corners$y)^2) / sqrt(sum(dim(field$pixels)^2)) *
    unit_ratio(field$calibration$unit, unit)
}

# Decimals reach to a thousandth of a pixel.
save_in_lengths <- function(rows, outlines, file, unit, pixel, replace) {
  decimals <- min(9, max(0, ceiling(-log10(pixel / 1000))))
  write_features(
    file, function(put) put(outline_features(rows, outlines, decimals)), unit, replace
  )
  invisible(file)
}

no_lengths <- function(what, call = rlang::caller_env()) {
  bm_abort(
    c(
      "{what} were measured in pixels, which have no lengths.",
      i = "Calibrate the pictures and measure again."
    ),
    "no_calibration", call = call
  )
}

#' @rdname write_outlines
#' @export
export_outlines <- function(run, dir, unit = NULL) {
  steady_session()
  if (rlang::is_string(run)) run <- read_run(run)
  check_class(run, "bm_run", "run", "Read one with {.fn read_run}.")
  check_empty_folder(dir)
  if (is.null(run$dir)) {
    bm_abort(
      c("This run has no results folder.", i = "Run the batch with {.arg out}."), "argument"
    )
  }
  if (run$unit == "px") no_lengths("The objects of this run")
  unit <- check_choice(unit %||% run$unit, "unit", names(length_in_um))
  branches <- names(run$kinds)[run$kinds == "objects"]
  if (length(branches) == 0) {
    bm_abort("This run has no objects, only {unique(run$kinds)}.", "argument")
  }
  parts <- lapply(branches, function(name) part_of_run(run, name))
  for (part in parts) check_flat_fields(part)
  make_folder(dir)
  for (part in parts) export_part(part, dir, unit)
  invisible(dir)
}

check_flat_fields <- function(run, call = rlang::caller_env()) {
  measured <- run$fields$status == "measured"
  tilted <- measured & is.na(run$fields$pixel_x_um)
  if (!any(tilted)) return(invisible())
  bm_abort(
    c(
      "{.file {run$fields$image[tilted][1]}} shows a tilted plane, and its map is not in the
       results.",
      i = "Use {.fn rectify_field} in the method and measure it again."
    ),
    "plane", call = call
  )
}

export_part <- function(run, dir, unit) {
  names <- files_of_run(run)
  for (k in which(run$fields$status == "measured")) {
    row <- run$fields[k, ]
    rows <- rows_where(run, function(table) own_rows(table, row))
    outlines <- outlines_of_field(run, names[k], rows)
    pixel <- c(row$pixel_x_um, row$pixel_y_um) * unit_ratio("um", unit)
    outlines$x_px <- outlines$x_px * pixel[1]
    outlines$y_px <- outlines$y_px * pixel[2]
    file <- file.path(dir, paste0(names[k], ".geojson"))
    save_in_lengths(rows, outlines, file, unit, mean(pixel), replace = FALSE)
  }
}
