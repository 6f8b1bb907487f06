test_that("points are counted on a square grid, and agree with the mask", {
  mask <- segment_auto(small_beads())
  counted <- count_points(mask, 2000)
  expect_equal(nrow(counted$points), 2000, tolerance = 0.05)
  expect_lt(abs(counted$share - area_fraction(mask)), 3 * counted$u)
  place <- cbind(floor(counted$points$y_px) + 1, floor(counted$points$x_px) + 1)
  expect_equal(counted$points$hit, mask$pixels[place])
  region <- keep_within(small_beads(), region_circle(100, 80, 50))
  inside <- count_points(suppressWarnings(segment_auto(region)), 500)$points
  expect_true(all((inside$x_px - 100)^2 + (inside$y_px - 80)^2 < 51^2))
  expect_output(print(counted), "points")
})

test_that("points lie in the middle of squares, hits are what the mask says there", {
  m <- matrix(FALSE, 20, 40)
  m[, 21:40] <- TRUE
  found <- count_points(mask_of(m), 8)
  expect_equal(found$points$x_px, rep(c(5, 15, 25, 35), each = 2))
  expect_equal(found$points$y_px, rep(c(5, 15), 4))
  expect_equal(found$points$hit, rep(c(FALSE, TRUE), each = 4))
  expect_equal(c(found$share, found$u, found$area_fraction), c(0.5, sqrt(0.25 / 8), 0.5))
  expect_equal(format(found),
    "<points> 4 of 8 points hit: 50 % (standard uncertainty 18 %); the mask covers 50 %")
  expect_equal(nrow(count_points(mask_of(m), 1e6)$points), 800)
  expect_equal(nrow(count_points(mask_of(matrix(TRUE, 1, 9)), 4)$points), 6)
  field <- keep_within(as_field(matrix(0, 20, 40)), region_box(0, 0, 10, 20))
  part <- count_points(suppressWarnings(segment_level(field, high = 9)), 8)
  expect_equal(part$points$x_px, c(5, 5))
  expect_equal(part$share, 1)
  expect_identical(tibble::as_tibble(part), part$points)
  for (wrong in list(3, 1e7, 4.5)) {
    expect_refused(count_points(mask_of(m), wrong), class = "argument")
  }
})
