gauged_bars <- function() {
  m <- bright_bars(c(20, 60), c(30, 90), 120, 60)
  field <- calibrate(as_field(with_noise(m, 4)), calibration_from_length(1000, "1000 um"))
  list(field = field, path = path_repeat(path_line(5, 15, 115, 15, across = 8), 15, 3))
}

test_that("widths, edges and profiles are drawn as they were when looked at", {
  bars <- gauged_bars()
  widths <- gauge_widths(bars$field, bars$path, width = c("5 um", "20 um"))
  expect_equal(fingerprint(ggplot2::autoplot(widths, "bars")), "e74fbe78")
  edges <- gauge_edges(bars$field, bars$path, tilt = TRUE)
  expect_equal(fingerprint(ggplot2::autoplot(edges, "bars")), "d4701213")
  one <- path_line(5, 15, 115, 15, across = 8)
  profile <- grey_profile(bars$field, one)
  expect_equal(fingerprint(ggplot2::autoplot(profile, gauge_edges(bars$field, one))), "ff94a2ec")
})

test_that("strokes stand across the path, and say what was left out", {
  bars <- gauged_bars()
  widths <- gauge_widths(bars$field, bars$path, width = c("5 um", "20 um"))
  expect_equal(
    widths_subtitle(widths), paste0(
      "3 widths, mean ", show_number(mean(widths$width_um[widths$accepted], na.rm = TRUE)),
      " \u00b5m; 3 gaps, mean ", show_number(mean(widths$gap_um, na.rm = TRUE)), " \u00b5m; 3 not accepted"
    )
  )
  drawn <- drawn_widths(widths, bars$field)
  expect_equal(table(as.character(drawn$between$group))[["not accepted"]], 3)
  expect_equal(drawn$edges$y_end - drawn$edges$y, rep(8, 18))
  expect_equal(drawn$edges$x, drawn$edges$x_end)
  file <- withr::local_tempfile(fileext = ".jpg")
  save_rows(widths, file, "bars")
  expect_gt(length(unique(as.vector(jpeg::readJPEG(file)[, , 1]))), 100)
  expect_refused(autoplot(widths, title = 3), class = "argument")
  expect_error(
    autoplot(grey_profile(bars$field, path_line(5, 15, 115, 15)), edges = widths),
    class = "bemrick_error"
  )
})

test_that("strokes lean as their edges do, also where pixels are oblong", {
  field <- as_field(edge_picture(upright_edge(30.4, 8), blur = 1))
  edges <- gauge_edges(field, path_line(0, 10.5, 60, 10.5, across = 11), tilt = TRUE)
  stroke <- drawn_edges(edges, field)
  lean <- (stroke$x_end - stroke$x) / (stroke$y_end - stroke$y)
  expect_equal(lean, tan(8 * pi / 180), tolerance = 1e-3)
  expect_equal(stroke$y_end - stroke$y, 11)
  expect_equal((stroke$x + stroke$x_end) / 2, 30.4, tolerance = 1e-3)
  tall <- calibrate(as_field(matrix(0, 40, 50)), new_calibration(c(x = 1, y = 2), "um", 0, "given"))
  across <- strokes_across(20, 10, 1, 0, 8, tall)
  expect_equal(c(across$y, across$y_end), c(8, 12))
  lines <- ggplot2::layer_data(ggplot2::autoplot(
    gauge_widths(gauged_bars()$field, gauged_bars()$path, width = c("5 um", "20 um"))
  ), 5)
  expect_setequal(lines$linetype, 1:3)
})
