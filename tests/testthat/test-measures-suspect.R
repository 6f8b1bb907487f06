test_that("merges are suspected with their reasons, single objects are not", {
  field <- small_beads(width = 480, height = 360, count = 40, touching = 0.35, noise = 2, seed = 12)
  merged <- suspect_merges(measure_objects(find_objects(mask_fill(segment_auto(field)))))
  parted <- suspect_merges(measure_objects(separate_watershed(mask_fill(segment_auto(field)))))
  several <- table(label_of_truth(merged, field))
  clumps <- as.integer(names(several)[several > 1])
  expect_gt(mean(merged$suspected[clumps] != ""), 0.9)
  expect_lt(mean(merged$suspected[-clumps] != ""), 0.05)
  expect_lt(mean(parted$suspected != ""), 0.5 * mean(merged$suspected != ""))
  expect_match(merged$suspected[clumps[1]], "maxima|solidity|larger")
})

test_that("each sign of a merge is told at its limit", {
  m <- matrix(FALSE, 60, 200)
  for (k in 0:7) m[5:14, 20 * k + 5:14] <- TRUE
  m[25:26, 5:14] <- TRUE  # a bar, solid
  m[40:50, 5:15] <- TRUE
  m[45:50, 10:15] <- FALSE  # an L
  m <- m | outer(1:60 - 0.5, 1:200 - 0.5, function(y, x) {
    (x - 60)^2 + (y - 40)^2 < 64 | (x - 73)^2 + (y - 40)^2 < 64
  })
  measures <- measure_objects(find_objects(mask_of(m)))
  said <- suspect_merges(measures)$suspected
  expect_equal(said[1:8], rep("", 8))
  big <- which.max(measures$area_px2)
  expect_match(said[big], "2 distance maxima")
  l <- which(measures$solidity < 0.9 & seq_along(said) != big)
  expect_true(all(grepl(
    paste0("solidity ", signif(measures$solidity[l], 2)), said[l], fixed = TRUE
  )))
  exact <- suspect_merges(measures, solidity = measures$solidity[l[1]])$suspected
  expect_no_match(exact[l[1]], "solidity")
  expect_equal(
    decision(attr(suspect_merges(measures), "trail"), "suspect_merges")$suspected, sum(said != "")
  )
  # a deep saddle is asked for: one part
  expect_no_match(suspect_merges(measures, depth = "9 px")$suspected[big], "maxima")
})

test_that("areas far beyond the others need eight objects and some spread", {
  areas <- function(sides) {
    m <- matrix(FALSE, 60, 40 * length(sides))
    for (k in seq_along(sides)) {
      m[5 + seq_len(sides[k]), 40 * (k - 1) + 3 + seq_len(sides[k])] <- TRUE
    }
    suspect_merges(measure_objects(find_objects(mask_of(m))))$suspected
  }
  expect_equal(sum(areas(c(8, 9, 10, 11, 10, 9, 8, 34)) == "much larger than the others"), 1)
  expect_equal(sum(areas(c(8, 9, 10, 11, 10, 9, 34)) != ""), 0)
  expect_equal(sum(areas(c(rep(9, 8), 34)) != ""), 0)
})

test_that("an area is too large beyond three and a half robust standard deviations of its logarithm", {
  areas <- function(side) {
    sides <- c(8, 9, 10, 11, 10, 9, 8, side)
    m <- matrix(FALSE, 40, 240)
    for (k in 1:8) m[5 + seq_len(sides[k]), 30 * (k - 1) + 3 + seq_len(sides[k])] <- TRUE
    measures <- measure_objects(find_objects(mask_of(m)))
    log_area <- log(measures$area_px2)
    list(
      said = suspect_merges(measures)$suspected[8],
      away = (log_area[8] - stats::median(log_area)) / stats::mad(log_area)
    )
  }
  expect_true(areas(20)$away > 3.5 && areas(20)$away < 5.2)
  expect_equal(areas(20)$said, "much larger than the others")
  expect_true(areas(15)$away > 3 && areas(15)$away < 3.5)
  expect_equal(areas(15)$said, "")
})

test_that("solidity is told to two digits", {
  m <- matrix(FALSE, 30, 30)
  m[5:20, 5:20] <- TRUE
  m[5:15, 5:15] <- FALSE
  said <- suspect_merges(measure_objects(find_objects(mask_of(m))))$suspected
  expect_match(said, "^solidity 0[.][0-9][0-9](,|$)")
})
