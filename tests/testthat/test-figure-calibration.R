test_that("what a calibration was found on is drawn over the picture", {
  ruler <- simulate_ruler(pitch = 30, seed = 1)
  marks <- calibration_from_marks(ruler, "10 um")
  expect_equal(fingerprint(calibration_figure(ruler, marks)), "0fa4565d")
  sem <- small_beads(strip = TRUE, width = 420)
  bar <- calibration_from_bar(sem, "50 um")
  expect_equal(fingerprint(calibration_figure(sem, bar)), "3766a168")
  lines <- evidence_lines(bar$evidence, 420, 300)
  expect_equal(lines$x, c(bar$evidence$left[1], bar$evidence$right[1], bar$evidence$left[1]))
  expect_equal(lines$y_end - lines$y, c(12, 12, 0))
  grid <- simulate_grid(width = 300, height = 240, seed = 1)
  expect_equal(
    fingerprint(calibration_figure(grid, calibration_from_grid(grid, "1 mm"))), "6e44756b"
  )
  expect_equal(nrow(evidence_lines(NULL, 10, 10)), 0)
  upright <- evidence_lines(
    list(
      kind = "marks", angle = 0, marks = tibble::tibble(centre_px = c(5, 9), used = c(TRUE, FALSE))
    ),
    40, 20
  )
  expect_equal(
    upright,
    tibble::tibble(x = c(5, 9), y = 5, x_end = c(5, 9), y_end = 15, used = c("TRUE", "FALSE"))
  )
})

test_that("dots are joined to their neighbours, dashed where one was left out", {
  dots <- tibble::tibble(
    x_px = c(0, 10, 0, 10), y_px = c(0, 0, 10, 10), across = c(0, 1, 0, 1), down = c(0, 0, 1, 1),
    used = c(TRUE, TRUE, TRUE, FALSE)
  )
  lines <- evidence_lines(list(kind = "grid", dots = dots), 40, 20)
  expect_equal(lines$x, c(0, 0, 0, 10))
  expect_equal(lines$x_end, c(10, 10, 0, 10))
  expect_equal(lines$used, c("TRUE", "FALSE", "TRUE", "FALSE"))
})
