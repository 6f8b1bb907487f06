# `bemrick ledger`: the lab's memory.

ledger_verbs <- list(
  new = list(
    line = "ledger new LEDGER", what = "Makes an empty ledger.", words = c(1, 1)
  ),
  upgrade = list(
    line = "ledger upgrade LEDGER",
    what = "Brings a ledger of an earlier version to the present one.",
    words = c(1, 1)
  ),
  file = list(
    line = "ledger file LEDGER RESULTS... [options]",
    what = "Files the runs of results folders, each whole and once.", words = c(2, Inf)
  ),
  withdraw = list(
    line = "ledger withdraw LEDGER ENTRY --why TEXT",
    what = "Marks an entry as wrong. It stays in the ledger.", words = c(2, 2)
  ),
  find = list(
    line = "ledger find LEDGER [options]", what = "Lists the batches that fit what is asked.",
    words = c(1, 1)
  ),
  show = list(
    line = "ledger show LEDGER ENTRY", what = "Shows what is filed of one entry.", words = c(2, 2)
  ),
  trend = list(
    line = "ledger trend LEDGER --product NAME --quantity NAME [options]",
    what = "Shows one quantity of one product over time, as a table, control chart and figure.",
    words = c(1, 1)
  ),
  export = list(
    line = "ledger export LEDGER DIR", what = "Writes every table of a ledger as a CSV file.",
    words = c(2, 2)
  )
)

cli_ledger <- function(args) {
  verb <- if (length(args)) args[[1]] else "--help"
  if (verb %in% c("--help", "-h")) {
    tell(c(
      "Usage: bemrick ledger WORD LEDGER ...", "",
      "A ledger is a file such as lab.sqlite, or postgresql://user@host/database.", "",
      paste0("  ", formatC(names(ledger_verbs), width = -10), vapply(ledger_verbs, function(v) {
        v$what
      }, "")), "", "Examples:",
      paste0("  ", vapply(ledger_examples, function(e) e[1], "")), "",
      "See: bemrick ledger WORD --help"
    ))
    return(0L)
  }
  if (!verb %in% names(ledger_verbs)) {
    unknown_word(
      "word of ledger", verb, names(ledger_verbs),
      paste0("\nThere are: ", paste(names(ledger_verbs), collapse = ", "))
    )
  }
  about <- ledger_verbs[[verb]]
  command <- paste("ledger", verb)
  about$line <- sub(paste0(command, " "), "", about$line, fixed = TRUE)
  about$examples <- ledger_examples[[verb]]
  parsed <- parse_words(
    args[-1], command, about, ledger_options(verb), about$words[1], about$words[2]
  )
  if (is.null(parsed)) return(0L)
  as_option(
    registered_function(paste0("ledger_", verb, "_words"))(parsed$words, parsed$options),
    c(at = "LEDGER", run = "RESULTS", entry = "ENTRY", dir = "DIR", why = "--why",
      replaces = "--replaces", product = "--product", quantity = "--quantity", from = "--from",
      to = "--to", last = "--last", baseline = "--baseline", rules = "--rules",
      verdict = "--verdict", instrument = "--instrument", operator = "--operator",
      batch = "--batch", chart = "--chart", per = "--per")
  )
}
register_command("ledger", "keep what was decided: file runs, find them, trends, control charts")

period_options <- function() {
  list(
    option("--from", "Measured from this day on", "YYYY-MM-DD"),
    option("--to", "Measured up to this day", "YYYY-MM-DD"),
    option("--instrument", "Measured by this instrument", "NAME"),
    option("--json", "Print the table as JSON")
  )
}

ledger_options <- function(verb) {
  switch(verb,
  new = list(), upgrade = list(), show = list(), export = list(),
  file = list(
    option("--product", "What was measured [the specification's product]", "NAME"),
    option("--instrument", "What measured [the list's column instrument]", "NAME"),
    option("--operator", "Who measured [the list's column operator]", "NAME"),
    option("--replaces", "The entry that this one corrects", "ENTRY"),
    option("--why", "With --replaces: what was wrong", "TEXT"),
    option("--objects", "File a core of columns of every object too")
  ),
  withdraw = list(option("--why", "What is wrong with the entry", "TEXT")),
  find = c(
    list(
      option("--product", "Of this product", "NAME"), option("--batch", "With this batch", "NAME"),
      option("--verdict", "Of this verdict: pass, fail, undecided, none", "VERDICT"),
      option("--superseded", "Also what was corrected or withdrawn")
    ),
    period_options()
  ),
  trend = c(
    list(
      option("--product", "Of this product", "NAME"),
      option("--quantity", "This quantity, as in reports", "NAME"),
      option("--per", "A point for every sample or batch [%default]", "WHAT", "batch"),
      option("--last", "The newest so many batches", "N"),
      option("--chart", "A control chart: individuals, mean_range or ewma", "CHART"),
      option("--baseline", "With --chart: so many points at the beginning set its limits", "N"),
      option(
        "--rules", "With --chart: run rules: western_electric, nelson, or some by name", "RULES"
      ),
      option("--figure", "Write the figure to this file", "FILE"),
      option("--replace", "Overwrite an existing figure"),
      option("--operator", "Measured by this operator", "NAME")
    ),
    period_options()
  )
  )
}

ledger_examples <- list(
  new = "bemrick ledger new lab.sqlite",
  upgrade = "bemrick ledger upgrade lab.sqlite",
  file = c(
    "bemrick ledger file lab.sqlite results --instrument \"SEM 1\"",
    "bemrick ledger file lab.sqlite results2 --replaces 514c59dc8305 --why \"wrong calibration\""
  ),
  withdraw = "bemrick ledger withdraw lab.sqlite 514c59dc8305 --why \"pictures of another batch\"",
  find = "bemrick ledger find lab.sqlite --verdict fail --from 2026-01-01",
  show = "bemrick ledger show lab.sqlite 514c59dc8305",
  trend = c(
    "bemrick ledger trend lab.sqlite --product \"Alumina beads AB-24\" --quantity porosity",
    paste(
      "bemrick ledger trend lab.sqlite --product \"Alumina beads AB-24\"",
      "--quantity \"D50 of ecd by number\" --chart ewma --baseline 12 --figure d50.png"
    )
  ),
  export = "bemrick ledger export lab.sqlite tables"
)

with_ledger <- function(at, use, ...) {
  ledger <- open_ledger(at, ...)
  on.exit(close_ledger(ledger))
  use(ledger)
  0L
}

ledger_new_words <- function(words, o) {
  with_ledger(words, function(ledger) say("Ledger: ", ledger$shown), create = TRUE)
}

ledger_upgrade_words <- function(words, o) {
  with_ledger(words, function(ledger) tell(format(ledger)), upgrade = TRUE)
}

ledger_file_words <- function(words, o) {
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

ledger_withdraw_words <- function(words, o) {
  need_option(o, "why", "ledger withdraw")
  with_ledger(words[1], function(ledger) {
    tell(paste0("Withdrawn by entry ", withdraw_entry(ledger, words[2], o$why)))
  })
}

ledger_find_words <- function(words, o) {
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

ledger_show_words <- function(words, o) {
  with_ledger(words[1], function(ledger) tell(format(ledger_entry(ledger, words[2]))))
}

ledger_export_words <- function(words, o) {
  with_ledger(words[1], function(ledger) {
    export_ledger(ledger, words[2])
    tell(paste("Tables:", words[2]))
  })
}

ledger_trend_words <- function(words, o) {
  for (name in c("product", "quantity")) need_option(o, name, "ledger trend")
  for (name in c("baseline", "rules")) {
    if (!is.null(o[[name]]) && is.null(o$chart)) usage(paste0("--", name, " goes with --chart."))
  }
  whole <- function(name) if (!is.null(o[[name]])) number_of_words(o[[name]], name)
  with_ledger(words, function(ledger) {
    trend <- ledger_trend(
      ledger, o$product, o$quantity, o$per, o$from, o$to, whole("last"), o$instrument, o$operator
    )
    chart <- if (!is.null(o$chart)) {
      control_chart(
        trend, o$chart, whole("baseline"), names_of_words(o$rules) %||% "one_beyond_3"
      )
    }
    show_table(trend_table(trend, o$json), o$json)
    if (!is.null(chart) && !o$json) tell(c("", format(chart)))
    if (!is.null(o$figure)) {
      save_figure(ggplot2::autoplot(chart %||% trend), o$figure, 1280, 800, o$replace)
      say("Figure: ", o$figure)
    }
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
  shown[vapply(shown, function(x) !is.character(x) || any(nzchar(x)), NA)]
}
