test_that("the same seed draws the same picture and leaves the session's stream alone", {
  a <- small_beads(seed = 5)
  set.seed(1)
  one <- stats::runif(1)
  set.seed(1)
  b <- small_beads(seed = 5)
  expect_equal(stats::runif(1), one)
  expect_identical(a$pixels, b$pixels)
  expect_false(identical(a$pixels, small_beads(seed = 6)$pixels))
})

test_that("what is drawn is what the truth says", {
  for (shape in c("disc", "ellipse", "blob")) {
    field <- small_beads(shape = shape, noise = 0, uneven = 0, blur = 0, touching = 0, seed = 9)
    truth <- field$truth$objects
    drawn <- (field$pixels - 73) / 110  # cover, up to rounding of levels
    expect_equal(mean(drawn), field$truth$area_fraction, tolerance = 0.01)
    inside <- truth$whole
    found <- field |>
      segment_level(low = 128) |>
      find_objects() |>
      measure_objects() |>
      accept_objects()
    expect_equal(sum(found$accepted), sum(inside))
    expect_equal(sort(found$ecd_um[found$accepted]), sort(truth$ecd_um[inside]), tolerance = 0.01)
    expect_equal(truth$area_um2, pi / 4 * truth$ecd_um^2)
  }
})

test_that("cover, depth, phase, strip and touching do what they say", {
  half <- small_beads(count = NULL, cover = 0.3, seed = 2)
  expect_gte(half$truth$area_fraction, 0.3)
  expect_lt(half$truth$area_fraction, 0.35)
  deep <- small_beads(depth = 16)
  expect_gt(max(deep$pixels), 255)
  expect_equal(deep$depth, 16)
  dark <- small_beads(phase = "dark", uneven = 0)
  expect_lt(stats::median(dark$pixels[small_beads(uneven = 0)$pixels > 150]), 100)
  strip <- small_beads(strip = TRUE)
  expect_equal(nrow(strip$pixels), 240 + strip$truth$strip_px)
  joined <- small_beads(touching = 0.8, count = 20, seed = 3)
  parts <- find_objects(segment_auto(joined, phase = "bright"))$count
  expect_lt(parts, sum(joined$truth$objects$visible))
})

test_that("the scale bar of the strip is as long as it says", {
  field <- simulate_field(
    width = 1000, height = 200, count = 5, pixel = "0.6 um", strip = TRUE, seed = 1
  )
  strip <- field$pixels[-(1:200), ]
  longest <- max(apply(
    strip[-(1:3), ] > 200, 1, function(row) max(0, rle(row)$lengths[rle(row)$values])
  ))
  expect_equal(longest, round(bar_length(1000, 0.6) / 0.6))
})

test_that("what cannot be drawn is refused", {
  expect_refused(small_beads(count = 5000), "do not fit", class = "simulation")
  expect_refused(small_beads(cover = 0.3), "count", class = "argument")
  expect_refused(small_beads(shape = "cube"), class = "argument")
  expect_refused(small_beads(depth = 12), class = "argument")
  expect_refused(small_beads(diameter = "20 parsec"), class = "quantity")
})

test_that("rims and grain change the grey, and nothing of what is drawn", {
  draw <- function(...) {
    simulate_field(
      width = 160, height = 120, count = 6, diameter = "20 um", noise = 0, uneven = 0, seed = 3, ...
    )
  }
  plain <- draw()
  expect_identical(draw(rim = 0, texture = 0)$pixels, plain$pixels)
  rimmed <- draw(rim = 40)
  expect_identical(rimmed$truth, plain$truth)
  more <- rimmed$pixels - plain$pixels
  objects <- plain$truth$objects
  from <- function(k) {
    sqrt((col(more) - 0.5 - objects$x_px[k])^2 + (row(more) - 0.5 - objects$y_px[k])^2)
  }
  k <- which(objects$whole)[1]
  radius <- objects$ecd_um[k] / 0.6 / 2
  # brightest just inside the edge, by most of the rim; the middle and the ground as they were
  expect_gt(mean(more[abs(from(k) - radius + 1.5) < 0.5]), 20)
  expect_lt(max(abs(more[from(k) < radius - 10])), 1)
  expect_gte(min(more), 0)
  grained <- draw(texture = 10, blur = 0)$pixels - draw(blur = 0)$pixels
  expect_equal(stats::sd(grained), 10, tolerance = 0.1)
  expect_gt(stats::cor(as.vector(grained[, -1]), as.vector(grained[, -160])), 0.8)
  # what is not said
  expect_identical(
    simulate_field(width = 60, height = 50, count = 1, seed = 4)$pixels,
    simulate_field(
      width = 60, height = 50, count = 1, diameter = "24 um", spread = 1.2, pixel = "0.6 um",
      contrast = 110, blur = 0.8, uneven = 0.05, noise = 5, rim = 0, texture = 0, depth = 8,
      seed = 4
    )$pixels
  )
  expect_refused(draw(rim = -1), class = "argument")
  expect_refused(draw(texture = 256), class = "argument")
})
