# list(field = one row, objects, histogram, measures); measures is NULL for a faulty field.
run_field <- function(row, method, calibration, unit, reader) {
  started <- proc.time()[["elapsed"]]
  warned <- character()
  measures <- tryCatch(
    withCallingHandlers(
      {
        field <- reader$read(
          row$image, if (!is.na(row$page)) row$page,
          if (is.na(row$channel)) "luminance" else row$channel
        )
        if (identical(calibration, "tags")) calibration <- calibration_from_tags(field)
        if (!is.null(calibration)) {
          field <- calibrate(
            field, in_unit(calibration, unit), if (!is.na(row$magnification)) row$magnification,
            override = !(row[["override"]] %||% NA) %in% c(NA, "")
          )
        }
        measures <- apply_method(field, method)
        if (!inherits(measures, "bm_measures")) {
          bm_abort("The method ends without {.fn measure_objects}.", "step_order")
        }
        measures
      },
      # a remark of the field, and a warning that says of which
      warning = function(w) {
        warned <<- c(warned, one_line(w))
        rlang::cnd_signal(of_image(w, row$image))
        invokeRestart("muffleWarning")
      }
    ),
    error = function(e) e
  )
  warned <- paste(warned, collapse = " ")
  seconds <- proc.time()[["elapsed"]] - started
  if (inherits(measures, "error")) {
    return(list(field = field_row(
      row, status = "faulty", reason = one_line(measures), warned = warned, seconds = seconds,
      own = own_columns(row)
    )))
  }
  id <- row[id_columns]
  mask <- attr(measures, "objects")$mask

  list(
    field = measured_row(row, measures, mask, seconds, warned, own_columns(row)),
    objects = if (nrow(measures) > 0) with_id(id, unclass_measures(measures)),
    histogram = with_id(id, display_histogram(mask$field)),
    measures = measures
  )
}

# The columns that say which field it is, before those of its table; tibble() takes longer for it
# than all measuring.
with_id <- function(id, table) {
  n <- nrow(table)
  tibble::new_tibble(c(lapply(as.list(id), rep, n), as.list(table)), nrow = n)
}

of_image <- function(condition, image) {
  condition[["message"]] <- paste0(basename(image), ": ", conditionMessage(condition))
  condition["body"] <- list(NULL)  # it is in the words already
  condition
}
