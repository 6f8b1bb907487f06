list_text <- function(...) {
  dir <- tempfile()
  dir.create(dir)
  file.copy(c(kit("beads.png"), kit("sem-500x.calibration.yml")), dir)
  file <- file.path(dir, "batch.csv")
  writeLines(c(...), file)
  file
}
head_line <- "batch,sample,field,image,calibration"
good_line <- "B,S,1,beads.png,sem-500x.calibration.yml"

test_that("paths are taken relative to the list, and empty calibrations allowed", {
  file <- list_text(head_line, good_line, "B,S,2,beads.png,")
  list <- read_batch_list(file)
  expect_equal(nrow(list), 2)
  expect_true(all(file.exists(list$image)))
  expect_true(is.na(list$calibration[2]))
  expect_true(all(is.na(list$method)))
})

test_that("absolute paths and a column of notes are taken", {
  file <- list_text(
    paste0(head_line, ",note"), paste0("B,S,1,", kit("beads.png"), ",,\"odd, looked at twice\"")
  )
  expect_equal(read_batch_list(file)$image, kit("beads.png"))
})

test_that("mistakes are refused with their row", {
  expect_refused(
    read_batch_list(list_text("batch,sample,field,image", "B,S,1,beads.png")), "calibration",
    class = "file_content"
  )
  expect_refused(
    read_batch_list(list_text("batch,sampel,field,image,calibration", good_line)), "sample",
    class = "unknown_name"
  )
  expect_refused(read_batch_list(list_text(head_line)), "no row", class = "file_content")
  expect_refused(
    read_batch_list(list_text(head_line, "B,,1,beads.png,")), "sample.* row 2",
    class = "file_content"
  )
  expect_refused(
    read_batch_list(list_text(head_line, good_line, good_line)), "Row 3",
    class = "file_content"
  )
  expect_refused(
    read_batch_list(list_text(head_line, "B,S,1,beds.png,")), "beds.png.*row 2",
    class = "file"
  )
  expect_refused(read_batch_list(list_text(head_line, "B,S,1,beads.png,no.yml")), "no.yml", class = "file")
  expect_refused(read_batch_list("no-list.csv"), class = "file")
})

test_that("single images become samples of their own", {
  list <- list_of_images(c(kit("beads.png"), kit("plate.tif"), kit("beads.png")))
  expect_equal(list$sample, c("beads", "plate", "beads-1"))
  expect_refused(list_of_images("none.png"), class = "file")
})

test_that("pages are whole numbers from 1, in lists and on the command line", {
  for (page in c("1.9", "0", "-1", "x", "1e9")) {
    list <- text_file(
      "batch,sample,field,image,calibration,page", paste0("a,b,1,", kit("plate.tif"), ",,", page),
      ext = ".csv"
    )
    expect_refused(read_batch_list(list), "whole numbers from 1 \\(row 2\\)", class = "file_content")
  }
  said <- run_cli(
    "measure", kit("plate.tif"), "--method", kit("plates.method.yml"), "--page", "1.9", "--out",
    tempfile()
  )
  expect_equal(said$status, 2)
  expect_match(said$err, "`page` must be one whole number")
})

test_that("rows are named as the list has them, and words of calibrations are not files", {
  dir <- withr::local_tempdir()
  write_field(as_field(matrix(0, 4, 4)), file.path(dir, "a_500x.png"))
  write_calibration(
    calibration_from_length(10, "5 um", name = "500x"), file.path(dir, "one.calibration.yml")
  )
  listed <- function(..., head = "batch,sample,field,image,calibration") {
    writeLines(c(head, ...), file.path(dir, "l.csv"))
    read_batch_list(file.path(dir, "l.csv"))
  }
  expect_equal(basename(listed("b,s,1,a_500x.png,auto")$calibration), "one.calibration.yml")
  expect_equal(listed("b,s,1,a_500x.png,tags")$calibration, "tags")
  two <- listed("b,s,1,a_500x.png,", "b,s,2,a_500x.png,one.calibration.yml")
  expect_equal(basename(two$calibration), c(NA, "one.calibration.yml"))
  expect_equal(two$magnification, c("500x", "500x"))
  more <- "batch,sample,field,image,calibration,page,channel,magnification"
  expect_equal(
    listed("b,s,1,a_500x.png,,1,red,1000x", head = more)[c("page", "channel", "magnification")],
    tibble::tibble(page = 1L, channel = "red", magnification = "1000x"), ignore_attr = TRUE
  )
  for (page in c("0", "1.5", "x", "10001")) {
    expect_refused(
      listed("b,s,1,a_500x.png,,1,,", paste0("b,s,2,a_500x.png,,", page, ",,"), head = more),
      "[Rr]ow 3", class = "file_content"
    )
  }
  expect_refused(
    listed("b,s,1,a_500x.png,,,,", "b,s,2,a_500x.png,,,blue-ish,", head = more), "[Rr]ow 3",
    class = "file_content"
  )
  # tags that a picture does not have, and a magnification no calibration is for
  write_field(as_field(matrix(0, 4, 4)), file.path(dir, "b_200x.png"))
  expect_refused(listed("b,s,1,b_200x.png,auto"), "b_200x.png.*row 2",
    class = "file_content")
  scaled <- calibrate(as_field(matrix(0, 4, 4)), calibration_from_length(10, "5 um"))
  write_field(scaled, file.path(dir, "c_200x.png"))
  expect_equal(listed("b,s,1,c_200x.png,auto")$calibration, "tags")
  dir.create(file.path(dir, "calibrations"))
  file.rename(
    file.path(dir, "one.calibration.yml"), file.path(dir, "calibrations", "one.calibration.yml")
  )
  expect_equal(basename(listed("b,s,1,a_500x.png,auto")$calibration), "one.calibration.yml")
})

test_that("absent files are told with how many more there are", {
  dir <- withr::local_tempdir()
  writeLines(c("batch,sample,field,image,calibration", paste0("b,s,", 1:3, ",x", 1:3, ".png,")),
    file.path(dir, "l.csv"))
  expect_refused(
    read_batch_list(file.path(dir, "l.csv")), "x1.png.*2 more files of column image are missing",
    class = "file"
  )
  writeLines(c("batch,sample,field,image,calibration", paste0("b,s,", 1:2, ",x", 1:2, ".png,")),
    file.path(dir, "l.csv"))
  expect_error(read_batch_list(file.path(dir, "l.csv")), "1 more file of column image is missing")
})

test_that("pages, folders and tags of a list are taken at their edges", {
  dir <- withr::local_tempdir()
  write_field(as_field(matrix(0, 4, 4)), file.path(dir, "a_500x.png"))
  more <- "batch,sample,field,image,calibration,page"
  listed <- function(..., head = more) {
    writeLines(c(head, ...), file.path(dir, "l.csv"))
    read_batch_list(file.path(dir, "l.csv"))
  }
  expect_equal(listed(paste0("b,s,1,a_500x.png,,", most_pages))$page, most_pages)
  expect_refused(listed(paste0("b,s,1,a_500x.png,,", most_pages + 1)), class = "file_content")
  folder <- file.path(dir, "scales")
  dir.create(folder)
  write_calibration(calibration_from_length(10, "5 um", name = "500x"), file.path(folder, "x.calibration.yml"))
  write_calibration(calibration_from_length(10, "9 um", name = "200x"), file.path(folder, "y.calibration.yml"))
  expect_equal(basename(listed("b,s,1,a_500x.png,scales,")$calibration), "x.calibration.yml")
  expect_refused(listed("b,s,1,a_500x.png,auto,"), "a_500x.png", class = "file_content")
  tagged <- calibrate(as_field(matrix(0, 4, 4)), calibration_from_length(72, "25.4 mm"))
  write_field(tagged, file.path(dir, "b_500x.tif"))
  expect_refused(listed("b,s,1,b_500x.tif,auto,"), class = "file_content")
})

test_that("columns of one's own are kept, those that look like ours misspelt are not", {
  list <- function(column, value = "x") {
    image <- lab_file(utils::read.csv(lab_file("batch.csv"))$image[1])
    text_file(
      paste0("batch,sample,field,image,calibration,", column),
      paste0("B,S,1,", image, ",,", value), ext = ".csv"
    )
  }
  read <- read_batch_list(list("operator", "AB"))
  expect_equal(read$operator, "AB")
  run <- run_batch(read, lab_file("beads.method.yml"))
  expect_equal(run$fields$operator, "AB")
  for (own in c("name", "stage", "lot")) expect_equal(read_batch_list(list(own))[[own]], "x")
  for (typo in c("magnificaton", "Method", "chanel")) {
    expect_refused(read_batch_list(list(typo)), "Did you mean", class = "unknown_name")
  }
})
