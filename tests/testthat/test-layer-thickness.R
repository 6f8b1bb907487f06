blank <- function() as_field(matrix(0, 300, 300))
mean_of <- function(lines) mean(lines$thickness_px[lines$accepted])

test_that("parallel lines and a wedge have the thickness of closed forms, by every way", {
  layer <- layer_between(blank(), edge_line(c(0, 300), c(100, 130)), edge_line(c(0, 300), c(150, 180)))
  a <- atan(0.1)
  square <- layer_thickness(layer, step = 2)
  inner <- square[square$accepted, ]
  expect_equal(inner$thickness_px, rep(50 * cos(a), nrow(inner)), tolerance = 1e-12)
  expect_setequal(square$reason, c("", "beyond the end of the other edge"))
  expect_equal(layer_thickness(layer, "matched", 2)$thickness_px, rep(50, 150), tolerance = 1e-12)
  upright <- layer_thickness(layer, "direction", 2, direction = 90)
  expect_equal(upright$thickness_px, rep(50, nrow(upright)), tolerance = 1e-12)
  fitted <- layer_thickness(layer, "direction", 2)
  expect_equal(fitted$thickness_px[fitted$accepted], rep(50 * cos(a), sum(fitted$accepted)),
    tolerance = 1e-9)
  expect_equal(attr(fitted, "trail")[[length(attr(fitted, "trail"))]]$args$direction,
    90 - a * 180 / pi, tolerance = 1e-5)
  expect_true(all(fitted$reason[!fitted$accepted] == "misses the other edge"))

  wedge <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(0, 300), c(140, 170)))
  up <- layer_thickness(wedge, "direction", 3, direction = 90)
  expect_equal(up$thickness_px, 40 + up$from_x_px / 10, tolerance = 1e-12)
  near <- layer_thickness(wedge, "shortest", 3)
  near <- near[near$accepted, ]
  expect_equal(near$thickness_px, (40 + near$from_x_px / 10) * cos(a), tolerance = 1e-12)
  # the direction fitted to both lies between them
  both <- layer_thickness(wedge, "direction", 3)
  expect_equal(attr(both, "trail")[[length(attr(both, "trail"))]]$args$direction,
    90 - a / 2 * 180 / pi, tolerance = 0.05 / 87)
})

test_that("circles and similar polygons have the thickness of closed forms", {
  ring <- layer_between(blank(), edge_circle(150, 150, 60), edge_circle(150, 150, 95))
  for (by in c("shortest", "matched")) for (reference in c("first", "second")) {
    expect_equal(layer_thickness(ring, by, 3, reference)$thickness_px, rep(35, ifelse(reference == "first", 125, 198)),
      tolerance = 0.02 / 35)
  }
  off <- layer_between(blank(), edge_circle(150, 150, 60), edge_circle(162, 150, 95))
  lines <- layer_thickness(off, "shortest", 2)
  a <- atan2(150 - lines$from_y_px, lines$from_x_px - 150)
  expect_equal(
    lines$thickness_px, 95 - sqrt((60 * cos(a) - 12)^2 + (60 * sin(a))^2), tolerance = 0.02 / 25
  )
  square <- function(half) edge_polygon(150 + half * c(-1, 1, 1, -1), 150 + half * c(-1, -1, 1, 1))
  box <- layer_between(blank(), square(50), square(80))
  expect_equal(layer_thickness(box, "shortest", 2)$thickness_px, rep(30, 200), tolerance = 1e-9)
  # at one share of the length both sides keep their place along the side
  lines <- layer_thickness(box, "matched", 2)
  expect_equal(min(lines$thickness_px), 30, tolerance = 1e-3)
  expect_equal(max(lines$thickness_px), 30 * sqrt(2), tolerance = 0.02)
  swapped <- layer_between(blank(), square(80), edge_polygon(150 + 50 * c(-1, -1, 1, 1), 150 + 50 * c(-1, 1, 1, -1)))
  expect_equal(mean_of(layer_thickness(swapped, "matched", 2)), mean_of(lines), tolerance = 0.01)
  expect_refused(layer_thickness(ring, "direction"), "open edges", class = "edge")
})

test_that("lines that cross the other edge twice or miss it are kept with a reason", {
  zigzag <- edge_line(c(0, 100, 60, 300), c(150, 150, 180, 180))
  layer <- layer_between(blank(), edge_line(c(-0, 300), c(100, 100)), zigzag)
  lines <- layer_thickness(layer, "direction", 2, direction = 90)
  twice <- lines$from_x_px > 60 & lines$from_x_px < 100
  expect_true(all(lines$reason[twice] == "crosses it twice"))
  expect_equal(lines$thickness_px[twice], rep(50, sum(twice)))
  expect_true(all(lines$accepted[!twice]))
  short <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(0, 200), c(150, 150)))
  lines <- layer_thickness(short, "direction", 2, direction = 90)
  gone <- lines$from_x_px > 200
  expect_true(all(lines$reason[gone] == "misses the other edge"))
  expect_true(all(is.na(lines$thickness_px[gone])))
  near <- layer_thickness(short, "shortest", 2)
  expect_equal(near$reason == "", !gone)
  expect_refused(layer_thickness(layer, "direction", 2, direction = 0), "No sampling line", class = "edge")
})

test_that("where edges cross each other lines are not accepted", {
  layer <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(0, 300), c(140, 80)))
  for (by in c("shortest", "matched", "direction")) {
    lines <- layer_thickness(layer, by, 2, direction = 90)
    inner <- lines$from_x_px > 10 & lines$from_x_px < 290 & !grepl("beyond", lines$reason)
    expect_equal(lines$accepted[inner], (lines$from_x_px < 200)[inner], label = by)
    expect_true(all(lines$reason[inner & lines$from_x_px > 200] == "the edges cross"))
  }
})

test_that("nearest points and crossings are those of plain searching", {
  set.seed(4)
  x <- cumsum(runif(400, -1, 2))
  y <- cumsum(rnorm(400, 0, 2))
  px <- runif(300, min(x), max(x))
  py <- runif(300, min(y) - 20, max(y) + 20)
  found <- core_nearest(x, y, px, py)
  n <- length(x)
  dx <- diff(x)
  dy <- diff(y)
  plain <- vapply(seq_along(px), function(k) {
    t <- pmin(1, pmax(0, ((px[k] - x[-n]) * dx + (py[k] - y[-n]) * dy) / (dx^2 + dy^2)))
    min(sqrt((px[k] - x[-n] - t * dx)^2 + (py[k] - y[-n] - t * dy)^2))
  }, 0)
  expect_equal(found[, 1], plain)
  a <- 0.7
  crossed <- core_crossings(x, y, px, py, cos(a), -sin(a))
  side <- function(x, y) x * sin(a) + y * cos(a)
  s <- side(x, y)
  for (k in seq_along(px)) {
    own <- side(px[k], py[k])
    over <- which(own >= pmin(s[-n], s[-1]) & own < pmax(s[-n], s[-1]))
    expect_equal(crossed[k, 5], length(over))
    if (length(over) == 0) next
    t <- (own - s[over]) / (s[over + 1] - s[over])
    far <- (x[over] + t * dx[over] - px[k]) * cos(a) - (y[over] + t * dy[over] - py[k]) * sin(a)
    expect_equal(crossed[k, 1], far[which.min(abs(far))])
  }
})

test_that("lengths are those of the calibration, of oblong pixels and of a tilted plane", {
  scale <- new_calibration(c(x = 0.5, y = 2), "um", 0, "given")
  field <- calibrate(as_field(matrix(0, 60, 200)), scale)
  layer <- layer_between(field, edge_line(c(0, 200), c(10, 10)), edge_line(c(0, 200), c(30, 30)))
  expect_equal(unique(layer_thickness(layer, "direction", step = "5 um", direction = 90)$thickness_um), 40)
  expect_equal(nrow(layer_thickness(layer, "direction", step = "5 um", direction = 90)), 20)
  expect_equal(nrow(layer_thickness(layer, "direction", step = 5, direction = 90)), 40)
  ring <- layer_between(field, edge_circle("50 um", "60 um", "20 um"), edge_circle("50 um", "60 um", "45 um"))
  expect_equal(unique(round(layer_thickness(ring)$thickness_um, 2)), 25)

  plane <- simulate_grid(tilt = 15, bend = 0.02, noise = 0, seed = 1)
  plane <- calibrate(plane, calibration_from_grid(plane, pitch = "1 mm"))
  at <- function(x, y) picture_points(plane$calibration$plane, x, y)
  middle <- points_on_plane(plane, ncol(plane$pixels) / 2, nrow(plane$pixels) / 2)
  run <- seq(-6, 6, by = 0.2)
  top <- at(middle$x + run, rep(middle$y - 2, length(run)))
  low <- at(middle$x + run, rep(middle$y + 1.5, length(run)))
  lines <- layer_thickness(layer_between(plane, edge_line(top$x, top$y), edge_line(low$x, low$y)), "direction")
  inner <- lines$thickness_mm[lines$accepted]
  expect_equal(inner, rep(3.5, length(inner)), tolerance = 0.002)
})

test_that("a summary tells n, effective n, evenness and roughness", {
  wavy <- edge_line(seq(0, 300, by = 2), 100 + 5 * sin(seq(0, 300, by = 2) / 8))
  layer <- layer_between(blank(), wavy, edge_line(c(0, 300), c(150, 150)))
  lines <- layer_thickness(layer, "direction", 1, direction = 90)
  said <- summary(lines)
  value <- stats::setNames(said$value, said$what)
  expect_equal(value[["mean"]], 50, tolerance = 0.01)
  expect_equal(value[["sd"]], 5 / sqrt(2), tolerance = 0.05)
  expect_equal(value[["evenness"]], 45 / 55, tolerance = 0.01)
  expect_equal(value[["smallest"]], 45, tolerance = 0.01)
  expect_equal(value[["largest"]], 55, tolerance = 0.01)
  expect_equal(value[["roughness of the first edge"]], 5 * 2 / pi, tolerance = 0.06)
  expect_equal(value[["roughness of the second edge"]], 0, tolerance = 1e-9)
  expect_lt(value[["effective number"]], value[["lines"]] / 3)
  circle <- layer_between(blank(), edge_circle(150, 150, 40), edge_circle(150, 150, 90))
  expect_lt(max(summary(layer_thickness(circle))$value[12:13]), 1e-6)
  expect_warning(
    layer_thickness(layer_between(blank(), edge_line(c(0, 300), c(1, 1)), edge_line(c(0, 300), c(9, 9))),
      step = 100),
    "at least\\s+five places", class = "bemrick_warning_few_lines"
  )
})

test_that("an effective number is that of an autoregressive series", {
  set.seed(9)
  for (phi in c(0, 0.6, 0.9)) {
    x <- as.vector(stats::arima.sim(list(ar = if (phi > 0) phi), 5000))
    expect_equal(effective_number(x) / 5000, (1 - phi) / (1 + phi), tolerance = 0.3)
  }
  expect_equal(effective_number(rep(3, 50)), 50)
})

test_that("steps and layers without sense are refused", {
  layer <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(0, 300), c(150, 150)))
  refused <- function(..., words, class = "bemrick_error") {
    expect_error(layer_thickness(...), words, class = class)
  }
  refused(layer, step = 0, words = "above zero")
  refused(layer, step = 500, words = "longer than the edge", class = "bemrick_error_edge")
  refused(layer, step = "3 um", words = "no calibration", class = "bemrick_error_no_calibration")
  refused(layer, step = 1e-6, words = "ten million")
  refused(layer, by = "nearest", words = "by")
  refused(layer, reference = "third", words = "reference")
  refused(blank(), words = "layer is needed")
})

layer_batch <- function(dir) {
  batch_of_three(
    dir, lapply(1:3, function(k) flat_layer(40 + k / 10, 4)),
    c(
      "trace_layer: {along: {line: [0, 60, 300, 60]}, reach: 100 um, polarity: [rising, falling]}",
      "layer_thickness: {by: shortest, step: 4 um}"
    ),
    c("mean: {of: thickness, min: 70 um, max: 90 um}", "smallest: {of: thickness, min: 60 um}")
  )
}

test_that("a method of layers runs as a batch, is judged, reported and read back", {
  dir <- withr::local_tempdir()
  run <- layer_batch(dir)
  expect_equal(unname(run$kinds), "thickness")
  limits <- run$verdict$limits
  expect_equal(limits$value[1], 80.4, tolerance = 1e-3)
  expect_equal(limits$verdict, c("pass", "pass"))
  out <- file.path(dir, "results")
  expect_true(file.exists(file.path(out, "thickness.csv")))
  back <- read_run(out)
  expect_equal(back$thickness$thickness_um, run$thickness$thickness_um, tolerance = 1e-6)
  render_report(out)
  page <- paste(readLines(file.path(out, "report.html")), collapse = "\n")
  expect_match(page, "sampling lines found")
  expect_match(page, "<td>thickness \\(\u00b5m\\)</td>")
  expect_length(size_distribution(run, "thickness")$values, sum(run$thickness$accepted))
})

test_that("a mean within one picture counts as many lines as are independent", {
  wavy <- edge_line(seq(0, 300, by = 2), 100 + 5 * sin(seq(0, 300, by = 2) / 20))
  field <- calibrate(blank(), calibration_from_length(2000, "2000 um"))
  layer <- layer_between(field, wavy, edge_line(c(0, 300), c(150, 150)))
  spec <- withr::local_tempfile(fileext = ".yml", lines = c(
    "bemrick: spec 1", "product: glaze", "limits:",
    "  - mean: {of: thickness, per: field, min: 40 um, max: 60 um}"
  ))
  width <- function(step) {
    limits <- judge(layer_thickness(layer, "direction", step, direction = 90), spec)$limits
    limits$high - limits$low
  }
  # ten times as many lines tell hardly more
  expect_equal(width(0.5) / width(5), 1, tolerance = 0.25)
})

test_that("layers by hand become a method", {
  field <- flat_layer(40, 3)
  by_hand <- layer_thickness(layer_between(
    field, edge_line(c(0, 300), c(40, 40)), trace_edge(field, level_path(), 50, "falling")
  ), "direction", 5)
  file <- withr::local_tempfile(fileext = ".yml")
  write_method(as_method(by_hand), file)
  again <- apply_method(field, read_method(file))
  expect_equal(again$thickness_px, by_hand$thickness_px)
  mask <- layer_thickness(layer_of_mask(segment_level(field, low = 130)), step = 5)
  write_method(as_method(mask), file, replace = TRUE)
  expect_equal(apply_method(field, read_method(file))$thickness_px, mask$thickness_px)
})

test_that("places of a line are its ends and its middle, and five lines are enough", {
  layer <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(0, 100, 300), c(140, 160, 150)))
  lines <- layer_thickness(layer, "direction", 60, direction = 90)
  expect_equal(lines$from_x_px, c(30, 90, 150, 210, 270))
  expect_equal(lines$to_x_px, lines$from_x_px)
  expect_equal(lines$to_y_px, c(146, 158, 157.5, 154.5, 151.5))
  expect_equal(lines$y_px, (100 + lines$to_y_px) / 2)
  scaled <- layer_between(
    calibrate(blank(), calibration_from_length(100, "200 um")), edge_line(c(0, 300), c(100, 100)),
    edge_line(c(0, 300), c(140, 150))
  )
  rows <- layer_thickness(scaled, "direction", 60, direction = 90)
  expect_equal(rows$x_um, 2 * rows$x_px)
  expect_equal(rows$y_um, 2 * rows$y_px)
  expect_silent(layer_thickness(layer, "direction", 60, direction = 90))
  expect_warning(layer_thickness(layer, "direction", 75, direction = 90), "Only 4 sampling lines")
  # the foot of the very first line lies square to the end of the other edge
  square <- layer_between(blank(), edge_line(c(10, 300), c(100, 100)), edge_line(c(11, 300), c(140, 140)))
  first <- layer_thickness(square, "shortest", 2)
  expect_equal(first$reason[1], "")
  beyond <- layer_between(blank(), edge_line(c(0, 300), c(100, 100)), edge_line(c(11, 290), c(140, 140)))
  some <- layer_thickness(beyond, "shortest", 2)
  expect_equal(some$reason != "", some$from_x_px < 11 | some$from_x_px > 290)
})

test_that("lines from or to a gap are not accepted, and a thickness has the uncertainty of both edges", {
  edge <- function(y, gap, u) {
    list(x = c(0, 100, 200, 300), y = rep(y, 4), closed = FALSE, gap = gap, u = rep(u, 4))
  }
  layer <- new_layer(
    blank(), edge(100, c(TRUE, FALSE, FALSE), 0.3), edge(150, c(FALSE, FALSE, TRUE), 0.4), list()
  )
  lines <- layer_thickness(layer, "direction", 10, direction = 90)
  expect_equal(lines$u_px, rep(0.5, nrow(lines)))
  x <- lines$from_x_px
  expect_equal(lines$reason == "edge not seen", x < 100 | x > 200)
  closed <- new_layer(
    blank(), edge(100, rep(TRUE, 3), 0), edge(150, rep(FALSE, 3), 0), list()
  )
  expect_refused(
    layer_thickness(closed, "direction", 10, direction = 90), "because: edge not seen", class = "edge"
  )
})
