test_that("uneven light is levelled by each way, and sizes come right again", {
  field <- small_beads(uneven = 0.6, noise = 3, seed = 6)
  even <- small_beads(uneven = 0, noise = 3, seed = 6)
  spread <- function(f) unevenness(f$pixels, core_otsu(level_counts(f)))
  for (done in list(filter_flatten(field), filter_flatten(field, correct = "divide"), filter_flatten(field, "open", "14 um"))) {
    expect_lt(spread(done), 0.35 * spread(field))
    expect_equal(
      area_fraction(segment_auto(done)), area_fraction(segment_auto(even)), tolerance = 0.06
    )
  }
  expect_lt(spread(filter_flatten(field, "smooth", 60)), 0.6 * spread(field))
  expect_error(filter_flatten(field, "smooth"), "scale", class = "bemrick_error_argument")
  expect_error(
    filter_flatten(as_field(matrix(0, 9, 9)), correct = "divide"), "zero",
    class = "bemrick_error_argument"
  )
})

test_that("a surface of degree two is found exactly, whatever lies on it", {
  rows <- 60
  cols <- 90
  u <- 2 * (col(matrix(0, rows, cols)) - 0.5) / cols - 1
  v <- 2 * (row(matrix(0, rows, cols)) - 0.5) / rows - 1
  surface <- 100 + 12 * u - 7 * v + 5 * u^2 + 3 * u * v - 4 * v^2
  expect_equal(background_surface(as_field(surface)), surface, tolerance = 1e-9)
  marked <- surface
  marked[20:30, 40:55] <- 220
  expect_equal(background_surface(as_field(marked)), surface, tolerance = 1e-6)
  large <- kronecker(surface, matrix(1, 8, 8))
  expect_lt(abs(mean(background_surface(as_field(large)) - large)), 0.01)
  part <- keep_within(as_field(marked), region_box(0, 0, 90, 15))
  expect_equal(background_surface(part)[1:15, ], surface[1:15, ], tolerance = 1e-6)
  flat <- filter_flatten(as_field(surface), correct = "subtract")$pixels
  expect_equal(flat, matrix(mean(surface), rows, cols), tolerance = 1e-9)
  divided <- filter_flatten(as_field(surface), correct = "divide")$pixels
  expect_equal(divided, matrix(mean(surface), rows, cols), tolerance = 1e-9)
})
