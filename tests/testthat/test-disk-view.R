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

test_that("windows are as large as memory lets them be", {
  view <- list(size = c(30000, 30000), source = list(line_bytes = 30000))
  side <- function(memory) window_side(view, memory)
  expect_equal(side(1e9) %% 64, 0)
  expect_gt(side(2e9), side(1e9))
  expect_equal(side(1e12), 4096)
  # rows over the whole width are held where a file is read in strips
  expect_lt(side(1e9), window_side(list(size = c(30000, 30000), source = list(line_bytes = 0)), 1e9))
  used <- function(side) side^2 * bytes_per_pixel + side * 30000 + planes_of_bits * 9e8 / 8 + memory_at_rest
  expect_lte(used(side(1e9)), 1e9)
  expect_error(side(7e8), "about", class = "bemrick_error_memory")
})
