test_that("the response runs the same steps at other levels", {
  field <- small_beads(noise = 3)
  done <- field |>
    filter_median(1) |>
    segment_auto() |>
    mask_fill() |>
    mask_open(1.5) |>
    find_objects() |>
    measure_objects() |>
    accept_objects(edge = "drop")
  r <- level_response(done)
  level <- decision(attr(done, "trail"), "segment_auto")$level
  at <- r$table[r$table$level == level, ]
  expect_equal(at$objects, sum(done$accepted))
  expect_equal(at$median_ecd, stats::median(done$ecd_um[done$accepted]))
  expect_equal(at$area_fraction, area_fraction(done))
  expect_true(all(diff(r$table$area_fraction) <= 0))
  expect_lt(r$slope$area_fraction, 0)
  expect_lt(r$slope$median_ecd, 0)
  expect_true(r$plateau[1] < level && r$plateau[2] > level)
  expect_equal(r$uncertainty$area_fraction, abs(r$slope$area_fraction) * r$error)
  # what was excluded by hand belongs to the objects of one level, and does not stop the others
  by_hand <- level_response(exclude_objects(done, done$id[1], "dust"), levels = c(110, 120, 140))
  expect_equal(by_hand$table$objects[by_hand$table$level == level], at$objects)
})

test_that("the slope is that of blurred discs, and the error grows with uneven light", {
  # a disc's radius moves by 1 / (grey slope at its edge) per level; here the edge is a known ramp
  at <- seq_len(121) - 61
  ramp <- as_field(pmin(pmax(128 - 20 * (sqrt(outer(at^2, at^2, `+`)) - 40), 20), 236), 8)
  r <- level_response(segment_level(ramp, low = 128.5), levels = seq(110, 146, 4) + 0.5)
  expect_equal(r$slope$median_ecd, -(2 / 20) / 80, tolerance = 0.05)
  errors <- vapply(
    c(0, 0.3, 0.8),
    function(u) level_response(segment_auto(small_beads(uneven = u, noise = 2)))$error, 0
  )
  expect_true(all(diff(errors) > 0))
  expect_refused(level_response(segment_level(ramp, 50, 90)), "one threshold", class = "level")
  expect_refused(level_response(segment_auto(ramp), levels = 3), class = "argument")
})

test_that("a response is printed with its threshold, plateau and parts", {
  made <- structure(
    list(
      level = 120.5, error = 1.2345, plateau = c(100.5, 140.54321),
      uncertainty = list(area_fraction = 0.01234, objects = 0.02345, median_ecd = 0.03456)
    ),
    class = c("bm_response", "bemrick")
  )
  expect_equal(format(made), c(
    "<response> threshold 120.5 ± 1.2 (standard uncertainty), count steady from 100.5 to 140.54",
    paste(
      "  part of the threshold in the uncertainty: area fraction 1.2 points, count 2.3 %,",
      "median size 3.5 %"
    )
  ))
})

test_that("levels run a quarter of the contrast to either side, evenly, through the one that was taken", {
  field <- small_beads(noise = 0)
  mask <- segment_level(field, low = 120.5)
  levels <- level_response(mask)$table$level
  phases <- c(mean(field$pixels[field$pixels <= 120.5]), mean(field$pixels[field$pixels > 120.5]))
  expect_equal(levels, 120.5 + diff(phases) * seq(-0.25, 0.25, by = 0.025))
})

test_that("slopes are of the seven levels nearest, relative to the values at the threshold", {
  level <- seq(80, 100, 2)
  near <- abs(level - 92) <= 6
  bend <- function(slope, at) ifelse(near, at + slope * (level - 92), 1e6)  # the rest must not count
  table <- data.frame(
    level = level, area_fraction = bend(-0.01, 0.4), objects = bend(-3, 120),
    median_ecd = bend(-0.2, 16)
  )
  expect_equal(
    response_slopes(table, 92.3),
    list(area_fraction = -0.01, objects = -3 / 120, median_ecd = -0.2 / 16)
  )
  table$objects <- bend(0.5, 0)
  expect_equal(response_slopes(table, 92)$objects, 0.5)  # no object there: absolute
  table$median_ecd[6] <- NA
  expect_equal(response_slopes(table, 92)$median_ecd, NA_real_)
  expect_equal(response_slopes(table[1:3, ], 82)$area_fraction, 0)
})

test_that("the count is steady where it stays within two percent, without a break", {
  table <- function(objects) data.frame(level = 10 * seq_along(objects), objects = objects)
  expect_equal(response_plateau(table(c(100, 97, 98, 100, 102, 103, 100)), 41), c(30, 50))
  expect_equal(response_plateau(table(c(99, 100, 101)), 20), c(10, 30))
  expect_equal(response_plateau(table(c(50, 100, 50)), 20), c(20, 20))
  expect_equal(response_plateau(table(c(100, 100, 50)), 10), c(10, 20))
  expect_equal(response_plateau(table(c(50, 100, 100)), 30), c(20, 30))
})
