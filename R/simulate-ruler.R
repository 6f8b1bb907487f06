# Simulated rulers with known pitch.

#' Simulate a photographed ruler
#'
#' Draws dark graduations on a bright ground, every fifth one longer, turned by an angle, some
#' missing, with blur, uneven light and noise: something to try [calibration_from_marks()] on.
#'
#' @param pitch Distance of two graduations in pixels.
#' @param angle Direction the ruler runs in, in degrees counter-clockwise from x.
#' @param width,height Size of the picture in pixels.
#' @param missing Share of the graduations that are worn off.
#' @param blur Standard deviation of the blur, in pixels.
#' @param noise Standard deviation of the noise, in levels of 255.
#' @param uneven Change of brightness over the picture, as a share.
#' @param seed Seed of the random numbers.
#' @return A `bm_field`; `truth` holds `pitch_px` and `angle`.
#' @examples
#' ruler <- simulate_ruler(pitch = 20, angle = 3, seed = 1)
#' calibration_from_marks(ruler, pitch = "10 um")
#' @export
simulate_ruler <- function(
  pitch = 24, angle = 0, width = 900, height = 240, missing = 0, blur = 0.8, noise = 4,
  uneven = 0.1, seed = 1
) {
  check_number(pitch, "pitch", 5, 2000)
  width <- check_number(width, "width", 16, 10000, whole = TRUE)
  height <- check_number(height, "height", 16, 10000, whole = TRUE)
  check_exposure(110, blur, uneven, noise)
  check_number(angle, "angle", -180, 180)
  check_number(missing, "missing", 0, 0.5)

  turn <- -angle * pi / 180  # y runs downward
  repeatable(seed, {
    start <- stats::runif(1)
    x <- rep(seq_len(width) - 0.5 - width / 2, each = height)
    y <- rep(seq_len(height) - 0.5 - height / 2, times = width)
    along <- (x * cos(turn) + y * sin(turn)) / pitch + start
    across <- -x * sin(turn) + y * cos(turn)
    number <- round(along)
    from_mark <- abs(along - number) * pitch
    worn <- stats::runif(4001) < missing
    half <- 0.36 * min(width, height) * ifelse(number %% 5 == 0, 1, 0.7)
    cover <- pmin(pmax(0.15 * pitch - from_mark + 0.5, 0), 1) *
      pmin(pmax(half - abs(across) + 0.5, 0), 1)
    cover[worn[number + 2001]] <- 0
    grey <- expose(matrix(cover, height), "dark", 110, blur, uneven, noise)
  })
  field <- as_field(round(pmin(pmax(grey, 0), 255)), 8)
  field$truth <- list(pitch_px = pitch, angle = angle)
  field
}
