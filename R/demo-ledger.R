# Two years of the made-up lab's results, drawn: nothing was measured for them.

# Of each product: its batches a month, method, and of every quantity the usual value, how much
# batches and samples of one batch differ, its interval, limits, and what a change of the method
# and, from a month on, a drift do to it.
demo_histories <- list(
  beads = list(
    product = "Alumina beads AB-24", code = "AB", samples = 3, changed = 14,
    methods = c("Size of alumina beads, by one threshold", "Size of alumina beads"),
    calibration = "sem-500x.calibration.yml", scale_drift = 0.03, instruments = c("SEM 1", "SEM 2"),
    quantities = list(
      `D50 of ecd by number` = list(
        usual = 23.8, batches = 0.16, samples = 0.14, half = 0.9, unit = "um", min = 22, max = 26,
        change = 0.25, drift = 0.13, from = 17, hot = 0
      ),
      `D90 of ecd by volume` = list(
        usual = 33.5, batches = 0.5, samples = 0.6, half = 3.2, unit = "um", min = NA, max = 42,
        change = 0.3, drift = 0.2, from = 17, hot = 0
      )
    )
  ),
  plates = list(
    product = "Diffuser plate DP-3", code = "DP3", samples = 3, changed = NA,
    methods = "Porosity of diffuser plates", calibration = "light-200x.calibration.yml",
    scale_drift = 0,
    instruments = "Light microscope",
    quantities = list(
      porosity = list(
        usual = 33.1, batches = 0.5, samples = 0.35, half = 1.1, unit = "%", min = 30, max = 36,
        change = 0, drift = 0, from = Inf, hot = 5.5
      ),
      `D50 of ecd by area` = list(
        usual = 37, batches = 1, samples = 1.2, half = 4, unit = "um", min = NA, max = 55,
        change = 0, drift = 0, from = Inf, hot = 6
      )
    )
  )
)

#' The demo lab's ledger
#'
#' Makes a ledger in a file with 24 months of made-up results of two products of *Ardlow Works*, up
#' to October 2026. The beads have a new method from the fifteenth month on, and their D50 drifts
#' upward from the seventeenth; one batch of plates was fired too hot. Both calibrations were
#' verified every month; that of the electron microscope drifts.
#'
#' @param file Path of the ledger to make.
#' @return The path, invisibly.
#' @section Errors: Class `bemrick_error_exists` when the file is there already,
#'   `bemrick_error_package` without the packages DBI and RSQLite.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' demo_ledger(file.path(tempdir(), "ardlow.sqlite"))
#' @export
demo_ledger <- function(file) {
  check_text(file, "file")
  steady_session()
  ledger <- open_ledger(file, create = TRUE)
  on.exit(close_ledger(ledger))
  made <- lapply(seq_along(demo_histories), function(k) {
    history <- demo_histories[[k]]
    repeatable(4000 + k, {
      runs <- made_up_entries(history)
      scale <- made_up_scale(history)
      checks <- made_up_checks(history, scale)
      c(runs, list(checks, scale_tables(scale, entries_of(c(runs, list(checks))))))
    })
  })
  made <- unlist(made, recursive = FALSE)
  tables <- unique(unlist(lapply(made, names)))
  in_transaction(ledger, for (table in tables) {
    add_rows(ledger, table, do.call(rbind, lapply(made, function(m) m[[table]])))
  })
  invisible(file)
}

entries_of <- function(made) unlist(lapply(made, function(m) m$ledger_entries$entry))

# Of each entry the calibration that all of a product's have.
scale_tables <- function(scale, entries) {
  each <- function(row) data.frame(entry = entries, row[rep(1, length(entries)), ])
  list(
    ledger_calibrations = each(calibrations_filed(list(scale))),
    ledger_traceability = each(traceability_filed(list(scale)))
  )
}

# Three batches in two months.
made_up_entries <- function(history) {
  days <- seq(as.Date("2024-11-06"), as.Date("2026-10-28"), by = "20 days")
  lapply(seq_along(days), function(k) made_up_entry(history, days[k], k))
}

made_up_entry <- function(history, day, k) {
  month <- 12 * (as.integer(format(day, "%Y")) - 2024) + as.integer(format(day, "%m")) - 10
  later <- !is.na(history$changed) && month > history$changed
  batch <- paste0(history$code, "-", format(day, "%y%m%d"))
  time <- paste0(day, "T", sprintf("%02d:15:00Z", 8 + k %% 6))
  run <- as.character(openssl::sha256(paste("made up", batch)))
  entry <- number_of_record(run)
  method <- history$methods[min(1 + later, length(history$methods))]
  method_key <- as.character(openssl::sha256(method))
  samples <- LETTERS[seq_len(history$samples)]
  hot <- history$code == "DP3" && k == 17
  values <- do.call(rbind, lapply(names(history$quantities), function(name) {
    made_up_quantity(name, history$quantities[[name]], samples, month, later, hot)
  }))
  of_sample <- tapply(values$verdict, values$sample, worst_filed)
  verdict <- worst_filed(of_sample)
  instrument <- history$instruments[1 + k %% length(history$instruments)]
  list(
    ledger_entries = data.frame(
      entry = entry, filed = time, kind = "run", replaces = NA_character_, why = NA_character_,
      product = history$product, measured = time, dir = file.path("/lab/results", batch),
      run_sha256 = run, specification = NA_character_, specification_sha256 = NA_character_,
      versions = versions_text()
    ),
    ledger_methods = data.frame(
      entry = entry, number = 1L, title = method, file = NA_character_, sha256 = NA_character_,
      steps_sha256 = method_key, content = "{}"
    ),
    ledger_batches = data.frame(
      entry = entry, batch = batch, verdict = verdict,
      why = paste(sum(of_sample == "pass"), "of", length(samples), "samples pass, all must")
    ),
    ledger_samples = data.frame(
      entry = entry, batch = batch, sample = samples, number = seq_along(samples), fields = 3L,
      objects = 250 + round(20 * stats::rnorm(length(samples))),
      verdict = as.character(of_sample[samples]), why = "", method = method,
      method_sha256 = method_key, calibration = history$calibration, instrument = instrument,
      operator = c("M. Okafor", "A. Lind")[1 + (k %/% 5) %% 2]
    ),
    ledger_quantities = data.frame(entry = entry, batch = batch, values)
  )
}

made_up_quantity <- function(name, q, samples, month, later, hot) {
  n <- length(samples)
  value <- q$usual + stats::rnorm(1, 0, q$batches) + stats::rnorm(n, 0, q$samples) +
    later * q$change + max(0, month - q$from) * q$drift - hot * q$hot
  half <- q$half * stats::runif(n, 0.8, 1.2)
  low <- value - half
  high <- value + half
  outside <- (!is.na(q$min) & high < q$min) | (!is.na(q$max) & low > q$max)
  inside <- (is.na(q$min) | low >= q$min) & (is.na(q$max) | high <= q$max)
  data.frame(
    sample = samples, field = "", quantity = name, value = signif(value, 7),
    low = signif(low, 7), high = signif(high, 7), unit = q$unit, min = as.numeric(q$min),
    max = as.numeric(q$max),
    verdict = ifelse(outside, "fail", ifelse(inside, "pass", "undecided"))
  )
}

# The lab's calibration as it was made two years ago.
made_up_scale <- function(history) {
  file <- system.file("extdata", history$calibration, package = "bemrick")
  scale <- read_calibration(file)
  scale$date <- "2024-11-04"
  scale <- set_due(scale, "2026-11-04")
  scale$file <- basename(file)
  add_standard(scale, length_standard("line standard LS-07", "0.05 %", certificate = "LS-07/24"))
}

# Verifications on the graticule, one a month.
made_up_checks <- function(history, scale) {
  days <- seq(as.Date("2024-11-11"), as.Date("2026-10-11"), by = "month")
  months <- seq_along(days)
  off <- stats::rnorm(length(days), 0, 4e-4) + pmax(0, months - 16) * history$scale_drift / 100
  off <- signif(off, 5)
  run <- as.character(openssl::sha256(paste("made up check", scale$name, days)))
  entry <- number_of_record(run)
  time <- paste0(days, "T07:40:00Z")
  none <- NA_character_
  list(
    ledger_entries = data.frame(
      entry = entry, filed = time, kind = "check", replaces = none, why = none, product = none,
      measured = time, dir = none, run_sha256 = run, specification = none,
      specification_sha256 = none, versions = versions_text()
    ),
    ledger_checks = data.frame(
      entry = entry, known = 100, measured = 100 * (1 + off), unit = "um", deviation = off,
      uncertainty = 2 * sqrt(scale$uncertainty^2 - scale$standard$uncertainty^2 + 0.0005^2),
      tolerance = 0.01, verdict = "pass", standard = scale$standard$name,
      picture = paste0("graticule-", days, ".tif"), picture_sha256 = none,
      instrument = history$instruments[1], operator = "M. Okafor"
    )
  )
}
