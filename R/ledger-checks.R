# Verifications of calibrations, kept in a ledger.

#' Keep verifications of calibrations
#'
#' `file_check()` files a verification in a ledger, once. `calibration_trend()` gives those of one
#' calibration over time, as a trend that can be plotted and charted ([control_chart()]).
#' `calibration_status()` says of every calibration that runs were measured with, or that was
#' verified, whether it is in order.
#'
#' A calibration is told by its name. When it is made again, the next verifications are of the new
#' one, and the status is that of the new one alone. [file_run()] warns when a calibration of the
#' run is not in order.
#'
#' @param ledger A `bm_ledger` from [open_ledger()].
#' @param check A `bm_check` from [verify_calibration()].
#' @param instrument,operator What and who measured, if it is to be kept.
#' @param calibration Name of the calibration; of one without a name, that of its file.
#' @param from,to Only verifications from this day on, or up to it.
#' @param on The day to judge by.
#' @param soon So many days before a calibration is due it is said to be due soon.
#' @return `file_check()`: the name of the new entry, invisibly. `calibration_trend()`: a `bm_trend`
#'   (see [ledger_trend()]) of the deviation from the known length in percent, with its expanded
#'   uncertainty (k = 2) as interval and the tolerance as limits; `changed` says `"calibration"`
#'   where the calibration was made again. `calibration_status()`: a tibble, one row for each
#'   calibration: `calibration`, `pixel` (one side), `unit`, `made`, `due`, `standard`, `checks`
#'   (how many), `checked` (the newest), `deviation` and `uncertainty` (of the newest, in percent),
#'   `state`: `"overdue"`, `"off"` (the newest verification failed, or deviates by more than its
#'   uncertainty), `"drifting"` (its control chart has an alarm, by the rules of Western Electric,
#'   with the first eight as baseline), `"due soon"` or `"in order"`; and `why`.
#' @section Errors: Class `bemrick_error_filed` when the verification is filed already,
#'   `bemrick_error_argument` when the ledger has none of this calibration.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' ledger <- open_ledger(demo_ledger(tempfile(fileext = ".sqlite")))
#' calibration_status(ledger, on = "2026-11-02")[c("calibration", "state", "why")]
#' checks <- calibration_trend(ledger, "SEM 500x")
#' plot(checks)
#' control_chart(checks, baseline = 8)
#'
#' ruler <- calibrate(
#'   simulate_ruler(pitch = 24, seed = 1),
#'   calibration_from_length(240, "100 um", name = "Light 200x")
#' )
#' file_check(ledger, verify_calibration(ruler, "10 um"), operator = "A. Lind")
#' close_ledger(ledger)
#' @export
file_check <- function(ledger, check, instrument = NULL, operator = NULL) {
  steady_session()
  check_open(ledger)
  check_class(check, "bm_check", "check", "Make one with {.fn verify_calibration}.")
  for (name in c("instrument", "operator")) {
    value <- list(instrument = instrument, operator = operator)[[name]]
    if (!is.null(value)) check_text(value, name)
  }
  put_entry(ledger, tables_of_check(check, instrument, operator), NULL, NULL, "check")
}

tables_of_check <- function(check, instrument = NULL, operator = NULL) {
  numbers <- format(
    unlist(check[c("known", "measured", "deviation", "uncertainty", "tolerance")]), digits = 15
  )
  told <- c(
    calibration_name(check$calibration), check$calibration$pixel, check$picture$sha256, numbers,
    if (is.null(check$picture$sha256)) check$checked
  )
  list(
    ledger_entries = tibble::tibble(
      product = NA_character_, measured = check$checked, dir = NA_character_,
      run_sha256 = as.character(openssl::sha256(paste(told, collapse = "|"))),
      specification = NA_character_, specification_sha256 = NA_character_,
      versions = versions_text()
    ),
    ledger_calibrations = calibrations_filed(list(check$calibration)),
    ledger_traceability = traceability_filed(list(check$calibration)),
    ledger_checks = tibble::tibble(
      known = check$known, measured = check$measured, unit = check$unit,
      deviation = check$deviation, uncertainty = check$uncertainty, tolerance = check$tolerance,
      verdict = check$verdict, standard = check$standard %||% NA_character_,
      picture = basename(check$picture$file %||% NA_character_),
      picture_sha256 = check$picture$sha256 %||% NA_character_,
      instrument = instrument %||% "", operator = operator %||% ""
    )
  )
}
