# A batch list made from a folder of pictures, whose names encode batch, sample and field.

picture_ends <- "[.](png|tiff?|jpe?g)$"

picture_files <- function(dir) list.files(dir, picture_ends, ignore.case = TRUE)

has_pictures <- function(dir) length(picture_files(dir)) > 0

pictures_in <- function(dir, call = rlang::caller_env()) {
  if (!dir.exists(dir)) bm_abort("There is no folder {.file {dir}}.", "file", call = call)
  files <- picture_files(dir)
  if (length(files) == 0) {
    bm_abort("There is no picture (PNG, TIFF, JPEG) in {.file {dir}}.", "file", call = call)
  }
  files
}

# Those whose names end so; all where `end` is empty.
pictures_with_end <- function(dir, end, call = rlang::caller_env()) {
  files <- pictures_in(dir, call)
  if (length(end) == 0) return(files)
  files <- files[endsWith(tolower(files), tolower(end))]
  if (length(files) == 0) {
    bm_abort("There is no picture {.file *{end}} in {.file {dir}}.", "file", call = call)
  }
  files
}

#' Make a batch list from a folder
#'
#' @param dir Folder of pictures (PNG, TIFF, JPEG).
#' @param names How file names encode batch, sample and field: a string with `{batch}`, `{sample}`
#'   and `{field}` (or some of them) and whatever stands between. Where it ends in an extension,
#'   such as `.tif`, only pictures with that one are taken; else all are, and extensions do not
#'   count.
#'   `{field}` is a whole number; `{sample}` holds no `-`, `_`, point or space; `{batch}` is
#'   whatever is left. `"{batch}-{sample}{field}"` reads `dp3-0817-a1` as batch `dp3-0817`, sample
#'   `a`, field `1`. What is not in the text is the folder's name (batch), `1` (sample), or counted
#'   (field).
#' @param calibration What the column `calibration` says: a file, `"auto"`, `"tags"`, or `NA`.
#' @return A tibble with the columns of a batch list, paths of images relative to `dir`.
#' @section Errors: Class `bemrick_error_argument` for a picture whose name does not fit, and for
#'   two pictures of one field; `bemrick_error_file` for a folder that is not there or holds no
#'   picture.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "plates", samples = 1, fields = 2)
#' list_pictures(file.path(dir, "diffuser-plates", "images"), "{batch}-{sample}{field}")
#' @export
list_pictures <- function(dir, names = "{batch}-{sample}{field}", calibration = NA) {
  check_text(dir, "dir")
  check_text(names, "names")
  files <- pictures_with_end(dir, regmatches(names, regexpr(picture_ends, names, TRUE)))
  parts <- name_parts(sub("[.][^.]*$", "", files), sub(picture_ends, "", names, TRUE), files)
  batch <- parts$batch %||% rep(basename(normalizePath(dir)), length(files))
  sample <- parts$sample %||% rep("1", length(files))
  counted <- stats::ave(seq_along(files), batch, sample, FUN = seq_along)
  list <- tibble::tibble(
    batch = batch, sample = sample, field = parts$field %||% as.character(counted), image = files,
    calibration = as.character(calibration)
  )
  twice <- which(duplicated(list[c("batch", "sample", "field")]))
  if (length(twice)) {
    bm_abort(
      c(
        "{.file {files[twice[1]]}} is of the same batch, sample and field as another picture.",
        i = "Use {.arg names} to say how file names encode them."
      ),
      "argument"
    )
  }
  list
}

# list(batch, sample, field): texts, as far as the pattern has them.
name_parts <- function(stems, pattern, files, call = rlang::caller_env()) {
  fields <- c("{batch}" = "(.+)", "{sample}" = "([^-_. ]+?)", "{field}" = "([0-9]+)")
  found <- regmatches(pattern, gregexpr("\\{[a-z]*\\}", pattern))[[1]]
  good <- length(found) > 0 && all(found %in% names(fields)) && !anyDuplicated(found)
  if (!good) {
    bm_abort(
      c(
        "{.arg names} must hold {.code {{batch}}}, {.code {{sample}}} or {.code {{field}}}, each at
         most once.",
        i = "For example {.val {'{batch}-{sample}{field}'}}."
      ),
      "argument", call = call
    )
  }
  between <- strsplit(paste0(pattern, "\u0001"), "\\{[a-z]*\\}")[[1]]
  between <- sub("\u0001", "", between, fixed = TRUE)
  between <- gsub("([][{}()+*^$|\\\\?.])", "\\\\\\1", between)
  regex <- paste0("^", paste0(between, c(fields[found], ""), collapse = ""), "$")
  parts <- regmatches(stems, regexec(regex, stems, perl = TRUE))
  strange <- which(lengths(parts) == 0)
  if (length(strange)) {
    bm_abort(
      c(
        "The name {.file {files[strange[1]]}} does not fit {.val {pattern}}.",
        i = if (length(strange) > 1) "{length(strange) - 1} more {?does/do} not fit either."
      ),
      "argument", call = call
    )
  }
  values <- lapply(seq_along(found), function(k) vapply(parts, function(p) p[k + 1], ""))
  stats::setNames(values, gsub("[{}]", "", found))
}

# Folders stand for their pictures.
pictures_of_words <- function(words) {
  unlist(lapply(words, function(word) {
    if (dir.exists(word)) file.path(word, pictures_in(word)) else word
  }))
}
