drawn_layer <- function() {
  m <- layer_picture(function(x) 40 + x / 40, function(x) 80)
  m[, 121:160] <- 110
  trace_layer(
    calibrate(as_field(with_noise(m, 2)), calibration_from_length(1000, "1000 um")), level_path(), 50,
    both_ways
  )
}

test_that("layers and their thickness are drawn as they were when looked at", {
  layer <- drawn_layer()
  expect_equal(fingerprint(ggplot2::autoplot(layer, "glaze")), "c50ff2a3")
  lines <- layer_thickness(layer, "direction", 10)
  expect_equal(fingerprint(ggplot2::autoplot(lines, title = "glaze")), "dc7305b7")
  expect_equal(fingerprint(ggplot2::autoplot(lines, "along", "glaze")), "a4d27cbc")
})

test_that("gaps are drawn apart, lines thinned out, and what was left out is said", {
  layer <- drawn_layer()
  edges <- drawn_edges_of_layer(layer)
  expect_equal(sum(edges$gap), 2)
  expect_equal(nrow(edges), length(layer$first$x) + length(layer$second$x) - 2)
  closed <- layer_between(as_field(matrix(0, 99, 99)), edge_circle(50, 50, 20), edge_circle(50, 50, 30))
  ring <- drawn_edges_of_layer(closed)
  expect_equal(nrow(ring), 720)
  expect_equal(ring$x_end[360], ring$x[1])
  lines <- layer_thickness(layer, step = 0.5)
  drawn <- drawn_sampling(lines)
  expect_equal(nrow(drawn), most_lines)
  expect_setequal(as.character(drawn$group), find_groups)
  expect_match(thickness_subtitle(lines), "lines, mean .* to .*; [0-9]+ not accepted")
  file <- withr::local_tempfile(fileext = ".jpg")
  save_rows(lines, file, "glaze")
  expect_gt(length(unique(as.vector(jpeg::readJPEG(file)[, , 1]))), 100)
  expect_refused(ggplot2::autoplot(lines, "beside"), class = "argument")
})

test_that("titles are words, and lines that are not accepted are dotted", {
  layer <- drawn_layer()
  expect_refused(ggplot2::autoplot(layer, title = 3), class = "argument")
  expect_null(ggplot2::autoplot(layer)$labels$title)
  lines <- layer_thickness(layer, "direction", 10)
  expect_refused(ggplot2::autoplot(lines, title = 3), class = "argument")
  drawn <- ggplot2::layer_data(ggplot2::autoplot(lines), 2)
  expect_setequal(drawn$linetype, c(1, 3))
  expect_equal(sum(drawn$linetype == 3), sum(!lines$accepted))
})
