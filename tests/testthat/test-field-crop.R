test_that("a part of a picture keeps its grey levels, picture and place", {
  field <- calibrate(small_beads(), half_um())
  part <- crop_to(field, c(10.2, 20, 99.5, 80))
  expect_equal(part$pixels, field$pixels[21:80, 11:100])
  expect_identical(part$picture, part$pixels)
  expect_equal(part$origin, c(x = 10, y = 20))
  expect_equal(
    crop_to(field, c("5 um", "10 um", "50 um", "40 um"))$pixels, field$pixels[21:80, 11:100]
  )
  expect_equal(crop_to(part, c(5, 5, 20, 20))$origin, c(x = 15, y = 25))
  expect_refused(crop_to(field, c(5, 5, 5, 9)), class = "argument")
  expect_refused(crop_to(field, c(900, 0, 950, 9)), "outside", class = "argument")
})

test_that("shrinking is the mean over squares, whole or not", {
  set.seed(151)
  slow <- function(m, times) {
    size <- floor(dim(m) / times)
    part <- function(k, i) pmax(0, pmin(i, k * times) - pmax(i - 1, (k - 1) * times)) / times
    share <- function(n, count) outer(seq_len(count), seq_len(n), part)
    share(nrow(m), size[1]) %*% m %*% t(share(ncol(m), size[2]))
  }
  for (k in 1:20) {
    m <- matrix(stats::runif(sample(6:30, 1) * 17), ncol = 17)
    times <- sample(c(1, 2, 3, 1.5, 2.7), 1)
    expect_equal(shrink_field(as_field(m), times)$pixels, slow(m, times))
  }
  expect_equal(shrink_field(as_field(matrix(9, 20, 30)), 4)$pixels, matrix(9, 5, 7))
  expect_refused(shrink_field(as_field(matrix(1:4, 2)), 3), "nothing", class = "argument")
  field <- filter_median(small_beads(), 1)
  small <- shrink_field(field, 2)
  expect_equal(dim(small$pixels), dim(small$picture))
  expect_false(identical(small$pixels, small$picture))
})

test_that("a shrunk picture gives the same sizes", {
  whole <- measured_beads(noise = 2)
  half <- small_beads(noise = 2) |>
    shrink_field(2) |>
    segment_auto(phase = "bright") |>
    find_objects() |>
    measure_objects()
  expect_equal(mean(half$ecd_um), mean(whole$ecd_um), tolerance = 0.02)
})

test_that("a part is what lies in the box, whole pixels of it, and within the picture", {
  m <- matrix(seq_len(20 * 30), 20)
  field <- as_field(m)
  expect_equal(crop_to(field, c(2, 3, 10, 9))$pixels, m[4:9, 3:10])
  expect_equal(crop_to(field, c(2.9, 3.9, 9.1, 8.1))$pixels, m[4:9, 3:10])
  expect_equal(crop_to(field, c(-5, -5, 99, 99))$pixels, m)
  expect_equal(crop_to(field, c(2, 3, 10, 9))$origin, c(x = 2, y = 3))
  scaled <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(crop_to(scaled, c("1 um", "3 um", "5 um", "9 um"))$pixels, m[4:9, 3:10])
  for (wrong in list(c(5, 1, 5, 9), c(1, 9, 5, 9), 1:3, c(30, 0, 40, 9), c(0, 20, 9, 40))) {
    expect_refused(crop_to(field, wrong), class = "argument")
  }
  expect_equal(
    decision(crop_to(field, c(2, 3, 10, 9))$trail, "crop_to"), list(width = 8, height = 6)
  )
})

test_that("rows and columns may be taken by numbers, as of a matrix", {
  m <- matrix(seq_len(20 * 30), 20)
  field <- as_field(m)
  expect_equal(field[4:9, 3:10]$pixels, m[4:9, 3:10])
  expect_equal(field[, 3:10]$pixels, m[, 3:10])
  expect_equal(field[20, ]$pixels, m[20, , drop = FALSE])
  expect_equal(trail_of(field[4:9, 3:10])$step[2], "crop_to")
  for (wrong in list(0:3, 18:21, c(1, 3), 3:1, "a", 1.5)) {
    expect_refused(field[wrong, ], class = "argument")
  }
  expect_equal(dim(field), c(20, 30))
})

test_that("shrinking leaves whole pixels only, and scales what is known", {
  field <- calibrate(as_field(matrix(1:35, 5)), half_um())
  small <- shrink_field(field, 2)
  expect_equal(dim(small), c(2, 3))
  expect_equal(small$calibration$pixel, c(x = 1, y = 1))
  expect_identical(shrink_field(field, 1)$calibration, field$calibration)
  expect_equal(dim(shrink_field(field, 5)), c(1, 1))
  expect_refused(shrink_field(field, 5.1), "nothing", class = "argument")
  for (wrong in list(0.9, 65)) expect_refused(shrink_field(field, wrong), class = "argument")
  field$outside <- matrix(FALSE, 5, 7)
  field$outside[1, 1] <- TRUE
  expect_equal(which(shrink_field(field, 2)$outside), 1)
  filtered <- shrink_field(filter_box(field, 1), 2)
  expect_equal(filtered$picture, small$picture)
})

test_that("an empty side of a box is refused, as is a box below the picture", {
  field <- as_field(matrix(1:600, 20))
  expect_refused(crop_to(field, c(1, 5, 9, 5)), class = "argument")
  expect_refused(crop_to(field, c(0, 25, 9, 30)), "outside", class = "argument")
  expect_equal(dim(field[1, 1:30]), c(1, 30))
  expect_equal(dim(field[, 30]), c(20, 1))
  expect_equal(crop_to(field, list("2 px", 3, 10, 9))$pixels, field$pixels[4:9, 3:10])
})
