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
  found <- core_label(mask$pixels, thread_count())
  new_objects(found$labels, found$count, mask,
              add_step(mask$trail, "find_objects", decided = list(objects = found$count)))
}

#' Separate touching objects by watershed
#'
#' Floods the exact distance to the background, or the grey values, from the peaks down. Where two basins meet they
#' stay two objects if the lower peak rises at least `depth` above the pass between them, and become one otherwise
#' (Vincent & Soille 1991; dynamics: Grimaud 1992). Between the two a pixel goes to the side it rises towards, so that necks are
#' cut along a straight line.
#'
#' Fill holes before parting only up to an area (`mask_fill(largest = )`): three objects that touch enclose a gap, and filled it
#' joins them for good.
#'
#' @param mask A `bm_mask`.
#' @param depth On distances: how much narrower a neck must be than the smaller of the two parts, as a difference of
#'   radii: a number is pixels, a text carries its unit. On grey values: how many grey levels the pass must lie below the lower
#'   peak. Larger values part less.
#' @param on `"distance"`, for objects with necks, or `"grey"`, for objects that are brightest (dark ones: darkest) in their
#'   middles, in the filtered picture.
#' @param seeds A list of regions ([region_circle()], ...), one an object, or `NULL`. With seeds `depth` does not count:
#'   every seed becomes one object, and what holds no seed stays as it hangs together.
#' @return A `bm_objects`, numbered in reading order.
#' @section Errors: Class `bemrick_error_quantity` for a depth in lengths on grey values, `bemrick_error_region` for a seed that
#'   holds no pixel of the picture.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' separate_watershed(mask, depth = "1 px")
#' separate_watershed(mask, depth = 20, on = "grey")
#' @export
separate_watershed <- function(mask, depth = "1 px", on = "distance", seeds = NULL) {
  check_mask(mask)
  check_choice(on, "on", c("distance", "grey"))
  field <- mask$field
  sown <- sow_seeds(seeds, field)
  size <- field_pixel(field)
  aspect <- size[["y"]] / size[["x"]]
  if (on == "grey") {
    levels <- grey_depth(depth, seeds)
    found <- core_watershed_grey(mask$pixels, field$pixels, mask$phase != "dark", aspect, levels, sown, thread_count())
  } else {
    limit <- length_in_pixels(depth, field$calibration, "depth")[["x"]]
    found <- core_watershed(mask$pixels, aspect, limit, sown, thread_count())
  }
  args <- list(depth = depth, on = if (on != "distance") on,
               seeds = if (!is.null(seeds)) lapply(as_regions(seeds), region_words))
  new_objects(found$labels, found$count, mask, add_step(mask$trail, "separate_watershed", args,
    list(objects = found$count, parted = found$count - found$joined)))
}

grey_depth <- function(depth, seeds, call = rlang::caller_env()) {
  q <- parse_quantity(depth, "depth", call)
  if (q$unit == "" && q$value >= 0) return(q$value)
  if (!is.null(seeds)) return(0)
  bm_abort(c(
    "On grey values {.arg depth} is a number of grey levels, not {.val {as.character(depth)}}.",
    i = "Write for example {.code depth = 20}."
  ), "quantity", call = call)
}

# Numbers of the seeds where they lie; without seeds a matrix of no pixels.
sow_seeds <- function(seeds, field, call = rlang::caller_env()) {
  if (is.null(seeds)) return(matrix(0L, 0, 0))
  sown <- matrix(0L, nrow(field$pixels), ncol(field$pixels))
  for (k in seq_along(seeds <- as_regions(seeds, call))) {
    inside <- inside_region(seeds[[k]], field, call)
    if (!any(inside)) {
      bm_abort("Seed {k} holds no pixel of this picture of {ncol(sown)} x {nrow(sown)} pixels.", "region", call = call)
    }
    sown[inside] <- k
  }
  sown
}

#' Outlines of objects
#'
#' The rings of every object, the outer one and one round each hole: along the pixel edges, or to a fraction of a pixel where
#' the grey of the (filtered) picture crosses the level of the segmentation between two pixel centres (marching squares). Where an
#' edge is no wider than a pixel, whose grey then says how far it is covered, the straight line between the two is bent for it.
#' Bends and corners lie where they would if pixels had no size. Both have the same rings and, but for the tips of sharp corners,
#' go round the same pixels. At other objects, filled holes and the frame the pixel edges stay.
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
    else core_contours(objects$labels, objects$mask$field$pixels, outline_level(objects$mask), thread_count())
  )
}
