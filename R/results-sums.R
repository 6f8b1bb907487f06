# The hashes of all files of a results folder, in the form that sha256sum -c reads.

sums_file <- "SHA256SUMS"

write_sums <- function(dir) {
  files <- setdiff(list.files(dir, recursive = TRUE), sums_file)
  put_sums(dir, files, vapply(file.path(dir, files), file_sha256, ""))
}

put_sums <- function(dir, files, sums) {
  in_order <- order(files, method = "radix")  # in any locale
  write_text(
    paste0(sums, "  ", files)[in_order], file.path(dir, sums_file), replace = TRUE
  )
}

# A report that was made again is known by its new hash; of results of earlier versions there are no
# hashes.
renew_sums <- function(dir, file) {
  if (!file.exists(file.path(dir, sums_file))) return(invisible())
  known <- read_sums(dir)
  known <- known[known$file != file, ]
  put_sums(dir, c(known$file, file), c(known$sha256, file_sha256(file.path(dir, file))))
}

read_sums <- function(dir, call = rlang::caller_env()) {
  lines <- strsplit(read_text(file.path(dir, sums_file), call), "\r?\n")[[1]]
  lines <- lines[nzchar(lines)]
  parts <- regmatches(lines, regexec("^([0-9a-f]{64}) [ *](.+)$", lines))
  outside <- vapply(parts, function(p) {
    length(p) != 3 || is_rooted(p[3]) || grepl("(^|/)\\.\\.(/|$)", p[3])
  }, NA)
  if (any(outside)) {
    bm_abort(
      "{.file {sums_file}} is damaged in line {which(outside)[1]}.", "file_content", call = call
    )
  }
  tibble::tibble(
    file = vapply(parts, function(p) p[3], ""), sha256 = vapply(parts, function(p) p[2], "")
  )
}

# Of results that are passed on: these files must be as they were written. Of earlier versions
# nothing is known.
check_untouched <- function(dir, files, call = rlang::caller_env()) {
  if (!file.exists(file.path(dir, sums_file))) return(invisible())
  known <- read_sums(dir, call)
  known <- known[known$file %in% files, ]
  for (k in seq_len(nrow(known))) {
    file <- file.path(dir, known$file[k])
    check_file(file, call)
    if (!identical(file_sha256(file), known$sha256[k])) {
      bm_abort(
        c(
          "{.file {file}} was changed after the run.",
          i = "{.fn verify_results} says what else is not as it was."
        ),
        "file_content", call = call
      )
    }
  }
}

# A number that a run is known by: twelve letters and digits, of what its record says.
results_number <- function(dir) number_of_record(file_sha256(file.path(dir, run_file)))

number_of_record <- function(sha256) substr(as.character(openssl::sha256(sha256)), 1, 12)
