test_that("a ramp is read exactly between pixels, in any direction", {
  ramp <- outer(seq_len(50) - 0.5, seq_len(60) - 0.5, function(y, x) 3 * x + 2 * y)
  p <- grey_profile(as_field(ramp), path_line(10, 10, 50, 40, across = 5), step = 0.3)
  expect_equal(p$grey, 3 * p$x_px + 2 * p$y_px, tolerance = 1e-12)
  expect_equal(p$position_px, seq(0, 50, by = 0.3), tolerance = 1e-9)
  inner <- p[20:140, ]
  expect_equal(inner$slope, rep(3 * 0.8 + 2 * 0.6, 121), tolerance = 1e-9)
  arc <- grey_profile(as_field(ramp), path_arc(30, 25, 12, 0, 90), step = 0.5)
  expect_equal(arc$grey, 3 * arc$x_px + 2 * arc$y_px, tolerance = 1e-9)
  expect_equal(unlist(arc[1, c("x_px", "y_px")], use.names = FALSE), c(42, 25))
})

test_that("values are those of a plain reading, averaged or their median across", {
  set.seed(3)
  m <- matrix(sample(0:255, 40 * 50, TRUE), 40)
  cubic <- function(t) c(-t^3 / 2 + t^2 - t / 2, 1.5 * t^3 - 2.5 * t^2 + 1, -1.5 * t^3 + 2 * t^2 + t / 2,
    t^3 / 2 - t^2 / 2)
  plain <- function(x, y) {
    i <- floor(x - 0.5)
    j <- floor(y - 0.5)
    sum(outer(cubic(y - 0.5 - j), cubic(x - 0.5 - i)) * m[j + 0:3, i + 0:3])
  }
  path <- path_line(10, 12, 40, 28, across = 4)
  along <- c(30, 16) / sqrt(30^2 + 16^2)
  t <- seq(0, 34, by = 1)
  lines <- sapply(c(-1.5, -0.5, 0.5, 1.5), function(w) {
    mapply(plain, 10 + t * along[1] - w * along[2], 12 + t * along[2] + w * along[1])
  })
  field <- as_field(m)
  expect_equal(grey_profile(field, path, step = 1)$grey, rowMeans(lines))
  expect_equal(
    grey_profile(field, path, step = 1, average = "median")$grey, apply(lines, 1, stats::median)
  )
})

test_that("what is not seen is missing, and lengths are those of the calibration", {
  m <- matrix(100, 40, 50)
  field <- calibrate(as_field(m), calibration_from_length(1, "2 um"))
  p <- grey_profile(field, path_line(40, 20, 60, 20), step = 1)
  expect_equal(is.na(p$grey), p$x_px > 50)
  expect_equal(p$position_um, 2 * (p$x_px - 40))
  expect_equal(p$smooth[!is.na(p$smooth)], rep(100, 11))
  hidden <- keep_within(as_field(m), region_box(0, 0, 25, 40))
  expect_equal(sum(is.na(grey_profile(hidden, path_line(5, 20, 45, 20), step = 1)$grey)), 21)
  expect_refused(grey_profile(field, path_line(60, 20, 90, 20)), "^The path lies outside this picture", class = "path")
  expect_refused(grey_profile(field, path_repeat(path_line(1, 2, 9, 2), 2, 2)), "repeated", class = "path")
  expect_error(grey_profile(field, path_line(1, 2, 9, 2), step = 0.001), "0.01")
  expect_equal(grey_profile(as_field(matrix(7, 1, 1)), path_line(0, 0.5, 1, 0.5))$grey, rep(7, 3))
})

test_that("oblong pixels, fine steps and smoothing have their places and limits", {
  field <- calibrate(
    as_field(matrix(5, 40, 50)), new_calibration(c(x = 1, y = 2), "um", 0, "given")
  )
  p <- grey_profile(field, path_line("10 um", "20 um", "10 um", "60 um"), step = "4 um")
  expect_equal(p$y_px, seq(10, 30, by = 2))
  expect_equal(p$y_um, seq(20, 60, by = 4))
  plain <- as_field(matrix(5, 40, 50))
  line <- path_line(10, 10, 11, 10)
  expect_equal(nrow(grey_profile(plain, line, step = 0.01)), 101)
  for (sigma in c(0.3, 100)) expect_silent(grey_profile(plain, line, sigma = sigma))
  for (sigma in c(0.29, 101)) {
    expect_refused(grey_profile(plain, line, sigma = sigma), "0.3 to 100", class = "argument")
  }
})
