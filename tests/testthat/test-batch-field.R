row_for <- function(image, ...) {
  utils::modifyList(
    tibble::tibble(
      batch = "B", sample = "S", field = "1", image = image, page = NA_integer_,
      channel = NA_character_, magnification = NA_character_
    ),
    list(...)
  )
}
plain_reader <- list(read = function(file, page, channel) read_field(file, page, channel))

test_that("a field gives one row, its objects and its histogram", {
  method <- read_method(kit("beads.method.yml"))
  scale <- read_calibration(kit("sem-500x.calibration.yml"))
  found <- run_field(row_for(kit("beads.png")), method, scale, "um", plain_reader)
  measures <- found$tables[[1]]
  expect_equal(found$fields$status, "measured")
  expect_equal(found$fields$accepted, sum(measures$accepted))
  expect_equal(found$fields$area_fraction, area_fraction(measures))
  expect_equal(nrow(found$objects), nrow(measures))
  expect_equal(names(found$objects)[1:4], c("batch", "sample", "field", "id"))
  expect_equal(nrow(found$histograms), 256)
  expect_equal(found$fields$warnings, "")
})

test_that("whatever goes wrong with a field is its reason, warnings are kept", {
  method <- read_method(kit("beads.method.yml"))
  scale <- read_calibration(kit("sem-500x.calibration.yml"))
  absent <- run_field(row_for("none.png"), method, scale, "um", plain_reader)
  expect_equal(absent$fields$status, "faulty")
  expect_match(absent$fields$reason, "no file 'none.png'")
  expect_null(absent$tables[[1]])
  short <- new_method(method$steps[1:2], "t", "o")
  expect_match(run_field(row_for(kit("beads.png")), short, scale, "um", plain_reader)$fields$reason,
    "ends without a table")
  other <- run_field(
    row_for(kit("beads.png"), magnification = "1000x"), method, scale, "um", plain_reader
  )
  expect_match(other$fields$reason, "taken at 1000x")
  dark <- read_method(text_file("bemrick: method 1", "steps:", "  - segment_auto: {phase: dark}",
    "  - find_objects", "  - measure_objects"))
  warned <- suppressWarnings(run_field(
    row_for(kit("beads.png")), dark, scale, "um", plain_reader
  ))$fields$warnings
  expect_match(warned, "information strip at the bottom")
})

test_that("the scale in a picture's tags is taken in the unit of the run", {
  field <- calibrate(as_field(small_beads()$pixels), calibration_from_length(100, "60 um"))
  write_field(field, file <- tempfile(fileext = ".png"))
  method <- read_method(text_file(
    "bemrick: method 1", "steps:", "  - segment_auto", "  - find_objects", "  - measure_objects"
  ))
  found <- run_field(row_for(file), method, "tags", "mm", plain_reader)
  expect_true("ecd_mm" %in% names(found$objects))
  expect_equal(found$fields$pixel_x_um, 0.6, tolerance = 1e-4)
})

test_that("a calibration that does not fit is taken where the list gives a reason", {
  lab <- bead_lab()
  small <- crop_to(read_field(file.path(lab, "images", list.files(file.path(lab, "images"))[1])), c(0, 0, 200, 150))
  dir <- withr::local_tempdir()
  write_field(small, file.path(dir, "cut.png"))
  calibration <- read_calibration(file.path(lab, "sem-500x.calibration.yml"))
  calibration$image <- list(width = 800, height = 600, sha256 = "x")
  write_calibration(calibration, file.path(dir, "sem.calibration.yml"))
  run <- function(...) {
    run_cli(
      "measure", file.path(dir, "cut.png"), "--method", file.path(lab, "beads.method.yml"),
      "--calibration", file.path(dir, "sem.calibration.yml"), "--out", out <<- tempfile("run-"),
      "--no-report", ...
    )
  }
  out <- NULL
  refused <- run()
  expect_equal(refused$status, 1)
  expect_match(refused$err, "--override", fixed = TRUE)
  taken <- run("--override", "cut out of the ruler's picture")
  expect_equal(read_run(out)$fields$override, "cut out of the ruler's picture")
  expect_equal(read_run(out)$fields$status, "measured")
})

test_that("a field without objects has a row and a histogram, and the time it took", {
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(c(0, 200), 20, 20)), file)
  row <- list_of_images(file)
  method <- new_method(list(
    list(step = "segment_level", args = list(low = 250)), list(step = "find_objects", args = list()),
    list(step = "measure_objects", args = list())
  ), "t", "o")
  reader <- list(read = function(...) {
    Sys.sleep(0.3)
    read_field(...)
  })
  found <- run_field(row, method, NULL, "px", reader)
  expect_null(found$objects)
  expect_equal(found$fields$status, "measured")
  expect_match(found$fields$warnings, "empty")
  expect_gte(found$fields$seconds, 0.3)
  expect_lt(found$fields$seconds, 20)
  expect_equal(names(found$histograms)[1:3], id_columns)
  expect_equal(with_id(list(a = 1), tibble::tibble(b = 1:2)), tibble::tibble(a = c(1, 1), b = 1:2))
})

test_that("a warning says of which picture it is, once", {
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(c(0, 200), 20, 20)), file)
  method <- text_file(
    "bemrick: method 1", "steps:", "  - segment_level: {low: 250}", "  - find_objects: {}",
    "  - measure_objects: {}"
  )
  said <- run_cli("measure", file, "--method", method, "--out", tempfile(), "--no-report")$err
  expect_length(gregexpr("the mask is", said)[[1]], 1)
  expect_match(said, paste0("Warning: ", basename(file), ": No pixel is bright enough"), fixed = TRUE)
})

test_that("a field that was not come to is a faulty one without tables, and took no time", {
  method <- read_method(kit("beads.method.yml"))
  found <- faulty_result(row_for(kit("beads.png")), method, "its worker ended")
  expect_equal(found$fields$reason, "its worker ended")
  expect_equal(found$fields$seconds, 0)
  expect_true("fields" %in% names(found))
  expect_false("tables" %in% names(found))
  slow <- list(error = simpleError("no light"), seconds = 1.23456)
  expect_equal(result_of_trunk(row_for(kit("beads.png")), slow, method)$fields$seconds, 1.23)
})
