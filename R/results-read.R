# Results folders read back. They may come from somebody else: every table is checked, and nothing in them is ever code.

#' Read a results folder
#'
#' @param dir Folder written by [run_batch()].
#' @return A `bm_run` with its tables as they were written; `dir` holds the folder.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' read_run(out)
#' @export
read_run <- function(dir) {
  check_text(dir, "dir")
  if (!dir.exists(dir)) bm_abort("There is no folder {.file {dir}}.", "file")
  if (!file.exists(file.path(dir, run_file))) {
    bm_abort(c(
      "{.file {dir}} is no results folder.",
      i = "A results folder holds {.file {run_file}}; {.fn run_batch} writes one."
    ), "file_content")
  }
  provenance <- tryCatch(
    jsonlite::read_json(file.path(dir, run_file), simplifyVector = TRUE, simplifyDataFrame = FALSE),
    error = function(e) bm_abort("{.file {run_file}} in {.file {dir}} is damaged.", "file_content", parent = e)
  )
  table <- function(name) read_result_table(file.path(dir, name))
  run <- new_run(
    table("objects.csv"), table("fields.csv"), table("histograms.csv"), provenance$unit, provenance, method = NULL
  )
  if (file.exists(file.path(dir, "verdicts.csv"))) {
    samples <- table("samples.csv")
    limits <- table("verdicts.csv")
    for (end in setdiff(c("warn_min", "warn_max"), names(limits))) limits[[end]] <- NA_real_  # of earlier versions
    run$verdict <- structure(
      list(limits = limits, samples = samples[c("batch", "sample", "fields", "objects", "verdict", "why")],
           batches = table("batches.csv"), budget = table("budget.csv"), spec = provenance$specification),
      class = "bm_verdict"
    )
  }
  run$dir <- dir
  run
}

text_columns <- c(
  "batch", "sample", "field", "image", "status", "reason", "warnings", "by_hand", "calibration", "level", "sha256", "figure",
  "unit",
  "verdict", "why", "part", "decided_by"
)

read_result_table <- function(file) {
  table <- tibble::as_tibble(read_table_file(file))
  for (name in setdiff(names(table), text_columns)) table[[name]] <- utils::type.convert(table[[name]], as.is = TRUE)
  for (name in intersect(names(table), text_columns)) table[[name]][is.na(table[[name]])] <- ""
  table
}

#' Read outlines
#'
#' Reads a file of `outlines/` of a results folder (GeoJSON in pixels, one feature an object, holes as inner rings).
#'
#' @param file Path of the file.
#' @return A tibble as from [object_outlines()], with `accepted` and `reason` of the object in every row.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' read_outlines(list.files(file.path(out, "outlines"), full.names = TRUE)[1])
#' @export
read_outlines <- function(file) {
  check_file(file)
  content <- tryCatch(
    jsonlite::read_json(file),
    error = function(e) bm_abort("{.file {basename(file)}} is no GeoJSON.", "file_content", parent = e)
  )
  if (!identical(content$type, "FeatureCollection")) {
    bm_abort("{.file {basename(file)}} holds no outlines.", "file_content")
  }
  ring <- 0L
  parts <- lapply(content$features, function(feature) {
    rings <- feature$geometry$coordinates
    do.call(rbind, lapply(seq_along(rings), function(k) {
      ring <<- ring + 1L
      points <- matrix(as.numeric(unlist(rings[[k]])), ncol = 2, byrow = TRUE)
      points <- points[-nrow(points), , drop = FALSE]  # the last joins the first
      tibble::tibble(
        id = as.integer(feature$id), ring = ring, hole = k > 1, x_px = points[, 1], y_px = points[, 2],
        accepted = feature$properties$accepted, reason = feature$properties$reason
      )
    }))
  })
  do.call(rbind, parts)
}
