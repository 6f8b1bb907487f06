test_that("the edges of a layer are traced where they are", {
  wave <- function(at) function(x) at + 3 * sin(x / 25)
  field <- as_field(layer_picture(wave(40), wave(80)))
  layer <- trace_layer(field, level_path(), 50, both_ways, smooth = 0)
  expect_equal(layer$first$y, wave(40)(layer$first$x), tolerance = 0.05 / 40)
  expect_equal(layer$second$y, wave(80)(layer$second$x), tolerance = 0.05 / 80)
  expect_lt(mean(layer$first$y - wave(40)(layer$first$x)), 0.02)
  noisy <- trace_layer(
    as_field(pmax(with_noise(layer_picture(wave(40), wave(80)), 15), 0)), level_path(), 50, both_ways
  )
  off <- noisy$second$y - wave(80)(noisy$second$x)
  expect_lt(stats::sd(off), 0.25)
  expect_lt(abs(mean(off)), 0.1)
  expect_gt(mean(abs(off) < 2 * noisy$second$u), 0.8)
  # the other way round
  back <- trace_layer(field, path_line(300, 60, 0, 60), 50, both_ways, smooth = 0)
  expect_equal(mean(back$first$y), mean(layer$second$y), tolerance = 1e-3)
})

test_that("layers aslant, upright, thin and of one polarity are traced", {
  a <- 25 * pi / 180
  turned <- function(d0) function(x) 150 + (x - 150) * tan(a) + d0 / cos(a)
  m <- layer_picture(turned(-15), turned(15), 300, 300)
  # blur across a slanted edge is less by the cosine here, the same on both sides
  layer <- trace_layer(
    as_field(m), path_line(20, 150 - 130 * tan(a), 280, 150 + 130 * tan(a)), 40, both_ways
  )
  expect_equal(mean(summary(layer_thickness(layer))$value[4]), 30, tolerance = 0.02 / 30)
  upright <- as_field(t(flat_layer(40)$pixels))
  layer <- trace_layer(upright, path_line(60, 300, 60, 0), 50, c("rising", "falling"))
  expect_equal(layer$first$x, rep(40, length(layer$first$x)), tolerance = 1e-3)
  for (thickness in c(6, 10)) {
    thin <- flat_layer(thickness, 5)
    values <- summary(layer_thickness(trace_layer(thin, level_path(), 40, both_ways)))$value
    expect_equal(values[4], thickness, tolerance = 0.1 / thickness)
  }
  stairs <- as_field(layer_picture(
    function(x) 40, function(x) 75, greys = c(60, 110, 160)
  ))
  layer <- trace_layer(stairs, level_path(), 50, c("rising", "rising"))
  expect_equal(c(mean(layer$first$y), mean(layer$second$y)), c(40, 75), tolerance = 1e-3)
  stronger <- as_field(layer_picture(function(x) 40, function(x) 75, greys = c(60, 90, 190)))
  layer <- trace_layer(stronger, level_path(), 50, c("rising", "rising"))
  expect_equal(c(mean(layer$first$y), mean(layer$second$y)), c(40, 75), tolerance = 1e-3)
})

test_that("a closed coat is traced all round, wherever its centre is taken to be", {
  coat <- function(x, y) {
    r <- sqrt((x - 100)^2 + (y - 100)^2)
    15 - abs(r - 65)
  }
  m <- edge_picture(coat, 200, 200, blur = 0.9, fine = 3)
  field <- as_field(pmax(with_noise(m, 6), 0))
  for (centre in list(c(100, 100), c(108, 95))) {
    layer <- trace_layer(field, path_circle(centre[1], centre[2], 65), 40, both_ways)
    expect_true(layer$first$closed)
    expect_false(any(layer$first$gap))
    r <- sqrt((layer$first$x - 100)^2 + (layer$first$y - 100)^2)
    expect_equal(r, rep(50, length(r)), tolerance = 0.3 / 50)
    expect_lt(abs(mean(r) - 50), 0.06)
    values <- summary(layer_thickness(layer))$value
    expect_equal(values[4], 30, tolerance = 0.06 / 30)
  }
})

test_that("stretches without an edge are gaps, and their lines are not accepted", {
  m <- layer_picture(function(x) 40, function(x) 80)
  m[, 121:180] <- 110
  field <- as_field(with_noise(m, 2))
  layer <- trace_layer(field, level_path(), 50, both_ways)
  expect_gt(sum(layer$first$gap), 0)
  lines <- layer_thickness(layer, step = 3)
  unseen <- lines$from_x_px > 128 & lines$from_x_px < 172
  expect_true(all(lines$reason[unseen] == "edge not seen"))
  expect_true(all(lines$accepted[lines$from_x_px < 110 & lines$from_x_px > 10]))
  expect_equal(mean(lines$thickness_px[lines$accepted]), 40, tolerance = 2e-3)
  hidden <- keep_within(as_field(layer_picture(function(x) 40, function(x) 80)), region_box(0, 0, 150, 120))
  part <- trace_layer(hidden, level_path(), 50, both_ways)
  expect_lt(max(part$first$x), 153)
})

test_that("what cannot be traced is said", {
  field <- flat_layer()
  trace <- function(...) trace_layer(field, ...)
  expect_refused(trace(level_path(), 50, c("falling", "rising")), class = "not_found")
  expect_refused(
    trace_edge(as_field(with_noise(matrix(100, 120, 300), 2)), level_path(), 50, "rising", contrast = 20),
    "No rising edge", class = "not_found"
  )
  expect_error(trace(level_path(), 50, both_ways, contrast = 200), "lower `contrast`")
  expect_refused(trace(path_line(20, 60, 21, 60), 50, both_ways), "too short", class = "not_found")
  expect_refused(trace(level_path(), 2, both_ways), "at least 5", class = "argument")
  expect_refused(trace(level_path(), 9999, both_ways), "whole picture", class = "argument")
  expect_refused(trace(path_circle(60, 60, 20), 30, both_ways), "radius", class = "argument")
  expect_refused(trace(path_arc(60, 60, 20, 0, 90), 10, both_ways), class = "path")
  expect_refused(trace(path_repeat(level_path(), 5, 2), 50, both_ways), class = "path")
  expect_refused(trace(level_path(), 50, "rising"), "two of", class = "argument")
  expect_refused(trace(level_path(), 50, c("rising", "down")), class = "argument")
  expect_error(trace(level_path(), 50, both_ways, smooth = -1), "smooth")
})

test_that("smoothing keeps parabolas, ends and gaps as they are, and places all round", {
  along <- seq(0, 200, by = 5)
  bent <- data.frame(
    along = along, x = along, y = 40 + 0.1 * along - 0.002 * along^2, u = runif(length(along), 0.05, 0.2)
  )
  runs <- rep(0, nrow(bent))
  at <- smoothed_points(bent, 12, runs, FALSE)
  expect_equal(at$x, bent$x)
  expect_equal(at$y, bent$y)
  expect_true(all(at$u < bent$u * 2))
  jump <- bent
  jump$y[along > 100] <- jump$y[along > 100] + 30
  expect_equal(smoothed_points(jump, 12, cumsum(along == 105), FALSE)$y, jump$y)
  # two points left of a stretch carry a straight line, one its own value
  few <- bent[1:6, ]
  expect_equal(smoothed_points(few, 12, c(0, 0, 1, 2, 2, 2), FALSE)$y, few$y)
  expect_identical(smoothed_points(bent, 0, runs, FALSE)$y, bent$y)
  set.seed(2)
  noisy <- bent
  noisy$u <- 0.1
  smooth <- replicate(200, {
    noisy$y <- bent$y + rnorm(nrow(bent), 0, 0.1)
    smoothed_points(noisy, 12, runs, FALSE)$y[c(1, 20)]
  })
  said <- smoothed_points(noisy, 12, runs, FALSE)$u[c(1, 20)]
  alike <- sqrt(1 + 2 * (2 / 3 + 1 / 3))  # fits over 15 pixels every 5 share them; here they do not
  expect_equal(apply(smooth, 1, stats::sd), said / alike, tolerance = 0.15)

  a <- 2 * pi * (0:71) / 72
  ring <- data.frame(along = 50 * a, x = 60 + 50 * cos(a), y = 60 + 50 * sin(a), u = 0.1)
  round <- smoothed_points(ring, 6, rep(0, 72), TRUE)
  expect_lt(max(abs(round$x - ring$x), abs(round$y - ring$y)), 0.02)
})

test_that("what was seen of each edge stands in the trail, in the order of the edges", {
  m <- layer_picture(function(x) 40, function(x) 80)
  m[60:120, 201:300] <- 160
  layer <- trace_layer(as_field(with_noise(m, 1)), level_path(), 50, both_ways)
  seen <- layer$trail[[length(layer$trail)]]$decided$seen
  expect_equal(seen[1], 1)
  expect_equal(seen[2], 2 / 3, tolerance = 0.05)
  expect_equal(layer$second$x[1:5], seq(2.5, 22.5, by = 5))
})
