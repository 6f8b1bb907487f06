test_that("every object keeps its row and the first reason it was left out for", {
  measures <- measured_beads()
  done <- accept_objects(
    measures, edge = "drop", ecd = c("15 um", "18 um"), circularity = c(0.5, NA)
  )
  expect_equal(nrow(done), nrow(measures))
  expect_identical(done$accepted, done$reason == "")
  expect_true(all(done$reason[done$on_edge] == "touches the frame"))
  inner <- !done$on_edge
  expect_true(all(done$reason[inner & done$ecd_um < 15] == "ecd below 15 um"))
  expect_true(all(done$reason[inner & done$ecd_um > 18] == "ecd above 18 um"))
  expect_true(all(done$weight[!done$accepted] == 0))
  said <- decision(attr(done, "trail"), "accept_objects")
  expect_equal(said$found, nrow(measures))
  expect_equal(said$accepted, sum(done$accepted))
  expect_equal(said[["touches the frame"]], sum(done$on_edge))
})

test_that("limits are compared in real units", {
  measures <- measured_beads()
  um <- accept_objects(measures, "keep", ecd = c("16 um", NA))
  mm <- accept_objects(measures, "keep", ecd = c("0.016 mm", NA))
  expect_identical(um$accepted, mm$accepted)
  area <- accept_objects(measures, "keep", area = c("0.0002 mm2", NA))
  expect_identical(area$accepted, measures$area_um2 >= 200)
  pixels <- measure_objects(find_objects(mask_of(disc_mask(40, 10))))
  expect_true(accept_objects(pixels, ecd = c(5, "30 px"))$accepted)
  expect_refused(accept_objects(pixels, ecd = c("2 um", NA)), "in pixels", class = "no_calibration")
})

test_that("limits that make no sense are refused", {
  m <- measured_beads()
  expect_refused(accept_objects(m, edge = "cut"), class = "argument")
  expect_refused(accept_objects(m, roundnes = c(0.5, 1)), "roundness", class = "unknown_name")
  expect_refused(accept_objects(m, ecd = c("20 um", "10 um")), "Swap", class = "argument")
  expect_refused(accept_objects(m, ecd = "20 um"), "two values", class = "argument")
  expect_refused(accept_objects(m, ecd = c(20, NA)), "with its unit", class = "quantity")
  expect_refused(accept_objects(m, ecd = c("5 px", NA)), "in pixels.*\"2 um\".*resolve", class = "quantity")
  expect_refused(accept_objects(m, solidity = c("0.5 um", NA)), "without unit", class = "quantity")
  expect_refused(accept_objects(m, "drop", c("20 um", NA)), "named", class = "argument")
})

test_that("no object is a result, not an error", {
  none <- measure_objects(find_objects(mask_of(matrix(0, 20, 20))))
  expect_equal(nrow(accept_objects(none)), 0)
})

test_that("what cannot be resolved is left out, or warned of", {
  tiny <- small_beads(diameter = "2.4 um", count = 60, spread = 1.05, noise = 2)
  m <- measure_objects(find_objects(segment_auto(tiny)))
  expect_warning(
    accept_objects(m), "less than 5 pixels across", class = "bemrick_warning_resolution"
  )
  left <- accept_objects(m, resolve = "5 px")
  expect_true(all(left$feret_min_um[left$accepted] / 0.6 >= 5))
  expect_true(any(left$reason == "narrower than 5 px"))
})

# Of small squares, which are warned of elsewhere.
accept <- function(...) suppressWarnings(accept_objects(...))

# Squares of 4, 6 and 10 pixels in a picture, one of them on the top frame, one on the bottom one.
squares <- function(calibration = NULL) {
  m <- matrix(FALSE, 60, 80)
  m[1:6, 10:15] <- TRUE     # on the top frame
  m[20:29, 30:39] <- TRUE
  m[40:43, 50:53] <- TRUE
  m[50:60, 1:6] <- TRUE     # on the left and the bottom frame
  m[10:15, 75:80] <- TRUE   # on the right frame
  measure_objects(find_objects(mask_of(m, calibration)))
}

test_that("limits include their ends, and the frame's four sides", {
  measures <- squares()
  expect_equal(measures$area_px2, c(36, 36, 100, 16, 66))
  kept <- function(...) which(accept(measures, "keep", ...)$accepted)
  expect_equal(kept(area = c(36, NA)), c(1, 2, 3, 5))
  expect_equal(kept(area = c(36.1, NA)), c(3, 5))
  expect_equal(kept(area = c(NA, 36)), c(1, 2, 4))
  expect_equal(kept(area = c(16, 66)), c(1, 2, 4, 5))
  expect_equal(kept(area = c(NA, NA)), 1:5)
  expect_equal(kept(area = c(36, 36)), 1:2)
  expect_equal(kept(holes = c(0, 0)), 1:5)
  expect_equal(which(accept(measures, "drop")$accepted), 3:4)
  # left and bottom are forbidden, top and right allowed
  frame <- accept(measures, "frame")
  expect_equal(which(frame$accepted), 1:4)
  expect_equal(frame$reason[5], "touches a forbidden side")
  expect_true(all(frame$weight[1:4] == 1))
})

test_that("widths are resolved from so many pixels on, on pixels that are not square too", {
  measures <- suppressWarnings(squares())
  expect_equal(which(accept(measures, "keep", resolve = 4)$accepted), 1:5)
  left <- accept(measures, "keep", resolve = "4.1 px")
  expect_equal(left$reason[4], "narrower than 4.1 px")
  oblong <- squares(calibration_from_length(c(x = 200, y = 50), "100 um"))  # 0.5 x 2 um
  # the smallest is 2 um wide, which is 2 of the pixels' mean side of 1 um
  expect_equal(width_in_pixels(oblong, oblong$feret_min_um)[4], 2)
  expect_equal(which(accept(oblong, "keep", resolve = 2)$accepted), 1:5)
  expect_true(4 %in% which(!accept(oblong, "keep", resolve = 2.1)$accepted))
})

test_that("a twentieth of narrow objects is borne, more are warned of", {
  expect_silent(warn_of_resolution(c(4.9, rep(5, 19))))
  expect_warning(
    warn_of_resolution(c(4.9, rep(5, 18))), "1 of 19", class = "bemrick_warning_resolution"
  )
  expect_silent(warn_of_resolution(numeric()))
  expect_silent(warn_of_resolution(rep(5, 3)))
})

test_that("hand exclusions stay first, and lists of limits hold as well", {
  measures <- exclude_objects(squares(), 3, "dust")
  done <- accept(measures, "keep", area = list(20, NULL))
  expect_equal(done$reason[3:4], c("by hand: dust", "area below 20"))
  expect_equal(done$weight[3], 0)
  again <- accept(done, "keep")
  expect_equal(which(!again$accepted), 3)
  for (wrong in list(list(1), 1:3, "5 um", NULL)) {
    expect_refused(accept_objects(measures, "keep", area = wrong), class = "argument")
  }
  um <- squares(half_um())
  expect_equal(which(accept(um, "keep", area = c("9 um2", "9 um2"))$accepted), 1:2)
  expect_refused(accept_objects(um, "keep", area = c("3 um", NA)), class = "quantity")
  expect_refused(accept_objects(um, "keep", inscribed_circle = c("1 um", NA)), "not measured",
    class = "argument")
})
