# One field of a batch: read, calibrated, done by its method. What goes wrong with it is its reason;
# the rest of the batch is not touched.

# list(fields = a row for each branch, the rows of each kind, histograms, tables = the table of each
# branch by name, NULL for a faulty one)
# `disk`: list(memory, spool), for a picture that is too large to be read at once: what it may take,
# and a folder for its outlines, or NULL where nobody wants them.
run_field <- function(row, method, calibration, unit, reader, disk = list()) {
  field <- NULL  # set on the way: what fails later was read
  trunk <- attempt(row, {
    field <- field_of_row(row, reader, disk)
    run_steps(calibrated_row(field, row, calibration, unit), method$steps)
  })
  trunk$source <- field$source
  result_of_trunk(row, trunk, method)
}

# The field of a row with its calibration, which may be "tags" or NULL, in the unit of the batch.
calibrated_row <- function(field, row, calibration, unit) {
  if (identical(calibration, "tags")) calibration <- calibration_from_tags(field)
  if (is.null(calibration)) return(field)
  calibrate(
    field, in_unit(calibration, unit), magnification_of_row(row),
    override = !(row[["override"]] %||% NA) %in% c(NA, "")
  )
}

magnification_of_row <- function(row) if (!is.na(row$magnification)) row$magnification

# Read at once when that, and measuring it, takes no more memory than is given; else it stays on
# disk.
field_of_row <- function(row, reader, disk) {
  page <- if (!is.na(row$page)) row$page
  channel <- if (is.na(row$channel)) "luminance" else row$channel
  if (!is_for_disk(row$image, page, disk$memory)) return(reader$read(row$image, page, channel))
  field <- field_on_disk(row$image, page, channel, disk$memory %||% "2 GB")
  field$disk$spool <- disk$spool
  field
}

# A field that was not come to, with the reason.
faulty_result <- function(row, method, reason) {
  trunk <- list(error = simpleError(reason), seconds = 0)
  result <- result_of_trunk(row, trunk, method)
  result[names(result) != "tables"]
}

result_of_trunk <- function(row, trunk, method) {
  branches <- names(method$branches) %||% ""
  parts <- lapply(branches, function(name) branch_result(row, trunk, method, name))
  # the trunk's time is counted once
  parts[[1]]$fields$seconds <- parts[[1]]$fields$seconds + round(trunk$seconds, 2)
  collect <- function(name) bind_tables(lapply(parts, function(p) p[[name]]))

  c(
    sapply(names(row_kinds), collect, simplify = FALSE),
    list(
      fields = collect("fields"), histograms = collect("histogram"),
      tables = stats::setNames(lapply(parts, function(p) p$table), branches)
    )
  )
}

# list(value, or error = why there is none; warned, seconds)
attempt <- function(row, expr) {
  started <- proc.time()[["elapsed"]]
  warned <- character()
  value <- tryCatch(
    withCallingHandlers(
      expr,
      # a remark of the field, and a warning that says of which
      warning = function(w) {
        warned <<- c(warned, one_line(w))
        rlang::cnd_signal(of_image(w, row$image))
        invokeRestart("muffleWarning")
      }
    ),
    error = function(e) e
  )
  failed <- inherits(value, "error")
  list(
    value = if (!failed) value, error = if (failed) value, warned = warned,
    seconds = proc.time()[["elapsed"]] - started
  )
}

# list(fields = one row, its rows under the name of their kind, histogram, table)
branch_result <- function(row, trunk, method, name) {
  done <- if (!is.null(trunk$error)) list(error = trunk$error, seconds = 0) else attempt(row, {
    table <- if (name == "") trunk$value else run_branch(trunk$value, method, name)
    if (!inherits(table, row_kinds)) {
      bm_abort(
        c(
          "The method ends without a table.",
          i = "Its last step must measure, such as {.fn measure_objects} or {.fn gauge_widths}."
        ),
        "step_order"
      )
    }
    table
  })
  warned <- paste(c(trunk$warned, done$warned), collapse = " ")
  branch <- if (name != "") list(branch = name)
  id <- c(as.list(row[id_columns]), branch)
  own <- own_columns(row)
  row <- c(as.list(row[setdiff(names(row), "branch")]), branch)  # a list may have such a column
  if (!is.null(done$error)) {
    return(list(fields = field_row(
      row, status = "faulty", reason = one_line(done$error), warned = warned,
      source = trunk$source, seconds = done$seconds, own = own
    )))
  }
  table <- done$value
  field <- field_of_rows(table)
  rows <- if (nrow(table) > 0) with_id(id, tibble::as_tibble(table))
  c(
    list(
      fields = measured_row(row, table, done$seconds, warned, own),
      histogram = with_id(id, display_histogram(field)), table = table
    ),
    stats::setNames(list(rows), kind_of_rows(table))
  )
}

of_image <- function(condition, image) {
  condition[["message"]] <- paste0(basename(image), ": ", conditionMessage(condition))
  condition["body"] <- list(NULL)  # it is in the words already
  condition
}
