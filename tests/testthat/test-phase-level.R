# Of the area fraction, by the level and, with measured objects, by blur.
error_of <- function(mask, measured = NULL) {
  errors <- if (is.null(measured)) {
    edge_errors(mask)
  } else {
    edge_errors(mask, nrow(measured), sum(measured$holes), sum(measured$perimeter_px))
  }
  area_fraction_error(errors, sample_size(mask$field))
}

test_that("a field's area fraction has the error that its level gives it", {
  mask <- segment_auto(filter_gaussian(small_beads(uneven = 0.4), 1))
  response <- level_response(mask)
  expect_equal(
    error_of(mask), abs(response$slope$area_fraction) * response$error, tolerance = 0.3
  )
  expect_equal(error_of(suppressWarnings(segment_local(small_beads(), 20))), 0)
})

test_that("the error of a level is how far it lies from halfway, over tiles of both phases", {
  m <- matrix(c(rep(50, 10), rep(150, 10)), 100, 100)
  field <- as_field(m)
  expect_equal(phase_means(field, 100), c(50, 150))
  expect_equal(level_error(field, 100), 0)
  expect_equal(level_error(field, 90), 10)
  # halfway changes from tile to tile: bias and its standard error in quadrature
  tilt <- m + rep(rep(c(0, 2, 4, 6, 8), each = 20), each = 100)
  off <- rep(c(0, 2, 4, 6, 8), each = 5)
  expect_equal(level_error(as_field(tilt, 16), 100), sqrt(mean(off)^2 + stats::var(off) / 25))
  # too few tiles hold both phases
  few <- matrix(50, 100, 100)
  few[1:10, 1:10] <- 150
  expect_equal(level_error(as_field(few), 100), 5)
  part <- keep_within(field, region_box(0, 0, 50, 100))
  expect_equal(phase_means(part, 100), c(50, 150))
})

test_that("a level's error moves the fraction by the pixels a grey level holds", {
  m <- matrix(rep(c(50, 99, 100, 101, 150), c(40, 1, 1, 1, 57)), 10)
  mask <- segment_level(as_field(m), low = 100)
  # the five levels within 2.56 of the level hold 3 of 100 pixels
  expect_equal(error_of(mask), level_error(as_field(m), 100) * 3 / 5 / 100)
  between <- segment_level(as_field(m), low = 90, high = 120)
  expect_equal(error_of(between), 0)
  # at the end of the scale there are fewer levels
  low <- matrix(rep(c(0, 1, 2, 150), c(40, 1, 2, 57)), 10)
  mask <- segment_level(as_field(low), low = 1.5)
  expect_equal(error_of(mask), level_error(as_field(low), 1.5) * 43 / 5 / 100)
})

test_that("tiles count from two percent of the lesser phase on, three of them are enough", {
  # 5 x 5 tiles of 10 x 10 pixels; three of them hold some of the bright phase
  with_bright <- function(n, tiles = 3) {
    m <- matrix(50, 50, 50)
    for (k in seq_len(tiles)) m[seq_len(n), 10 * k] <- 150
    as_field(m)
  }
  contrast <- 100
  expect_equal(halfway_error(with_bright(2), 90), 10)
  expect_equal(halfway_error(with_bright(1), 90), 0.05 * contrast)
  expect_equal(halfway_error(as_field(200 - with_bright(2)$pixels), 90), 10)
  expect_equal(halfway_error(as_field(200 - with_bright(1)$pixels), 90), 0.05 * contrast)
  expect_equal(halfway_error(with_bright(2, 2), 90), 0.05 * contrast)
})

test_that("a pixel at the level is of the dark side", {
  m <- matrix(c(10, 100, 190, 200), 2)
  expect_equal(phase_means(as_field(m), 100), c(55, 195))
  expect_equal(core_tile_middles(m, matrix(NA, 0, 0), 100, 256, 2L, 2L)[, 1], c(0.5, 55, 195))
  expect_equal(core_tile_middles(m, matrix(NA, 0, 0), 10, 256, 2L, 2L)[, 1], c(0.75, 10, 190))
})

test_that("pixels about the level are those within a hundredth of the scale, at least one grey", {
  m <- matrix(rep(c(50, 97, 98, 102, 103, 150), c(40, 4, 2, 1, 5, 48)), 10)
  mask <- segment_level(as_field(m), low = 100)
  # 2.56 to either side: 98 to 102
  expect_equal(error_of(mask), level_error(as_field(m), 100) * 3 / 5 / 100)
  # few grey levels in all: one to either side
  few <- suppressWarnings(segment_level(as_field(matrix(c(0, 1, 2, 3), 2), depth = 8), low = 1.5))
  expect_gte(error_of(few), 0)
})

test_that("medians of tiles equal the plain ones, without what is excluded", {
  set.seed(41)
  for (k in 1:30) {
    size <- sample(5:30, 2, TRUE)
    m <- matrix(as.numeric(sample(0:20, prod(size), TRUE)), size[1])
    # columns between levels among whole ones
    if (k %% 3 == 0) m[, sample(size[2], 2)] <- sample(0:20, 2 * size[1], TRUE) + 0.25
    outside <- if (k %% 2) matrix(NA, 0, 0) else matrix(stats::runif(prod(size)) < 0.3, size[1])
    rows <- floor(size[1] * (1:5) / 5)
    cols <- floor(size[2] * (1:3) / 3)
    found <- core_tile_middles(m, outside, 10, 256, rows, cols)
    plain <- NULL
    for (x in seq_along(cols)) for (y in seq_along(rows)) {
      part <- m
      if (length(outside)) part[outside] <- NA
      part <- part[(c(0, rows)[y] + 1):rows[y], (c(0, cols)[x] + 1):cols[x]]
      part <- part[!is.na(part)]
      both <- any(part > 10) && any(part <= 10)
      plain <- cbind(plain, c(
        if (length(part)) mean(part > 10) else 0,
        if (both) c(stats::median(part[part <= 10]), stats::median(part[part > 10])) else c(0, 0)
      ))
    }
    expect_equal(found, plain)
  }
})

test_that("a level away from where edges are steepest is as uncertain as that", {
  rimmed <- rimmed_discs(50, 1.2)
  mask <- segment_auto(filter_median(rimmed$field, 1), "otsu")
  measured <- measure_objects(find_objects(mask))
  expect_gt(steepest_error(mask$field, mask$low), 5 * halfway_error(mask$field, mask$low))
  off <- abs(area_fraction(mask) - rimmed$area)
  expect_lt(off, 2 * error_of(mask, measured))
  steepest <- segment_auto(filter_median(rimmed$field, 1), "kohler")
  expect_lt(steepest_error(steepest$field, steepest$low), 1)
  expect_lt(abs(area_fraction(steepest) - rimmed$area), 2 * error_of(steepest, measured))
})

test_that("edges of the two phases that a level parts count, not those of a third", {
  # dark pores and bright grains in a grey ground, all blurred
  m <- matrix(120, 200, 200)
  for (k in seq(20, 180, 40)) {
    m[k + -8:8, 30:60] <- 40
    m[k + -12:12, 120:170] <- 230
  }
  field <- filter_gaussian(as_field(m, 8), 1.5)
  expect_lt(steepest_error(field, 80), 3)
  expect_lt(steepest_error(field, 175), 3)
  expect_equal(steepest_error(field, 95) - steepest_error(field, 85), 10, tolerance = 0.01)
  expect_equal(steepest_error(field, 300), 0)
  # 12 of 16 bits
  few <- as_field(field$pixels * 16, 16)
  expect_equal(steepest_error(few, 80 * 16 + 320) / 16, steepest_error(field, 100), tolerance = 0.1)
})

test_that("what is cut off at the end of the scale widens a level, unless its edges are where they seem", {
  rimmed <- rimmed_discs(60, 1.2, noise = 3)
  cut <- rimmed$field
  cut$pixels <- cut$picture <- pmin(cut$pixels, 140)
  mask <- segment_auto(filter_gaussian(cut, 1), "kohler")
  expect_gt(saturation_error(mask$field, mask$low), 5)
  expect_lt(abs(area_fraction(mask) - rimmed$area), 2 * error_of(mask))
  dark <- as_field(255 - cut$pixels, 8)
  below <- segment_auto(filter_gaussian(dark, 1), "kohler", "dark")
  expect_equal(
    saturation_error(below$field, below$high), saturation_error(mask$field, mask$low),
    tolerance = 0.05
  )
  expect_equal(saturation_error(rimmed$field, 120), 0)
  # a heap below the brightest level is none that was cut off
  heap <- cut$pixels
  top <- which(heap == 140)
  heap[top[seq_along(top) %% 3 > 0]] <- 139
  expect_equal(saturation_error(as_field(heap, 8), mask$low), 0)
  expect_equal(saturation_error(as_field(255 - heap, 8), below$high), 0)
  # a ground of one level is not cut off because of that: its edges are halfway
  flat <- as_field(round(core_gaussian(matrix(c(rep(20, 5000), rep(255, 5000)), 100), 1, 1)), 8)
  expect_lt(saturation_error(flat, 137), 5)
  expect_equal(saturation_error(flat, 260), 0)
})

test_that("blur takes half its variance over the radius off the edge of a disc", {
  set.seed(55)
  n <- 240
  at <- (seq_len(3 * n) - 0.5) / 3
  centres <- expand.grid(x = seq(30, 210, 60), y = seq(30, 210, 60)) + stats::runif(32, -2, 2)
  discs <- Reduce(`+`, lapply(seq_len(16), function(k) {
    outer((at - centres$y[k])^2, (at - centres$x[k])^2, "+") < 12^2
  }))
  halved <- function(m) t(matrix(colMeans(matrix(m, 3)), n))
  share <- halved(halved(discs + 0))
  for (sigma in c(1.5, 2.5)) {
    field <- as_field(core_gaussian(50 + 150 * share, sigma, sigma), 8)
    mask <- segment_level(field, low = 125)
    taken <- sum(share) - sum(mask$pixels)
    found <- measure_objects(find_objects(mask))
    counts <- level_counts(field)
    blur <- edge_blur(counts, 125, sum(found$perimeter_px))
    expect_equal(blur, sigma, tolerance = 0.08)
    expect_equal(16 * pi * blur^2, taken, tolerance = 0.2)
    errors <- edge_errors(mask, 16, 0, sum(found$perimeter_px))
    expect_equal(errors[["blur"]], 16 * pi * blur^2)
    expect_equal(errors[["level"]], edge_errors(mask)[["level"]])
    expect_equal(edge_errors(mask, 16, 21, sum(found$perimeter_px))[["blur"]], 5 * pi * blur^2)
    expect_equal(area_fraction_error(errors, n^2), sqrt(sum(errors^2)) / n^2)
    expect_equal(edges_off(errors, 100, FALSE), sqrt(sum(errors^2)) / 100)
    expect_equal(edges_off(errors, 100, TRUE), sqrt(sum((errors / c(1, 5))^2)) / 100)
    expect_equal(edges_off(errors, 0, TRUE), 0)
    expect_equal(edge_blur(counts, 125, 0), 0)
    expect_equal(edge_blur(counts, 300, 100), 0)
  }
})
