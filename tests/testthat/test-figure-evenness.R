test_that("tiles are drawn where they lie, with their fractions", {
  beads <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  map <- area_fraction_map(beads, 4)
  expect_equal(fingerprint(autoplot(map)), "718008d4")
  tiles <- ggplot2::layer_data(autoplot(map), 1)
  expect_equal(tiles$xmin, map$tiles$left)
  expect_equal(
    ggplot2::layer_data(autoplot(map), 2)$label, signif(100 * map$tiles$area_fraction, 3)
  )
})

test_that("a steady change is named as one below a probability of 5 %", {
  said <- function(p) evenness_words(list(p_value = p, change_x = 0.123, change_y = -0.04))
  expect_equal(
    said(0.049), "A steady change: 12 points from left to right, -4 from top to bottom (p = 0.049)"
  )
  expect_match(said(0.05), "^No steady change shown")
  expect_match(said(NA), "too few tiles")
})
