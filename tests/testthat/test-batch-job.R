list_of_beads <- function() read_batch_list(lab_file("batch.csv"))

job_of <- function(list = list_of_beads(), method = lab_file("beads.method.yml"), unit = "um", kinds = c("objects")) {
  names(kinds) <- ""
  new_job(
    list, methods_of(list, read_method(method)), calibrations_of(list), unit, kinds, part = "there"
  )
}

test_that("methods and calibrations stand once, and each field finds its own", {
  list <- list_of_beads()
  other <- text_file(
    "bemrick: method 1", "steps: [segment_auto, find_objects, measure_objects]"
  )
  list$method[3] <- other
  job <- job_of(list)
  expect_length(job$methods$values, 2)
  expect_equal(job$methods$of, c(1, 1, 2, 1))
  expect_equal(length(job_method(job, 3)$steps), 3)
  expect_gt(length(job_method(job, 4)$steps), 3)
  expect_length(job$calibrations$values, 1)
  expect_equal(lengths(job$names, use.names = FALSE), rep(1, 4))
  expect_null(new_job(list[1, ], methods_of(list[1, ], read_method(other)), list(NULL), "px", c("objects"))$keys)
})

test_that("branches have files of their own", {
  kinds <- c(a = "objects", b = "widths")
  places <- places_of_list(list_of_beads()[1:2, ], kinds)
  expect_equal(places$branch, c("a", "b", "a", "b"))
  expect_equal(places$field, c("1", "1", "2", "2"))
  list <- list_of_beads()
  job <- new_job(
    list, methods_of(list, read_method(lab_file("beads.method.yml"))), calibrations_of(list), "um", kinds, "there"
  )
  expect_equal(unname(lengths(job$names)), rep(2, 4))
  expect_match(job$names[[2]], "_2_[ab]$")
})

test_that("a field has the same key whenever the same is asked of it, and else another", {
  list <- list_of_beads()
  keys <- job_of()$keys
  expect_match(keys, "^[0-9a-f]{32}$")
  expect_equal(anyDuplicated(keys), 0)
  expect_equal(job_of()$keys, keys)
  expect_equal(job_of(list[4:1, ])$keys, rev(keys))
  differs <- function(change, where = 1:4) {
    changed <- change(list)
    expect_equal(which(job_of(changed)$keys != keys), where)
  }
  moved <- list
  moved$image <- file.path("elsewhere", basename(list$image))
  expect_equal(job_of(moved)$keys, keys)
  for (column in c("sample", "field", "page", "channel", "magnification")) {
    differs(function(l) {
      l[[column]][2] <- if (column == "page") 2L else "7"
      l
    }, 2L)
  }
  # the columns' borders count
  differs(function(l) {
    l$batch[1] <- paste(l$batch[1], l$sample[1])
    l$sample[1] <- ""
    l
  }, 1L)
  calibration <- read_calibration(lab_file("sem-500x.calibration.yml"))
  calibration$pixel <- calibration$pixel * (1 + 1e-9)
  file <- tempfile(fileext = ".calibration.yml")
  write_calibration(calibration, file)
  differs(function(l) {
    l$calibration[3] <- file
    l
  }, 3L)
  expect_false(any(job_of(unit = "mm")$keys == keys))
  # a file that a step names counts by what it holds
  flat <- tempfile(fileext = ".png")
  method <- function() {
    text_file(
      "bemrick: method 1", "steps:", paste0("  - filter_flatten: {flat: ", flat, "}"), "  - segment_auto",
      "  - find_objects", "  - measure_objects"
    )
  }
  png::writePNG(matrix(0.5, 40, 40), flat)
  one <- job_of(method = method())$keys
  png::writePNG(matrix(0.6, 40, 40), flat)
  expect_false(any(job_of(method = method())$keys == one))
})
