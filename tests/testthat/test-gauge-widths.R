row_line <- function(across = 9) path_line(0, 10, 120, 10, across = across)

test_that("widths and gaps are the distances of the bars", {
  from <- c(20.3, 50.7, 81)
  to <- c(31.5, 66.2, 90.4)
  field <- as_field(bright_bars(from, to))
  w <- gauge_widths(field, row_line())
  expect_equal(w$width_px, c(11.2, NA, 15.5, NA, 9.4), tolerance = 1e-4)
  expect_equal(w$gap_px, c(NA, 19.2, NA, 14.8, NA), tolerance = 1e-4)
  expect_equal(w$x_px[1:2], c(25.9, 41.1), tolerance = 1e-4)
  expect_equal(w$edge_contrast, rep(100, 5), tolerance = 0.01)
  expect_true(all(w$accepted))
  dark <- gauge_widths(field, row_line(), phase = "dark")
  expect_equal(dark$gap_px, w$width_px)
  expect_equal(dark$width_px, w$gap_px)
  scaled <- gauge_widths(calibrate(field, calibration_from_length(1, "2 um")), row_line())
  expect_equal(scaled$width_um, 2 * w$width_px)
  expect_equal(scaled$u_um, 2 * w$u_px)
  backwards <- gauge_widths(field, path_line(120, 10, 0, 10, across = 9))
  expect_equal(rev(backwards$width_px), w$width_px, tolerance = 1e-6)
})

test_that("a stated uncertainty of a width covers it, of thin ones as well", {
  set.seed(2)
  n <- 120
  for (width in c(4, 12)) {
    at <- 25 + runif(n, -1, 1)
    m <- do.call(rbind, lapply(at, function(x) bright_bars(x, x + width, 60, 12, fine = 3)))
    field <- as_field(round(m + rnorm(length(m), 0, 3)))
    w <- gauge_widths(field, path_repeat(path_line(0, 6, 60, 6, across = 10), 12, n))
    expect_equal(nrow(w), n)
    off <- w$width_px - width
    expect_lt(abs(mean(off)), 0.03)
    expect_gt(mean(abs(off) < 2 * w$u_px), 0.88)
    expect_lt(mean(w$u_px) / sqrt(mean(off^2)), 1.3)
  }
})

test_that("edges that belong to nothing are left out by contrast, order and size", {
  # a dark wire with a bright reflection in its middle
  wire <- 220 - bright_bars(c(30, 70), c(50, 90), low = 60, high = 200)
  field <- as_field(wire + bright_bars(c(38, 78), c(42, 82), low = 0, high = 60))
  all <- gauge_widths(field, row_line(), phase = "dark", contrast = 20)
  expect_equal(round(all$width_px), c(8, NA, 8, NA, 8, NA, 8))
  by_contrast <- gauge_widths(field, row_line(), phase = "dark", contrast = 100)
  expect_equal(by_contrast$width_px, c(20, NA, 20), tolerance = 1e-3)
  by_size <- gauge_widths(
    field, row_line(), phase = "dark", contrast = 20, width = c(15, 25), gap = c(10, NA)
  )
  expect_equal(by_size$width_px, c(20, NA, 20), tolerance = 1e-3)
  expect_gt(min(by_size$u_px), 0)
  trail <- trail_of(by_size)
  expect_match(trail$decided[nrow(trail)], "by_size = 4")
  # what has another size stays, with its reason
  odd <- gauge_widths(as_field(bright_bars(c(20, 60), c(30, 90))), row_line(), width = c(8, 12))
  expect_equal(odd$accepted, c(TRUE, TRUE, FALSE))
  expect_equal(odd$reason[3], "width above 12")
  stairs <- bright_bars(20, 40) + bright_bars(25, 60, low = 0, high = 30)
  in_a_row <- gauge_widths(as_field(stairs), row_line(), contrast = 20)
  expect_equal(in_a_row$width_px, 20, tolerance = 1e-3)
})

test_that("round a circle the last edge and the first make a pair", {
  spokes <- function(x, y) {
    a <- (atan2(-(y - 60), x - 60)) %% (pi / 2)
    sqrt((x - 60)^2 + (y - 60)^2) * (0.4 - abs(a - pi / 4))
  }
  field <- as_field(edge_picture(spokes, 120, 120, blur = 0.8))
  w <- gauge_widths(field, path_circle(60, 60, 45, across = 5))
  expect_equal(sort(w$width_px[!is.na(w$width_px)]), rep(45 * 0.8, 4), tolerance = 1e-3)
  expect_equal(sort(w$gap_px[!is.na(w$gap_px)]), rep(45 * (pi / 2 - 0.8), 4), tolerance = 1e-3)
  middle <- atan2(-(w$y_px - 60), w$x_px - 60) %% (pi / 2)
  expect_equal(middle[!is.na(w$width_px)], rep(pi / 4, 4), tolerance = 1e-3)
  expect_equal(sqrt((w$x_px - 60)^2 + (w$y_px - 60)^2), rep(45, 8), tolerance = 1e-3)
  # on an arc from 100 degrees on, counted from its start
  arc <- gauge_widths(field, path_arc(60, 60, 45, 100, 175, across = 5))
  expect_equal(c(arc$x_px, arc$y_px), 60 + 45 * c(-1, -1) / sqrt(2), tolerance = 1e-4)
})

test_that("edges aslant to the path are gauged square to themselves", {
  a <- 8 * pi / 180
  slanted <- edge_picture(function(x, y) (x - 40) * cos(a) - (y - 15) * sin(a), 100, 30) -
    edge_picture(function(x, y) (x - 40) * cos(a) - (y - 15) * sin(a) - 20, 100, 30) + 60
  path <- path_line(10, 15, 90, 15, across = 11)
  expect_equal(gauge_widths(as_field(slanted), path, tilt = TRUE)$width_px, 20, tolerance = 1e-3)
  expect_equal(gauge_widths(as_field(slanted), path)$width_px, 20 / cos(a), tolerance = 1e-3)
})

test_that("on a tilted plane widths are those of the plane", {
  plane <- simulate_grid(tilt = 15, bend = 0.02, noise = 0, seed = 1)
  plane <- calibrate(plane, calibration_from_grid(plane, pitch = "1 mm"))
  # bars of the plane: bright from 2 to 4.5 and from 9 to 11 mm to the right of its point
  size <- dim(plane$pixels)
  middle <- points_on_plane(plane, size[2] / 2, size[1] / 2)
  step <- (1:4 - 0.5) / 4
  x <- rep(seq_len(size[2]) - 1, each = size[1])
  y <- rep(seq_len(size[1]) - 1, size[2])
  share <- 0
  for (a in step) for (b in step) {
    at <- points_on_plane(plane, x + a, y + b)$x - middle$x
    share <- share + (at > -5 & at < -2.5) + (at > 2 & at < 4)
  }
  plane$pixels <- plane$picture <- core_gaussian(
    matrix(40 + 150 * share / 16, size[1], size[2]), 0.8, 0.8
  )
  from <- picture_points(plane$calibration$plane, middle$x - 7, middle$y)
  to <- picture_points(plane$calibration$plane, middle$x + 7, middle$y)
  w <- gauge_widths(plane, path_line(from$x, from$y, to$x, to$y, across = 5))
  expect_equal(w$width_mm[c(1, 3)], c(2.5, 2), tolerance = 0.002)
  expect_equal(w$gap_mm[2], 4.5, tolerance = 0.002)
  # one scale for all would not do
  pixels <- sqrt((w$to_x_px - w$from_x_px)^2 + (w$to_y_px - w$from_y_px)^2)
  expect_gt(abs(pixels[1] / pixels[3] / (2.5 / 2) - 1), 0.01)
})

test_that("strips too thin for their blur are kept, with the reason", {
  field <- as_field(with_noise(bright_bars(30, 30.8, 60, high = 260), 6))
  w <- gauge_widths(field, path_line(0, 10, 60, 10, across = 5), contrast = 20)
  expect_equal(nrow(w), 1)
  expect_true(w$accepted || w$reason == "edges not resolved")
  expect_true(w$accepted == FALSE || abs(w$width_px - 0.8) < 3 * w$u_px)
})

test_that("no pair of edges is an error that tells what was seen", {
  field <- as_field(edge_picture(upright_edge(30)))
  expect_refused(
    gauge_widths(field, path_line(0, 10, 60, 10)), "1 edge was found, the\\s+strongest\\s+step",
    class = "not_found"
  )
  expect_refused(
    gauge_widths(as_field(matrix(90, 20, 60)), path_line(0, 10, 60, 10)), "No edge",
    class = "not_found"
  )
  expect_refused(
    gauge_widths(field, path_line(0, 10, 60, 10), contrast = 1e6, width = c(3, 9)), "No edge",
    class = "not_found"
  )
  expect_refused(
    gauge_widths(field, path_line(0, 10, 60, 10), width = c(9, 3)), "above the highest",
    class = "argument"
  )
  expect_error(gauge_widths(field, path_line(0, 10, 60, 10), phase = "grey"), "phase")
})

# A method of branches with widths, a batch of two pictures, and a specification.
cloth_batch <- function(dir, blank = 0) {
  pictures <- lapply(1:3, function(k) {
    m <- bright_bars(c(20, 60), c(30, 70) + k / 10, 120, 40, high = 200)
    as_field(round(if (k %in% blank) 0 * m + 90 else m))
  })
  batch_of_three(
    dir, pictures,
    "gauge_widths: {along: {line: [0, 5, 120, 5], across: 5 px, every: 6, times: 5}, phase: bright}",
    c(
      "mean: {of: width, min: 19 um, max: 21 um}", "smallest: {of: gap, min: 50 um}",
      "count: {per: field, min: 10}"
    )
  )
}

test_that("a method of widths runs as a batch, is judged, reported and read back", {
  dir <- withr::local_tempdir()
  run <- cloth_batch(dir)
  expect_equal(unname(run$kinds), "widths")
  expect_equal(nrow(run$widths), 45)
  expect_equal(mean(run$widths$width_um, na.rm = TRUE), 20.4, tolerance = 1e-3)
  limits <- run$verdict$limits
  expect_equal(limits$value[1:2], c(20.4, 59.4), tolerance = 1e-3)
  expect_equal(limits$verdict, rep("pass", 5))
  expect_equal(run$verdict$samples$verdict, "pass")
  out <- file.path(dir, "results")
  expect_true(all(file.exists(file.path(out, c("widths.csv", "run.json", "overlays")))))
  back <- read_run(out)
  expect_equal(back$widths$width_um, run$widths$width_um, tolerance = 1e-6)
  expect_equal(judge(back, file.path(dir, "spec.yml"))$samples$verdict, "pass")
  render_report(out)
  page <- paste(readLines(file.path(out, "report.html")), collapse = "\n")
  expect_match(page, "45 distances found, 45 accepted")
  expect_match(page, "<td>width \\(\u00b5m\\)</td>")
  expect_match(page, "<td>gap \\(\u00b5m\\)</td>")
  d <- size_distribution(run, "width")
  expect_length(d$values, 30)
  expect_error(size_distribution(run), "ecd")
  expect_refused(measures_of(run, 1), "no objects, only widths", class = "argument")
})

test_that("a picture without edges is a faulty field of its batch", {
  dir <- withr::local_tempdir()
  suppressWarnings(run <- cloth_batch(dir, blank = 2))
  expect_equal(run$fields$status, c("measured", "faulty", "measured"))
  expect_match(run$fields$reason[2], "No edge")
  expect_equal(run$verdict$samples$verdict, "undecided")
})

test_that("a batch of nothing but faulty pictures is read back, and undecided", {
  dir <- withr::local_tempdir()
  suppressWarnings(run <- cloth_batch(dir, blank = 1:3))
  expect_equal(nrow(run$widths), 0)
  back <- read_run(file.path(dir, "results"))
  expect_equal(back$verdict$samples$verdict, "undecided")
  expect_equal(nrow(back$widths), 0)
  expect_no_error(suppressWarnings(render_report(file.path(dir, "results"))))
})

test_that("the largest width is as sure as its own two edges", {
  set.seed(1)
  field <- calibrate(
    as_field(with_noise(bright_bars(c(20, 60), c(30, 75)), 12)), calibration_from_length(1e5, "100000 um")
  )
  w <- gauge_widths(field, row_line())
  spec <- withr::local_tempfile(fileext = ".yml", lines = c(
    "bemrick: spec 1", "product: bars", "limits:", "  - largest: {of: width, max: 20 um}"
  ))
  limits <- judge(w, spec)$limits
  expect_equal((limits$high - limits$low) / 2, stats::qnorm(0.975) * w$u_um[3], tolerance = 0.01)
})

test_that("widths by hand become a method, and are judged alone", {
  field <- as_field(bright_bars(c(20, 60), c(30, 75)))
  field <- calibrate(field, calibration_from_length(1000, "1000 um"))
  by_hand <- gauge_widths(filter_gaussian(field, 0.5), row_line(), width = c("5 um", "20 um"))
  method <- as_method(by_hand)
  file <- withr::local_tempfile(fileext = ".yml")
  write_method(method, file)
  again <- apply_method(field, read_method(file))
  expect_equal(tibble::as_tibble(again), tibble::as_tibble(by_hand))
  spec <- withr::local_tempfile(fileext = ".yml", lines = c(
    "bemrick: spec 1", "product: bars", "limits:", "  - largest: {of: width, max: 14 um}"
  ))
  expect_equal(judge(by_hand, spec)$limits$verdict, "fail")
  expect_error(
    read_method(withr::local_tempfile(fileext = ".yml", lines = c(
      "bemrick: method 1", "title: t", "steps:", "  - gauge_widths: {along: {lines: [1, 2, 3, 4]}}"
    ))),
    "gauge_widths", class = "bemrick_error"
  )
})

test_that("expected sizes are those of the phase, and every rule is counted", {
  # dark wires 20 wide, 40 apart, each with a bright reflection of 4
  wire <- 220 - bright_bars(c(20, 80), c(40, 100), 140, low = 60, high = 200)
  field <- as_field(wire + bright_bars(c(28, 88), c(32, 92), 140, low = 0, high = 60))
  path <- path_line(0, 10, 140, 10, across = 9)
  w <- gauge_widths(field, path, "dark", 20, width = c(15, 25), gap = c(30, 50))
  expect_equal(w$width_px, c(20, NA, 20), tolerance = 1e-3)
  expect_equal(w$gap_px[2], 40, tolerance = 1e-3)
  bright <- gauge_widths(field, path, "bright", 20, width = c(30, 50), gap = c(15, 25))
  expect_equal(bright$gap_px, w$width_px)
  decided <- attr(w, "trail")[[length(attr(w, "trail"))]]$decided
  expect_equal(decided[c("edges", "weak", "in_a_row", "by_size", "accepted")],
    list(edges = 4L, weak = 0L, in_a_row = 0L, by_size = 4L, accepted = 3L))
  stairs <- as_field(bright_bars(20, 40) + bright_bars(25, 60, low = 0, high = 30))
  decided <- attr(gauge_widths(stairs, row_line(), contrast = 20), "trail")
  expect_equal(decided[[length(decided)]]$decided$in_a_row, 2)
})

test_that("a width aslant in the picture is its whole length", {
  a <- 30 * pi / 180
  along <- function(x, y) (x - 60) * cos(a) - (y - 60) * sin(a)
  m <- edge_picture(function(x, y) along(x, y) + 12, 120, 120) -
    edge_picture(function(x, y) along(x, y) - 12, 120, 120) + 60
  ends <- 40 * c(cos(a), sin(a))
  w <- gauge_widths(as_field(m), path_line(60 - ends[1], 60 + ends[2], 60 + ends[1], 60 - ends[2], 5))
  expect_equal(w$width_px, 24, tolerance = 1e-3)
})
