test_that("the shift of percentiles is told with an interval that sampling makes", {
  small <- accept_objects(measured_beads())
  same <- compare_distributions(small, small)
  expect_equal(same$shifts$shift, c(0, 0, 0))
  expect_false(any(same$shifts$differs))
  set.seed(97)
  a <- made_run(rep(0.3, 6), stats::rlnorm(80, log(20), 0.2))
  b <- made_run(rep(0.3, 6), stats::rlnorm(80, log(23), 0.2))
  found <- compare_distributions(a, b, p = c(10, 50))
  expect_equal(found$shifts$shift[2], quantile(found$b, 0.5)[[1]] - quantile(found$a, 0.5)[[1]])
  expect_true(found$shifts$differs[2])
  expect_equal(found$shifts$high - found$shifts$shift, found$shifts$shift - found$shifts$low)
  expect_output(print(found), "D50")
  pixels <- made_run(rep(0.3, 2), stats::rlnorm(80, 3, 0.2), unit = "px")
  expect_refused(compare_distributions(a, pixels), "px", class = "calibration")
})

test_that("too few objects have no interval, and sizes in pixels take no lengths", {
  one <- accept_objects(measure_objects(find_objects(mask_of(disc_mask(30, 6)))))
  few <- compare_distributions(one, one)
  expect_false(any(few$shifts$differs))
  expect_output(print(few), "no interval from so few objects")
  expect_refused(
    share_of_sizes(size_distribution(one), above = "3 um"), "in pixels",
    class = "no_calibration"
  )
  expect_refused(size_distribution(one, classes = "3 um"), "in pixels", class = "no_calibration")
  expect_equal(share_of_sizes(size_distribution(one), above = 3), 1)
})

test_that("the interval is that of both samplings in quadrature", {
  a <- made_run(c(0.3, 0.3), c(1:15 + 0.1))
  b <- made_run(c(0.3, 0.3), 2 * (1:15) + 0.1)
  found <- compare_distributions(a, b, p = c(25, 50))
  half <- function(d, p, confidence = 0.95) {
    part <- sampling_part(percentile_statistic(d$values, d$share, p / 100), d$field)
    stats::qt((1 + confidence) / 2, part$df) * part$u
  }
  reach <- sqrt(half(found$a, 50)^2 + half(found$b, 50)^2)
  row <- found$shifts[2, ]
  expect_equal(c(row$a, row$b, row$shift), c(8.1, 16.1, 8))
  expect_equal(c(row$low, row$high), 8 + c(-1, 1) * reach)
  expect_equal(row$relative, 8 / 8.1)
  expect_identical(row$differs, 8 > reach)
  wider <- compare_distributions(a, b, p = 50, confidence = 0.99)$shifts
  expect_gt(wider$high - wider$low, row$high - row$low)
  same <- compare_distributions(a, a, p = 50)
  expect_false(same$shifts$differs)
  expect_match(
    format(same)[2], "D50: 8.100 and 8.100 \u00b5m, shift 0 \\(.*\\), no difference shown"
  )
  expect_equal(format(same)[1], "<shift> of ecd by number, 30 and 30 objects")
  down <- compare_distributions(b, a, p = 50)$shifts
  expect_equal(c(down$shift, down$differs), c(-8, row$differs))
  expect_identical(tibble::as_tibble(same), same$shifts)
  for (wrong in list(0.4, 1)) {
    expect_refused(compare_distributions(a, b, confidence = wrong), class = "argument")
  }
  expect_refused(compare_distributions(a, b, p = 101), class = "argument")
  expect_refused(
    compare_distributions(a, made_run(c(0.3, 0.3), 1:15, unit = "mm")), "One is measured",
    class = "calibration"
  )
})

test_that("three percentiles are compared unless others are asked for, from none to all", {
  a <- made_run(c(0.3, 0.3), c(1:15 + 0.1234))
  expect_equal(compare_distributions(a, a)$shifts$p, c(10, 50, 90))
  expect_silent(compare_distributions(a, a, p = c(0, 100)))
  one <- made_run(0.3, 1:30 + 0.1)  # a single field: its objects alone are asked about
  found <- compare_distributions(one, made_run(0.3, 1:30 + 4.13579), p = 50)
  expect_false(is.na(found$shifts$low))
  expect_match(
    format(found)[2],
    sprintf("(%s to %s)", signif(found$shifts$low, 3), signif(found$shifts$high, 3)), fixed = TRUE
  )
  two <- compare_distributions(a, a, p = 50)$shifts
  expect_false(is.na(two$low))
})
