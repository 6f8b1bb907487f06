strip_picture <- function(um, width, seed, bright = TRUE) {
  field <- simulate_field(
    width = width, height = 260, count = 6, diameter = "18 px", pixel = paste(um, "um"), strip = TRUE, seed = seed
  )
  as_field(if (bright) field$pixels else 255 - field$pixels)
}

test_that("the bar is found beside its lettering, in both polarities and through JPEG", {
  set.seed(121)
  for (k in 1:18) {
    um <- stats::runif(1, 0.05, 2)
    width <- sample(c(600, 1024, 1600), 1)
    field <- strip_picture(um, width, k, bright = k %% 2 == 0)
    if (k %% 3 == 0) {
      path <- tempfile(fileext = ".jpg")
      jpeg::writeJPEG(field$pixels / 255, path, quality = 0.85)
      field <- read_field(path)
    }
    length <- bar_length(width, um)
    drawn <- round(length / um)  # bars are drawn to whole pixels
    scale <- calibration_from_bar(field, paste(length, "um"))
    expect_equal(scale$pixel[["x"]], length / drawn, tolerance = 3e-3)
    expect_lte(abs(scale$pixel[["x"]] / um - 1), 3 * scale$uncertainty)
  }
})

test_that("ends are sub-pixel, ticks and I-shapes are bars too", {
  strip <- matrix(10, 40, 300)
  strip[18:21, 51:249] <- 200
  strip[18:21, 250] <- 105  # half a pixel more
  expect_equal(find_bar(strip)$right - find_bar(strip)$left, 199.5)
  ticked <- strip
  ticked[12:27, c(51:53, 247:249)] <- 200
  ticked[18:21, 250] <- 10
  expect_equal(find_bar(ticked)[c("left", "right")], list(left = 50, right = 249))
  expect_equal(find_bar(ticked)$y, 19)
  expect_equal(find_bar(255 - ticked)$left, 50)
})

test_that("a box narrows the search, and two bars are not guessed between", {
  two <- matrix(10, 60, 300)
  two[10:12, 20:119] <- 200
  two[40:42, 150:269] <- 200
  field <- as_field(two)
  expect_error(calibration_from_bar(field, "10 um", box = c(0, 0, 300, 60)), "2 things", class = "bemrick_error_bar")
  expect_equal(calibration_from_bar(field, "10 um", box = c(0, 30, 300, 60))$pixel[["x"]], 10 / 120)
  expect_equal(calibration_from_bar(field, "10 um", box = c(0, 0, 300, 20))$evidence$left, c(19, 10.5))
  expect_error(calibration_from_bar(field, "10 um", box = c(5, 5, 5, 9)), class = "bemrick_error_argument")
  expect_error(
    calibration_from_bar(field, "10 um", box = c(500, 0, 600, 9)), "outside", class = "bemrick_error_argument"
  )
})

test_that("no strip, no bar and no ink are said", {
  expect_error(calibration_from_bar(small_beads(), "10 um"), "no information strip and no drawn bar", class = "bemrick_error_bar")
  expect_error(
    calibration_from_bar(as_field(matrix(5, 60, 90)), "10 um", box = c(0, 0, 90, 60)), "Nothing is drawn",
    class = "bemrick_error_bar"
  )
  letters <- matrix(10, 60, 200)
  letters[20:50, 20:40] <- 200
  expect_error(
    calibration_from_bar(as_field(letters), "10 um", box = c(0, 0, 200, 60)), "No scale bar",
    class = "bemrick_error_bar"
  )
})

test_that("a row of dots is a bar from the middle of its first dot to that of its last", {
  strip <- matrix(10, 50, 400)
  for (k in 0:10) strip[20:23, 40 + 25 * k + 1:4] <- 220
  letters <- text_pixels("10.0 kV", 2)
  strip[30 + seq_len(nrow(letters)), 60 + seq_len(ncol(letters))][letters] <- 220
  scale <- calibration_from_bar(as_field(strip), "50 um", box = c(0, 0, 400, 50))
  expect_equal(scale$pixel[["x"]], 50 / 250)
  expect_match(scale$found, "11 dots")
  expect_equal(scale$evidence$left, c(42, 21))
})

test_that("two points narrow the search, or stand for the bar", {
  two <- matrix(10, 60, 300)
  two[10:12, 20:119] <- 200
  two[40:42, 150:269] <- 200
  field <- as_field(two)
  expect_equal(calibration_from_bar(field, "10 um", ends = c(17, 12, 121, 10))$pixel[["x"]], 10 / 100)
  typed <- calibration_from_bar(as_field(two * 0 + 5), "10 um", ends = c(10, 20, 110, 20))
  expect_equal(typed$pixel[["x"]], 0.1)
  expect_match(typed$found, "two points")
  expect_error(calibration_from_bar(field, "10 um", ends = c(1, 2, 1, 2)), class = "bemrick_error_argument")
  ends <- calibration_from_length(length = "10 um", from = c(0, 0), to = c(30, 40))
  expect_equal(ends$pixel, c(x = 0.2, y = 0.2))
  expect_error(calibration_from_length(length = "10 um", from = c(0, 0)), "both", class = "bemrick_error_argument")
})
