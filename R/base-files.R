# Files: the one place that opens a file for writing, and where text files are read. Everything is
# written beside, flushed, and only then renamed, so that a full disk costs nothing that was there;
# what is put together in memory first is read back as well. Of many files that are put in place
# together, none is flushed by itself.

longest_name <- 200  # bytes; file systems take 255, and what is written beside needs some of them

# Stops when `file` may not be written; called before work begins as well, so that nobody waits for
# a refusal.
check_target <- function(file, replace = FALSE, call = rlang::caller_env()) {
  check_text(file, "file", call)
  check_flag(replace, "replace", call)
  if (dir.exists(file)) bm_abort("{.file {file}} is a folder, not a file.", "file", call = call)
  if (file.exists(file) && !replace) {
    bm_abort(c(
      "{.file {file}} already exists.",
      i = "Choose another name, or set {.code replace = TRUE} ({.code --replace})."
    ), "exists", call = call)
  }
  if (!dir.exists(dirname(file))) {
    bm_abort("There is no folder {.file {dirname(file)}} to write into.", "file", call = call)
  }
  check_name_length(file, call)
  invisible(file)
}

check_name_length <- function(file, call = rlang::caller_env()) {
  size <- nchar(basename(file), "bytes")
  if (size > longest_name) {
    bm_abort(
      "The name of {.file {substr(basename(file), 1, 40)}...} has {size} bytes; at most
       {longest_name} are allowed.",
      "file", call = call
    )
  }
}

write_bytes <- function(
  bytes, file, replace = FALSE, call = rlang::caller_env(), flush = TRUE
) {
  write_beside(file, replace, call, function(beside) {
    failed <- core_write_bytes(beside, bytes, flush)
    if (!flush || nzchar(failed)) return(failed)
    same <- identical(readBin(beside, "raw", length(bytes) + 1), bytes)
    if (same) "" else "what was written does not read back"
  })
}

# A file of many parts, of which one is in memory at a time: each(add) makes them, add(bytes) takes
# them.
write_parts <- function(each, file, replace = FALSE, call = rlang::caller_env()) {
  write_beside(file, replace, call, function(beside) {
    failed <- core_write_bytes(beside, raw(), FALSE)
    each(function(bytes) {
      if (!nzchar(failed)) failed <<- core_write_bytes(beside, bytes, FALSE, TRUE)
    })
    failed
  })
}

# `put(path)` makes the file there, and gives what went wrong, or "".
write_beside <- function(file, replace, call, put) {
  check_target(file, replace, call)

  beside <- paste0(file, ".part-", Sys.getpid())
  on.exit(unlink(beside))
  failed <- put(enc2native(beside))
  if (!nzchar(failed) && !suppressWarnings(file.rename(beside, file))) {
    failed <- "it cannot be put in place"
  }
  if (nzchar(failed)) {
    bm_abort(c(
      "{.file {file}} could not be written: {failed}.",
      i = if (file.exists(file)) "The file that was there is untouched."
    ), "write", call = call)
  }

  invisible(file)
}

write_text <- function(lines, file, replace = FALSE, call = rlang::caller_env()) {
  write_bytes(text_bytes(lines), file, replace, call)
}

write_json <- function(content, file, replace = FALSE, pretty = FALSE, call = rlang::caller_env()) {
  text <- jsonlite::toJSON(
    content, auto_unbox = TRUE, digits = NA, pretty = pretty, null = "null", na = "null"
  )
  write_text(text, file, replace, call)
}

text_bytes <- function(lines) {
  charToRaw(paste0(paste(enc2utf8(as.character(lines)), collapse = "\n"), "\n"))
}

file_bytes <- function(file) readBin(file, "raw", file.size(file))

# Of bytes in memory it takes half the time.
file_sha256 <- function(file) {
  if (isTRUE(file.size(file) < 1e8)) {
    return(unclass(as.character(openssl::sha256(file_bytes(file)))))
  }
  con <- file(file, "rb")
  on.exit(close(con))
  unclass(as.character(openssl::sha256(con)))
}

is_link <- function(path) Sys.readlink(path) %in% c("", NA) == FALSE

is_file <- function(path) file.exists(path) && !dir.exists(path)

# Paths that do not depend on a folder.
is_rooted <- function(paths) grepl("^(/|[A-Za-z]:)", paths)

absolute_path <- function(path) normalizePath(path, "/", mustWork = FALSE)

# A path as seen from a folder, both there: by way of the folders they share, so that it holds when
# these are moved together.
relative_path <- function(file, folder) {
  to <- strsplit(normalizePath(file, "/", FALSE), "/", fixed = TRUE)[[1]]
  from <- strsplit(normalizePath(folder, "/", FALSE), "/", fixed = TRUE)[[1]]
  shorter <- seq_len(min(length(to), length(from)))
  shared <- match(FALSE, to[shorter] == from[shorter], length(shorter) + 1) - 1
  if (shared < 2) return(paste(to, collapse = "/"))  # nothing but the root
  paste(c(rep("..", length(from) - shared), to[-seq_len(shared)]), collapse = "/")
}

has_order_mark <- function(bytes) {
  length(bytes) >= 3 && identical(bytes[1:3], as.raw(c(0xef, 0xbb, 0xbf)))
}

# The bytes of a text file, known to be UTF-8, without a byte order mark and with a last line end.
read_text_bytes <- function(file, call = rlang::caller_env()) {
  check_file(file, call)

  bytes <- file_bytes(file)
  if (has_order_mark(bytes)) bytes <- bytes[-(1:3)]
  not_text <- function(why) {
    bm_abort(c(
      "{.file {basename(file)}} is not a text file: {why}.",
      i = "Save it as UTF-8 text (in a spreadsheet: CSV UTF-8)."
    ), "file_content", call = call)
  }
  if (any(bytes == 0)) not_text("it holds bytes of value zero")
  if (!validUTF8(rawToChar(bytes))) {
    lines <- strsplit(rawToChar(bytes), "\n", fixed = TRUE, useBytes = TRUE)[[1]]
    not_text(paste("line", which(!validUTF8(lines))[1], "is not UTF-8"))
  }
  if (length(bytes) && bytes[length(bytes)] != as.raw(10)) bytes <- c(bytes, as.raw(10))

  bytes
}

read_text <- function(file, call = rlang::caller_env()) {
  text <- rawToChar(read_text_bytes(file, call))
  Encoding(text) <- "UTF-8"
  if (grepl("\r", text, fixed = TRUE)) gsub("\r\n?", "\n", text) else text
}

read_json <- function(file, ..., call = rlang::caller_env()) {
  text <- read_text(file, call)
  tryCatch(jsonlite::fromJSON(text, ...), error = function(e) {
    bm_abort("{.file {basename(file)}} is not valid JSON.", "file_content", parent = e, call = call)
  })
}

# A folder for files of ours, which may be there already.
make_folder <- function(folder, call = rlang::caller_env()) {
  if (dir.exists(folder)) return(invisible(folder))
  if (file.exists(folder) || !dir.create(folder, showWarnings = FALSE)) {
    bm_abort("The folder {.file {folder}} cannot be made.", "file", call = call)
  }
  invisible(folder)
}
