# Discs drawn with known sub-pixel place: grey is the covered share.
soft_disc <- function(radius, x, y, size = 2 * ceiling(radius) + 10) {
  at <- seq_len(size * 16) / 16 - 1 / 32
  fine <- outer(at, at, function(b, a) (a - x)^2 + (b - y)^2 <= radius^2) + 0
  part <- rep(seq_len(size), each = 16)
  as_field(40 + 160 * t(rowsum(t(rowsum(fine, part)), part)) / 256, 8)
}

of_disc <- function(field, outline) {
  measure_objects(find_objects(segment_level(field, low = 120)), outline = outline)
}

# A shape drawn with known sub-pixel place and turn; `inside(u, v)` about its middle, grey the
# covered share.
soft_shape <- function(
  inside, half, shift = stats::runif(2, -0.5, 0.5), turn = stats::runif(1, 0, pi / 2), object = 200,
  ground = 40
) {
  size <- 2 * ceiling(half + 6)
  at <- (seq_len(size * 16) - 0.5) / 16 - size / 2
  fine <- outer(at, at, function(y, x) {
    inside(
      (x - shift[1]) * cos(turn) + (y - shift[2]) * sin(turn),
      -(x - shift[1]) * sin(turn) + (y - shift[2]) * cos(turn)
    )
  }) + 0
  part <- rep(seq_len(size), each = 16)
  as_field(ground + (object - ground) * t(rowsum(t(rowsum(fine, part)), part)) / 256, 8)
}

# A square of half a side `h` with corners of radius `q`: its area, perimeter and diagonal.
round_square <- function(h, q) {
  function(u, v) {
    du <- abs(u) - (h - q)
    dv <- abs(v) - (h - q)
    pmax(du, dv) <= q & (du <= 0 | dv <= 0 | du^2 + dv^2 <= q^2)
  }
}

of_round_square <- function(h, q) {
  c(4 * h^2 - (4 - pi) * q^2, 8 * h - (8 - 2 * pi) * q, 2 * (sqrt(2) * (h - q) + q))
}

size_of <- function(m) c(m$area_px2, m$perimeter_px, m$feret_max_px)

# A regular polygon of `n` sides whose corners lie `r` from its middle: inside or not, and its area,
# perimeter and diagonal.
regular <- function(n, r) {
  function(u, v) {
    sector <- 2 * pi / n
    off <- atan2(v, u) %% sector - sector / 2
    sqrt(u^2 + v^2) * cos(off) <= r * cos(sector / 2)
  }
}

of_regular <- function(n, r) {
  corner <- 2 * pi * seq_len(n) / n
  c(
    n * r^2 * sin(2 * pi / n) / 2, 2 * n * r * sin(pi / n),
    max(stats::dist(r * cbind(cos(corner), sin(corner))))
  )
}

test_that("sub-pixel outlines give areas, lengths and diameters of discs closer than whole pixels do", {
  set.seed(231)
  for (radius in c(6, 10, 20)) {
    off <- vapply(1:12, function(k) {
      field <- soft_disc(radius, radius + 5 + stats::runif(1), radius + 5 + stats::runif(1))
      fine <- of_disc(field, "subpixel")
      coarse <- of_disc(field, "pixel")
      c(fine$ecd_px, coarse$ecd_px, fine$perimeter_px / pi, fine$feret_max_px) / (2 * radius) - 1
    }, numeric(4))
    expect_lt(sqrt(mean(off[1, ]^2)), 0.6 * sqrt(mean(off[2, ]^2)))
    expect_lt(sqrt(mean(off[1, ]^2)) * 2 * radius, 0.036)
    expect_lt(abs(mean(off[3, ])), 0.003)
    expect_lt(abs(mean(off[4, ])), 0.006)
  }
})

test_that("edges as sharp as pixels are placed to a few hundredths, blurred ones where the level is crossed", {
  set.seed(232)
  # half a picture, cut by a straight line: grey is the covered share, from 20 x 20 points a pixel
  half <- function(angle, place, blur = 0) {
    at <- (seq_len(30 * 20) - 0.5) / 20 - 15
    fine <- outer(at, at, function(y, x) x * cos(angle) + y * sin(angle) <= place) + 0
    part <- rep(1:30, each = 20)
    field <- as_field(40 + 160 * t(rowsum(t(rowsum(fine, part)), part)) / 400, 8)
    if (blur > 0) filter_gaussian(field, blur) else field
  }
  off <- function(field, angle, place, level = 120) {
    o <- object_outlines(find_objects(segment_level(field, low = level)), "subpixel")
    x <- o$x_px - 15
    y <- o$y_px - 15
    inner <- abs(x) < 9 & abs(y) < 9  # not the frame, nor where the smoothing of the ring reaches to it
    x[inner] * cos(angle) + y[inner] * sin(angle) - place
  }
  for (k in 1:12) {
    angle <- stats::runif(1, 0, 2 * pi)
    place <- stats::runif(1, -1, 1)
    expect_lt(max(abs(off(half(angle, place), angle, place))), 0.045)
    expect_lt(abs(mean(off(half(angle, place), angle, place))), 0.02)
    expect_lt(max(abs(off(half(angle, place, 1), angle, place))), 0.03)
    # a lower level lies farther out
    expect_gt(mean(off(half(angle, place, 1), angle, place, 90)), 0.3)
  }
})

test_that("rings are those of the pixel outlines, go round the same pixels and meet the level", {
  field <- filter_gaussian(small_beads(touching = 0.3, seed = 4), 1)
  objects <- separate_watershed(segment_auto(field))
  fine <- object_outlines(objects, "subpixel")
  coarse <- object_outlines(objects)
  one <- function(o) o[!duplicated(o$ring), c("id", "ring", "hole")]
  expect_equal(one(fine), one(coarse))
  m <- measure_objects(objects, outline = "subpixel")
  expect_equal(m$area_um2, measure_objects(objects)$area_um2, tolerance = 0.05)
  expect_equal(names(m), names(measure_objects(objects)))
})

test_that("a ring round a hole takes its area off, and the frame keeps its edge", {
  field <- soft_disc(20, 25, 25)
  holed <- field
  inner <- soft_disc(8, 25, 25, 50)
  holed$pixels <- field$pixels - (inner$pixels - 40)
  m <- of_disc(holed, "subpixel")
  expect_equal(m$area_px2, pi * (20^2 - 8^2), tolerance = 0.005)
  expect_equal(m$perimeter_px, 2 * pi * 28, tolerance = 0.01)
  full <- measure_objects(
    suppressWarnings(find_objects(segment_level(as_field(matrix(200, 10, 14)), low = 100))),
    "subpixel"
  )
  expect_equal(full$area_px2, 140, tolerance = 0.02)
  dot <- matrix(0, 5, 5)
  dot[3, 3] <- 200
  expect_gt(
    measure_objects(find_objects(segment_level(as_field(dot), low = 100)), "subpixel")$area_px2, 0.2
  )
})

test_that("pixels that are not square, and masks without one level", {
  field <- soft_disc(15, 20.3, 20.6)
  tall <- calibrate(field, calibration_from_length(c(x = 100, y = 50), "100 um"))
  m <- of_disc(tall, "subpixel")
  expect_equal(m$area_um2, pi * 15^2 * 2, tolerance = 0.002)
  expect_equal(m$feret_max_um, 60, tolerance = 0.01)
  local <- suppressWarnings(segment_local(field, 20, "mean"))
  expect_refused(measure_objects(find_objects(local), "subpixel"), "one threshold", class = "level")
  expect_refused(measure_objects(find_objects(local), "fine"), class = "argument")
})

test_that("corners are as sharp or as round as they are", {
  set.seed(233)
  for (h in c(8, 20)) {
    for (q in c(0, 1, 2, 5)) {
      off <- vapply(
        1:12,
        function(k) {
          field <- soft_shape(round_square(h, q), 1.5 * h)
          size_of(measure_objects(find_objects(segment_level(field, low = 120)), "subpixel")) /
            of_round_square(h, q) - 1
        },
        numeric(3)
      )
      expect_lt(max(abs(rowMeans(off)[1:2])), 0.003)
      expect_lt(abs(mean(off[3, ])), if (q == 5) 0.01 else 0.004)
    }
  }
})

test_that("dark objects, holes and inner corners are measured like bright objects and outer corners", {
  set.seed(234)
  angle <- function(u, v) pmax(abs(u), abs(v)) <= 12 & (u < 0 | v < 0)  # a square that lacks a quarter
  frame <- function(u, v) pmax(abs(u), abs(v)) <= 20 & pmax(abs(u), abs(v)) > 10
  for (k in 1:6) {
    shift <- stats::runif(2, -0.5, 0.5)
    turn <- stats::runif(1, 0, pi / 2)
    bright <- measure_objects(
      find_objects(segment_level(soft_shape(angle, 18, shift, turn), low = 120)), "subpixel"
    )
    dark <- measure_objects(
      find_objects(segment_level(soft_shape(angle, 18, shift, turn, 40, 200), high = 120)),
      "subpixel"
    )
    expect_equal(size_of(dark), size_of(bright))
    expect_equal(size_of(bright)[1:2], c(432, 96), tolerance = 0.006)
    framed <- measure_objects(
      find_objects(segment_level(soft_shape(frame, 30, shift, turn), low = 120)), "subpixel"
    )
    expect_equal(size_of(framed), c(1200, 240, 40 * sqrt(2)), tolerance = 0.004)
    expect_equal(framed$holes, 1)
  }
})

test_that("a corner beside another object or at the frame stays as the level draws it", {
  picture <- matrix(40, 40, 40)
  picture[10:20, 10:20] <- 200
  alone <- object_outlines(find_objects(segment_level(as_field(picture), low = 120)), "subpixel")
  reach <- function(o, id = 1) max(o$x_px[o$id == id] + o$y_px[o$id == id])
  expect_equal(reach(alone), 40, tolerance = 0.002)  # the corner at (20, 20)
  picture[22:30, 22:30] <- 200
  beside <- object_outlines(find_objects(segment_level(as_field(picture), low = 120)), "subpixel")
  expect_lt(reach(beside), 39.7)
  cut <- object_outlines(
    find_objects(segment_level(as_field(picture[1:22, 1:22]), low = 120)), "subpixel"
  )
  expect_lt(reach(cut), 39.7)
})

test_that("a pixel on the level itself is the edge, not a pixel beyond it", {
  ramp <- matrix(rep(c(0, 50, 100, 150, 200, 200, 150, 100, 50, 0), each = 30), 30)
  o <- object_outlines(find_objects(segment_level(as_field(ramp), low = 100)), "subpixel")
  inner <- o$y_px > 4 & o$y_px < 26
  expect_equal(range(o$x_px[inner]), c(2.5, 7.5), tolerance = 1e-6)  # the middles of the pixels of 100
  dark <- object_outlines(find_objects(segment_level(as_field(200 - ramp), high = 100)), "subpixel")
  expect_equal(dark, o)
})

test_that("sub-pixel outlines do not depend on the number of threads", {
  objects <- separate_watershed(segment_auto(small_beads(touching = 0.3, seed = 4)))
  on.exit(use_threads(NULL))
  use_threads(1)
  one <- list(object_outlines(objects, "subpixel"), measure_objects(objects, "subpixel"))
  use_threads(2)
  expect_identical(
    list(object_outlines(objects, "subpixel"), measure_objects(objects, "subpixel")), one
  )
})

test_that("an object of two pieces is measured as one", {
  grey <- matrix(40, 30, 60)
  grey[10:20, c(5:15, 40:50)] <- 200
  two <- core_measure_contours((grey > 100) + 0L, grey, 120, 0, 1L, 1, 1)
  expect_equal(two$area, 2 * 121, tolerance = 0.005)
  expect_equal(two$perimeter, 8 * 11, tolerance = 0.008)
  expect_equal(two$feret_max, sqrt(46^2 + 11^2), tolerance = 0.006)
  none <- core_measure_contours(matrix(0L, 4, 4), matrix(0, 4, 4), 120, 0, 0L, 1, 1)
  expect_length(none$area, 0)
})

test_that("levels off the middle move the sides of a sharp picture, and its corners with them", {
  set.seed(235)
  square <- round_square(10, 0)
  for (level in c(80, 160)) {
    found <- vapply(
      1:12,
      function(k) {
        m <- measure_objects(
          find_objects(segment_level(soft_shape(square, 15), low = level)), "subpixel"
        )
        c(
          m$area_px2, m$perimeter_px / (4 * sqrt(m$area_px2)),
          m$feret_max_px / sqrt(2 * m$area_px2)
        )
      },
      numeric(3)
    )
    expect_equal(rowMeans(found[2:3, ]), c(1, 1), tolerance = 0.015)
    expect_equal(sign(mean(found[1, ]) - 400), sign(120 - level))
  }
})

test_that("outlines of tiny, thin and empty objects are finite and keep the order of widths", {
  set.seed(236)
  for (k in 1:40) {
    picture <- matrix(stats::runif(sample(1:12, 1) * 9), ncol = 9) * 250
    picture[sample(length(picture), 2)] <- 120  # on the level
    objects <- suppressWarnings(find_objects(segment_level(as_field(picture, 8), low = 120)))
    m <- measure_objects(objects, "subpixel")
    o <- object_outlines(objects, "subpixel")
    expect_true(all(is.finite(m$area_px2), is.finite(m$perimeter_px), m$perimeter_px >= 0))
    expect_true(all(
      m$feret_min_px <= m$feret_mean_px + 1e-9, m$feret_mean_px <= m$feret_max_px + 1e-9
    ))
    expect_true(all(o$x_px >= 0, o$x_px <= ncol(picture), o$y_px >= 0, o$y_px <= nrow(picture)))
    expect_setequal(o$id, seq_len(objects$count))
  }
})

test_that("triangles to octagons have their area, perimeter and diagonal", {
  set.seed(237)
  for (n in c(3, 5, 6, 8)) {
    off <- vapply(
      1:8,
      function(k) {
        field <- soft_shape(regular(n, 16), 16)
        size_of(measure_objects(find_objects(segment_level(field, low = 120)), "subpixel")) /
          of_regular(n, 16) - 1
      },
      numeric(3)
    )
    expect_lt(max(abs(rowMeans(off))), 0.003)
    expect_lt(max(abs(off[1, ])), 0.003)
  }
})

test_that("pixels that are not square have corners too", {
  set.seed(238)
  for (k in 1:6) {
    field <- soft_shape(round_square(10, 0), 15, turn = 0)
    tall <- calibrate(field, calibration_from_length(c(x = 100, y = 50), "100 um"))
    m <- measure_objects(find_objects(segment_level(tall, low = 120)), "subpixel")
    expect_equal(
      c(m$area_um2, m$perimeter_um, m$feret_max_um), c(800, 120, 20 * sqrt(5)), tolerance = 0.006
    )
  }
})

test_that("outlines filled give the labels they were drawn round, cut off at the frame", {
  set.seed(5)
  for (k in 1:40) {
    size <- sample(3:12, 2, TRUE)
    objects <- find_objects(mask_of(matrix(runif(prod(size)) < 0.55, size[1])))
    o <- object_outlines(objects)
    o <- o[order(o$id), ]
    first <- which(!duplicated(o$ring))
    corners <- diff(c(first, nrow(o) + 1L))
    fill <- function(size, shift = 0) {
      core_fill_rings(o$x_px + shift, o$y_px + shift, corners, o$id[first], size[1], size[2])
    }
    expect_equal(fill(size), objects$labels)
    expect_equal(fill(size + 2, 1)[1 + seq_len(size[1]), 1 + seq_len(size[2])], objects$labels)
    within <- objects$labels[2:(size[1] - 1), 2:(size[2] - 1), drop = FALSE]
    expect_equal(fill(size - 2, -1), within)
  }
  # a centre on a side belongs to what lies right of it or below it
  triangle <- core_fill_rings(c(0, 8, 0), c(0, 8, 8), 3L, 7L, 8L, 8L)
  expect_equal(triangle, 7L * (row(triangle) > col(triangle)))
})

# Each pixel the mean of 3 x 3 points.
of_points <- function(m) {
  thirds <- function(m) t(matrix(colMeans(matrix(m, 3)), ncol = ncol(m)))
  thirds(thirds(m))
}

# Rods of 40 x `width` at all angles, seen with a point spread and noise: list(field, area of one).
drawn_rods <- function(width, sigma, noise = 3) {
  set.seed(71)
  n <- 300
  at <- (seq_len(3 * n) - 0.5) / 3
  grey <- matrix(70, 3 * n, 3 * n)
  for (x in seq(30, 270, 60)) for (y in seq(30, 270, 60)) {
    turn <- stats::runif(1, 0, pi)
    aside <- stats::runif(2)
    dx <- outer(at * 0, at - x - aside[1], "+")
    dy <- outer(at - y - aside[2], at * 0, "+")
    along <- abs(dx * cos(turn) + dy * sin(turn)) < 20
    grey[along & abs(dy * cos(turn) - dx * sin(turn)) < width / 2] <- 180
  }
  pixels <- core_gaussian(of_points(grey), sigma, sigma) + stats::rnorm(n^2, 0, noise)
  as_field(round(pmin(pmax(pixels, 0), 255)), 8)
}

test_that("widths of rods are those from side to side, not from the farthest points of noise", {
  for (width in c(8, 5)) {
    mask <- segment_auto(filter_median(drawn_rods(width, 1.2), 1), "kohler", "bright")
    measures <- measure_objects(find_objects(mask), outline = "subpixel")
    outlines <- split(object_outlines(find_objects(mask), "subpixel"), ~id)
    hull <- vapply(outlines, function(ring) {
      min(vapply(seq(0, pi, length.out = 500), function(a) {
        diff(range(ring$x_px * cos(a) + ring$y_px * sin(a)))
      }, 0))
    }, 0)
    expect_equal(mean(measures$feret_min_px), width, tolerance = 0.03)
    expect_equal(mean(measures$smallest_box_width_px), width, tolerance = 0.03)
    expect_equal(mean(measures$smallest_box_length_px), 40, tolerance = 0.015)
    expect_gt(mean(hull), mean(measures$feret_min_px) + 0.1)
  }
  # nothing is taken off what is round, has its width between corners, or two ends side by side
  at <- (seq_len(240) - 0.5) / 3
  disc <- of_points((outer((at - 40.3)^2, (at - 40.1)^2, "+") < 400) + 0)
  disc <- round(60 + 120 * core_gaussian(disc, 1, 1))
  fork <- matrix(60, 80, 80)
  fork[20:60, 20:50] <- 180
  fork[30:50, 20:40] <- 60
  for (pixels in list(disc, fork)) {
    objects <- find_objects(segment_level(as_field(pixels, 8), low = 120))
    ring <- object_outlines(objects, "subpixel")
    hull <- min(vapply(seq(0, pi, length.out = 2001), function(a) {
      diff(range(ring$x_px * cos(a) + ring$y_px * sin(a)))
    }, 0))
    expect_equal(measure_objects(objects, "subpixel")$feret_min_px, hull, tolerance = 1e-3)
  }
})

test_that("a blur that is undone gives small discs and rods back what it took", {
  n <- 200
  at <- (seq_len(3 * n) - 0.5) / 3
  set.seed(72)
  grey <- matrix(180, 3 * n, 3 * n)
  for (x in seq(20, 180, 40)) for (y in seq(20, 180, 40)) {
    aside <- stats::runif(2)
    grey[outer((at - y - aside[1])^2, (at - x - aside[2])^2, "+") < 5^2] <- 70
  }
  pixels <- core_gaussian(of_points(grey), 1.4, 1.4) + stats::rnorm(n^2, 0, 3)
  mask <- segment_auto(filter_median(as_field(round(pixels), 8), 1), "kohler", "dark")
  objects <- find_objects(mask)
  kept <- measure_objects(objects, "subpixel")
  undone <- measure_objects(objects, "subpixel", blur = "corrected")
  expect_lt(mean(kept$ecd_px), 9.8)
  expect_equal(mean(undone$ecd_px), 10, tolerance = 0.01)
  expect_equal(undone_blur(undone), 1.4, tolerance = 0.25)
  expect_equal(undone_blur(kept), 0)
  # once round, whatever the shape, pi times the variance beyond that of a pixel
  expect_equal(
    mean(undone$area_px2 - kept$area_px2), pi * wide_blur(undone_blur(undone)), tolerance = 0.05
  )
  rods <- find_objects(segment_auto(drawn_rods(8, 1.4), "kohler", "bright"))
  for (blur in c("kept", "corrected")) {
    area <- measure_objects(rods, "subpixel", blur)$area_px2
    expect_equal(mean(area), 320, tolerance = if (blur == "kept") 0.03 else 0.01)
  }
  # drawn as measured
  expect_equal(outlines_of(undone), object_outlines(objects, "subpixel", "corrected"))
  ring <- outlines_of(undone)[outlines_of(undone)$id == 1, ]
  after <- c(2:nrow(ring), 1)
  twice <- sum(ring$x_px * ring$y_px[after] - ring$x_px[after] * ring$y_px)
  expect_equal(abs(twice) / 2, undone$area_px2[1], tolerance = 0.01)
  # in a method as well
  again <- apply_method(filter_median(as_field(round(pixels), 8), 1), as_method(undone))
  expect_equal(undone_blur(again), undone_blur(undone), tolerance = 0.1)
  expect_refused(measure_objects(objects, blur = "corrected"), "outline", class = "argument")
  expect_refused(object_outlines(objects, "pixel", "corrected"), class = "argument")
  # with the method, not with every field
  expect_refused(
    read_method(text_file(
      "bemrick: method 1", "steps:", "  - segment_auto: {phase: bright}", "  - find_objects: {}",
      "  - measure_objects: {blur: corrected}"
    )),
    "measure_objects", class = "argument"
  )
})

test_that("without blur there is nothing to undo, with much an object is kept whole", {
  square <- matrix(50, 40, 40)
  square[10:29, 10:29] <- 200
  objects <- find_objects(segment_level(as_field(square, 8), low = 125))
  expect_equal(blur_of(objects), 0)
  expect_equal(
    object_outlines(objects, "subpixel", "corrected"), object_outlines(objects, "subpixel")
  )
  soft <- find_objects(segment_level(as_field(core_gaussian(square, 4, 4), 8), low = 125))
  ring <- object_outlines(soft, "subpixel", "corrected")
  expect_true(all(ring$x_px > 4 & ring$x_px < 35))
  none <- find_objects(suppressWarnings(segment_level(as_field(square, 8), low = 250)))
  expect_equal(nrow(suppressWarnings(measure_objects(none, "subpixel", "corrected"))), 0)
})

test_that("of a blur all but the pixels' own is undone", {
  expect_equal(wide_blur(2), 4 - 1 / 12)
  expect_equal(wide_blur(0.1), 0)
})

test_that("a blur that cannot be is not undone, and sharp tips are moved no farther than half of it", {
  noise <- as_field(repeatable(4, matrix(round(stats::rnorm(3600, 128, 8)), 60)))
  specks <- find_objects(mask_open(segment_level(noise, low = 128), 1))
  expect_refused(
    measure_objects(specks, "subpixel", blur = "corrected"), "pixels wide: it cannot be undone",
    class = "blur"
  )
  expect_refused(object_outlines(specks, "subpixel", "corrected"), class = "blur")
  # a third of the mean width of all is the limit: 4 times their area over their perimeter
  counts <- c(1000, 40, 40, 40, 40, 40, 40, 40, 1000)
  blur <- edge_blur(counts, 4, 100)
  expect_equal(checked_blur(counts, 4, 100, 1.001 * 3 * blur * 100 / 4), blur)
  expect_refused(checked_blur(counts, 4, 100, 0.999 * 3 * blur * 100 / 4), class = "blur")
  expect_equal(checked_blur(counts, 4, 0, 0), 0)

  wedge <- outer(1:60, 1:90, function(y, x) abs(y - 30) < (x - 10) / 8 & x > 10 & x < 80)
  soft <- filter_gaussian(as_field(255 * wedge), 3)
  objects <- find_objects(segment_level(soft, low = 128))
  kept <- trace_outlines(objects, "subpixel", 0)
  moved <- trace_outlines(objects, "subpixel", 3)
  step <- sqrt((moved$x_px - kept$x_px)^2 + (moved$y_px - kept$y_px)^2)
  expect_gt(max(step), 1.2)
  expect_lt(max(step), 1.5)
})
