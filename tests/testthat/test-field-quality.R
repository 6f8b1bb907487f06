test_that("the noise of known noise is found, slopes or not", {
  set.seed(31)
  ramp <- outer(1:300, 1:300, function(y, x) 0.3 * x + 0.2 * y)
  for (sd in c(0.5, 4, 20)) {
    expect_equal(noise_of(ramp + stats::rnorm(9e4, 0, sd)), sd, tolerance = 0.02)
  }
  expect_equal(noise_of(ramp), 0)
  # of a chequerboard every second difference along both axes is 8
  expect_equal(noise_of(outer(1:9, 1:9, function(y, x) (x + y) %% 2)), 8 / 0.6745 / 6)
})

test_that("single pixels that stand out are impulses, edges and noise are not", {
  m <- matrix(100, 40, 50)
  at <- cbind(c(5, 20, 30), c(7, 25, 44))
  m[at] <- 255
  expect_equal(which(impulses_of(m)), sort((at[, 2] - 1) * 40 + at[, 1]))
  m[10, 10] <- 112  # by 8 % of the range at most
  expect_equal(sum(impulses_of(m)), 3)
  m[10, 10] <- 113
  expect_equal(sum(impulses_of(m)), 4)
  edge <- matrix(rep(c(0, 200), each = 400), 20)
  expect_equal(sum(impulses_of(edge)), 0)
  set.seed(34)
  noise <- matrix(stats::rnorm(40000, 100, 15), 200)
  expect_lt(mean(impulses_of(noise)), 1e-3)
  # nor are the spots of noise that was smoothed
  expect_lt(mean(impulses_of(core_median(noise, 1L, 1L))), 2e-3)
})

test_that("noise is found by kind and amount, enlarged, compressed, smoothed or full of impulses", {
  set.seed(35)
  clean <- small_beads(noise = 0, uneven = 0, width = 320, height = 320)$pixels
  noisy <- pmin(pmax(round(clean + stats::rnorm(length(clean), 0, 10)), 0), 255)
  facts <- function(m) noise_facts(m)[c("noise", "noise_kind")]
  expect_equal(facts(noisy), list(noise = 10, noise_kind = "gaussian"), tolerance = 0.06)
  for (share in c(0.02, 0.1, 0.2)) {
    spotted <- noisy
    hit <- sample(length(clean), share * length(clean))
    spotted[hit] <- sample(c(0, 255), length(hit), TRUE)
    found <- noise_facts(spotted)
    expect_equal(found$noise_kind, "impulse")
    expect_equal(found$noise, 10, tolerance = if (share < 0.2) 0.1 else 0.25)
    expect_equal(found$impulses, share, tolerance = 0.15)
  }
  smooth <- core_gaussian(noisy, 1, 1)
  expect_equal(facts(smooth), list(noise = 10 * noise_kept(1), noise_kind = "correlated"), tolerance = 0.15)
  twice <- kronecker(noisy[1:160, 1:160], matrix(1, 2, 2))
  expect_equal(facts(core_box(twice, 1L, 1L))$noise_kind, "correlated")
  file <- withr::local_tempfile(fileext = ".jpg")
  jpeg::writeJPEG(noisy / 255, file, quality = 0.7)
  packed <- round(jpeg::readJPEG(file) * 255)
  expect_equal(facts(packed)$noise, stats::sd((packed - clean)[clean == stats::median(clean)]), tolerance = 0.3)
  # next to nothing between the impulses
  expect_true(is.na(noise_of(noisy[1:20, 1:20], without = matrix(TRUE, 20, 20))))
  expect_equal(noise_of(noisy[1:4, ], 2), 0)
  expect_equal(noise_of(matrix(1:25, 5), 2), 0)
})

test_that("the steepest slope of a ramp is its slope", {
  expect_equal(steepest_slope(outer(1:40, 1:40, function(y, x) 3 * x)), 3, tolerance = 1e-4)
  expect_equal(steepest_slope(outer(1:40, 1:60, function(y, x) 3 * x + 4 * y)), 5, tolerance = 1e-4)
})

test_that("the middle of a picture is cut from its middle", {
  m <- matrix(seq_len(9 * 12), 9)
  expect_equal(middle_of_picture(m, 4), m[3:6, 5:8])
  expect_equal(middle_of_picture(m, 9), m[, 2:10])
  expect_equal(middle_of_picture(m, 20), m)
})

test_that("unevenness is the range of tile medians of the larger phase", {
  m <- matrix(rep(c(10, 20, 30, 40, 50, 60), each = 10), 60, 60, byrow = TRUE)
  m[1:20, ] <- 200
  expect_equal(unevenness(m, 100), 50)
  expect_equal(unevenness(255 - m, 155), 50)
  expect_true(is.na(unevenness(matrix(1, 9, 9), 3)))  # tiles of two pixels say nothing
  wide <- matrix(rep(c(10, 20, 30, 40, 50, 60), each = 200), 1200, 1200, byrow = TRUE)
  expect_equal(unevenness(wide, 100), 50)  # of large pictures every few pixels
  few <- matrix(c(1, 9), 30, 24)
  few[1:5, 1:4] <- 90
  expect_equal(unevenness(few, 100), 85, tolerance = 0.1)
})

test_that("facts of quality are those of a picture of two levels", {
  m <- matrix(50, 60, 60)
  m[20:40, 20:40] <- 150
  field <- as_field(m)
  facts <- quality_facts(field, level_counts(field), core_otsu(level_counts(field)))
  expect_equal(facts$contrast, 100)
  expect_equal(facts[c("noise", "noise_kind", "uneven")],
    list(noise = 0, noise_kind = "gaussian", uneven = 0))
  expect_gt(facts$edge_px, 1)
  expect_lt(facts$edge_px, 3)
  small <- as_field(matrix(rep(c(0, 255), 32)[1:63], 7, 9))
  expect_true(is.na(quality_facts(small, level_counts(small), 100)$noise))
  expect_false(is.na(quality_facts(as_field(matrix(c(0, 255), 8, 9)), rep(1, 256), 100)$noise))
  expect_equal(quality_facts(field, level_counts(field), -1)$noise_kind, "none")
  noisy <- add_noise(field, "impulse", "1 %", seed = 4)
  expect_equal(quality_facts(noisy, level_counts(noisy), 100)$noise_kind, "impulse")
})

test_that("2 in 1000 single pixels are borne, oblong pictures are looked at whole", {
  m <- matrix(100, 50, 80)
  at <- cbind(rep(seq(5, 45, 10), 2), c(seq(7, 71, 16), seq(15, 79, 16)))
  m[at[1:8, ]] <- 250
  counts <- rep(0, 256)
  kind <- function(m) quality_facts(as_field(m, 8), level_counts(as_field(m, 8)), 170)$noise_kind
  expect_equal(kind(m), "gaussian")  # 8 of 4000
  m[at[9, , drop = FALSE]] <- 250
  expect_equal(kind(m), "impulse")
  expect_equal(steepest_slope(outer(1:40, 1:90, function(y, x) 3 * pmax(x - 60, 0))), 3, tolerance = 1e-3)
  wide <- matrix(rep(c(10, 20, 30, 40, 50, 60), each = 400), 600, 2400, byrow = TRUE)
  expect_equal(unevenness(wide, 100), 50)
  one <- middle_of_picture(matrix(1:12, 1), 4)
  expect_equal(one, matrix(5:8, 1))
  # a tile without enough of the phase is passed over
  hole <- matrix(rep(c(10, 20, 30, 40, 50, 60), each = 10), 60, 60, byrow = TRUE)
  hole[1:10, 1:10] <- 200
  expect_equal(unevenness(hole, 100), 50)
})
