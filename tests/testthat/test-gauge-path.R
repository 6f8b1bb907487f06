test_that("paths are written in methods as they are read", {
  paths <- list(
    path_line(1, 2, 30, 4), path_line("1 um", 2, 30, "4 px", across = "10 um"),
    path_arc(50, 60, 20, 10, 350, across = 3), path_circle(50, 60, "20 um"),
    path_polyline(c(1, 5, 9), c(2, 2, 8), across = 4),
    path_repeat(path_line(1, 2, 30, 4), "20 um", 5), path_around(path_line(1, 2, 3, 4), 7, 8, 36)
  )
  for (path in paths) {
    words <- path_words(path)
    expect_identical(path_words(as_path(words)), words)
  }
  expect_equal(path_words(path_line(1, 2, 30, 4)), list(line = c(1, 2, 30, 4)))
  expect_snapshot(for (path in paths) print(path))
})

test_that("paths without length, width or sense are refused", {
  refused <- function(code, words, class = "bemrick_error_path") {
    expect_error(code, words, class = class)
  }
  refused(path_line(5, 5, 5, 5), "no length")
  refused(path_line(1, 1, 5, 5, across = 0), "above zero")
  refused(path_line(1, 1, 5, 5, across = -2), "above zero")
  refused(path_arc(5, 5, 3, 90, 90), "no length")
  refused(path_arc(5, 5, 3, 0, 400), "round at most once")
  refused(path_circle(5, 5, 0), "above zero")
  refused(path_circle(5, 5, 3, across = 7), "twice the radius")
  refused(path_polyline(1, 1), "two corners")
  refused(path_polyline(c(1, 1, 2), c(1, 1, 2)), "the same")
  refused(path_polyline(1:3, 1:2), "as many x as y")
  refused(path_repeat(path_line(1, 1, 5, 5), 0, 3), "not be zero")
  refused(path_repeat(path_polyline(1:2, 1:2), 5, 3), "repeat a line")
  refused(path_around(path_repeat(path_line(1, 1, 5, 5), 2, 3), 1, 1, 3), "repeated already")
  refused(as_path(list(line = 1:3)), "not a path")
  refused(as_path(list(line = 1:4, circle = 1:3)), "not a path")
  refused(as_path(list(line = 1:4, every = 3)), "needs times")
  refused(as_path(list(line = 1:4, times = 3)), "either every or around")
  refused(as_path(list(line = 1:4, times = 3, around = 3)), "two coordinates")
  refused(as_path(list(line = 1:4, acros = 3)), "across", "bemrick_error_unknown_name")
  refused(path_line(1, 2, "3 um2", 4), "lengths", "bemrick_error_quantity")
  refused(path_line(1, 2, 1e9, 4), "no picture", "bemrick_error_quantity")
})

# Where the paths of a field lie, x and y of a place along each.
placed_at <- function(path, field = as_field(matrix(0, 100, 100))) {
  placed <- placed_path(as_path(path), field)
  path_outline(placed, field)
}

test_that("copies lie to the right as the path runs, and about a point", {
  line <- path_line(10, 20, 50, 20)
  beside <- placed_at(path_repeat(line, 5, 3))
  expect_equal(beside$y[beside$path == 3], c(30, 30))
  expect_equal(placed_at(path_repeat(line, -5, 2))$y[3:4], c(15, 15))
  expect_equal(placed_at(path_repeat(path_line(20, 50, 20, 10), 5, 2))$x[3:4], c(25, 25))
  around <- placed_at(path_around(path_line(50, 50, 60, 50), 50, 50, 4))
  ends <- around[seq(2, 8, by = 2), ]
  expect_equal(ends$x, c(60, 50, 40, 50))
  expect_equal(ends$y, c(50, 40, 50, 60))
  rings <- placed_path(path_repeat(path_circle(50, 50, 10), 4, 3), as_field(matrix(0, 100, 100)))
  expect_equal(rings$pieces[, 5], c(10, 14, 18))
  inward <- path_repeat(path_arc(50, 50, 10, 90, 0), 4, 2)
  expect_equal(placed_path(inward, as_field(matrix(0, 100, 100)))$pieces[, 5], c(10, 6))
  expect_refused(
    placed_path(
      path_repeat(path_arc(50, 50, 10, 90, 0), 4, 9), as_field(matrix(0, 100, 100))
    ),
    "no radius", class = "path"
  )
})

test_that("lengths, oblong pixels and frames place a path", {
  field <- calibrate(
    as_field(matrix(0, 100, 100)),
    new_calibration(c(x = 0.5, y = 1), "um", 0, "given")
  )
  at <- placed_at(path_line("10 um", "10 um", "30 um", "10 um", across = "2 um"), field)
  expect_equal(at$x, c(20, 60))
  expect_equal(at$y, c(10, 10))
  placed <- placed_path(path_line("10 um", "10 um", "30 um", "10 um", across = "2 um"), field)
  expect_equal(placed$across, 4)
  expect_equal(path_lengths(placed), 40)
  # a circle is round in the lengths of the plane
  ring <- placed_at(path_circle("20 um", "30 um", "10 um"), field)
  expect_equal(range(ring$x), c(20, 60), tolerance = 1e-3)
  expect_equal(range(ring$y), c(20, 40), tolerance = 1e-3)

  turned <- as_field(matrix(0, 100, 100))
  turned$frame <- new_frame(60, 50, pi / 2, 2, c(10, 10), 1)
  at <- placed_at(path_line(10, 10, 20, 10), turned)
  expect_equal(at$x, c(60, 60))
  expect_equal(at$y, c(50, 30))
  arc <- placed_path(path_arc(10, 10, 5, 0, 90, across = 2), turned)
  expect_equal(arc$pieces[1, 3:7], c(60, 50, 10, pi / 2, pi / 2))
  expect_equal(arc$across, 4)
})

test_that("a path is one pixel wide unless it is said, and angles have their limits", {
  field <- as_field(matrix(0, 100, 100))
  for (path in list(
    path_line(1, 2, 30, 4), path_arc(50, 50, 20, 0, 90), path_circle(50, 50, 20), path_polyline(1:3, c(1, 5, 2)),
    list(line = c(1, 2, 30, 4))
  )) expect_equal(placed_path(as_path(path), field)$across, 1)
  expect_refused(path_arc(5, 5, 3, 3500, 3601), "between", class = "argument")
  expect_refused(path_arc(5, 5, 3, -3601, -3500), "between", class = "argument")
  expect_silent(path_arc(5, 5, 3, 3300, 3600))
  expect_refused(as_path(list(polyline = 1:3)), class = "path")
  expect_refused(as_path(list(polyline = 1:2)), "not a path", class = "path")
  expect_refused(as_path(list(polyline = 1:5)), "not a path", class = "path")
  expect_refused(
    placed_path(path_circle("9 px", 9, 5, across = "10 px"), field), "twice the radius",
    class = "path"
  )
})

test_that("arcs and circles are handed on as centre, radius, angle and sweep", {
  field <- as_field(matrix(0, 100, 100))
  arc <- placed_path(path_arc(40, 50, 10, 30, 90), field)
  expect_equal(arc$pieces[1, ], c(1, 1, 40, 50, 10, pi / 6, pi / 3))
  expect_false(arc$closed)
  circle <- placed_path(path_repeat(path_circle(40, 50, 10), 2, 2), field)
  expect_equal(circle$pieces[2, ], c(2, 1, 40, 50, 12, 0, 2 * pi))
  expect_equal(circle$closed, c(TRUE, TRUE))
  expect_equal(path_lengths(circle), 2 * pi * c(10, 12))
  back <- placed_path(path_arc(40, 50, 10, 90, 30), field)
  expect_equal(back$pieces[1, 6:7], c(pi / 2, -pi / 3))
  quarter <- placed_at(path_arc(40, 50, 10, 0, 90))
  expect_equal(range(quarter$y), c(40, 50))
  expect_equal(range(quarter$x), c(40, 50))
  bent <- placed_path(path_polyline(c(10, 40, 40), c(20, 20, 60)), field)
  expect_equal(path_lengths(bent), 70)
  expect_equal(nrow(path_outline(bent, field)), 4)
})
