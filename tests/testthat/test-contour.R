# Discs drawn with known sub-pixel place: grey is the covered share.
soft_disc <- function(radius, x, y, size = 2 * ceiling(radius) + 10) {
  at <- seq_len(size * 16) / 16 - 1 / 32
  fine <- outer(at, at, function(b, a) (a - x)^2 + (b - y)^2 <= radius^2) + 0
  part <- rep(seq_len(size), each = 16)
  as_field(40 + 160 * t(rowsum(t(rowsum(fine, part)), part)) / 256, 8)
}
of_disc <- function(field, outline) measure_objects(find_objects(segment_level(field, low = 120)), outline = outline)

test_that("sub-pixel outlines give areas, lengths and diameters of discs closer than whole pixels do", {
  set.seed(231)
  for (radius in c(6, 10, 20)) {
    off <- vapply(1:12, function(k) {
      field <- soft_disc(radius, radius + 5 + stats::runif(1), radius + 5 + stats::runif(1))
      fine <- of_disc(field, "subpixel")
      coarse <- of_disc(field, "pixel")
      c(fine$ecd_px, coarse$ecd_px, fine$perimeter_px / pi, fine$feret_max_px) / (2 * radius) - 1
    }, numeric(4))
    expect_lt(sqrt(mean(off[1, ]^2)), 0.6 * sqrt(mean(off[2, ]^2)))
    expect_lt(sqrt(mean(off[1, ]^2)) * 2 * radius, 0.036)
    expect_lt(abs(mean(off[3, ])), 0.003)
    expect_lt(abs(mean(off[4, ])), 0.006)
  }
})

test_that("edges as sharp as pixels are placed to a few hundredths, blurred ones where the level is crossed", {
  set.seed(232)
  # half a picture, cut by a straight line: grey is the covered share, from 20 x 20 points a pixel
  half <- function(angle, place, blur = 0) {
    at <- (seq_len(30 * 20) - 0.5) / 20 - 15
    fine <- outer(at, at, function(y, x) x * cos(angle) + y * sin(angle) <= place) + 0
    part <- rep(1:30, each = 20)
    field <- as_field(40 + 160 * t(rowsum(t(rowsum(fine, part)), part)) / 400, 8)
    if (blur > 0) filter_gaussian(field, blur) else field
  }
  off <- function(field, angle, place, level = 120) {
    o <- object_outlines(find_objects(segment_level(field, low = level)), "subpixel")
    x <- o$x_px - 15
    y <- o$y_px - 15
    inner <- abs(x) < 9 & abs(y) < 9  # not the frame, nor where the smoothing of the ring reaches to it
    x[inner] * cos(angle) + y[inner] * sin(angle) - place
  }
  for (k in 1:12) {
    angle <- stats::runif(1, 0, 2 * pi)
    place <- stats::runif(1, -1, 1)
    expect_lt(max(abs(off(half(angle, place), angle, place))), 0.045)
    expect_lt(abs(mean(off(half(angle, place), angle, place))), 0.02)
    expect_lt(max(abs(off(half(angle, place, 1), angle, place))), 0.03)
    # a lower level lies farther out
    expect_gt(mean(off(half(angle, place, 1), angle, place, 90)), 0.3)
  }
})

test_that("rings are those of the pixel outlines, go round the same pixels and meet the level", {
  field <- filter_gaussian(small_beads(touching = 0.3, seed = 4), 1)
  objects <- separate_watershed(segment_auto(field))
  fine <- object_outlines(objects, "subpixel")
  coarse <- object_outlines(objects)
  one <- function(o) o[!duplicated(o$ring), c("id", "ring", "hole")]
  expect_equal(one(fine), one(coarse))
  m <- measure_objects(objects, outline = "subpixel")
  expect_equal(m$area_um2, measure_objects(objects)$area_um2, tolerance = 0.05)
  expect_equal(names(m), names(measure_objects(objects)))
})

test_that("a ring round a hole takes its area off, and the frame keeps its edge", {
  field <- soft_disc(20, 25, 25)
  holed <- field
  inner <- soft_disc(8, 25, 25, 50)
  holed$pixels <- field$pixels - (inner$pixels - 40)
  m <- of_disc(holed, "subpixel")
  expect_equal(m$area_px2, pi * (20^2 - 8^2), tolerance = 0.005)
  expect_equal(m$perimeter_px, 2 * pi * 28, tolerance = 0.01)
  full <- measure_objects(suppressWarnings(find_objects(segment_level(as_field(matrix(200, 10, 14)), low = 100))), "subpixel")
  expect_equal(full$area_px2, 140, tolerance = 0.02)
  dot <- matrix(0, 5, 5)
  dot[3, 3] <- 200
  expect_gt(measure_objects(find_objects(segment_level(as_field(dot), low = 100)), "subpixel")$area_px2, 0.2)
})

test_that("pixels that are not square, and masks without one level", {
  field <- soft_disc(15, 20.3, 20.6)
  tall <- calibrate(field, calibration_from_length(c(x = 100, y = 50), "100 um"))
  m <- of_disc(tall, "subpixel")
  expect_equal(m$area_um2, pi * 15^2 * 2, tolerance = 0.002)
  expect_equal(m$feret_max_um, 60, tolerance = 0.01)
  local <- suppressWarnings(segment_local(field, 20, "mean"))
  expect_error(measure_objects(find_objects(local), "subpixel"), "one level", class = "bemrick_error_level")
  expect_error(measure_objects(find_objects(local), "fine"), class = "bemrick_error_argument")
})
