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
  file <- list_text(paste0(head_line, ",note"), paste0("B,S,1,", kit("beads.png"), ",,\"odd, looked at twice\""))
  expect_equal(read_batch_list(file)$image, kit("beads.png"))
})

test_that("mistakes are refused with their row", {
  expect_error(
    read_batch_list(list_text("batch,sample,field,image", "B,S,1,beads.png")), "calibration",
    class = "bemrick_error_file_content"
  )
  expect_error(
    read_batch_list(list_text("batch,sampel,field,image,calibration", good_line)), "sample",
    class = "bemrick_error_unknown_name"
  )
  expect_error(read_batch_list(list_text(head_line)), "no row", class = "bemrick_error_file_content")
  expect_error(
    read_batch_list(list_text(head_line, "B,,1,beads.png,")), "sample.* row 2", class = "bemrick_error_file_content"
  )
  expect_error(
    read_batch_list(list_text(head_line, good_line, good_line)), "Row 3", class = "bemrick_error_file_content"
  )
  expect_error(
    read_batch_list(list_text(head_line, "B,S,1,beds.png,")), "beds.png.*row 2", class = "bemrick_error_file"
  )
  expect_error(read_batch_list(list_text(head_line, "B,S,1,beads.png,no.yml")), "no.yml", class = "bemrick_error_file")
  expect_error(read_batch_list("no-list.csv"), class = "bemrick_error_file")
})

test_that("single images become samples of their own", {
  list <- list_of_images(c(kit("beads.png"), kit("plate.tif"), kit("beads.png")))
  expect_equal(list$sample, c("beads", "plate", "beads-1"))
  expect_error(list_of_images("none.png"), class = "bemrick_error_file")
})

test_that("pages are whole numbers from 1, in lists and on the command line", {
  for (page in c("1.9", "0", "-1", "x", "1e9")) {
    list <- text_file("batch,sample,field,image,calibration,page", paste0("a,b,1,", kit("plate.tif"), ",,", page), ext = ".csv")
    expect_error(read_batch_list(list), "whole numbers from 1 \\(row 2\\)", class = "bemrick_error_file_content")
  }
  said <- run_cli("measure", kit("plate.tif"), "--method", kit("plates.method.yml"), "--page", "1.9", "--out", tempfile())
  expect_equal(said$status, 2)
  expect_match(said$err, "`page` must be one whole number")
})
