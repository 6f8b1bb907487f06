measured_in_windows <- function(scene, object, ...) {
  with_windows(50, run_steps_on_disk(scene$view, list(
    step_of("segment_level", low = 120), object, step_of("measure_objects", ...)
  )))
}

test_that("objects are numbered in reading order, with places of the whole picture", {
  scene <- disk_scene()
  whole <- segment_level(scene$field, low = 120) |> separate_watershed() |> measure_objects()
  found <- measured_in_windows(scene, step_of("separate_watershed"))
  expect_equal(tibble::as_tibble(found), tibble::as_tibble(whole))
  objects <- attr(found, "objects")
  first <- core_first_pixels(attr(whole, "objects")$labels, nrow(whole))
  expect_equal(objects$first, cbind(first$row, first$col), ignore_attr = TRUE)
  # left side and bottom
  labels <- attr(whole, "objects")$labels
  expect_setequal(objects$sides, setdiff(c(labels[, 1], labels[nrow(labels), ]), 0))
  trail <- function(table) decision(attr(table, "trail"), "measure_objects")
  expect_equal(trail(found), trail(whole))
})

test_that("objects are found again by their places, and looked at by windows", {
  scene <- disk_scene()
  found <- measured_in_windows(scene, step_of("find_objects"))
  objects <- attr(found, "objects")
  whole <- attr(segment_level(scene$field, low = 120) |> find_objects() |> measure_objects(), "objects")
  x <- c(20.5, 120.2, 3, 70, 999)
  y <- c(20.5, 80.1, 3, 50, 3)
  expect_equal(with_windows(50, objects$at(x, y)), label_at(whole$labels, x, y))
  pixels <- with_windows(50, objects$by_window(function(made) tabulate(made$labels, made$count)))
  expect_equal(pixels, tabulate(whole$labels, whole$count))
})

test_that("the blur of all edges together is undone", {
  scene <- disk_scene()
  whole <- segment_level(scene$field, low = 120) |> find_objects() |>
    measure_objects(outline = "subpixel", blur = "corrected")
  found <- measured_in_windows(
    scene, step_of("find_objects"), outline = "subpixel", blur = "corrected"
  )
  expect_equal(undone_blur(found), undone_blur(whole))
  expect_gt(undone_blur(found), 0.2)
  expect_equal(found$ecd_px, whole$ecd_px)
})

test_that("heights of grey count from the greys of the whole picture", {
  scene <- disk_scene(bits = 16)
  whole <- segment_level(scene$field, low = 30000) |>
    separate_watershed(on = "grey", depth = 300) |> measure_objects()
  found <- with_windows(50, run_steps_on_disk(scene$view, list(
    step_of("segment_level", low = 30000), step_of("separate_watershed", on = "grey", depth = 300),
    step_of("measure_objects")
  )))
  expect_equal(tibble::as_tibble(found), tibble::as_tibble(whole))
  expect_equal(with_windows(50, ends_on_disk(scene$view)), range(scene$field$pixels))
})

test_that("rings, also beyond a window and the picture, are those of the whole", {
  scene <- disk_scene()
  whole <- segment_level(scene$field, low = 120) |> find_objects() |> measure_objects() |>
    measure_ring(4, 25, low = 100)
  found <- measured_in_windows(scene, step_of("find_objects"))
  found <- with_windows(50, rows_on_disk(found, "measure_ring", list(inner = 4, outer = 25, low = 100)))
  expect_equal(found$ring_share, whole$ring_share)
  expect_equal(found$ring_seen, whole$ring_seen)
  expect_equal(
    decision(attr(found, "trail"), "measure_ring"), decision(attr(whole, "trail"), "measure_ring")
  )
})

test_that("what a window cannot know is said once, of the whole", {
  scene <- disk_scene()
  grey <- scene$field$pixels
  grey[5:100, 5:148] <- 200
  file <- tiff_made(grey, tile = 32)
  view <- with_windows(50, disk_view(field_on_disk(file)))
  told <- character()
  withCallingHandlers(
    with_windows(50, run_steps_on_disk(view, list(
      step_of("segment_level", low = 120), step_of("find_objects"), step_of("measure_objects")
    ))),
    warning = function(w) {
      told <<- c(told, class(w)[1])
      rlang::cnd_muffle(w)
    }
  )
  expect_equal(told, "bemrick_warning_giant")
})

test_that("a table without objects has the columns that it would have", {
  scene <- disk_scene()
  whole <- suppressWarnings(
    segment_level(scene$field, low = 254) |> separate_watershed() |>
      measure_objects(outline = "subpixel", inside = TRUE)
  )
  found <- with_windows(50, suppressWarnings(run_steps_on_disk(scene$view, list(
    step_of("segment_level", low = 254), step_of("separate_watershed"),
    step_of("measure_objects", outline = "subpixel", inside = TRUE)
  ))))
  expect_equal(nrow(found), 0)
  expect_equal(vapply(found, typeof, ""), vapply(whole, typeof, ""))
})

test_that("measures look twelve pixels round an object, and as far as a blur moves its outline", {
  expect_equal(round_objects(), 12)
  expect_equal(round_objects(2.5), 19)
})

test_that("objects on the left side and at the bottom of the picture are known, not of a window", {
  labels <- matrix(0L, 6, 7)
  labels[2, 1] <- 1L
  labels[6, 3] <- 2L
  labels[3, 2] <- 3L
  made <- list(labels = labels, count = 3, mask = list(field = as_field(matrix(0, 6, 7))))
  sides <- function(top, left) {
    setdiff(forbidden_sides(made, list(top = top, left = left, rows = 6, cols = 7), c(10, 20)), 0)
  }
  expect_equal(sides(0, 0), 1)
  expect_equal(sides(4, 0), c(1, 2))
  expect_equal(sides(4, 1), 2)
})

test_that("a ring about a place between two tiles is looked at once", {
  grey <- matrix(60, 96, 96)
  grey[31:34, 31:34] <- 200
  grey[31:34, 47:50] <- 200
  grey[47:50, 31:34] <- 200
  steps <- list(
    step_of("segment_level", low = 120), step_of("find_objects"), step_of("measure_objects"),
    step_of("measure_ring", inner = 0, outer = 3, low = 100)
  )
  found <- with_windows(32, run_steps_on_disk(field_on_disk(tiff_made(grey)), steps))
  expect_equal(sort(found$x_px), c(32, 32, 48))
  expect_equal(sort(found$y_px), c(32, 32, 48))
  expect_equal(found$ring_share, measure_ring(
    measure_objects(find_objects(segment_level(as_field(grey), low = 120))), 0, 3, low = 100
  )$ring_share)
})

test_that("a seed holds a pixel of the picture, or is refused", {
  view <- disk_view(field_on_disk(tiff_made(matrix(0, 40, 60))))
  refused <- function(box) {
    expect_refused(check_seeds_on_disk(list(list(box = box)), view), "60 x 40", class = "region")
  }
  refused(c(60, 5, 70, 9))
  refused(c(5, 40, 9, 44))
  refused(c(-9, 5, 0, 9))
  refused(c(5, -9, 9, 0))
  expect_no_error(check_seeds_on_disk(list(list(box = c(59, 39, 70, 70))), view))
})
