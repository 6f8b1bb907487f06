#' Measure every object
#'
#' One row per object, in the unit of the calibration (in pixels when there is none). Grey values
#' come from the picture as photographed, not from the filtered one. See [measure_definitions()] for
#' every column.
#'
#' @param objects A `bm_objects`.
#' @param outline What area, perimeter, hull and Feret diameters are taken from: `"pixel"`, whole
#'   pixels, or `"subpixel"`, the outline at the threshold between the pixels, in
#'   the filtered picture; better for small objects.
#' @param blur For sub-pixel outlines: `"kept"`, or `"corrected"` for the size that small, thin and
#'   strongly bent objects would have without the blur of the picture and its filters. See details.
#' @param inside Whether the largest inscribed circle, the local thickness and the length of the
#'   middle line are measured as well, which takes a map of distances.
#' @param neighbours Whether the distances to the nearest other object are measured as well; `NA`
#'   where there is no other. Objects beyond the frame are not known: near it they come out too
#'   long.
#' @section Errors: Class `bemrick_error_blur` when a blur is to be corrected that seems wider than
#'   a third of the objects, as of noise in the mask.
#' @section Warnings: Class `bemrick_warning_strip` when objects lie in an information strip that
#'   was not cut off.
#' @return A `bm_measures`: a tibble with `id`, the measures, `x_px`, `y_px`, `on_edge` (the object
#'   touches the frame, or the excluded area), and `accepted`, `reason`, `weight`, which
#'   [accept_objects()] sets.
#' @details Perimeters, hulls and Feret diameters of whole pixels are right on average over all
#'   places and turns, not for each object: an edge can lie anywhere between the last pixel centre
#'   inside and the first outside. The hull is that of the pixel centres with every side moved
#'   half-way to the next parallel line of the pixel grid, within the upright box of the pixels.
#'   Lines of Crofton's formula that pass between two pixels near a corner are corrected for by
#'   comparing neighbours one and two pixels apart. The greatest Feret diameter would pick the pixel
#'   that sticks out most; instead, each end is found from how the area cut off grows with the depth
#'   below it, at most 0.7 pixels from the hull, as a round end or as a corner. The mean one, and
#'   with it the perimeter of the hull, is held to no more than the greatest.
#'
#' Sub-pixel outlines are given back what the size of a pixel takes off them: bends are moved out by
#' half the variance of its blur over their radius, and where two straight sides meet, the grey
#' round their meeting point says how far the corner reaches. `bench/shapes.md` of the sources says
#' how far all are off.
#'
#' Where an edge is blurred, its half height lies too far in on bends: by half the variance of the
#' blur over the radius (Verbeek & van Vliet 1994), so that every object loses pi times the variance
#' of its area whatever its shape, and small ones most of their share. `blur = "corrected"` moves
#' outlines out by as much. The blur is found from how many pixels edges of this length hold within
#' the middle quarter of their contrast, and stands in the trail as `blur_px`. It presumes that the
#' threshold is where edges are steepest (the rule `kohler` of [segment_auto()] in doubt) and that
#' what lies between the two phases is blur: a true gradient, such as a layer of diffusion or a
#' slope seen from above, is mistaken for it, and one width is taken for all edges of the picture.
#' In simulated pictures discs of 8 to 12 pixels come out 0.1 to 0.3 pixels too small by a blur of
#' 0.8 to 1.4 pixels and are right to 0.04 with the correction; by a blur of 2 pixels 0.4 to 0.9 and
#' 0.05 to 0.4; objects narrower than three times the blur never reach their full brightness and
#' come out too large (`bench/pictures.md` of the sources).
#'
#' Least Feret diameters and boxes of sub-pixel outlines are taken from side to side, by parabolas
#' through the points of each side, not from the points that noise puts out farthest.
#'
#' The moments include a pixel's own extent (1/12 px\eqn{^2} per axis).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' objects <- find_objects(segment_auto(field, phase = "bright"))
#' measure_objects(objects)
#' @export
measure_objects <- function(
  objects, outline = "pixel", blur = "kept", inside = FALSE, neighbours = FALSE
) {
  check_objects(objects)
  check_flag(inside, "inside")
  check_flag(neighbours, "neighbours")
  check_outline(outline, blur)

  field <- objects$mask$field
  unit <- field_unit(field)
  size <- field_pixel(field)
  m <- core_measure(
    objects$labels, field$picture, objects$count, size[["x"]], size[["y"]], thread_count(),
    field$window[["x"]] %||% 0, field$window[["y"]] %||% 0
  )
  objects$outlines <- NULL
  undone <- if (blur == "corrected") objects$blur %||% blur_of(objects)
  if (outline == "subpixel") {
    fine <- core_measure_contours(
      objects$labels, field$pixels, outline_level(objects$mask), wide_blur(undone %||% 0),
      objects$count, size[["x"]], size[["y"]], thread_count()
    )
    objects$outlines <- outline_tibble(fine$outlines)  # whoever draws or writes them has them
    m[names(fine)] <- fine
  }
  m$size <- size
  m$hole_area <- hole_areas(objects, m$holes, size)
  m <- c(
    m, whole_measures(objects$wholes, size),
    if (inside) inner_measures(objects, size, outline == "subpixel", undone %||% 0),
    if (neighbours) neighbour_measures(objects, m, size)
  )
  values <- lapply(measure_table, function(measure) {
    if (is.function(measure$value)) measure$value(m) else m[[measure$value]]
  })
  values <- values[!vapply(values, is.null, NA)]
  names(values) <- vapply(names(values), measure_column, "", unit = unit)
  values$x_px <- m$x
  values$y_px <- m$y
  # within a part of a picture neither means anything
  if (is.null(decision(field$trail, "at_each"))) {
    warn_of_strip(field, m$x, m$y)
    warn_of_giant(m$area / prod(size), objects)
  }
  n <- objects$count
  columns <- c(
    list(id = seq_len(n)), values,
    list(
      on_edge = m$on_edge | touches_outside(objects$labels, n, field), accepted = rep(TRUE, n),
      reason = rep("", n), weight = rep(1, n)
    )
  )

  new_measures(
    # tibble() takes a tenth of the time that all measuring takes
    tibble::new_tibble(columns, nrow = n), objects,
    add_step(
      objects$trail, "measure_objects",
      list(
        outline = if (outline != "pixel") outline, blur = if (blur != "kept") blur,
        inside = if (inside) TRUE, neighbours = if (neighbours) TRUE
      ),
      c(list(objects = objects$count), if (!is.null(undone)) list(blur_px = undone))
    )
  )
}
register_step("measure_objects", takes = "bm_objects", gives = "bm_measures")

# From whole pixels: the edge lies half a pixel before the nearest pixel centre beyond it. Of
# sub-pixel outlines the circle is the largest inside them; distances between pixel centres make the
# thickness short by as much as they make the circle.
inner_measures <- function(objects, size, subpixel = FALSE, blur = 0) {
  labels <- objects$labels
  own <- core_apart(labels)
  far <- core_distance(own, size[["x"]], size[["y"]], thread_count())
  far[!is.finite(far)] <- 0  # no ground in the picture at all
  thickness <- core_local_thickness(far, labels, objects$count, size[["x"]], size[["y"]])
  circle <- 2 * pmax(core_label_max(labels, far, objects$count) - sqrt(prod(size)) / 2, 0)
  if (subpixel) {
    larger <- core_inscribed(
      labels, far, objects$mask$field$pixels, outline_level(objects$mask), wide_blur(blur),
      objects$count, size[["x"]], size[["y"]]
    )
    thickness <- pmax(thickness + larger - circle, 0)
    circle <- larger
  }
  list(
    inscribed_circle = circle, local_thickness = thickness,
    skeleton_length = core_skeleton_lengths(
      core_skeleton(own), labels, objects$count, size[["x"]], size[["y"]]
    )
  )
}

# From edge to edge the two half pixels beyond the centres are taken off.
neighbour_measures <- function(objects, m, size) {
  found <- core_neighbours(
    objects$labels, m$x * size[["x"]], m$y * size[["y"]], objects$count, size[["x"]], size[["y"]]
  )
  known <- function(far) ifelse(is.finite(far), far, NA_real_)
  list(
    neighbour_distance = known(found$centres),
    neighbour_gap = pmax(known(found$edges) - sqrt(prod(size)), 0)
  )
}

hole_areas <- function(objects, holes, size) {
  if (!any(holes > 0)) return(numeric(objects$count))
  core_hole_areas(objects$labels, objects$count) * prod(size)
}

# One object over more than half of the sample is more likely the ground, or all objects grown into
# one. Masks that cover the frame as well were warned of when they were made.
warn_of_giant <- function(pixels, objects) {
  if (length(pixels) == 0) return(invisible())
  share <- max(0, pixels) / sample_size(objects$mask$field)
  if (share <= 0.5 || share_of_frame(objects$mask) > 0.9) return(invisible())
  bm_warn(
    c(
      "Object {which.max(pixels)} covers {round(100 * share)} % of the picture.",
      i = "Is it the background, or have objects grown together? Look at phase and threshold."
    ),
    "giant"
  )
}

# Letters of an information strip that nobody cut off are no objects.
warn_of_strip <- function(field, x, y) {
  if (!is.null(decision(field$trail, "trim_strip"))) return(invisible())
  strip <- find_strip(field$picture, top_level(field))
  box <- strip_box(strip, ncol(field$picture), nrow(field$picture))
  lettering <- if (nrow(box)) {
    sum(x > box$left & x < box$right & y > box$top & y < box$bottom)
  } else {
    0
  }
  if (lettering > 0) {
    bm_warn(
      c(
        "{lettering} of {length(x)} objects lie in an information strip at the {strip$side} of the
         picture.",
        i = "They are letters and scale bar: begin with {.fn trim_strip}."
      ),
      "strip"
    )
  }
}
