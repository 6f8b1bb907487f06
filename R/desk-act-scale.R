# The action that calibrates.

act_scale <- function(state, action) {
  by <- check_choice(action[["by"]], "by", c("bar", "marks", "grid", "length", "tags", "file"))
  share <- action[["share"]] %||% TRUE
  check_flag(share, "share")
  field <- picture_of_desk(state)
  found <- calibration_by(by, field, action)
  if (!is.null(action[["name"]])) found$name <- check_text(action[["name"]], "name")
  evidence <- found$evidence
  found <- calibration_as_written(found)
  found$evidence <- evidence
  if (by == "file") found[c("file", "path")] <- list(
    basename(action[["file"]]), absolute_path(action[["file"]])
  )
  # what speaks against it is said now
  calibrate(field, found, magnification_of_row(state$list[state$at, ]))
  doc <- state$doc
  at <- if (share) seq_along(doc$calibrations) else state$at
  doc$calibrations[at] <- list(found)
  doc
}
register_action("scale", takes = c("by", "length", "ends", "file", "name", "share", "trust"))

calibration_by <- function(by, field, action) {
  ends <- action[["ends"]]
  if (!is.null(ends)) {
    ends <- unlist(ends)
    check_numbers(ends, "ends")
    if (length(ends) != 4) bm_abort("{.arg ends} must be {.code c(x1, y1, x2, y2)}.", "argument")
  }
  switch(by,
    bar = calibration_from_bar(field, action[["length"]], ends = ends),
    marks = calibration_from_marks(field, action[["length"]]),
    grid = calibration_from_grid(field, action[["length"]]),
    length = calibration_from_length(length = action[["length"]], from = ends[1:2], to = ends[3:4]),
    tags = calibration_from_tags(field, trust = isTRUE(action[["trust"]])),
    file = read_calibration(check_text(action[["file"]], "file"))
  )
}
