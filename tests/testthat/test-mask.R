test_that("NA is not object", {
  mask <- matrix(c(TRUE, NA, FALSE, TRUE), 2)
  expect_identical(opened(mask, 0, 0), matrix(c(TRUE, FALSE, FALSE, TRUE), 2))
})

test_that("masks, labels and counts are the same on any number of threads", {
  set.seed(77)
  grey <- matrix(as.numeric(sample(0:255, 201 * 150, TRUE)), 201)
  mask <- core_between(grey, 60, 200)
  one <- list(
    core_fill(mask, Inf), core_morph(mask, "open", "disk", 2, 2),
    core_morph(mask, "close", "line", 3, 1), core_label(mask)
  )
  counts <- core_histogram(grey, 256)
  expect_equal(counts, tabulate(grey + 1, 256))
  for (threads in 2:4) {
    expect_identical(core_between(grey, 60, 200, threads), mask)
    expect_identical(core_histogram(grey, 256, threads), counts)
    again <- list(
      core_fill(mask, Inf, threads), core_morph(mask, "open", "disk", 2, 2, threads),
      core_morph(mask, "close", "line", 3, 1, threads), core_label(mask, threads)
    )
    expect_identical(again, one)
  }
  expect_equal(core_histogram(matrix(3, 1, 1), 256, 4)[4], 1)  # more threads than pixels
})

test_that("a mask is printed with its size, phase and share", {
  m <- matrix(FALSE, 20, 30)
  m[1:3, 1:7] <- TRUE
  mask <- mask_of(m)
  expect_equal(format(mask)[1], "<mask> 30 x 20 pixels, bright phase, 3.5 % of the picture")
  expect_match(format(mask_of(disc_mask(37, 9)))[1], "37 x 37 pixels, bright phase, 18.48 % of")
})

test_that("what can hardly be meant is told: an empty mask, and more than half with most of the frame", {
  told <- function(m, phase = "bright", region = NULL) {
    field <- as_field(m * 255)
    if (!is.null(region)) field <- keep_within(field, region)
    found <- tryCatch({
      segment_level(
        field, low = if (phase == "bright") 128, high = if (phase == "dark") 128
      )
      ""
    }, warning = function(w) paste(class(w)[1], conditionMessage(w)))
    found
  }
  framed <- function(rows, gaps) {
    m <- matrix(TRUE, 20, 20)
    m[seq_len(rows) + 1, 2:19] <- FALSE
    m[1, 1 + seq_len(gaps)] <- FALSE
    m
  }
  # more than nine tenths of the frame: up to 7 pixels may be missing
  expect_match(told(framed(5, 7)), "warning_polarity.*76 . of the picture.*phase = \"dark\"")
  expect_equal(told(framed(5, 8)), "")
  expect_match(told(!framed(5, 7), "dark"), "The dark phase.*phase = \"bright\"")
  # half of the picture and the whole frame are not too much: 200 of 400
  half <- framed(11, 0)
  half[13, 2:3] <- FALSE
  expect_equal(sum(half), 200)
  expect_equal(told(half), "")
  half[13, 2] <- TRUE
  expect_match(told(half), "polarity")
  expect_match(told(matrix(FALSE, 5, 5)), "warning_empty No pixel is bright enough")
  expect_match(told(matrix(TRUE, 5, 5), "dark"), "warning_empty No pixel is dark enough")
  one <- matrix(FALSE, 5, 5)
  one[3, 3] <- TRUE
  expect_equal(told(one), "")
  # what counts is the share of the sample
  part <- matrix(FALSE, 20, 20)
  part[6:15, 6:15] <- TRUE
  expect_equal(told(part, region = region_box(5, 5, 15, 15)), "")
  between <- expect_warning(segment_level(as_field(one * 255), low = 50, high = 60))
  expect_match(conditionMessage(between), "between the levels enough")
})

test_that("steps say how many pixels they added or removed", {
  m <- matrix(FALSE, 12, 12)
  m[3:9, 3:9] <- TRUE
  mask <- mask_of(m)
  grown <- mask_dilate(mask, 1, shape = "square")
  expect_equal(decision(grown$trail, "mask_dilate"), list(added = 81 - 49))
  expect_equal(decision(mask_erode(grown, 1, "square")$trail, "mask_erode"), list(removed = 81 - 49))
  expect_equal(decision(mask_fill(mask)$trail, "mask_fill"), list(added = 0))
  expect_refused(mask_open(mask, radius = -1), class = "quantity")
  expect_refused(mask_open(mask, radius = 3000), class = "argument")
})
