# Calibrations over time: their verifications, and which are overdue or have drifted.

#' @rdname file_check
#' @export
calibration_trend <- function(ledger, calibration, from = NULL, to = NULL) {
  check_text(calibration, "calibration")
  asked <- and_asked(asked_of_entries(NULL, from, to), paste(name_asked, "= ?"), calibration)
  rows <- checks_filed(ledger, asked)
  if (nrow(rows) == 0) no_checks(ledger, calibration)
  trend <- tibble::tibble(
    measured = as.POSIXct(rows$measured, "UTC", "%Y-%m-%dT%H:%M:%SZ"), entry = rows$entry,
    batch = substr(rows$measured, 1, 10), sample = "", value = 100 * rows$deviation,
    low = 100 * (rows$deviation - rows$uncertainty),
    high = 100 * (rows$deviation + rows$uncertainty), unit = "%", min = -100 * rows$tolerance,
    max = 100 * rows$tolerance, verdict = rows$verdict, method = "", instrument = rows$instrument,
    operator = rows$operator, calibration = rows$name,
    changed = c("", ifelse(diff(as.integer(factor(revision(rows)))) != 0, "calibration", ""))
  )
  new_trend(trend, calibration, "deviation from the known length")
}

# Verifications that nothing has replaced, in time order.
checks_filed <- function(ledger, asked = asked_of_entries(NULL, NULL, NULL)) {
  asked <- and_asked(asked, standing_of("check"))
  ask_ledger(
    ledger,
    paste(
      "SELECT e.entry, e.measured, e.filed,", name_asked,
      "AS name, c.pixel_x, c.unit AS pixel_unit, t.made, t.due, t.standard, k.deviation,",
      "k.uncertainty, k.tolerance, k.verdict,",
      "k.instrument, k.operator FROM ledger_checks k JOIN ledger_entries e ON e.entry = k.entry",
      "JOIN ledger_calibrations c ON c.entry = k.entry JOIN ledger_traceability t",
      "ON t.entry = k.entry AND t.number = c.number", where_asked(asked),
      "ORDER BY e.measured, e.filed, e.entry"
    ),
    asked$values
  )
}

no_checks <- function(ledger, calibration, call = rlang::caller_env()) {
  known <- sort(unique(checks_filed(ledger)$name))
  if (length(known)) check_choice(calibration, "calibration", known, call)
  bm_abort(
    c(
      "The ledger has no verification of {.val {calibration}} that fits.",
      i = "File one with {.fn file_check}."
    ),
    "argument", call = call
  )
}

# What is another calibration of the same name.
revision <- function(rows) {
  paste(signif(rows$pixel_x, 8), rows$pixel_unit, ifelse(is.na(rows$made), "", rows$made))
}

#' @rdname file_check
#' @export
calibration_status <- function(ledger, on = Sys.Date(), soon = 30) {
  on <- as_day(on, "on")
  check_number(soon, "soon", 0, 3660, whole = TRUE)
  known <- calibrations_known(ledger)
  checks <- checks_filed(ledger)
  rows <- lapply(seq_len(nrow(known)), function(k) {
    own <- checks[checks$name == known$name[k] & revision(checks) == revision(known[k, ]), ]
    status_row(known[k, ], own, on, soon)
  })
  empty <- tibble::tibble(name = character(), pixel_x = 0, made = "")[0, ]
  if (length(rows)) do.call(rbind, rows) else status_row(known[0, ], empty, on, soon)
}

# The newest of every name, by when it was made, else by when it was measured with.
calibrations_known <- function(ledger) {
  asked <- and_asked(
    asked_of_entries(NULL, NULL, NULL),
    paste0("(", standing_of("run"), " OR ", standing_of("check"), ")")
  )
  rows <- ask_ledger(
    ledger,
    paste(
      "SELECT", name_asked, "AS name, c.pixel_x, c.unit AS pixel_unit, t.made, t.due, t.standard,",
      "MAX(e.measured) AS used FROM ledger_calibrations c",
      "JOIN ledger_entries e ON e.entry = c.entry LEFT JOIN ledger_traceability t",
      "ON t.entry = c.entry AND t.number = c.number", where_asked(asked),
      "GROUP BY", paste0(name_asked, ","), "c.pixel_x, c.unit, t.made, t.due, t.standard"
    )
  )
  # tags of each picture are nobody's to keep
  rows <- rows[!is.na(rows$name) & rows$name != "tags", ]
  made <- ifelse(is.na(rows$made), rows$used, rows$made)
  rows <- rows[order(rows$name, made, rows$used), ]
  rows[!duplicated(rows$name, fromLast = TRUE), ]
}

status_row <- function(known, checks, on, soon) {
  newest <- checks[nrow(checks), ]
  number <- function(x) if (length(x)) x else NA_real_
  found <- if (nrow(known)) state_of_calibration(known, checks, on, soon)
  tibble::tibble(
    calibration = known$name, pixel = known$pixel_x, unit = known$pixel_unit, made = known$made,
    due = known$due, standard = known$standard, checks = nrow(checks),
    checked = if (nrow(newest)) substr(newest$measured, 1, 10) else NA_character_,
    deviation = 100 * number(newest$deviation), uncertainty = 100 * number(newest$uncertainty),
    state = found$state, why = found$why
  )[seq_len(nrow(known)), ]
}

# list(state, why): the gravest first.
state_of_calibration <- function(known, checks, on, soon) {
  state <- function(state, ...) list(state = state, why = paste0(...))
  late <- days_late(known$due, on)
  if (late > 0) return(state("overdue", "due on ", known$due, ", ", late, " days ago"))
  if (nrow(checks)) {
    newest <- checks[nrow(checks), ]
    off <- paste0(
      "verified on ", substr(newest$measured, 1, 10), ": off by ",
      signif(100 * newest$deviation, 2), " % \u00b1 ", signif(100 * newest$uncertainty, 2), " %"
    )
    if (newest$verdict == "fail") return(state("off", off, ", beyond its tolerance"))
    if (abs(newest$deviation) > newest$uncertainty) {
      return(state("off", off, ", beyond its uncertainty"))
    }
    said <- drift_alarm(checks)
    if (!is.null(said)) return(state("drifting", "control chart: ", said, "; ", off))
  }
  if (late >= -soon) return(state("due soon", "due on ", known$due))
  state(
    "in order",
    if (nrow(checks)) off else "never verified", if (is.na(known$due)) "; no day it is due"
  )
}

# What a control chart of the deviations says of the newest of them; NULL when nothing. The first
# eight are its baseline.
drift_alarm <- function(checks) {
  first <- 8
  deviation <- checks$deviation
  if (length(deviation) <= first || stats::sd(deviation[seq_len(first)]) == 0) return(NULL)
  chart <- control_chart(deviation, "individuals", first, "western_electric")
  values <- chart$points$panel[1]
  now <- chart$alarms[chart$alarms$panel == values & chart$alarms$last == length(deviation), ]
  if (nrow(now)) paste0(now$said[1], ", since ", substr(checks$measured[now$from[1]], 1, 10))
}

# After a run is filed: which of its calibrations are not in order.
remind_of_calibrations <- function(ledger, filed, today = Sys.Date()) {
  if (NROW(filed) == 0) return(invisible())
  used <- names_filed(filed)
  status <- calibration_status(ledger, today)
  status <- status[
    status$calibration %in% used & status$state %in% c("overdue", "off", "drifting"),
  ]
  for (k in seq_len(nrow(status))) {
    bm_warn(
      c(
        "The calibration {.val {status$calibration[k]}} is {status$state[k]}: {status$why[k]}.",
        i = "Calibrate again, or verify it and file the verification."
      ),
      "overdue"
    )
  }
}
