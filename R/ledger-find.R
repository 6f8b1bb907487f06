# Looking things up in a ledger.

#' What a ledger holds
#'
#' `find_entries()`: the entries that fit what is asked, newest first. `ledger_entry()`: all that is
#' filed of one. `export_ledger()`: every table as a CSV file.
#'
#' @param ledger A `bm_ledger` from [open_ledger()].
#' @param product,batch,verdict,instrument Only entries of this product, with a batch of this name,
#'   of this verdict, or measured by this instrument.
#' @param from,to Only entries measured from this day on, or up to it: `"2026-03-01"` or a `Date`.
#' @param superseded Whether to show entries that were corrected or withdrawn, and withdrawals, too.
#' @param entry Name of an entry.
#' @param dir Folder to make; it must not exist, or be empty.
#' @return `find_entries()`: a tibble, one row per batch of an entry: `entry`, `filed`, `measured`,
#'   `product`, `batch`, `samples`, `verdict` (`"none"` without a specification), `why`, `method`,
#'   `instrument`, `operator`, `dir`, `kind`, `replaces`, `replaced_by`, `reason`.
#'   `ledger_entry()`: a `bm_entry`, a list of tibbles: `entry`, `batches`, `samples`, `fields`,
#'   `quantities`, `methods`, `calibrations`, `traceability`, `checks`, `objects`.
#'   `export_ledger()`: the folder, invisibly.
#' @section Errors: Class `bemrick_error_argument` for an entry that is not there or a day that is
#'   none; `bemrick_error_exists` for a folder that holds something.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' ledger <- open_ledger(demo_ledger(tempfile(fileext = ".sqlite")))
#' found <- find_entries(ledger, verdict = "fail", from = "2025-06-01")
#' found[c("measured", "product", "batch", "verdict")]
#' ledger_entry(ledger, found$entry[1])
#' close_ledger(ledger)
#' @export
find_entries <- function(
  ledger, product = NULL, batch = NULL, verdict = NULL, instrument = NULL, from = NULL, to = NULL,
  superseded = FALSE
) {
  check_flag(superseded, "superseded")
  if (!is.null(verdict)) check_choice(verdict, "verdict", c("pass", "fail", "undecided", "none"))
  asked <- asked_of_entries(product, from, to)
  if (!is.null(batch)) asked <- and_asked(asked, "s.batch = ?", check_text(batch, "batch"))
  if (!is.null(instrument)) {
    asked <- and_asked(asked, "s.instrument = ?", check_text(instrument, "instrument"))
  }
  asked <- and_asked(asked, if (superseded) "e.product IS NOT NULL" else standing_of("run"))
  rows <- ask_ledger(
    ledger,
    paste(
      "SELECT e.entry, e.filed, e.measured, e.product, s.batch, COUNT(s.sample) AS samples,",
      "MAX(b.verdict) AS verdict, MAX(b.why) AS why, MAX(s.method) AS method,",
      "MAX(s.instrument) AS instrument, MAX(s.operator) AS operator, e.dir, e.kind, e.replaces,",
      "(SELECT c.entry FROM ledger_entries c WHERE c.replaces = e.entry) AS replaced_by,",
      "e.why AS reason FROM ledger_entries e LEFT JOIN ledger_samples s ON s.entry = e.entry",
      "LEFT JOIN ledger_batches b ON b.entry = e.entry AND b.batch = s.batch", where_asked(asked),
      "GROUP BY e.entry, e.filed, e.measured, e.product, s.batch, e.dir, e.kind, e.replaces, e.why",
      "ORDER BY e.measured DESC, e.filed DESC, e.entry, s.batch"
    ),
    asked$values
  )
  rows$samples <- as.integer(rows$samples)
  rows$verdict[is.na(rows$verdict)] <- "none"
  if (is.null(verdict)) rows else rows[rows$verdict == verdict, ]
}

# Entries of a kind that nothing has replaced.
standing_of <- function(kind) {
  paste0(
    "e.kind = '", kind, "' AND NOT EXISTS ",
    "(SELECT 1 FROM ledger_entries r WHERE r.replaces = e.entry)"
  )
}

# The name that a calibration goes by, asked for and of rows as they are filed.
name_asked <- "COALESCE(c.name, c.file, c.found)"

names_filed <- function(rows) {
  ifelse(!is.na(rows$name), rows$name, ifelse(is.na(rows$file), rows$found, rows$file))
}

asked_of_entries <- function(product, from, to, call = rlang::caller_env()) {
  asked <- list(terms = character(), values = list())
  if (!is.null(product)) {
    asked <- and_asked(asked, "e.product = ?", check_text(product, "product", call))
  }
  if (!is.null(from)) asked <- and_asked(asked, "e.measured >= ?", day_text(from, "from", call))
  if (!is.null(to)) {
    asked <- and_asked(asked, "e.measured < ?", day_text(as_day(to, "to", call) + 1, "to", call))
  }
  asked
}

# One condition more; its value stands for the `?` in it.
and_asked <- function(asked, term, value = NULL) {
  if (!is.null(value)) {
    asked$values <- c(asked$values, list(enc2utf8(value)))
    term <- sub("?", paste0("$", length(asked$values)), term, fixed = TRUE)
  }
  asked$terms <- c(asked$terms, term)
  asked
}

where_asked <- function(asked) {
  if (length(asked$terms)) paste("WHERE", paste(asked$terms, collapse = " AND ")) else ""
}

#' @rdname find_entries
#' @export
ledger_entry <- function(ledger, entry) {
  check_text(entry, "entry")
  row <- entry_row(check_open(ledger), entry)
  of <- function(table) {
    rows <- ask_ledger(ledger, paste0("SELECT * FROM ", table, " WHERE entry = $1"), list(entry))
    rows[names(rows) != "entry"]
  }
  tables <- setdiff(tables_of_ledger(), "ledger_entries")
  content <- lapply(stats::setNames(tables, sub("^ledger_", "", tables)), of)
  content$samples <- content$samples[order(content$samples$number), ]
  structure(c(list(entry = row), content), class = c("bm_entry", "bemrick"))
}

#' @exportS3Method tibble::as_tibble bm_ledger
as_tibble.bm_ledger <- function(x, ...) find_entries(x)

tables_of_ledger <- function() unlist(lapply(ledger_steps, names))

#' @export
format.bm_entry <- function(x, ...) {
  e <- x$entry
  q <- x$quantities[x$quantities$verdict != "", ]
  verified <- nrow(x$checks) > 0
  what <- if (verified) names_filed(x$calibrations) else e$product
  c(
    paste0(
      "<entry> ", e$entry, ": ", if (is.na(what)) "a verification" else what,
      if (verified) ", verified " else ", measured ", substr(e$measured, 1, 10)
    ),
    if (verified) {
      paste0(
        "  ", toupper(x$checks$verdict), ": off by ", signif(100 * x$checks$deviation, 2),
        " % \u00b1 ", signif(100 * x$checks$uncertainty, 2), " %"
      )
    },
    if (e$kind == "withdrawal") paste0("  withdraws ", e$replaces, ": ", e$why)
    else if (!is.na(e$replaces)) paste0("  corrects ", e$replaces, ": ", e$why),
    if (nrow(x$batches)) {
      paste0(
        "  batch ", x$batches$batch, ": ", toupper(x$batches$verdict), " \u2013 ", x$batches$why
      )
    },
    if (nrow(q)) {
      paste0(
        "  ", q$batch, ifelse(nzchar(q$sample), " / ", ""), q$sample, ": ", show_units(q$quantity),
        " ", trimws(paste(show_number(q$value), show_units(q$unit))), ", ", q$verdict
      )
    },
    if (!is.na(e$dir)) paste0("  results: ", e$dir)
  )
}

#' @exportS3Method tibble::as_tibble bm_entry
as_tibble.bm_entry <- function(x, ...) x$quantities

#' @rdname find_entries
#' @export
export_ledger <- function(ledger, dir) {
  check_empty_folder(dir)
  check_open(ledger)
  make_folder(dir)
  for (table in tables_of_ledger()) {
    rows <- ask_ledger(ledger, paste0("SELECT * FROM ", table))
    write_table_file(rows, file.path(dir, paste0(sub("^ledger_", "", table), ".csv")))
  }
  invisible(dir)
}

# The row of an entry, which must be there.
entry_row <- function(ledger, entry, call = rlang::caller_env()) {
  row <- ask_ledger(ledger, "SELECT * FROM ledger_entries WHERE entry = $1", list(entry))
  if (nrow(row) == 1) return(row)
  bm_abort(
    c(
      "There is no entry {.val {entry}} in {.file {ledger$shown}}.",
      i = "See what there is by {.fn find_entries}."
    ),
    "argument", call = call
  )
}
