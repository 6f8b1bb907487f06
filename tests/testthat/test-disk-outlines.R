test_that("outlines put aside are those of the whole picture, with the numbers of the table", {
  scene <- disk_scene()
  field <- field_on_disk(scene$file)
  field$disk$spool <- withr::local_tempdir()
  steps <- list(
    step_of("segment_level", low = 120), step_of("separate_watershed"),
    step_of("measure_objects", outline = "subpixel")
  )
  table <- with_windows(50, run_steps(field, steps))
  whole <- outlines_of(run_steps(scene$field, steps))
  gathered <- NULL
  calls <- 0
  each_spooled(table, function(outlines) {
    gathered <<- rbind(gathered, outlines)
    calls <<- calls + 1
  })
  sorted <- function(o) {
    o <- as.data.frame(o[c("id", "hole", "x_px", "y_px")])
    o[do.call(order, o), ]
  }
  expect_gt(calls, 3)
  expect_equal(sorted(gathered), sorted(whole), ignore_attr = TRUE)
  only <- NULL
  each_spooled(table, function(outlines) only <<- c(only, unique(outlines$id)), 2)
  expect_lt(length(only), nrow(table))
  expect_gt(length(only), 0)
})

test_that("an overview is the mean of as many pixels, whatever the windows", {
  scene <- disk_scene()
  for (times in c(1, 3, 4)) {
    found <- with_windows(50, overview_on_disk(scene$view, times))
    size <- dim(scene$field) %/% times
    expect_equal(found$pixels, core_shrink(scene$field$pixels, times, size[1], size[2]))
  }
  field <- calibrate(field_on_disk(scene$file), calibration_from_length(10, "5 um"))
  expect_equal(
    with_windows(50, overview_on_disk(disk_view(field), 4))$calibration$pixel[["x"]], 2
  )
})

test_that("a spool is a folder of its own and goes as a whole", {
  spool <- new_spool()
  expect_false(new_spool() == spool)
  expect_null(part_of_spool(NULL))
  part <- part_of_spool(spool)
  expect_equal(dirname(part), spool)
  dir.create(part, recursive = TRUE)
  drop_spool(spool)
  expect_false(dir.exists(spool))
})

test_that("an overview holds every line, also the last of a window", {
  file <- tiff_made(matrix(1:221, 13, 17), tile = 16)
  view <- with_windows(6, disk_view(field_on_disk(file)))
  expect_equal(overview_on_disk(view, 1)$pixels, matrix(1:221, 13, 17) + 0)
  # a step that is larger than a window
  expect_equal(dim(overview_on_disk(view, 8)$pixels), c(1L, 2L))
  expect_equal(
    overview_on_disk(view, 8)$pixels[1, 2], mean(matrix(1:221, 13, 17)[1:8, 9:16])
  )
})
