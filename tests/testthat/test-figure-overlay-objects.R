# the page of an overlay, level by level (the red of each pixel), before it is packed
page_of <- function(draw, channel = 0) {
  drawn <- NULL
  with_own("write_page", function(raster, file) drawn <<- raster, draw())
  t(matrix(bitwAnd(bitwShiftR(as.vector(unclass(drawn)), 8 * channel), 255L), ncol(drawn)))
}

test_that("an overlay in a results folder is drawn as the figure is: picture, outlines by group, numbers", {
  measures <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  file <- tempfile(fileext = ".jpg")
  save_overlay(measures, file, "T")
  page <- 255 * jpeg::readJPEG(file)
  near <- function(hex) {
    wanted <- grDevices::col2rgb(hex)[, 1]
    abs(page[, , 1] - wanted[1]) + abs(page[, , 2] - wanted[2]) + abs(page[, , 3] - wanted[3]) < 60
  }
  size <- c(1090, 1090 * 240 / 320)
  for (state in c("accepted", "rejected")) {
    at <- which(near(look[[state]]), arr.ind = TRUE)
    at <- at[at[, 1] > 64 & at[, 1] < 64 + size[2], ]
    expect_gt(nrow(at), 200)
    # all of them on outlines of that group
    own <- object_outlines(attr(measures, "objects"))
    own <- own[own$id %in% measures$id[measures$accepted == (state == "accepted")], ]
    x <- 15 + own$x_px * size[1] / 320
    y <- 64 + own$y_px * size[2] / 240
    some <- at[seq(1, nrow(at), length.out = 60), ]
    away <- apply(some, 1, function(p) min((x - p[2])^2 + (y - p[1])^2))
    expect_lt(stats::quantile(away, 0.95), 12^2)  # to the next corner
  }
  # the picture lies where it should: far from outlines and numbers page and picture agree
  shown <- core_native_raster(attr(measures, "objects")$mask$field$picture, 255)
  expect_equal(dim(shown), c(240, 320))
  expect_equal(
    matrix(bitwAnd(as.vector(shown), 255L), 320)[5, 7],
    attr(measures, "objects")$mask$field$picture[7, 5]
  )
})

test_that("a page has its heading above, scale and groups below, and the picture between", {
  beads <- measured_beads()
  page <- page_of(function() save_overlay(beads, "x", "A title"))
  height <- nrow(page)
  bottom <- 64 + 1090 * 240 / 320
  ink <- function(rows, cols) sum(page[rows, cols] < 128)
  expect_gt(ink(10:34, 15:400), 100)  # title
  expect_gt(ink(38:58, 15:700), 100)  # what it says
  expect_equal(ink(1:8, 1:1120), 0)
  expect_equal(ink(10:60, 900:1120), 0)
  expect_true(all(page[60:61, ] == 255))
  expect_true(all(page[, 1:11] == 255) && all(page[65:bottom, 1110:1120] == 255))
  # the groups' lines are drawn in their colours, 22 above the lower end
  at <- height - 22
  blue <- bitwAnd(native_colour(look$accepted), 255L)
  expect_true(all(page[at, 20:45] == blue))
  expect_equal(page[c(at - 4, at + 4), 30], c(255, 255))
  # the scale bar ends where the picture does
  bar <- bar_marks(320, 240, attr(beads, "objects")$mask$field$calibration)
  y <- round(64 + bar$y * 1090 / 320)
  expect_true(all(page[y, ceiling(15 + bar$from * 1090 / 320):1104] < 128))
  expect_true(all(page[y, 1110:1120] == 255))
})

test_that("a number stands on a pale plate at its place, those beside on a hair line", {
  grey <- matrix(40, 240, 320)
  grey[40:43, 60:63] <- 200  # a small one, and one with room for its number
  grey[120:180, 150:220] <- 200
  two <- measure_objects(find_objects(segment_level(as_field(grey, 8), low = 100)))
  page <- page_of(function() save_overlay(two, "x", "T"))
  n <- thin_numbers(numbered_objects(two), 320, 240)
  expect_equal(n$beside, c(FALSE, TRUE))  # the largest first
  times <- 1090 / 320
  pale <- strtoi("B0", 16L) / 255
  ground <- c(200, 40)
  for (k in 1:2) {
    left <- round(15 + (n$x[k] - n$half_width[k]) * times) + 1
    right <- round(15 + (n$x[k] + n$half_width[k]) * times)
    top <- round(64 + (n$y[k] - n$half_height[k]) * times) + 1
    bottom <- round(64 + (n$y[k] + n$half_height[k]) * times)
    plate <- page[top:bottom, left:right]
    # the pale ground of the plate is what most of it shows
    shown <- as.integer(names(which.max(table(plate))))
    expect_equal(shown, round(ground[k] * (1 - pale) + 255 * pale), tolerance = 0.01)
    expect_gt(sum(plate < 120), 6)  # the number on it
    outside <- page[(top - 3):(bottom + 3), (left - 3):(right + 3)]
    expect_equal(sum(outside == shown), sum(plate == shown), tolerance = 0.02)
    # in the middle of it
    at <- which(plate < 120, arr.ind = TRUE)
    expect_lt(abs(mean(range(at[, 2])) - (ncol(plate) + 1) / 2), 2)
    expect_lt(abs(mean(range(at[, 1])) - (nrow(plate) + 1) / 2), 2.5)
  }
  # all along the hair line, ink within paler ground
  from <- c(15 + n$x_px[2] * times, 64 + n$y_px[2] * times)
  to <- c(15 + n$x[2] * times, 64 + n$y[2] * times)
  for (t in c(0.02, 0.3, 0.5, 0.7)) {
    near <- ceiling(from + t * (to - from))
    expect_lt(min(page[near[2] + (-1:1), near[1] + (-1:1)]), 85)
    expect_gt(max(page[near[2] + (-3:3), near[1] + (-3:3)]), 90)
  }
})

test_that("what is written is where a device that has the whole page would write it", {
  beads <- accept_objects(suspect_merges(measured_beads()), ecd = c("14 um", NA))
  field <- attr(beads, "objects")$mask$field
  told <- NULL
  say <- function(measures, numbered) {
    told <<- numbered
    "Said of it"
  }
  page <- page_of(function() with_own("overlay_subtitle", say, save_overlay(beads, "x", "A title")))
  expect_equal(told, nrow(thin_numbers(numbered_objects(beads), 320, 240)))
  at <- overlay_page(320, 240, 1)
  capture <- blank_page(at$width, at$height)
  write_heading(at, "A title", "Said of it")
  draw_groups(object_groups(beads, NULL), at$height - 22)
  draw_scale_bar(field, at$x, at$y)
  whole <- capture(native = TRUE)
  grDevices::dev.off()
  whole <- t(matrix(bitwAnd(as.vector(unclass(whole)), 255L), at$width))
  expect_equal(dim(page), dim(whole))
  expect_lt(max(abs(page[1:61, ] - whole[1:61, ])), 2)
  below <- (64 + at$size[2] + 4):at$height
  expect_lt(mean(abs(page[below, ] - whole[below, ])), 0.6)  # the foot is a part of a pixel higher
})

test_that("outlines of suspected and rejected objects are dashed, those of others are not", {
  grey <- matrix(40, 240, 320)
  for (x in c(40, 140, 240)) grey[60:160, x:(x + 60)] <- 200
  three <- measure_objects(find_objects(segment_level(as_field(grey, 8), low = 100)))
  three$accepted[2] <- FALSE
  three$suspected <- c("", "", "solidity 0.8")
  page <- page_of(function() save_overlay(three, "x", "T"), 2)
  times <- 1090 / 320
  drawn <- vapply(1:3, function(k) {
    x <- round(15 + (c(40, 140, 240)[k] - 1) * times)  # the left sides
    colour <- bitwAnd(bitwShiftR(native_colour(
      c(look$accepted, look$rejected, look$mark)[k]
    ), 16), 255L)
    rows <- round(64 + 65 * times):round(64 + 155 * times)
    mean(apply(abs(page[rows, x + (-1:1)] - colour) < 40, 1, any))
  }, 0)
  expect_equal(drawn[1], 1)
  expect_equal(drawn[2], 0.5, tolerance = 0.15)
  expect_equal(drawn[3], 2 / 3, tolerance = 0.15)
})

test_that("the overview of a picture on disk is the overlay of the same picture made smaller", {
  set.seed(4)
  grey <- matrix(40, 900, 2400) + round(stats::rnorm(900 * 2400, 0, 2))
  for (k in 1:9) grey[(60 * k):(60 * k + 90), (220 * k):(220 * k + 120)] <- 200
  table <- on_disk_measures(grey, 500)
  page <- page_of(function() save_overview(table, "x", "T"))
  whole <- segment_level(as_field(grey, 8), low = 100) |> find_objects() |>
    measure_objects(outline = "subpixel") |> accept_objects()
  expect_equal(nrow(whole), nrow(table))
  same <- page_of(function() save_overlay(whole, "x", "T"))
  expect_equal(dim(page), dim(same))
  # the picture is shrunk by whole numbers first; outlines, numbers and words lie alike
  blue <- bitwAnd(native_colour(look$accepted), 255L)
  expect_gt(mean((same == blue)[page == blue]), 0.95)
  expect_gt(mean(abs(page - same) < 30), 0.97)
  expect_equal(page[1:63, ], same[1:63, ])
  foot <- nrow(page) - 0:80
  expect_equal(page[foot, ], same[foot, ])
})

test_that("plates lie beside each other in lines of a page, each of its own place", {
  plates <- tibble::tibble(cols = c(10L, 12L, 12L, 12L, 8L), rows = c(6L, 7L, 6L, 6L, 6L))
  lines <- lines_of_plates(plates, 40)  # three to a line
  expect_equal(lines, list(left = c(0L, 12L, 24L, 0L, 12L), top = c(0L, 0L, 0L, 7L, 7L), rows = 14))
  expect_equal(lines_of_plates(plates[1:3, ], 40)$rows, 7)
  expect_equal(lines_of_plates(plates, 5)$left, rep(0L, 5))
  expect_equal(lines_of_plates(plates[0, ], 40)$rows, 0)
})
