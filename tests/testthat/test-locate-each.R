# Clips with three dots beside each, at several places; `dark` makes some of them darker.
field_of_dotted <- function(at, width = 420, height = 320, gain = rep(1, nrow(at))) {
  picture <- matrix(60, height, width)
  for (k in seq_len(nrow(at))) {
    a <- at$turn[k] * pi / 180
    dots <- cbind(c(44, 44, 58), c(-12, 14, 3))
    picture <- draw_part(picture, part_shapes$clip, at$x[k], at$y[k], 60, at$turn[k], 60 + 100 * gain[k])
    for (d in 1:3) {
      picture <- draw_part(
        picture, list(ngon(60, 0.5)), at$x[k] + cos(a) * dots[d, 1] + sin(a) * dots[d, 2],
        at$y[k] + cos(a) * dots[d, 2] - sin(a) * dots[d, 1], c(10, 12, 14)[d], 0, 60 + 140 * gain[k]
      )
    }
  }
  set.seed(3)
  as_field(pmin(pmax(round(core_gaussian(picture, 0.8, 0.8) + rnorm(length(picture), 0, 2)), 0), 255))
}
beside <- region_box(136, 80, 172, 124)
dotted_pattern <- function() {
  teach_pattern(field_of_dotted(places(100, 100), 200, 200), region_box(64, 76, 135, 124), "clip")
}
at <- places(c(90, 250, 200), c(90, 110, 230), c(0, 35, -160))
of_dots <- function(field) measure_objects(find_objects(segment_auto(field, phase = "bright")))

test_that("every find is measured in its own frame, and rows say of which it is", {
  # the second is in deep shade: its dots are darker than the clips of the others
  field <- field_of_dotted(at, gain = c(1, 0.35, 1))
  finds <- locate_pattern(field, dotted_pattern())
  expect_equal(nrow(finds), 3)
  rows <- at_each(finds, beside, of_dots)
  expect_s3_class(rows, "bm_measures")
  expect_equal(as.vector(table(rows$find)), c(3L, 3L, 3L))
  sizes <- tapply(rows$ecd_px, rows$find, sort)
  for (k in 2:3) expect_equal(sizes[[k]], sizes[[1]], tolerance = 0.03)
  # places are those of the whole picture, labels those of the rows
  labels <- attr(rows, "objects")$labels
  expect_equal(label_at(labels, rows$x_px, rows$y_px), rows$id)
  expect_equal(as.vector(table(labels[labels > 0])), rows$area_px2)
  expect_equal(rows$x_px, rows$grey_x_px, tolerance = 0.01)
  outlines <- outlines_of(rows)
  expect_setequal(unique(outlines$id), rows$id)
  # the share of area is that of the regions
  expect_equal(
    area_fraction(rows), sum(rows$area_px2) / sample_size(field_of_rows(rows)), tolerance = 1e-9
  )
  expect_equal(sample_size(field_of_rows(rows)), 3 * 36 * 44, tolerance = 0.01)
  expect_s3_class(ggplot2::autoplot(rows), "ggplot")
})

test_that("sub-pixel outlines and calibrated places are those of the whole picture", {
  scale <- calibration_from_length(2, "1 um")
  taught_at <- calibrate(field_of_dotted(places(100, 100), 200, 200), scale)
  pattern <- teach_pattern(taught_at, region_box(64, 76, 135, 124), "clip")
  finds <- locate_pattern(calibrate(field_of_dotted(at, gain = c(1, 0.5, 1)), scale), pattern)
  rows <- at_each(finds, beside, function(field) {
    measure_objects(find_objects(segment_auto(field, phase = "bright")), outline = "subpixel")
  })
  expect_equal(rows$x_um, rows$x_px / 2)
  outlines <- outlines_of(rows)
  middle <- tapply(outlines$x_px, outlines$id, mean)
  expect_equal(as.vector(middle), rows$x_px, tolerance = 0.01)
  expect_equal(length(unique(outlines$ring)), nrow(rows))
})

test_that("an object in the regions of two finds is counted once", {
  field <- field_of_dotted(at)
  finds <- locate_pattern(field, dotted_pattern())
  wide <- region_box(20, 20, 320, 320)
  rows <- at_each(finds, wide, of_dots)
  expect_false(anyDuplicated(paste(round(rows$x_px), round(rows$y_px))) > 0)
  expect_gt(decision(attr(rows, "trail"), "at_each")$twice, 0)
  labels <- attr(rows, "objects")$labels
  expect_equal(sort(unique(labels[labels > 0])), seq_len(nrow(rows)))
})

test_that("what was excluded before is excluded at every find", {
  field <- field_of_dotted(at)
  # the dots of the first clip lie right of x = 130
  kept <- keep_within(field, region_polygon(c(0, 130, 130, 420, 420, 0), c(0, 0, 150, 150, 320, 320)))
  finds <- locate_pattern(kept, dotted_pattern(), score = 0.8)
  expect_gte(nrow(finds), 2)
  rows <- at_each(finds, beside, function(f) measure_objects(find_objects(segment_level(f, low = 130))))
  whole <- at_each(locate_pattern(field, dotted_pattern()), beside, of_dots)
  expect_equal(nrow(whole), 9)
  right <- rows$x_px > 130 & rows$y_px < 150
  expect_false(any(right))
  expect_lt(sample_size(field_of_rows(rows)), sample_size(field_of_rows(whole)))
  expect_true(all(field_of_rows(rows)$outside[kept$outside]))
})

test_that("the box round the contour holds it, with a pixel to spare", {
  pattern <- dotted_pattern()
  box <- unlist(taught_box(pattern)$numbers)
  points <- pattern$levels[[1]]
  expect_equal(box[1:2], unname(c(
    min(points[, "x"]) + pattern$reference[[1]], min(points[, "y"]) + pattern$reference[[2]]
  )) - 1)
  expect_equal(box[3:4], unname(c(
    max(points[, "x"]) + pattern$reference[[1]], max(points[, "y"]) + pattern$reference[[2]]
  )) + 1)
})

test_that("a method measures at each find what follows the step, and is read back the same", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "clip.pattern.yml")
  write_pattern(dotted_pattern(), file)
  field <- field_of_dotted(at)
  done <- locate_pattern(field, file) |> accept_finds(turn = c(-10, 90)) |>
    at_each(beside, function(field) accept_objects(of_dots(field), edge = "keep", ecd = c(11, NA)))
  method <- as_method(done)
  expect_equal(
    vapply(method$steps, function(s) s$step, ""),
    c("locate_pattern", "accept_finds", "at_each", "segment_auto", "find_objects", "measure_objects",
      "accept_objects")
  )
  saved <- file.path(dir, "dots.method.yml")
  write_method(method, saved)
  again <- apply_method(field, saved)
  expect_equal(tibble::as_tibble(again), tibble::as_tibble(done))
  expect_equal(as.vector(table(again$find[again$accepted])), c(2L, 2L))
  expect_match(run_cli("steps", "at_each")$out, "at_each: {region: null}", fixed = TRUE)
  # the number of a step that fails, and at which find
  broken <- method
  broken$steps[[4]]$args <- list(rule = "otsu", phase = "auto")
  broken$steps[[5]]$step <- "measure_objects"
  expect_refused(apply_method(field, broken), "Step 3.*at_each", class = "step")
})

test_that("what cannot be measured at finds is refused", {
  field <- field_of_dotted(at)
  finds <- locate_pattern(field, dotted_pattern())
  refused <- function(message, ..., of = finds) expect_error(at_each(of, ...), message, class = "bemrick_error")
  refused("must be a function", beside, 1)
  refused("Unknown region", list(a = 1), of_dots)
  refused("must end in measures", beside, segment_auto)
  refused("must not cut", beside, function(f) of_dots(shrink_field(f, 2)))
  refused("No find is accepted", beside, of_dots, of = accept_finds(finds, score = c(NA, 0.1)))
  refused("beyond the picture", region_box(5000, 5000, 5010, 5010), of_dots)
  refused("find 1 failed", beside, function(f) of_dots(filter_median(f, "2 um")))
  none <- locate_pattern(as_field(matrix(9, 50, 50)), dotted_pattern())
  refused("No find is accepted", beside, of_dots, of = none)
  # a part of a picture is not warned of as if it were one
  expect_no_warning(at_each(finds, region_circle(60, 60, 5), function(f) {
    measure_objects(find_objects(segment_level(f, low = 10)))
  }))
  # by itself within the box round the contour
  whole <- at_each(finds, steps = function(f) measure_objects(find_objects(segment_level(f, low = 110))))
  expect_setequal(unique(whole$find), finds$id)
})

test_that("the mask of all finds has their level where it is one", {
  finds <- locate_pattern(field_of_dotted(at, gain = c(1, 0.35, 1)), dotted_pattern())
  limits <- function(steps) {
    rows <- at_each(finds, beside, function(f) measure_objects(find_objects(steps(f))))
    unlist(attr(rows, "objects")$mask[c("low", "high")])
  }
  expect_equal(limits(function(f) segment_level(f, low = 90, high = 240)), c(low = 90, high = 240))
  expect_equal(
    limits(function(f) segment_auto(f, phase = "bright")), c(low = -Inf, high = Inf)
  )
})
