measure_mask <- function(mask, calibration = NULL) {
  measure_objects(find_objects(mask_of(mask, calibration)))
}

test_that("every measure equals its plain definition on random objects with holes", {
  set.seed(51)
  for (k in 1:24) {
    mask <- core_morph(
      random_mask(sample(2:30, 1), sample(2:30, 1), 0.75), "open", "disk", 0.5, 0.5
    )$mask
    if (!any(mask)) next
    grey <- matrix(sample(0:255, length(mask), TRUE) + 0, nrow(mask))
    s <- if (k %% 2) c(1, 1) else c(0.7, 1.3)
    labels <- core_label(mask)
    m <- core_measure(labels$labels, grey, labels$count, s[1], s[2])
    for (id in seq_len(labels$count)) {
      one <- labels$labels == id
      at <- which(one, arr.ind = TRUE)
      expect_equal(m$area[id], sum(one) * prod(s))
      expect_equal(c(m$x[id], m$y[id]), c(mean(at[, 2]), mean(at[, 1])) - 0.5)
      expect_equal(m$perimeter[id], ref_perimeter(one, s[1], s[2]))
      expect_equal(m$holes[id], max(ref_label(cbind(FALSE, rbind(FALSE, ref_fill(one) & !one)), 4)))
      hull <- ref_hull(one, s[1], s[2])
      feret <- ref_feret(hull)
      greatest <- ref_greatest_width(hull, sqrt(prod(s)), m$perimeter[id])
      expect_equal(m$feret_max[id], greatest, tolerance = 1e-6)
      expect_equal(m$feret_min[id], feret[["min"]])
      expect_equal(m$hull_perimeter[id], min(feret[["perimeter"]], pi * greatest), tolerance = 1e-6)
      expect_equal(m$hull_area[id], ref_polygon_area(hull))
      expect_equal(
        c(m$grey_mean[id], m$grey_min[id], m$grey_max[id]), c(mean(grey[one]), range(grey[one]))
      )
      if (sum(one) > 1) expect_equal(m$grey_sd[id], stats::sd(grey[one]))
      touches <- any(at[, 1] %in% c(1, nrow(mask)), at[, 2] %in% c(1, ncol(mask)))
      expect_equal(m$on_edge[id], touches)
    }
  }
})

test_that("the ellipse has the object's second moments", {
  mask <- disc_mask(61, 20)
  mask[, c(1:25, 37:61)] <- FALSE
  m <- measure_mask(mask)
  at <- which(mask, arr.ind = TRUE)
  spread <- stats::cov(at) * (nrow(at) - 1) / nrow(at) + diag(1 / 12, 2)
  axes <- 4 * sqrt(eigen(spread)$values)
  expect_equal(c(m$ellipse_major_px, m$ellipse_minor_px), axes)
  expect_equal(m$orientation_deg, 90)
  expect_equal(measure_mask(t(mask))$orientation_deg, 0)
})

test_that("orientation counts counter-clockwise as seen", {
  rising <- matrix(0, 20, 20)
  for (k in 3:17) rising[20 - k, k + (-1:1)] <- 1  # goes up to the right
  expect_equal(measure_mask(rising)$orientation_deg, 45, tolerance = 0.05)
  expect_equal(measure_mask(rising[20:1, ])$orientation_deg, 135, tolerance = 0.02)
})

test_that("discs have the area, perimeter and shape of discs", {
  set.seed(52)
  for (radius in c(8, 15, 30, 60)) {
    shots <- t(replicate(12, {
      place <- 80 + stats::runif(2)
      m <- measure_mask(disc_mask(160, radius, place[1], place[2]))
      c(
        m$area_px2 / (pi * radius^2), m$perimeter_px / (2 * pi * radius),
        m$feret_max_px / (2 * radius), m$circularity, m$ecd_px / (2 * radius)
      )
    }))
    bias <- colMeans(shots) - 1
    expect_lt(abs(bias[1]), 0.006)
    expect_lt(abs(bias[2]), 0.007)
    expect_lt(abs(bias[3]), if (radius >= 15) 0.006 else 0.012)
    expect_lt(abs(bias[4]), 0.007)
    expect_lt(abs(bias[5]), 0.003)
  }
})

test_that("turned squares keep their perimeter, widths and hull", {
  set.seed(55)
  for (half in c(8, 20)) {
    shots <- t(replicate(60, {
      turn <- stats::runif(1, 0, pi / 2)
      at <- seq_len(4 * half) - 2 * half + stats::runif(1)
      x <- matrix(at, 4 * half, 4 * half, byrow = TRUE)
      y <- matrix(at + stats::runif(1), 4 * half, 4 * half)
      m <- measure_mask(
        pmax(abs(x * cos(turn) + y * sin(turn)), abs(y * cos(turn) - x * sin(turn))) <= half
      )
      c(
        m$perimeter_px / (8 * half), m$feret_min_px / (2 * half), m$feret_max_px / (sqrt(8) * half),
        m$solidity, m$convexity
      )
    }))
    bias <- colMeans(shots) - 1
    expect_lt(abs(bias[1]), 0.011)
    expect_lt(abs(bias[2]), 0.004)
    expect_lt(abs(bias[3]), if (half == 8) 0.01 else 0.005)
    expect_gt(bias[4], -0.005)
    expect_true(all(shots[, 4:5] <= 1))
  }
})

test_that("rounded corners are not taken for sharp ones", {
  set.seed(57)
  for (q in c(2, 4)) {
    reach <- replicate(60, {
      turn <- stats::runif(1, 0, pi / 2)
      x <- matrix(1:40 - 20 + stats::runif(1), 40, 40, byrow = TRUE)
      y <- matrix(1:40 - 20 + stats::runif(1), 40, 40)
      u <- abs(x * cos(turn) + y * sin(turn)) - (12 - q)
      v <- abs(y * cos(turn) - x * sin(turn)) - (12 - q)
      measure_mask(pmax(u, 0)^2 + pmax(v, 0)^2 <= q^2)$feret_max_px / (2 * (sqrt(2) * (12 - q) + q))
    })
    expect_lt(abs(mean(reach) - 1), 0.01)
  }
})

test_that("lines of one pixel reach from the outer edge of their first pixel to that of their last", {
  across <- matrix(0, 5, 12)
  across[3, 2:11] <- 1
  m <- measure_mask(across)
  expect_equal(c(m$feret_min_px, m$smallest_box_length_px, m$smallest_box_width_px), c(1, 10, 1))
  expect_equal(m$feret_max_px, sqrt(101), tolerance = 0.01)
  expect_equal(m$solidity, 1)
  slanted <- measure_mask(diag(12))
  expect_equal(slanted$feret_max_px, 12 * sqrt(2), tolerance = 0.02)
  expect_equal(slanted$feret_min_px, sqrt(1 / 2))
})

test_that("how many threads share the objects changes nothing", {
  set.seed(56)
  mask <- core_morph(random_mask(150, 170, 0.7), "open", "disk", 1, 1)$mask
  found <- core_label(mask)
  grey <- matrix(stats::runif(length(mask)), 150)
  one <- core_measure(found$labels, grey, found$count, 1, 1, 1L)
  for (threads in 2:3) expect_identical(
    core_measure(found$labels, grey, found$count, 1, 1, threads), one
  )
})

test_that("labels that leave a gap, or lie in several pieces, are measured as one object each", {
  labels <- matrix(0L, 9, 200)
  labels[3:5, c(2:4, 8:9)] <- 3L
  labels[2:8, 190:195] <- 1L
  grey <- matrix(1, 9, 200)
  m <- core_measure(labels, grey, 3L, 1, 1)
  expect_equal(m$pixels, c(42, 0, 15))
  expect_equal(c(m$extent_x[3], m$left[3]), c(8, 1))
  expect_equal(m$perimeter[3], ref_perimeter(labels == 3))
  expect_equal(m$feret_min[3], 3)
})

test_that("upright squares are exact", {
  square <- matrix(0, 40, 40)
  square[11:30, 6:25] <- 1
  m <- measure_mask(square)
  expect_equal(m$area_px2, 400)
  expect_equal(m$feret_min_px, 20)
  expect_equal(m$box_width_px, 20)
  expect_equal(m$solidity, 1)
  expect_equal(c(m$x_px, m$y_px), c(15, 20))
  expect_lte(m$aspect_ratio, 1)
})

test_that("a pixel of its own, an empty mask and a picture of one pixel are measured", {
  one <- measure_mask(matrix(1))
  expect_equal(one$area_px2, 1)
  expect_equal(one$ecd_px, 2 / sqrt(pi))
  expect_true(one$on_edge)
  expect_equal(one$holes, 0)
  expect_equal(
    c(one$feret_max_px, one$feret_min_px, one$feret_mean_px, one$solidity), c(sqrt(2), 1, 4 / pi, 1)
  )
  none <- measure_mask(matrix(0, 3, 3))
  expect_equal(nrow(none), 0)
  expect_s3_class(none, "bm_measures")
})

test_that("lengths grow with the pixel size, areas with its square, ratios stay", {
  set.seed(53)
  mask <- core_morph(random_mask(60, 60, 0.7), "open", "disk", 1, 1)$mask
  px <- measure_mask(mask)
  um <- measure_mask(mask, half_um())
  expect_equal(um$ecd_um, px$ecd_px / 2)
  expect_equal(um$area_um2, px$area_px2 / 4)
  expect_equal(um$perimeter_um, px$perimeter_px / 2)
  expect_equal(um$feret_max_um, px$feret_max_px / 2)
  expect_equal(um$solidity, px$solidity)
  expect_equal(um$x_um, px$x_px / 2)
  expect_equal(um$x_px, px$x_px)
})

test_that("a quarter turn leaves sizes and shapes as they are", {
  set.seed(54)
  mask <- core_morph(random_mask(40, 50, 0.7), "open", "disk", 1.5, 1.5)$mask
  turned <- t(mask)[rev(seq_len(ncol(mask))), ]
  same <- c(
    "area_px2", "perimeter_px", "feret_max_px", "feret_min_px", "ellipse_major_px", "solidity",
    "holes"
  )
  by_size <- function(m) {
    unname(as.matrix(as.data.frame(m)[do.call(order, as.data.frame(m)[same]), same]))
  }
  expect_equal(by_size(measure_mask(mask)), by_size(measure_mask(turned)))
})

test_that("a disc on pixels that are not square is round in units", {
  at <- seq_len(120) - 0.5
  mask <- outer(at, at, function(y, x) ((x - 60) * 0.5)^2 + (y - 60)^2 <= 25^2)
  m <- measure_mask(mask, calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(m$ecd_um, 50, tolerance = 0.005)
  expect_equal(m$aspect_ratio, 1, tolerance = 0.03)
  expect_equal(m$perimeter_um, 50 * pi, tolerance = 0.03)
})

test_that("grey measures come from the picture as photographed", {
  spot <- matrix(0, 9, 9)
  spot[3:7, 3:7] <- 200
  spot[5, 5] <- 250
  m <- as_field(spot) |>
    filter_median(1) |>
    segment_level(low = 100) |>
    find_objects() |>
    measure_objects()
  expect_equal(m$grey_max, 250)
})

test_that("Feret directions, smallest box, grey sum and inscribed circle equal the plain ones", {
  set.seed(171)
  for (k in 1:12) {
    mask <- core_morph(random_mask(30, 36, 0.7), "open", "disk", 1.5, 1.5)$mask
    if (!any(mask)) next
    grey <- matrix(as.numeric(sample(0:255, 1080, TRUE)), 30)
    field <- as_field(grey, 8)
    objects <- find_objects(new_mask(mask, field, "bright", 0, Inf, list()))
    m <- measure_objects(objects)
    for (id in seq_len(nrow(m))) {
      own <- objects$labels == id
      expect_equal(m$grey_sum[id], sum(grey[own]))
      hull <- ref_hull(own)
      width <- function(degrees) {
        a <- -degrees * pi / 180
        diff(range(hull[, 1] * cos(a) + hull[, 2] * sin(a)))
      }
      expect_equal(
        width(m$feret_max_angle_deg[id]), m$feret_max_px[id], tolerance = 1.4 / m$feret_max_px[id]
      )
      expect_equal(width(m$feret_min_angle_deg[id]), m$feret_min_px[id])
      expect_true(
        m$feret_min_px[id] <= m$feret_mean_px[id] && m$feret_mean_px[id] <= m$feret_max_px[id]
      )
      turns <- seq(0, 90, 0.5)
      boxes <- vapply(turns, function(t) width(t) * width(t + 90), 0)
      expect_lte(m$smallest_box_length_px[id] * m$smallest_box_width_px[id], min(boxes) + 1e-9)
      expect_gte(m$smallest_box_length_px[id], m$smallest_box_width_px[id])
    }
  }
  within <- function(m) measure_objects(find_objects(mask_of(m)), inside = TRUE)
  disc <- within(disc_mask(60, 22.3, 30.2, 29.7))
  expect_equal(disc$inscribed_circle_px, 44.6, tolerance = 0.04)
  bar <- matrix(0, 40, 60)
  bar[11:20, 6:55] <- 1
  bar <- within(bar)
  expect_equal(bar$inscribed_circle_px, 9, tolerance = 0.02)  # centres of ten rows: between the fifth and sixth
  expect_equal(
    c(bar$smallest_box_length_px, bar$smallest_box_width_px), c(50, 10), tolerance = 0.02
  )
  two <- find_objects(mask_of(cbind(matrix(1, 20, 20), matrix(0, 20, 1), matrix(1, 20, 20))))
  two$labels[, 21] <- 2L
  expect_lt(max(measure_objects(two, inside = TRUE)$inscribed_circle_px), 42)
  expect_false("inscribed_circle_px" %in% names(measure_mask(matrix(1, 3, 3))))
  expect_refused(accept_objects(measured_beads(), inscribed_circle = c("2 um", NA)), "not measured",
    class = "argument")
})

test_that("local thickness equals the plain one, and closed forms", {
  set.seed(172)
  for (k in 1:10) {
    mask <- core_morph(random_mask(26, 31, 0.75), "open", "disk", 1.5, 1.5)$mask
    if (!any(mask) || all(mask)) next
    size <- if (k %% 2) c(1, 1) else c(0.8, 1.3)
    objects <- find_objects(mask_of(mask))
    far <- ref_distance(mask, size[1], size[2])
    thick <- 0 * far
    for (i in which(mask)) {
      at <- arrayInd(i, dim(mask))
      away <- sqrt(((col(mask) - at[2]) * size[1])^2 + ((row(mask) - at[1]) * size[2])^2)
      thick[away < far[i] - 1e-9] <- pmax(thick[away < far[i] - 1e-9], far[i])
    }
    want <- as.numeric(tapply(2 * thick[mask] - sqrt(prod(size)), objects$labels[mask], mean))
    found <- core_local_thickness(far, objects$labels, objects$count, size[1], size[2])
    expect_equal(found, want, tolerance = 1e-6)
  }
  within <- function(m) measure_objects(find_objects(mask_of(m)), inside = TRUE)
  expect_equal(within(disc_mask(60, 22.3, 30.2, 29.7))$local_thickness_px, 44.6, tolerance = 0.04)
  bar <- matrix(0, 40, 220)
  bar[15:25, 11:210] <- 1
  bar <- within(bar)
  expect_equal(bar$local_thickness_px, 11, tolerance = 0.02)
  expect_equal(bar$skeleton_length_px, 0.948 * 190, tolerance = 0.03)
  expect_equal(
    within(matrix(c(0, 0, 0, 0, 1, 0, 0, 0, 0), 3))[c("local_thickness_px", "skeleton_length_px")],
    tibble::tibble(local_thickness_px = 1, skeleton_length_px = 0), ignore_attr = TRUE
  )
})

test_that("middle lines of all directions have their length on average", {
  ratio <- vapply(
    seq(0, 175, 5) * pi / 180,
    function(turn) {
      along <- (col(matrix(0, 160, 160)) - 80) * cos(turn) +
        (row(matrix(0, 160, 160)) - 80) * sin(turn)
      across <- (row(matrix(0, 160, 160)) - 80) * cos(turn) -
        (col(matrix(0, 160, 160)) - 80) * sin(turn)
      measure_objects(
        find_objects(mask_of(abs(along) < 60 & abs(across) < 1.6)), inside = TRUE
      )$skeleton_length_px / 118
    },
    0
  )
  expect_equal(mean(ratio), 1, tolerance = 0.02)
})

test_that("nearest neighbours, hole areas and grey centres equal the plain ones", {
  set.seed(173)
  for (k in 1:14) {
    mask <- core_morph(random_mask(28, 34, 0.6), "open", "disk", 1, 1)$mask
    size <- if (k %% 2) c(1, 1) else c(0.8, 1.3)
    grey <- matrix(as.numeric(sample(1:255, 28 * 34, TRUE)), 28)
    objects <- find_objects(new_mask(mask, as_field(grey, 8), "bright", 0, Inf, list()))
    if (objects$count == 0) next
    m <- core_measure(objects$labels, grey, objects$count, 1, 1)
    found <- core_neighbours(
      objects$labels, m$x * size[1], m$y * size[2], objects$count, size[1], size[2]
    )
    table <- measure_objects(objects)
    at <- which(mask, arr.ind = TRUE)
    own <- objects$labels[mask]
    apart <- as.matrix(stats::dist(cbind(at[, 2] * size[1], at[, 1] * size[2])))
    for (id in seq_len(objects$count)) {
      others <- setdiff(seq_len(objects$count), id)
      centres <- sqrt(((m$x[others] - m$x[id]) * size[1])^2 + ((m$y[others] - m$y[id]) * size[2])^2)
      expect_equal(found$centres[id], min(centres, Inf))
      expect_equal(found$edges[id], min(apart[own == id, own != id], Inf))
      full <- ref_fill(objects$labels == id)
      expect_equal(table$hole_area_px2[id], sum(full) - sum(own == id))
      expect_equal(
        table$grey_x_px[id], stats::weighted.mean(at[own == id, 2] - 0.5, grey[mask][own == id])
      )
      expect_equal(
        table$grey_y_px[id], stats::weighted.mean(at[own == id, 1] - 0.5, grey[mask][own == id])
      )
    }
  }
  alone <- measure_objects(find_objects(mask_of(disc_mask(20, 5))), neighbours = TRUE)
  expect_true(is.na(alone$neighbour_gap_px))
  pair <- matrix(0, 20, 40)
  pair[5:10, c(5:14, 20:29)] <- 1
  pair <- measure_objects(find_objects(mask_of(pair, half_um())), neighbours = TRUE)
  expect_equal(pair$neighbour_gap_um, c(2.5, 2.5))
  expect_equal(pair$neighbour_distance_um, c(7.5, 7.5))
  expect_equal(accept_objects(pair, neighbour_gap = c("3 um", NA))$accepted, c(FALSE, FALSE))
})

test_that("longish discs have their length by whole pixels, and widths keep their order", {
  set.seed(58)
  for (ratio in c(1, 1.2, 2, 4)) {
    a <- 12 * sqrt(ratio)
    off <- replicate(40, {
      turn <- stats::runif(1, 0, pi)
      x <- matrix(1:70 - 35 + stats::runif(1), 70, 70, byrow = TRUE)
      y <- matrix(1:70 - 35 + stats::runif(1), 70, 70)
      m <- measure_mask(
        ((x * cos(turn) + y * sin(turn)) / a)^2 +
          ((y * cos(turn) - x * sin(turn)) * ratio / a)^2 <= 1
      )
      expect_lte(m$feret_min_px, m$feret_mean_px + 1e-9)
      expect_lte(m$feret_mean_px, m$feret_max_px + 1e-9)
      m$feret_max_px / (2 * a) - 1
    })
    expect_lt(abs(mean(off)), 0.006)
  }
})

test_that("what is not asked for is not measured, and a table begins with all objects accepted", {
  m <- matrix(FALSE, 12, 20)
  m[3:5, 3:6] <- m[8:10, 12:18] <- TRUE
  objects <- find_objects(mask_of(m))
  plain <- measure_objects(objects)
  expect_false(any(c("inscribed_circle_px", "neighbour_gap_px") %in% names(plain)))
  expect_equal(plain$accepted, c(TRUE, TRUE))
  expect_equal(plain$weight, c(1, 1))
  expect_equal(plain$reason, c("", ""))
  asked <- function(...) attr(measure_objects(objects, ...), "trail")[[4]]$args
  expect_length(asked(), 0)
  expect_equal(asked(inside = TRUE), list(inside = TRUE))
  expect_equal(asked(neighbours = TRUE), list(neighbours = TRUE))
  expect_equal(asked("subpixel"), list(outline = "subpixel"))
})

test_that("gaps, hole areas and circles are in units also where pixels are oblong, never below zero", {
  oblong <- calibration_from_length(c(x = 200, y = 50), "100 um")  # 0.5 x 2 um
  m <- matrix(FALSE, 30, 60)
  m[5:9, 5:9] <- m[5:9, 20:24] <- TRUE
  m[7, 7] <- FALSE
  found <- measure_objects(find_objects(mask_of(m, oblong)), neighbours = TRUE)
  expect_equal(found$hole_area_um2, c(1, 0))
  expect_equal(found$neighbour_distance_um, c(7.5, 7.5))
  expect_equal(found$neighbour_gap_um, c(11 * 0.5 - 1, 11 * 0.5 - 1))
  m[5:9, 10:19] <- FALSE
  touching <- separate_cuts(
    find_objects(mask_of(matrix(TRUE, 9, 19))), data.frame(image = NA, x1 = 9.5, y1 = 0, x2 = 9.5, y2 = 9)
  )
  expect_equal(measure_objects(touching, neighbours = TRUE)$neighbour_gap_px, c(1, 1))
  # an object that fills the picture has no edge to be inside of
  whole <- suppressWarnings(measure_objects(find_objects(mask_of(matrix(TRUE, 9, 9))), inside = TRUE))
  expect_equal(whole$inscribed_circle_px, 0)
  one <- matrix(FALSE, 9, 9)
  one[5, 5] <- TRUE
  expect_equal(measure_objects(find_objects(mask_of(one)), inside = TRUE)$inscribed_circle_px, 1)
})

test_that("objects within an information strip are counted in a warning, until it is trimmed", {
  field <- small_beads(strip = TRUE, width = 420)
  measured <- function(field) measure_objects(find_objects(segment_auto(field, phase = "bright")))
  told <- expect_warning(measured(field), class = "bemrick_warning_strip")
  all <- suppressWarnings(measured(field))
  height <- nrow(field$pixels) - nrow(trim_strip(field)$pixels)
  inside <- sum(all$y_px > nrow(field$pixels) - height)
  expect_gt(inside, 3)
  expect_match(conditionMessage(told), paste(inside, "of", nrow(all), "objects lie in"))
  expect_no_warning(measured(trim_strip(field)))
})

test_that("one object over more than half of the picture is told", {
  m <- matrix(FALSE, 20, 20)
  m[3:17, 3:17] <- TRUE
  expect_warning(measure_objects(find_objects(mask_of(m))), "Object 1 covers 56 %", class = "bemrick_warning_giant")
  m[3:17, 17] <- FALSE
  m[3:12, 16] <- FALSE
  expect_equal(sum(m), 200)
  expect_silent(measure_objects(find_objects(mask_of(m))))
})

test_that("the largest circle and the thickness follow sub-pixel outlines", {
  at <- (seq_len(600) - 0.5) / 5
  seen <- function(inside) {
    fifths <- function(m) t(matrix(colMeans(matrix(m, 5)), ncol = ncol(m)))
    as_field(60 + 120 * fifths(fifths(inside + 0)), 8)
  }
  measured <- function(field, ...) {
    measure_objects(find_objects(segment_level(field, low = 120)), inside = TRUE, ...)
  }
  x <- matrix(at, 600, 600, byrow = TRUE) - 60.2
  y <- matrix(at, 600, 600) - 59.7
  off <- c(pixel = 0, fine = 0)
  for (width in c(5.4, 8.6, 20.6)) for (turn in c(0.3, 1.1)) {
    along <- abs(x * cos(turn) + y * sin(turn)) < 45
    rod <- seen(along & abs(y * cos(turn) - x * sin(turn)) < width / 2)
    fine <- measured(rod, outline = "subpixel")
    expect_equal(fine$inscribed_circle_px, width, tolerance = 0.02)
    expect_equal(fine$local_thickness_px, width, tolerance = if (width < 6) 0.12 else 0.04)
    circles <- c(measured(rod)$inscribed_circle_px, fine$inscribed_circle_px)
    off <- off + abs(circles - width)
  }
  expect_gt(off[["pixel"]], 5 * off[["fine"]])  # whole pixels know it to within one only
  for (radius in c(4.3, 11.7, 30.2)) {
    disc <- measured(seen(x^2 + y^2 < radius^2), outline = "subpixel")
    expect_equal(disc$inscribed_circle_px, 2 * radius, tolerance = 0.02)
    expect_lte(disc$inscribed_circle_px, disc$feret_min_px)
  }
  # a ring: the circle lies between its edges; the frame is no edge, nor is an object without any
  ring <- measured(seen(x^2 + y^2 < 900 & (x - 6)^2 + y^2 > 100), outline = "subpixel")
  expect_equal(ring$inscribed_circle_px, 26, tolerance = 0.02)
  half <- seen(x < 0)
  circle <- suppressWarnings(measured(half, outline = "subpixel"))$inscribed_circle_px
  expect_equal(circle, 2 * 60.2, tolerance = 0.01)
  whole <- suppressWarnings(measured(as_field(matrix(200, 20, 20), 8), outline = "subpixel"))
  expect_equal(whole$inscribed_circle_px, 0)
  one <- matrix(60, 9, 9)
  one[5, 5] <- 180
  expect_equal(measured(as_field(one, 8), outline = "subpixel")$inscribed_circle_px, 1, tolerance = 0.3)
  # in lengths, also of oblong pixels
  scaled <- measured(calibrate(rod, half_um()), outline = "subpixel")
  expect_equal(scaled$inscribed_circle_um, fine$inscribed_circle_px / 2)
  oblong <- calibrate(rod, calibration_from_length(c(x = 100, y = 50), "100 um"))
  expect_lt(measured(oblong, outline = "subpixel")$inscribed_circle_um, 2 * 20.6)
})

test_that("sub-pixel outlines are kept as they were measured, and are those that are traced", {
  field <- simulate_field(width = 200, height = 150, count = 12, diameter = "14 um", seed = 2)
  objects <- find_objects(segment_auto(field, phase = "bright"))
  for (blur in c("kept", "corrected")) {
    measures <- measure_objects(objects, outline = "subpixel", blur = blur)
    kept <- attr(measures, "objects")$outlines
    expect_identical(kept, object_outlines(objects, "subpixel", blur))
    expect_identical(outlines_of(accept_objects(measures)), kept)
  }
  again <- measure_objects(attr(measures, "objects"))
  expect_null(attr(again, "objects")$outlines)
  expect_identical(outlines_of(again), object_outlines(objects))
  cut <- data.frame(image = NA, x1 = 0, y1 = 75, x2 = 200, y2 = 75)
  expect_null(suppressWarnings(separate_cuts(attr(measures, "objects"), cut))$outlines)
})

test_that("an object on the border of a strip is not within it", {
  field <- small_beads(strip = TRUE, width = 420)
  depth <- field$truth$strip_px
  top <- nrow(field$pixels) - depth
  expect_no_warning(warn_of_strip(field, 100, top))
  expect_warning(warn_of_strip(field, 100, top + 0.1), "1 of 1", class = "bemrick_warning_strip")
  expect_no_warning(warn_of_strip(field, c(0, 420), top + c(5, 5)))
  expect_no_warning(warn_of_strip(field, 100, nrow(field$pixels)))
})
