test_that("regions of every form hold the pixels whose centres lie in them", {
  field <- calibrate(as_field(matrix(runif(60 * 80, 0, 255), 60)), half_um())
  inside <- function(region) !keep_within(field, region)$outside
  expect_equal(sum(inside(region_box(10, 5, 30, 25))), 400)
  expect_equal(sum(inside(region_circle(40, 30, 20))), pi * 400, tolerance = 0.01)
  expect_equal(sum(inside(region_ring(40, 30, 10, 20))), pi * 300, tolerance = 0.02)
  expect_identical(
    inside(region_polygon(c(10, 30, 30, 10), c(5, 5, 25, 25))), inside(region_box(10, 5, 30, 25))
  )
  expect_identical(
    inside(region_circle("20 um", "15 um", "10 um")), inside(region_circle(40, 30, 20))
  )
  expect_identical(inside(list(circle = c(40, 30, 20))), inside(region_circle(40, 30, 20)))
  expect_equal(sum(inside(region_polygon(c(0, 40, 0), c(0, 0, 40)))), 800, tolerance = 0.03)
  twice <- keep_within(keep_within(field, region_box(0, 0, 50, 60)), region_box(30, 0, 80, 60))
  expect_equal(sample_size(twice), 20 * 60)
  expect_refused(keep_within(field, region_circle(500, 5, 3)), "outside", class = "region")
  expect_refused(keep_within(field, list(circle = c(1, 2))), class = "region")
  expect_refused(keep_within(field, list(cirle = c(1, 2, 3))), "circle", class = "unknown_name")
  expect_refused(region_polygon(1:2, 1:2), class = "argument")
  file <- text_file(
    "bemrick: method 1", "steps:", "  - keep_within: {region: {circle: [40, 30, 20]}}",
    "  - filter_kernel: {kernel: [[0, 1, 0], [1, 2, 1], [0, 1, 0]], normalise: true}",
    "  - segment_auto: {phase: auto}", "  - mask_drop: {smallest: 4 px2}"
  )
  mask <- suppressWarnings(apply_method(field, file))
  expect_false(any(mask$pixels & mask$field$outside))
  again <- tempfile(fileext = ".yml")
  write_method(as_method(mask), again)
  expect_identical(suppressWarnings(apply_method(field, again))$pixels, mask$pixels)
})

test_that("sides, radii and corners are checked at their limits", {
  refused <- function(code, class) expect_error(code, class = paste0("bemrick_error_", class))
  refused(region_box(3, 0, 3, 5), "argument")
  refused(region_box(0, 5, 3, 4), "argument")
  refused(region_ring(0, 0, 5, 5), "argument")
  refused(region_ring(0, 0, -1, 5), "argument")
  refused(region_circle(0, 0, 0), "argument")
  expect_refused(region_box("three", 0, 3, 5), "left", class = "quantity")
  expect_refused(region_box(0, 0, 3, "five"), "bottom", class = "quantity")
  expect_s3_class(region_ring(0, 0, 0, 5), "bm_region")
  expect_s3_class(region_box("3 um", 0, 2, 5), "bm_region")  # compared when a picture is there
  for (wrong in list("3 um2", "3 %", Inf)) refused(region_circle(wrong, 0, 1), "quantity")
  field <- as_field(matrix(0, 10, 12))
  inside <- function(region) which(!keep_within(field, region)$outside, arr.ind = TRUE)
  expect_equal(range(inside(region_box(2, 3, 5, 6))[, "col"]), c(3, 5))
  expect_equal(range(inside(region_box(2, 3, 5, 6))[, "row"]), c(4, 6))
  # a centre on the left or upper side is not within, nor one on the others
  expect_equal(nrow(inside(region_box(2.5, 3.5, 4.5, 5.5))), 1)
  for (corners in list(1:4, 1:7)) refused(keep_within(field, list(polygon = corners)), "region")
  triangle <- keep_within(field, list(polygon = c(0, 0, 8, 0, 0, 8)))
  expect_identical(triangle$outside, keep_within(field, region_polygon(c(0, 8, 0), c(0, 0, 8)))$outside)
  refused(keep_within(field, list()), "region")
})

test_that("outlines and extents of regions are where the region is, turned with a part too", {
  flat <- as_field(matrix(0, 40, 50))
  circle <- region_outlines(region_circle(20, 15, 6), flat)[[1]]
  expect_equal(sqrt((circle$x - 20)^2 + (circle$y - 15)^2), rep(6, nrow(circle)))
  expect_equal(region_extent(region_ring(20, 15, 2, 6), flat), c(14, 9, 26, 21))
  tall <- calibrate(flat, calibration_from_length(c(x = 10, y = 5), "10 um"))
  circle <- region_outlines(region_circle(20, 15, 6), tall)[[1]]
  expect_equal(sqrt((circle$x - 20)^2 + ((circle$y - 15) * 2)^2), rep(6, nrow(circle)))
  rings <- region_outlines(region_ring(20, 15, 2, 6), flat)
  expect_equal(vapply(rings, function(r) max(r$x), 0), c(22, 26))
  box <- region_outlines(region_box(1, 2, 8, 5), flat)[[1]]
  expect_equal(range(box$x), c(1, 8))
  expect_equal(range(box$y), c(2, 5))
  expect_equal(region_bounds(region_box(1, 2, 8, 5), flat), c(1, 2, 8, 5))
  # by a quarter to the left about (10, 10), which lies at (30, 20)
  turned <- flat
  turned$frame <- new_frame(30, 20, pi / 2, 1, c(10, 10), 1)
  expect_equal(region_bounds(region_box(10, 10, 18, 13), turned), c(30, 12, 33, 20))
  # corners lie in their own polygon or not, but once for two that share a side
  left <- points_inside(region_polygon(c(0, 10, 10, 0), c(0, 0, 10, 10)), flat, c(5, 10, 0), c(5, 5, 5))
  right <- points_inside(region_polygon(c(10, 20, 20, 10), c(0, 0, 10, 10)), flat, c(5, 10, 0), c(5, 5, 5))
  expect_equal(left + right, c(1, 1, 1))
})

test_that("a polygon on a grid holds the pixels whose centres lie in it, odd crossings counted", {
  plain <- function(x, y, px, py) {
    odd <- rep(FALSE, length(x))
    for (k in seq_along(px)) {
      j <- if (k == 1) length(px) else k - 1
      spans <- (py[k] > y) != (py[j] > y)
      at <- (px[j] - px[k]) * (y - py[k]) / (py[j] - py[k]) + px[k]
      odd <- xor(odd, spans & x < at)
    }
    odd
  }
  repeatable(8, for (k in 1:150) {
    size <- sample(1:40, 2)
    corners <- sample(3:8, 1)
    px <- sample(c(stats::runif(corners, -5, 45), sample(0:40, corners) / 2), corners)
    py <- sample(c(stats::runif(corners, -5, 45), sample(0:40, corners) / 2), corners)
    found <- core_polygon_mask(size[1], size[2], px, py)
    x <- rep(seq_len(size[2]) - 0.5, each = size[1])
    y <- rep(seq_len(size[1]) - 0.5, size[2])
    expect_identical(as.vector(found), plain(x, y, px, py))
    expect_identical(core_in_polygon(x, y, px, py), plain(x, y, px, py))
  })
})

test_that("what is excluded is filled the same as if the picture were gone through as a whole", {
  repeatable(9, {
    field <- as_field(matrix(round(stats::runif(700 * 560, 0, 255)), 560))
    outside <- !inside_region(region_circle(300, 280, 180), field)
    outside[200:230, 350:380] <- TRUE
    inside <- matrix(as.numeric(!outside), nrow(outside))
    seen <- core_gaussian(inside, 6, 6)
    near <- core_gaussian(field$pixels * inside, 6, 6) / pmax(seen, 1e-9)
    expected <- field$pixels
    fill <- ifelse(seen > 1e-3, near, mean(field$pixels[!outside]))
    expected[outside] <- round(fill[outside])
    expect_identical(set_outside(field, outside)$pixels, expected)
    expect_identical(set_outside(field, outside & FALSE), field)
  })
})

test_that("outlines go once round and end where they began", {
  field <- as_field(matrix(0, 200, 300))
  length <- function(p) sum(sqrt(diff(p$x)^2 + diff(p$y)^2))
  circle <- region_outlines(region_circle(100, 90, 50), field)[[1]]
  expect_equal(length(circle), 2 * pi * 50, tolerance = 0.002)
  ring <- region_outlines(region_ring(100, 90, 20, 60), field)
  expect_equal(vapply(ring, length, 0), 2 * pi * c(20, 60), tolerance = 0.002)
  triangle <- region_outlines(region_polygon(c(10, 50, 10), c(10, 10, 40)), field)[[1]]
  expect_equal(length(triangle), 40 + 30 + 50)
  for (p in list(circle, ring[[1]], triangle)) {
    expect_equal(unlist(p[nrow(p), ]), unlist(p[1, ]), tolerance = 1e-9)
  }
})

test_that("what is no length is named as it was given", {
  expect_refused(region_box("far", 0, 10, 10), "left.*far", class = "quantity")
  expect_refused(region_box(0, 0, "far", 10), "right.*far", class = "quantity")
})

test_that("without an excluded area nothing touches it", {
  labels <- matrix(1L, 3, 3)
  expect_identical(touches_outside(labels, 1, as_field(matrix(0, 3, 3))), FALSE)
  outside <- list(outside = matrix(c(TRUE, FALSE), 1, 2))
  expect_identical(touches_outside(matrix(0:1, 1, 2), 1, outside), TRUE)
  expect_identical(touches_outside(matrix(0L, 1, 2), 0, outside), logical())
})
