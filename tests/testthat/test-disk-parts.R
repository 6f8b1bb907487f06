mask_on_bits <- function(pixels, side) {
  field <- field_on_disk(tiff_made(pixels * 200))
  with_windows(side, mask_on_disk(disk_view(field), "segment_level", list(low = 100)))
}

test_that("bits give back what was written, at any place", {
  set.seed(5)
  for (k in 1:60) {
    size <- sample(1:150, 2, TRUE)
    kept <- matrix(stats::runif(prod(size)) < 0.4, size[1])
    bits <- core_bits(size[1], size[2])
    core_bits_write(bits, 0, 0, kept, 0, 0, size[1], size[2], FALSE)
    expect_identical(core_bits_read(bits, 0, 0, size[1], size[2]), kept)
    expect_equal(core_bits_count(bits), sum(kept))
    from <- c(sample.int(size[1], 1), sample.int(size[2], 1)) - 1
    n <- c(sample.int(size[1] - from[1], 1), sample.int(size[2] - from[2], 1))
    at <- list(from[1] + seq_len(n[1]), from[2] + seq_len(n[2]))
    expect_identical(
      core_bits_read(bits, from[1], from[2], n[1], n[2]), kept[at[[1]], at[[2]], drop = FALSE]
    )
    # from the middle of other pixels, in place of or beside what is there
    other <- matrix(stats::runif(prod(n + 3)) < 0.5, n[1] + 3)
    add <- k %% 2 == 0
    core_bits_write(bits, from[1], from[2], other, 2, 1, n[1], n[2], add)
    part <- other[2 + seq_len(n[1]), 1 + seq_len(n[2]), drop = FALSE]
    kept[at[[1]], at[[2]]] <- if (add) part | kept[at[[1]], at[[2]]] else part
    expect_identical(core_bits_read(bits, 0, 0, size[1], size[2]), kept)
  }
  expect_error(core_bits_read(bits, 0, 0, size[1] + 1, 1), "beyond")
  expect_error(core_bits_write(bits, 0, 0, kept, 1, 0, size[1], 1, FALSE), "beyond")
})

test_that("parts of bits are those of labels", {
  set.seed(6)
  for (k in 1:60) {
    size <- sample(1:90, 2, TRUE)
    pixels <- matrix(stats::runif(prod(size)) < stats::runif(1), size[1])
    bits <- core_bits(size[1], size[2])
    core_bits_write(bits, 0, 0, pixels, 0, 0, size[1], size[2], FALSE)
    parts <- core_bits_parts(bits)
    found <- core_label(pixels)
    first <- core_first_pixels(found$labels, found$count)
    expect_equal(parts$top, first$row)
    expect_equal(parts$first, first$col)
    expect_equal(parts$area, tabulate(found$labels, found$count))
    inside <- found$labels > 0
    ends <- function(values, f) {
      unname(vapply(split(values[inside], found$labels[inside]), f, 0L))
    }
    if (found$count > 0) {
      expect_equal(parts$left, ends(col(pixels), min))
      expect_equal(parts$right, ends(col(pixels), max))
      expect_equal(parts$bottom, ends(row(pixels), max))
    }
    least <- sample(1:6, 1)
    core_bits_drop(bits, least)
    large <- tabulate(found$labels, found$count) >= least
    kept <- matrix(c(FALSE, large)[found$labels + 1], size[1])
    expect_identical(core_bits_read(bits, 0, 0, size[1], size[2]), kept)
  }
})

test_that("every part has a window that holds it, with a margin", {
  set.seed(7)
  pixels <- core_morph(matrix(stats::runif(12000) < 0.02, 100), "dilate", "disk", 3, 3)$mask
  mask <- mask_on_bits(pixels, 32)
  windows <- 0
  owned <- 0
  each_part_window(mask, 2, function(window, place, first) {
    rows <- place$top + seq_len(place$rows)
    cols <- place$left + seq_len(place$cols)
    expect_identical(window$pixels, pixels[rows, cols])
    parts <- parts_of_window(window, first)
    expect_equal(sum(parts$own), nrow(first))
    expect_false(any(cut_labels(parts$labels, place, dim(pixels)) %in% which(parts$own)))
    owned <<- owned + sum(parts$own)
    windows <<- windows + 1
  })
  expect_equal(owned, core_label(pixels)$count)
  expect_gt(windows, 4)
})

test_that("an object too large for the memory is named with what it takes", {
  field <- field_on_disk(tiff_made(matrix(c(0, 200), 40, 60)), memory = "400 MB")
  view <- with_windows(32, disk_view(field))
  expect_refused(
    check_part_fits(list(top = 3, left = 4, rows = 5000, cols = 4000), view), "4000 x 5000",
    class = "memory"
  )
  expect_no_error(check_part_fits(list(top = 0, left = 0, rows = 60, cols = 60), view))
})

# A view of 300 rows and 400 columns in tiles of 100, with so much memory.
tiled_view <- function(memory = 1e12, reach = 0) {
  list(
    side = 100, size = c(300, 400), times = 1, margin = c(reach, reach), block = c(1, 1),
    field = list(disk = list(memory = memory)), source = list(line_bytes = 0, held_bytes = 0)
  )
}

test_that("parts go with the tile of their first pixel, large ones by themselves", {
  # the last row and column of a tile, the first ones of the next; just not large, and just large
  parts <- data.frame(
    top = c(10, 100, 101, 20, 30, 40, 50, 120), bottom = c(15, 120, 104, 25, 33, 90, 99, 140),
    left = c(20, 90, 5, 99, 10, 60, 70, 210), right = c(30, 110, 9, 105, 60, 70, 80, 259),
    first = c(25, 100, 6, 101, 40, 65, 75, 230)
  )
  windows <- part_windows(parts, tiled_view(), 2)
  found <- lapply(windows, function(w) w$parts)
  expect_setequal(found, list(c(1L, 2L, 7L), 5L, 6L, 4L, 3L, 8L))
  expect_equal(vapply(found, function(p) p[1], 0L)[4:6], c(4, 3, 8))
  # as far as its parts and the margin reach, not beyond the picture
  of <- function(part) windows[[which(vapply(found, function(p) part %in% p, NA))]]$place
  expect_equal(of(1), list(top = 7, left = 17, rows = 115, cols = 95))
  expect_equal(of(5), list(top = 27, left = 7, rows = 8, cols = 55))
  corner <- data.frame(top = 1, bottom = 300, left = 2, right = 400, first = 2)
  expect_equal(
    part_windows(corner, tiled_view(), 2)[[1]]$place, list(top = 0, left = 0, rows = 300, cols = 400)
  )
})

test_that("a large part is refused from the byte on that it needs too many", {
  place <- list(top = 0, left = 0, rows = 400, cols = 500)
  # three planes of bits beside what R takes, and what steps need on both sides
  need <- (400 + 14) * (500 + 14) * bytes_per_pixel + 3.3e8 + 3 * 300 * 400 / 8
  expect_no_error(check_part_fits(place, tiled_view(need, 7)))
  expect_refused(check_part_fits(place, tiled_view(need - 1, 7)), "500 x 400", class = "memory")
})

test_that("parts that a window cuts are those on its sides, but for sides of the picture", {
  labels <- matrix(0L, 6, 7)
  labels[1, 3] <- 1L
  labels[6, 4] <- 2L
  labels[2, 1] <- 3L
  labels[3, 7] <- 4L
  labels[4, 4] <- 5L
  cut <- function(top, left, size) {
    sort(cut_labels(labels, list(top = top, left = left, rows = 6, cols = 7), size))
  }
  expect_length(cut(0, 0, c(6, 7)), 0)
  expect_equal(cut(1, 0, c(7, 7)), 1)
  expect_equal(cut(0, 0, c(7, 7)), 2)
  expect_equal(cut(0, 1, c(6, 8)), 3)
  expect_equal(cut(0, 0, c(6, 8)), 4)
  expect_equal(cut(1, 1, c(8, 9)), 1:4)
})
