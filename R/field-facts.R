# What is in a picture, before anything is done to it.

#' @export
format.bm_facts <- function(x, ...) {
  share <- function(s) paste0(signif(100 * s, 3), " %")
  rows <- c(
    picture = paste0(
      if (!is.na(x$file)) paste0(x$file, ", "), x$width, " x ", x$height, " pixels, ", x$depth,
      "-bit"
    ),
    grey = paste0(
      "levels ", x$lowest, " to ", x$highest, "; ", share(x$clipped_low),
      " of the pixels at level 0, ", share(x$clipped_high), " at the top"
    ),
    strip = if (x$strip$pixels > 0) {
      paste0(x$strip$side, ", ", x$strip$pixels, " pixels")
    } else {
      "none found"
    },
    threshold = if (is.na(x$threshold)) "none: one grey level only"
    else paste0(x$threshold, " (otsu); bright ", share(x$bright), ", dark ", share(1 - x$bright)),
    contrast = if (!is.na(x$contrast)) {
      paste0(
        signif(x$contrast, 3), " levels, ", x$noise_kind, " noise ",
        if (is.na(x$noise)) "of unknown size" else signif(x$noise, 2)
      )
    },
    edges = if (!is.na(x$contrast)) paste(signif(x$edge_px, 2), "pixels wide"),
    light = if (!is.na(x$contrast)) {
      paste0(
        "uneven by ", share(signif(x$uneven, 2)), " of the contrast",
        if (x$light %in% c("added", "multiplied")) paste0(", ", x$light)
      )
    },
    scale = paste("in the file's tags:", show_units(x$scale)),
    advice = if (length(x$advice)) x$advice[1] else "no problems found"
  )
  lines <- paste0(formatC(names(rows), width = -11), rows)
  c(lines, if (length(x$advice) > 1) paste0(strrep(" ", 11), x$advice[-1]))
}

#' Facts about a picture
#'
#' @param field A `bm_field`.
#' @return A list of class `bm_facts`: `file`, `width`, `height`, `depth`, `lowest` and `highest`
#'   grey level, `clipped_low` and `clipped_high` (share of pixels at either end of the scale),
#'   `strip` (side and pixels of the information strip), `drawn` (what is drawn over the sample:
#'   `bar`, `lettering`, `plate`), `cut_off` (shares of pixels at the lowest and highest level that
#'   occur, where the picture was cut off there, else 0), `threshold` (Otsu's, without the strip;
#'   `NA` for a flat picture), `bright` (share of pixels above it), `contrast` (mean of the bright
#'   less mean of the dark pixels), `noise` (standard deviation in grey levels), `noise_kind`
#'   (`gaussian`, `impulse` when more than 0.2 % of the pixels stand out alone, or `correlated` in
#'   pictures that were enlarged, compressed or smoothed), `impulses` (share of such pixels),
#'   `edge_px` (width of the sharpest edges in pixels), `uneven` (change of the brightness of the
#'   phase that changes more, over the picture, as a share of the contrast), `light` (`"even"`,
#'   `"added"`, `"multiplied"` or `"unknown"`), `scale` (what the file's tags say) and `advice`
#'   (texts: what to do about it).
#' @details Noise: Immerkaer (1996), "Fast noise variance estimation", Computer Vision and Image
#'   Understanding 64, 300-302, with the median instead of the mean, so that edges do not count;
#'   over one to three pixels where it is correlated, between the impulses where there are some.
#'   Edges: contrast over the steepest slopes (99.5th percentile). Uneven light: spread of the
#'   medians of tiles, of both phases; it multiplies when the contrast goes with the brightness of
#'   the ground from tile to tile, and was added when it does not. Of large pictures the middle 2048
#'   x 2048 pixels are looked at for noise and edges.
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
    strip = strip, threshold = if (level < 0) NA_real_ else level + 0.5,
    bright = if (level < 0) NA_real_ else sum(counts[seq_along(counts) - 1 > level]) / total,
    cut_off = c(
      low = cut_share(counts, min(used) + 1, 1), high = cut_share(counts, max(used) + 1, -1)
    )
  )
  facts$drawn <- unique(find_overlay(sample$picture, top_level(sample))$boxes$kind)
  facts <- c(
    facts, quality_facts(sample, counts, level), list(scale = tags_text(field$source$tags))
  )

  structure(
    c(facts, list(advice = picture_advice(facts))), class = c("bm_facts", "bemrick"), field = field
  )
}

# Share of the pixels at an outermost level where the picture was cut off, else 0.
cut_share <- function(counts, end, inward) {
  if (is_cut_off(counts, end, inward)) counts[end] / sum(counts) else 0
}

tags_text <- function(tags) {
  if (is.null(tags)) return("none")
  um <- signif(tag_unit_um(tags$unit) / tags$x, 5)
  if (tags$kind != "OME-XML" && is_default_resolution(tags)) {
    return(paste0(tags$kind, ", only a screen or print default"))
  }
  paste0(tags$kind, ", ", um, " um per pixel")
}

picture_advice <- function(f) {
  percent <- function(share) paste(round(100 * share, 1), "%")
  steps <- 2^f$depth - 1
  flat <- is.na(f$threshold)
  c(
    if (f$strip$pixels > 0) {
      paste0(
        "An information strip of ", f$strip$pixels, " pixels lies at the ", f$strip$side,
        ": begin the method with trim_strip."
      )
    },
    if (length(f$drawn) > 0) {
      paste0(
        "Something is drawn over the sample (", paste(f$drawn, collapse = ", "),
        "): put exclude_overlay into the method."
      )
    },
    if (flat) "The picture has one grey level only: nothing can be measured in it.",
    if (f$clipped_high > 0.01) paste(
      percent(f$clipped_high), "of the pixels are at the top level: lower the exposure or gain."
    ),
    if (f$clipped_low > 0.01) paste(
      percent(f$clipped_low), "of the pixels are at level 0: raise the exposure or offset."
    ),
    # at another level than the ends of the scale, by whoever stretched or converted the picture;
    # pictures without noise have such peaks of their own
    if (isTRUE(f$noise > 0.5) && f$cut_off[["high"]] > 0.01 && f$clipped_high <= 0.01) paste0(
      percent(f$cut_off[["high"]]), " of the pixels are at level ", f$highest,
      " and none above: the picture was cut off there, and edges lie elsewhere than they seem."
    ),
    if (isTRUE(f$noise > 0.5) && f$cut_off[["low"]] > 0.01 && f$clipped_low <= 0.01) paste0(
      percent(f$cut_off[["low"]]), " of the pixels are at level ", f$lowest,
      " and none below: the picture was cut off there, and edges lie elsewhere than they seem."
    ),
    if (!flat && (f$highest - f$lowest) < 0.15 * steps) {
      "The grey levels use less than 15 % of the scale: raise the contrast at the microscope."
    },
    if (f$noise_kind == "impulse") {
      "Single pixels stand out (impulse noise): filter_median takes them away."
    } else if (isTRUE(f$noise > f$contrast / 9)) {
      paste0(
        "The noise is strong: smooth before segmenting (filter_gaussian; filter_nonlocal where ",
        "objects are small)."
      )
    },
    if (isTRUE(f$edge_px > 6)) "Edges are wide: is the picture in focus?",
    if (isTRUE(f$uneven > 0.15)) {
      paste0(
        "The light is uneven",
        switch(f$light,
          added = ", by what was added to it: put filter_flatten: {correct: subtract} first",
          multiplied = paste(
            ", by a factor: put filter_flatten: {correct: divide} first (better with a flat-field",
            "picture of the instrument)"
          ),
          ": put filter_flatten first"
        ),
        ", or one threshold will shift sizes from side to side."
      )
    }
  )
}

#' @export
summary.bm_field <- function(object, ...) field_facts(object)
