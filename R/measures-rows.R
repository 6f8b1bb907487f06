# What tables of all kinds of rows have in common: whose rows they are.

# Kind of the rows of a table: a name of `row_kinds`.
kind_of_rows <- function(table) names(row_kinds)[row_kinds %in% class(table)]

# The field they were found in.
field_of_rows <- function(table) {
  attr(table, "field", exact = TRUE) %||% attr(table, "objects")$mask$field
}

check_rows <- function(x, classes = row_kinds, call = rlang::caller_env()) {
  if (inherits(x, classes)) return(invisible(x))
  kinds <- if (length(classes) == length(row_kinds)) {
    "measures, finds, widths or thicknesses"
  } else {
    "measures or finds"
  }
  check_class(
    x, "bm_measures", paste("table of", kinds),
    "Make one for example with {.fn measure_objects} or {.fn locate_pattern}.", call
  )
}

# Unit of the lengths in a table, or in those of a run.
rows_unit <- function(x) if (inherits(x, "bm_run")) x$unit else field_unit(field_of_rows(x))

new_finds <- function(table, field, pattern, trail) {
  structure(
    table, class = c("bm_finds", "tbl_df", "tbl", "data.frame"), field = field, pattern = pattern,
    trail = trail
  )
}

# The same objects or finds with more columns, or others in their place.
rows_with <- function(rows, columns, trail) {
  table <- tibble::as_tibble(rows)
  table[names(columns)] <- columns
  if (inherits(rows, "bm_measures")) return(new_measures(table, attr(rows, "objects"), trail))
  new_finds(table, attr(rows, "field"), attr(rows, "pattern"), trail)
}

# Tables one under the other; what one of them does not have is missing there: methods of the rows
# of a list need not measure the same.
bind_tables <- function(tables) {
  tables <- Filter(Negate(is.null), tables)
  if (length(tables) < 2) return(if (length(tables)) tables[[1]])
  first <- do.call(c, lapply(tables, as.list))
  first <- first[!duplicated(names(first))]
  rows <- vapply(tables, nrow, 0L)
  # column by column: rbind() of tibbles takes ten times as long
  columns <- lapply(names(first), function(name) {
    none <- if (is.character(first[[name]])) "" else first[[name]][NA_integer_]
    do.call(c, Map(function(table, n) table[[name]] %||% rep(none, n), tables, rows))
  })
  tibble::new_tibble(stats::setNames(columns, names(first)), nrow = sum(rows))
}
