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
  expect_equal(
    suggest_radius(rough, "22 px")[c("filter", "radius")],
    list(filter = "filter_gaussian", radius = 0.5)
  )
  expect_equal(
    suggest_radius(spotted, "22 px")[c("filter", "radius")],
    list(filter = "filter_median", radius = 1)
  )
  expect_refused(suggest_radius(as_field(matrix(5, 20, 20)), 20), class = "flat")
  change <- compare_fields(spotted, filter_median(spotted, 1))
  expect_gt(change$difference[["largest"]], 50)
  expect_lt(change$table$after[1], change$table$before[1] + 1)
  expect_refused(compare_fields(clean, crop_to(clean, c(0, 0, 50, 50))), class = "argument")
})

test_that("the filter is the weakest that leaves a ninth of the contrast, and says what it does", {
  steps <- function(noise, smallest = "40 px") {
    set.seed(4)
    m <- matrix(50, 200, 200)
    m[61:140, 61:140] <- 150
    noisy <- pmin(pmax(round(m + stats::rnorm(40000, 0, noise)), 0), 255)
    suggest_radius(as_field(noisy, 8), smallest)
  }
  none <- steps(1.5)
  expect_equal(none[c("filter", "radius", "call")], list(filter = "none", radius = 0, call = ""))
  expect_match(
    format(none), "^<suggestion> no smoothing .noise is 1[.0-9]* % of the contrast, too little"
  )
  expect_equal(none[["narrower"]], 0)
  some <- steps(25)
  expect_equal(some$filter, "filter_gaussian")
  expect_equal(some$call, paste0("filter_gaussian: {sigma: ", some$radius, " px}"))
  ratio <- some$remaining / noise_kept(some$radius)
  expect_equal(ratio, 0.25, tolerance = 0.05)
  expect_lte(some$remaining, 1 / 9)
  expect_gt(ratio * noise_kept(some$radius - 0.1), 1 / 9)
  expect_equal(some$narrower, 2 * some$radius^2 / 40^2)
  expect_match(format(some), "2[0-9]* % of the contrast, .* % remain; the smallest object")
  # the smallest object sets the limit: to a twentieth of it a Gaussian, then non-local means
  expect_equal(smoothing_for(0.36, 20, FALSE)[c("filter", "radius")],
    list(filter = "filter_gaussian", radius = 1))
  small <- smoothing_for(0.36, 19.9, FALSE)
  expect_equal(small[c("filter", "radius", "call", "remaining", "narrower")], list(
    filter = "filter_nonlocal", radius = 5, call = "filter_nonlocal: {radius: 5 px}",
    remaining = 0.06, narrower = NA_real_
  ))
  expect_match(small$why, "36 % of the contrast, about 6 % remain; .* round off the smallest object$")
  expect_match(smoothing_for(0.67, 8, FALSE)$why, "object: take pictures with less noise$")
  expect_equal(steps(40, "4 px")$filter, "filter_nonlocal")
  expect_equal(steps(40, "100 px")$radius, steps(40, "400 px")$radius)
  expect_equal(smoothing_for(0.15, 1, FALSE)[c("filter", "radius")],
    list(filter = "filter_gaussian", radius = 0.5))
  # where pixels hang together only a Gaussian helps, to a fifth of the smallest object
  tight <- smoothing_for(0.4, 4, TRUE)
  expect_equal(tight[c("filter", "radius")], list(filter = "filter_gaussian", radius = 0.8))
  expect_match(tight$why, "with less noise.*8 % narrower")
  expect_equal(smoothing_for(0.4, 1, TRUE)$radius, 0.5)
  expect_equal(smoothing_for(1000, 400, FALSE)$radius, 10)
})

test_that("edges of the advice: noise that hardly matters, many impulses, pixels that hang together", {
  expect_equal(smoothing_for(0.06, 40, FALSE)$filter, "none")
  expect_equal(smoothing_for(0.061, 40, FALSE)[c("filter", "radius")], list(filter = "filter_gaussian", radius = 0.5))
  hang <- smoothing_for(0.2, 40, TRUE)
  expect_true(is.na(hang$remaining))
  expect_match(hang$why, "hang together")
  expect_equal(median_for(0.1, 40)$radius, 1)
  expect_equal(median_for(0.11, 40)[c("radius", "call")], list(radius = 2, call = "filter_median: {radius: 2 px}"))
  expect_match(median_for(0.11, 4.9)$why, "11 % of the pixels are impulses; objects as narrow")
  expect_no_match(median_for(0.11, 5)$why, "narrow")
  # white noise through the filter itself
  set.seed(5)
  noise <- matrix(stats::rnorm(90000), 300)
  for (sigma in c(0.5, 1, 2)) {
    expect_equal(stats::sd(core_gaussian(noise, sigma, sigma)), noise_kept(sigma), tolerance = 0.03)
  }
  # of oblong pixels the wider side counts
  set.seed(6)
  oblong <- calibrate(
    as_field(round(matrix(rep(c(50, 150), each = 5000), 100) + stats::rnorm(10000, 0, 40)), 8),
    calibration_from_length(c(x = 200, y = 100), "100 um")
  )
  # 4 pixels across, 8 down
  expect_equal(suggest_radius(oblong, "4 um")$filter, "filter_nonlocal")
  expect_equal(suggest_radius(oblong, "20 um")$filter, "filter_gaussian")
})
