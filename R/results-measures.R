# One field of a results folder, taken up again: its table, its outlines, and its picture where that
# still is.

#' One field of a run again
#'
#' The table of measures of one field of a results folder, as its method left it: [plot()] draws its
#' outlines, [look_up()] finds one object in it, and all else that takes a table of measures takes
#' it. The picture is read again from where it was, seen from the results folder, if it is still the
#' same (by its SHA-256); else outlines are drawn without it, with a warning.
#'
#' @param run A `bm_run` with a results folder, as from [read_run()].
#' @param field,sample,batch Which field: as many of its names as it takes to tell it from others.
#' @param branch Which branch of the method, where it has several that measure objects.
#' @param images Folder of the pictures, when they were moved.
#' @return A `bm_measures`.
#' @section Errors: Class `bemrick_error_argument` when no field or more than one has these names,
#'   or it was faulty; `bemrick_error_file_content` when its outlines do not fit its table.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' measures <- measures_of(read_run(out), field = 1)
#' look_up(measures, 17)
#' plot(measures)
#' @export
measures_of <- function(
  run, field = NULL, sample = NULL, batch = NULL, images = NULL, branch = NULL
) {
  check_class(run, "bm_run", "run", "Read one with {.fn read_run}.")
  if (!is.null(images) && !dir.exists(check_text(images, "images"))) {
    bm_abort("There is no folder {.file {images}} ({.arg images}).", "file")
  }
  if (is.null(run$dir)) {
    bm_abort(
      c("This run has no results folder.", i = "Run the batch with {.arg out}."), "argument"
    )
  }
  name <- branch_to_take(run, branch)
  run <- part_of_run(run, name)
  k <- place_of_field(run, list(batch = batch, sample = sample, field = field))
  row <- run$fields[k, ]
  check_has_pixels(row)

  table <- rows_where(run, function(table) own_rows(table, row))
  table <- table[setdiff(names(table), id_columns)]
  outlines <- outlines_of_field(run, files_of_run(run)[k], table)
  steps <- steps_of_field(run, k, name)
  shown <- picture_of_field(run, k, steps, images) %||% blank_field(row, run$unit)
  made <- lapply(steps, function(s) c(s, list(decided = list())))
  trail <- c(Filter(function(e) e$step %in% makes_fields, shown$trail), made)
  labels <- labels_of_outlines(outlines, row)
  objects <- new_objects(
    labels, nrow(table), mask_of_row(labels > 0, shown, row, trail), trail
  )
  objects$outlines <- outlines

  new_measures(table, objects, trail)
}

# The branch that is named, or the only one that measures objects.
branch_to_take <- function(run, branch, call = rlang::caller_env()) {
  of_objects <- names(run$kinds)[run$kinds == "objects"]
  if (is.null(branch)) {
    if (length(of_objects) == 1) return(of_objects)
    bm_abort(
      c(
        if (length(of_objects)) "Several branches of this run measure objects."
        else "This run has no objects, only {unique(run$kinds)}.",
        i = if (length(of_objects)) "Give one of {.val {of_objects}} by {.arg branch}."
        else "Their table is {.code run${unique(run$kinds)}}."
      ),
      "argument", call = call
    )
  }
  check_choice(branch, "branch", of_objects, call)
}

# The row of the field that is named.
place_of_field <- function(run, asked, call = rlang::caller_env()) {
  asked <- Filter(Negate(is.null), asked)
  fits <- rep(TRUE, nrow(run$fields))
  for (name in names(asked)) {
    value <- asked[[name]]
    if (is.numeric(value) && length(value) == 1) value <- as.character(value)
    fits <- fits & run$fields[[name]] == check_text(value, name, call)
  }
  found <- which(fits)
  if (length(found) == 1) return(found)
  listed <- run$fields[if (length(found)) found else seq_len(nrow(run$fields)), id_columns]
  shown <- utils::head(do.call(paste, c(unname(listed), sep = ", ")), 8)
  more <- nrow(listed) - length(shown)
  bm_abort(
    c(
      if (length(found)) "{length(found)} fields of this run have these names."
      else "No field of this run has these names.",
      i = "Its fields (batch, sample, field): {paste(shown, collapse = '; ')}{
        if (more > 0) paste(' and', more, 'more')}."
    ),
    "argument", call = call
  )
}

own_rows <- function(table, row) {
  Reduce(`&`, lapply(id_columns, function(name) table[[name]] == row[[name]]))
}

check_has_pixels <- function(row, call = rlang::caller_env()) {
  if (row$status != "measured") {
    bm_abort(
      c("This field was not measured.", x = plain(row$reason)), "argument", call = call
    )
  }
  size <- c(row$width_px %||% NA, row$height_px %||% NA)
  if (anyNA(size) || any(size < 1) || prod(size) > most_pixels) {
    bm_abort("{.file fields.csv} is damaged: a field has no size.", "file_content", call = call)
  }
}

outlines_of_field <- function(run, name, table, call = rlang::caller_env()) {
  name <- paste0(name, ".geojson")
  outlines <- read_outlines(file.path(run$dir, "outlines", name))
  if (!setequal(outlines$id, table$id) || anyDuplicated(table$id)) {
    bm_abort(
      "The outlines in {.file {name}} are not those of {.file objects.csv}.", "file_content",
      call = call
    )
  }
  outlines
}

# Which object each pixel belongs to.
labels_of_outlines <- function(outlines, row) {
  first <- which(!duplicated(outlines$ring))
  core_fill_rings(
    outlines$x_px, outlines$y_px, diff(c(first, nrow(outlines) + 1L)), outlines$id[first],
    row$height_px, row$width_px
  )
}

# What run.json knows of the picture of a field; NULL in results of earlier versions.
picture_record <- function(run, k) {
  pictures <- run$provenance$pictures
  if (k <= length(pictures)) pictures[[k]]
}

# The steps of the method that measured a field.
steps_of_field <- function(run, k, branch = "") {
  methods <- run$provenance$methods
  method <- if (length(methods)) methods[[picture_record(run, k)$method %||% 1]]
  lapply(c(method$steps, if (branch != "") method$branches[[branch]]), function(step) {
    list(step = names(step)[1], args = if (length(step[[1]])) as.list(step[[1]]) else list())
  })
}

# The picture cut as it was when it was measured; NULL, with a warning, when it is not there.
picture_of_field <- function(run, k, steps, images) {
  row <- run$fields[k, ]
  known <- picture_record(run, k)
  tried <- c(
    if (!is.null(images)) file.path(images, row$image),
    if (!is.null(known$path)) c(file.path(run$dir, known$path), known$path)
  )
  file <- Find(function(f) is_file(f) && file_sha256(f) == row$sha256, tried)
  field <- if (!is.null(file)) {
    tryCatch(taken_again(file, known, row, run$unit, steps), error = function(e) NULL)
  }
  if (is.null(field) || any(dim(field) != c(row$height_px, row$width_px))) {
    why <- if (!is.null(file)) "cannot be cut again as it was measured"
    else if (any(vapply(tried, is_file, NA))) "is no longer the one that was measured"
    else "is not where it was"
    bm_warn(
      c(
        "{.file {row$image}} {why}: its outlines are drawn without it.",
        i = if (is.null(file)) "If it was moved, give its folder by {.arg images}."
      ),
      "picture"
    )
    return(NULL)
  }
  field
}


# Read, scaled, and cut by those of the method's steps that cut, or say where to. What is done at
# every find is not done to the whole.
taken_again <- function(file, known, row, unit, steps) {
  each <- match("at_each", vapply(steps, function(s) s$step, ""), length(steps) + 1)
  steps <- steps[seq_len(each - 1)]
  steps <- Filter(function(s) isTRUE(registered$steps[[s$step]]$part), steps)
  field <- suppressWarnings(read_field(file, known$page, known$channel %||% "luminance"))
  times <- prod(vapply(steps, function(s) if (s$step == "shrink_field") s$args$times else 1, 0))
  field$calibration <- scale_of_row(row, unit, times)
  for (s in steps) field <- suppressWarnings(run_step(field, s$step, s$args))
  field
}

scale_of_row <- function(row, unit, times = 1) {
  if (unit == "px" || anyNA(c(row$pixel_x_um, row$pixel_y_um))) return(NULL)
  pixel <- c(x = row$pixel_x_um, y = row$pixel_y_um) / times * unit_ratio("um", unit)
  calibration <- new_calibration(pixel, unit, row$calibration_uncertainty, row$calibration)
  if (isTRUE(row[["standard_uncertainty"]] > 0)) {
    calibration$standard <- list(name = "", uncertainty = row$standard_uncertainty)
  }
  calibration
}

# White, where the picture is not there.
blank_field <- function(row, unit) {
  field <- new_field(
    matrix(255, row$height_px, row$width_px), 8, list(file = row$image, sha256 = row$sha256)
  )
  field$calibration <- scale_of_row(row, unit)
  field
}

mask_of_row <- function(pixels, field, row, trail) {
  level <- suppressWarnings(as.numeric(strsplit(row$threshold, " ")[[1]]))
  dark <- row$phase == "dark"
  low <- if (length(level) == 2 || (length(level) == 1 && !dark)) level[1] else -Inf
  high <- if (length(level) == 2 || dark) level[length(level)] else Inf
  new_mask(pixels, field, row$phase, low, if (length(level)) high else Inf, trail)
}
