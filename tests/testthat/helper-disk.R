# Pictures on disk with windows of a few pixels, and random methods for them.

# The code done with windows of such a side, whatever memory there is.
with_windows <- function(side, code) with_own("window_side", function(view, memory) side, code)

step_of <- function(.step, ...) list(step = .step, args = list(...))

# A picture with particles, rings and what lies in them, written as a TIFF of some kind.
random_mosaic <- function() {
  width <- sample(120:200, 1)
  height <- sample(90:160, 1)
  grey <- matrix(60, height, width) + 40 * sample(0:1, 1) * col(matrix(0, height, width)) / width
  for (k in seq_len(sample(8:20, 1))) {
    x <- stats::runif(1, 0, width)
    y <- stats::runif(1, 0, height)
    far <- sqrt((col(grey) - x)^2 + (row(grey) - y)^2)
    radius <- stats::runif(1, 3, 12)
    grey[far < radius] <- stats::runif(1, 140, 220)
    if (k %% 6 == 0) grey[far > 2 * radius & far < 2.4 * radius] <- 200
  }
  grey <- core_gaussian(grey, 0.8, 0.8) + stats::rnorm(length(grey), 0, sample(c(0, 4), 1))
  bits <- sample(c(8, 16), 1)
  grey <- pmin(pmax(round(grey * (2^bits - 1) / 255), 0), 2^bits - 1)
  tile <- list(NULL, 32, 64)[[sample(3, 1)]]
  list(
    file = tiff_made(grey, bits = bits, tile = tile, big = sample(c(TRUE, FALSE), 1)),
    scale = (2^bits - 1) / 255
  )
}

# Steps of all kinds in an order that a method may have them in. `scale`: of the grey levels.
random_steps <- function(scale, file = "none") {
  one_of <- function(...) sample(list(...), 1)[[1]]
  several <- function(most, ...) {
    lapply(seq_len(sample(0:most, 1)), function(k) sample(list(...), 1)[[1]])
  }
  grey <- several(
    2, step_of("filter_median", radius = 1), step_of("filter_median", radius = 2),
    step_of("filter_gaussian", sigma = 1.5), step_of("filter_gaussian", sigma = 8),
    step_of("filter_box", radius = 1), step_of("filter_open", radius = 2),
    step_of("filter_close", radius = 1, shape = "square"), step_of("filter_flatten"),
    step_of("filter_flatten", how = "smooth", scale = 12),
    step_of("filter_flatten", how = "open", scale = 14),
    step_of("filter_flatten", correct = "divide"), step_of("filter_sharpen"),
    step_of("filter_nonlocal", radius = 2), step_of("filter_tophat", radius = 20),
    step_of("filter_kernel", kernel = list(c(1, 2, 1), c(2, 4, 2), c(1, 2, 1)),
      normalise = TRUE),
    step_of("filter_band", smaller = 2, larger = 60),
    step_of("filter_stripes", width = 3, length = 20), step_of("filter_erode", radius = 1),
    step_of("filter_dilate", radius = 1),
    step_of("keep_within", region = list(circle = c(90, 70, 60)))
  )
  grey <- grey[!duplicated(vapply(grey, function(s) s$step, ""))]
  if (stats::runif(1) < 0.2) grey <- c(list(step_of("crop_to", box = c(13, 9, 110, 85))), grey)
  if (stats::runif(1) < 0.2) grey <- c(list(step_of("shrink_field", times = 2)), grey)
  segment <- one_of(
    step_of("segment_auto", rule = "otsu"), step_of("segment_auto", rule = "kohler"),
    step_of("segment_auto", rule = "li", phase = "auto"),
    step_of("segment_auto", rule = "percentile", share = "15 %"),
    step_of("segment_level", low = 120 * scale),
    step_of("segment_hysteresis", sure = 140 * scale, likely = 100 * scale),
    step_of("segment_classes", classes = 3, keep = list(2, 3)),
    step_of("segment_local", radius = 25, rule = "mean", offset = 10 * scale),
    step_of("segment_local", radius = 25, rule = "sauvola")
  )
  mask <- several(
    3, step_of("mask_fill"), step_of("mask_fill", holes = "inside"),
    step_of("mask_fill", largest = 20), step_of("mask_open", radius = 1.5),
    step_of("mask_close", radius = 2), step_of("mask_drop", smallest = 12),
    step_of("mask_erode", radius = 1), step_of("mask_dilate", radius = 1, shape = "square"),
    step_of("mask_boundary"), step_of("mask_skeleton"), step_of("mask_flip"),
    step_of("mask_combine", other = list(list(segment_level = list(low = 150 * scale))),
      how = sample(c("or", "and", "without", "xor"), 1))
  )
  object <- one_of(
    step_of("find_objects"), step_of("separate_watershed"),
    step_of("separate_watershed", on = "grey", depth = 15 * scale), step_of("separate_outlines"),
    step_of("separate_watershed", seeds = list(
      list(circle = list(30, 40, 4)), list(box = list(70, 20, 76, 26))
    ))
  )
  lines <- lapply(1:4, function(k) {
    c(if (k %% 2) list(image = file), as.list(stats::setNames(
      round(stats::runif(4, 0, 110), 1), c("x1", "y1", "x2", "y2")
    )))
  })
  cut <- step_of("separate_cuts", cuts = lines)
  fine <- !segment$step %in% "segment_local" && stats::runif(1) < 0.6
  measured <- step_of("measure_objects", outline = if (fine) "subpixel" else "pixel")
  if (fine && stats::runif(1) < 0.3) measured$args$blur <- "corrected"
  if (stats::runif(1) < 0.3) measured$args$inside <- TRUE
  accepted <- step_of("accept_objects", edge = sample(c("drop", "frame", "keep"), 1))
  ring <- step_of("measure_ring", inner = 2, outer = 9, low = 100 * scale)
  c(
    grey, list(segment), mask, list(object), if (stats::runif(1) < 0.3) list(cut),
    list(measured, accepted), if (stats::runif(1) < 0.3) list(step_of("suspect_merges")),
    if (stats::runif(1) < 0.3) list(ring)
  )
}

# What the steps come to: the digits of the table and of the field's row, or the error; without the
# warning of a strip, which is not looked for on disk.
outcome <- function(field, steps) {
  warned <- character()
  table <- tryCatch(
    withCallingHandlers(run_steps(field, steps), warning = function(w) {
      ours <- inherits(w, "bemrick_warning") && !inherits(w, "bemrick_warning_strip")
      if (ours) warned <<- c(warned, conditionMessage(w))
      rlang::cnd_muffle(w)
    }),
    bemrick_error = function(e) paste(conditionMessage(e$parent %||% e), collapse = " ")
  )
  if (is.character(table)) return(list(error = table))
  row <- measured_row(list(batch = "1", sample = "1", field = "1", image = "x"), table, 0)
  list(
    table = table_digits(tibble::as_tibble(table)), row = table_digits(row),
    warned = sort(unique(warned))
  )
}

# Objects of a picture on disk with their outlines put aside.
on_disk_measures <- function(grey, side = 300, env = parent.frame()) {
  field <- field_on_disk(tiff_made(grey, tile = 64))
  field$disk$spool <- withr::local_tempdir(.local_envir = env)
  steps <- list(
    step_of("segment_level", low = 100), step_of("find_objects"),
    step_of("measure_objects", outline = "subpixel"), step_of("accept_objects")
  )
  with_windows(side, run_steps(field, steps))
}

# A picture of a ramp with discs, rings and noise, as a file and in memory, and its view in windows.
disk_scene <- function(side = 50, bits = 8, tile = 32) {
  set.seed(3)
  size <- c(110, 150)
  grey <- 60 + 30 * matrix(seq_len(size[2]) / size[2], size[1], size[2], byrow = TRUE)
  far <- function(x, y) sqrt((col(grey) - x)^2 + (row(grey) - y)^2)
  for (at in list(c(20, 20, 9), c(52, 48, 12), c(70, 52, 11), c(120, 80, 8), c(100, 20, 6), c(30, 90, 10))) {
    grey[far(at[1], at[2]) < at[3]] <- 180
  }
  grey[far(52, 48) < 4] <- 70
  grey[abs(far(95, 70) - 32) < 3] <- 170
  grey <- round(core_gaussian(grey, 0.7, 0.7) + stats::rnorm(length(grey), 0, 3))
  grey <- pmin(pmax(grey, 0), 255) * if (bits == 16) 257 else 1
  file <- tiff_made(grey, bits = bits, tile = tile)
  list(file = file, field = read_field(file), view = with_windows(side, disk_view(field_on_disk(file))))
}

# The grey values of the whole of a view.
grey_of_view <- function(view) {
  window_after_steps(view, 0, 0, view$size[1], view$size[2])$pixels
}

by_windows <- function(view, side = 50) {
  out <- matrix(NA_real_, view$size[1], view$size[2])
  with_windows(side, each_tile(view, function(field, tile) {
    out[tile$top + seq_len(tile$rows), tile$left + seq_len(tile$cols)] <<- field$pixels
  }))
  out
}

pixels_of_bits <- function(mask) core_bits_read(mask$bits, 0, 0, nrow(mask), ncol(mask))
