test_that("fields, masks and objects lie over their picture", {
  field <- small_beads()
  expect_equal(fingerprint(autoplot(field, "T")), "4c8c89cf")
  mask <- segment_auto(field)
  expect_equal(fingerprint(autoplot(mask)), "73ecaf8a")
  expect_equal(fingerprint(autoplot(find_objects(mask))), "4bd727df")
  raster <- autoplot(mask)$layers[[2]]$geom_params$raster
  expect_equal(dim(raster), dim(mask))
  expect_equal(sum(raster != "#00000000"), sum(mask$pixels))
  expect_equal(as.matrix(raster) != "#00000000", mask$pixels)
  expect_equal(
    autoplot(mask)$labels$subtitle,
    sprintf("bright phase, %s %% of the sample", signif(100 * area_fraction(mask), 3))
  )
  expect_equal(
    autoplot(find_objects(mask))$labels$subtitle, paste(length(find_objects(mask)), "objects")
  )
  expect_refused(autoplot(field, 3), class = "argument")
  expect_equal(autoplot(field)$coordinates$limits$y, c(240 * 1.07, 0))
  expect_equal(autoplot(as_field(field$pixels))$coordinates$limits$y, c(240, 0))
})

test_that("a filtered field is drawn in the range of its own levels", {
  field <- as_field(matrix(c(0, 128), 20, 20))
  field$pixels <- field$pixels * 4 - 100
  shown <- autoplot(field)$layers[[1]]$geom_params$raster
  greys <- sort(unique(as.vector(shown)))
  expect_equal(greys, c("#000000", "#FFFFFF"))
})
