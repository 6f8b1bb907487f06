disc <- function(x, y, r) c(x, y, r, r, 0)

test_that("a single convex object is never split", {
  set.seed(1)
  for (k in 1:12) {
    stretch <- stats::runif(1, 1, 2.5)
    r <- stats::runif(1, 6, 22)
    e <- rbind(c(60, 50, r * sqrt(stretch), r / sqrt(stretch), stats::runif(1, 0, 180)))
    objects <- separate_outlines(ellipse_mask(e))
    expect_equal(objects$count, 1)
    m <- measure_objects(objects)
    expect_equal(m$whole_area_px2, pi * e[3] * e[4], tolerance = 0.05)
    expect_equal(m$whole_major_px, 2 * e[3], tolerance = 0.04)
    if (stretch > 1.3) {
      expect_lt(abs((m$whole_orientation_deg - e[5] + 90) %% 180 - 90), 3)
    }
  }
})

test_that("discs that overlap are split along their chord and completed", {
  e <- rbind(disc(40, 50, 22), disc(74, 52, 16))
  mask <- ellipse_mask(e)
  objects <- separate_outlines(mask)
  expect_equal(objects$count, 2)
  expect_equal(objects$labels > 0, mask$pixels)
  expect_equal(decision(objects$trail, "separate_outlines")$parted, 1)

  # nearer, by the power of the point, to its own circle
  at <- which(objects$labels > 0, arr.ind = TRUE) - 0.5
  power <- function(k) (at[, 2] - e[k, 1])^2 + (at[, 1] - e[k, 2])^2 - e[k, 3]^2
  label <- function(k) objects$labels[cbind(e[k, 2], e[k, 1]) + 0.5]
  wanted <- ifelse(power(1) < power(2), label(1), label(2))
  expect_lt(mean(objects$labels[objects$labels > 0] != wanted), 0.01)

  m <- measure_objects(objects)[c(label(1), label(2)), ]
  expect_equal(m$whole_ecd_px, 2 * e[, 3], tolerance = 0.02)
  expect_true(all(m$ecd_px < m$whole_ecd_px))
  expect_equal(m$whole_area_px2, pi / 4 * m$whole_ecd_px^2)
})

test_that("arcs of one object are put together", {
  expect_equal(separate_outlines(ellipse_mask(rbind(
    disc(25, 50, 16), disc(55, 50, 18), disc(86, 50, 17)
  )))$count, 3)

  # three that enclose a gap
  around <- function(r, far) {
    cbind(60 + far * cospi(0:2 * 2 / 3), 50 + far * sinpi(0:2 * 2 / 3), r, r, 0)
  }
  for (r in c(12, 18)) {
    gap <- ellipse_mask(around(r, 1.08 * r))
    expect_equal(measure_objects(find_objects(gap))$holes, 1)
    expect_equal(separate_outlines(gap)$count, 3)
  }
  # a hole within one object is no gap
  ring <- ellipse_mask(rbind(disc(60, 50, 30)))
  ring$pixels[ellipse_cover(rbind(disc(60, 50, 12)), 120, 100) > 0.5] <- FALSE
  expect_equal(separate_outlines(ring)$count, 1)
})

test_that("of crossed ellipses both are found, one of them in two pieces", {
  e <- rbind(c(60, 50, 42, 14, 20), c(62, 50, 40, 13, 110))
  objects <- separate_outlines(ellipse_mask(e))
  expect_equal(objects$count, 2)
  m <- measure_objects(objects)
  expect_equal(sort(m$whole_area_px2), sort(pi * e[, 3] * e[, 4]), tolerance = 0.02)
  expect_equal(sort(m$whole_orientation_deg), c(20, 110), tolerance = 0.03)
  pieces <- vapply(1:2, function(k) core_label(objects$labels == k)$count, 0L)
  expect_equal(sort(pieces), c(1, 2))

  # a file of outlines keeps the pieces
  file <- withr::local_tempfile(fileext = ".geojson")
  save_outlines(m, file)
  expect_match(readLines(file)[1:2], "MultiPolygon", all = FALSE)
  back <- read_outlines(file)
  drawn <- object_outlines(objects)
  expect_equal(sum(!back$hole[!duplicated(back$ring)]), 3)
  expect_equal(
    core_fill_rings(
      back$x_px, back$y_px, as.integer(rle(back$ring)$lengths),
      back$id[!duplicated(back$ring)], 100L, 120L
    ),
    objects$labels
  )
  expect_equal(nrow(back), nrow(drawn))
})

test_that("depth says which necks are too wide to be split", {
  mask <- ellipse_mask(rbind(disc(45, 50, 20), disc(71, 50, 20)))  # half neck 15.2, so 24 %
  count <- function(depth) separate_outlines(mask, depth)$count
  expect_equal(count("5 %"), 2)
  expect_equal(count("15 %"), 2)
  expect_equal(count("40 %"), 1)
  expect_equal(count("3 px"), 2)
  expect_equal(count(8), 1)
  expect_equal(count(0), 2)
  expect_refused(count("110 %"), class = "quantity")
  expect_refused(separate_outlines(matrix(1, 3, 3)), class = "class")
})

test_that("turned, mirrored and oblong pixels give the same objects", {
  e <- rbind(disc(40, 50, 22), disc(74, 52, 16), c(80, 25, 18, 9, 40))
  mask <- ellipse_mask(e, noise = 0)
  of <- function(grey) {
    m <- measure_objects(separate_outlines(segment_level(as_field(grey, 8), low = 120)))
    sort(m$whole_ecd_px)
  }
  grey <- mask$field$pixels
  want <- of(grey)
  expect_length(want, 3)
  expect_equal(of(t(grey)), want, tolerance = 1e-3)
  expect_equal(of(grey[100:1, ]), want, tolerance = 1e-3)
  expect_equal(of(grey[, 120:1]), want, tolerance = 1e-3)

  flat <- as_field(60 + 120 * ellipse_cover(e, 120, 50, aspect = 2), 8)
  flat <- calibrate(flat, calibration_from_length(c(x = 100, y = 50), "100 um"))
  m <- measure_objects(separate_outlines(segment_level(flat, low = 120)))
  expect_equal(sort(m$whole_ecd_um), want, tolerance = 0.02)
})

test_that("objects cut by the frame are completed beyond it, slivers are not", {
  half <- measure_objects(separate_outlines(ellipse_mask(rbind(disc(60, 8, 24)), noise = 1)))
  expect_equal(half$whole_ecd_px, 48, tolerance = 0.04)
  sliver <- measure_objects(separate_outlines(ellipse_mask(rbind(disc(60, -19, 24)), noise = 1)))
  expect_true(is.na(sliver$whole_ecd_px))
  for (y in c(-16, -12, -8)) {  # whatever the arc is fitted by, not by less than what is seen
    m <- measure_objects(separate_outlines(ellipse_mask(rbind(disc(60, y, 24)))))
    expect_true(is.na(m$whole_area_px2) || m$whole_area_px2 > 0.9 * m$area_px2)
  }
})

test_that("tiny, empty and full masks, and masks of two thresholds", {
  expect_equal(separate_outlines(mask_of(matrix(FALSE, 4, 5)))$count, 0)
  expect_named(measure_objects(separate_outlines(mask_of(matrix(FALSE, 4, 5)))))
  expect_equal(separate_outlines(mask_of(matrix(TRUE)))$count, 1)
  expect_equal(suppressWarnings(separate_outlines(mask_of(matrix(TRUE, 1, 40)))$count), 1)
  expect_equal(separate_outlines(mask_of(diag(9) > 0))$count, 1)
  set.seed(3)
  for (k in 1:30) {
    mask <- mask_of(random_mask(sample.int(40, 1), sample.int(40, 1), stats::runif(1, 0.3, 0.8)))
    objects <- suppressWarnings(separate_outlines(mask))
    expect_equal(objects$labels > 0, mask$pixels)
    expect_equal(sort(unique(c(0L, objects$labels))), 0:objects$count)
    expect_equal(nrow(objects$wholes), objects$count)
    # in reading order
    top <- unique(as.vector(t(objects$labels)))
    expect_equal(top[top > 0], seq_len(objects$count))
  }
  mask <- ellipse_mask(rbind(disc(40, 50, 22), disc(74, 52, 16)))
  band <- segment_level(mask$field, low = 120, high = 254)
  expect_equal(separate_outlines(band)$count, 2)
})

test_that("a bed packed so densely that its edges show nowhere is warned of", {
  at <- expand.grid(a = 0:4, b = 0:4)
  e <- cbind(25 + 40 * at$a + 20 * (at$b %% 2), 25 + 34.6 * at$b, 21.5, 21.5, 0)
  mask <- ellipse_mask(e, 230, 190)
  expect_warning(
    separate_outlines(mask), "separate_watershed", class = "bemrick_warning_unseen"
  )
  apart <- cbind(30 + 43 * at$a + 21.5 * (at$b %% 2), 30 + 37.2 * at$b, 21.5, 21.5, 0)
  expect_silent(objects <- separate_outlines(ellipse_mask(apart, 250, 210)))
  expect_equal(objects$count, 25)
})

test_that("the ellipse through an arc is the one it was drawn by", {
  # by way of the kernel: the arc that the frame leaves
  for (turn in c(0, 30, 90, 140)) {
    e <- rbind(c(60, 50, 30, 18, turn))
    m <- measure_objects(separate_outlines(ellipse_mask(e, noise = 0)))
    expect_equal(m$whole_major_px, 60, tolerance = 0.01)
    expect_equal(m$whole_minor_px, 36, tolerance = 0.01)
    expect_lt(abs((m$whole_orientation_deg - turn + 90) %% 180 - 90), 0.5)
  }
})

test_that("wholes are measured in a method, limited, and asked for in vain without the step", {
  field <- simulate_field(
    width = 300, height = 200, count = 12, diameter = "15 um", touching = 0.5, seed = 4
  )
  m <- field |>
    segment_auto(phase = "bright") |>
    separate_outlines("10 %") |>
    measure_objects() |>
    accept_objects(whole_ecd = c("5 um", NA))
  method <- as_method(m)
  expect_equal(method$steps[[2]]$step, "separate_outlines")
  expect_equal(method$steps[[2]]$args$depth, "10 %")
  expect_equal(unclass_measures(apply_method(field, method)), unclass_measures(m))
  expect_true(is_measured("whole_ecd", method$steps))
  expect_false(is_measured("whole_ecd", method$steps[-2]))
})

test_that("cuts and joins by hand leave the wholes of what they do not touch", {
  e <- rbind(disc(25, 30, 16), disc(70, 30, 20), disc(95, 34, 15), disc(40, 78, 15))
  objects <- separate_outlines(ellipse_mask(e))
  before <- measure_objects(objects)
  at <- function(objects, k) objects$labels[cbind(e[k, 2], e[k, 1]) + 0.5]
  expect_equal(nrow(before), 4)

  cut <- separate_cuts(objects, data.frame(image = NA, x1 = 25, y1 = 0, x2 = 25, y2 = 60))
  after <- measure_objects(cut)
  expect_equal(nrow(after), 5)
  expect_equal(after$whole_ecd_px[at(cut, 2:4)], before$whole_ecd_px[at(objects, 2:4)])
  expect_equal(sum(is.na(after$whole_ecd_px)), 2)

  joined <- join_objects(objects, data.frame(image = NA, x1 = 66, y1 = 30, x2 = 98, y2 = 34))
  after <- measure_objects(joined)
  expect_equal(nrow(after), 3)
  expect_equal(after$whole_ecd_px[at(joined, c(1, 4))], before$whole_ecd_px[at(objects, c(1, 4))])
  expect_true(is.na(after$whole_ecd_px[at(joined, 2)]))
})
