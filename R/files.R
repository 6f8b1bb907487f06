# Files: written beside and renamed, so that nobody ever meets half of one; YAML read as data only.

# Calls write(path) for a file beside `file`, then renames it.
write_beside <- function(file, write, replace = FALSE, call = rlang::caller_env()) {
  check_text(file, "file", call)
  if (file.exists(file) && !replace) {
    bm_abort(c(
      "{.file {file}} is there already.",
      i = "Choose another name, or say {.code replace = TRUE}."
    ), "exists", call = call)
  }
  if (!dir.exists(dirname(file))) {
    bm_abort("There is no folder {.file {dirname(file)}} to write into.", "file", call = call)
  }
  beside <- paste0(file, ".part-", Sys.getpid())
  on.exit(unlink(beside))
  write(beside)
  if (!file.rename(beside, file)) bm_abort("{.file {file}} could not be written.", "file", call = call)
  invisible(file)
}

file_sha256 <- function(file) {
  con <- file(file, "rb")
  on.exit(close(con))
  unclass(as.character(openssl::sha256(con)))
}

write_yaml_file <- function(content, file, replace = FALSE, call = rlang::caller_env()) {
  text <- yaml::as.yaml(content, indent.mapping.sequence = TRUE, precision = 12, handlers = list(
    logical = function(x) structure(ifelse(is.na(x), "null", ifelse(x, "true", "false")), class = "verbatim")
  ))
  write_beside(file, function(path) writeLines(enc2utf8(text), path, sep = "", useBytes = TRUE), replace, call)
}

# A YAML file of ours: `bemrick: <kind> 1` and known keys only. Tags and code are never evaluated.
read_yaml_file <- function(file, kind, keys, call = rlang::caller_env()) {
  check_file(file, call)
  content <- tryCatch(
    # explicit handlers keep "y", "no" and dates the texts they were written as
    yaml::read_yaml(file, eval.expr = FALSE, handlers = list(
      "bool#yes" = function(x) if (tolower(x) == "true") TRUE else x,
      "bool#no" = function(x) if (tolower(x) == "false") FALSE else x
    )),
    error = function(e) {
      bm_abort(c(
        "{.file {basename(file)}} is not valid YAML.",
        x = plain(conditionMessage(e))
      ), "file_content", call = call)
    }
  )
  says <- if (is.list(content)) content$bemrick
  if (!identical(says, paste(kind, "1"))) {
    bm_abort(c(
      "{.file {basename(file)}} is no {kind} file.",
      i = "Its first line must be {.code bemrick: {kind} 1}."
    ), "file_content", call = call)
  }
  check_known(names(content), keys, "key", paste0(" in ", basename(file)), call)
  content
}

# A table with a header; every value a text, so that sample "007" keeps its zeros.
read_table_file <- function(file, call = rlang::caller_env()) {
  check_file(file, call)
  tryCatch(
    tibble::as_tibble(utils::read.csv(file, colClasses = "character", check.names = FALSE,
                                      strip.white = TRUE, na.strings = "", encoding = "UTF-8", fileEncoding = "UTF-8-BOM")),
    error = function(e) {
      bm_abort(c(
        "{.file {basename(file)}} is no comma-separated table.",
        x = plain(conditionMessage(e))
      ), "file_content", call = call)
    },
    warning = function(w) {
      bm_abort(c(
        "{.file {basename(file)}} is no comma-separated table.",
        x = plain(conditionMessage(w))
      ), "file_content", call = call)
    }
  )
}

write_table_file <- function(table, path) {
  utils::write.csv(table, path, row.names = FALSE, na = "", fileEncoding = "UTF-8")
}
