# Small fields with known content.

mask_of <- function(pixels, calibration = NULL) {
  field <- as_field(pixels * 255)
  if (!is.null(calibration)) field <- calibrate(field, calibration)
  suppressWarnings(segment_level(field, low = 128))  # tests draw masks of every kind
}

disc_mask <- function(size, radius, x = size / 2, y = size / 2) {
  at <- seq_len(size) - 0.5
  outer(at, at, function(b, a) (a - x)^2 + (b - y)^2 <= radius^2)
}

# Three that touch, with a gap between them.
three_discs <- function() {
  disc_mask(180, 30, 50, 55) | disc_mask(180, 30, 108, 55) | disc_mask(180, 30, 79, 105.2)
}

half_um <- function() calibration_from_length(200, "100 um", error_pixels = 0.4, name = "test")

small_beads <- function(...) {
  args <- utils::modifyList(
    list(width = 320, height = 240, count = 24, diameter = "16 um", pixel = "0.6 um", seed = 3),
    list(...), keep.null = TRUE
  )
  do.call(simulate_field, args)
}

measured_beads <- function(...) {
  small_beads(...) |> segment_auto(phase = "bright") |> find_objects() |> measure_objects()
}

# One small demo lab for all tests of a run: two samples of two fields of beads, drawn once, by
# tools/run-tests.R for all files.
bead_lab <- local({
  dir <- Sys.getenv("BEMRICK_TEST_LAB")
  function() {
    if (!nzchar(dir)) {
      dir <<- tempfile("lab-")
      demo_lab(dir, products = "beads", samples = 2, fields = 2)
    }
    file.path(dir, "alumina-beads")
  }
})
lab_file <- function(name) file.path(bead_lab(), name)

kit <- function(name) system.file("extdata", name, package = "bemrick", mustWork = TRUE)

text_file <- function(..., ext = ".yml") {
  path <- tempfile(fileext = ext)
  writeLines(c(...), path)
  path
}

# Runs the program as a user does: list(status, out, err).
bemrick_program <- function(...) {
  err <- tempfile()
  out <- tempfile()
  status <- system2(
    file.path(R.home("bin"), "Rscript"), c(
      shQuote(system.file("exec", "bemrick", package = "bemrick", mustWork = TRUE)), shQuote(c(...))
    ),
    stdout = out, stderr = err, env = paste0("R_LIBS=", shQuote(paste(.libPaths(), collapse = ":")))
  )
  read <- function(file) paste(readLines(file, warn = FALSE, encoding = "UTF-8"), collapse = "\n")
  list(status = status, out = read(out), err = read(err))
}

# The same in this process, quicker.
run_cli <- function(...) {
  status <- NULL
  messages <- character()
  out <- utils::capture.output(
    status <- withCallingHandlers(
      cli_main(c(...)),
      message = function(m) {
        messages <<- c(messages, conditionMessage(m))
        invokeRestart("muffleMessage")
      }
    )
  )
  list(status = status, out = paste(out, collapse = "\n"), err = paste(messages, collapse = ""))
}

# One of our errors, by its class.
expect_refused <- function(code, regexp = NULL, class, ..., label = rlang::expr_label(substitute(code))) {
  expect_error(code, regexp, class = paste0("bemrick_error_", class), ..., label = label)
}

write_and_read <- function(field, ext = ".png") {
  file <- tempfile(fileext = ext)
  write_field(field, file)
  read_field(file)
}

# A mask grown by one pixel to all sides, plainly.
mask_grown <- function(m) {
  out <- m
  for (dy in -1:1) for (dx in -1:1) {
    rows <- seq_len(nrow(m)) + dy
    cols <- seq_len(ncol(m)) + dx
    inside <- m
    inside[] <- FALSE
    inside[rows >= 1 & rows <= nrow(m), cols >= 1 & cols <= ncol(m)] <-
      m[rows[rows >= 1 & rows <= nrow(m)], cols[cols >= 1 & cols <= ncol(m)]]
    out <- out | inside
  }
  out
}

disk_ring <- function(size, outer, inner) disc_mask(size, outer) & !disc_mask(size, inner)

# Which object each of the drawn shapes lies in.
label_of_truth <- function(measures, field) {
  labels <- attr(measures, "objects")$labels
  at <- field$truth$objects[field$truth$objects$visible, ]
  inside <- at$x_px > 0 & at$y_px > 0 & at$x_px < ncol(labels) & at$y_px < nrow(labels)
  found <- labels[cbind(floor(at$y_px[inside]) + 1, floor(at$x_px[inside]) + 1)]
  found[found > 0]
}

# A figure as the pixels of its PNG.
drawn <- function(figure, ...) {
  path <- tempfile(fileext = ".png")
  save_figure(figure, path, ...)
  png::readPNG(path)
}

# A run made up by hand: fields with known area fractions, objects with known sizes.
made_run <- function(
  fractions, sizes, uncertainty = 0, status = rep("measured", length(fractions)), unit = "um"
) {
  n <- length(fractions)
  objects <- tibble::tibble(
    batch = "B", sample = "S", field = as.character(
      rep(seq_len(n), each = length(sizes))
    ), id = rep(seq_along(sizes), n),
    ecd = rep(sizes, n), area = pi / 4 * ecd^2, perimeter = pi * ecd, feret_max = ecd,
    feret_min = ecd, feret_mean = ecd, solidity = 1, accepted = TRUE, weight = 1
  )
  measured <- names(objects) %in% names(measure_table)
  names(objects)[measured] <- vapply(names(objects)[measured], measure_column, "", unit = unit)
  objects <- objects[objects$field %in% as.character(which(status == "measured")), ]
  fields <- tibble::tibble(
    batch = "B", sample = "S", field = as.character(seq_len(n)),
    image = paste0("f", seq_len(n), ".png"), status = status, calibration_uncertainty = uncertainty,
    area_um2 = 1e6, area_fraction = fractions, accepted_weight = length(sizes)
  )
  new_run(list(objects = objects), fields, NULL, unit, NULL, NULL)
}

# The disk ends after so many blocks of 1024 bytes: writing more fails as on a full disk.
# list(status, said).
on_small_disk <- function(blocks, ...) {
  words <- paste(shQuote(c(...)), collapse = " ")
  command <- paste0(
    "trap '' XFSZ; ulimit -f ", blocks, "; R_LIBS=", shQuote(paste(.libPaths(), collapse = ":")),
    " ", shQuote(file.path(R.home("bin"), "Rscript")), " ",
    shQuote(system.file("exec", "bemrick", package = "bemrick")), " ", words
  )
  said <- suppressWarnings(system2("bash", c("-c", shQuote(command)), stdout = TRUE, stderr = TRUE))
  status <- attr(said, "status")
  list(status = if (is.null(status)) 0L else status, said = paste(said, collapse = "\n"))
}

png_of <- function(m, ...) {
  path <- tempfile(fileext = ".png")
  png::writePNG(m, path, ...)
  path
}

# A PNG whose header claims another size, its checksum put right.
png_claiming <- function(file, size_bytes) {
  bytes <- readBin(file, "raw", 1e6)
  bytes[17:24] <- as.raw(size_bytes)
  sum <- formatC(digest::digest(bytes[13:29], "crc32", serialize = FALSE), width = 8, flag = "0")
  bytes[30:33] <- as.raw(strtoi(substring(sum, c(1, 3, 5, 7), c(2, 4, 6, 8)), 16))
  path <- tempfile(fileext = ".png")
  writeBin(bytes, path)
  path
}

# As a user has it who has attached the package it comes from.
autoplot <- ggplot2::autoplot

judged_run <- function() {
  run <- made_run(c(0.32, 0.33, 0.35), seq(15, 25, length.out = 40), uncertainty = 0.01)
  run$fields$area_fraction_threshold_uncertainty <- 0.003
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "decision: {repeatability: 0.5 %}", "limits:",
    "  - porosity: {min: 30 %, max: 36 %}", "  - percentile: {p: 50, max: 21 um}",
    "  - share_below: {size: 16 um, max: 2 %}", "  - count_per_area: {min: 20 /mm2}"
  ))
  run$verdict <- judge(run, spec)
  run
}

of_sizes <- function(x, w = rep(1, length(x)), weight = "number") {
  new_distribution(x, w, "ecd", weight, "um")
}

opened <- function(mask, rx, ry) core_morph(mask, "open", "disk", rx, ry)$mask

pair <- function() {
  m <- matrix(0, 30, 80)
  m[10:20, 5:45] <- 255
  m[5:25, 60:70] <- 255
  find_objects(segment_level(as_field(m), low = 128))
}

# Every filter against its plain version, on random small pictures of every kind of values.
random_pictures <- function(
  n, kinds = c("few", "bytes", "words", "real", "ties", "flat"), most = 40
) {
  lapply(seq_len(n), function(k) {
    size <- if (k %% 10 == 0) c(1, sample.int(most, 1)) else sample.int(most, 2, TRUE)
    values <- switch(kinds[(k - 1) %% length(kinds) + 1],
      few = sample(c(0, 1, 255), prod(size), TRUE), bytes = sample(0:255, prod(size), TRUE),
      words = sample(0:65535, prod(size), TRUE), real = stats::rnorm(prod(size), 50, 30),
      ties = sample(c(-1.5, 0, 0.25), prod(size), TRUE), flat = rep(7, prod(size))
    )
    matrix(as.numeric(values), size[1], size[2])
  })
}

row_of <- function(...) data.frame(image = NA, ...)

spec_of <- function(..., decision = "decision: {rule: guarded}", needs = NULL) {
  read_spec(text_file(
    "bemrick: spec 1", "product: P", decision, needs, "limits:", paste0("  - ", c(...))
  ))
}

verdict_of <- function(run, ...) judge(run, spec_of(...))$samples$verdict

written <- function(scale, ext, levels = matrix(0:255, 16)) {
  file <- tempfile(fileext = ext)
  field <- as_field(levels)
  if (!is.null(scale)) field <- calibrate(field, scale)
  write_field(field, file)
  read_field(file)
}

# Discs of `bright` with rims `rim` brighter, on a ground of 70, each pixel from 3 x 3 points, seen
# with a point spread of `sigma`: list(field, area fraction).
rimmed_discs <- function(rim, sigma, noise = 3, bright = 180) {
  set.seed(32)
  n <- 200
  at <- (seq_len(3 * n) - 0.5) / 3
  grey <- matrix(70, 3 * n, 3 * n)
  for (x in seq(25, 175, 50)) for (y in seq(25, 175, 50)) {
    radius <- stats::runif(1, 9, 18)
    aside <- stats::runif(2)
    away <- sqrt(outer((at - y - aside[1])^2, (at - x - aside[2])^2, "+"))
    inside <- away <= radius
    grey[inside] <- bright + rim * exp(-(radius - away[inside]) / 2)
  }
  area <- mean(grey > 70)
  pixels <- t(matrix(colMeans(matrix(t(matrix(colMeans(matrix(grey, 3)), n)), 3)), n))
  pixels <- core_gaussian(pixels, sigma, sigma) + stats::rnorm(n^2, 0, noise)
  list(field = as_field(round(pmin(pmax(pixels, 0), 255)), 8), area = area)
}

# Ellipses (rows: x, y, half axes a and b, turn in degrees, counter-clockwise as seen) as a mask of
# a blurred picture; each pixel the mean of 4 x 4 points.
ellipse_cover <- function(e, width, height, aspect = 1) {
  x <- (seq_len(width * 4) - 0.5) / 4
  y <- (seq_len(height * 4) - 0.5) / 4 * aspect
  fine <- matrix(0, length(y), length(x))
  for (k in seq_len(nrow(e))) {
    turn <- -e[k, 5] * pi / 180
    fine <- pmax(fine, outer(y, x, function(y, x) {
      u <- (x - e[k, 1]) * cos(turn) + (y - e[k, 2]) * sin(turn)
      v <- (y - e[k, 2]) * cos(turn) - (x - e[k, 1]) * sin(turn)
      (u / e[k, 3])^2 + (v / e[k, 4])^2 <= 1
    }))
  }
  part <- function(n) rep(seq_len(n), each = 4)
  t(rowsum(t(rowsum(fine, part(height))), part(width))) / 16
}
ellipse_mask <- function(e, width = 120, height = 100, noise = 3) {
  grey <- filter_gaussian(as_field(60 + 120 * ellipse_cover(e, width, height), 8), 0.8)$pixels
  grey <- withr::with_seed(7, grey + stats::rnorm(length(grey), 0, noise))
  segment_level(as_field(round(grey), 8), low = 120)
}

# A method whose branches measure the beads and the ground between them.
two_branches <- function(...) {
  text_file(
    "bemrick: method 1", "title: Both", "steps: [trim_strip]", "branches:",
    "  beads:", "    - segment_auto: {phase: bright}", "    - find_objects", "    - measure_objects",
    "    - accept_objects: {edge: drop, ecd: [5 um, null]}",
    "  gaps: [segment_auto: {phase: dark}, find_objects, measure_objects]", ...
  )
}

# Measures as a lab would make them by hand.
by_hand <- function(field = small_beads(strip = TRUE, width = 420)) {
  field |>
    trim_strip() |>
    filter_median(radius = "1 px") |>
    segment_auto(phase = "bright") |>
    mask_fill() |>
    mask_open(radius = 1.5) |>
    separate_watershed(depth = "1 px") |>
    measure_objects() |>
    accept_objects(edge = "drop", ecd = c("2 um", NA), circularity = c(0.3, NA))
}

# The code done with another function in the place of one of the package's own.
with_own <- function(name, f, code) {
  space <- asNamespace("bemrick")
  put <- function(f) {
    unlockBinding(name, space)
    assign(name, f, envir = space)
    lockBinding(name, space)
  }
  before <- space[[name]]
  on.exit(put(before))
  put(f)
  code
}
