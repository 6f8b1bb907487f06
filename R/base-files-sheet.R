# Tables that people make in spreadsheets. What a country's spreadsheet writes is read where its
# meaning is clear: semicolons or tabs, decimal commas, UTF-16 and Windows-1252, a line "sep=;",
# rows and columns left empty.

# A table with every value a text; in the columns `numbers` decimal commas become points.
read_sheet_file <- function(file, numbers = character(), call = rlang::caller_env()) {
  check_file(file, call)
  text <- sheet_text(file_bytes(file), file, call)
  stated <- regmatches(text, regexec("^\"?sep=(.)\"?[ ,;\t]*\n", text, ignore.case = TRUE))[[1]]
  if (length(stated)) text <- substring(text, nchar(stated[1]) + 1)
  sep <- if (length(stated)) stated[2] else likely_separator(sub("\n.*", "", text))
  if (!sep %in% names(separator_names)) {
    bm_abort(
      c(
        "{.file {basename(file)}} uses the separator {.val {sep}}.",
        i = "Save it with commas, semicolons or tabs."
      ),
      "file_content", call = call
    )
  }
  table <- parse_table(text_source(text), sep, file, call)
  filled <- Reduce(`|`, lapply(table, function(x) !is.na(x)), rep(FALSE, nrow(table)))
  table <- table[filled, ]
  if (sep != ",") {
    own <- intersect(numbers, names(table))
    table[own] <- lapply(table[own], function(x) sub("^([-+]?[0-9]*),([0-9]+)$", "\\1.\\2", x))
  }

  table
}

# As UTF-8 with plain line ends.
sheet_text <- function(bytes, file, call) {
  from <- sheet_encoding(bytes)
  if (is.na(from)) {
    bm_abort(
      c(
        "{.file {basename(file)}} is not a text file: it holds bytes of value zero.",
        i = "Save the sheet as CSV, not as a workbook."
      ),
      "file_content", call = call
    )
  }
  if (has_order_mark(bytes)) bytes <- bytes[-(1:3)]
  text <- if (from == "UTF-8") rawToChar(bytes) else iconv(list(bytes), from, "UTF-8")
  if (is.na(text)) {
    bm_abort(
      c(
        "{.file {basename(file)}} cannot be read as {from}.", i = "Save it as UTF-8 (CSV UTF-8)."
      ),
      "file_content", call = call
    )
  }
  if (from == "windows-1252") {
    bm_warn(
      c(
        "{.file {basename(file)}} is not UTF-8 and was read as Windows-1252.",
        i = "If names look wrong, save it as UTF-8 (CSV UTF-8)."
      ),
      "encoding"
    )
  }
  Encoding(text) <- "UTF-8"
  text <- gsub("\r\n?", "\n", sub("^\ufeff", "", text))
  if (endsWith(text, "\n")) text else paste0(text, "\n")
}

# NA for what is no text.
sheet_encoding <- function(bytes) {
  n <- length(bytes)
  if (n >= 2 && identical(bytes[1:2], as.raw(c(0xff, 0xfe)))) return("UTF-16LE")
  if (n >= 2 && identical(bytes[1:2], as.raw(c(0xfe, 0xff)))) return("UTF-16BE")
  zero <- which(bytes == 0)
  if (length(zero) > 0) {
    # text of ours in UTF-16 without a mark: every other byte is zero, nearly
    if (n %% 2 != 0 || length(zero) < 0.4 * n || length(unique(zero %% 2)) > 1) return(NA)
    return(if (zero[1] %% 2 == 0) "UTF-16LE" else "UTF-16BE")
  }
  if (validUTF8(rawToChar(bytes))) "UTF-8" else "windows-1252"
}

# The separator that the header has most of, outside quotes.
likely_separator <- function(header) {
  bare <- gsub("\"[^\"]*\"", "", header)
  counts <- vapply(names(separator_names), function(sep) {
    sum(strsplit(bare, "", fixed = TRUE)[[1]] == sep)
  }, 0)
  names(counts)[which.max(counts)]
}
