shaped <- function(mask, how, shape, r) core_morph(mask, how, shape, r[1], r[2])$mask

test_that("binary morphology equals the plain one for every shape", {
  set.seed(221)
  for (k in 1:240) {
    mask <- matrix(stats::runif(sample.int(40, 1) * sample.int(24, 1)) < 0.6, ncol = 1)
    rows <- sample.int(nrow(mask), 1)
    mask <- matrix(mask[seq_len(rows * (nrow(mask) %/% rows))], rows)
    shape <- c("disk", "square", "diamond", "line")[k %% 4 + 1]
    r <- if (shape == "line") stats::runif(2, -6, 6) else stats::runif(2, 0, 5)
    slow <- function(m, fun) ref_extreme(m, shape, r[1], r[2], fun) > 0
    eroded <- slow(mask, min)
    dilated <- slow(mask, max)
    expect_identical(shaped(mask, "erode", shape, r), eroded, label = paste(shape, r[1], r[2]))
    expect_identical(shaped(mask, "dilate", shape, r), dilated)
    expect_identical(shaped(mask, "open", shape, r), slow(eroded, max))
    expect_identical(shaped(mask, "close", shape, r), slow(dilated, min))
  }
})

test_that("lines open what runs along them", {
  m <- matrix(0, 30, 30)
  m[15, 5:25] <- 1
  m[5:25, 8] <- 1
  mask <- mask_of(m)
  along <- mask_open(mask, radius = 4, shape = "line", angle = 0)$pixels
  expect_equal(which(rowSums(along) > 2), 15L)
  upright <- mask_open(mask, radius = 4, shape = "line", angle = 90)$pixels
  expect_equal(which(colSums(upright) > 2), 8L)
  slanted <- mask_of(diag(30)[30:1, ])  # rises to the right
  expect_identical(mask_open(slanted, 5, "line", 45)$pixels, slanted$pixels)
  expect_false(any(mask_open(slanted, 5, "line", -45)$pixels[8:23, 8:23]))
  expect_error(mask_open(mask, 2, "hexagon"), class = "bemrick_error_argument")
})

test_that("holes up to an area are filled, specks below one dropped, in pixels and lengths", {
  m <- matrix(1, 20, 30)
  m[5, 5] <- 0
  m[10:12, 10:13] <- 0
  mask <- mask_of(m, half_um())
  expect_equal(sum(!mask_fill(mask)$pixels), 0)
  expect_equal(sum(!mask_fill(mask, largest = 5)$pixels), 12)
  expect_equal(sum(!mask_fill(mask, largest = "3 um2")$pixels), 0)
  expect_equal(sum(!mask_fill(mask, largest = "2.9 um2")$pixels), 12)
  specks <- mask_of(1 - m, half_um())
  expect_equal(sum(mask_drop(specks, 2)$pixels), 12)
  expect_equal(sum(mask_drop(specks, "3.1 um2")$pixels), 0)
  expect_error(mask_drop(specks, "3 um"), "area", class = "bemrick_error_quantity")
  expect_error(mask_drop(mask_of(m), "3 um2"), class = "bemrick_error_no_calibration")
})

test_that("masks are turned over, outlined and combined", {
  set.seed(222)
  a <- mask_of(matrix(stats::runif(600) < 0.5, 20) + 0)
  b <- mask_of(matrix(stats::runif(600) < 0.5, 20) + 0)
  expect_identical(mask_flip(a)$pixels, !a$pixels)
  expect_equal(mask_flip(a)$phase, "dark")
  expect_identical(mask_combine(a, b, "and")$pixels, a$pixels & b$pixels)
  expect_identical(mask_combine(a, b, "or")$pixels, a$pixels | b$pixels)
  expect_identical(mask_combine(a, b, "without")$pixels, a$pixels & !b$pixels)
  expect_identical(mask_combine(a, b, "xor")$pixels, xor(a$pixels, b$pixels))
  expect_error(mask_combine(a, mask_of(matrix(1, 3, 3))), class = "bemrick_error_argument")
  square <- matrix(0, 12, 12)
  square[4:9, 4:9] <- 1
  expect_equal(sum(mask_boundary(mask_of(square))$pixels), 20)
})

test_that("skeletons are thin, inside, and as connected as the objects", {
  set.seed(223)
  for (k in 1:200) {
    mask <- core_morph(matrix(stats::runif(900) < 0.72, 30), "open", "disk", 1, 1)$mask
    thin <- core_skeleton(mask)
    expect_true(all(mask[thin]))
    expect_equal(core_label(thin)$count, core_label(mask)$count)
    again <- core_skeleton(thin)
    expect_identical(again, thin)
    blocks <- thin[-1, -1] & thin[-1, -30] & thin[-30, -1] & thin[-30, -30]
    expect_lte(sum(blocks), 0.05 * sum(thin) + 6)  # crossings of several lines
  }
  bar <- matrix(FALSE, 21, 60)
  bar[8:14, 5:55] <- TRUE
  thin <- core_skeleton(bar)
  expect_true(all(which(rowSums(thin[, 15:45]) > 0) == 11))
  ring <- disk_ring(41, 16, 9)
  expect_gt(core_fill(core_skeleton(ring), Inf)$more, 300)  # still closed round its hole
})

test_that("the excluded area neither erodes nor grows objects", {
  m <- matrix(0, 40, 60)
  m[10:30, 20:50] <- 255
  field <- keep_within(as_field(m), region_box(30, 0, 60, 40))
  mask <- suppressWarnings(segment_level(field, low = 128))
  expect_equal(which(colSums(mask_erode(mask, 2)$pixels) > 0), 31:48)
  expect_false(any(mask_dilate(mask, 3)$pixels[, 1:30]))
  expect_identical(mask_open(mask, 3, "square")$pixels, mask$pixels)
})

test_that("regions of every form hold the pixels whose centres lie in them", {
  field <- calibrate(as_field(matrix(runif(60 * 80, 0, 255), 60)), half_um())
  inside <- function(region) !keep_within(field, region)$outside
  expect_equal(sum(inside(region_box(10, 5, 30, 25))), 400)
  expect_equal(sum(inside(region_circle(40, 30, 20))), pi * 400, tolerance = 0.01)
  expect_equal(sum(inside(region_ring(40, 30, 10, 20))), pi * 300, tolerance = 0.02)
  expect_identical(inside(region_polygon(c(10, 30, 30, 10), c(5, 5, 25, 25))), inside(region_box(10, 5, 30, 25)))
  expect_identical(inside(region_circle("20 um", "15 um", "10 um")), inside(region_circle(40, 30, 20)))
  expect_identical(inside(list(circle = c(40, 30, 20))), inside(region_circle(40, 30, 20)))
  expect_equal(sum(inside(region_polygon(c(0, 40, 0), c(0, 0, 40)))), 800, tolerance = 0.03)
  twice <- keep_within(keep_within(field, region_box(0, 0, 50, 60)), region_box(30, 0, 80, 60))
  expect_equal(sample_size(twice), 20 * 60)
  expect_error(keep_within(field, region_circle(500, 5, 3)), "outside", class = "bemrick_error_region")
  expect_error(keep_within(field, list(circle = c(1, 2))), class = "bemrick_error_region")
  expect_error(keep_within(field, list(cirle = c(1, 2, 3))), "circle", class = "bemrick_error_unknown_name")
  expect_error(region_polygon(1:2, 1:2), class = "bemrick_error_argument")
  file <- text_file("bemrick: method 1", "steps:", "  - keep_within: {region: {circle: [40, 30, 20]}}",
                    "  - filter_kernel: {kernel: [[0, 1, 0], [1, 2, 1], [0, 1, 0]], normalise: true}",
                    "  - segment_auto: {phase: auto}",
                    "  - mask_drop: {smallest: 4 px2}")
  mask <- suppressWarnings(apply_method(field, file))
  expect_false(any(mask$pixels & mask$field$outside))
  again <- tempfile(fileext = ".yml")
  write_method(as_method(mask), again)
  expect_identical(suppressWarnings(apply_method(field, again))$pixels, mask$pixels)
})

test_that("elements longer than a word spread as the plain ones do", {
  set.seed(85)
  for (k in 1:12) {
    mask <- matrix(stats::runif(210 * 20) < 0.01, 210)
    reach <- sample(c(63, 64, 65, 90, 130), 1)
    tall <- core_morph(mask, "dilate", "line", 0, reach)$mask
    want <- apply(mask, 2, function(v) {
      on <- which(v)
      vapply(seq_along(v), function(y) any(abs(on - y) <= reach), NA)
    })
    expect_equal(tall, want)
    back <- core_morph(mask, "close", "line", 0, reach)
    expect_true(all(back$mask[mask]))
    expect_equal(back$more, sum(back$mask) - sum(mask))
  }
})

test_that("holes up to an area equal the plain ones, joined along edges only", {
  set.seed(86)
  for (k in 1:200) {
    mask <- random_mask(sample.int(30, 1), sample.int(30, 1), 0.65)
    largest <- sample(0:6, 1)
    holes <- ref_fill(mask) & !mask
    want <- mask
    left <- holes
    while (any(left)) {  # one hole after the other, grown along edges
      hole <- matrix(FALSE, nrow(mask), ncol(mask))
      hole[which(left)[1]] <- TRUE
      repeat {
        at <- which(hole, arr.ind = TRUE)
        beside <- rbind(at, at + rep(c(1, 0), each = nrow(at)), at - rep(c(1, 0), each = nrow(at)),
          at + rep(c(0, 1), each = nrow(at)),
                        at - rep(c(0, 1), each = nrow(at)))
        beside <- beside[beside[, 1] %in% seq_len(nrow(mask)) & beside[, 2] %in% seq_len(ncol(mask)), , drop = FALSE]
        grown <- hole
        grown[beside] <- left[beside]
        if (sum(grown) == sum(hole)) break
        hole <- grown
      }
      if (sum(hole) <= largest) want <- want | hole
      left <- left & !hole
    }
    expect_equal(core_fill(mask, largest)$mask, want)
  }
})
