#' @export
format.bm_run <- function(x, ...) {
  c(
    paste0(
      "<run> ", nrow(x$fields), " fields, ", sum(x$fields$status == "faulty"), " faulty, ",
      nrow(x$objects), " objects, ", sum(x$objects$accepted), " accepted"
    ),
    if (!is.null(x$verdict)) paste0("  ", format(x$verdict))
  )
}

#' @exportS3Method tibble::as_tibble bm_run
as_tibble.bm_run <- function(x, ...) x$objects

new_run <- function(objects, fields, histograms, unit, provenance, method, verdict = NULL) {
  structure(
    list(
      objects = objects, fields = fields, histograms = histograms, unit = unit,
      provenance = provenance, method = method, verdict = verdict
    ),
    class = c("bm_run", "bemrick")
  )
}

no_objects <- function(unit) {
  columns <- c("ecd", "area")
  empty <- stats::setNames(
    rep(list(numeric()), 2), vapply(columns, measure_column, "", unit = unit)
  )
  tibble::tibble(
    batch = character(), sample = character(), field = character(), id = integer(), !!!empty,
    accepted = logical(), reason = character(), weight = numeric()
  )
}

no_histogram <- function() {
  tibble::tibble(
    batch = character(), sample = character(), field = character(), from = numeric(),
    to = numeric(), count = numeric()
  )
}

# Tables one under the other; what one of them does not have is missing there: methods of the rows
# of a list need not measure the same.
bind_tables <- function(tables) {
  tables <- Filter(Negate(is.null), tables)
  columns <- do.call(c, lapply(tables, as.list))
  columns <- columns[!duplicated(names(columns))]
  whole <- lapply(tables, function(table) {
    for (name in setdiff(names(columns), names(table))) {
      table[[name]] <- if (is.character(columns[[name]])) "" else columns[[name]][NA_integer_]
    }
    table[names(columns)]
  })
  do.call(rbind, whole)
}
