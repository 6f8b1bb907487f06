split_scene <- function() {
  # three apart, a pair with a deep neck, a pair with a shallow one
  mask_of(
    disc_mask(240, 16, 40, 40) | disc_mask(240, 12, 110, 40) | disc_mask(240, 20, 190, 50) |
      disc_mask(240, 18, 50, 130) | disc_mask(240, 18, 82, 130) |
      disc_mask(240, 20, 150, 190) | disc_mask(240, 20, 174, 190)
  )
}

test_that("the count, merges and splits are those of the masks split at each depth", {
  mask <- split_scene()
  response <- split_response(mask, c("5 %", "30 %", "60 %"))
  expect_s3_class(response, "bm_split")
  t <- tibble::as_tibble(response)
  expect_equal(t$depth, c(0.05, 0.3, 0.6))
  for (k in 1:3) {
    parts <- separate_watershed(mask, paste(100 * t$depth[k], "%"))
    expect_equal(t$objects[k], parts$count)
    expect_equal(t$merges[k], sum(measure_objects(parts)$solidity < 0.9))
  }
  expect_equal(t$objects, c(7, 6, 5))
  expect_equal(t$splits, c(0, 0, 0))
  # an oblong whole that grey noise notches: convex, and yet split
  long <- disc_mask(200, 30, 70, 100) | disc_mask(200, 30, 100, 100) | disc_mask(200, 30, 130, 100)
  long[100 + -30:30, 70:130] <- TRUE
  long[c(70:71, 129:130), 96:104] <- FALSE
  split <- split_response(mask_of(long), c(0, 0.01, 0.3))
  expect_equal(split$table$splits, split$table$objects - 1)
  expect_equal(split$table$merges, c(0, 0, 0))
  expect_output(print(response), "by watershed, .*7 objects, 0 suspected merges")
  # the same by outlines
  outlines <- split_response(mask, c("5 %", "30 %", "60 %"), "outlines")
  for (k in 1:3) {
    expect_equal(
      outlines$table$objects[k], separate_outlines(mask, paste(100 * t$depth[k], "%"))$count
    )
  }
  expect_equal(outlines$table$objects[1], 7)
  expect_match(
    format(outlines)[1],
    paste(
      "^<split> by outlines, . different counts at 3 depths from 5 to 60 %,",
      "count steady from [0-9]+ to [0-9]+ %$"
    )
  )
  # two that cross, which distances take for one or for more than two
  crossed <- ellipse_mask(rbind(c(60, 60, 50, 14, 30), c(60, 60, 50, 14, 120)))
  expect_equal(split_response(crossed, 1:3 / 20, "outlines")$table$objects, c(2, 2, 2))
  expect_false(any(split_response(crossed, 1:3 / 20)$table$objects == 2))
})

test_that("the plateau is the longest run of depths with a steady count", {
  expect_equal(longest_plateau(1:6, c(100, 99, 98, 80, 80, 50)), c(1, 3))
  expect_equal(longest_plateau(1:6, c(100, 90, 80, 80, 80, 80)), c(3, 6))
  expect_equal(longest_plateau(1:4, c(4, 3, 2, 1)), c(4, 4))
  expect_equal(longest_plateau(1:3, c(0, 0, 0)), c(1, 3))
  expect_equal(split_response(split_scene(), 0:6 / 20)$plateau[1], 0)
})

test_that("depths that make no sense are refused", {
  mask <- split_scene()
  for (bad in list(c(0.1, 0.2), c(0.1, 0.2, NA), c(0.1, 0.2, 1), c(-0.1, 0, 0.1), "5 %", TRUE)) {
    expect_error(split_response(mask, bad), class = "bemrick_error")
  }
  none <- suppressWarnings(segment_level(as_field(matrix(0, 30, 30)), low = 10))
  expect_equal(split_response(none)$table$objects, rep(0L, 15))
})

test_that("a split is printed with shares in percent, and tries depths from none to half", {
  made <- structure(
    list(
      table = tibble::tibble(depth = c(0, 0.05, 0.25), objects = 9:7, merges = 2:0, splits = 0:2),
      plateau = c(0.05, 0.25), separate = "watershed"
    ),
    class = c("bm_split", "bemrick")
  )
  expect_equal(format(made), c(
    "<split> by watershed, 3 different counts at 3 depths from 0 to 25 %, count steady from 5 to 25 %",
    "  0 %   9 objects, 2 suspected merges, 0 suspected splits",
    "  5 %   8 objects, 1 suspected merges, 1 suspected splits",
    "  25 %  7 objects, 0 suspected merges, 2 suspected splits"
  ))
  expect_equal(
    split_response(mask_of(disc_mask(60, 12, 30, 30)))$table$depth,
    c(seq(0, 0.2, 0.02), 0.25, 0.3, 0.4, 0.5)
  )
})
