# `bemrick ledger`: the lab's memory.

# Of each: its line, what it does, how many words it takes, its options, examples, and who does it,
# as function(words, options).
ledger_commands <- function() {
  list(
    new = list(
      line = "LEDGER", what = "Makes an empty ledger.", words = c(1, 1), options = list(),
      examples = "bemrick ledger new lab.sqlite", run = ledger_new
    ),
    upgrade = list(
      line = "LEDGER", what = "Brings a ledger of an earlier version to the present one.",
      words = c(1, 1), options = list(), examples = "bemrick ledger upgrade lab.sqlite",
      run = ledger_upgrade
    ),
    file = list(
      line = "LEDGER RESULTS... [options]",
      what = "Files the runs of results folders, each whole and once.", words = c(2, Inf),
      options = list(
        option("--product", "What was measured [the specification's product]", "NAME"),
        option("--instrument", "What measured [the list's column instrument]", "NAME"),
        option("--operator", "Who measured [the list's column operator]", "NAME"),
        option("--replaces", "The entry that this one corrects", "ENTRY"),
        option("--why", "With --replaces: what was wrong", "TEXT"),
        option("--objects", "File a core of columns of every object too")
      ),
      examples = c(
        "bemrick ledger file lab.sqlite results --instrument \"SEM 1\"",
        paste(
          "bemrick ledger file lab.sqlite results2 --replaces 514c59dc8305",
          "--why \"wrong calibration\""
        )
      ),
      run = ledger_file
    ),
    withdraw = list(
      line = "LEDGER ENTRY --why TEXT",
      what = "Marks an entry as wrong. It stays in the ledger.", words = c(2, 2),
      options = list(option("--why", "What is wrong with the entry", "TEXT")),
      examples = paste(
        "bemrick ledger withdraw lab.sqlite 514c59dc8305",
        "--why \"pictures of another batch\""
      ),
      run = ledger_withdraw
    ),
    find = list(
      line = "LEDGER [options]", what = "Lists the batches that fit what is asked.",
      words = c(1, 1),
      options = c(
        list(
          option("--product", "Of this product", "NAME"),
          option("--batch", "With this batch", "NAME"),
          option("--verdict", "Of this verdict: pass, fail, undecided, none", "VERDICT"),
          option("--superseded", "Also what was corrected or withdrawn")
        ),
        period_options()
      ),
      examples = "bemrick ledger find lab.sqlite --verdict fail --from 2026-01-01",
      run = ledger_find
    ),
    show = list(
      line = "LEDGER ENTRY", what = "Shows what is filed of one entry.", words = c(2, 2),
      options = list(), examples = "bemrick ledger show lab.sqlite 514c59dc8305",
      run = ledger_show
    ),
    trend = list(
      line = "LEDGER --product NAME --quantity NAME [options]",
      what = "Shows one quantity of one product over time, as a table, control chart and figure.",
      words = c(1, 1), options = c(trend_options(), period_options()),
      examples = c(
        paste(
          "bemrick ledger trend lab.sqlite --product \"Diffuser plate DP-3\"",
          "--quantity porosity"
        ),
        paste(
          "bemrick ledger trend lab.sqlite --product \"Alumina beads AB-24\"",
          "--quantity \"D50 of ecd by number\" --chart ewma --baseline 12 --figure d50.png"
        )
      ),
      run = ledger_show_trend
    ),
    calibrations = list(
      line = "LEDGER [options]",
      what = "Shows which calibrations are in order, due, off or drifting.", words = c(1, 1),
      options = list(
        option("--on", "Judge by this day [today]", "YYYY-MM-DD"),
        option("--json", "Print the table as JSON")
      ),
      examples = "bemrick ledger calibrations lab.sqlite", run = ledger_calibration_status
    ),
    checks = list(
      line = "LEDGER --calibration NAME [options]",
      what = "Shows the verifications of a calibration, as a table, control chart and figure.",
      words = c(1, 1),
      options = c(
        list(option("--calibration", "Name of the calibration", "NAME")), chart_options(),
        list(
          option("--from", "Verified from this day on", "YYYY-MM-DD"),
          option("--to", "Verified up to this day", "YYYY-MM-DD"),
          option("--json", "Print the table as JSON")
        )
      ),
      examples = paste(
        "bemrick ledger checks lab.sqlite --calibration \"SEM 500x\"",
        "--chart individuals --baseline 8 --figure sem.png"
      ),
      run = ledger_show_checks
    ),
    export = list(
      line = "LEDGER DIR", what = "Writes every table of a ledger as a CSV file.",
      words = c(2, 2), options = list(), examples = "bemrick ledger export lab.sqlite tables",
      run = ledger_export
    )
  )
}

period_options <- function() {
  list(
    option("--from", "Measured from this day on", "YYYY-MM-DD"),
    option("--to", "Measured up to this day", "YYYY-MM-DD"),
    option("--instrument", "Measured by this instrument", "NAME"),
    option("--json", "Print the table as JSON")
  )
}

trend_options <- function() {
  c(
    list(
      option("--product", "Of this product", "NAME"),
      option("--quantity", "This quantity, as in reports", "NAME"),
      option("--per", "A point for every sample or batch [%default]", "WHAT", "batch"),
      option("--last", "The newest so many batches", "N"),
      option("--operator", "Measured by this operator", "NAME")
    ),
    chart_options()
  )
}

chart_options <- function() {
  list(
    option("--chart", "A control chart: individuals, mean_range or ewma", "CHART"),
    option("--baseline", "With --chart: so many points at the beginning set its limits", "N"),
    option(
      "--rules", "With --chart: run rules: western_electric, nelson, or some by name", "RULES"
    ),
    option("--figure", "Write the figure to this file", "FILE"),
    option("--replace", "Overwrite an existing figure")
  )
}

cli_ledger <- function(args) {
  commands <- ledger_commands()
  name <- if (length(args)) args[[1]] else "--help"
  if (name %in% c("--help", "-h")) {
    tell(ledger_help(commands))
    return(0L)
  }
  if (!name %in% names(commands)) {
    unknown_word(
      paste0("There is no ledger command \"", name, "\"."), name, names(commands),
      paste0("\nThere are: ", paste(names(commands), collapse = ", "))
    )
  }
  about <- commands[[name]]
  parsed <- parse_words(
    args[-1], paste("ledger", name), about, about$options, about$words[1], about$words[2]
  )
  if (is.null(parsed)) return(0L)
  own <- c(
    "why", "replaces", "product", "quantity", "from", "to", "last", "baseline", "rules", "verdict",
    "instrument", "operator", "batch", "chart", "per", "calibration", "on"
  )
  as_option(
    about$run(parsed$words, parsed$options),
    c(
      at = "LEDGER", run = "RESULTS", entry = "ENTRY", dir = "DIR",
      stats::setNames(paste0("--", own), own)
    )
  )
}
register_command("ledger", "keep what was decided: file runs, find them, trends, control charts")

ledger_help <- function(commands) {
  part <- function(name) vapply(commands, function(command) command[[name]][1], "")
  c(
    "Usage: bemrick ledger COMMAND LEDGER ...", "",
    "A ledger is a file such as lab.sqlite, or postgresql://user@host/database.", "",
    paste0("  ", format(names(commands)), "  ", part("what")), "", "Examples:",
    paste0("  ", part("examples")), "", "See: bemrick ledger COMMAND --help"
  )
}

# Before anything is measured for it.
check_ledger_option <- function(o) {
  if (!is.null(o$ledger)) as_option(close_ledger(open_ledger(o$ledger)), c(at = "--ledger"))
}

with_ledger <- function(at, use, ...) {
  ledger <- open_ledger(at, ...)
  on.exit(close_ledger(ledger))
  use(ledger)
  0L
}

ledger_new <- function(words, o) {
  with_ledger(words, function(ledger) say("Ledger: ", ledger$shown), create = TRUE)
}

ledger_upgrade <- function(words, o) {
  with_ledger(words, function(ledger) tell(format(ledger)), upgrade = TRUE)
}

ledger_file <- function(words, o) {
  if (!is.null(o$replaces) && length(words) > 2) {
    usage("--replaces goes with one results folder.")
  }
  with_ledger(words[1], function(ledger) {
    for (dir in words[-1]) {
      entry <- file_run(
        ledger, dir, o$product, o$instrument, o$operator, o$replaces, o$why, o$objects
      )
      tell(paste0("Filed ", dir, " as entry ", entry))
    }
  })
}

ledger_withdraw <- function(words, o) {
  need_option(o, "why", "ledger withdraw")
  with_ledger(words[1], function(ledger) {
    tell(paste0("Withdrawn by entry ", withdraw_entry(ledger, words[2], o$why)))
  })
}

ledger_find <- function(words, o) {
  with_ledger(words, function(ledger) {
    found <- find_entries(
      ledger, o$product, o$batch, o$verdict, o$instrument, o$from, o$to, o$superseded
    )
    columns <- c("entry", "measured", "product", "batch", "samples", "verdict", "why")
    shown <- found[c(columns, if (o$superseded) c("kind", "replaces", "replaced_by", "reason"))]
    if (!o$json) shown$measured <- substr(shown$measured, 1, 10)
    if (nrow(shown) == 0 && !o$json) return(tell("Nothing filed fits."))
    if (!o$json) shown[] <- lapply(shown, function(x) if (is.integer(x)) x else shown_text_of(x))
    show_table(as.data.frame(shown), o$json)
  })
}

shown_text_of <- function(x) ifelse(is.na(x), "", x)

ledger_show <- function(words, o) {
  with_ledger(words[1], function(ledger) tell(format(ledger_entry(ledger, words[2]))))
}

ledger_export <- function(words, o) {
  with_ledger(words[1], function(ledger) {
    export_ledger(ledger, words[2])
    tell(paste("Tables:", words[2]))
  })
}

ledger_show_trend <- function(words, o) {
  for (name in c("product", "quantity")) need_option(o, name, "ledger trend")
  last <- if (!is.null(o$last)) number_of_words(o$last, "last")
  show_trend(words, o, function(ledger) {
    ledger_trend(
      ledger, o$product, o$quantity, o$per, o$from, o$to, last, o$instrument, o$operator
    )
  })
}

ledger_show_checks <- function(words, o) {
  need_option(o, "calibration", "ledger checks")
  show_trend(words, o, function(ledger) calibration_trend(ledger, o$calibration, o$from, o$to))
}

# The table of a trend, its chart and its figure, as asked for.
show_trend <- function(words, o, find) {
  for (name in c("baseline", "rules")) {
    if (!is.null(o[[name]]) && is.null(o$chart)) usage(paste0("--", name, " goes with --chart."))
  }
  baseline <- if (!is.null(o$baseline)) number_of_words(o$baseline, "baseline")
  with_ledger(words, function(ledger) {
    trend <- find(ledger)
    chart <- if (!is.null(o$chart)) {
      control_chart(trend, o$chart, baseline, names_of_words(o$rules) %||% "one_beyond_3")
    }
    show_table(trend_table(trend, o$json), o$json)
    if (!is.null(chart) && !o$json) tell(c("", format(chart)))
    if (!is.null(o$figure)) {
      save_figure(ggplot2::autoplot(chart %||% trend), o$figure, 1280, 800, o$replace)
      say("Figure: ", o$figure)
    }
  })
}

ledger_calibration_status <- function(words, o) {
  with_ledger(words, function(ledger) {
    status <- calibration_status(ledger, o$on %||% Sys.Date())
    if (nrow(status) == 0 && !o$json) return(tell("No calibration is filed."))
    if (o$json) return(show_table(as.data.frame(status), TRUE))
    shown <- status[c("calibration", "made", "due", "checks", "checked", "state", "why")]
    shown[] <- lapply(shown, function(x) if (is.integer(x)) x else shown_text_of(x))
    show_table(as.data.frame(shown), FALSE)
  })
}

trend_table <- function(trend, json) {
  if (json) {
    trend$measured <- utc_time(trend$measured)
    return(as.data.frame(trend))
  }
  shown <- data.frame(
    measured = format(trend$measured, "%Y-%m-%d"), batch = trend$batch, sample = trend$sample,
    value = trend$value, low = trend$low, high = trend$high, unit = show_units(trend$unit),
    min = trend$min, max = trend$max, verdict = trend$verdict, instrument = trend$instrument,
    changed = trend$changed
  )
  if (identical(shown$batch, shown$measured)) shown$batch <- NULL
  shown[vapply(shown, function(x) !is.character(x) || any(nzchar(x)), NA)]
}
