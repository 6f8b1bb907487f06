# Every filter against its plain version, on random small pictures of every kind of values.
random_pictures <- function(n, kinds = c("few", "bytes", "words", "real", "ties", "flat"), most = 40) {
  lapply(seq_len(n), function(k) {
    size <- if (k %% 10 == 0) c(1, sample.int(most, 1)) else sample.int(most, 2, TRUE)
    values <- switch(kinds[(k - 1) %% length(kinds) + 1],
      few = sample(c(0, 1, 255), prod(size), TRUE), bytes = sample(0:255, prod(size), TRUE),
      words = sample(0:65535, prod(size), TRUE), real = stats::rnorm(prod(size), 50, 30),
      ties = sample(c(-1.5, 0, 0.25), prod(size), TRUE), flat = rep(7, prod(size))
    )
    matrix(as.numeric(values), size[1], size[2])
  })
}

test_that("the box mean equals the plain one, exactly for whole levels, also across blocks of columns", {
  set.seed(201)
  for (m in random_pictures(200, most = 16)) {
    r <- sample(0:5, 2, TRUE)
    n <- prod(2 * r + 1)
    slow <- ref_window(m, r[1], r[2], sum)
    fast <- core_box(m, r[1], r[2])
    if (all(m == round(m))) expect_identical(fast, slow * (1 / n)) else expect_equal(fast, slow / n, tolerance = 1e-12)
  }
  wide <- matrix(as.numeric(sample(0:255, 3 * 1100, TRUE)), 3)
  expect_identical(core_box(wide, 4L, 1L), ref_window(wide, 4, 1, sum) * (1 / 27))
  expect_identical(core_box(matrix(0.1, 30, 40), 3L, 3L)[1] - 0.1 < 1e-15, TRUE)
  ramp <- matrix(rep(as.numeric(0:39), each = 12), 12)
  expect_equal(core_box(ramp, 3L, 2L)[, 4:37], ramp[, 4:37])  # a ramp stays a ramp away from the frame
})

test_that("kernels of any odd size equal the plain sum, whole or in two parts", {
  set.seed(202)
  for (m in random_pictures(200, most = 14)) {
    side <- 2 * sample(0:3, 2, TRUE) + 1
    kernel <- matrix(sample(-3:4, prod(side), TRUE), side[1], side[2])
    expect_equal(core_convolve(m, kernel + 0), ref_convolve(m, kernel), tolerance = 1e-12)
  }
  m <- random_pictures(2)[[2]]
  smooth <- kernel_gaussian(1.3)
  expect_length(separable_parts(smooth$weights), 2)
  expect_length(separable_parts(kernel_laplace()$weights), 1)
  expect_equal(filter_kernel(as_field(m), smooth)$pixels, ref_convolve(m, smooth$weights), tolerance = 1e-10)
  expect_equal(filter_kernel(as_field(m), kernel_gaussian(2))$pixels, filter_gaussian(as_field(m), 2)$pixels, tolerance = 1e-5)
  expect_equal(filter_kernel(as_field(m), kernel_mean(2))$pixels, filter_box(as_field(m), 2)$pixels)
  expect_equal(filter_kernel(as_field(m), matrix(3, 3, 3), normalise = TRUE)$pixels, filter_box(as_field(m), 1)$pixels)
  expect_error(filter_kernel(as_field(m), matrix(1, 2, 3)), "odd sides", class = "bemrick_error_kernel")
  expect_error(filter_kernel(as_field(m), list(c(1, 2, 1), c(1, 2))), "matrix", class = "bemrick_error_kernel")
  expect_equal(filter_kernel(as_field(m), list(c(0, 1, 0), c(1, 4, 1), c(0, 1, 0)))$pixels,
               ref_convolve(m, matrix(c(0, 1, 0, 1, 4, 1, 0, 1, 0), 3)), tolerance = 1e-12)
  expect_error(kernel_of(matrix(c(1, NA, 1), 1)), class = "bemrick_error_kernel")
  expect_error(filter_kernel(as_field(m), kernel_laplace(), normalise = TRUE), "sum to zero", class = "bemrick_error_kernel")
  expect_equal(sum(kernel_log(2)$weights), 0, tolerance = 1e-12)
})

test_that("Sobel slopes equal the plain ones, and of a ramp are its slope", {
  set.seed(203)
  gx <- outer(c(1, 2, 1), c(-1, 0, 1)) / 8
  for (m in random_pictures(200, most = 14)) {
    x <- ref_convolve(m, gx)
    y <- ref_convolve(m, t(gx))
    expect_equal(core_sobel(m, 1, "x"), x, tolerance = 1e-12)
    expect_equal(core_sobel(m, 0.5, "magnitude"), sqrt(x^2 + (y / 2)^2), tolerance = 1e-12)
  }
  ramp <- outer(1:20, 1:30, function(y, x) 3 * x - 4 * y) + 100
  field <- as_field(ramp)
  expect_equal(filter_gradient(field)$pixels[2:19, 2:29], matrix(5, 18, 28))
  expect_equal(filter_gradient(field, part = "direction")$pixels[9, 9], atan2(4, 3) * 180 / pi)
  expect_equal(filter_gradient(field, sigma = 1)$pixels[10, 15], 5, tolerance = 1e-5)
  tall <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(filter_gradient(tall, part = "y")$pixels[9, 9], -2)  # pixels twice as high as wide
})

test_that("grey morphology equals minimum and maximum under the element, for every shape and kind of values", {
  set.seed(204)
  shapes <- c("disk", "square", "diamond", "line")
  pictures <- random_pictures(240, most = 16)
  for (k in seq_along(pictures)) {
    m <- pictures[[k]]
    shape <- shapes[k %% 4 + 1]
    r <- stats::runif(2, 0, 5)
    if (shape == "line") r <- r * c(1, sample(c(-1, 1), 1))
    if (k %% 8 < 4 && shape != "line") r <- rep(sample(c(1, 1.5, 2, 3), 1), 2)
    expect_identical(core_grey_extreme(m, TRUE, shape, r[1], r[2]), ref_extreme(m, shape, r[1], r[2], min),
                     label = paste(shape, r[1], r[2]))
    expect_identical(core_grey_extreme(m, FALSE, shape, r[1], r[2]), ref_extreme(m, shape, r[1], r[2], max))
  }
  field <- as_field(pictures[[2]])
  expect_true(all(filter_open(field, 2)$pixels <= field$pixels))
  expect_identical(filter_open(filter_open(field, 2), 2)$pixels, filter_open(field, 2)$pixels)
  expect_identical(filter_tophat(field, 2)$pixels, field$pixels - filter_open(field, 2)$pixels)
  expect_identical(filter_tophat(field, 2, phase = "dark")$pixels, filter_close(field, 2)$pixels - field$pixels)
})

test_that("every smoothing filter leaves constant grey as it is", {
  for (level in c(0, 7, 255)) {
    field <- as_field(matrix(level, 23, 31), 8)
    done <- list(
      filter_median(field, 2), filter_gaussian(field, 2), filter_box(field, 3), filter_kernel(field, kernel_gaussian(1)),
      filter_sharpen(field, 2), filter_open(field, 2), filter_close(field, 3, "square"), filter_flatten(field),
      filter_flatten(field, "smooth", 5), filter_flatten(field, "open", 5)
    )
    for (f in done) expect_equal(f$pixels, field$pixels, tolerance = 1e-6)
    expect_equal(filter_band(field, 3, 20)$pixels, matrix(128, 23, 31), tolerance = 1e-5)
  }
})

test_that("results do not depend on the number of threads", {
  set.seed(205)
  for (kind in list(0:255, 0:65535, stats::rnorm(500))) {
    m <- matrix(as.numeric(sample(kind, 70 * 1200, TRUE)), 70)
    same <- function(call) for (threads in 2:5) expect_identical(call(threads), call(1L))
    same(function(t) core_median(m, 1L, 1L, t))
    same(function(t) core_median(m, 4L, 4L, t))
    same(function(t) core_gaussian(m, 2.5, 1.5, t))
    same(function(t) core_box(m, 7L, 3L, t))
    same(function(t) core_convolve(m, kernel_log(1)$weights, t))
    same(function(t) core_sobel(m, 1, "magnitude", t))
    same(function(t) core_grey_extreme(m, TRUE, "disk", 4, 4, t))
    same(function(t) core_local(m, 6L, 6L, 100, 0.2, 0, 0, TRUE, t))
  }
  before <- use_threads()
  expect_equal(withr::with_envvar(c(BEMRICK_THREADS = "3"), use_threads()), 3L)
  use_threads(2)
  expect_equal(use_threads(), 2L)
  use_threads(NULL)
  expect_equal(use_threads(), before)
  expect_error(use_threads(0), class = "bemrick_error_argument")
})

test_that("uneven light is levelled by each way, and sizes come right again", {
  field <- small_beads(uneven = 0.6, noise = 3, seed = 6)
  even <- small_beads(uneven = 0, noise = 3, seed = 6)
  spread <- function(f) unevenness(f$pixels, core_otsu(level_counts(f)))
  for (done in list(filter_flatten(field), filter_flatten(field, how = "divide"), filter_flatten(field, "open", "14 um"))) {
    expect_lt(spread(done), 0.35 * spread(field))
    expect_equal(area_fraction(segment_auto(done)), area_fraction(segment_auto(even)), tolerance = 0.06)
  }
  expect_lt(spread(filter_flatten(field, "smooth", 60)), 0.6 * spread(field))
  expect_error(filter_flatten(field, "smooth"), "scale", class = "bemrick_error_argument")
  expect_error(filter_flatten(as_field(matrix(0, 9, 9)), how = "divide"), "zero", class = "bemrick_error_argument")
})

test_that("the band keeps its sizes", {
  set.seed(206)
  x <- matrix(seq_len(200), 200, 200, byrow = TRUE)
  y <- t(x)
  wave <- function(along, length) 40 * sin(2 * pi * along / length)
  kept <- function(along, length) {
    done <- filter_band(as_field(128 + wave(along, length), 8), smaller = 5, larger = 60)$pixels[60:140, 60:140]
    stats::sd(done) / stats::sd(wave(along, length)[60:140, 60:140])
  }
  expect_lt(kept(x, 3), 0.1)
  expect_gt(kept(x, 24), 0.7)
  expect_lt(kept(x, 400), 0.1)
  expect_error(filter_band(as_field(128 + wave(y, 20), 8), 60, 5), "below", class = "bemrick_error_argument")
})

test_that("stripes along one direction go, objects and the mean grey stay", {
  disc <- 80 * disc_mask(240, 9)
  stripes <- 25 * sin(2 * pi * row(disc) / 6)
  clean <- as_field(90 + disc, 8)
  inner <- 30:210
  left <- function(pixels, direction) {
    done <- filter_stripes(as_field(90 + disc + pixels, 8), "6 px", "200 px", direction)$pixels
    stats::sd((done - clean$pixels)[inner, inner]) / stats::sd(pixels)
  }
  expect_lt(left(stripes, "horizontal"), 0.12)
  expect_gt(left(stripes, "vertical"), 0.9)
  expect_lt(left(t(stripes), "vertical"), 0.12)
  done <- filter_stripes(as_field(90 + disc + stripes, 8), "6 px", "200 px")
  expect_equal(mean(done$pixels), mean(90 + disc + stripes), tolerance = 1e-3)
  area <- function(field) sum(segment_level(field, low = 130)$pixels)
  expect_equal(area(done), area(clean), tolerance = 0.02)
  flat <- filter_stripes(as_field(matrix(77, 40, 30), 8), 2, 40)
  expect_equal(range(flat$pixels), c(77, 77))
  expect_error(filter_stripes(clean, 60, 5), "below", class = "bemrick_error_argument")
  expect_error(filter_stripes(clean, 6, 3000), "at most 2000", class = "bemrick_error_argument")
  expect_error(filter_stripes(clean, 6, 200, "diagonal"), class = "bemrick_error_argument")
})

test_that("sharpening steepens edges and leaves half heights where they are", {
  edge <- as_field(matrix(rep(c(60, 180), each = 400), 20), 8)
  soft <- filter_gaussian(edge, 2)
  sharp <- filter_sharpen(soft, 2, 1)
  expect_gt(max(filter_gradient(sharp)$pixels), 1.2 * max(filter_gradient(soft)$pixels))
  expect_equal(sharp$pixels[10, 20] + sharp$pixels[10, 21], 240, tolerance = 1e-4)
})

test_that("noise is told by its kind, and the filter suggested takes it away", {
  clean <- small_beads(noise = 0, uneven = 0)
  rough <- add_noise(clean, "gaussian", 15)
  spotted <- add_noise(clean, "impulse", "4 %")
  expect_equal(field_facts(rough)$noise_kind, "gaussian")
  expect_equal(field_facts(spotted)$noise_kind, "impulse")
  expect_equal(field_facts(rough)$noise, 15, tolerance = 0.15)
  expect_equal(mean(spotted$pixels != clean$pixels), 0.04, tolerance = 0.1)
  expect_identical(add_noise(clean, seed = 3)$pixels, add_noise(clean, seed = 3)$pixels)
  expect_equal(suggest_radius(clean, "22 px")$filter, "none")
  expect_equal(suggest_radius(rough, "22 px")[c("filter", "radius")], list(filter = "filter_gaussian", radius = 2.2))
  expect_equal(suggest_radius(spotted, "22 px")[c("filter", "radius")], list(filter = "filter_median", radius = 2))
  expect_error(suggest_radius(as_field(matrix(5, 20, 20)), 20), class = "bemrick_error_flat")
  change <- compare_fields(spotted, filter_median(spotted, 1))
  expect_gt(change$difference[["largest"]], 50)
  expect_lt(change$table$after[1], change$table$before[1] + 1)
  expect_error(compare_fields(clean, crop_to(clean, c(0, 0, 50, 50))), class = "bemrick_error_argument")
})
