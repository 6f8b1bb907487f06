# Uneven light, levelled.

#' Level uneven light
#'
#' Finds how bright the background is over the picture and takes it off, or divides by it, so that
#' one threshold holds everywhere; the mean brightness of the background is kept. `"surface"` fits a
#' second-degree surface to the background, objects left out iteratively: best for light that falls
#' off smoothly. `"smooth"` takes a Gaussian of standard deviation `scale`: quick, but objects
#' nearly as large as `scale` pull it. `"open"` takes the grey opening by a disk of radius `scale`
#' (the closing for dark objects), which must not fit into any object.
#'
#' @param field A `bm_field`.
#' @param how `"surface"`, `"smooth"` or `"open"`.
#' @param scale Length for `"smooth"` and `"open"`, well above the largest object: a number is in
#'   pixels, a string carries its unit.
#' @param phase For `"open"`: whether objects are `"bright"` or `"dark"`.
#' @param correct `"subtract"` for light that was added (detector offset, glare), `"divide"` for
#'   light that was weaker or stronger (illumination, shading).
#' @return The levelled field; the trail says how much brightness changed over the picture.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", uneven = 0.4, seed = 1
#' )
#' filter_flatten(field)
#' @export
filter_flatten <- function(
  field, how = "surface", scale = NULL, phase = "bright", correct = "subtract"
) {
  check_field(field)
  check_choice(how, "how", c("surface", "smooth", "open"))
  check_choice(phase, "phase", c("bright", "dark"))
  check_choice(correct, "correct", c("subtract", "divide"))
  if (how != "surface" && is.null(scale)) {
    bm_abort(
      c(
        "{.arg scale} is needed to flatten by {.val {how}}.",
        i = "Take a length well above the largest object."
      ),
      "argument"
    )
  }
  if (how == "surface" && !is.null(scale)) {
    bm_abort(
      c(
        "{.arg scale} has no meaning for {.val surface}.",
        i = "Leave it out, or use {.code how = \"smooth\"}."
      ),
      "argument"
    )
  }

  ground <- switch(how,
    surface = background_surface(field),
    smooth = smoothed(field, scale, "scale"),
    open = {
      r <- length_in_pixels(scale, field$calibration, "scale")
      grey_morph(
        field$pixels, if (phase == "bright") "open" else "close", "disk", r[["x"]], r[["y"]]
      )
    }
  )
  level <- mean(ground)
  if (correct == "divide" && min(ground) <= 0) {
    bm_abort(
      c("The background comes to zero somewhere, so nothing can be divided by it.",
        i = "Use {.code correct = \"subtract\"}."),
      "argument"
    )
  }
  flat <- if (correct == "subtract") {
    field$pixels - ground + level
  } else {
    field$pixels / ground * level
  }
  args <- list(how = how, scale = scale, phase = if (how == "open") phase, correct = correct)

  filtered(
    field, within_scale(flat, field), "filter_flatten", args, list(change = diff(range(ground)))
  )
}
register_step("filter_flatten", takes = "bm_field", gives = "bm_field", lengths = "scale")

# Second-degree surface through the larger phase, fitted to at most 40,000 pixels; what lies more
# than 2.5 standard deviations off is left out and the fit done again.
background_surface <- function(field) {
  rows <- nrow(field$pixels)
  cols <- ncol(field$pixels)
  step <- max(1, floor(sqrt(rows * cols / 40000)))
  at <- expand.grid(y = seq(1, rows, by = step), x = seq(1, cols, by = step))
  if (!is.null(field$outside)) at <- at[!field$outside[cbind(at$y, at$x)], ]
  grey <- field$pixels[cbind(at$y, at$x)]
  terms <- function(x, y) {
    u <- 2 * (x - 0.5) / cols - 1
    v <- 2 * (y - 0.5) / rows - 1
    cbind(1, u, v, u^2, u * v, v^2)
  }
  design <- terms(at$x, at$y)
  kept <- abs(grey - stats::median(grey)) <= 2.5 * max(stats::mad(grey), 1e-9)
  for (turn in 1:12) {
    fit <- stats::.lm.fit(design[kept, , drop = FALSE], grey[kept])$coefficients
    off <- grey - as.vector(design %*% fit)
    again <- abs(off) <= 2.5 * max(stats::mad(off[kept]), 1e-9)
    if (identical(again, kept) || sum(again) < 20) break
    kept <- again
  }
  # a polynomial of degree two in both: a sum of outer products, without a design matrix of the
  # whole picture
  u <- 2 * (seq_len(cols) - 0.5) / cols - 1
  v <- 2 * (seq_len(rows) - 0.5) / rows - 1

  cbind(1, v, v^2) %*%
    rbind(fit[1] + fit[2] * u + fit[4] * u^2, fit[3] + fit[5] * u, fit[6] + 0 * u)
}
