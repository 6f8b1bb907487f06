test_that("each way to calibrate gives what its function gives, with the digits of its file", {
  desk <- desk_state(kit("beads.png"))
  field <- read_field(kit("beads.png"))
  scaled <- function(...) desk_act(desk, list(do = "scale", ...))$doc$calibrations[[1]]
  bar <- scaled(by = "bar", length = "50 um", name = "SEM 500x")
  file <- tempfile(fileext = ".yml")
  write_calibration(calibration_from_bar(field, "50 um", name = "SEM 500x"), file)
  expect_identical(bar$pixel, read_calibration(file)$pixel)
  expect_identical(bar$uncertainty, read_calibration(file)$uncertainty)
  typed <- scaled(by = "length", length = "100 um", ends = list(0, 0, 300, 0))
  expect_equal(unname(typed$pixel), rep(100 / 300, 2), tolerance = 1e-9)
  from_file <- scaled(by = "file", file = kit("sem-500x.calibration.yml"))
  expect_equal(from_file$path, normalizePath(kit("sem-500x.calibration.yml"), "/"))
  expect_refused(scaled(by = "eye", length = "1 um"), class = "argument")
  expect_refused(scaled(by = "length", length = "1 um", ends = 1:3), class = "argument")
  expect_error(scaled(by = "length", length = "1", ends = c(0, 0, 9, 0)), class = "bemrick_error")
})

test_that("a scale counts for all pictures, or for the one that is open", {
  desk <- desk_state(read_batch_list(lab_file("batch.csv")))
  length <- list(do = "scale", by = "length", length = "100 um", ends = c(0, 0, 200, 0))
  all <- desk_act(desk, length)$doc$calibrations
  expect_equal(vapply(all, function(c) c$pixel[["x"]], 0), rep(0.5, 4))
  one <- desk_act(desk, c(length, list(share = FALSE)))$doc$calibrations
  expect_equal(vapply(one, function(c) c$pixel[["x"]], 0), c(0.5, rep(0.6, 3)), tolerance = 0.01)
})

test_that("a scale that the picture speaks against is refused", {
  other <- tempfile(fileext = ".calibration.yml")
  write_calibration(calibration_from_length(300, "100 um", name = "SEM 2000x"), other)
  image <- file.path(withr::local_tempdir(), "beads-500x.png")
  file.copy(kit("beads.png"), image)
  desk <- desk_state(image)
  expect_refused(desk_act(desk, list(do = "scale", by = "file", file = other)), class = "calibration")
})
