# The lab's own paper: who it is, its logo, who signs, and in which language its reports speak.

lab_keys <- c(
  "bemrick", "name", "address", "logo", "accreditation", "signatories", "language", "decimal",
  "paper"
)

#' Read a lab file
#'
#' A lab file (YAML) says what stands at the head and the foot of reports:
#' ```
#' bemrick: lab 1
#' name: Ardlow Works, materials laboratory
#' address: [4 Kiln Lane, Ardlow]
#' logo: ardlow.png
#' accreditation: Testing laboratory no. 0000 (made up)
#' signatories: [Measured by, Approved by]
#' language: en
#' decimal: "."
#' paper: A4
#' ```
#' Only `name` is needed. `logo` is a PNG or JPEG, its path relative to the file. `language` is `en`
#' or `de`: labels of reports; names and remarks stay as they were written. `decimal` is the sign in
#' numbers, by default that of the language. `paper` is `A4` or `letter`.
#'
#' @param file Path of the file.
#' @return A `bm_lab`.
#' @section Errors: Class `bemrick_error_file_content` for what is not such a file.
#' @examples
#' read_lab(system.file("extdata", "ardlow.lab.yml", package = "bemrick"))
#' @export
read_lab <- function(file) {
  given <- read_yaml_file(file, "lab", lab_keys)
  where <- paste0(" in ", basename(file))
  text <- function(name, default = "") {
    value <- given[[name]] %||% default
    if (rlang::is_string(value)) return(value)
    bm_abort(
      "{.field {name}}{where} must be one text.", "file_content", call = rlang::caller_env(2)
    )
  }
  texts <- function(name) {
    value <- given[[name]]
    if (is.list(value)) value <- unlist(value)
    if (is.null(value) || is.character(value)) return(as.character(value))
    bm_abort("{.field {name}}{where} must be texts.", "file_content", call = rlang::caller_env(2))
  }
  one_of <- function(name, choices) {
    value <- text(name, choices[1])
    if (value %in% choices) return(value)
    bm_abort(
      "{.field {name}}{where} must be one of {.val {choices}}, not {.val {value}}.",
      "file_content", call = rlang::caller_env(2)
    )
  }
  if (!nzchar(text("name"))) bm_abort("{.field name} is missing{where}.", "file_content")
  language <- one_of("language", c("en", "de"))
  lab <- list(
    name = text("name"), address = texts("address"), accreditation = text("accreditation"),
    signatories = texts("signatories"), language = language,
    decimal = one_of("decimal", unique(c(if (language == "de") ",", ".", ","))),
    paper = one_of("paper", c("A4", "letter")),
    logo = if (!is.null(given$logo)) read_logo(text("logo"), dirname(file))
  )
  structure(lab, class = c("bm_lab", "bemrick"))
}

# list(bytes, kind, what): read as a picture first.
read_logo <- function(path, folder, call = rlang::caller_env()) {
  file <- if (is_rooted(path)) path else file.path(folder, path)
  check_file(file, call)
  kind <- tryCatch(picture_header(file)$format, bemrick_error = function(e) "none")
  if (!kind %in% c("png", "jpeg") || file.size(file) > 2e6) {
    bm_abort(
      "The logo {.file {basename(file)}} must be a PNG or JPEG of at most 2 MB.", "file_content",
      call = call
    )
  }
  list(bytes = file_bytes(file), kind = kind, what = "logo")
}

check_lab <- function(lab, call = rlang::caller_env()) {
  if (is.null(lab)) return(NULL)
  if (rlang::is_string(lab)) return(read_lab(lab))
  check_class(lab, "bm_lab", "lab", "Read one with {.fn read_lab}.", call)
}

#' @export
format.bm_lab <- function(x, ...) {
  c(
    paste0("<lab> ", x$name),
    if (length(x$address)) paste0("  ", paste(x$address, collapse = ", ")),
    if (nzchar(x$accreditation)) paste0("  ", x$accreditation),
    if (length(x$signatories)) paste0("  signed: ", paste(x$signatories, collapse = ", ")),
    paste0("  reports in ", x$language, ", decimals with \"", x$decimal, "\", on ", x$paper)
  )
}
