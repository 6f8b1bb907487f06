# Rows of a run that are more than memory should hold. They stay in their table's file, where they
# follow each other in the order of the table of fields, and are read a few fields at a time.

# More rows than that stay in their file, and no more are handed on at once where it can be helped.
most_rows <- function() 1e6

# So many are read at once: their text takes more memory than they do.
rows_read_at_once <- 2e5

# `index`: a tibble of what there are rows of, in the order of the file: batch, sample, field, where
# there are branches also branch, and how many `rows`.
new_stored_rows <- function(file, index, call = rlang::caller_env()) {
  starts <- core_row_starts(enc2native(file), index$rows)
  if (length(starts) != nrow(index) + 1) not_whole(dirname(file), basename(file), call)
  n <- nrow(index)
  index$from <- starts[seq_len(n)]
  index$to <- starts[seq_len(n) + 1]
  columns <- names(read_table_parts(file, 0, starts[1], text_of_table(file), NULL, call))
  structure(
    list(file = file, columns = columns, begin = starts[1], index = index, last = new.env()),
    class = c("bm_stored_rows", "bemrick")
  )
}

# Names of the columns in the first line of a table.
columns_of_header <- function(line, file, call = rlang::caller_env()) {
  names(parse_rows(list(text = paste0(line, "\n")), text_of_table(file), NULL, file, call))
}

is_stored <- function(rows) inherits(rows, "bm_stored_rows")

#' @export
dim.bm_stored_rows <- function(x) c(sum(x$index$rows), length(columns_of_rows(x)))

#' @export
format.bm_stored_rows <- function(x, ...) {
  c(
    paste0("<rows> ", nrow(x), " of ", nrow(x$index), " fields, in ", x$file),
    "  too many to be held in memory; as_tibble() reads them all"
  )
}

#' @exportS3Method tibble::as_tibble bm_stored_rows
as_tibble.bm_stored_rows <- function(x, ...) read_stored_rows(x, rep(TRUE, nrow(x$index)))

columns_of_rows <- function(rows) {
  if (!is_stored(rows)) return(names(rows))
  if (is.null(rows$branch)) rows$columns else setdiff(rows$columns, "branch")
}

# Those of one branch alone, as if there were no others.
stored_rows_of_branch <- function(rows, branch) {
  rows$index <- rows$index[rows$index$branch == branch, ]
  rows$branch <- branch
  rows$last <- new.env()
  rows
}

# The same in a folder that has been renamed.
stored_rows_in <- function(rows, dir) {
  rows$file <- file.path(dir, basename(rows$file))
  rows
}

# The rows of some entries of the index (TRUE or FALSE of each), and some of their columns or all.
# What was read last is kept: several quantities of one sample are looked at one after the other.
read_stored_rows <- function(rows, which, columns = NULL, call = rlang::caller_env()) {
  asked <- list(rows$file, which, columns)
  if (identical(rows$last$asked, asked)) return(rows$last$table)
  rows$last$table <- NULL
  found <- rows_of_entries(rows, which, columns, call)
  rows$last$asked <- asked
  rows$last$table <- found
  found
}

# Entries of the index in pieces of about so many rows together (an entry is not parted); of none,
# one without any.
pieces_of_rows <- function(rows, which, most = max(1, most_rows())) {
  entries <- which(which)
  if (length(entries) == 0) return(list(entries))
  piece <- cumsum(as.numeric(rows$index$rows[entries])) %/% most
  unname(split(entries, piece))
}

rows_of_entries <- function(rows, which, columns, call) {
  ids <- intersect(c(id_columns, "branch"), rows$columns)
  columns <- if (!is.null(columns)) intersect(rows$columns, c(ids, columns))
  bind_tables(lapply(pieces_of_rows(rows, which, rows_read_at_once), function(entries) {
    table <- piece_of_rows(rows, rows$index[entries, ], columns, ids, call)
    if (!is.null(rows$branch)) table$branch <- NULL
    table
  }))
}

piece_of_rows <- function(rows, index, columns, ids, call) {
  n <- nrow(index)
  begins <- c(TRUE, index$from[-1] != index$to[-n])[seq_len(n)]
  ends <- c(begins[-1], TRUE)[seq_len(n)]
  read <- read_table_parts(
    rows$file, c(0, index$from[begins]), c(rows$begin, index$to[ends]), text_of_table(rows$file),
    columns, call
  )
  table <- with_values(read, rows$file, call)
  there <- nrow(table) == sum(index$rows) && all(vapply(ids, function(name) {
    identical(as.character(table[[name]]), rep(index[[name]], index$rows))
  }, NA))
  if (!there) not_whole(dirname(rows$file), basename(rows$file), call)
  table
}

not_whole <- function(dir, file, call = rlang::caller_env()) {
  bm_abort(
    c(
      "The results in {.file {dir}} are not whole: {.file {file}} and {.file fields.csv} do not fit
       each other.",
      i = "Rows are missing, surplus or changed. Run the batch again."
    ),
    "file_content", call = call
  )
}
