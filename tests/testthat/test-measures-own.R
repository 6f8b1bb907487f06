test_that("a measure of one's own is one number an object, of its pixels or outline", {
  m <- measured_beads()
  own <- measure_by(m, "count", nrow)
  expect_equal(own$count * 0.36, m$area_um2)
  own <- measure_by(m, "middle", function(p) mean(p$x_px))
  expect_equal(own$middle, m$x_px)
  expect_equal(measure_by(m, "mean", function(p) mean(p$grey))$mean, m$grey_mean)
  expect_true(all(measure_by(m, "corners", nrow, on = "outline")$corners >= 4))
  expect_refused(measure_by(m, "area_um2", nrow), "already", class = "argument")
  expect_refused(measure_by(m, "two", function(p) 1:2), "one number", class = "argument")
  expect_refused(measure_by(m, "x", 3), "function", class = "argument")
})

test_that("the function sees every pixel of an object with its grey, or its outline", {
  m <- matrix(0, 8, 10)
  m[2:3, 4:6] <- c(200, 210, 220, 230, 240, 250)
  m[6, 9] <- 150
  measures <- measure_objects(find_objects(segment_level(as_field(m), low = 100)))
  at <- measure_by(measures, "x_mean", function(p) mean(p$x_px))
  expect_equal(at$x_mean, c(4.5, 8.5))
  expect_equal(measure_by(measures, "y_mean", function(p) mean(p$y_px))$y_mean, c(2, 5.5))
  expect_equal(measure_by(measures, "g", function(p) sum(p$grey))$g, c(1350, 150))
  expect_equal(measure_by(measures, "n", nrow, on = "outline")$n, c(4, 4))
  expect_equal(trail_of(at)$step[5], "measure_by")
  # of a table cut down, only its rows
  expect_equal(measure_by(measures[2, ], "n", nrow)$n, 1)
  for (name in c("2x", "a b", "", "x-y")) {
    expect_refused(measure_by(measures, name, nrow), class = "argument")
  }
  expect_refused(measure_by(measures, "id", nrow), "already", class = "argument")
  expect_refused(measure_by(measures, "z", "nrow"), class = "argument")
  expect_refused(measure_by(measures, "z", function(p) 1:2), "object 1", class = "argument")
  expect_refused(measure_by(measures, "z", function(p) if (nrow(p) > 1) 1), "object 2", class = "argument")
  expect_refused(measure_by(measures, "z", function(p) "a"), class = "argument")
})

test_that("pixels of objects are told by their centres", {
  m <- matrix(c(0, 0, 90, 0, 80, 70), 2)
  objects <- find_objects(segment_level(as_field(m), low = 50))
  expect_equal(
    object_pixels(objects),
    tibble::tibble(id = 1L, x_px = c(1.5, 2.5, 2.5), y_px = c(0.5, 0.5, 1.5), grey = c(90, 80, 70))
  )
})
