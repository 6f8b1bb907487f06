# The results folder: written beside and renamed when complete; read back for reports.

run_file <- "run.json"
result_names <- c(
  "objects.csv", "fields.csv", "samples.csv", "batches.csv", "verdicts.csv", "budget.csv", "histograms.csv", run_file,
  "outlines", "overlays", "report.html"
)

check_results_folder <- function(out, replace, call = rlang::caller_env()) {
  check_text(out, "out", call)
  if (!file.exists(out)) {
    if (!dir.exists(dirname(out))) {
      bm_abort("There is no folder {.file {dirname(out)}} to write into.", "file", call = call)
    }
    return(invisible(out))
  }
  if (!dir.exists(out)) bm_abort("{.file {out}} is a file, not a folder.", "exists", call = call)
  if (length(list.files(out, all.files = TRUE, no.. = TRUE)) == 0) return(invisible(out))
  ours <- file.exists(file.path(out, run_file))
  strange <- setdiff(list.files(out, all.files = TRUE, no.. = TRUE), result_names)
  if (replace && ours && length(strange) == 0) return(invisible(out))
  if (replace && ours) {
    bm_abort(c(
      "The folder {.file {out}} holds {.file {strange}}, which no run has written.",
      i = "Move that to another place, or choose another folder."
    ), "exists", call = call)
  }
  bm_abort(c(
    "The folder {.file {out}} is there already and is not empty.",
    i = if (ours) "Choose another folder, or say {.code replace} to put this run in place of the results in it."
    else "Choose another folder; only results of an earlier run can be replaced, and these are none."
  ), "exists", call = call)
}

new_staging <- function(out) {
  staging <- paste0(sub("/+$", "", out), ".part-", Sys.getpid())
  unlink(staging, recursive = TRUE)
  made <- dir.create(staging, showWarnings = FALSE)
  if (!made) bm_abort("The folder {.file {dirname(out)}} may not be written to.", "file", call = rlang::caller_env())
  dir.create(file.path(staging, "outlines"))
  dir.create(file.path(staging, "overlays"))
  staging
}

# Name of a field's files: safe on any file system, and different for different fields, so a name that had to be
# changed ends in a few letters of the original's hash.
field_file_name <- function(row) {
  name <- paste(row$batch, row$sample, row$field, sep = "_")
  safe <- gsub("[^A-Za-z0-9.-]+", "-", c(row$batch, row$sample, row$field))
  changed <- !identical(safe, c(row$batch, row$sample, row$field))
  paste(c(safe, if (changed) digest::digest(name, "crc32", serialize = FALSE)), collapse = "_")
}

write_field_files <- function(result, row, staging) {
  name <- field_file_name(row)
  write_outlines(result$measures, file.path(staging, "outlines", paste0(name, ".geojson")))
  save_overlay(result$measures, file.path(staging, "overlays", paste0(name, ".png")), title = basename(row$image))
}

# GeoJSON (RFC 7946) in pixels: one feature an object, holes as inner rings.
write_outlines <- function(measures, path) {
  outlines <- object_outlines(attr(measures, "objects"), outline_of(measures))
  rings <- split(seq_len(nrow(outlines)), factor(outlines$ring, unique(outlines$ring)))
  closed <- lapply(rings, function(i) unname(as.matrix(outlines[c(i, i[1]), c("x_px", "y_px")])))
  owner <- vapply(rings, function(i) outlines$id[i[1]], 0L)
  hole <- vapply(rings, function(i) outlines$hole[i[1]], NA)
  outer_first <- order(owner, hole)
  by_object <- split(closed[outer_first], owner[outer_first])
  features <- lapply(names(by_object), function(id) {
    k <- as.integer(id)
    list(
      type = "Feature", id = k,
      properties = list(accepted = measures$accepted[k], reason = measures$reason[k]),
      geometry = list(type = "Polygon", coordinates = unname(by_object[[id]]))
    )
  })
  jsonlite::write_json(list(type = "FeatureCollection", features = features), path, auto_unbox = TRUE, digits = NA)
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

samples_table <- function(run) {
  ids <- unique(run$fields[c("batch", "sample")])
  table <- do.call(rbind, lapply(seq_len(nrow(ids)), function(k) sample_row(run, ids[k, ])))
  if (is.null(run$verdict)) return(table)
  tibble::tibble(table, run$verdict$samples[c("verdict", "why")])
}

sample_row <- function(run, id) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  all_fields <- run$fields[same(run$fields), ]
  measured <- all_fields[all_fields$status == "measured", ]
  counted <- run$objects[same(run$objects) & run$objects$accepted, ]
  sizes <- rep(NA_real_, 3)
  if (nrow(counted) > 0) sizes <- percentile_size(size_distribution_of(counted, run$unit), c(10, 50, 90))
  porosity <- mean_over_fields(measured$area_fraction)
  named_sizes <- stats::setNames(as.list(unname(sizes)), paste0(c("d10_", "d50_", "d90_"), run$unit))
  tibble::tibble(
    id, fields = nrow(measured), faulty = nrow(all_fields) - nrow(measured), objects = nrow(counted), !!!named_sizes,
    area_fraction = porosity$mean, area_fraction_sd = porosity$sd,
    area_fraction_relative_accuracy = porosity$relative_accuracy
  )
}

size_distribution_of <- function(objects, unit) {
  new_distribution(objects[[measure_column("ecd", unit)]], objects$weight, "ecd", "number", unit)
}

provenance_of <- function(list, methods, calibrations, spec, started) {
  used <- unique(lapply(methods, function(m) c(method_content(m), file = m$file, sha256 = m$sha256)))
  scales <- unique(Filter(Negate(is.null), lapply(calibrations, function(c) {
    if (identical(c, "tags")) return(list(file = "tags", found = "the tags of each image"))
    if (!is.null(c)) {
      list(
        file = c$file, name = c$name, sha256 = c$sha256, pixel = unname(c$pixel), unit = c$unit,
        uncertainty = c$uncertainty, found = c$found
      )
    }
  })))
  packages <- c("bemrick", "png", "tiff", "jpeg", "Rcpp")
  list(
    bemrick = "run 1",
    started = format(started, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    seconds = round(as.numeric(difftime(Sys.time(), started, units = "secs")), 1),
    versions = c(R = paste(R.version$major, R.version$minor, sep = "."),
                 lapply(stats::setNames(nm = packages), function(p) as.character(utils::packageVersion(p)))),
    methods = used, calibrations = scales,
    specification = if (!is.null(spec)) spec[c("product", "decision", "needs", "batch", "file", "sha256", "limits")],
    bootstrap = list(replicates = 2000, seed = 1)
  )
}

publish_run <- function(run, staging, out, replace) {
  write_table_file(run$objects, file.path(staging, "objects.csv"))
  write_table_file(run$fields, file.path(staging, "fields.csv"))
  write_table_file(samples_table(run), file.path(staging, "samples.csv"))
  write_table_file(run$histograms, file.path(staging, "histograms.csv"))
  if (!is.null(run$verdict)) {
    write_table_file(run$verdict$limits, file.path(staging, "verdicts.csv"))
    write_table_file(run$verdict$batches, file.path(staging, "batches.csv"))
    write_table_file(run$verdict$budget, file.path(staging, "budget.csv"))
  }
  jsonlite::write_json(
    c(run$provenance, unit = run$unit), file.path(staging, run_file), auto_unbox = TRUE, digits = NA, pretty = TRUE,
    null = "null"
  )
  old <- paste0(staging, "-old")
  if (dir.exists(out) && !file.rename(out, old)) bm_abort("The folder {.file {out}} could not be replaced.", "file")
  if (!file.rename(staging, out)) {
    file.rename(old, out)
    bm_abort("The folder {.file {out}} could not be written.", "file")
  }
  unlink(old, recursive = TRUE)
  invisible(out)
}

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
