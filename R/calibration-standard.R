# What a calibration rests on and how long it holds: the length standard with its certificate, and
# the day it is due again.

standard_keys <- c("bemrick", "name", "uncertainty", "coverage", "length", "certificate", "due")

#' Length standards
#'
#' A ruler, graticule or grid has a length that its certificate states with an uncertainty. That
#' uncertainty is part of every calibration made with it, and of every result: `add_standard()` adds
#' it, and the budget of a result shows it by itself ([uncertainty_budget()]). `set_due()` says when
#' a calibration must be made or verified again; later runs warn of it.
#'
#' A standard file (YAML) keeps what the certificate says:
#' ```
#' bemrick: standard 1
#' name: Stage graticule 1 mm
#' uncertainty: 0.4 um
#' coverage: 2
#' length: 1 mm
#' certificate: K 4711
#' due: 2028-03-01
#' ```
#'
#' @param name Name of the standard.
#' @param uncertainty Its expanded uncertainty, as the certificate states it: a share of the length
#'   (`"0.05 %"`), or a length (`"0.4 um"`), which needs `length`.
#' @param coverage Coverage factor of that uncertainty (*k*).
#' @param length The certified length, such as `"1 mm"`.
#' @param certificate Number of the certificate.
#' @param due The day the certificate ends, or the calibration is due again: `"2028-03-01"` or a
#'   `Date`.
#' @param file Path of a standard file.
#' @param calibration A `bm_calibration`.
#' @param standard A `bm_standard`, or the path of its file.
#' @return `length_standard()` and `read_standard()`: a `bm_standard`, with the relative standard
#'   `uncertainty`. `add_standard()` and `set_due()`: the calibration; the relative standard
#'   uncertainty of the first has grown in quadrature (JCGM 100).
#' @section Errors: Class `bemrick_error_quantity` for what is not a share or a length,
#'   `bemrick_error_file_content` for what is not a standard file, `bemrick_error_calibration` for a
#'   calibration that has a standard already. When the certificate ended before the calibration was
#'   made, a warning of class `bemrick_warning_overdue`.
#' @examples
#' graticule <- length_standard(
#'   "Stage graticule 1 mm", "0.4 um", length = "1 mm", certificate = "K 4711"
#' )
#' ruler <- simulate_ruler(pitch = 24, seed = 1)
#' scale <- calibration_from_marks(ruler, "10 um", name = "Light 200x")
#' scale |> add_standard(graticule) |> set_due("2027-05-01")
#' @export
length_standard <- function(
  name, uncertainty, coverage = 2, length = NULL, certificate = NULL, due = NULL
) {
  check_text(name, "name")
  check_number(coverage, "coverage", 1, 5)
  if (!is.null(certificate)) check_text(certificate, "certificate")
  said <- list(
    name = name, uncertainty = stated_share(uncertainty, length) / coverage,
    certificate = certificate, due = if (!is.null(due)) day_text(due, "due")
  )
  structure(Filter(Negate(is.null), said), class = c("bm_standard", "bemrick"))
}

# What a certificate states, as a share of the length.
stated_share <- function(uncertainty, length, call = rlang::caller_env()) {
  stated <- parse_quantity(uncertainty, "uncertainty", call)
  share <- if (stated$unit %in% names(length_in_um) && stated$power == 1) {
    if (is.null(length)) {
      bm_abort(
        c(
          "{.arg uncertainty} is a length, and {.arg length} is missing.",
          i = "Give the certified length, or a share such as {.val 0.05 %}."
        ),
        "quantity", call = call
      )
    }
    whole <- check_true_length(length, "length", "1 mm", call)
    stated$value * unit_ratio(stated$unit, whole$unit) / whole$value
  } else {
    parse_share(uncertainty, "uncertainty", call)
  }
  if (!isTRUE(share >= 0 && share < 0.2)) {
    bm_abort(
      "{.arg uncertainty} must be a share or a length, from zero to a fifth of the whole, not
       {.val {as.character(uncertainty)}}.",
      "quantity", call = call
    )
  }
  share
}

#' @rdname length_standard
#' @export
read_standard <- function(file) {
  given <- read_yaml_file(file, "standard", standard_keys)
  where <- paste0(" in ", basename(file))
  text <- function(key) text_or_none(given[[key]], key, where, rlang::caller_env())
  for (key in c("name", "uncertainty")) {
    if (is.null(given[[key]])) bm_abort("{.field {key}} is missing{where}.", "file_content")
  }
  coverage <- given$coverage %||% 2
  length_standard(
    text("name"), given$uncertainty, coverage, given$length, text("certificate"), text("due")
  )
}

#' @export
format.bm_standard <- function(x, ...) paste0("<length standard> ", standard_text(x))

standard_text <- function(x) {
  paste0(
    x$name, " \u00b1 ", signif(100 * x$uncertainty, 2), " % (standard uncertainty)",
    if (!is.null(x$certificate)) paste0(", certificate ", x$certificate),
    if (!is.null(x$due)) paste0(" to ", x$due)
  )
}

#' @rdname length_standard
#' @export
add_standard <- function(calibration, standard) {
  check_calibration(calibration)
  if (rlang::is_string(standard)) standard <- read_standard(standard)
  check_class(standard, "bm_standard", "standard", "Make one with {.fn length_standard}.")
  if (!is.null(calibration$standard)) {
    bm_abort(
      "The calibration has a standard already: {.val {calibration$standard$name}}.", "calibration"
    )
  }
  made <- calibration$date %||% format(Sys.Date())
  if (!is.null(standard$due) && made > standard$due) {
    bm_warn(
      "The certificate of {.val {standard$name}} ended on {standard$due}, before this calibration
       was made ({made}).",
      "overdue"
    )
  }
  calibration$uncertainty <- sqrt(calibration$uncertainty^2 + standard$uncertainty^2)
  calibration$standard <- unclass(standard)
  calibration
}

#' @rdname length_standard
#' @export
set_due <- function(calibration, due) {
  check_calibration(calibration)
  calibration$due <- day_text(due, "due")
  calibration
}

# As files hold it, and back. NULL where there is none.
standard_content <- function(standard) {
  if (is.null(standard)) return(NULL)
  standard$uncertainty <- paste(format(100 * standard$uncertainty, digits = 4), "%")
  standard
}

standard_of_content <- function(given, where, call = rlang::caller_env()) {
  if (is.null(given)) return(NULL)
  keys <- c("name", "uncertainty", "certificate", "due")
  if (is.list(given)) {
    check_known(names(given), keys, "key", paste0(" of standard", where), call)
  }
  if (!is.list(given) || is.null(given$name) || is.null(given$uncertainty)) {
    bm_abort(
      "{.field standard}{where} must give {.field name} and {.field uncertainty}.", "file_content",
      call = call
    )
  }
  text <- function(key) text_or_none(given[[key]], key, where, call)
  share <- parse_share(given$uncertainty, "uncertainty", call)
  unclass(length_standard(
    text("name"), share, 1, NULL, text("certificate"), text("due")
  ))
}

# Calibrations that were due before today, each said once. Of what has no name the way it was found
# is its name.
warn_of_due <- function(calibrations, today = Sys.Date()) {
  for (c in unique(Filter(is.list, calibrations))) {
    late <- days_late(c$due, today)
    if (late <= 0) next
    bm_warn(
      c(
        "The calibration {.val {calibration_name(c)}} was due on {c$due}, {late} day{?s} ago.",
        i = "Calibrate again, or verify it with {.fn verify_calibration} and set a new day."
      ),
      "overdue"
    )
  }
}

days_late <- function(due, today) {
  if (is.null(due) || is.na(due)) return(-Inf)
  as.integer(today - as.Date(due))
}

calibration_name <- function(c) c$name %||% c$file %||% c$found
