level_line <- function(across = 11) path_line(0, 10.5, 60, 10.5, across = across)

test_that("an edge without noise lies where it is, whatever its blur and the path's direction", {
  for (blur in c(0.5, 1, 3)) for (at in c(30, 30.3, 30.85)) {
    field <- as_field(edge_picture(upright_edge(at), blur = blur))
    e <- gauge_edges(field, level_line())
    expect_equal(c(e$x_px, e$y_px), c(at, 10.5), tolerance = 1e-4)
    expect_equal(e$contrast, 100, tolerance = 1e-3)
    expect_equal(e$rise_px, 2 * qnorm(0.9) * blur, tolerance = 0.01)
    expect_equal(e$polarity, "rising")
    back <- gauge_edges(field, path_line(60, 10.5, 0, 10.5, across = 5))
    expect_equal(back$x_px, at, tolerance = 1e-4)
    expect_equal(back$polarity, "falling")
    expect_equal(back$position_px, 60 - at, tolerance = 1e-4)
  }
  for (turn in c(20, 70, 135, 250)) {
    a <- turn * pi / 180
    distance <- function(x, y) (x - 40.3) * cos(a) - (y - 39.6) * sin(a)
    field <- as_field(edge_picture(distance, 80, 80, blur = 0.7))
    path <- path_line(40.3 - 25 * cos(a), 39.6 + 25 * sin(a), 40.3 + 25 * cos(a), 39.6 - 25 * sin(a), 7)
    e <- gauge_edges(field, path)
    expect_equal(e$position_px, 25, tolerance = 2e-4)
  }
})

test_that("sharp edges of whole and shared pixels are placed by their share", {
  for (at in c(30, 30.25, 30.6)) {
    share <- pmin(pmax(seq_len(60) - at, 0), 1)
    e <- gauge_edges(as_field(matrix(40 + 120 * share, 21, 60, byrow = TRUE)), level_line())
    expect_equal(e$x_px, at, tolerance = 0.002)
  }
})

test_that("slanted edges are placed on the axis, and their tilt is told when asked", {
  for (tilt in c(-10, 4)) {
    field <- as_field(edge_picture(upright_edge(30.4, tilt), blur = 1))
    e <- gauge_edges(field, level_line(), tilt = TRUE)
    expect_equal(e$x_px, 30.4, tolerance = 5e-4)
    expect_equal(e$tilt_deg, tilt, tolerance = 0.01)
  }
  # without asking the place is right as well, and told as surely
  field <- as_field(with_noise(edge_picture(upright_edge(30.4, 8), blur = 1), 3))
  plain <- gauge_edges(field, level_line())
  tilted <- gauge_edges(field, level_line(), tilt = TRUE)
  expect_equal(plain$x_px, tilted$x_px, tolerance = 1e-3)
  expect_lt(plain$u_px, 1.2 * tilted$u_px)
  expect_null(plain[["tilt_deg"]])
})

test_that("the fit is that of plain least squares", {
  cell <- function(d, s, box = 1) {
    g <- function(z) z * pnorm(z) + dnorm(z)
    s / box * (g((d + box / 2) / s) - g((d - box / 2) / s))
  }
  for (seed in 1:4) {
    m <- with_noise(edge_picture(upright_edge(18 + seed / 3), 40, 21, blur = 1.2), 8, seed)
    d <- rep(seq_len(40) - 0.5, each = 7)
    grey <- as.vector(m[8:14, ])
    misfit <- function(p) sum((grey - p[1] - p[2] * cell(d - p[3], p[4]))^2)
    best <- list(par = c(60, 100, 19, 1))
    for (again in 1:4) best <- optim(best$par, misfit, control = list(reltol = 1e-15, maxit = 5000))
    e <- gauge_edges(as_field(m), path_line(0, 10.5, 40, 10.5, across = 7))
    expect_equal(e$x_px, best$par[3], tolerance = 2e-5)
    expect_equal(e$contrast, best$par[2], tolerance = 1e-3)
    # the bound for these grey levels, by differences
    slope <- sapply(1:4, function(k) {
      step <- replace(numeric(4), k, 1e-4)
      value <- function(p) p[1] + p[2] * cell(d - p[3], p[4])
      (value(best$par + step) - value(best$par - step)) / 2e-4
    })
    covariance <- solve(crossprod(slope)) * best$value / (length(grey) - 4)
    expect_equal(e$u_px, sqrt(covariance[3, 3]), tolerance = 0.05)
  }
})

test_that("errors in noise are near the bound and within what is stated", {
  n <- 150
  set.seed(5)
  for (case in list(c(0.7, 4, 10), c(1.5, 8, 10), c(1, 2, 3))) {
    at <- 30 + runif(n, -1, 1)
    rows <- case[3] + 2
    m <- do.call(rbind, lapply(at, function(x) {
      edge_picture(function(px, y) px - x, 60, rows, case[1], fine = 4)
    }))
    field <- as_field(pmax(round(m + rnorm(length(m), 0, case[2])), 0))
    path <- path_repeat(path_line(0, rows / 2, 60, rows / 2, across = case[3]), rows, n)
    e <- gauge_edges(field, path, contrast = 50)
    expect_equal(e$path, seq_len(n))
    off <- e$x_px - at
    expect_lt(sqrt(mean(off^2)), 1.25 * least_error(case[2], 100, case[1], case[3]))
    expect_lt(abs(mean(off)), 3 * sd(off) / sqrt(n))
    within <- mean(abs(off) < 2 * e$u_px)
    expect_gt(within, 0.9)
    expect_lt(within, 0.995)
  }
})

test_that("edges near each other are placed together", {
  for (width in c(3, 4, 6)) {
    field <- as_field(bright_bars(30.2, 30.2 + width, 60))
    e <- gauge_edges(field, level_line())
    expect_equal(e$x_px, 30.2 + c(0, width), tolerance = 1e-3)
    expect_equal(e$polarity, c("rising", "falling"))
    expect_true(all(e$resolved))
  }
  many <- seq(10, 100, by = 7)
  e <- gauge_edges(as_field(bright_bars(many, many + 3.5, 120)), path_line(0, 10, 120, 10, across = 9))
  expect_equal(e$x_px, sort(c(many, many + 3.5)), tolerance = 1e-3)
  # two of one polarity: a step on a step
  stairs <- edge_picture(upright_edge(20), blur = 1, low = 50, high = 90) +
    edge_picture(upright_edge(25), blur = 1, low = 0, high = 70)
  e <- gauge_edges(as_field(stairs), level_line())
  expect_equal(e$x_px, c(20, 25), tolerance = 1e-3)
  expect_equal(e$contrast, c(40, 70), tolerance = 1e-2)
  one <- gauge_edges(as_field(stairs), level_line(), alternate = TRUE)
  expect_equal(one$x_px, 25, tolerance = 1e-3)
  # another path or another polarity begins anew
  falls <- edge_picture(upright_edge(45), blur = 1, low = 0, high = -110)
  each <- gauge_edges(
    as_field(stairs + falls), path_repeat(path_line(0, 5, 60, 5, across = 5), 10, 2), alternate = TRUE
  )
  expect_equal(each$x_px, c(25, 45, 25, 45), tolerance = 1e-3)
})

test_that("lengths along an edge are those of the calibration", {
  m <- with_noise(edge_picture(upright_edge(30), blur = 1), 2)
  plain <- gauge_edges(as_field(m), level_line())
  scaled <- gauge_edges(calibrate(as_field(m), calibration_from_length(1, "3 um")), level_line())
  expect_equal(scaled$rise_um, 3 * plain$rise_px)
  expect_equal(scaled$u_um, 3 * plain$u_px)
  expect_equal(scaled$position_um, 3 * plain$position_px)
})

test_that("which edges are taken follows contrast, polarity and order", {
  m <- bright_bars(c(20, 60), c(30, 75), 120) + bright_bars(90, 100, 120, low = 0, high = 30)
  field <- as_field(m)
  path <- path_line(0, 10, 120, 10, across = 5)
  at <- function(...) round(gauge_edges(field, path, ...)$x_px)
  expect_equal(at(contrast = 20), c(20, 30, 60, 75, 90, 100))
  expect_equal(at(), c(20, 30, 60, 75))
  expect_equal(at(contrast = 20, polarity = "falling"), c(30, 75, 100))
  expect_equal(at(which = "first"), 20)
  expect_equal(at(which = "last"), 75)
  expect_equal(at(contrast = 20, polarity = "rising", which = "last"), 90)
  expect_equal(at(polarity = "falling", which = "strongest") %in% c(30, 75), TRUE)
  trail <- trail_of(gauge_edges(field, path, contrast = 50))
  expect_match(trail$decided[nrow(trail)], "edges = 4, weak = 2")
})

test_that("no edges: the strongest step is told, and what would find it", {
  field <- as_field(edge_picture(upright_edge(30)))
  expect_refused(
    gauge_edges(field, level_line(), contrast = 150), "strongest\\s+step\\s+seen\\s+is\\s+1?[90][0-9]",
    class = "not_found"
  )
  expect_error(gauge_edges(field, level_line(), contrast = 150), "Set `contrast` to (59|60)")
  expect_error(gauge_edges(field, level_line(), contrast = 150), "is\\s+[0-9.]{2,4}\\s+grey")
  expect_error(gauge_edges(field, level_line(), polarity = "falling"), "`polarity` to \"both\"")
  flat <- as_field(with_noise(matrix(100, 21, 60), 2))
  expect_refused(gauge_edges(flat, level_line(1)), class = "not_found")
  expect_refused(gauge_edges(as_field(matrix(1, 1, 1)), path_line(0, 0.5, 1, 0.5)), class = "not_found")
  expect_refused(gauge_edges(field, path_line(0, 90, 60, 90)), "outside", class = "path")
  expect_warning(
    expect_equal(gauge_edges(field, path_repeat(path_line(0, 5, 60, 5), 10, 4))$path, 1:2),
    "2 of 4 paths lie outside", class = "bemrick_warning_path"
  )
})

test_that("edges across arcs and circles, and in oblong pixels, lie where they are", {
  wedge <- function(x, y) {
    a <- atan2(-(y - 50), x - 50)
    r <- sqrt((x - 50)^2 + (y - 50)^2)
    r * pmin(a - 0.5, 2 - a)
  }
  field <- as_field(edge_picture(wedge, 100, 100, blur = 0.8))
  e <- gauge_edges(field, path_circle(50, 50, 35, across = 5))
  angle <- atan2(-(e$y_px - 50), e$x_px - 50)
  expect_equal(angle, c(0.5, 2), tolerance = 1e-3)
  expect_equal(e$position_px, 35 * c(0.5, 2), tolerance = 1e-3)
  # the seam of the circle lies within an edge, or at it
  for (turn in c(0.5, 0.52)) {
    arc <- gauge_edges(field, path_arc(50, 50, 35, turn * 180 / pi - 60, turn * 180 / pi + 120, 5))
    expect_equal(atan2(-(arc$y_px - 50), arc$x_px - 50), c(0.5, 2), tolerance = 1e-3)
  }
  seam <- function(x, y) {
    a <- atan2(-(y - 50), x - 50)
    sqrt((x - 50)^2 + (y - 50)^2) * pmin(a - 0, 2 - a)
  }
  e <- gauge_edges(
    as_field(edge_picture(seam, 100, 100, blur = 0.8)), path_circle(50, 50, 35, across = 5)
  )
  expect_equal(sort(atan2(-(e$y_px - 50), e$x_px - 50)), c(0, 2), tolerance = 1e-3)

  tall <- 1.7
  a <- 35 * pi / 180
  distance <- function(x, y) (x - 40) * cos(a) - (y - 51) * sin(a)
  m <- edge_picture(distance, 80, 60, blur = 0.9, tall = tall)
  scale <- new_calibration(c(x = 1, y = 1.7), "um", 0, "given")
  field <- calibrate(as_field(m), scale)
  u <- function(v) paste(v, "um")
  e <- gauge_edges(field, path_line(
    u(40 - 20 * cos(a)), u(51 + 20 * sin(a)), u(40 + 20 * cos(a)), u(51 - 20 * sin(a)), "6 um"
  ))
  expect_equal(e$position_um, 20, tolerance = 5e-4)
  expect_equal(e$rise_um, 2 * qnorm(0.9) * 0.9, tolerance = 0.01)
})

test_that("excluded areas do not count, and threads change nothing", {
  m <- bright_bars(c(20, 60), c(30, 75), 120)
  field <- keep_within(as_field(m), region_box(0, 0, 50, 21))
  expect_equal(
    gauge_edges(field, path_line(0, 10, 120, 10, across = 5))$x_px, c(20, 30), tolerance = 1e-3
  )
  noisy <- as_field(with_noise(m, 6))
  path <- path_repeat(path_line(0, 0.5, 120, 0.5), 0.1, 200)
  withr::defer(use_threads(NULL))
  use_threads(1)
  one <- gauge_edges(noisy, path, contrast = 50)
  use_threads(3)
  expect_identical(tibble::as_tibble(gauge_edges(noisy, path, contrast = 50)), tibble::as_tibble(one))
  expect_gt(nrow(one), 700)
})

test_that("at every find edges lie where they lie in the part", {
  at <- places(c(80, 230), c(70, 90), c(0, 37))
  field <- field_of_parts("clip", at)
  pattern <- taught_part("clip")
  finds <- locate_pattern(field, pattern)
  middle <- unname(pattern$reference)
  path <- path_line(middle[1], middle[2] - 30, middle[1], middle[2] + 30, across = 5)
  e <- gauge_edges(finds, path)
  expect_equal(e$find, rep(finds$id, each = nrow(e) / 2))
  expect_gt(nrow(e), 3)
  first <- e[e$find == finds$id[1], ]
  second <- e[e$find == finds$id[2], ]
  expect_equal(first$position_px, second$position_px, tolerance = 0.01)
  none <- finds
  none$accepted <- FALSE
  expect_refused(gauge_edges(none, path), "No find is accepted", class = "not_found")
})

test_that("the tilt is as sure as it is said to be", {
  set.seed(3)
  n <- 80
  m <- do.call(rbind, lapply(seq_len(n), function(k) {
    edge_picture(upright_edge(20, 5, 10.5), 40, 21, fine = 4)
  }))
  field <- as_field(pmax(round(m + rnorm(length(m), 0, 5)), 0))
  path <- path_repeat(path_line(0, 10.5, 40, 10.5, across = 15), 21, n)
  e <- gauge_edges(field, path, contrast = 50, tilt = TRUE)
  off <- e$tilt_deg - 5
  expect_lt(abs(mean(off)), 3 * stats::sd(off) / sqrt(n))
  expect_equal(mean(e$u_tilt_deg), stats::sd(off), tolerance = 0.25)
})
