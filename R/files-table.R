# CSV tables (RFC 4180, UTF-8): written and read without the session's options, and safe in a spreadsheet.

# A cell that a spreadsheet would take for a formula gets an apostrophe in front, which spreadsheets read as "this is text";
# one that has apostrophes before such a sign gets one more, so that reading undoes exactly what writing did.
formula_like <- "^('*)(\\s*[=+@\uff1d\uff0b\uff0d\uff20-]|[\t\r\n])"
guard_cells <- function(x) sub(formula_like, "'\\1\\2", x)
unguard_cells <- function(x) {
  k <- which(startsWith(x, "'"))
  x[k] <- sub(paste0("^'(", sub("^", "", formula_like, fixed = TRUE), ")"), "\\1", x[k])
  x
}

write_table_file <- function(table, file, replace = FALSE, call = rlang::caller_env()) {
  steady_session()
  text <- vapply(table, is.character, NA)
  table[text] <- lapply(table[text], function(x) as_bytes(guard_cells(x)))
  con <- rawConnection(raw(0), "w")
  on.exit(close(con))
  utils::write.csv(table, con, row.names = FALSE, na = "")
  write_bytes(rawConnectionValue(con), file, replace, call)
}

# UTF-8 that the writer passes on as it is, where the session's locale could not hold it; one kind of line end, since readers
# change the others.
as_bytes <- function(x) {
  x <- gsub("\r\n?", "\n", enc2utf8(x))
  Encoding(x) <- "unknown"
  x
}

# A table with a header; every value a text, so that sample "007" keeps its zeros.
read_table_file <- function(file, call = rlang::caller_env()) {
  source <- table_source(file, call)
  if (inherits(source, "connection")) on.exit(close(source))
  not_table <- function(why) {
    bm_abort(c("{.file {basename(file)}} is not a table of comma-separated values.", x = plain(why)), "file_content", call = call)
  }
  as_told <- function(code) {
    tryCatch(code, error = function(e) not_table(conditionMessage(e)), warning = function(w) not_table(conditionMessage(w)))
  }
  check_even_rows(file, not_table, as_told)
  table <- as_told(utils::read.csv(
    source, colClasses = "character", check.names = FALSE, strip.white = TRUE, na.strings = "", encoding = "UTF-8",
    fill = FALSE
  ))
  unused <- !nzchar(names(table)) & vapply(table, function(x) all(is.na(x)), NA)  # empty columns of spreadsheets
  if (any(!nzchar(names(table)) & !unused)) not_table(paste("column", which(!nzchar(names(table)))[1], "has no name"))
  twice <- anyDuplicated(names(table)[!unused])
  if (twice) not_table(paste0("the column ", names(table)[!unused][twice], " is there twice"))
  table <- table[!unused]
  table[] <- lapply(table, unguard_cells)
  tibble::as_tibble(table)
}

# What a reader of tables can take: the file itself, or, where that has a byte order mark or no last line end, which readers
# stumble over, its text put right.
table_source <- function(file, call) {
  bytes <- read_text_bytes(file, call)
  if (length(bytes) == file.size(file)) return(file)
  text <- rawToChar(bytes)
  Encoding(text) <- "UTF-8"
  textConnection(strsplit(text, "\r\n?|\n")[[1]], encoding = "UTF-8")
}

# Every row has as many cells as the header: the reader would fill or wrap the others without a word.
check_even_rows <- function(file, not_table, as_told) {
  cells <- as_told(utils::count.fields(file, ",", "\"", comment.char = "", blank.lines.skip = FALSE))
  odd <- which(!is.na(cells) & cells != cells[1] & cells > 0)
  if (length(odd)) not_table(paste("line", odd[1], "has", cells[odd[1]], "cells, the header", cells[1]))
}
