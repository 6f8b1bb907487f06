# What is in a picture, before anything is done to it.

#' Facts about a picture
#'
#' @param field A `bm_field`.
#' @return A list of class `bm_facts`: `file`, `width`, `height`, `depth`, `lowest` and `highest` grey level, `clipped_low`
#'   and `clipped_high` (share of pixels at either end of the scale), `strip` (side and pixels of the information strip),
#'   `drawn` (what is drawn over the sample: `bar`, `lettering`, `plate`), `level` (Otsu's, without the strip; `NA` for a
#'   flat picture), `bright` (share of pixels above it), `contrast` (mean of the bright less mean of the dark pixels),
#'   `noise` (standard deviation in grey levels), `noise_kind` (`gaussian`, or `impulse` when more than 0.2 % of the pixels
#'   stand out alone), `edge_px` (width of the sharpest edges in pixels), `uneven` (change of the larger phase's brightness
#'   over the picture, as a share of the contrast), `scale` (what the file's tags say) and `advice` (texts: what to do about
#'   it).
#' @details Noise: Immerkaer (1996), "Fast noise variance estimation", Computer Vision and Image Understanding
#'   64, 300-302, with the median instead of the mean, so that edges do not count. Edges: contrast over the
#'   steepest slopes (99.5th percentile). Uneven light: spread of the medians of 6 x 6 tiles. Of large
#'   pictures the middle 2048 x 2048 pixels are looked at for noise and edges.
#' @examples
#' field_facts(read_field(system.file("extdata", "beads.png", package = "bemrick")))
#' @export
field_facts <- function(field) {
  check_field(field)
  sample <- trim_strip(field)
  strip <- decision(sample$trail, "trim_strip")
  counts <- level_counts(sample)
  level <- core_otsu(counts)
  used <- which(counts > 0) - 1
  total <- sum(counts)
  facts <- list(
    file = if (is.null(field$source)) NA_character_ else field$source$file,
    width = ncol(field$pixels), height = nrow(field$pixels), depth = field$depth,
    lowest = min(used), highest = max(used),
    clipped_low = counts[1] / total, clipped_high = counts[length(counts)] / total,
    strip = strip, level = if (level < 0) NA_real_ else level + 0.5,
    bright = if (level < 0) NA_real_ else sum(counts[seq_along(counts) - 1 > level]) / total
  )
  facts$drawn <- unique(find_overlay(sample$picture, top_level(sample))$boxes$kind)
  facts <- c(facts, quality_facts(sample, counts, level), list(scale = tags_text(field$source$tags)))
  structure(c(facts, list(advice = picture_advice(facts))), class = "bm_facts")
}

quality_facts <- function(field, counts, level) {
  if (level < 0 || min(dim(field$pixels)) < 8) {
    return(list(contrast = NA_real_, noise = NA_real_, noise_kind = "none", edge_px = NA_real_, uneven = NA_real_))
  }
  levels <- seq_along(counts) - 1
  mean_of <- function(k) sum(levels[k] * counts[k]) / sum(counts[k])
  contrast <- mean_of(levels > level) - mean_of(levels <= level)
  middle <- middle_of_picture(field$pixels, 2048)
  noise <- noise_of(middle)
  list(
    contrast = contrast, noise = noise, noise_kind = if (impulse_share(middle, noise) > 0.002) "impulse" else "gaussian",
    edge_px = contrast / steepest_slope(middle),
    uneven = unevenness(field$pixels, level) / contrast
  )
}

middle_of_picture <- function(pixels, most) {
  cut <- function(n) if (n <= most) seq_len(n) else (n - most) %/% 2 + seq_len(most)
  pixels[cut(nrow(pixels)), cut(ncol(pixels)), drop = FALSE]
}

# The second difference along both axes is blind to slopes; its spread over 6 is that of the noise.
noise_of <- function(m) {
  second <- function(v) v[-(1:2), ] - 2 * v[-c(1, nrow(v)), ] + v[seq_len(nrow(v) - 2), ]
  d <- second(t(second(m)))
  stats::median(abs(d)) / 0.6745 / 6
}

steepest_slope <- function(m) {
  smooth <- core_gaussian(m, 0.7, 0.7)
  rows <- 2:(nrow(m) - 1)
  cols <- 2:(ncol(m) - 1)
  gx <- (smooth[rows, cols + 1] - smooth[rows, cols - 1]) / 2
  gy <- (smooth[rows + 1, cols] - smooth[rows - 1, cols]) / 2
  stats::quantile(sqrt(gx^2 + gy^2), 0.995, names = FALSE)
}

# Range of the medians of tiles, of the phase that covers more of the picture.
unevenness <- function(pixels, level) {
  step <- ceiling(sqrt(length(pixels) / 5e5))  # of large pictures every few pixels
  if (step > 1) pixels <- pixels[seq(1, nrow(pixels), step), seq(1, ncol(pixels), step)]
  bright <- pixels > level
  phase <- if (mean(bright) > 0.5) bright else !bright
  tile <- function(n) pmin(6, ceiling(6 * seq_len(n) / n))
  place <- outer(6 * (tile(nrow(pixels)) - 1), tile(ncol(pixels)), `+`)
  medians <- tapply(pixels[phase], place[phase], function(v) if (length(v) >= 20) stats::median(v) else NA)
  if (all(is.na(medians))) return(NA_real_)
  diff(range(medians, na.rm = TRUE))
}

tags_text <- function(tags) {
  if (is.null(tags)) return("none")
  um <- signif(tag_unit_um(tags$unit) / tags$x, 5)
  if (tags$kind != "OME-XML" && is_default_resolution(tags)) {
    return(paste0(tags$kind, ", only a screen or print default"))
  }
  paste0(tags$kind, ", ", um, " um a pixel")
}

picture_advice <- function(f) {
  percent <- function(share) paste(round(100 * share, 1), "%")
  steps <- 2^f$depth - 1
  flat <- is.na(f$level)
  c(
    if (f$strip$pixels > 0) {
      paste0(
        "An information strip of ", f$strip$pixels, " pixels lies at the ", f$strip$side,
        ": begin the method with trim_strip."
      )
    },
    if (length(f$drawn) > 0) paste0(
      "Something is drawn over the sample (", paste(f$drawn, collapse = ", "), "): put exclude_overlay into the method."
    ),
    if (flat) "The picture has one grey level only: nothing can be measured in it.",
    if (f$clipped_high > 0.01) paste(
      percent(f$clipped_high), "of the pixels are at the top level: lower the exposure or gain."
    ),
    if (f$clipped_low > 0.01) paste(
      percent(f$clipped_low), "of the pixels are at level 0: raise the exposure or offset."
    ),
    if (!flat && (f$highest - f$lowest) < 0.15 * steps) {
      "The grey levels use less than 15 % of the scale: raise the contrast at the microscope."
    },
    if (f$noise_kind == "impulse") "Single pixels stand out (impulse noise): filter_median takes them away."
    else if (isTRUE(f$noise > f$contrast / 8)) "The noise is strong: smooth before segmenting (filter_gaussian).",
    if (isTRUE(f$edge_px > 6)) "Edges are wide: is the picture in focus?",
    if (isTRUE(f$uneven > 0.3)) {
      "The light is uneven: put filter_flatten first, or one level will shift sizes from side to side."
    }
  )
}
