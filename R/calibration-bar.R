# The scale from a bar that the microscope drew into the information strip.

#' Calibrate from a scale bar
#'
#' Finds the scale bar in the information strip, drawn over the sample, or in a box given, and takes
#' its length between the outer edges of its ends, at half height between bar and background; out of
#' focus by least squares of a blurred bar, with ticks where it has them. Plain
#' bars, bars with ticks at the ends, I-shapes, and rows of dots (from the middle of the first to
#' the middle of the last) are found; lettering is told apart by its shape. When two things could be
#' the bar, it says so and asks for a box.
#'
#' @param field A `bm_field` with its strip still on.
#' @param length Length written beside the bar, such as `"50 um"`.
#' @param box Where to look: `c(left, top, right, bottom)` in pixels; in the information strip, or
#'   what is drawn over the sample ([exclude_overlay()]), when not given.
#' @param ends Two points at the ends of the bar, `c(x1, y1, x2, y2)` in pixels. The bar is searched
#'   for between them; when none is found there, their distance is taken as it is, and `found` says
#'   so.
#' @param name Name of the calibration, usually the magnification.
#' @return A `bm_calibration`; `evidence` holds the ends of the bar in pixels. Its uncertainty
#'   allows for a bar that was drawn to whole pixels (0.24 pixels: twice that covers 95 % of a
#'   rounding error) and, out of focus, for the standard error of the fit.
#' @section Errors: Class `bemrick_error_bar` when no bar, or more than one possible bar, is found.
#' @examples
#' field <- simulate_field(
#'   width = 400, height = 300, count = 10, pixel = "0.5 um", strip = TRUE, seed = 1
#' )
#' field$calibration <- NULL
#' calibration_from_bar(field, length = "20 um")
#' @export
calibration_from_bar <- function(field, length, box = NULL, ends = NULL, name = NULL) {
  check_field(field)
  check_true_length(length, "length", "100 um")

  if (!is.null(ends)) return(calibration_from_ends(field, length, ends, name))
  box <- if (is.null(box)) box_of_strip(field) else check_box(box, field)
  bar <- if (is.null(box)) bar_over_sample(field)
  else find_bar(field$picture[(box[[2]] + 1):box[[4]], (box[[1]] + 1):box[[3]], drop = FALSE])
  what <- if (is.null(box)) {
    "a scale bar over the sample"
  } else if (bar$dots == 0) {
    "a scale bar"
  } else {
    paste("a row of", bar$dots, "dots")
  }
  # over the sample the ends are less clear
  error_pixels <- if (is.null(box)) 0.7 else sqrt(0.24^2 + bar$error^2)
  corner <- if (is.null(box)) c(0, 0) else unname(box[1:2])

  bar_calibration(
    field, length, corner + c(bar$left, bar$y), corner + c(bar$right, bar$y), what, error_pixels,
    name
  )
}

bar_calibration <- function(field, length, left, right, what, error_pixels, name) {
  pixels <- sqrt(sum((right - left)^2))
  calibration <- calibration_from_length(pixels, length, error_pixels = error_pixels, name = name)
  calibration$found <- paste0(
    "from ", what, " of ", length, ", ", format(round(pixels, 2), nsmall = 2), " pixels long"
  )
  calibration$image <- field$source[c("width", "height", "sha256")]
  calibration$evidence <- list(kind = "bar", left = left, right = right)
  calibration
}

# The bar between two points of the user's, or the points themselves.
calibration_from_ends <- function(field, length, ends, name, call = rlang::caller_env()) {
  if (!is.numeric(ends) || base::length(ends) != 4 || !all(is.finite(ends)) ||
      all(ends[1:2] == ends[3:4])) {
    bm_abort(
      "{.arg ends} must be two points, {.code c(x1, y1, x2, y2)} in pixels.", "argument",
      call = call
    )
  }

  room <- max(8, 0.15 * abs(ends[3] - ends[1]))
  around <- c(
    min(ends[c(1, 3)]) - room, min(ends[c(2, 4)]) - 20, max(ends[c(1, 3)]) + room,
    max(ends[c(2, 4)]) + 20
  )
  near <- tryCatch(
    calibration_from_bar(field, length, box = around, name = name),
    bemrick_error_bar = function(e) NULL
  )
  given <- sqrt(sum((ends[3:4] - ends[1:2])^2))
  if (!is.null(near)) {
    measured <- near$evidence$right[1] - near$evidence$left[1]
    if (abs(measured / given - 1) < 0.15) return(near)
  }

  bar_calibration(field, length, ends[1:2], ends[3:4], "two points given", 0.7, name)
}

# NULL when there is no strip.
box_of_strip <- function(field) {
  strip <- find_strip(field$picture, top_level(field))
  if (strip$pixels == 0) return(NULL)
  b <- strip_box(strip, ncol(field$picture), nrow(field$picture))
  c(b$left, b$top, b$right, b$bottom)
}

# The one bar drawn over the sample, its ends at half height over what lies beside each of them.
bar_over_sample <- function(field, call = rlang::caller_env()) {
  drawn <- find_overlay(field$picture, top_level(field))$boxes
  bars <- drawn[drawn$kind == "bar", ]
  if (nrow(bars) != 1) {
    bm_abort(
      c(
        if (nrow(bars) > 1) {
          "There are {nrow(bars)} things in this picture that could be the scale bar."
        } else {
          "There is no information strip and no drawn bar in this picture."
        },
        i = "Give its place: {.code box = c(left, top, right, bottom)} in pixels."
      ),
      "bar", call = call
    )
  }
  part <- field$picture[(bars$top + 1):bars$bottom, (bars$left + 1):bars$right, drop = FALSE]
  extreme <- if (bars$ink == "bright") max(part) else min(part)
  through <- which(rowMeans(abs(part - extreme) <= 12 * top_level(field) / 255) >= 0.97)
  rows <- bars$top + if (length(through)) through else seq_len(nrow(part))
  at <- max(1, bars$left - 9):min(ncol(field$picture), bars$right + 10)
  profile <- colMeans(field$picture[rows, at, drop = FALSE])
  plateau <- stats::median(profile[at > bars$left & at <= bars$right])
  end <- function(inner, by) {
    beside <- stats::median(profile[match(inner + by * 4:9, at, nomatch = 0)])
    share <- (profile - beside) / (plateau - beside)
    k <- match(inner, at)
    while (k > 1 && k < length(at) && isTRUE(share[k] > 0.5)) k <- k + by
    seen <- isTRUE(abs(plateau - beside) > 40 * top_level(field) / 255) && share[k] <= 0.5 &&
      share[k - by] > 0.5
    # ends at the frame, or over something as bright as itself
    if (!seen) return(if (by < 0) inner - 1 else inner)
    (at[k] - 0.5) - by * (0.5 - share[k]) / (share[k - by] - share[k])
  }

  list(left = end(bars$left + 1, -1), right = end(bars$right, 1), y = mean(rows) - 0.5, dots = 0)
}

# Ends and row of the bar in a region whose greatest part is background: list(left, right, y, dots).
find_bar <- function(region, call = rlang::caller_env()) {
  unsure <- function(why) {
    bm_abort(
      c(why, i = "Give its place: {.code box = c(left, top, right, bottom)} in pixels."), "bar",
      call = call
    )
  }
  background <- stats::median(region)
  contrast <- range(region) - background
  height <- (region - background) * if (abs(contrast[2]) >= abs(contrast[1])) 1 else -1
  if (max(height) <= 0) unsure("Nothing is drawn in this part of the picture.")
  things <- ink_things(height > max(height) / 2)
  least <- max(20, 0.03 * ncol(region))
  bars <- c(lines_of(things, height, least), dots_of(things, height, least))
  if (length(bars) == 0) unsure("No scale bar was found.")
  width <- vapply(bars, function(b) b$right - b$left, 0)
  if (sum(width > 0.6 * max(width)) > 1) {
    unsure(
      "{sum(width > 0.6 * max(width))} things in this part of the picture could be the scale bar."
    )
  }

  bars[[which.max(width)]]
}

lines_of <- function(things, height, least) {
  wide <- which(
    things$right - things$left >= least & things$right - things$left < 0.97 * ncol(height)
  )
  found <- lapply(wide, function(k) {
    rows <- (things$top[k] + 1):things$bottom[k]
    cols <- (things$left[k] + 1):things$right[k]
    bar <- bar_shape(things$labels[rows, cols, drop = FALSE] == things$label[k])
    if (is.null(bar)) return(NULL)
    through <- rows[bar$rows]
    profile <- colMeans(height[through, , drop = FALSE])
    c(bar_ends(profile, min(cols), max(cols)), y = mean(through) - 0.5, dots = 0)
  })
  Filter(Negate(is.null), found)
}

# Rows of at least five like dots at like distances.
dots_of <- function(things, height, least) {
  size <- cbind(things$right - things$left, things$bottom - things$top)
  dot <- size[, 2] <= 1.5 * size[, 1] + 1 & size[, 1] <= 1.5 * size[, 2] + 1 &
    things$n >= 0.6 * size[, 1] * size[, 2] & size[, 1] < ncol(height) / 20
  found <- list()
  left <- which(dot)
  while (length(left) >= 5) {
    first <- left[1]
    alike <- left[
      abs(things$top[left] - things$top[first]) <= 1 &
        abs(things$bottom[left] - things$bottom[first]) <= 1 &
        abs(size[left, 1] - size[first, 1]) <= 1
    ]
    left <- setdiff(left, alike)
    row <- row_of_dots(things, height, alike)
    if (!is.null(row) && row$right - row$left >= least) found <- c(found, list(row))
  }
  found
}

row_of_dots <- function(things, height, dots) {
  if (length(dots) < 5) return(NULL)
  centre <- vapply(dots, function(k) {
    cols <- max(1, things$left[k]):min(ncol(height), things$right[k] + 1)
    ink <- pmax(colSums(height[(things$top[k] + 1):things$bottom[k], cols, drop = FALSE]), 0)
    sum(ink * (cols - 0.5)) / sum(ink)
  }, 0)
  centre <- sort(centre)
  pitch <- diff(centre)
  if (max(abs(pitch - stats::median(pitch))) > max(1.01, 0.06 * stats::median(pitch))) return(NULL)
  if (stats::median(pitch) < 1.5 * (things$right[dots[1]] - things$left[dots[1]])) return(NULL)
  y <- (things$top[dots[1]] + things$bottom[dots[1]]) / 2

  list(left = centre[1], right = centre[length(centre)], y = y, dots = length(dots), error = 0)
}

# Sub-pixel crossings of half the bar's height, going outward from its ends; where the picture is
# out of focus, from a fit of the whole profile: list(left, right, error), the standard error of
# their distance in pixels.
bar_ends <- function(profile, first, last) {
  plateau <- stats::median(profile[first:last])
  end <- function(from, by) {
    k <- from
    while (k >= 1 && k <= length(profile) && profile[k] > plateau / 2) k <- k + by
    if (k < 1 || k > length(profile)) return(if (by < 0) 0 else length(profile))
    inner <- profile[k - by]
    (k - 0.5) - by * (plateau / 2 - profile[k]) / (inner - profile[k])
  }
  middle <- (first + last) %/% 2
  crossings <- c(end(middle, -1), end(middle, 1))
  fit <- fit_bar(profile / plateau, crossings)
  if (is.null(fit)) {
    list(left = crossings[1], right = crossings[2], error = 0)
  } else {
    list(left = fit$ends[1], right = fit$ends[2], error = fit$error)
  }
}

# Least squares of a blurred bar; with ticks at its ends where they explain clearly more: above a
# thin bar out of focus they stand out, so that half the bar's height lies beyond them. NULL where
# the ends are sharp and need no fit, reach the frame, or nothing of the kind is there.
fit_bar <- function(height, ends) {
  if (min(ends[1], length(height) - ends[2]) < 3) return(NULL)
  at <- seq_along(height) - 0.5
  reach <- min(24, diff(ends) / 3)
  near <- abs(at - ends[1]) < reach | abs(at - ends[2]) < reach
  # ends, logarithms of the blur and of the width of ticks; a pixel blurs by itself
  misfit <- function(par) {
    up <- function(place) stats::pnorm((at[near] - place) / sqrt(exp(2 * par[3]) + 1 / 12))
    bar <- cbind(1, up(par[1]) - up(par[2]))
    squares <- function(parts) sum(stats::lm.fit(parts, height[near])$residuals^2)
    if (length(par) == 3) return(squares(bar))
    width <- exp(par[4])
    ticks <- up(par[1]) - up(par[1] + width) + up(par[2] - width) - up(par[2])
    squares(cbind(bar, ticks)) + 1e-4 * (par[4] - log(2.5))^2
  }
  fit <- function(start) {
    stats::optim(start, misfit, hessian = TRUE, control = list(maxit = 2000, reltol = 1e-10))
  }
  plain <- fit(c(ends, 0))
  ticked <- fit(c(ends, 0, log(2.5)))
  best <- if (plain$value > 1.15 * ticked$value) ticked else plain
  variance <- tryCatch(
    solve(best$hessian / 2) * best$value / (sum(near) - 7), error = function(e) NULL
  )
  if (is.null(variance) || exp(best$par[3]) < 0.6 || best$value / sum(near) > 0.01) return(NULL)
  error <- sqrt(max(variance[1, 1] + variance[2, 2] - 2 * variance[1, 2], 0))

  list(ends = best$par[1:2], error = error)
}
