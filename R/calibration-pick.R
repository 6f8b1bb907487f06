# Which calibration belongs to which picture: by the magnification in their names.

# "SEM 500x", "plate_x500-03.tif", "1.5kx" -> "500x", "500x", "1500x"; NA when a name says none.
magnification_of <- function(text) {
  number <- "([0-9]+(?:\\.[0-9]+)?)\\s?(k?)"
  after <- paste0("(?<![0-9A-Za-z.])", number, "[x\u00d7](?![0-9A-Za-z])")
  before <- paste0("(?<![0-9A-Za-z])[x\u00d7]\\s?", number, "(?![0-9A-Za-z])")
  vapply(
    text,
    function(t) {
      if (is.na(t)) return(NA_character_)
      found <- regmatches(t, regexec(after, t, perl = TRUE, ignore.case = TRUE))[[1]]
      if (length(found) == 0) {
        found <- regmatches(t, regexec(before, t, perl = TRUE, ignore.case = TRUE))[[1]]
      }
      if (length(found) == 0) return(NA_character_)
      paste0(
        format(as.numeric(found[2]) * if (nzchar(found[3])) 1000 else 1, scientific = FALSE), "x"
      )
    },
    "", USE.NAMES = FALSE
  )
}

# What a user hands over as a magnification: "500x", "500", 500.
check_magnification <- function(x, call = rlang::caller_env()) {
  check_encoding(x, "magnification", call)

  if (is.numeric(x)) check_number(x, "magnification", 0.01, 1e7, call = call)
  text <- if (is.numeric(x)) paste0(format(x, scientific = FALSE), "x") else x
  if (rlang::is_string(text) && grepl("^\\s*[0-9.]+\\s*$", text)) text <- paste0(trimws(text), "x")
  found <- if (rlang::is_string(text)) magnification_of(text) else NA
  if (is.na(found) || as.numeric(sub("x$", "", found)) <= 0) {
    bm_abort("{.arg magnification} must be a magnification such as {.val 500x}, not
              {if (is.atomic(x)) paste(x, collapse = ' ') else 'that'}.", "argument", call = call)
  }

  found
}

#' Read a folder of calibrations
#'
#' Reads every `*.calibration.yml` of a folder. [calibrate()] and `calibration: auto` of a batch
#' list pick from such a folder by magnification, which stands in the calibration's name (`"SEM
#' 500x"`).
#'
#' @param dir Path of the folder.
#' @return A list of `bm_calibration`, named by magnification (`"500x"`), or by the file where the
#'   name says none.
#' @section Errors: Class `bemrick_error_file` when the folder or its calibrations are missing,
#'   `bemrick_error_calibration` when two are for the same magnification.
#' @examples
#' dir <- tempfile()
#' dir.create(dir)
#' scale <- calibration_from_length(240, "100 um", name = "SEM 500x")
#' write_calibration(scale, file.path(dir, "sem-500x.calibration.yml"))
#' names(read_calibrations(dir))
#' @export
read_calibrations <- function(dir) {
  check_text(dir, "dir")
  if (!dir.exists(dir)) bm_abort("There is no folder {.file {dir}}.", "file")
  files <- calibrations_by_magnification(dir)
  if (length(files) == 0) {
    bm_abort(c(
      "The folder {.file {dir}} holds no calibration.",
      i = "Calibration files end in {.file .calibration.yml}; {.fn write_calibration} writes them."
    ), "file")
  }
  lapply(files, read_calibration)
}

calibration_files <- function(dir) list.files(dir, "\\.calibration\\.ya?ml$", full.names = TRUE)

# Paths named by magnification, or by the file where the calibration's name says none.
calibrations_by_magnification <- function(dir, call = rlang::caller_env()) {
  files <- calibration_files(dir)
  names <- vapply(files, function(file) magnification_of(read_calibration(file)$name %||% NA), "")
  twice <- which(duplicated(names) & !is.na(names))
  if (length(twice)) {
    both <- basename(files[which(names == names[twice[1]])])
    bm_abort(c(
      "{.file {both}} are both for {names[twice[1]]}.",
      i = "Keep one of them in the folder, or name the calibration itself instead of the folder."
    ), "calibration", call = call)
  }
  stats::setNames(files, ifelse(is.na(names), basename(files), names))
}

# The calibration of a folder for a magnification.
pick_calibration <- function(dir, magnification, call = rlang::caller_env()) {
  known <- read_calibrations(dir)
  if (is.na(magnification)) {
    bm_abort(
      c(
        "The name of this picture says no magnification, so none of the calibrations in
         {.file {dir}} can be picked.",
        i = "Give it: {.code magnification = \"500x\"}, or name one calibration file."
      ),
      "calibration", call = call
    )
  }
  if (!magnification %in% names(known)) {
    bm_abort(c(
      "There is no calibration for {magnification} in {.file {dir}}.",
      i = "It holds {names(known)}."
    ), "calibration", call = call)
  }
  known[[magnification]]
}
