turned <- function(field, side) {
  m <- field$pixels
  up <- rev(seq_len(nrow(m)))
  as_field(switch(side, bottom = m, top = m[up, ], right = t(m), left = t(m)[, up]))
}

test_that("the strip is found with its exact depth, on every side, dark or bright", {
  for (seed in 1:6) {
    field <- small_beads(width = 420, height = 260, strip = TRUE, seed = seed)
    for (side in c("bottom", "top", "left", "right")) {
      found <- decision(trim_strip(turned(field, side))$trail, "trim_strip")
      expect_equal(found, list(side = side, pixels = field$truth$strip_px))
    }
    inverted <- as_field(255 - field$pixels)
    expect_equal(decision(trim_strip(inverted)$trail, "trim_strip")$pixels, field$truth$strip_px)
  }
})

test_that("the strip is found with its exact depth through JPEG", {
  for (seed in 1:12) {
    width <- c(420, 500, 800)[seed %% 3 + 1]
    field <- small_beads(width = width, height = 260, strip = TRUE, seed = seed)
    path <- tempfile(fileext = ".jpg")
    jpeg::writeJPEG(
      (if (seed %% 2) field$pixels else 255 - field$pixels) / 255, path, quality = 0.85
    )
    expect_equal(
      decision(trim_strip(read_field(path))$trail, "trim_strip")$pixels, field$truth$strip_px
    )
  }
})

test_that("none is invented: noisy, dark-edged, graded, blank or tiny pictures", {
  for (seed in 1:8) expect_equal(
    decision(trim_strip(small_beads(seed = seed))$trail, "trim_strip")$pixels, 0
  )
  set.seed(71)
  section <- small_beads(phase = "dark", seed = 4)$pixels
  section[200:240, ] <- pmax(0, round(20 + stats::rnorm(41 * ncol(section), 0, 3)))  # dark lower edge of a polished section
  expect_equal(trim_strip(as_field(section))$pixels, section)
  graded <- matrix(rep(0:255, each = 200), 200)
  for (m in list(graded, t(graded), matrix(5, 50, 50), matrix(0:3, 2))) {
    expect_equal(trim_strip(as_field(m))$pixels, m + 0)
  }
})

test_that("what is cut is the strip and nothing else", {
  field <- small_beads(width = 420, height = 260, strip = TRUE, seed = 2)
  cut <- trim_strip(field)
  expect_equal(cut$pixels, field$pixels[1:260, ])
  expect_identical(cut$picture, cut$pixels)
  again <- trim_strip(cut)
  expect_equal(again$pixels, cut$pixels)
})

test_that("strips deeper than what is looked at first are found to their last line", {
  set.seed(72)
  for (deep in c(100, 126, 140, 300, 560)) {
    sample <- matrix(round(120 + stats::rnorm(700 * 240, 0, 12)), 700)
    strip <- matrix(30, deep, 240)
    strip[seq(20, deep - 20, 18), seq(20, 200, 6)] <- 250  # lettering all over
    found <- find_strip(rbind(sample, strip), 255)
    expect_equal(found, list(side = "bottom", pixels = deep))
    expect_equal(find_strip(t(rbind(strip, sample)), 255), list(side = "left", pixels = deep))
  }
})

test_that("pictures without noise have a strip only where one is drawn", {
  y <- row(matrix(0, 240, 320))
  x <- col(y)
  plain <- 60 + 120 * (((x %% 40) - 20)^2 + ((y %% 36) - 18)^2 < 60)
  blank <- plain * 0 + 60
  lettered <- blank[1:30, ] * 0
  lettered[10:20, seq(20, 200, 9)] <- 255
  for (sample in list(plain, blank)) {
    expect_equal(find_strip(sample, 255)$pixels, 0)
    for (turn in c("bottom", "top", "right", "left")) {
      picture <- switch(turn,
        bottom = rbind(sample, lettered),
        top = rbind(lettered, sample),
        right = cbind(t(sample), t(lettered)),
        left = cbind(t(lettered), t(sample))
      )
      expect_equal(find_strip(picture, 255), list(side = turn, pixels = 30))
    }
  }
})

test_that("boxes of strips are their side of the picture", {
  box <- function(side) {
    unlist(strip_box(list(side = side, pixels = 30), 400, 300)[c("left", "top", "right", "bottom")])
  }
  expect_equal(unname(box("bottom")), c(0, 270, 400, 300))
  expect_equal(unname(box("top")), c(0, 0, 400, 30))
  expect_equal(unname(box("left")), c(0, 0, 30, 300))
  expect_equal(unname(box("right")), c(370, 0, 400, 300))
  expect_equal(nrow(strip_box(list(side = "none", pixels = 0), 400, 300)), 0)
})

test_that("strips are found on every side, to the line, and kept from 12 lines on", {
  set.seed(51)
  sample <- matrix(round(stats::rnorm(200 * 240, 120, 15)), 200)
  strip <- strip_pixels(240, 0.5)
  put <- list(
    bottom = rbind(sample, strip), top = rbind(strip[18:1, ], sample),
    right = cbind(t(sample), t(strip)), left = cbind(t(strip)[, 18:1], t(sample))
  )
  for (side in names(put)) {
    expect_equal(find_strip(put[[side]], 255), list(side = side, pixels = 18))
    trimmed <- trim_strip(as_field(put[[side]]))
    expect_equal(trimmed$pixels, if (side %in% c("top", "bottom")) sample else t(sample))
  }
  thin_strip <- function(lines) {
    m <- matrix(12, lines, 240)
    m[4:6, 20:60] <- 235
    rbind(sample, m)
  }
  expect_equal(find_strip(thin_strip(11), 255)$pixels, 0)
  expect_equal(find_strip(thin_strip(12), 255)$pixels, 12)
  expect_equal(find_strip(matrix(12, 60, 60), 255)$pixels, 0)
  expect_equal(find_strip(sample, 255)$side, "none")
  # a flat band without lettering is no strip
  expect_equal(find_strip(rbind(sample, matrix(12, 30, 240)), 255)$pixels, 0)
})

# A noisy sample over a strip of `lines` lines at level 12 with lettering; `border`: levels of lines
# between both.
over_strip <- function(lines = 18, border = numeric(), width = 240, letters = 235) {
  set.seed(52)
  sample <- matrix(round(stats::rnorm(100 * width, 120, 15)), 100)
  strip <- matrix(12, lines, width)
  strip[4:6, seq(8, width - 4, 4)] <- letters
  rbind(sample, matrix(rep(border, each = width), length(border), width, byrow = TRUE), strip)
}

test_that("strips are the same at any depth of levels", {
  for (picture in list(
    over_strip(), over_strip(border = 200), over_strip(border = c(60, 60)),
    over_strip(letters = 100), over_strip(letters = 90)
  )) {
    expect_equal(find_strip(picture * 257, 65535), find_strip(picture, 255))
  }
  expect_equal(find_strip(over_strip() * 257, 65535)$pixels, 18)
})

test_that("lettering is 80 levels from its ground, and there must be some", {
  expect_equal(find_strip(over_strip(letters = 93), 255)$pixels, 18)
  expect_equal(find_strip(over_strip(letters = 92), 255)$pixels, 0)
})

test_that("even lines between strip and sample go with the strip, at most four that are blurred", {
  depth <- function(border) find_strip(over_strip(border = border), 255)$pixels
  expect_equal(depth(60), 19)
  expect_equal(depth(c(60, 60)), 20)
  expect_equal(depth(rep(60, 4)), 22)
  # a line drawn between them, unlike both
  expect_equal(depth(250), 19)
  # one at the level of the sample is the sample's
  expect_equal(depth(120), 18)
  expect_equal(depth(109), 18)
})

test_that("a strip needs a picture of 16 lines and columns", {
  expect_equal(find_strip(over_strip(width = 16), 255)$pixels, 18)
  expect_equal(find_strip(over_strip(width = 15), 255)$pixels, 0)
})

test_that("the limits of what belongs to a strip are where they are said to be", {
  set.seed(53)
  sample <- matrix(round(stats::rnorm(100 * 240, 120, 15)), 100)
  below <- function(strip) find_strip(rbind(sample, strip), 255)$pixels
  strip <- matrix(12, 18, 240)
  strip[4:6, seq(8, 236, 4)] <- 235
  # two fifths of each line within 12 levels of the background
  uneven <- function(off, columns = 96) {
    m <- strip
    m[10, -seq_len(columns)] <- 12 + off
    m
  }
  expect_equal(below(uneven(12)), 18)
  expect_equal(below(uneven(200)), 18)
  expect_lt(below(uneven(13, 95)), 18)
  # lettering: a ten-thousandth of the strip
  wide <- matrix(round(stats::rnorm(60 * 1900, 120, 15)), 60)
  dots <- function(n) {
    m <- matrix(12, 20, 1900)
    m[5, 10 * seq_len(n)] <- 235
    find_strip(rbind(wide, m), 255)$pixels
  }
  expect_equal(dots(4), 20)
  expect_equal(dots(3), 0)
})

test_that("drawn lines and long bars within a strip do not end it", {
  set.seed(54)
  sample <- matrix(round(stats::rnorm(100 * 240, 120, 15)), 100)
  strip <- matrix(12, 30, 240)
  strip[24:26, seq(8, 236, 4)] <- 235
  below <- function(...) {
    m <- strip
    for (change in list(...)) m[change$line, change$columns] <- change$grey
    find_strip(rbind(sample, m), 255)$pixels
  }
  across <- seq_len(240)
  # a line drawn through in another grey: 30 levels from what comes further in
  expect_equal(below(list(line = 9, columns = across, grey = 43)), 30)
  expect_lt(below(list(line = 9, columns = across, grey = 42)), 30)
  # a bar with its ground: 15 % of the line, and both of them 85 %
  expect_equal(below(list(line = 9, columns = 1:204, grey = 235)), 30)
  expect_lt(below(list(line = 9, columns = 1:205, grey = 235)), 30)
  scattered <- list(line = 9, columns = 150:186, grey = rep(c(130, 180, 60, 200), length.out = 37))
  bar <- list(line = 9, columns = 1:149, grey = 235)
  expect_lt(below(bar, scattered), 30)
})
