test_that("apertures and wires of a cloth have the sizes that the truth says", {
  cloth <- simulate_cloth(400, 300, "100 um", "60 um", turn = 0, noise = 0, uneven = 0, seed = 2)
  known <- cloth$truth
  rows <- gauge_widths(cloth, path_repeat(path_line(4, 4, 396, 4, across = 3), 6, 48), contrast = 100)
  expect_equal(mean(rows$gap_um, na.rm = TRUE), 60, tolerance = 0.002)
  across <- known$apertures$size_um[known$apertures$way == "x"]
  sizes <- sort(unique(round(rows$width_um[!is.na(rows$width_um)], 1)))
  expect_true(all(vapply(sizes, function(s) min(abs(s - across)), 0) < 0.3))
  torn <- simulate_cloth(400, 300, "100 um", "60 um", torn = TRUE, turn = 0, noise = 0, seed = 2)
  expect_gt(max(torn$truth$apertures$size_um), 200)
  middle <- gauge_widths(torn, path_repeat(path_line(4, 120, 396, 120, across = 3), 4, 15), contrast = 100)
  expect_equal(max(middle$width_um, na.rm = TRUE), max(torn$truth$apertures$size_um), tolerance = 0.01)
})

test_that("through a tilted camera sizes are those of the cloth", {
  cloth <- simulate_cloth(400, 300, "100 um", "60 um", spread = 0, tilt = 20, noise = 0, seed = 2)
  expect_null(cloth$calibration$pixel)
  rows <- gauge_widths(cloth, path_repeat(path_line(4, 4, 396, 4, across = 3), 6, 48), contrast = 100)
  inner <- rows$width_um[!is.na(rows$width_um)]
  expect_equal(stats::median(inner), 100, tolerance = 0.01)
  pixels <- sqrt((rows$to_x_px - rows$from_x_px)^2 + (rows$to_y_px - rows$from_y_px)^2)
  expect_gt(diff(range(pixels[is.na(rows$gap_um)])), 4)
  bright <- simulate_cloth(400, 300, "100 um", "60 um", reflection = 80, noise = 0, seed = 2)
  expect_gt(stats::quantile(bright$pixels, 0.3), stats::quantile(cloth$pixels, 0.3))
})

test_that("a cloth has its size, both ways, and its limits", {
  expect_equal(dim(simulate_cloth(spread = 0)), c(624, 832))
  expect_equal(simulate_cloth(120, 90, "60 um", "40 um")$calibration$pixel, c(x = 2.5, y = 2.5))
  cloth <- simulate_cloth(400, 300, "100 um", "60 um", turn = 0, noise = 0, uneven = 0, seed = 2)
  columns <- gauge_widths(cloth, path_repeat(path_line(396, 4, 396, 296, across = 3), 6, 60), contrast = 100)
  down <- cloth$truth$apertures$size_um[cloth$truth$apertures$way == "y"]
  sizes <- sort(unique(round(columns$width_um[!is.na(columns$width_um)], 1)))
  expect_gt(length(sizes), 1)
  expect_true(all(vapply(sizes, function(s) min(abs(s - down)), 0) < 0.3))
  bright <- simulate_cloth(120, 90, "60 um", "40 um", reflection = 200, uneven = 1, noise = 20)
  expect_equal(range(bright$pixels), c(0, 255))
  for (turn in c(-46, 46)) expect_refused(simulate_cloth(turn = turn), class = "argument")
  expect_refused(simulate_cloth(width = 100.5), class = "argument")
  expect_refused(simulate_cloth(aperture = "5 um"), "aperture", class = "argument")
})
