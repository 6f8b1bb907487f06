strip_picture <- function(um, width, seed, bright = TRUE) {
  field <- simulate_field(
    width = width, height = 260, count = 6, diameter = "18 px", pixel = paste(um, "um"),
    strip = TRUE, seed = seed
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
  expect_refused(calibration_from_bar(field, "10 um", box = c(0, 0, 300, 60)), "2 things", class = "bar")
  expect_equal(calibration_from_bar(field, "10 um", box = c(0, 30, 300, 60))$pixel[["x"]], 10 / 120)
  expect_equal(
    calibration_from_bar(field, "10 um", box = c(0, 0, 300, 20))$evidence$left, c(19, 10.5)
  )
  expect_refused(calibration_from_bar(field, "10 um", box = c(5, 5, 5, 9)), class = "argument")
  expect_refused(
    calibration_from_bar(field, "10 um", box = c(500, 0, 600, 9)), "outside",
    class = "argument"
  )
})

test_that("no strip, no bar and no ink are said", {
  expect_refused(
    calibration_from_bar(small_beads(), "10 um"), "no information strip and no drawn bar",
    class = "bar"
  )
  expect_refused(
    calibration_from_bar(as_field(matrix(5, 60, 90)), "10 um", box = c(0, 0, 90, 60)),
    "Nothing is drawn", class = "bar"
  )
  letters <- matrix(10, 60, 200)
  letters[20:50, 20:40] <- 200
  expect_refused(
    calibration_from_bar(as_field(letters), "10 um", box = c(0, 0, 200, 60)), "No scale bar",
    class = "bar"
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
  expect_equal(
    calibration_from_bar(field, "10 um", ends = c(17, 12, 121, 10))$pixel[["x"]], 10 / 100
  )
  typed <- calibration_from_bar(as_field(two * 0 + 5), "10 um", ends = c(10, 20, 110, 20))
  expect_equal(typed$pixel[["x"]], 0.1)
  expect_match(typed$found, "two points")
  expect_refused(calibration_from_bar(field, "10 um", ends = c(1, 2, 1, 2)), class = "argument")
  ends <- calibration_from_length(length = "10 um", from = c(0, 0), to = c(30, 40))
  expect_equal(ends$pixel, c(x = 0.2, y = 0.2))
  expect_refused(calibration_from_length(length = "10 um", from = c(0, 0)), "both", class = "argument")
})

drawn_bar <- function(left = 60, right = 260, rows = 20:23, ink = 255, ground = 10, width = 400) {
  m <- matrix(ground, 40, width)
  cols <- seq_len(width)
  cover <- pmin(pmax(pmin(cols - left, right - cols + 1), 0), 1)
  for (r in rows) m[r, ] <- ground + (ink - ground) * cover
  m
}

test_that("ends lie where half of a pixel is covered, to a fraction of one", {
  for (ends in list(c(60, 260), c(60.25, 260.75), c(59.6, 259.3))) {
    for (ink in list(c(250, 10), c(10, 250))) {
      found <- find_bar(drawn_bar(ends[1], ends[2], ink = ink[1], ground = ink[2]))
      # the straight line between two pixels is off by at most 0.1 where edges are this sharp
      expect_lt(
        max(abs(c(found$left, found$right) - ends)), if (all(ends == round(ends))) 1e-9 else 0.1
      )
      expect_equal(found$y, 21)
      expect_equal(found$dots, 0)
    }
  }
})

test_that("bars are at least 20 pixels or 3 % of the width, and only one of that length", {
  expect_refused(find_bar(drawn_bar(60, 79)), "No scale bar", class = "bar")
  expect_equal(find_bar(drawn_bar(60, 80))$right, 80)
  expect_refused(find_bar(drawn_bar(60, 88, width = 1000)), class = "bar")
  expect_equal(find_bar(drawn_bar(60, 90, width = 1000))$right, 90)
  two <- drawn_bar(60, 260)
  two[30:32, 100:230] <- 255
  expect_refused(find_bar(two), "2 things", class = "bar")
  two[30:32, 100:230] <- 10
  two[30:32, 100:215] <- 255  # less than 0.6 of the longest
  expect_equal(find_bar(two)$right, 260)
})

test_that("rows of dots run from middle to middle of like dots", {
  dots <- function(n = 11, pitch = 12, size = 4, shift = NULL) {
    m <- matrix(10, 40, 400)
    for (k in seq_len(n)) {
      x <- 50 + (k - 1) * pitch + if (identical(k, shift)) 3 else 0
      m[20:(19 + size), x + seq_len(size)] <- 255
    }
    m
  }
  found <- find_bar(dots())
  expect_equal(c(found$left, found$right, found$dots), c(52, 172, 11))
  expect_equal(found$y, 21)
  expect_equal(find_bar(dots(5))$dots, 5)
  expect_refused(find_bar(dots(4)), class = "bar")
  expect_refused(find_bar(dots(shift = 5L)), class = "bar")
  expect_refused(find_bar(dots(pitch = 5)), class = "bar")
  expect_equal(find_bar(dots(pitch = 6))$dots, 11)
})

test_that("two points stand for the bar unless one of about their length lies between", {
  field <- as_field(drawn_bar(60.5, 260.5))
  near <- calibration_from_bar(field, "100 um", ends = c(58, 22, 265, 22))
  expect_equal(near$pixel[["x"]], 0.5, tolerance = 1e-6)
  expect_match(near$found, "a scale bar of 100 um, 200.00 pixels")
  far <- calibration_from_bar(field, "100 um", ends = c(58, 22, 308, 22))
  expect_equal(far$pixel[["x"]], 0.4)
  expect_match(far$found, "two points given")
  expect_equal(far$uncertainty, 0.7 / 250)
  expect_equal(near$uncertainty, 0.24 / 200, tolerance = 1e-6)
  aslant <- calibration_from_bar(as_field(matrix(9, 60, 90)), "1 mm", ends = c(10, 10, 40, 50))
  expect_equal(aslant$pixel[["x"]], 1 / 50)
  for (wrong in list(c(1, 2, 1, 2), 1:3, c(1, 2, 3, NA))) {
    expect_refused(calibration_from_bar(field, "1 mm", ends = wrong), class = "argument")
  }
  expect_silent(calibration_from_bar(field, "1 mm", ends = c(10, 2, 10, 30)))
})

test_that("a bar drawn over the sample ends at half height over what lies beside it", {
  for (ink in c(255, 0)) {
    m <- matrix(120, 300, 400)
    rows <- 250:254
    cols <- seq_len(400)
    cover <- pmin(pmax(pmin(cols - 40.3, 160.8 - cols + 1), 0), 1)
    for (r in rows) m[r, ] <- 120 + (ink - 120) * cover
    scale <- calibration_from_bar(as_field(round(m)), "100 um")
    expect_lt(max(abs(scale$evidence$left - c(40.3, 251.5))), 0.1)
    expect_lt(max(abs(scale$evidence$right - c(160.8, 251.5))), 0.1)
    expect_match(scale$found, "over the sample")
    expect_equal(scale$uncertainty, 0.7 / 120.5, tolerance = 2e-3)
  }
})

# A bar of whole and broken pixels on a dark ground, with or without ticks, out of focus.
blurred_bar <- function(length, blur, noise, ticks = FALSE, seed = 1) {
  set.seed(seed)
  left <- 30 + stats::runif(1)
  x <- seq_len(320)
  cover <- function(from, to) pmax(0, pmin(x, to) - pmax(x - 1, from))
  m <- matrix(20, 60, 320)
  m[30:32, ] <- m[30:32, ] + rep(215 * cover(left, left + length), each = 3)
  if (ticks) {
    ends <- cover(left, left + 3) + cover(left + length - 3, left + length)
    m[24:38, ] <- pmax(m[24:38, ], rep(20 + 215 * ends, each = 15))
  }
  blurred <- filter_gaussian(as_field(m, 8), blur)$pixels + stats::rnorm(length(m), 0, noise)
  as_field(pmin(pmax(round(blurred), 0), 255), 8)
}

test_that("bars out of focus, plain and with ticks, are as long as they were drawn, within 2 u", {
  off <- function(ticks, blur, noise, seed) {
    length <- 60 + 37.7 * seed
    scale <- calibration_from_bar(
      blurred_bar(length, blur, noise, ticks, seed), "100 um", box = c(0, 0, 320, 60)
    )
    found <- scale$evidence$right[[1]] - scale$evidence$left[[1]]
    c(found - length, scale$uncertainty * length)
  }
  for (blur in c(0.5, 1, 1.5, 2.5, 4)) {
    plain <- vapply(1:5, function(k) off(FALSE, blur, 3, k), c(0, 0))
    expect_lt(max(abs(plain[1, ])), 0.35)
    expect_true(all(abs(plain[1, ]) < 2 * plain[2, ]))
  }
  # half the height of the bar lies 0.5 to 3 pixels beyond its ticks
  for (blur in c(1, 1.5, 2.5)) {
    ticked <- vapply(1:5, function(k) off(TRUE, blur, 0, k), c(0, 0))
    expect_lt(abs(mean(ticked[1, ])), 0.3)
    expect_gt(mean(abs(ticked[1, ]) < 2 * ticked[2, ]), 0.7)
  }
  # sharp ends need no fit; what reaches the frame has none
  expect_null(fit_bar(as.numeric(seq_len(200) %in% 40:150), c(39, 150)))
  expect_null(fit_bar(as.numeric(seq_len(200) > 40), c(40, 200)))
})

test_that("ends lie at half height, at the frame where the bar reaches it", {
  expect_equal(bar_ends(rep(c(1, 0), c(60, 40)), 1, 60)[1:2], list(left = 0, right = 60))
  expect_equal(bar_ends(rep(c(0, 1), c(40, 60)), 41, 100)[1:2], list(left = 40, right = 100))
  expect_equal(bar_ends(rep(1, 50), 1, 50)[1:2], list(left = 0, right = 50))
  edge <- c(rep(0, 20), 0.25, rep(1, 50), 0.75, rep(0, 20))
  ends <- bar_ends(edge, 21, 72)
  expect_equal(ends$left, 20.5 + 1 / 3)
  expect_equal(ends$right, 71.5 + 1 / 3)
})

test_that("a row of dots runs through their middles", {
  m <- matrix(20, 40, 300)
  for (x in 20 + 25 * 0:8) m[18:22, x:(x + 4)] <- 220
  m[19:21, 20 + 25 * 8 + 0:4] <- 220
  scale <- calibration_from_bar(as_field(m, 8), "200 um", box = c(0, 0, 300, 40))
  expect_match(scale$found, "a row of 9 dots")
  expect_equal(unname(scale$evidence$left), c(21.5, 19.5))
  expect_equal(unname(scale$evidence$right), c(221.5, 19.5))
  expect_equal(scale$pixel[["x"]], 1)
})
