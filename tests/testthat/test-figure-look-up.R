test_that("an object is drawn in its part of the picture, its measures beside it", {
  beads <- accept_objects(suspect_merges(measured_beads()), ecd = c("14 um", NA))
  one <- look_up(beads, 5)
  figure <- autoplot(one)
  expect_equal(fingerprint(figure), "1d2a7d40")
  outline <- ggplot2::layer_data(figure[[1]], 2)
  expect_equal(outline$x, one$outline$x_px - one$part$cols[1] + 1)
  expect_equal(-outline$y, one$outline$y_px - one$part$rows[1] + 1)
  expect_equal(
    figure[[2]]$layers[[1]]$data$label %||% figure[[2]]$layers[[1]]$aes_params$label, names(one$row)
  )
})
