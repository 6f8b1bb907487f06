# Discs of 20 pixels in light that falls by a share from left to right.
lit <- function(fall, kind, ground = 180, discs = 60, noise = 3, size = 400) {
  set.seed(81)
  pixels <- matrix(ground, size, size)
  at <- seq_len(size) - 0.5
  for (x in seq(20, size - 20, 36)) for (y in seq(20, size - 20, 36)) {
    pixels[outer((at - y)^2, (at - x)^2, "+") < 100] <- discs
  }
  light <- matrix(1 - fall * at / size, size, size, byrow = TRUE)
  pixels <- if (kind == "multiplied") pixels * light else pixels - 120 * (1 - light)
  as_field(round(pixels + stats::rnorm(size^2, 0, noise)), 8)
}

test_that("light that was added is distinguished from light that multiplies, on bright and dark grounds", {
  for (kind in c("added", "multiplied")) for (ground in c(180, 70)) for (noise in c(2, 12)) {
    field <- lit(0.3, kind, ground, 250 - ground, noise)
    tiles <- light_tiles(field$pixels, 256)
    expect_equal(nrow(tiles), 64)
    expect_equal(light_kind(tiles), kind)
    facts <- field_facts(field)
    expect_equal(facts$light, kind)
    expect_match(format(facts)[7], paste0(kind, "$"))
    # both phases count: by a factor the brighter one changes more, whichever is the ground
    most <- if (kind == "multiplied") 0.3 * 180 * 7 / 8 else 0.3 * 120 * 7 / 8
    expect_equal(both_uneven(tiles), most, tolerance = 0.15)
    expect_equal(facts$uneven * facts$contrast, most, tolerance = 0.2)
  }
  expect_equal(light_kind(light_tiles(lit(0, "added")$pixels, 256)), "even")
})

test_that("what is advised for uneven light leaves sizes without a trend", {
  for (kind in c("added", "multiplied")) {
    field <- lit(0.3, kind)
    correct <- sub(".*correct: ([a-z]+)}.*", "\\1", grep("correct: ", field_facts(field)$advice, value = TRUE))
    trend <- function(field) {
      measures <- measure_objects(find_objects(segment_auto(filter_gaussian(field, 1), "otsu", "dark")), "subpixel")
      summary(stats::lm(ecd_px ~ x_px, measures))
    }
    expect_gt(trend(field)$r.squared, 0.5)
    expect_lt(trend(filter_flatten(field, correct = correct))$r.squared, 0.05)
    other <- setdiff(c("subtract", "divide"), correct)
    expect_gt(trend(filter_flatten(field, correct = other))$r.squared, 0.3)
  }
})

test_that("few tiles, one phase or a mix of both say nothing of the light", {
  expect_equal(light_kind(matrix(0, 0, 3)), "unknown")
  expect_true(is.na(both_uneven(matrix(1, 8, 3))))
  expect_equal(nrow(light_tiles(matrix(7, 50, 50), 256)), 0)
  expect_equal(nrow(light_tiles(matrix(1:4, 2), 256)), 0)
  set.seed(82)
  ground <- seq(100, 180, length.out = 20)
  tiles <- function(slope, spread) cbind(ground - 80 - slope * (ground - 140) + stats::rnorm(20, 0, spread), ground, 0.8)
  expect_equal(light_kind(tiles(0.57, 0.1)), "multiplied")  # the contrast goes as the ground does
  expect_equal(light_kind(tiles(0, 0.1)), "added")
  expect_equal(light_kind(tiles(0.286, 5)), "unknown")
  expect_equal(light_kind(tiles(0.57, 60)), "unknown")
  # of large pictures every few pixels
  large <- kronecker(lit(0.3, "multiplied")$pixels, matrix(1, 4, 4))
  expect_equal(light_kind(light_tiles(large, 256)), "multiplied")
})

test_that("a tile counts with fifty pixels of each phase", {
  tiles <- function(bright) {
    m <- matrix(10, 80, 80)
    for (i in 0:7) for (j in 0:7) m[i * 10 + 1:10, j * 10 + 1:10][seq_len(bright)] <- 200
    nrow(light_tiles(m, 256))
  }
  expect_equal(tiles(50), 64)
  expect_equal(tiles(49), 0)
  expect_equal(tiles(51), 0)
})

test_that("light is even while the ground changes by less than a twentieth of the contrast", {
  ground <- function(change) {
    g <- 60 + seq(0, change, length.out = 12)
    cbind(g, g + 100, 0.2)
  }
  expect_equal(light_kind(ground(4.9)), "even")
  expect_equal(light_kind(ground(5.1)), "added")
})
