test_that("magnifications are read from names, and nothing else is taken for one", {
  says <- c(
    "SEM 500x" = "500x", "plate_x200-3.tif" = "200x", "b 1.5kx.png" = "1500x", "50\u00d7 a" = "50x",
    "a-100000x" = "100000x"
  )
  for (name in names(says)) expect_equal(magnification_of(name), says[[name]])
  for (name in c("1024x768.png", "ab-2611-a1.png", "max5", "x", "0x1f.tif", "box12.png",
    NA)) expect_true(is.na(magnification_of(name)))
})

scales_folder <- function(...) {
  dir <- tempfile("scales-")
  dir.create(dir)
  for (name in c(...)) {
    scale <- calibration_from_length(
      100 * as.numeric(sub(".* (.*)x", "\\1", name)) / 500, "100 um", name = name
    )
    write_calibration(scale, file.path(dir, paste0(gsub(" ", "-", name), ".calibration.yml")))
  }
  dir
}

test_that("the calibration of a folder is picked by magnification", {
  dir <- scales_folder("SEM 500x", "SEM 1000x")
  expect_setequal(names(read_calibrations(dir)), c("500x", "1000x"))
  field <- as_field(matrix(0:255, 16))
  expect_equal(calibrate(field, dir, magnification = "1000x")$calibration$name, "SEM 1000x")
  expect_refused(calibrate(field, dir), "says no magnification", class = "calibration")
  expect_refused(
    calibrate(field, dir, magnification = "50x"), "no calibration for 50x",
    class = "calibration"
  )
  expect_refused(read_calibrations(tempfile()), "no folder", class = "file")
  expect_refused(read_calibrations(dirname(text_file("x"))[0]), class = "argument")
  empty <- tempfile()
  dir.create(empty)
  expect_refused(read_calibrations(empty), "no calibration", class = "file")
  file.copy(list.files(dir, full.names = TRUE)[1], file.path(dir, "again.calibration.yml"))
  expect_refused(read_calibrations(dir), "both for", class = "calibration")
})

auto_list <- function(images, dir, ...) {
  lines <- c(
    "batch,sample,field,image,calibration,magnification",
    paste("B", "S", seq_along(images), basename(images), "auto", c(...), sep = ",")
  )
  writeLines(lines, file.path(dir, "batch.csv"))
  file.path(dir, "batch.csv")
}

test_that("auto picks by magnification, then by tags, and says when it cannot", {
  dir <- scales_folder("SEM 500x", "SEM 1000x")
  beads <- small_beads(pixel = "1 um", diameter = "16 um")
  plain <- beads
  plain$calibration <- NULL
  write_field(plain, file.path(dir, "a_500x.png"))
  write_field(plain, file.path(dir, "b.png"))
  write_field(beads, file.path(dir, "c.png"))
  list <- read_batch_list(auto_list(c("a_500x.png", "b.png", "c.png"), dir, "", "1000x", ""))
  expect_equal(
    basename(list$calibration), c("SEM-500x.calibration.yml", "SEM-1000x.calibration.yml", "tags")
  )
  method <- read_method(kit("beads.method.yml"))
  run <- run_batch(list, method, out = file.path(dir, "results"))
  expect_equal(run$fields$status, rep("measured", 3))
  ratio <- tapply(run$objects$ecd_um, run$objects$field, mean)
  expect_equal(unname(ratio[["1"]] / ratio[["2"]]), 2, tolerance = 1e-6)
  expect_equal(unname(ratio[["1"]]), unname(ratio[["3"]]), tolerance = 1e-6)
  expect_equal(run$fields$calibration[3], "from the file's tags: PNG pHYs")
  expect_equal(read_run(file.path(dir, "results"))$provenance$calibrations[[3]]$file, "tags")
  expect_refused(
    read_batch_list(auto_list("b.png", dir, "")), "No calibration can be picked",
    class = "file_content"
  )
  expect_refused(read_batch_list(auto_list("b.png", dir, "70x")), "for 70x", class = "file_content")
  expect_refused(read_batch_list(auto_list("b.png", dir, "large")), "Row 2", class = "file_content")
})

test_that("pages and channels of a batch list reach the reader", {
  dir <- tempfile()
  dir.create(dir)
  beads <- small_beads()$pixels
  file.copy(tiff_made(list(255 - beads, beads)), file.path(dir, "two.tif"))
  writeLines(
    c("batch,sample,field,image,calibration,page", "B,S,1,two.tif,,2"), file.path(dir, "list.csv")
  )
  method <- new_method(
    list(
      list(step = "segment_auto", args = list(phase = "bright")),
      list(step = "find_objects", args = list()), list(step = "measure_objects", args = list())
    ),
    "t", "o"
  )
  run <- run_batch(file.path(dir, "list.csv"), method)
  expect_equal(run$fields$found, nrow(measured_beads()))
  writeLines(
    c("batch,sample,field,image,calibration,page", "B,S,1,two.tif,,two"), file.path(dir, "list.csv")
  )
  expect_refused(read_batch_list(file.path(dir, "list.csv")), "page", class = "file_content")
  writeLines(
    c("batch,sample,field,image,calibration,channel", "B,S,1,two.tif,,alpha"),
    file.path(dir, "list.csv")
  )
  expect_refused(read_batch_list(file.path(dir, "list.csv")), "Row 2", class = "file_content")
})

test_that("magnifications are handed over as numbers or words above zero", {
  expect_equal(check_magnification(500), "500x")
  expect_equal(check_magnification(" 500 "), "500x")
  expect_equal(check_magnification("1.5 kX"), "1500x")
  expect_equal(check_magnification("X200"), "200x")
  expect_equal(check_magnification(0.01), "0.01x")
  expect_equal(check_magnification(1e7), "10000000x")
  for (wrong in list(0.009, 1.1e7, 0, "0", "0x", "large", NA, list("500x"), TRUE)) {
    expect_refused(check_magnification(wrong), class = "argument")
  }
  expect_equal(check_magnification("0.5"), "0.5x")
  expect_equal(magnification_of(c("A_100X.png", NA, "plate")), c("100x", NA, NA))
})

test_that("two calibrations of one magnification are named, a third is not", {
  dir <- withr::local_tempdir()
  write <- function(name, file) {
    write_calibration(
      calibration_from_length(10, "5 um", name = name),
      file.path(dir, paste0(file, ".calibration.yml"))
    )
  }
  write("200x", "a")
  write("500x", "b")
  write("SEM 500x", "c")
  said <- expect_refused(read_calibrations(dir), class = "calibration")
  expect_match(conditionMessage(said), "b.calibration.yml.*c.calibration.yml.*500x")
  expect_no_match(conditionMessage(said), "a.calibration.yml")
})
