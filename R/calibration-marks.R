# The scale from a photographed ruler or stage graticule: many equally spaced marks.

#' Calibrate from a ruler or graticule
#'
#' Finds the direction the marks repeat in, gathers the grey values along the marks, takes the
#' centre of every mark between its two sub-pixel edges, and fits a straight line of position on
#' mark number, leaving out dirt. Missing marks do no harm. Pixels are taken as square.
#'
#' @param field A `bm_field` showing at least six marks; cut off what is no ruler before.
#' @param pitch Distance of two neighbouring marks, such as `"0.1 mm"`.
#' @param name Name of the calibration, usually the magnification.
#' @return A `bm_calibration`; its standard uncertainty comes from the residuals of the line, the
#'   element `evidence` says where each mark was found (`centre_px` along the ruler), its number,
#'   and the ruler's angle.
#' @section Errors: Class `bemrick_error_marks` when fewer than six marks are found or they are not
#'   evenly spaced.
#' @examples
#' ruler <- matrix(200, 60, 400)
#' ruler[, outer(1:3, 20 * (1:18), `+`)] <- 40
#' calibration_from_marks(as_field(ruler), pitch = "10 um")
#' @export
calibration_from_marks <- function(field, pitch, name = NULL) {
  check_field(field)
  q <- check_true_length(pitch, "pitch", "0.1 mm")

  angle <- ruler_angle(field$pixels)
  centres <- mark_centres(ruler_profile(field$pixels, angle))
  line <- fit_marks(centres)
  pixel <- q$value / line$pitch
  found <- paste0(
    "from ", sum(line$used), " marks every ", format(q$value), " ", q$unit, ", residuals ",
    signif(line$sd, 2), " px, turned ", format(round(-angle * 180 / pi, 2)), " degrees"
  )
  span <- diff(range(centres[line$used]))
  # beside the residuals, what the pixel grid leaves in a mark's centre (in pixels; found by
  # simulation)
  uncertainty <- sqrt((line$error / line$pitch)^2 + (0.011 / span)^2)
  calibration <- new_calibration(
    c(x = pixel, y = pixel), q$unit, uncertainty, found, name = name,
    image = field$source[c("width", "height", "sha256")]
  )
  calibration$evidence <- list(
    kind = "marks", angle = angle,
    marks = tibble::tibble(centre_px = centres, number = line$number, used = line$used)
  )

  calibration
}

# Direction in which grey changes: first from the gradients (structure tensor, Bigun & Granlund
# 1987), then where the profile is sharpest.
ruler_angle <- function(pixels) {
  if (min(dim(pixels)) < 8) {
    bm_abort("The picture is too small to hold a ruler.", "marks", call = rlang::caller_env(2))
  }

  smooth <- core_gaussian(pixels, 1, 1)
  inner_rows <- 2:(nrow(pixels) - 1)
  inner_cols <- 2:(ncol(pixels) - 1)
  gx <- smooth[inner_rows, inner_cols + 1] - smooth[inner_rows, inner_cols - 1]
  gy <- smooth[inner_rows + 1, inner_cols] - smooth[inner_rows - 1, inner_cols]
  first <- 0.5 * atan2(2 * sum(gx * gy), sum(gx^2) - sum(gy^2))
  sharpness <- function(angle) sum(diff(ruler_profile(pixels, angle)$grey)^2)
  degree <- pi / 180
  steps <- first + seq(-1.5, 1.5, 0.1) * degree
  best <- steps[which.max(vapply(steps, sharpness, 0))]

  stats::optimize(sharpness, best + c(-0.1, 0.1) * degree, maximum = TRUE, tol = 1e-5)$maximum
}

# Mean grey along the lines across the ruler, every pixel, where the lines are long enough to
# average. With narrower steps some would hold no pixel at all when the ruler lies straight.
ruler_profile <- function(pixels, angle) {
  p <- core_project(pixels, angle, 1)
  long <- p$weight > 0.5 * stats::quantile(p$weight, 0.9)
  list(at = (p$start + seq_along(p$sum) - 1)[long], grey = (p$sum / p$weight)[long])
}

# Centres between the two edges at half height of every mark, dark or bright whichever are the
# narrower.
mark_centres <- function(profile) {
  n <- length(profile$at)
  if (n < 64) return(numeric())
  window <- 2 * (n %/% 12) + 1
  grey <- profile$grey
  height <- grey - stats::runmed(grey, window)
  if (mean(height) < 0) height <- -height
  top <- stats::quantile(height, 0.98, names = FALSE)
  runs <- rle(height > 0.25 * top)
  end <- cumsum(runs$lengths)
  marks <- which(runs$values)
  centres <- vapply(
    marks,
    function(k) half_height_centre(profile$at, height, (end[k] - runs$lengths[k] + 1):end[k]), 0
  )

  centres[!is.na(centres)]
}

half_height_centre <- function(at, height, inside) {
  half <- max(height[inside]) / 2
  above <- inside[height[inside] > half]
  left <- above[1]
  right <- above[length(above)]
  if (left == 1 || right == length(height)) return(NA_real_)
  cross <- function(low, high) {
    at[low] + (half - height[low]) / (height[high] - height[low]) * (at[high] - at[low])
  }

  (cross(left - 1, left) + cross(right + 1, right)) / 2
}

# Line of centre on mark number, dirt left out: list(pitch, error, sd, number, used).
fit_marks <- function(centres, call = rlang::caller_env()) {
  too_few <- function(why) {
    bm_abort(
      c(
        why,
        i = "Cut the picture to the ruler, see that the marks are sharp, and that {.arg pitch} is
             their own."
      ),
      "marks", call = call
    )
  }
  if (length(centres) < 6) {
    too_few("Only {length(centres)} marks of a ruler were found; at least six are needed.")
  }
  gaps <- diff(centres)
  pitch <- stats::median(gaps)
  for (turn in 1:3) {  # a gap over missing marks counts for as many pitches as it holds
    times <- round(gaps / pitch)
    whole <- times >= 1 & abs(gaps / pitch - times) < 0.2
    if (!any(whole)) too_few("The marks found are not evenly spaced.")
    pitch <- stats::median(gaps[whole] / times[whole])
  }
  origin <- centres[length(centres) %/% 2]
  used <- rep(TRUE, length(centres))
  for (turn in 1:10) {
    number <- round((centres - origin) / pitch)
    fit <- stats::lm.fit(cbind(1, number[used]), centres[used])
    origin <- fit$coefficients[[1]]
    pitch <- fit$coefficients[[2]]
    off <- centres - origin - pitch * number
    again <- abs(off) <= max(4 * stats::mad(off[used]), 0.02)
    if (identical(again, used)) break
    used <- again
  }
  sd <- sqrt(sum(off[used]^2) / (sum(used) - 2))
  if (sum(used) < 6 || mean(used) < 0.6 || sd > 0.08 * pitch) {
    too_few("The marks found are not evenly spaced.")
  }
  spread <- sum((number[used] - mean(number[used]))^2)

  list(pitch = pitch, error = sd / sqrt(spread), sd = sd, number = as.integer(number), used = used)
}
