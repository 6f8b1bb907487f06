# Rows of a run that are more than memory should hold. They stay in their table's file, where they
# follow each other in the order of the table of fields, and are read a few fields at a time.

# More rows than that stay in their file, and no more are read at once where it can be helped.
most_rows <- function() 1e6

# `index`: a tibble of what there are rows of, in the order of the file: batch, sample, field, where
# there are branches also branch, and how many `rows`.
new_stored_rows <- function(file, index, call = rlang::caller_env()) {
  starts <- core_row_starts(enc2native(file), index$rows)
  if (length(starts) != nrow(index) + 1) not_whole(dirname(file), basename(file), call)
  n <- nrow(index)
  index$from <- starts[seq_len(n)]
  index$to <- starts[seq_len(n) + 1]
  header <- rawToChar(core_read_bytes(enc2native(file), 0, starts[1]))
  columns <- columns_of_header(header, file, call)
  structure(
    list(file = file, columns = columns, header = header, index = index, last = new.env()),
    class = c("bm_stored_rows", "bemrick")
  )
}

columns_of_header <- function(header, file, call = rlang::caller_env()) {
  if (!endsWith(header, "\n")) header <- paste0(header, "\n")
  names(read_rows_text(header, "", NULL, file, call))
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
  which <- which(which)
  asked <- list(rows$file, which, columns)
  if (identical(rows$last$asked, asked)) return(rows$last$table)
  rows$last$table <- NULL
  found <- rows_of_entries(rows, which, columns, call)
  rows$last$asked <- asked
  rows$last$table <- found
  found
}

rows_of_entries <- function(rows, which, columns, call) {
  index <- rows$index[which, ]
  follows <- c(FALSE, index$from[-1] == index$to[-nrow(index)])[seq_len(nrow(index))]
  run <- cumsum(!follows)
  texts <- vapply(split(seq_along(which), run), function(k) {
    rawToChar(core_read_bytes(enc2native(rows$file), index$from[k[1]], index$to[k[length(k)]]))
  }, "")
  ids <- intersect(c(id_columns, "branch"), rows$columns)
  table <- read_rows_text(
    rows$header, paste(texts, collapse = ""),
    if (!is.null(columns)) intersect(rows$columns, c(ids, columns)), rows$file, call
  )
  there <- nrow(table) == sum(index$rows) && all(vapply(ids, function(name) {
    identical(as.character(table[[name]]), rep(index[[name]], index$rows))
  }, NA))
  if (!there) not_whole(dirname(rows$file), basename(rows$file), call)
  if (!is.null(rows$branch)) table$branch <- NULL
  table
}

# Rows of a table of results from their text.
read_rows_text <- function(header, rows, columns, file, call) {
  read <- parse_rows(header, rows, columns, text_columns, file, call)
  for (name in names(read)) {
    cells <- read[[name]]
    if (name %in% text_columns) {
      read[[name]] <- ifelse(is.na(cells), "", cells)
    } else if (is.character(cells)) {
      read[[name]] <- value_cells(cells, name, file, call)
    } else if (is.logical(cells) && all(is.na(cells))) {
      read[[name]] <- as.integer(cells)
    }
  }
  read
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
