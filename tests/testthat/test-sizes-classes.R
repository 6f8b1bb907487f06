test_that("classes hold every object once", {
  set.seed(92)
  d <- of_sizes(stats::rlnorm(300, 3, 0.5))
  expect_equal(sum(d$classes$share), 1)
  expect_equal(d$classes$from[-1], d$classes$to[-nrow(d$classes)])
  expect_equal(sum(of_sizes(rep(4, 5))$classes$share), 1)
  expect_equal(sum(of_sizes(4)$classes$share), 1)
})

test_that("classes are equal, logarithmic, given or sieves", {
  set.seed(94)
  x <- stats::rlnorm(400, 3.5, 0.5)
  with <- function(classes, w = rep(1, 400)) {
    new_distribution(x, w, "ecd", "number", "um", classes)$classes
  }
  expect_equal(nrow(with(12)), 12)
  expect_equal(sum(with(12)$share), 1)
  ratio <- with("log")$to / with("log")$from
  expect_equal(max(ratio), min(ratio))
  given <- with(c(20, 40, 30))
  expect_equal(given$share, c(mean(x >= 20 & x < 30), mean(x >= 30 & x <= 40)))
  expect_equal(with(c("20 um", "0.04 mm"))$to, 40)
  sieves <- with(sieve_openings("R40/3", "20 um", "180 um"))
  expect_equal(sieves$from[1:5], c(20, 25, 32, 38, 45))
  expect_equal(sieve_openings(from = "60 um", to = "130 um"), c("63 um", "90 um", "125 um"))
  for (series in c("R20/3", "R20", "R40/3")) expect_false(is.unsorted(
    sieve_series[[series]], strictly = TRUE
  ))
  expect_true(all(sieve_series[["R20/3"]] %in% sieve_series[["R20"]]))
  for (bad in list("wide", c(1, NA), 0, 2.5, c(2, 2))) expect_error(
    with(bad), class = "bemrick_error"
  )
})

test_that("widths follow Freedman and Diaconis, and classes hold what lies in them", {
  x <- 1:64 + 0
  width <- 2 * stats::IQR(x) / 4
  expect_equal(even_limits(x), pretty(range(x), n = ceiling(63 / width)))
  expect_equal(even_limits(x, FALSE), seq(1, 64, length.out = ceiling(63 / width) + 1))
  expect_equal(even_limits(rep(5, 9)), c(4.5, 5.5))
  expect_equal(even_limits(rep(5, 9), FALSE), c(4.5, 5.5))
  expect_lte(length(even_limits(c(stats::qnorm(stats::ppoints(1000)), 1e5), FALSE)), 201)
  expect_equal(class_limits(4, c(2, 10), "ecd", "um"), c(2, 4, 6, 8, 10))
  expect_equal(class_limits(4, 3, "ecd", "um"), c(2.5, 3.5))
  expect_equal(class_limits(c(9, 3, 5), x, "ecd", "um"), c(3, 5, 9))
  expect_equal(class_limits(c("0.01 mm", "5 um"), x, "ecd", "um"), c(5, 10))
  expect_equal(class_limits(c("1 um2", "4 um2"), x, "area", "um2"), c(1, 4))
  expect_equal(class_limits("log", exp(x / 10), "ecd", "um"), exp(even_limits(x / 10, FALSE)))
  found <- size_classes(c(1, 2, 2.5, 3, 4, 5), rep(1 / 6, 6), c(2, 3, 4))
  expect_equal(found, tibble::tibble(from = c(2, 3), to = c(3, 4), share = c(2, 2) / 6))
  for (wrong in list(c(1, 1, 2), "many", c(1, NA), TRUE, 0, 1.5, list(1, 2))) {
    expect_error(class_limits(wrong, x, "ecd", "um"), class = "bemrick_error")
  }
  expect_refused(class_limits("log", c(0, 1), "ecd", "um"), "above zero", class = "argument")
  expect_refused(size_in_unit("3 um", "above", "solidity", ""), "no unit", class = "quantity")
  expect_refused(size_in_unit("3 um", "above", "ecd", "px"), class = "no_calibration")
  expect_equal(size_in_unit("3 um", "above", "ecd", "mm"), 0.003)
})

test_that("one text with a unit is the width of the classes, from multiple to multiple", {
  x <- c(11, 12, 14.9, 15, 23)
  limits <- function(classes, x = c(11, 12, 14.9, 15, 23)) class_limits(classes, x, "ecd", "um")
  expect_equal(limits("5 um"), c(10, 15, 20, 25))
  expect_equal(limits("0.004 mm"), c(8, 12, 16, 20, 24))
  expect_equal(limits("5 um", c(10, 20)), c(10, 15, 20))
  expect_equal(limits("5 um", 10), c(10, 15))
  expect_equal(limits(5), seq(11, 23, length.out = 6))
  d <- of_sizes(x)
  expect_equal(sum(size_distribution(made_run(c(0.3, 0.3), x), classes = "5 um")$classes$share), 1)
  expect_equal(class_limits("10 um2", c(95, 130), "area", "um2"), c(90, 100, 110, 120, 130))
  for (wrong in c("5", "0 um", "-5 um", "5 stone")) {
    expect_error(limits(wrong), class = "bemrick_error", label = wrong)
  }
  expect_refused(limits("0.1 nm"), "at most 10000", class = "argument")
  expect_refused(class_limits("5 um", x, "ecd", "px"), class = "no_calibration")
})
