# The tables of results: what their cells mean.

# Columns that hold text; all others are numbers, or TRUE and FALSE. What a list had of its own is
# text as well.
text_columns <- c(
  "batch", "sample", "field", "branch", "image", "status", "reason", "warnings", "by_hand",
  "calibration", "phase", "threshold", "sha256", "quantity", "unit", "verdict", "why", "part",
  "decided_by", "suspected", "failed", "state", "way"
)

read_result_table <- function(file, call = rlang::caller_env()) {
  with_values(read_table_file(file, text_of_table(file), call), file, call)
}

# function(names): which columns of a table are texts.
text_of_table <- function(file) {
  own <- if (basename(file) == "fields.csv") c(field_columns(), "branch")
  function(names) names %in% text_columns | (!is.null(own) & !names %in% own)
}

# Words are never missing, and numbers are those that were written, which the fast reader misses by
# a bit now and then.
with_values <- function(read, file, call) {
  is_text <- text_of_table(file)(names(read))
  for (k in seq_along(read)) {
    cells <- read[[k]]
    if (is_text[k]) {
      if (anyNA(cells)) read[[k]][is.na(cells)] <- ""
    } else if (is.character(cells)) {
      read[[k]] <- value_cells(cells, names(read)[k], file, call)
    } else if (is.logical(cells) && nrow(read) > 0 && all(is.na(cells))) {
      read[[k]] <- as.integer(cells)
    } else if (is.double(cells)) {
      read[[k]] <- core_table_digits(cells)
    }
  }
  read
}

value_cells <- function(cells, name, file, call) {
  if (all(cells %in% c("TRUE", "FALSE"))) return(cells == "TRUE")
  values <- suppressWarnings(as.numeric(cells))
  wrong <- which(is.na(values) & !is.na(cells) & !cells %in% c("NA", "NaN"))
  if (length(wrong)) {
    bm_abort(
      "{.file {basename(file)}} is damaged: row {wrong[1] + 1} of column {.field {name}} does not
       hold a number.",
      "file_content", call = call
    )
  }
  if (all(is.na(values) | values == round(values)) && all(abs(values) < 2^31, na.rm = TRUE)) {
    as.integer(values)
  } else {
    values
  }
}
