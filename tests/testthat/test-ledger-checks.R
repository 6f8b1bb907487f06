ruler_field <- function(name = "Light 200x", pixel = 240, date = NULL) {
  scale <- calibration_from_length(pixel, "100 um", name = name)
  scale$date <- date
  calibrate(simulate_ruler(pitch = 24, seed = 1), scale)
}

# A verification as it may come: `off` in percent.
check_of <- function(off, day, name = "Light 200x", pixel = 240, due = NULL, sure = 0.4) {
  scale <- calibration_from_length(pixel, "100 um", name = name)
  scale$date <- "2025-01-01"
  if (!is.null(due)) scale <- set_due(scale, due)
  structure(
    list(
      measured = 100 + off, known = 100, unit = "um", deviation = off / 100,
      uncertainty = sure / 100, tolerance = 0.01,
      verdict = if (abs(off) > 1 + sure) "fail" else "pass", calibration = scale,
      picture = list(file = "/pictures/r.tif", sha256 = day), standard = NULL,
      checked = paste0(day, "T10:00:00Z")
    ),
    class = c("bm_check", "bemrick")
  )
}

test_that("a verification is filed once, whole, and found again", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    check <- verify_calibration(ruler_field(), "10 um", tolerance = "2 %")
    entry <- file_check(ledger, check, "Microscope 2", "A. Lind'; DROP TABLE ledger_checks; --")
    expect_refused(file_check(ledger, check), "verification is filed already", class = "filed")
    filed <- ledger_entry(ledger, entry)
    expect_equal(filed$checks$deviation, check$deviation)
    expect_equal(filed$checks$operator, "A. Lind'; DROP TABLE ledger_checks; --")
    expect_equal(filed$calibrations$name, "Light 200x")
    expect_equal(format(filed)[1:2], c(
      paste0("<entry> ", entry, ": Light 200x, verified ", substr(check$checked, 1, 10)),
      paste0(
        "  PASS: off by ", signif(100 * check$deviation, 2), " % \u00b1 ",
        signif(100 * check$uncertainty, 2), " %"
      )
    ))
    expect_match(format(ledger)[2], "0 entries of 0 products, 1 verification, ")
    expect_equal(nrow(find_entries(ledger, superseded = TRUE)), 0)
    expect_equal(calibration_trend(ledger, "Light 200x")$value, 100 * check$deviation)
    gone <- withdraw_entry(ledger, entry, "the wrong ruler")
    expect_match(format(ledger_entry(ledger, gone))[1], ": a verification, measured")
    expect_refused(calibration_trend(ledger, "Light 200x"), "no verification", class = "argument")
    expect_equal(nrow(calibration_status(ledger)), 0)
    expect_refused(file_check(ledger, 3), class = "class")
  })
})

test_that("a calibration without a name goes by its file, and without one by how it was found", {
  ledger <- local_ledger(ledger_place("sqlite"))
  check <- check_of(0.1, "2026-01-01", name = NULL)
  first <- file_check(ledger, check)
  found <- check$calibration$found
  expect_match(format(ledger_entry(ledger, first))[1], found, fixed = TRUE)
  expect_equal(calibration_status(ledger)$calibration, found)
  check$calibration$file <- "stage.yml"
  second <- file_check(ledger, check)
  expect_match(format(ledger_entry(ledger, second))[1], "stage.yml", fixed = TRUE)
  expect_setequal(calibration_status(ledger)$calibration, c(found, "stage.yml"))
  rows <- tibble::tibble(name = c("a", NA, NA), file = c("f", "g", NA), found = c("x", "y", "z"))
  expect_equal(names_filed(rows), c("a", "g", "z"))
})

test_that("verifications over time are a trend that can be charted and drawn", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    days <- c("2026-03-01", "2026-01-01", "2026-02-01")
    for (k in 1:3) file_check(ledger, check_of(k / 10, days[k]))
    file_check(ledger, check_of(0.4, "2026-04-01", pixel = 250))
    file_check(ledger, check_of(9, "2026-01-15", name = "other"))
    trend <- calibration_trend(ledger, "Light 200x")
    expect_s3_class(trend, "bm_trend")
    expect_equal(trend$value, c(0.2, 0.3, 0.1, 0.4))
    expect_equal(trend$high - trend$low, rep(0.8, 4))
    expect_equal(trend$max, rep(1, 4))
    expect_equal(trend$min, rep(-1, 4))
    expect_equal(trend$changed, c("", "", "", "calibration"))
    expect_equal(calibration_trend(ledger, "Light 200x", from = "2026-02-01", to = "2026-03-01")$value,
      c(0.3, 0.1))
    expect_equal(control_chart(trend)$points$value[1:4], trend$value)
    expect_s3_class(ggplot2::autoplot(trend), "ggplot")
    expect_refused(calibration_trend(ledger, "Light"), "Light 200x", class = "argument")
  })
})

test_that("the status says what is overdue, off, drifting, due soon or in order", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    state <- function(on = "2026-06-01", ...) {
      status <- calibration_status(ledger, on, ...)
      stats::setNames(status$state, status$calibration)
    }
    file_check(ledger, check_of(0.1, "2026-01-01", name = "due", due = "2026-06-20"))
    expect_equal(state(), c(due = "due soon"))
    expect_equal(state(soon = 18), c(due = "in order"))
    expect_equal(state(soon = 19), c(due = "due soon"))
    expect_equal(state("2026-06-20"), c(due = "due soon"))
    expect_equal(state("2026-06-21"), c(due = "overdue"))
    file_check(ledger, check_of(0.39, "2026-01-01", name = "held"))
    file_check(ledger, check_of(-0.41, "2026-01-02", name = "off"))
    file_check(ledger, check_of(2, "2026-01-01", name = "failed", sure = 0.5))
    # as much as ever for eight months, then a little more: within its uncertainty, out of control
    small <- c(0.01, -0.01, 0.02, 0, -0.02, 0.01, -0.01, 0.02)
    for (k in 1:8) file_check(ledger, check_of(small[k], paste0("2025-0", k, "-01"), name = "drifts"))
    expect_equal(state()[["drifts"]], "in order")
    file_check(ledger, check_of(0.2, "2025-09-01", name = "drifts"))
    expect_equal(
      state()[order(names(state()))],
      c(drifts = "drifting", due = "due soon", failed = "off", held = "in order", off = "off")
    )
    status <- calibration_status(ledger, "2026-06-01")
    why <- stats::setNames(status$why, status$calibration)
    expect_match(why[["drifts"]], "^control chart: 1 point beyond 3 sigma, since 2025-09-01; ")
    expect_match(why[["off"]], "-0.41 % \u00b1 0.4 %, beyond its uncertainty")
    expect_match(why[["failed"]], "beyond its tolerance")
    expect_match(why[["held"]], "no day it is due")
    drifts <- status[status$calibration == "drifts", ]
    expect_equal(drifts$checks, 9)
    expect_equal(drifts$checked, "2025-09-01")
    expect_equal(c(drifts$deviation, drifts$uncertainty), c(0.2, 0.4))
    expect_match(why[["drifts"]], "; verified on 2025-09-01: off by 0.2 % \u00b1 0.4 %$")
    # eight alike set no limits
    for (k in 1:9) {
      file_check(ledger, check_of(if (k < 9) 0.1 else 0.2, paste0("2025-0", k, "-01"), name = "alike"))
    }
    expect_equal(state()[["alike"]], "in order")
    # made again: what was before counts no more
    file_check(ledger, check_of(0.1, "2026-02-01", name = "drifts", pixel = 250))
    expect_equal(state()[["drifts"]], "in order")
    expect_refused(calibration_status(ledger, "May"), class = "argument")
  })
})

test_that("filing a run warns of its calibrations that are not in order", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    expect_silent(entry <- file_run(ledger, plain_results()))
    status <- calibration_status(ledger)
    expect_equal(status$calibration, "SEM 500x")
    expect_match(status$why, "never verified")
    scale <- read_calibration(kit("sem-500x.calibration.yml"))
    check <- check_of(-0.9, "2026-11-20", name = "SEM 500x")
    check$calibration <- scale
    file_check(ledger, check)
    expect_warning(
      file_run(ledger, plain_results(), replaces = entry, why = "again"),
      "\"SEM 500x\" is off: verified on 2026-11-20", class = "bemrick_warning_overdue"
    )
  })
})

test_that("a check counts the standard it is made with, and what was shrunk as it was", {
  sure <- function(...) verify_calibration(..., error_pixels = 0)$uncertainty
  ends <- list(from = c(0, 5), to = c(240, 5))
  field <- ruler_field()
  field$calibration$uncertainty <- 0.003
  of <- function(field, ...) do.call(sure, c(list(field, "100 um"), ends, list(...)))
  expect_equal(of(field), 0.006)
  standard <- length_standard("G", "0.8 %", certificate = "1")
  expect_equal(of(field, standard = standard), 2 * 0.005)
  field$calibration <- add_standard(field$calibration, standard)
  expect_equal(of(field), 2 * 0.005)
  expect_equal(of(field, standard = standard), 0.006)
  other <- length_standard("G", "0.8 %", certificate = "2")
  expect_equal(of(field, standard = other), 2 * sqrt(0.005^2 + 0.004^2))
  expect_refused(of(field, standard = 3), class = "class")
  small <- shrink_field(field, 2)
  check <- verify_calibration(small, "50 um", c(0, 5), c(60, 5))
  expect_equal(check$calibration$pixel, field$calibration$pixel)
})
