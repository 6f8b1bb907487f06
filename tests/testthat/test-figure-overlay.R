test_that("the overlay draws accepted and rejected outlines in different colours", {
  measures <- accept_objects(measured_beads())
  expect_false(all(measures$accepted))
  picture <- drawn(autoplot(measures, "Beads"), 900, 760)
  close_to <- function(hex) {
    rgb <- grDevices::col2rgb(hex)[, 1] / 255
    mean(
      abs(picture[, , 1] - rgb[1]) + abs(picture[, , 2] - rgb[2]) + abs(picture[, , 3] - rgb[3]) <
        0.1
    )
  }
  expect_gt(close_to(look$accepted), 1e-3)
  expect_gt(close_to(look$rejected), 1e-4)
})

test_that("a table cut down draws the objects that are left, in their own colours", {
  measures <- accept_objects(measured_beads())
  few <- measures[measures$accepted, ][1:3, ]
  figure <- autoplot(few)
  expect_setequal(unique(figure$layers[[2]]$data$id), few$id)
  expect_true(all(figure$layers[[2]]$data$group == "accepted"))
})

test_that("numbers are left out on request", {
  without <- autoplot(measured_beads(), numbers = FALSE)
  expect_equal(nrow(ggplot2::layer_data(without, 6)), 0)
  expect_match(without$labels$subtitle, "objects, [0-9]+ accepted$")
  expect_refused(autoplot(measured_beads(), numbers = NA), class = "argument")
})

test_that("an overlay without objects is drawn", {
  none <- measure_objects(find_objects(mask_of(matrix(0, 30, 30))))
  expect_equal(autoplot(none)$labels$subtitle, "0 objects, 0 accepted")
  expect_silent(figure_png(autoplot(none), 400, 400))
})

test_that("pixels that are not square are drawn as they are", {
  field <- calibrate(small_beads(), calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(autoplot(field_facts(field))[[1]][[1]]$coordinates$ratio, 2)
  tilted <- simulate_grid(tilt = 10, seed = 1)
  scale <- calibration_from_grid(tilted, "1 mm")
  figure <- calibration_figure(tilted, scale)
  expect_equal(figure$coordinates$ratio, 1)
  expect_match(figure$labels$subtitle, "map of a tilted plane")
})

test_that("objects are drawn as outlines, filled or as dots, coloured by what became of them or by classes of a measure", {
  beads <- accept_objects(measured_beads(), ecd = c("11 um", NA))
  layers <- function(figure) vapply(figure$layers, function(l) class(l$geom)[1], "")
  expect_true("GeomPoint" %in% layers(autoplot(beads, draw = "dots")))
  filled <- autoplot(beads, draw = "filled", of = "ecd")
  expect_s3_class(ggplot2::ggplotGrob(filled), "gtable")
  drawn <- ggplot2::layer_data(filled, 2)
  expect_gt(length(unique(drawn$fill)), 3)
  expect_refused(autoplot(beads, of = "inscribed_circle"), "not measured", class = "argument")
  expect_refused(autoplot(beads, draw = "lines"), class = "argument")
})

test_that("classes of nothing, or of one size, are drawn", {
  none <- accept_objects(measure_objects(find_objects(mask_of(matrix(0, 30, 30)))))
  expect_silent(figure_png(autoplot(none, of = "ecd"), 400, 400))
  one <- accept_objects(measure_objects(find_objects(mask_of(disc_mask(30, 6)))))
  expect_silent(figure_png(autoplot(one, draw = "filled", of = "holes"), 400, 400))
})

test_that("overlays look as they were looked at", {
  beads <- accept_objects(suspect_merges(measured_beads()), ecd = c("14 um", NA))
  expect_equal(fingerprint(autoplot(beads, "T")), "8dc7a395")
  expect_equal(fingerprint(autoplot(beads, draw = "filled", of = "ecd")), "b14d9ffe")
  expect_equal(fingerprint(autoplot(beads, draw = "dots")), "8f4a1e76")
})

test_that("groups are states, or classes of round limits", {
  beads <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  states <- object_groups(beads, NULL)
  expect_equal(as.character(states$group), ifelse(beads$accepted, "accepted", "rejected"))
  expect_equal(states$lines, c(accepted = "solid", rejected = "22"))
  beads$suspected <- ""
  beads$suspected[which(beads$accepted)[1]] <- "solidity 0.8"
  expect_equal(sum(object_groups(beads, NULL)$group == "suspected"), 1)
  classes <- object_groups(beads, "ecd")
  expect_equal(levels(classes$group)[nlevels(classes$group)], "rejected")
  expect_equal(classes$group == "rejected", !beads$accepted)
  first <- levels(classes$group)[1]
  ends <- as.numeric(strsplit(sub(" \u00b5m", "", first), " to ")[[1]])
  inside <- beads$accepted & beads$ecd_um >= ends[1] & beads$ecd_um <= ends[2]
  expect_equal(classes$group == first, inside)
  expect_equal(
    overlay_subtitle(beads, 3),
    sprintf(
      "%d objects, %d accepted; 3 numbered, all in the table", nrow(beads), sum(beads$accepted)
    )
  )
  expect_equal(
    overlay_subtitle(beads, nrow(beads)),
    sprintf("%d objects, %d accepted", nrow(beads), sum(beads$accepted))
  )
})

test_that("numbers of dots stand beside them, within the picture", {
  numbers <- tibble::tibble(x = c(50, 297), half_width = 6, beside = FALSE)
  expect_equal(beside_dots(numbers, 300)$x, c(50 + 6 + 2.1, 297 - 6 - 2.1))
  numbers$beside <- TRUE
  expect_equal(beside_dots(numbers, 300)$x, numbers$x)
})

test_that("the ellipses of hidden particles are drawn where they lie, also in oblong pixels", {
  two <- disc_mask(80, 18)
  two[, 23:80] <- two[, 23:80] | two[, 1:58]
  for (height in c(1, 2)) {
    field <- as_field(200 * two[seq(1, 80, height), ], 8)
    field <- calibrate(field, calibration_from_length(c(x = 80, y = 80 / height), "80 um"))
    m <- measure_objects(separate_outlines(segment_level(field, low = 100)))
    expect_equal(nrow(m), 2)
    layers <- autoplot(m)$layers
    dotted <- Filter(function(l) identical(l$aes_params$linetype, "12"), layers)
    expect_length(dotted, 1)
    rings <- dotted[[1]]$data
    expect_setequal(rings$id, 1:2)
    # both ellipses together are as wide and as high as what is drawn
    seen <- which(two[seq(1, 80, height), ], arr.ind = TRUE)
    expect_equal(range(rings$x), range(seen[, 2]) - c(1, 0), tolerance = 0.03)
    expect_equal(range(rings$y), range(seen[, 1]) - c(1, 0), tolerance = 0.05)
  }
  whole <- measure_objects(separate_outlines(segment_level(as_field(200 * disc_mask(60, 18), 8),
    low = 100)))
  expect_length(
    Filter(function(l) identical(l$aes_params$linetype, "12"), autoplot(whole)$layers), 0
  )

  # a slanting one, half hidden by another: the end that is seen lies where it was drawn
  e <- rbind(c(45, 50, 36, 14, 30), c(78, 50, 30, 12, 120))
  m <- measure_objects(separate_outlines(ellipse_mask(e)))
  rings <- Filter(function(l) identical(l$aes_params$linetype, "12"), autoplot(m)$layers)[[1]]$data
  tip <- e[1, 1:2] - 36 * c(cospi(30 / 180), -sinpi(30 / 180))
  expect_lt(min(sqrt((rings$x - tip[1])^2 + (rings$y - tip[2])^2)), 1)
})
