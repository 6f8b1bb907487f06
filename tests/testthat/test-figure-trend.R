filed_trend <- function(...) {
  place <- withr::local_tempfile(fileext = ".sqlite", .local_envir = parent.frame())
  demo_ledger(place)
  ledger_trend(local_ledger(place, FALSE, parent.frame()), ...)
}

test_that("a trend shows values, intervals, limits and where the method changed", {
  trend <- filed_trend("Alumina beads AB-24", "D50 of ecd by number", per = "batch")
  figure <- ggplot2::autoplot(trend)
  drawn <- ggplot2::ggplot_build(figure)$data
  points <- drawn[[length(drawn)]]
  expect_equal(points$y, trend$value)
  ranges <- Filter(function(layer) "ymin" %in% names(layer) && nrow(layer) == nrow(trend), drawn)[[1]]
  expect_equal(ranges$ymin, trend$low)
  allowed <- drawn[[1]]
  expect_equal(c(allowed$ymin, allowed$ymax, nrow(allowed)), c(22, 26, 1))
  lines <- Filter(function(layer) "xintercept" %in% names(layer), drawn)[[1]]
  expect_equal(lines$xintercept, which(trend$changed == "method") - 0.5)
  expect_equal(figure$labels$y, "D50 of ecd by number (\u00b5m)")
  expect_equal(fingerprint(figure), "08263917")
})

test_that("what has no batch of its own is labelled by its day, points as far from each other", {
  place <- withr::local_tempfile(fileext = ".sqlite")
  checks <- calibration_trend(local_ledger(demo_ledger(place), FALSE), "SEM 500x")
  expect_equal(trend_labels(checks, c(1, 24)), c("2024-11-11", "2026-10-11"))
  expect_equal(fingerprint(ggplot2::autoplot(checks)), "1c6a367b")
  expect_equal(axis_numbers(24), seq(1, 23, 2))
  expect_equal(axis_numbers(12), 1:12)
  expect_equal(axis_numbers(1), 1)
})

test_that("limits that change make stretches, and there may be none", {
  rows <- tibble::tibble(number = 1:4, min = c(1, 1, 2, -Inf), max = c(5, 5, 5, Inf))
  expect_equal(
    limit_stretches(rows),
    tibble::tibble(from = c(0.5, 2.5), to = c(2.5, 3.5), min = c(1, 2), max = c(5, 5))
  )
  free <- filed_trend("Alumina beads AB-24", "D90 of ecd by volume", last = 2)
  free$min <- free$max <- NA
  expect_silent(figure_png(ggplot2::autoplot(free), 600, 400))
})
