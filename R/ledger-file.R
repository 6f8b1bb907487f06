# Filing: what a results folder says, put into a ledger as one entry.

#' File a run in a ledger
#'
#' Files what the results folder of a run says: of its batches, samples and fields the verdicts and
#' every limited quantity with its interval, limits and verdict; of samples also the usual
#' quantities of sizes and porosity that no limit is set on; method, specification, calibrations,
#' hashes, versions, and where the results lie. Single objects stay in the results folder unless
#' they are asked for. An entry is filed whole or not at all; the same run is filed once.
#'
#' What is filed stays. A wrong entry is corrected by filing the right run with `replaces` and
#' `why`, or by `withdraw_entry()`; both stay in the ledger, and what looks at it takes the newest.
#'
#' @param ledger A `bm_ledger` from [open_ledger()].
#' @param run Results folder of [run_batch()], or its `bm_run`.
#' @param product What was measured; `NULL` takes the specification's `product`, else the method's
#'   title.
#' @param instrument,operator What and who measured; `NULL` takes the columns of these names of the
#'   batch list, if it has them.
#' @param replaces The entry that this one corrects.
#' @param why Why; needed with `replaces`.
#' @param objects Whether to file a core of columns of every object too.
#' @param entry The entry to withdraw.
#' @return The name of the new entry, twelve letters and digits, invisibly.
#' @section Errors: Class `bemrick_error_filed` when the run is filed already, or the entry to
#'   correct is corrected already; `bemrick_error_file` and `bemrick_error_file_content` for folders
#'   that do not hold results, or whose tables were changed after the run; `bemrick_error_argument`
#'   for an entry that is not there;
#'   `bemrick_error_ledger` when the database refuses. A warning of class `bemrick_warning_overdue`
#'   for every calibration of the run that is overdue or has drifted ([calibration_status()]).
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(
#'   file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
#'   file.path(lab, "beads.spec.yml"), out = out
#' )
#' ledger <- open_ledger(file.path(dir, "lab.sqlite"), create = TRUE)
#' entry <- file_run(ledger, out, instrument = "SEM 1")
#' find_entries(ledger)
#' withdraw_entry(ledger, entry, "pictures of another batch")
#' find_entries(ledger)
#' close_ledger(ledger)
#' @export
file_run <- function(
  ledger, run, product = NULL, instrument = NULL, operator = NULL, replaces = NULL, why = NULL,
  objects = FALSE
) {
  steady_session()
  check_open(ledger)
  check_flag(objects, "objects")
  given <- list(product = product, instrument = instrument, operator = operator)
  for (name in names(given)) {
    if (!is.null(given[[name]])) check_text(given[[name]], name)
  }
  check_correction(replaces, why)
  content <- tables_of_results(folder_of_run(run), given, objects)
  entry <- put_entry(ledger, content, replaces, why)
  remind_of_calibrations(ledger, content$ledger_calibrations)
  invisible(entry)
}

#' @rdname file_run
#' @export
withdraw_entry <- function(ledger, entry, why) {
  check_open(ledger)
  check_text(entry, "entry")
  check_text(why, "why")
  old <- entry_row(ledger, entry)
  content <- list(ledger_entries = tibble::tibble(
    product = old$product, measured = old$measured, dir = NA_character_,
    run_sha256 = old$run_sha256, specification = NA_character_,
    specification_sha256 = NA_character_, versions = versions_text()
  ))
  put_entry(ledger, content, entry, why, "withdrawal")
}

versions_text <- function() {
  one <- list(bemrick = as.character(utils::packageVersion("bemrick")))
  as.character(jsonlite::toJSON(one, auto_unbox = TRUE))
}

check_correction <- function(replaces, why, call = rlang::caller_env()) {
  if (is.null(replaces) && is.null(why)) return(invisible())
  if (is.null(replaces)) {
    bm_abort("{.arg why} goes with {.arg replaces}.", "argument", call = call)
  }
  check_text(replaces, "replaces", call)
  if (is.null(why)) {
    bm_abort("Say by {.arg why} what was wrong with the entry.", "argument", call = call)
  }
  check_text(why, "why", call)
}

folder_of_run <- function(run, call = rlang::caller_env()) {
  if (inherits(run, "bm_run")) {
    if (!is.null(run$dir)) return(run$dir)
    bm_abort(
      c(
        "This run has no results folder, so nobody could look its results up.",
        i = "Run it with {.arg out}."
      ),
      "argument", call = call
    )
  }
  check_text(run, "run", call)
}

# Puts the tables of one entry into the ledger. Their column `entry` and the row's own are set here.
put_entry <- function(ledger, content, replaces, why, kind = "run", call = rlang::caller_env()) {
  run <- content$ledger_entries$run_sha256
  entry <- number_of_record(paste(c(run, replaces), collapse = "|"))
  head <- tibble::tibble(
    entry = entry, filed = utc_time(), kind = kind, replaces = replaces %||% NA_character_,
    why = why %||% NA_character_, content$ledger_entries
  )
  content$ledger_entries <- head
  others <- setdiff(names(content), "ledger_entries")
  content[others] <- lapply(content[others], function(rows) {
    if (NROW(rows)) tibble::tibble(entry = entry, rows)
  })
  in_transaction(ledger, {
    check_new_entry(ledger, entry, run, replaces, kind, call)
    for (table in names(content)) add_rows(ledger, table, content[[table]])
  }, call)
  invisible(entry)
}

check_new_entry <- function(ledger, entry, run, replaces, kind, call) {
  if (is.null(replaces)) {
    there <- ask_ledger(
      ledger, "SELECT entry, filed FROM ledger_entries WHERE run_sha256 = $1 ORDER BY filed",
      list(run)
    )
    if (nrow(there) == 0) return(invisible())
    bm_abort(
      c(
        "This {if (kind == 'check') 'verification' else 'run'} is filed already, as entry
         {.val {there$entry[1]}} of {substr(there$filed[1], 1, 10)}.",
        i = if (kind == "run") "To correct an entry name it by {.arg replaces}."
      ),
      "filed", call = call
    )
  }
  entry_row(ledger, replaces, call)
  later <- ask_ledger(
    ledger, "SELECT entry FROM ledger_entries WHERE replaces = $1", list(replaces)
  )$entry
  if (length(later)) {
    bm_abort(
      c(
        "Entry {.val {replaces}} is corrected already, by {.val {later}}.",
        i = "Correct that one."
      ),
      "filed", call = call
    )
  }
}
