view_of <- function(side, file = kit("beads.png")) {
  with_windows(side, disk_view(field_on_disk(file)))
}

test_that("tiles cover the picture, each pixel once", {
  view <- view_of(100)
  seen <- matrix(0, view$size[1], view$size[2])
  tiles <- tiles_of(view)
  for (k in seq_len(nrow(tiles))) {
    rows <- tiles$top[k] + seq_len(tiles$rows[k])
    cols <- tiles$left[k] + seq_len(tiles$cols[k])
    seen[rows, cols] <- seen[rows, cols] + 1
  }
  expect_true(all(seen == 1))
})

test_that("a window after steps is cut from what the whole picture would be", {
  whole <- filter_median(filter_gaussian(read_field(kit("beads.png")), 1), 2)
  view <- view_of(100)
  for (step in list(step_of("filter_gaussian", sigma = 1), step_of("filter_median", radius = 2))) {
    view <- grey_on_disk(view, step$step, step$args)
  }
  expect_equal(view$margin, c(7, 7))
  for (at in list(c(0, 0), c(33, 71), c(nrow(whole) - 40, ncol(whole) - 50))) {
    part <- window_after_steps(view, at[1], at[2], 40, 50)
    expect_identical(part$pixels, whole$pixels[at[1] + 1:40, at[2] + 1:50])
    expect_identical(part$picture, whole$picture[at[1] + 1:40, at[2] + 1:50])
  }
})

# A view of a picture with so many pixels a side, read in strips or (0) in tiles.
sized_view <- function(side, line = side, reach = 0, block = 1) {
  list(
    size = c(side, side), times = 1, margin = c(reach, reach), block = c(block, block),
    source = list(line_bytes = line, held_bytes = 0)
  )
}

test_that("windows are as large as memory lets them be", {
  view <- sized_view(30000)
  side <- function(memory) window_side(view, memory)
  expect_equal(side(7.4e8) %% 64, 0)
  expect_gt(side(7.8e8), side(7.4e8))
  # larger ones gain nothing, unless much of each is cut off
  expect_equal(side(1e12), 1024)
  expect_equal(window_side(sized_view(30000, 0, reach = 100), 1e12), 1600)
  # rows over the whole width are held where a file is read in strips
  expect_lt(side(7.4e8), window_side(sized_view(30000, 0), 7.4e8))
  used <- side(7.4e8)^2 * bytes_per_pixel + side(7.4e8) * 30000 + memory_beside_windows(view)
  expect_lte(used, 7.4e8)
  expect_gt(used, 0.69e9)
  # what is excluded is held as bits, too
  expect_equal(
    memory_beside_windows(c(view, outside = TRUE)) - memory_beside_windows(view), 30000^2 / 8
  )
  expect_refused(side(6.7e8), "GB are given|MB are given", class = "memory")
})

test_that("garbage of windows may take three fifths of the memory there is, or what they hold", {
  asked <- 0
  view <- sized_view(6000)
  view$field <- list(disk = list(memory = memory_beside_windows(view) + 4e8))
  with_own("core_widen_heap", function(bytes) asked <<- bytes, {
    let_windows_gather(view)
    expect_equal(asked, 2.4e8)
    view$size <- c(1000, 1000)
    let_windows_gather(view)
  })
  expect_equal(asked, 1e6 * bytes_per_pixel)
})

test_that("what steps need round a tile is taken off its side", {
  plain <- window_side(sized_view(30000, 0), 7.4e8)
  expect_equal(window_side(sized_view(30000, 0, reach = 128), 7.4e8), plain - 256)
  # to the end of a block, and of those beyond that the pixels there need
  expect_equal(reach_of_window(sized_view(30000, 0, reach = 10, block = 64)), c(138, 138))
  expect_refused(window_side(sized_view(30000, 0, reach = 3000), 1e9), "for these steps", class = "memory")
  field <- field_on_disk(tiff_made(matrix(0, 300, 300)), memory = "400 MB")
  expect_refused(
    grey_on_disk(disk_view(field), "filter_gaussian", list(sigma = 400)), "400 MB are given",
    class = "memory"
  )
})

test_that("a window never goes farther than was reckoned", {
  view <- view_of(64)
  for (step in list(step_of("filter_nonlocal", radius = 2, noise = 9), step_of("filter_median", radius = 3))) {
    view <- with_windows(64, grey_on_disk(view, step$step, step$args))
  }
  most <- NULL
  read <- view$source$read
  view$source$read <- function(top, left, rows, cols) {
    most <<- pmax(most %||% c(0, 0), c(rows, cols))
    read(top, left, rows, cols)
  }
  each_tile(view, function(field, tile) force(field))
  expect_true(all(most <= 64 + 2 * reach_of_window(view)))
})

test_that("each side of what steps need counts, and pixels that are merged as they are read", {
  view <- sized_view(30000, 0)
  plain <- window_side(view, 7.4e8)
  view$margin <- c(0, 128)
  expect_equal(window_side(view, 7.4e8), plain - 256)
  expect_equal(reach_of_window(sized_view(30000, 0, reach = 10, block = 2)), c(22, 22))
  # four pixels of the file to one, rows over its whole width
  view <- sized_view(30000)
  view$times <- 2
  used <- function(side) {
    side^2 * (bytes_per_pixel + 8 * 4) + side * 30000 * 2 + memory_beside_windows(view)
  }
  side <- window_side(view, 7.4e8)
  expect_lte(used(side), 7.4e8)
  expect_gt(used(side + 64), 7.4e8)
})

test_that("small pictures need no window larger than they are", {
  view <- sized_view(200, 0)
  view$size <- c(200, 40)
  memory <- function(side) memory_beside_windows(view) + side^2 * bytes_per_pixel
  expect_equal(window_side(view, memory(205)), 192)
  expect_refused(window_side(view, memory(100)), "are given", class = "memory")
})

test_that("a window knows its part of what is excluded", {
  region <- list(region = list(circle = list(40, 30, 25)))
  field <- as_field(matrix(round(stats::runif(60 * 90, 0, 255)), 60))
  view <- disk_view(field_on_disk(tiff_made(field$pixels)))
  expect_equal(c(view$block, view$margin, view$times), c(1, 1, 0, 0, 1))
  view <- grey_on_disk(view, "keep_within", region)
  whole <- run_step(field, "keep_within", region)
  part <- window_after_steps(view, 20, 45, 30, 40)
  expect_identical(part$outside, whole$outside[20 + 1:30, 45 + 1:40])
})
