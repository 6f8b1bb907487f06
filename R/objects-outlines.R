#' Outlines of objects
#'
#' The rings of every object, the outer one and one round each hole: along the pixel edges, or to a
#' fraction of a pixel where the grey of the (filtered) picture crosses the threshold of the
#' segmentation between two pixel centres (marching squares). Where an edge is no wider than a
#' pixel, whose grey then says how far it is covered, the straight line between the two is bent for
#' it. Bends and corners lie where they would if pixels had no size. Both have the same rings and,
#' but for the tips of sharp corners, go round the same pixels. At other objects, filled holes and
#' the frame the pixel edges stay.
#'
#' @param objects A `bm_objects`.
#' @param outline `"pixel"` or `"subpixel"`.
#' @param blur `"kept"`, or `"corrected"` for sub-pixel outlines as they would be without blur, see
#'   [measure_objects()].
#' @return A tibble with one row per corner: object `id`, `ring`, `hole`, and `x_px`, `y_px` from
#'   the outer corner of the top-left pixel, y downward. The last corner of a ring joins its first.
#' @section Errors: Class `bemrick_error_blur` as in [measure_objects()].
#' @examples
#' square <- matrix(0, 6, 6); square[2:4, 3:5] <- 255
#' object_outlines(find_objects(segment_level(as_field(square), low = 128)))
#' @export
object_outlines <- function(objects, outline = "pixel", blur = "kept") {
  check_objects(objects)
  check_outline(outline, blur)
  trace_outlines(objects, outline, if (blur == "corrected") blur_of(objects) else 0)
}

# `blur`: deviation of the blur that is undone, in pixels.
trace_outlines <- function(objects, outline, blur) {
  corners <- if (outline == "pixel") {
    core_outlines(objects$labels)
  } else {
    core_contours(
      objects$labels, objects$mask$field$pixels, outline_level(objects$mask), wide_blur(blur),
      thread_count()
    )
  }
  outline_tibble(corners)
}

outline_tibble <- function(corners) tibble::new_tibble(corners, nrow = length(corners$id))

# The same of what lies in a part of the picture, list(rows, cols), at the same places.
trace_part <- function(objects, part, outline, blur) {
  mask <- objects$mask
  objects$labels <- objects$labels[part$rows, part$cols, drop = FALSE]
  objects$mask$field$pixels <- mask$field$pixels[part$rows, part$cols, drop = FALSE]
  found <- trace_outlines(objects, outline, blur)
  found$x_px <- found$x_px + part$cols[1] - 1
  found$y_px <- found$y_px + part$rows[1] - 1
  found
}

check_outline <- function(outline, blur, call = rlang::caller_env()) {
  check_choice(outline, "outline", c("pixel", "subpixel"), call)
  check_choice(blur, "blur", c("kept", "corrected"), call)
  if (blur == "corrected" && outline == "pixel") {
    bm_abort(
      c(
        "Outlines of whole pixels cannot be corrected for blur.",
        i = "Set {.code outline = \"subpixel\"} as well."
      ),
      "argument", choice = TRUE, call = call
    )
  }
}

# Deviation of the blur at the edges of the objects, in pixels.
blur_of <- function(objects) {
  field <- objects$mask$field
  level <- outline_level(objects$mask)
  # one point per pixel edge; a way along these is 4 / pi too long, over all directions
  edges <- length(core_contours(objects$labels, field$pixels, level)$id)
  checked_blur(level_counts(field), level, pi / 4 * edges, sum(objects$labels > 0))
}

# A blur as wide as a third of the objects leaves nothing to measure of them; so wide it seems where
# what lies near the level is noise, and no edges. `perimeter` and `area` are those of all objects.
checked_blur <- function(counts, level, perimeter, area, call = rlang::caller_env(2)) {
  blur <- edge_blur(counts, level, perimeter)
  width <- 4 * area / perimeter  # of a disc its diameter
  if (perimeter == 0 || blur <= width / 3) return(blur)
  bm_abort(
    c(
      "The blur of the edges seems to be {signif(blur, 2)} pixels, and the objects are about
       {signif(width, 2)} pixels wide: it cannot be undone.",
      i = "Is there noise in the mask? Filter it, or leave the blur as it is:
           {.code blur = \"kept\"}."
    ),
    "blur", call = call
  )
}

# Variance of a blur without what the pixels' own extent has to do with it, which is undone anyway.
wide_blur <- function(deviation) max(deviation^2 - 1 / 12, 0)

# The one level a mask was made by.
outline_level <- function(mask, call = rlang::caller_env()) {
  level <- mask_levels(mask)
  if (length(level) != 1) {
    bm_abort(
      c(
        "Sub-pixel outlines need a mask that was made by one threshold.",
        i = "Use {.code outline = \"pixel\"}, or {.fn segment_auto} or {.fn segment_level} with one
             side."
      ),
      "level", call = call
    )
  }
  level
}
