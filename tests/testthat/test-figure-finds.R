at <- places(c(80, 230, 150), c(70, 90, 180), c(0, 37, -140))

test_that("finds are drawn as the taught contour where it lies", {
  pattern <- taught_part("clip")
  field <- field_of_parts("clip", at)
  finds <- accept_finds(locate_pattern(field, pattern), turn = c(-20, 60))
  figure <- autoplot(finds, title = "three")
  expect_equal(figure$labels$title, "three")
  expect_match(figure$labels$subtitle, "3 found, 2 accepted; score")
  strokes <- ggplot2::layer_data(figure, 2)
  expect_equal(nrow(strokes), 3 * nrow(pattern$levels[[1]]))
  # their middles are edges of the picture: between the greys of part and ground
  x <- (strokes$x + strokes$xend) / 2
  y <- -(strokes$y + strokes$yend) / 2
  grey <- field$pixels[cbind(ceiling(y), ceiling(x))]
  expect_gt(mean(grey > 75 & grey < 145), 0.7)
  long <- sqrt((strokes$xend - strokes$x)^2 + (strokes$yend - strokes$y)^2)
  expect_equal(sort(unique(round(long / pattern$spacing, 2))), c(0.5, 1.5))
  marks <- ggplot2::layer_data(figure, 3)
  turn <- atan2(marks$yend - marks$y, marks$xend - marks$x) * 180 / pi
  expect_equal(turn, finds$turn_deg, tolerance = 1e-4)
  labels <- ggplot2::layer_data(figure, 5)$label
  expect_equal(labels, sprintf("%d: %.2f", finds$id, finds$score))
  expect_gt(length(figure_png(figure, 640, 400)), 1000)
})

test_that("a ring shows no turn, and nothing found is said", {
  ring <- taught_part("ring")
  found <- autoplot(locate_pattern(field_of_parts("ring", at), ring))
  kinds <- vapply(found$layers, function(l) class(l$geom)[1], "")
  expect_equal(sum(kinds == "GeomSegment"), 1)
  none <- autoplot(locate_pattern(field_of_parts("clip", at), ring))
  expect_equal(none$labels$subtitle, "not found")
  expect_gt(length(figure_png(none, 640, 400)), 1000)
  expect_error(autoplot(locate_pattern(field_of_parts("ring", at), ring), 5), class = "bemrick_error")
})

test_that("a pattern is drawn over its picture, or alone", {
  pattern <- taught_part("clip")
  figure <- autoplot(pattern)
  strokes <- ggplot2::layer_data(figure, 2)
  x <- (strokes$x + strokes$xend) / 2
  y <- -(strokes$y + strokes$yend) / 2
  grey <- pattern$picture$grey[cbind(ceiling(y), ceiling(x))]
  expect_gt(mean(grey > 75 & grey < 145), 0.7)
  expect_match(figure$labels$subtitle, "points; looks alike in no other turn")
  file <- tempfile(fileext = ".yml")
  write_pattern(pattern, file)
  alone <- autoplot(read_pattern(file))
  expect_equal(nrow(ggplot2::layer_data(alone, 2)), nrow(strokes))
  expect_gt(length(figure_png(alone, 640, 400)), 1000)
})

test_that("regions and rings that were measured are outlined at every find", {
  at <- places(c(80, 230), c(70, 90), c(0, 90))
  finds <- locate_pattern(field_of_parts("clip", at), taught_part("clip"))
  field <- attr(finds, "field")
  expect_null(drawn_regions(finds, field))
  expect_null(region_marks(finds, field))
  boxed <- measure_region(finds, region_box(70, 50, 80, 56), low = 100)
  rings <- drawn_regions(boxed, field)
  expect_equal(unique(rings$ring), 1:2)
  # where the box lies at the part that was not turned, and at the one turned by a quarter
  still <- which.min(boxed$x_px)
  own <- rings[rings$ring == still, ]
  expect_equal(range(own$x), c(90, 100), tolerance = 0.01)
  expect_equal(range(own$y), c(60, 66), tolerance = 0.01)
  turned <- rings[rings$ring != still, ]
  expect_equal(range(turned$x), 230 + c(50, 56) - 60, tolerance = 0.01)
  expect_equal(range(turned$y), 90 - c(80, 70) + 60, tolerance = 0.01)
  both <- measure_ring(measure_region(boxed, region_circle(60, 60, 4), low = 100), 5, 9, low = 100)
  rings <- drawn_regions(both, field)
  expect_equal(length(unique(rings$ring)), 2 + 4)  # the last region, and both radii of the ring
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(both), 2)), nrow(rings))
  outlines <- region_outlines(region_polygon(c(0, 10, 0), c(0, 0, 10)), as_field(matrix(0, 20, 20)))
  expect_equal(outlines[[1]]$x, c(0, 10, 0, 0))
  expect_length(region_outlines(region_ring(9, 9, 2, 5), as_field(matrix(0, 20, 20))), 2)
  file <- withr::local_tempfile(fileext = ".jpg")
  save_rows(both, file, "t")
  plain <- withr::local_tempfile(fileext = ".jpg")
  save_rows(finds, plain, "t")
  expect_gt(mean(abs(jpeg::readJPEG(file) - jpeg::readJPEG(plain))), 0)
})
