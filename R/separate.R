# From mask to objects.

new_objects <- function(labels, count, mask, trail) {
  structure(list(labels = labels, count = count, mask = mask, trail = trail), class = "bm_objects")
}

#' Find the objects of a mask
#'
#' Every set of object pixels joined along edges or at corners (8-connected) is one object. Objects
#' are numbered in reading order: by the row, then the column, of their topmost pixel.
#'
#' @param mask A `bm_mask`.
#' @return A `bm_objects`: the label picture (0 is background) and its mask.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' find_objects(segment_auto(field, phase = "bright"))
#' @export
find_objects <- function(mask) {
  check_mask(mask)
  found <- core_label(mask$pixels)
  new_objects(found$labels, found$count, mask,
              add_step(mask$trail, "find_objects", decided = list(objects = found$count)))
}

#' Separate touching objects by watershed
#'
#' Floods the exact distance to the background from its peaks down. Where two basins meet they
#' stay two objects if the lower peak rises at least `depth` above the pass between them, and become one otherwise
#' (Vincent & Soille 1991; dynamics: Grimaud 1992).
#'
#' Fill holes before parting only up to an area (`mask_fill(largest = )`): three objects that touch enclose a gap, and filled it
#' joins them for good.
#'
#' @param mask A `bm_mask`.
#' @param depth How much narrower a neck must be than the smaller of the two parts, as a difference of
#'   radii: a number is pixels, a text carries its unit. Larger values part less.
#' @return A `bm_objects`, numbered in reading order.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1)
#' separate_watershed(segment_auto(field, phase = "bright"), depth = "1 px")
#' @export
separate_watershed <- function(mask, depth = "1 px") {
  check_mask(mask)
  size <- field_pixel(mask$field)
  limit <- length_in_pixels(depth, mask$field$calibration, "depth")[["x"]]
  found <- core_watershed(mask$pixels, size[["y"]] / size[["x"]], limit, thread_count())
  new_objects(found$labels, found$count, mask,
              add_step(mask$trail, "separate_watershed", list(depth = depth),
                       list(objects = found$count, parted = found$count - found$joined)))
}

#' Outlines of objects
#'
#' The rings of every object, the outer one and one round each hole: along the pixel edges, or to a fraction of a pixel where
#' the grey of the (filtered) picture crosses the level of the segmentation between two pixel centres (marching squares).
#' Both have the same rings and go round the same pixels. At other objects, filled holes and the frame the pixel edges stay.
#'
#' @param objects A `bm_objects`.
#' @param outline `"pixel"` or `"subpixel"`.
#' @return A tibble with one row a corner: object `id`, `ring`, `hole`, and `x_px`, `y_px` from the outer corner
#'   of the top-left pixel, y downward. The last corner of a ring joins its first.
#' @examples
#' square <- matrix(0, 6, 6); square[2:4, 3:5] <- 255
#' object_outlines(find_objects(segment_level(as_field(square), low = 128)))
#' @export
object_outlines <- function(objects, outline = "pixel") {
  check_objects(objects)
  check_choice(outline, "outline", c("pixel", "subpixel"))
  tibble::as_tibble(
    if (outline == "pixel") core_outlines(objects$labels)
    else core_contours(objects$labels, objects$mask$field$pixels, outline_level(objects$mask))
  )
}
