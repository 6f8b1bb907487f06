test_that("both fields are drawn in one grey scale, the difference about its middle", {
  field <- small_beads()
  figure <- autoplot(compare_fields(field, filter_gaussian(field, 2)))
  expect_equal(fingerprint(figure), "5cdd6f4d")
  expect_match(figure[[3]]$labels$subtitle, "mean .*, grey scale \u00b1")
})

test_that("what is enlarged is where grey changes most", {
  m <- matrix(10, 120, 160)
  m[80:84, 100:104] <- 200
  part <- steepest_part(m)
  expect_true(all(79:85 %in% part$rows) && all(99:105 %in% part$cols))
  expect_equal(lengths(part), c(rows = 40, cols = 53))
  expect_equal(lengths(steepest_part(matrix(1:100, 10))), c(rows = 8, cols = 10))
  expect_equal(lengths(steepest_part(matrix(1:9, 3))), c(rows = 3, cols = 3))
  expect_equal(lengths(steepest_part(matrix(0, 600, 600))), c(rows = 120, cols = 160))
})

test_that("greys are those of both fields together, differences those about middle grey", {
  before <- as_field(matrix(c(0, 100), 12, 12))
  after <- as_field(matrix(c(50, 200), 12, 12))
  figure <- autoplot(compare_fields(before, after))
  greys <- function(k) {
    shown <- sort(unique(as.vector(figure[[k]]$layers[[1]]$geom_params$raster)))
    grDevices::col2rgb(shown)[1, ]
  }
  expect_equal(greys(1), c(0, 128), tolerance = 0.02)
  expect_equal(greys(2), c(64, 255), tolerance = 0.02)
  expect_equal(greys(3), c(191, 255), tolerance = 0.02)  # 50 and 100 of a scale of 100 to either side
})
