# Simulated cross-sections of a glazed plate with known edges.

#' Simulate a cross-section of a glaze with known truth
#'
#' Draws dark resin, a bright glaze and the grey body under it, as a polished cross-section shows
#' them: wavy and rough edges, grain in the body, uneven light, blur and noise. For trying what
#' [trace_layer()] and [layer_thickness()] do. The same call with the same seed gives the same
#' picture.
#'
#' @param width,height Size of the picture in pixels.
#' @param thickness Mean thickness of the glaze.
#' @param waviness Standard deviation of the long waves of both edges, each with its own.
#' @param roughness Standard deviation of their fine roughness.
#' @param grain Standard deviation of the body's grey levels.
#' @param uneven Uneven light: how much brightness changes over the picture, as a share.
#' @param blur Standard deviation of the blur, in pixels.
#' @param noise Standard deviation of the noise, in grey levels of 255.
#' @param pixel Length of a pixel.
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return A `bm_field`, calibrated, with one more element `truth`: a tibble with a row for every
#'   column of the picture: `x_px`, `upper_px`, `lower_px` (heights of both edges) and
#'   `thickness_um`.
#' @examples
#' glaze <- simulate_glaze(width = 300, height = 200, thickness = "40 um", seed = 1)
#' layer <- trace_layer(glaze, path_line(0, 100, 300, 100), "45 um", c("rising", "falling"))
#' summary(layer_thickness(layer))
#' mean(glaze$truth$thickness_um)
#' @export
simulate_glaze <- function(
  width = 832, height = 624, thickness = "90 um", waviness = "3 um", roughness = "0.5 um",
  grain = 6, uneven = 0.1, blur = 0.9, noise = 5, pixel = "0.5 um", seed = 1
) {
  width <- check_number(width, "width", 64, 20000, whole = TRUE)
  height <- check_number(height, "height", 64, 20000, whole = TRUE)
  check_exposure(1, blur, uneven, noise)
  check_number(grain, "grain", 0, 100)
  length <- parse_length(pixel, "pixel", "um")
  check_number(length, "pixel", 1e-4, 1e4)
  in_pixels <- function(q, name) {
    check_number(parse_length(q, name, "um"), name, 0, 1e6) / length
  }
  thick <- in_pixels(thickness, "thickness")
  wave <- in_pixels(waviness, "waviness")
  rough <- in_pixels(roughness, "roughness")
  if (thick + 6 * wave > 0.9 * height) {
    bm_abort("{.arg thickness} ({thickness}) does not fit into {height} pixels.", "argument")
  }

  repeatable(seed, {
    edge <- function(at) at + waves(width, width / 5, wave) + waves(width, 3, rough)
    upper <- edge(height / 2 - thick / 2)
    lower <- edge(height / 2 + thick / 2)
    grey <- glaze_section(upper, lower, height)
    body <- pmin(pmax(outer(seq_len(height), lower, "-"), 0), 1)
    texture <- core_gaussian(matrix(stats::rnorm(width * height), height), 1.5, 1.5)
    grey <- lit(grey + body * texture * grain / stats::sd(texture), blur, uneven, noise)
  })
  field <- as_field(round(pmin(pmax(grey, 0), 255)), 8)
  q <- parse_quantity(pixel, "pixel")
  field$calibration <- new_calibration(
    c(x = q$value, y = q$value), q$unit, 0.002, "simulated", name = paste(pixel, "per pixel")
  )
  field$truth <- tibble::tibble(
    x_px = seq_len(width) - 0.5, upper_px = upper, lower_px = lower,
    thickness_um = (lower - upper) * length
  )

  field
}

# Random heights with a correlation length in pixels and a standard deviation.
waves <- function(n, long, sd) {
  if (sd == 0) return(rep(0, n))
  reach <- ceiling(3 * long)
  at <- -reach:reach
  heights <- stats::filter(stats::rnorm(n + 2 * reach), stats::dnorm(at, 0, long))
  heights <- as.numeric(heights[reach + seq_len(n)])
  (heights - mean(heights)) * sd / stats::sd(heights)
}

# Resin, glaze and body, by the share of each pixel that each covers.
glaze_section <- function(upper, lower, height) {
  below <- function(edge) {
    pmin(pmax(outer(seq_len(height), edge, "-"), 0), 1)
  }
  45 + 120 * below(upper) - 55 * below(lower)
}
