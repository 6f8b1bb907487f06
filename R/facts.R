# What is in a picture, before anything is done to it.

#' Facts about a picture
#'
#' @param field A `bm_field`.
#' @return A list of class `bm_facts`: `file`, `width`, `height`, `depth`, `lowest` and `highest` grey level,
#'   `clipped_low` and `clipped_high` (share of pixels at either end of the scale), `strip` (side and pixels
#'   of the information strip), `level` (Otsu's, without the strip; `NA` for a flat picture), `bright` (share
#'   of pixels above it) and `advice` (texts: what to do about it).
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
  structure(c(facts, list(advice = picture_advice(facts))), class = "bm_facts")
}

picture_advice <- function(f) {
  c(
    if (f$strip$pixels > 0) paste0(
      "An information strip of ", f$strip$pixels, " pixels lies at the ", f$strip$side,
      ": begin the method with trim_strip."
    ),
    if (is.na(f$level)) "The picture has one grey level only: nothing can be measured in it.",
    if (f$clipped_high > 0.01) paste0(
      round(100 * f$clipped_high, 1), " % of the pixels are at the top level: lower the exposure or gain."
    ),
    if (f$clipped_low > 0.01) paste0(
      round(100 * f$clipped_low, 1), " % of the pixels are at level 0: raise the exposure or offset."
    ),
    if (!is.na(f$level) && (f$highest - f$lowest) < 0.15 * (2^f$depth - 1)) {
      "The grey levels use less than 15 % of the scale: raise the contrast at the microscope."
    }
  )
}
