no_seeds <- matrix(0L, 0, 0)

test_that("labels equal the plain ones, numbered in reading order", {
  set.seed(41)
  for (k in 1:70) {
    mask <- random_mask(sample.int(40, 1), sample.int(40, 1), stats::runif(1, 0.1, 0.8))
    found <- core_label(mask)
    want <- ref_label(mask)
    expect_identical(found$labels, want)
    expect_equal(found$count, max(0L, want))
  }
})

test_that("empty, full and one-pixel masks are labelled", {
  expect_equal(core_label(matrix(FALSE, 3, 3))$count, 0)
  expect_equal(core_label(matrix(TRUE, 3, 70))$labels, matrix(1L, 3, 70))
  expect_equal(core_label(matrix(TRUE))$labels, matrix(1L))
  diagonal <- diag(5) == 1
  expect_equal(core_label(diagonal)$count, 1)  # 8-connected
})

test_that("more than 65,536 objects are counted", {
  mask <- matrix(FALSE, 600, 600)
  mask[seq(1, 600, 2), seq(1, 600, 2)] <- TRUE
  expect_equal(core_label(mask)$count, 90000)
  expect_equal(nrow(measure_objects(find_objects(mask_of(mask)))), 90000)
})

test_that("distances equal the plain ones, also for pixels that are not square", {
  set.seed(42)
  for (k in 1:60) {
    mask <- random_mask(sample.int(25, 1), sample.int(25, 1), stats::runif(1, 0.4, 0.99))
    s <- if (k %% 2) c(1, 1) else stats::runif(2, 0.3, 2)
    expect_equal(core_distance(mask, s[1], s[2]), ref_distance(mask, s[1], s[2]), tolerance = 1e-5)
  }
  expect_true(all(is.infinite(core_distance(matrix(TRUE, 4, 4), 1, 1))))
})

test_that("two discs that overlap a little are parted, one disc is not", {
  pair <- disc_mask(80, 14, 26, 40) | disc_mask(80, 14, 52, 40)
  parted <- separate_watershed(mask_of(pair), depth = "1 px")
  expect_equal(parted$count, 2)
  expect_equal(decision(parted$trail, "separate_watershed")$parted, 1)
  sizes <- tabulate(parted$labels, 2)
  expect_lt(abs(diff(sizes)), 0.05 * min(sizes))
  for (r in 3:20) expect_equal(separate_watershed(mask_of(disc_mask(50, r)), depth = 1)$count, 1)
  expect_equal(separate_watershed(mask_of(pair), depth = "8 px")$count, 1)
})

test_that("parts cover the mask, keep within components, and every component keeps one", {
  set.seed(43)
  for (k in 1:20) {
    mask <- core_morph(random_mask(40, 40, 0.75), "open", "disk", 1, 1)$mask
    parts <- core_watershed(mask, 1, 1, 0, no_seeds)
    whole <- core_label(mask)
    expect_identical(parts$labels > 0, mask)
    expect_gte(parts$count, whole$count)
    if (parts$count > 0) {
      owner <- tapply(whole$labels[mask], parts$labels[mask], function(v) length(unique(v)))
      expect_true(all(owner == 1))
      expect_equal(sort(unique(parts$labels[mask])), seq_len(parts$count))
    }
  }
})

test_that("touching discs are parted along a straight line", {
  pair <- disc_mask(90, 16, 30.3, 42.8) | disc_mask(90, 12, 55, 48.4)
  labels <- separate_watershed(mask_of(pair))$labels
  expect_equal(max(labels), 2)
  # each pixel belongs to the disc whose edge it lies deeper in, but for those beside that line
  depth <- function(r, x, y) r - sqrt((col(labels) - 0.5 - x)^2 + (row(labels) - 0.5 - y)^2)
  ahead <- (depth(16, 30.3, 42.8) - depth(12, 55, 48.4))[pair]
  first <- labels[pair] == labels[43, 30]
  expect_equal(sum(first != (ahead > 0) & abs(ahead) > 1.5), 0)
})

test_that("flooding equals the plain one, on distances, grey values and from seeds, with any number of threads", {
  set.seed(45)
  for (k in 1:60) {
    rows <- sample.int(30, 1)
    cols <- sample.int(30, 1)
    mask <- core_morph(random_mask(rows, cols, 0.8), "open", "disk", 1, 1)$mask
    if (!any(mask) || all(mask)) next
    aspect <- if (k %% 3) 1 else 1.25
    depth <- stats::runif(1, 0.1, 1.5)
    far <- ref_distance(mask, 1, aspect)
    share <- c(0, 0.05, 0.2, 0.4)[k %% 4 + 1]
    found <- core_watershed(mask, aspect, depth, share, no_seeds)
    expect_equal(found$labels, ref_watershed(mask, far, depth, aspect = aspect, share = share))
    for (id in seq_len(found$count)) expect_equal(core_label(found$labels == id)$count, 1)  # every part hangs together
    expect_identical(core_watershed(mask, aspect, depth, share, no_seeds, 3L), found)
    grey <- matrix(sample(0:9, rows * cols, TRUE), rows)
    expect_equal(
      core_watershed_grey(mask, grey, TRUE, min(grey), max(grey), 1, 2, no_seeds)$labels,
      ref_watershed(mask, grey - min(grey) + 1, 2)
    )
    expect_equal(
      core_watershed_grey(mask, grey, FALSE, min(grey), max(grey), 1, 2, no_seeds)$labels,
      ref_watershed(mask, max(grey) - grey + 1, 2)
    )
    seeds <- matrix(sample(c(rep(0L, 20), 1:3), rows * cols, TRUE), rows)
    by_component <- (4 * core_label(mask)$labels + seeds) * (seeds > 0)  # what does not hang together stays apart
    expect_equal(
      core_watershed(mask, aspect, depth, 0, seeds)$labels,
      ref_watershed(mask, far, depth, by_component, aspect)
    )
  }
})

test_that("objects are parted by their grey, or from seeds where the eye knows better", {
  bump <- function(x) {
    200 * exp(-((col(matrix(0, 40, 60)) - x)^2 + (row(matrix(0, 40, 60)) - 20)^2) / 60)
  }
  field <- calibrate(as_field(round(pmin(bump(22) + bump(38), 255))), half_um())
  mask <- segment_level(field, low = 20)
  expect_equal(separate_watershed(mask, depth = 10, on = "grey")$count, 2)
  expect_equal(separate_watershed(mask, depth = 190, on = "grey")$count, 1)
  expect_refused(separate_watershed(mask, on = "grey"), "grey levels", class = "quantity")
  seeds <- list(
    region_circle(15, 20, 2), region_circle("11 um", "10 um", "1 um"),
    list(box = c(40, 18, 43, 22))
  )
  sown <- separate_watershed(mask, seeds = seeds)
  expect_equal(sown$count, 3)
  expect_equal(apply_method(field, as_method(sown))$labels, sown$labels)
  expect_refused(separate_watershed(mask, seeds = region_circle(500, 20, 2)), "Seed 1", class = "region")
})

test_that("depth in a length unit means the same as in pixels", {
  pair <- disc_mask(80, 14, 26, 40) | disc_mask(80, 14, 52, 40)
  expect_equal(
    separate_watershed(mask_of(pair, half_um()), depth = "0.5 um")$labels,
    separate_watershed(mask_of(pair), depth = 1)$labels
  )
})

test_that("outlines enclose exactly the pixels of their object", {
  set.seed(44)
  ring_area <- function(x, y) {
    n <- c(seq_along(x)[-1], 1)
    abs(sum(x * y[n] - x[n] * y)) / 2
  }
  for (k in 1:25) {
    mask <- random_mask(sample.int(25, 1), sample.int(25, 1), 0.6)
    objects <- find_objects(mask_of(mask))
    o <- object_outlines(objects)
    if (nrow(o) == 0) next
    areas <- vapply(
      split(o, o$ring), function(r) ring_area(r$x_px, r$y_px) * if (r$hole[1]) -1 else 1, 0
    )
    owner <- vapply(split(o$id, o$ring), function(i) i[1], 0L)
    expect_equal(
      as.numeric(tapply(areas, owner, sum)),
      as.numeric(tabulate(objects$labels[objects$labels > 0]))
    )
    expect_equal(sum(!vapply(split(o$hole, o$ring), function(h) h[1], NA)), objects$count)
  }
})

test_that("an object joined at a corner has one outer ring, a hole its own", {
  o <- object_outlines(find_objects(mask_of(diag(2))))
  expect_equal(length(unique(o$ring)), 1)
  expect_equal(nrow(o), 8)
  ring <- matrix(1, 3, 3)
  ring[2, 2] <- 0
  o <- object_outlines(find_objects(mask_of(ring)))
  expect_equal(tapply(o$hole, o$ring, any), c("1" = FALSE, "2" = TRUE), ignore_attr = TRUE)
  expect_equal(range(o$x_px[!o$hole]), c(0, 3))
})

test_that("distances are exact in wide objects too, where rows are not searched but enveloped", {
  set.seed(161)
  for (k in 1:3) {
    mask <- matrix(TRUE, 130, 170)
    mask[cbind(sample(130, k, TRUE), sample(170, k, TRUE))] <- FALSE
    ground <- which(!mask, arr.ind = TRUE)
    size <- if (k %% 2) c(1, 1) else c(0.7, 1.3)
    far <- matrix(Inf, 130, 170)
    for (g in seq_len(nrow(ground))) {
      away <- sqrt(
        ((row(far) - ground[g, 1]) * size[2])^2 + ((col(far) - ground[g, 2]) * size[1])^2
      )
      far <- pmin(far, away)
    }
    expect_equal(core_distance(mask, size[1], size[2]), far, tolerance = 1e-6)
  }
})

test_that("distances are exact wherever the search along the rows ends, on any number of threads", {
  set.seed(163)
  for (half in c(20, 45:52)) {  # rows are searched 48 pixels to either side
    mask <- matrix(TRUE, 70, 4 * half + 3)
    mask[, c(1, half + 2, 3 * half + 1)] <- FALSE  # gaps of `half` and nearly twice that between columns of ground
    mask[sample(70, 65), 3 * half + 1] <- TRUE
    ground <- which(!mask, arr.ind = TRUE)
    far <- matrix(Inf, nrow(mask), ncol(mask))
    for (g in seq_len(nrow(ground))) far <- pmin(
      far, sqrt((row(far) - ground[g, 1])^2 + (col(far) - ground[g, 2])^2)
    )
    for (threads in 1:3) expect_equal(core_distance(mask, 1, 1, threads), far, tolerance = 1e-6)
  }
})

test_that("a phase that hangs together over the whole picture is flooded, on any number of threads", {
  set.seed(162)
  mask <- core_morph(random_mask(300, 280, 0.8), "open", "disk", 1, 1)$mask
  one <- core_watershed(mask, 1, 0.8, 0, no_seeds, 1L)
  for (threads in 2:4) expect_identical(core_watershed(mask, 1, 0.8, 0, no_seeds, threads), one)
  expect_identical(one$labels > 0, mask)
  expect_equal(one$joined, core_label(mask)$count)
  whole <- core_watershed(matrix(TRUE, 60, 50), 1, 1, 0, no_seeds)
  expect_equal(whole$count, 1)
  expect_equal(core_watershed(matrix(FALSE, 6, 5), 1, 1, 0, no_seeds)$count, 0)
  expect_equal(core_watershed(matrix(TRUE), 1, 1, 0, no_seeds)$labels, matrix(1L))
})

test_that("seventy thousand objects are found, parted and measured", {
  tile <- matrix(0, 6, 6)
  tile[2:5, 2:4] <- 1
  mask <- matrix(TRUE, 6, 6) & tile == 1
  mask <- mask[rep(1:6, 265), rep(1:6, 265)]
  parts <- core_watershed(mask, 1, 1, 0, no_seeds)
  expect_equal(parts$count, 265^2)
  m <- core_measure(parts$labels, mask + 0, parts$count, 1, 1)
  expect_true(all(m$area == 12))
  expect_equal(range(m$feret_max), c(5, 5), tolerance = 0.2)
  expect_true(all(m$smallest_box_length == 4 & m$smallest_box_width == 3))
})

test_that("depths, seeds and pixel shapes reach the flooding as they are meant", {
  m <- matrix(FALSE, 30, 60)
  at <- function(x, y, r) (col(m) - 0.5 - x)^2 + (row(m) - 0.5 - y)^2 < r^2
  m <- at(15, 15, 11) | at(33, 15, 11)
  mask <- mask_of(m)
  expect_equal(separate_watershed(mask)$count, 2)
  trail <- function(x) x$trail[[length(x$trail)]]$args
  expect_null(trail(separate_watershed(mask))$on)
  grey <- separate_watershed(mask, 0, on = "grey")
  expect_equal(trail(grey)$on, "grey")
  expect_equal(grey_depth(0, NULL), 0)
  expect_equal(grey_depth(3.5, NULL), 3.5)
  expect_refused(grey_depth(-1, NULL), class = "quantity")
  expect_refused(grey_depth("1 px", NULL), class = "quantity")
  expect_equal(grey_depth("1 px", list(1)), 0)
  expect_equal(dim(sow_seeds(list(region_circle(15, 15, 2)), mask$field)), c(30, 60))
  expect_equal(sum(sow_seeds(list(region_circle(15, 15, 2)), mask$field) > 0), sum(at(15, 15, 2)))
  # the same sample in pixels half as high is split at the same place
  tall <- kronecker(m, matrix(TRUE, 2, 1)) > 0
  oblong <- mask_of(tall, calibration_from_length(c(x = 50, y = 100), "100 um"))
  split <- separate_watershed(oblong, depth = "2 um")
  expect_equal(split$count, 2)
  same <- separate_watershed(mask_of(m, calibration_from_length(c(x = 50, y = 50), "100 um")), "2 um")
  expect_lt(mean(split$labels[seq(1, 60, 2), ] != same$labels), 0.02)
})

test_that("a depth that is a share of the radius does for small and large objects alike", {
  # pairs of one shape, one of them five times as large, whose necks are a quarter narrower
  both <- disc_mask(400, 8, 30, 30) | disc_mask(400, 8, 41, 30) |
    disc_mask(400, 40, 150, 200) | disc_mask(400, 40, 205, 200)
  count <- function(depth) separate_watershed(mask_of(both), depth)$count
  expect_equal(count("5 %"), 4)
  expect_equal(count("15 %"), 4)
  expect_equal(count("40 %"), 2)
  expect_equal(count("3 px"), 3)  # of the small ones, whose necks are 2 pixels narrower, one is made
  expect_equal(separate_watershed(mask_of(both))$count, 4)
  # not less than pixels know: a bump of half a pixel is no second object
  expect_equal(neck_depth("1 %", NULL), list(pixels = 0.75, share = 0.01))
  expect_equal(neck_depth("2 px", NULL), list(pixels = 2, share = 0))
  expect_equal(neck_depth(2, NULL), list(pixels = 2, share = 0))
  expect_equal(neck_depth("1 um", half_um()), list(pixels = 2, share = 0))
  for (bad in c("100 %", "-1 %")) {
    expect_refused(neck_depth(bad, NULL), "share", class = "quantity")
  }
  expect_refused(separate_watershed(mask_of(both), "5 %", on = "grey"), class = "quantity")
  set.seed(46)
  for (r in c(3, 5, 8, 13, 21)) {
    for (k in 1:5) {
      one <- disc_mask(60, r, 30 + stats::runif(1), 30 + stats::runif(1))
      expect_equal(separate_watershed(mask_of(one))$count, 1)
    }
  }
})

test_that("objects whose gap was filled are warned of, and split when gaps were left open", {
  mask <- mask_of(three_discs())
  expect_warning(
    separate_watershed(mask_fill(mask)), "like a gap.*holes = .inside", class = "bemrick_warning_gaps"
  )
  expect_false(suppressWarnings(separate_watershed(mask_fill(mask)))$count == 3)
  expect_silent(parts <- separate_watershed(mask_fill(mask, holes = "inside")))
  expect_equal(parts$count, 3)
})
