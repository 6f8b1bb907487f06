test_that("a part of a picture keeps its grey levels, picture and place", {
  field <- calibrate(small_beads(), half_um())
  part <- crop_to(field, c(10.2, 20, 99.5, 80))
  expect_equal(part$pixels, field$pixels[21:80, 11:100])
  expect_identical(part$picture, part$pixels)
  expect_equal(part$origin, c(x = 10, y = 20))
  expect_equal(crop_to(field, c("5 um", "10 um", "50 um", "40 um"))$pixels, field$pixels[21:80, 11:100])
  expect_equal(crop_to(part, c(5, 5, 20, 20))$origin, c(x = 15, y = 25))
  expect_error(crop_to(field, c(5, 5, 5, 9)), class = "bemrick_error_argument")
  expect_error(crop_to(field, c(900, 0, 950, 9)), "outside", class = "bemrick_error_argument")
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
  expect_error(shrink_field(as_field(matrix(1:4, 2)), 3), "nothing", class = "bemrick_error_argument")
  field <- filter_median(small_beads(), 1)
  small <- shrink_field(field, 2)
  expect_equal(dim(small$pixels), dim(small$picture))
  expect_false(identical(small$pixels, small$picture))
})

test_that("a shrunk picture gives the same sizes", {
  whole <- measured_beads(noise = 2)
  half <- small_beads(noise = 2) |> shrink_field(2) |> segment_auto(phase = "bright") |> find_objects() |> measure_objects()
  expect_equal(mean(half$ecd_um), mean(whole$ecd_um), tolerance = 0.02)
})
