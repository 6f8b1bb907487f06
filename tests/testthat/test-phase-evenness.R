test_that("a steady change across the picture is found, chance scatter is not", {
  set.seed(100)
  mask <- function(p) {
    segment_level(as_field(255 * (matrix(stats::runif(200 * 300), 200) < p)), low = 128)
  }
  even <- area_fraction_map(mask(0.3))
  expect_equal(nrow(even$tiles), 6 * 4)
  expect_equal(
    stats::weighted.mean(even$tiles$area_fraction, even$tiles$pixels), area_fraction(mask(0.3)),
    tolerance = 0.05
  )
  rising <- area_fraction_map(mask(0.2 + 0.2 * col(matrix(0, 200, 300)) / 300))
  expect_equal(rising$change_x, 0.2, tolerance = 0.1)
  expect_lt(rising$p_value, 1e-4)
  expect_equal(sum(even$tiles$pixels), 200 * 300)
  expect_output(print(rising), "from left to right")
  expect_true(is.na(area_fraction_map(suppressWarnings(mask(0)), 2)$p_value))
})

test_that("tiles cover the picture once, and hold its fractions", {
  m <- matrix(FALSE, 40, 60)
  m[, 31:60] <- TRUE
  map <- area_fraction_map(mask_of(m), 6)
  t <- tibble::as_tibble(map)
  expect_equal(nrow(t), 24)
  expect_equal(sum(t$pixels), 2400)
  expect_equal(t$area_fraction, as.numeric(t$left >= 30))
  expect_equal(c(map$mean, map$sd), c(0.5, stats::sd(t$area_fraction)))
  odd <- tibble::as_tibble(area_fraction_map(mask_of(matrix(TRUE, 10, 33)), 3))
  expect_equal(unique(c(odd$left, odd$right)), c(0, 11, 22, 33))
  expect_equal(unique(odd$bottom), 10)
  field <- keep_within(as_field(matrix(c(0, 255), 40, 60)), region_box(0, 0, 25, 40))
  part <- tibble::as_tibble(area_fraction_map(segment_level(field, low = 100), 6))
  expect_equal(max(part$right), 30)  # tiles half in the sample stay
  expect_equal(min(part$pixels), 50)
  for (wrong in list(1, 101, 2.5)) {
    expect_refused(area_fraction_map(mask_of(m), wrong), class = "argument")
  }
})

test_that("a steady change is the slope of a plane through the tiles", {
  tiles <- expand.grid(left = 10 * (0:3), top = 10 * (0:2))
  tiles$right <- tiles$left + 10
  tiles$bottom <- tiles$top + 10
  noise <- c(1, -1, 1, -1, -1, 1, -1, 1, 1, -1, 1, -1) / 100
  x <- (tiles$left + 5) / 40
  y <- (tiles$top + 5) / 30
  tiles$area_fraction <- 0.2 + 0.3 * x - 0.1 * y + noise
  found <- plane_of_tiles(tiles, 40, 30)
  fit <- stats::lm(tiles$area_fraction ~ x + y)
  expect_equal(c(found$change_x, found$change_y), unname(stats::coef(fit)[2:3]))
  expect_equal(found$change_x, 0.3, tolerance = 0.05)
  f <- summary(fit)$fstatistic
  expect_equal(found$p_value, stats::pf(f[[1]], f[[2]], f[[3]], lower.tail = FALSE))
  expect_true(is.na(plane_of_tiles(tiles[1:4, ], 40, 30)$p_value))
  expect_false(is.na(plane_of_tiles(tiles[1:5, ], 40, 30)$p_value))
  tiles$area_fraction <- 0.3
  expect_true(is.na(plane_of_tiles(tiles, 40, 30)$change_x))
  m <- matrix(FALSE, 40, 60)
  m[, 31:60] <- TRUE
  m[1, 1] <- TRUE
  shown <- format(area_fraction_map(mask_of(m), 6))
  expect_match(shown[1], "24 tiles, mean 50 %, standard deviation 51 %")
  expect_match(shown[2], "% from left to right, .* % from top to bottom; by chance.*of")
})
