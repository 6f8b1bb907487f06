# CSV tables (RFC 4180, UTF-8): written and read without the session's options, and safe in a
# spreadsheet.

# A cell that a spreadsheet would take for a formula gets an apostrophe in front, which spreadsheets
# read as "this is text"; one that has apostrophes before such a sign gets one more, so that reading
# undoes exactly what writing did.
formula_like <- "^('*)(\\s*[=+@\uff1d\uff0b\uff0d\uff20-]|[\t\r\n])"

guard_cells <- function(x) sub(formula_like, "'\\1\\2", x)

unguard_cells <- function(x) {
  k <- which(startsWith(x, "'"))
  x[k] <- sub(paste0("^'(", sub("^", "", formula_like, fixed = TRUE), ")"), "\\1", x[k])
  x
}

write_table_file <- function(
  table, file, replace = FALSE, call = rlang::caller_env(), flush = TRUE
) {
  write_beside(file, replace, call, function(beside) {
    failed <- put_rows(table, beside)
    if (flush && !nzchar(failed)) core_flush(beside) else failed
  })
}

# A table of n parts, of which one is in memory at a time: parts(k) gives the rows of one, as a
# table or as the bytes that one was written as.
write_table_parts <- function(columns, parts, n, file, call = rlang::caller_env()) {
  write_beside(file, replace = TRUE, call, function(beside) {
    header <- stats::setNames(rep(list(character()), length(columns)), columns)
    failed <- put_rows(header, beside)
    for (k in seq_len(n)) {
      if (nzchar(failed)) break
      part <- parts(k)
      failed <- if (is.raw(part)) {
        core_write_bytes(beside, part, FALSE, TRUE)
      } else {
        put_rows(part, beside, append = TRUE)
      }
    }
    failed
  })
}

# What went wrong, or "".
put_rows <- function(table, path, append = FALSE) {
  columns <- lapply(as.list(table_digits(table)), function(x) {
    if (!is.character(x)) return(whole_as_integer(x))  # 100000, not 1e+05
    known <- unique(x)  # most columns of words say the same few over and over
    as_bytes(guard_cells(known))[match(x, known)]
  })
  tryCatch(
    {
      data.table::fwrite(
        columns, path, append = append, quote = TRUE, na = "", eol = "\n", dec = ".", scipen = 0L,
        showProgress = FALSE, nThread = 1L
      )
      ""
    },
    error = conditionMessage
  )
}

# As many digits as a measured value may have, no more; counts are whole. A table with these is, to
# the last bit, what its file gives back.
table_digits <- function(table) {
  kind <- class(table)
  class(table) <- NULL  # assignment into a tibble takes longer than the digits
  table[] <- lapply(table, function(x) if (is.double(x)) core_table_digits(x) else x)
  class(table) <- kind
  table
}

whole_as_integer <- function(x) {
  if (!is.double(x) || any(is.nan(x)) || any(x != round(x) | abs(x) > 2e9, na.rm = TRUE)) return(x)
  as.integer(x)
}

# UTF-8 that the writer passes on as it is, where the session's locale could not hold it; one kind
# of line end, since readers change the others.
as_bytes <- function(x) {
  x <- gsub("\r\n?", "\n", enc2utf8(x))
  Encoding(x) <- "unknown"
  x
}

# A table of ours with a header: columns that `is_text(names)` is TRUE for as texts, so that sample
# "007" keeps its zeros, others as what they hold.
read_table_file <- function(
  file, is_text = function(names) rep(TRUE, length(names)), call = rlang::caller_env()
) {
  parse_rows(list(text = rawToChar(read_text_bytes(file, call))), is_text, NULL, file, call)
}

# The same of some parts of a file, the header first: some `columns`, or with NULL all. They are put
# together in a file of their own, which takes half the time of handing them on as a text.
read_table_parts <- function(file, from, to, is_text, columns, call = rlang::caller_env()) {
  parts <- tempfile(fileext = ".csv")
  on.exit(unlink(parts))
  failed <- core_copy_text(enc2native(file), from, to, enc2native(parts))
  if (nzchar(failed)) {
    bm_abort(
      c("{.file {basename(file)}} could not be read.", x = plain(failed)), "file_content",
      call = call
    )
  }
  parse_rows(list(file = parts), is_text, columns, file, call)
}

text_source <- function(text) {
  Encoding(text) <- "UTF-8"
  lines <- strsplit(text, "\r\n?|\n")[[1]]
  function() textConnection(lines, encoding = "UTF-8")
}

# `open()` gives what a reader of tables can take: a path or a connection.
parse_table <- function(open, sep, file, call) {
  not_table <- function(why) {
    bm_abort(
      c(
        "{.file {basename(file)}} is not a table of {separator_names[[sep]]}-separated values.",
        x = plain(why)
      ),
      "file_content", call = call
    )
  }
  as_told <- function(read) {
    source <- open()
    if (inherits(source, "connection")) on.exit(close(source))
    tryCatch(
      read(source), error = function(e) not_table(conditionMessage(e)),
      warning = function(w) not_table(conditionMessage(w))
    )
  }
  cells <- as_told(function(source) {
    utils::count.fields(source, sep, "\"", comment.char = "", blank.lines.skip = FALSE)
  })
  check_even_rows(cells, not_table)
  table <- as_told(function(source) {
    utils::read.csv(
      source, sep = sep, colClasses = "character", check.names = FALSE, strip.white = TRUE,
      na.strings = "", encoding = "UTF-8", fill = FALSE
    )
  })
  # empty columns of spreadsheets
  unused <- !nzchar(names(table)) & vapply(table, function(x) all(is.na(x)), NA)
  if (any(!nzchar(names(table)) & !unused)) {
    not_table(paste("column", which(!nzchar(names(table)))[1], "has no name"))
  }
  twice <- anyDuplicated(names(table)[!unused])
  if (twice) not_table(paste0("the column ", names(table)[!unused][twice], " is there twice"))
  table <- table[!unused]
  table[] <- lapply(table, unguard_cells)

  tibble::as_tibble(table)
}

# `source`: list(text) or list(file).
parse_rows <- function(source, is_text, columns, file, call) {
  found <- NULL
  read <- withCallingHandlers(
    tryCatch(
      {
        columns <- columns %||% names(parse_cells(source, NULL, NULL, rows = 0))
        texts <- columns[is_text(columns)]
        parse_cells(source, columns, list(character = texts))
      },
      error = function(e) found <<- conditionMessage(e)
    ),
    warning = function(w) {  # the reader must come to its end all the same
      found <<- conditionMessage(w)
      invokeRestart("muffleWarning")
    }
  )
  if (anyDuplicated(columns)) found <- "Two columns have the same name."
  if (is.null(found) && !all(validUTF8(as.character(unlist(lapply(read[texts], unique)))))) {
    found <- "It holds bytes that are not UTF-8."
  }
  if (!is.null(found)) {
    bm_abort(
      c("{.file {basename(file)}} is damaged.", x = plain(found)), "file_content", call = call
    )
  }
  for (name in texts) {
    known <- unique(read[[name]])
    plain <- unguard_cells(gsub("\"\"", "\"", known, fixed = TRUE))
    read[[name]] <- plain[match(read[[name]], known)]
  }
  tibble::new_tibble(read, nrow = nrow(read))
}

parse_cells <- function(source, columns, classes, rows = Inf) {
  do.call(data.table::fread, c(source, list(
    sep = ",", quote = "\"", dec = ".", header = TRUE, na.strings = "", select = columns,
    colClasses = classes, integer64 = "double", encoding = "UTF-8", nrows = rows,
    blank.lines.skip = FALSE, check.names = FALSE, data.table = FALSE, showProgress = FALSE,
    nThread = thread_count()
  )))
}

separator_names <- c(`,` = "comma", `;` = "semicolon", `\t` = "tab")

# Every row has as many cells as the header: the reader would fill or wrap the others without a
# word.
check_even_rows <- function(cells, not_table) {
  odd <- which(!is.na(cells) & cells != cells[1] & cells > 0)
  if (length(odd)) {
    not_table(paste("line", odd[1], "has", cells[odd[1]], "cells, the header", cells[1]))
  }
}
