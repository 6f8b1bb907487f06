test_that("a layer of a mask has its outermost pixels as edges, to a fraction of a pixel", {
  wave <- function(at) function(x) at + 4 * sin(x / 30)
  field <- as_field(layer_picture(wave(40), wave(81.3), greys = c(60, 160, 60)))
  layer <- layer_of_mask(segment_level(field, low = 110))
  x <- seq_len(300) - 0.5
  expect_equal(layer$first$x, x)
  expect_lt(max(abs(layer$first$y - wave(40)(x))), 0.06)
  expect_lt(max(abs(layer$second$y - wave(81.3)(x))), 0.06)
  upright <- layer_of_mask(segment_level(as_field(t(field$pixels)), low = 110), upright = TRUE)
  expect_equal(upright$first$x, layer$first$y)
  expect_equal(upright$first$y, x)
  expect_match(format(layer), "first edge: 300 corners; second edge: 300 corners")
})

test_that("specks are no layer, columns without it are gaps, the frame is an edge", {
  m <- flat_layer(40, greys = c(60, 160, 60))$pixels
  m[5:8, 20:30] <- 160
  m[, 100:110] <- 60
  m[41:80, 100:110][1, ] <- 160
  layer <- layer_of_mask(segment_level(as_field(m), low = 110))
  expect_gt(min(layer$first$y), 35)
  parted <- m
  parted[, 100:110] <- 60
  layer <- layer_of_mask(segment_level(as_field(parted), low = 110))
  expect_equal(layer$first$x, setdiff(seq_len(300), 100:110) - 0.5)
  expect_equal(which(layer$first$gap), 99)
  down <- as_field(layer_picture(function(x) 90, function(x) 500, greys = c(60, 160, 60)))
  expect_equal(unique(layer_of_mask(segment_level(down, low = 110))$second$y), 120)
  empty <- suppressWarnings(segment_level(down, low = 250))
  expect_refused(layer_of_mask(empty), "empty", class = "empty")
})

test_that("one missing column is a gap, the largest part counts, and edits move no edge", {
  m <- flat_layer(40, greys = c(60, 160, 60))$pixels
  m[100:103, 250:255] <- 160  # a speck that is numbered after the layer
  m[, 100] <- 60
  cracked <- m
  cracked[, c(100, 200:204)] <- 60
  layer <- layer_of_mask(segment_level(as_field(cracked), low = 110))
  expect_equal(layer$first$x, setdiff(seq_len(300), c(100, 200:204)) - 0.5)
  expect_equal(which(layer$first$gap), c(99, 198))
  lines <- layer_thickness(layer, "direction", 2, direction = 90)
  expect_equal(
    lines$reason == "edge not seen",
    (lines$from_x_px > 98.5 & lines$from_x_px < 100.5) |
      (lines$from_x_px > 198.5 & lines$from_x_px < 204.5)
  )
  # a second layer above or below is not part of it, nor is what is far smaller
  two <- m
  two[1:6, ] <- 160
  two[, 280:300] <- 60
  two[90:93, 285:295] <- 160
  layer <- layer_of_mask(segment_level(as_field(two), low = 110))
  expect_equal(range(layer$first$x), c(0.5, 278.5))
  expect_equal(unique(round(layer$first$y[5:90])), 40)
  wide <- layer_of_mask(mask_dilate(segment_level(as_field(m), low = 110), 3))
  expect_equal(unique(wide$first$y[5:90]), 37)
  expect_equal(unique(wide$second$y[5:90]), 83)
  expect_refused(
    layer_of_mask(segment_level(as_field(replace(matrix(60, 40, 60), 5:20, 160)), low = 110)),
    "spans only 1 column", class = "edge"
  )
  short <- edge_line(c(0, 40), c(20, 20))
  expect_silent(layer_between(as_field(matrix(0, 20, 40)), short, edge_line(c(0, 40), c(5, 5))))
})

test_that("the first and the last row of each column are those of the mask, in any shape of it", {
  inside <- matrix(FALSE, 3, 7)
  inside[1, 2] <- inside[2:3, 5] <- TRUE
  ends <- outermost(inside)
  expect_equal(ends$first, c(NA, 1, NA, NA, 2, NA, NA))
  expect_equal(ends$last, c(NA, 1, NA, NA, 3, NA, NA))
  m <- flat_layer(40, greys = c(60, 160, 60))$pixels
  layer <- layer_of_mask(segment_level(as_field(m), low = 110))
  expect_equal(layer$first$u, rep(0, 300))
})
