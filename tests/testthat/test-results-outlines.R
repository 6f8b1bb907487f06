coordinates_of <- function(file) {
  content <- jsonlite::read_json(file)
  list(unit = content$unit, features = lapply(content$features, function(f) {
    matrix(unlist(f$geometry$coordinates), ncol = 2, byrow = TRUE)
  }), content = content)
}

square_field <- function(scale) {
  pixels <- matrix(0, 20, 30)
  pixels[5:8, 11:20] <- 200
  pixels[6:7, 13:14] <- 0
  calibrate(as_field(pixels), scale)
}

measured_squares <- function(scale) {
  measure_objects(find_objects(segment_level(square_field(scale), low = 100)))
}

test_that("outlines in lengths are those in pixels times the pixel size along each axis", {
  m <- measured_squares(calibration_from_length(c(x = 200, y = 400), "100 um"))
  file <- withr::local_tempfile(fileext = ".geojson")
  write_outlines(m, file)
  found <- coordinates_of(file)
  expect_equal(found$unit, "um")
  outer <- found$content$features[[1]]$geometry$coordinates[[1]]
  outer <- unique(matrix(unlist(outer), ncol = 2, byrow = TRUE))
  expect_equal(range(outer[, 1]), c(10, 20) * 0.5)
  expect_equal(range(outer[, 2]), c(4, 8) * 0.25)
  expect_length(found$content$features[[1]]$geometry$coordinates, 2)  # its hole
  expect_equal(found$content$features[[1]]$properties, list(accepted = TRUE, reason = ""))
  expect_refused(write_outlines(m, file), class = "exists")
  write_outlines(m, file, "in", replace = TRUE)
  inches <- coordinates_of(file)
  expect_equal(inches$unit, "in")
  # to a thousandth of a pixel
  expect_equal(inches$features[[1]] * 25400, found$features[[1]], tolerance = 1e-3)
  expect_lt(max(abs(inches$features[[1]] * 25400 - found$features[[1]])), 0.25 / 1000)
  expect_refused(read_outlines(file), "\"in\"", class = "file_content")
})

test_that("decimals follow the pixel size, from nanometres to inches", {
  for (length in c("0.1 nm", "100 nm", "100 um", "100 mm")) for (unit in c("nm", "um", "mm", "in")) {
    m <- measured_squares(calibration_from_length(300, length))
    file <- withr::local_tempfile(fileext = ".geojson")
    write_outlines(m, file, unit)
    pixel <- field_pixel(field_of_rows(m))[["x"]] *
      unit_ratio(field_of_rows(m)$calibration$unit, unit)
    expected <- c(10, 20) * pixel
    if (pixel < 1e-6) next  # beyond nine decimals
    expect_lt(max(abs(range(coordinates_of(file)$features[[1]][, 1]) - expected)), pixel / 999)
  }
})

test_that("a file has as many decimals as a thousandth of a pixel takes, no more", {
  decimals_of <- function(file) {
    numbers <- regmatches(text <- readLines(file), gregexpr("[0-9]+[.][0-9]+", text))[[1]]
    max(nchar(sub(".*[.]", "", numbers)))
  }
  for (length in c("100 um", "1 um", "3000 um")) {
    m <- measured_squares(calibration_from_length(333, length))
    write_outlines(m, file <- withr::local_tempfile(fileext = ".geojson"))
    pixel <- field_pixel(field_of_rows(m))[["x"]]
    expect_equal(field_pixel_in(field_of_rows(m), "um"), pixel)
    expect_equal(decimals_of(file), ceiling(-log10(pixel / 1000)))
  }
})

test_that("on a tilted plane outlines are taken to the plane", {
  grid <- simulate_grid(width = 240, height = 180, noise = 1)
  plane <- calibration_from_grid(grid, "1 mm")
  m <- measure_objects(find_objects(segment_auto(calibrate(grid, plane), phase = "dark")))
  file <- withr::local_tempfile(fileext = ".geojson")
  write_outlines(m, file)
  found <- coordinates_of(file)
  expect_equal(found$unit, "mm")
  outlines <- outlines_of(m)
  first <- outlines[outlines$id == m$id[1], ]
  on_plane <- points_on_plane(field_of_rows(m), first$x_px, first$y_px)
  expect_equal(range(found$features[[1]][, 1]), range(on_plane$x), tolerance = 1e-4)
  expect_equal(range(found$features[[1]][, 2]), range(on_plane$y), tolerance = 1e-4)
})

test_that("a results folder's outlines are exported field by field, or refused before any is", {
  dir <- withr::local_tempdir()
  run <- read_run(plain_results())
  export_outlines(run, out <- file.path(dir, "out"), "mm")
  names <- list.files(file.path(run$dir, "outlines"))
  expect_setequal(list.files(out), names)
  pixel <- run$fields$pixel_x_um[1] / 1000
  for (name in names) {
    ours <- coordinates_of(file.path(run$dir, "outlines", name))
    theirs <- coordinates_of(file.path(out, name))
    expect_equal(theirs$unit, "mm")
    expect_equal(length(theirs$features), length(ours$features))
    off <- max(abs(unlist(theirs$features) - unlist(ours$features) * pixel))
    expect_lt(off, pixel / 500)
  }
  expect_refused(export_outlines(run, out), class = "exists")
  expect_refused(export_outlines(run, file.path(dir, "x"), "px"), class = "argument")
  in_pixels <- run
  in_pixels$unit <- "px"
  expect_refused(export_outlines(in_pixels, file.path(dir, "x")), class = "no_calibration")
  tilted <- run
  tilted$fields$pixel_x_um[1] <- NA
  expect_refused(export_outlines(tilted, file.path(dir, "x")), class = "plane")
  no_folder <- run
  no_folder$dir <- NULL
  expect_refused(export_outlines(no_folder, file.path(dir, "x")), class = "argument")
  expect_false(file.exists(file.path(dir, "x")))
  uncalibrated <- measure_objects(find_objects(mask_of(square_field(half_um())$pixels > 100)))
  expect_refused(write_outlines(uncalibrated, file.path(dir, "p.geojson")), class = "no_calibration")
})

test_that("the command line exports outlines, and says what it cannot", {
  dir <- withr::local_tempdir()
  out <- file.path(dir, "out")
  done <- run_cli("outlines", plain_results(), out, "--unit", "um")
  expect_equal(done$status, 0)
  expect_match(paste(done$out, done$err), paste("Wrote", length(list.files(out)), "files"))
  expect_match(run_cli("outlines", plain_results(), out)$err, "already exists")
  expect_match(
    run_cli("outlines", plain_results(), file.path(dir, "x"), "--unit", "ell")$err, "--unit must be"
  )
  expect_equal(run_cli("outlines", dir, file.path(dir, "x"))$status, 2)
})
