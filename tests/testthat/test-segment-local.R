test_that("local levels equal mean and standard deviation of the window, plainly", {
  set.seed(215)
  for (k in 1:40) {
    m <- matrix(as.numeric(sample(if (k %% 2) 0:255 else 0:65535, 15 * 18, TRUE)), 15)
    r <- sample(1:4, 2, TRUE)
    middle <- ref_window(m, r[1], r[2], mean)
    sd <- sqrt(pmax(0, ref_window(m, r[1], r[2], function(w) mean((w - mean(w))^2))))
    expect_identical(core_local(m, r[1], r[2], 90, 0.3, -5, 0, TRUE), m > middle - 5 + 0.3 * sd)
    expect_identical(
      core_local(m, r[1], r[2], 90, 0.2, 0, 128, FALSE), m < middle * (1 + 0.2 * (sd / 128 - 1))
    )
  }
  # one value between levels far to the right: what was begun on bytes is begun anew
  m <- matrix(as.numeric(sample(0:255, 4 * 1100, TRUE)), 4)
  m[2, 1000] <- 17.5
  spread <- sqrt(pmax(0, ref_window(m, 1, 1, function(w) mean((w - mean(w))^2))))
  for (threads in 1:2) {
    expect_identical(
      core_local(m, 1, 1, 90, -0.2, 0, 0, TRUE, threads),
      m > ref_window(m, 1, 1, mean) - 0.2 * spread
    )
  }
  m[2, 1000] <- NaN
  expect_error(core_local(m, 1, 1, 90, -0.2, 0, 0, TRUE, 2L), "missing or infinite")
  field <- small_beads(uneven = 0.9, noise = 3)
  even <- area_fraction(segment_auto(small_beads(uneven = 0, noise = 3)))
  off <- function(mask) abs(area_fraction(mask) / even - 1)
  expect_lt(off(segment_local(field, 30, "mean", offset = 35)), off(segment_auto(field)))
  expect_lt(off(segment_local(field, 30, "mean", offset = 35)), 0.1)
  dark <- as_field(255 - field$pixels)
  expect_identical(
    segment_local(dark, 30, "sauvola", "dark")$pixels,
    segment_local(field, 30, "sauvola", "bright")$pixels
  )
  expect_refused(segment_local(field, 0), "at least 1", class = "argument")
})

test_that("hysteresis keeps weak parts of sure objects only", {
  m <- matrix(10, 9, 20)
  m[4:6, 3:8] <- 120
  m[5, 4] <- 220
  m[4:6, 13:16] <- 120
  mask <- segment_hysteresis(as_field(m), sure = 200, likely = 100)
  expect_equal(which(colSums(mask$pixels) > 0), 3:8)
  expect_identical(
    segment_hysteresis(as_field(255 - m), sure = 55, likely = 155)$pixels, mask$pixels
  )
  expect_refused(segment_hysteresis(as_field(m), 5, 5), class = "argument")
})

test_that("each rule is its formula, for both phases", {
  set.seed(216)
  m <- matrix(as.numeric(sample(0:255, 15 * 18, TRUE)), 15)
  field <- as_field(m)
  middle <- ref_window(m, 2, 2, mean)
  sd <- sqrt(pmax(0, ref_window(m, 2, 2, function(w) mean((w - mean(w))^2))))
  said <- function(...) suppressWarnings(segment_local(field, 2, ...))$pixels
  expect_identical(said(), m > middle + 10)
  expect_identical(said("mean", "dark", offset = 7), m < middle - 7)
  expect_identical(said("niblack", k = 0.3), m > middle + 0.3 * sd)
  expect_identical(said("niblack", "dark"), m < middle - 0.2 * sd)
  expect_identical(said("sauvola", "dark", k = 0.4), m < middle * (1 + 0.4 * (sd / 128 - 1)))
  expect_equal(
    trail_of(suppressWarnings(segment_local(field, 2, "niblack")))$args[2],
    "radius = 2, rule = niblack, phase = bright, k = 0.2"
  )
  expect_equal(
    trail_of(suppressWarnings(segment_local(field, 2)))$args[2],
    "radius = 2, rule = mean, phase = bright, offset = 10"
  )
  expect_refused(segment_local(field, 2, k = 5.1), class = "argument")
  expect_refused(segment_local(field, 2, "sauvola", k = -0.1), class = "argument")
  expect_refused(segment_local(field, 2001), class = "argument")
})

test_that("hysteresis includes its levels and says what it dropped", {
  m <- matrix(10, 5, 12)
  m[2, 2:4] <- c(100, 200, 100)
  m[2, 8] <- 100
  m[4, 12] <- 199
  mask <- segment_hysteresis(as_field(m), 200, 100)
  expect_equal(which(mask$pixels), c(7, 12, 17))
  expect_equal(decision(mask$trail, "segment_hysteresis"), list(specks_dropped = 2))
  expect_equal(c(mask$low, mask$high, mask$phase), c("100", "Inf", "bright"))
  dark <- segment_hysteresis(as_field(255 - m), 55, 155)
  expect_equal(c(dark$low, dark$high, dark$phase), c("-Inf", "155", "dark"))
  expect_equal(sum(dark$pixels), 3)
})
