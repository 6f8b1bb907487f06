# Results folders read back. They may come from somebody else: every table is checked, and nothing
# in them is ever code.

#' Read a results folder
#'
#' @param dir Folder written by [run_batch()].
#' @return A `bm_run` with its tables as they were written; `dir` holds the folder. More than a
#'   million rows of a kind stay in their file: what takes a run reads them sample by sample, and
#'   `as_tibble(run)` all of them.
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

  provenance <- read_record(dir)
  kinds <- kinds_of_record(provenance$branches)
  branched <- !identical(names(kinds), "")
  fields <- check_result_fields(read_result(dir, "fields", branched), kinds, dir)
  rows <- sapply(unique(unname(kinds)), function(kind) {
    read_rows_of_kind(dir, kind, kinds, fields)
  }, simplify = FALSE)
  rows$objects <- rows$objects %||% no_objects(provenance$unit)
  run <- new_run(
    rows, fields, read_result(dir, "grey_levels", branched),
    provenance$unit, provenance, method = NULL, kinds = kinds
  )
  if (file.exists(file.path(dir, "verdicts.csv"))) {
    run$verdict <- read_verdict(dir, provenance, kinds)
  }
  run$dir <- dir

  run
}

# What a results folder says of its run.
read_record <- function(dir, call = rlang::caller_env()) {
  if (!dir.exists(dir)) no_results_folder(dir, call)
  if (!file.exists(file.path(dir, run_file))) {
    bm_abort(
      c(
        "{.file {dir}} is not a results folder.",
        i = "A results folder holds {.file {run_file}}; {.fn run_batch} writes one."
      ),
      "file_content", call = call
    )
  }
  check_provenance(
    read_json(file.path(dir, run_file), simplifyVector = TRUE, simplifyDataFrame = FALSE), dir, call
  )
}

read_rows_of_kind <- function(dir, kind, kinds, fields, call = rlang::caller_env(2)) {
  index <- index_of_rows(fields, kind, kinds)
  file <- file.path(dir, paste0(kind, ".csv"))
  check_file(file, call)
  rows <- new_stored_rows(file, index, call)
  check_result_columns(rows$columns, kind, !identical(names(kinds), ""), call)
  if (nrow(rows) > most_rows()) rows else tibble::as_tibble(rows)
}

# What a kind has rows of, in the order of its table.
index_of_rows <- function(fields, kind, kinds) {
  branched <- !identical(names(kinds), "")
  own <- if (branched) fields[fields$branch %in% names(kinds)[kinds == kind], ] else fields
  tibble::tibble(
    own[c(id_columns, if (branched) "branch")],
    rows = as.integer(ifelse(is.na(own$found), 0L, own$found))
  )
}

kinds_of_record <- function(branches) {
  if (is.null(branches)) return(stats::setNames("objects", ""))
  stats::setNames(
    vapply(branches, function(b) b$kind, ""), vapply(branches, function(b) b$name, "")
  )
}

no_results_folder <- function(dir, call = rlang::caller_env()) {
  old <- old_of(sub("/+$", "", dir))
  bm_abort(
    c(
      "There is no folder {.file {dir}}.",
      i = if (dir.exists(old)) {
        "A run was killed while replacing it. The earlier results are in {.file {old}}: rename that
         folder."
      }
    ),
    "file", call = call
  )
}

read_verdict <- function(dir, provenance, kinds) {
  samples <- one_row_a_sample(read_result(dir, "samples"), kinds)
  limits <- read_result(dir, "verdicts")
  # of earlier versions
  for (end in setdiff(c("warn_min", "warn_max"), names(limits))) limits[[end]] <- NA_real_
  structure(
    list(
      limits = limits,
      samples = samples[c("batch", "sample", "fields", "objects", "verdict", "why")],
      pictures = if (file.exists(file.path(dir, "pictures.csv"))) read_result(dir, "pictures"),
      batches = read_result(dir, "batches"), budget = read_result(dir, "budget"),
      spec = provenance$specification
    ),
    class = c("bm_verdict", "bemrick")
  )
}

# Of a table with a row for every branch of a sample: what the sample has of the branches that
# measure objects, where there are any.
one_row_a_sample <- function(samples, kinds) {
  if (is.null(samples[["branch"]])) return(samples)
  main <- names(kinds)[kinds == "objects"]
  if (length(main) == 0) main <- names(kinds)
  ids <- unique(samples[c("batch", "sample")])
  rows <- lapply(seq_len(nrow(ids)), function(k) {
    own <- samples$batch == ids$batch[k] & samples$sample == ids$sample[k]
    own <- samples[own & samples$branch %in% main, ]
    own$fields <- min(own$fields)
    own$objects <- sum(own$objects)
    own[1, ]
  })
  do.call(rbind, rows)
}

# What every table must hold; more may be there.
result_columns <- list(
  objects = c(id_columns, "id", "accepted", "reason", "weight"),
  finds = c(id_columns, "id", "turn_deg", "scale", "score", "accepted", "reason", "weight"),
  widths = c(id_columns, "id", "edge_contrast", "accepted", "reason", "weight"),
  thickness = c(id_columns, "id", "accepted", "reason", "weight"),
  fields = c(
    id_columns, "image", "status", "reason", "area_fraction", "threshold", "found", "accepted",
    "sha256"
  ),
  samples = c("batch", "sample", "fields", "objects", "verdict", "why"),
  batches = c("batch", "verdict", "why"),
  verdicts = c(
    "batch", "sample", "quantity", "value", "low", "high", "unit", "min", "max", "verdict"
  ),
  pictures = c(id_columns, "image", "verdict", "failed", "margin", "unit", "why"),
  budget = c("batch", "sample", "quantity", "part", "u", "share"),
  grey_levels = c(id_columns, "from", "to", "count")
)

read_result <- function(dir, name, branched = FALSE, call = rlang::caller_env()) {
  file <- file.path(dir, paste0(name, ".csv"))
  table <- read_result_table(file, call)
  check_result_columns(names(table), name, branched, call)
  table
}

check_result_columns <- function(there, name, branched, call) {
  absent <- setdiff(c(result_columns[[name]], if (branched) "branch"), there)
  if (length(absent) == 0) return(invisible())
  bm_abort(
    "{.file {name}.csv} is damaged: it has no column {.field {absent}}.", "file_content",
    call = call
  )
}

# Every field is there once in every branch; its rows are looked at when they are read.
check_result_fields <- function(fields, kinds, dir, call = rlang::caller_env()) {
  branched <- !identical(names(kinds), "")
  if (branched && !setequal(fields$branch, names(kinds))) {
    bm_abort(
      "{.file {run_file}} and the tables beside it do not name the same branches.", "file_content",
      call = call
    )
  }
  if (anyDuplicated(fields[c(id_columns, if (branched) "branch")])) {
    not_whole(dir, paste0(kinds[[1]], ".csv"), call)
  }
  fields
}

# The parts of run.json that are worked with have the shape they should have.
check_provenance <- function(provenance, dir, call = rlang::caller_env()) {
  good <- is.list(provenance) && rlang::is_string(provenance$bemrick, "run 1") &&
    rlang::is_string(provenance$started) &&
    isTRUE(provenance$unit %in% c("px", names(length_in_um))) && are_records(provenance)
  if (!good) {
    bm_abort("{.file {run_file}} in {.file {dir}} is damaged.", "file_content", call = call)
  }
  provenance
}

are_records <- function(p) {
  is_specification(p$specification) && are_methods(p$methods) && is_branch_record(p$branches) &&
    all_records(
      p$calibrations, c("file", "name", "sha256", "unit", "found", "date"),
      function(c) is_day_or_none(c$due) && is_standard_record(c$standard)
    ) &&
    all_records(p$sources, c("what", "path", "sha256")) &&
    all_records(p$pictures, c("path", "channel", "calibration", "key"), function(picture) {
      is.null(picture$method) || isTRUE(picture$method %in% seq_along(p$methods))
    })
}

is_day_or_none <- function(x) {
  is.null(x) || tryCatch(inherits(as_day(x, "due"), "Date"), bemrick_error = function(e) FALSE)
}

is_standard_record <- function(x) {
  is.null(x) ||
    (is.list(x) && rlang::is_string(x$name) && has_texts(x, c("certificate", "due")) &&
        is.numeric(x$uncertainty) && length(x$uncertainty) == 1)
}

are_methods <- function(methods) {
  all_records(methods, c("title", "file", "sha256"), function(m) {
    all_records(m$steps) && all_records(m$branches, more = function(steps) all_records(steps))
  })
}

is_branch_record <- function(branches) {
  if (is.null(branches)) return(TRUE)
  good <- length(branches) > 0 && all_records(branches, more = function(b) {
    rlang::is_string(b$name) && isTRUE(b$kind %in% names(row_kinds))
  })
  if (!good) return(FALSE)
  names <- vapply(branches, function(b) b$name, "")
  !anyDuplicated(names) && (length(names) == 1 || all(nzchar(names)))
}

is_specification <- function(spec) {
  is.null(spec) ||
    (is.list(spec) && has_texts(spec, c("product", "file", "sha256")) &&
        all_records(
          spec$limits, c("name", "label"), function(l) is.null(l$args) || is.list(l$args)
        ))
}

# Nothing, or a list of lists in which these keys are texts or not there.
all_records <- function(x, texts = character(), more = function(record) TRUE) {
  is.null(x) ||
    (is.list(x) && all(vapply(x, function(r) is.list(r) && has_texts(r, texts) && more(r), NA)))
}

#' Read outlines
#'
#' Reads a file of `outlines/` of a results folder (GeoJSON in pixels, one feature an object, holes
#' as inner rings).
#'
#' @param file Path of the file.
#' @return A tibble as from [object_outlines()], with `accepted` and `reason` of the object in every
#'   row.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' read_outlines(list.files(file.path(out, "outlines"), full.names = TRUE)[1])
#' @export
read_outlines <- function(file) {
  content <- read_json(file, simplifyVector = FALSE)
  if (!is.list(content) || !identical(content$type, "FeatureCollection") ||
      !is.list(content$features)) {
    bm_abort("{.file {basename(file)}} does not hold outlines.", "file_content")
  }
  if (!is.null(content$unit)) {
    bm_abort(
      c(
        "The outlines in {.file {basename(file)}} are for other programs, in
         {.val {content$unit}}.",
        i = "Read those of the results folder, which are in pixels."
      ),
      "file_content"
    )
  }
  rings <- lapply(
    seq_along(content$features), function(k) read_feature(content$features[[k]], k, file)
  )
  table <- do.call(rbind, rings)
  if (is.null(table)) return(no_outlines())
  table$ring <- match(paste(table$id, table$ring), unique(paste(table$id, table$ring)))

  table
}

# The rings of one object; those after the first of a polygon are holes.
read_feature <- function(feature, k, file, call = rlang::caller_env(2)) {
  shaped <- is.list(feature) && is.list(feature$geometry) && is.list(feature$properties)
  polygons <- if (shaped) feature$geometry$coordinates
  if (shaped && !identical(feature$geometry$type, "MultiPolygon")) polygons <- list(polygons)
  polygons <- Filter(is.list, polygons)
  rings <- lapply(do.call(c, as.list(polygons)), ring_points)
  outer <- sequence(lengths(polygons)) == 1
  said <- if (shaped) feature$properties
  good <- length(rings) > 0 && !any(vapply(rings, is.null, NA)) &&
    rlang::is_integerish(feature$id, 1, finite = TRUE) && rlang::is_bool(said$accepted) &&
    rlang::is_string(said$reason)
  if (!good) {
    bm_abort(
      "{.file {basename(file)}} is damaged: feature {k} is not an outline.", "file_content",
      call = call
    )
  }
  size <- vapply(rings, nrow, 0L)
  points <- do.call(rbind, rings)

  tibble::tibble(
    id = as.integer(feature$id), ring = rep(seq_along(rings), size), hole = rep(!outer, size),
    x_px = points[, 1], y_px = points[, 2], accepted = said$accepted, reason = said$reason
  )
}

# Corners of a ring without the last, which joins the first; NULL when it is none.
ring_points <- function(ring) {
  values <- suppressWarnings(as.numeric(unlist(ring)))
  if (!is.list(ring) || length(ring) < 2 || any(lengths(ring) != 2) ||
      length(values) != 2 * length(ring) || !all(is.finite(values))) {
    return(NULL)
  }
  points <- matrix(values, ncol = 2, byrow = TRUE)
  points[-nrow(points), , drop = FALSE]
}

no_outlines <- function() {
  tibble::tibble(
    id = integer(), ring = integer(), hole = logical(), x_px = numeric(), y_px = numeric(),
    accepted = logical(), reason = character()
  )
}
