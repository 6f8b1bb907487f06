test_that("labels equal the plain ones, numbered in reading order", {
  set.seed(41)
  for (k in 1:220) {
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
  for (k in 1:120) {
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
  for (k in 1:60) {
    mask <- core_morph(random_mask(40, 40, 0.75), "open", "disk", 1, 1)$mask
    parts <- core_watershed(mask, 1, 1)
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
  for (k in 1:80) {
    mask <- random_mask(sample.int(25, 1), sample.int(25, 1), 0.6)
    objects <- find_objects(mask_of(mask))
    o <- object_outlines(objects)
    if (nrow(o) == 0) next
    areas <- vapply(split(o, o$ring), function(r) ring_area(r$x_px, r$y_px) * if (r$hole[1]) -1 else 1, 0)
    owner <- vapply(split(o$id, o$ring), function(i) i[1], 0L)
    expect_equal(as.numeric(tapply(areas, owner, sum)), as.numeric(tabulate(objects$labels[objects$labels > 0])))
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
  for (k in 1:6) {
    mask <- matrix(TRUE, 130, 170)
    mask[cbind(sample(130, k, TRUE), sample(170, k, TRUE))] <- FALSE
    ground <- which(!mask, arr.ind = TRUE)
    size <- if (k %% 2) c(1, 1) else c(0.7, 1.3)
    far <- matrix(Inf, 130, 170)
    for (g in seq_len(nrow(ground))) {
      away <- sqrt(((row(far) - ground[g, 1]) * size[2])^2 + ((col(far) - ground[g, 2]) * size[1])^2)
      far <- pmin(far, away)
    }
    expect_equal(core_distance(mask, size[1], size[2]), far, tolerance = 1e-6)
  }
})
