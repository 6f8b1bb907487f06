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
  expect_equal(range(layer$first$x), c(110.5, 299.5))
  down <- as_field(layer_picture(function(x) 90, function(x) 500, greys = c(60, 160, 60)))
  expect_equal(unique(layer_of_mask(segment_level(down, low = 110))$second$y), 120)
  expect_error(
    layer_of_mask(mask_keep(segment_level(down, low = 110), 1:2) |> (\(m) m)()), class = "error"
  )
  empty <- suppressWarnings(segment_level(down, low = 250))
  expect_error(layer_of_mask(empty), "empty", class = "bemrick_error_empty")
})

test_that("one missing column is a gap, the largest part counts, and edits move no edge", {
  m <- flat_layer(40, greys = c(60, 160, 60))$pixels
  m[100:103, 250:255] <- 160  # a speck that is numbered after the layer
  m[, 100] <- 60
  m[60, 100] <- 160
  cut <- m
  cut[, 200] <- 60
  layer <- layer_of_mask(segment_level(as_field(cut), low = 110))
  expect_equal(range(layer$first$x), c(0.5, 198.5))
  expect_equal(sum(layer$first$gap), 0)
  holed <- m
  holed[41:80, 100] <- 60
  holed[81:90, 99:101] <- 160
  mask <- segment_level(as_field(holed), low = 110)
  mask$pixels[, 100] <- FALSE
  mask$pixels[81:90, 99] <- mask$pixels[81:90, 101] <- TRUE
  mask$pixels[10:12, 100] <- FALSE
  joined <- mask
  joined$pixels[85, 100] <- TRUE
  expect_equal(sum(layer_of_mask(joined)$first$gap), 0)
  wide <- layer_of_mask(mask_dilate(segment_level(as_field(m), low = 110), 3))
  expect_equal(unique(wide$first$y[5:90]), 37)
  expect_equal(unique(wide$second$y[5:90]), 83)
  expect_error(
    layer_of_mask(segment_level(as_field(replace(matrix(60, 40, 60), 5:20, 160)), low = 110)),
    "spans only 1 column", class = "bemrick_error_edge"
  )
  short <- edge_line(c(0, 40), c(20, 20))
  expect_silent(layer_between(as_field(matrix(0, 20, 40)), short, edge_line(c(0, 40), c(5, 5))))
})
