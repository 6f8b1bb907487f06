test_that("edges are written in methods as they are read", {
  for (edge in list(
    edge_line(c(1, 20, 30), c(4, 5, 4)), edge_line(c("1 um", "20 um"), c("4 um", "5 um")),
    edge_circle(50, 60, "20 um"), edge_polygon(c(1, 9, 5), c(1, 1, 7))
  )) {
    words <- edge_words(edge)
    expect_identical(edge_words(as_edge(words)), words)
  }
  traced <- trace_edge(flat_layer(), level_path(), 50, "rising")
  again <- as_edge(edge_words(traced))
  expect_equal(placed_edge(again, flat_layer()), traced$found)
  expect_match(format(traced), "traced, 60 points; 0 gaps")
  expect_match(format(edge_circle(1, 2, 3)), "circle \\[1, 2, 3\\]")
})

test_that("edges lie in the taught picture after a part is followed", {
  field <- as_field(matrix(0, 100, 100))
  field$frame <- new_frame(60, 50, pi / 2, 2, c(10, 10), 1)
  at <- placed_edge(edge_line(c(10, 20), c(10, 10)), field)
  expect_equal(at$x, c(60, 60))
  expect_equal(at$y, c(50, 30))
})

test_that("a circle has so many corners that it is one, inside as much as outside", {
  at <- placed_edge(edge_circle(50, 60, 40), as_field(matrix(0, 120, 120)))
  expect_length(at$x, 360)
  expect_true(at$closed)
  n <- length(at$x)
  area <- abs(sum(at$x * at$y[c(2:n, 1)] - at$x[c(2:n, 1)] * at$y)) / 2
  expect_equal(area, pi * 40^2, tolerance = 1e-6)
  expect_equal(c(mean(at$x), mean(at$y)), c(50, 60))
  expect_equal(at$gap, rep(FALSE, 360))
  middle <- function(v) (v + v[c(2:n, 1)]) / 2
  between <- (sqrt((at$x - 50)^2 + (at$y - 60)^2) +
    2 * sqrt((middle(at$x) - 50)^2 + (middle(at$y) - 60)^2)) / 3
  expect_equal(mean(between), 40, tolerance = 1e-7)
  tall <- calibrate(as_field(matrix(0, 60, 120)), new_calibration(c(x = 1, y = 2), "um", 0, "given"))
  oval <- placed_edge(edge_circle("50 um", "60 um", "40 um"), tall)
  expect_equal(range(oval$x), c(10, 90), tolerance = 1e-4)
  expect_equal(range(oval$y), c(10, 50), tolerance = 1e-4)
  expect_refused(as_edge(list(line = 1:4, circle = 1:3)), "not an edge", class = "edge")
  line <- placed_edge(edge_line(c(1, 5, 9), c(2, 3, 2)), as_field(matrix(0, 20, 20)))
  expect_equal(line$gap, c(FALSE, FALSE))
  expect_equal(line$u, rep(0, 3))
})
