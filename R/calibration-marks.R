# The scale from a photographed ruler or stage graticule: many equally spaced marks.

#' Calibrate from a ruler or graticule
#'
#' Finds the direction the marks repeat in, gathers the grey values along the marks, fits a blurred
#' mark and its neighbours about every one for its centre, and fits a straight line of position on
#' mark number, leaving out dirt. Missing marks and a blur that reaches from mark to mark do no
#' harm. Pixels are taken as square.
#'
#' @param field A `bm_field` showing at least six marks; cut off what is no ruler before.
#' @param pitch Distance of two neighbouring marks, such as `"0.1 mm"`.
#' @param name Name of the calibration, usually the magnification.
#' @return A `bm_calibration`; its standard uncertainty comes from the residuals of the line and
#'   from what the angle may be off, the element `evidence` says where each mark was found
#'   (`centre_px` along the ruler), its number, and the ruler's angle.
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
  line <- fit_marks(mark_centres(ruler_profile(field$pixels, angle)), loose = 0.05)
  turn <- refined_angle(field$pixels, angle, line$pitch)
  profile <- ruler_profile(field$pixels, turn$angle)
  centres <- fitted_centres(profile, mark_centres(profile))
  line <- fit_marks(centres)
  pixel <- q$value / line$pitch
  found <- paste0(
    "from ", sum(line$used), " marks every ", format(q$value), " ", q$unit, ", residuals ",
    signif(line$sd, 2), " px, turned ", format(round(-turn$angle * 180 / pi, 2)), " degrees"
  )
  span <- diff(range(centres[line$used]))
  # beside the residuals (of few marks widened to Student's), what the pixel grid leaves in a mark's
  # centre (in pixels; found by simulation), and what the angle may be off
  few <- stats::qt(0.975, sum(line$used) - 2) / stats::qnorm(0.975)
  uncertainty <- sqrt((few * line$error / line$pitch)^2 + (0.005 / span)^2 + (turn$error^2 / 2)^2)
  calibration <- new_calibration(
    c(x = pixel, y = pixel), q$unit, uncertainty, found, name = name,
    image = field$source[c("width", "height", "sha256")]
  )
  calibration$evidence <- list(
    kind = "marks", angle = turn$angle,
    marks = tibble::tibble(centre_px = centres, number = line$number, used = line$used)
  )

  calibration
}

# Direction in which grey changes: from the gradients (structure tensor, Bigun & Granlund 1987),
# then where the profile is sharpest.
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
  steps <- first + seq(-3, 3, 0.1) * pi / 180

  steps[which.max(vapply(steps, sharpness, 0))]
}

# The direction once the pitch is known: that of the plane wave of greatest power near it (Rife &
# Boorstyn 1976; its length is left free too, since marks that end, or are missing, shift the one
# with the other). list(angle, error), its standard error from how the phases of eight bands of rows
# stray.
refined_angle <- function(pixels, angle, pitch) {
  if (abs(sin(angle)) > abs(cos(angle))) {
    turned <- refined_angle(t(pixels), pi / 2 - angle, pitch)
    return(list(angle = pi / 2 - turned$angle, error = turned$error))
  }
  from_middle <- function(n) seq_len(n) - (n + 1) / 2
  window <- function(n) sin(pi * (seq_len(n) - 0.5) / n)^2
  x <- from_middle(ncol(pixels))
  y <- from_middle(nrow(pixels))
  seen <- outer(window(length(y)), window(length(x))) *
    (pixels - core_gaussian(pixels, pitch, pitch))
  by_rows <- function(along) {
    parts <- seen %*% cbind(cos(along * x), -sin(along * x))
    complex(real = parts[, 1], imaginary = parts[, 2])
  }
  power <- function(k) Mod(sum(by_rows(k[1] / length(x)) * exp(-1i * k[2] / length(y) * y)))
  size <- c(length(x), length(y))
  start <- 2 * pi / pitch * c(cos(angle), sin(angle)) * size
  best <- stats::optim(
    start, power, control = list(fnscale = -power(start), reltol = 1e-12, parscale = c(0.1, 0.1))
  )$par / size
  band <- ceiling(8 * seq_along(y) / length(y))
  left <- by_rows(best[1]) * exp(-1i * best[2] * y)
  sums <- tapply(Re(left), band, sum) + 1i * tapply(Im(left), band, sum)
  phase <- Arg(sums / sum(left))
  weight <- Mod(sums)
  place <- tapply(y, band, mean)
  place <- place - sum(weight * place) / sum(weight)
  # of a weighted line through the phases
  slope <- sqrt(sum((weight * place * phase)^2)) / sum(weight * place^2)

  list(angle = atan2(best[2], best[1]), error = slope * pitch / (2 * pi))
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
  # one that reaches the end of the profile may be cut
  marks <- which(runs$values & end < n & end > runs$lengths)

  vapply(
    marks,
    function(k) half_height_centre(profile$at, height, (end[k] - runs$lengths[k] + 1):end[k]), 0
  )
}

half_height_centre <- function(at, height, inside) {
  half <- max(height[inside]) / 2
  above <- inside[height[inside] > half]
  left <- above[1]
  right <- above[length(above)]
  cross <- function(low, high) {
    at[low] + (half - height[low]) / (height[high] - height[low]) * (at[high] - at[low])
  }

  (cross(left - 1, left) + cross(right + 1, right)) / 2
}

# Centres again, once the pitch is known: least squares of a box blurred by a Gaussian, of a width
# and blur common to all marks, about each mark and its two neighbours over a ground that rises
# evenly; so neither a blur that reaches the neighbours nor one of them missing shifts a mark.
fitted_centres <- function(profile, centres, call = rlang::caller_env()) {
  par <- NULL
  for (turn in 1:5) {
    line <- fit_marks(centres, loose = 0.05, call = call)
    # its neighbours stand where the line has them
    expected <- ifelse(line$used, line$origin + line$number * line$pitch, centres)
    fit <- function(k, par) {
      fit_mark(profile, centres[k], expected[k], line$pitch, exp(par[1]), exp(par[2]))
    }
    if (turn %in% c(1, 3)) {
      some <- unique(round(seq(1, length(centres), length.out = 40)))
      misfit <- function(par) sum(vapply(some, function(k) fit(k, par)$misfit, 0))
      par <- stats::optim(par %||% log(c(0.3 * line$pitch, max(1, 0.05 * line$pitch))), misfit)$par
    }
    centres <- centres + vapply(seq_along(centres), function(k) fit(k, par)$shift, 0)
  }
  centres
}

# The shift is that of the first order: the share of the slope in the mark.
fit_mark <- function(profile, centre, expected, pitch, width, blur) {
  near <- abs(profile$at - expected) <= pitch
  at <- profile$at[near]
  edge <- function(place) (at - place) / blur
  half <- width / 2
  mark <- function(place) stats::pnorm(edge(place - half)) - stats::pnorm(edge(place + half))
  slope <- (stats::dnorm(edge(centre - half)) - stats::dnorm(edge(centre + half))) / blur
  fit <- stats::lm.fit(
    cbind(1, (at - centre) / pitch, mark(centre), slope, mark(expected - pitch),
      mark(expected + pitch)),
    profile$grey[near]
  )
  shift <- -fit$coefficients[[4]] / fit$coefficients[[3]]
  if (!is.finite(shift)) shift <- 0
  list(shift = max(-0.1, min(0.1, shift / pitch)) * pitch, misfit = sum(fit$residuals^2))
}

# The pitch that most gaps are whole multiples of (a gap over missing marks holds several), the
# largest of those that do as well; NA where there is none.
pitch_of_gaps <- function(gaps) {
  multiples <- function(pitch) {
    times <- round(gaps / pitch)
    list(times = times, whole = times >= 1 & abs(gaps / pitch - times) < 0.2)
  }
  starts <- stats::quantile(gaps, c(0.5, 0.25, 0.1), names = FALSE, type = 1)
  fitting <- vapply(starts, function(pitch) mean(multiples(pitch)$whole), 0)
  pitch <- starts[which.max(fitting)]
  for (turn in 1:3) {
    m <- multiples(pitch)
    pitch <- stats::median(gaps[m$whole] / m$times[m$whole])
  }
  pitch
}

# Line of centre on mark number, dirt left out: list(pitch, origin, error, sd, number, used).
# `loose`: how far from the line (in pitches) no mark is taken for dirt.
fit_marks <- function(centres, loose = 0, call = rlang::caller_env()) {
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
  pitch <- pitch_of_gaps(diff(centres))
  if (is.na(pitch)) too_few("The marks found are not evenly spaced.")
  origin <- centres[length(centres) %/% 2]
  used <- rep(TRUE, length(centres))
  for (turn in 1:10) {
    number <- round((centres - origin) / pitch)
    fit <- stats::lm.fit(cbind(1, number[used]), centres[used])
    origin <- fit$coefficients[[1]]
    pitch <- fit$coefficients[[2]]
    off <- centres - origin - pitch * number
    again <- abs(off) <= max(4 * stats::mad(off[used]), 0.02, loose * pitch)
    if (identical(again, used)) break
    used <- again
  }
  sd <- sqrt(sum(off[used]^2) / (sum(used) - 2))
  if (sum(used) < 6 || mean(used) < 0.6 || sd > 0.08 * pitch) {
    too_few("The marks found are not evenly spaced.")
  }
  spread <- sum((number[used] - mean(number[used]))^2)

  list(
    pitch = pitch, origin = origin, error = sd / sqrt(spread), sd = sd,
    number = as.integer(number), used = used
  )
}
