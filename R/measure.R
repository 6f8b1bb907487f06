# Measures of objects: names, definitions, columns.

# power: of the length unit, NA for grey levels, "angle" and "count" have none.
measure_table <- list(
  ecd = list(1, "equivalent circle diameter x_A = 2 sqrt(A / pi)"),
  area = list(2, "area A: number of pixels times the area of a pixel"),
  perimeter = list(1, paste("perimeter P by Crofton's formula over four directions (Ohser & M\u00fccklich 2000), corrected for",
                            "corners; of sub-pixel outlines their length")),
  feret_max = list(1, paste("maximum Feret diameter x_Fmax: greatest caliper width, its two ends found from the areas next to",
                            "them; at least the mean")),
  feret_min = list(1, "minimum Feret diameter x_Fmin: smallest caliper width"),
  feret_mean = list(1, "mean Feret diameter P_c / pi, P_c the perimeter of the convex hull"),
  feret_max_angle = list(0, "direction of the maximum Feret diameter, counter-clockwise from x, 0 to 180", suffix = "_deg"),
  feret_min_angle = list(0, "direction of the minimum Feret diameter, counter-clockwise from x, 0 to 180", suffix = "_deg"),
  smallest_box_length = list(1, "longer side of the box of least area round the object, at any angle"),
  smallest_box_width = list(1, "shorter side of that box"),
  inscribed_circle = list(1, "diameter of the largest circle inside: twice the greatest distance to the edge, to within a pixel"),
  local_thickness = list(1, paste("mean over its pixels of the diameter of the largest circle inside that covers the pixel",
                                  "(Hildebrand & R\u00fcegsegger 1997)")),
  skeleton_length = list(1, "length of its middle line with all branches (steps weighted after Kulpa 1977)"),
  ellipse_major = list(1, "long axis L of the ellipse with the same second moments"),
  ellipse_minor = list(1, "short axis B of the ellipse with the same second moments"),
  orientation = list(0, "direction of the long axis in degrees, counter-clockwise from x, 0 to 180", suffix = "_deg"),
  form_factor = list(0, "form factor 4 pi A / P^2 (1 for a circle)"),
  circularity = list(0, "circularity sqrt(4 pi A / P^2) (ISO 9276-6; the root of the form factor)"),
  roundness = list(0, "roundness 4 A / (pi x_Fmax^2)"),
  aspect_ratio = list(0, "aspect ratio x_Fmin / x_Fmax"),
  solidity = list(0, "solidity A / A_c, A_c the area of the convex hull; at most 1"),
  convexity = list(0, "convexity P_c / P; at most 1"),
  holes = list(0, "number of holes"),
  hole_area = list(2, "area that its holes enclose"),
  grey_mean = list(0, "mean grey level, of the picture as photographed"),
  grey_sum = list(0, "sum of the grey levels of its pixels"),
  grey_sd = list(0, "standard deviation of the grey levels"),
  grey_min = list(0, "lowest grey level"),
  grey_max = list(0, "highest grey level"),
  grey_x = list(1, "centroid weighted by grey level, from the left edge of the picture"),
  grey_y = list(1, "centroid weighted by grey level, from the top edge of the picture"),
  neighbour_distance = list(1, "distance of its centroid to the nearest other object's"),
  neighbour_gap = list(1, "gap between its edge and the nearest other object's"),
  box_width = list(1, "width of the upright box round the object"),
  box_height = list(1, "height of the upright box round the object"),
  x = list(1, "centroid, from the left edge of the picture"),
  y = list(1, "centroid, from the top edge of the picture")
)

#' What each measure means
#'
#' @return A tibble with `measure` (the name used in limits and figures), `dimension` (`length`, `area`,
#'   `none`) and `definition`. Columns of tables carry the unit behind the name: `ecd_um`, `area_um2`.
#' @details Lengths grow with the pixel size, areas with its square, ratios do not change; turning a picture by
#'   a quarter leaves all but position, box and orientation as they are.
#' @examples
#' measure_definitions()
#' @export
measure_definitions <- function() {
  tibble::tibble(
    measure = names(measure_table),
    dimension = vapply(measure_table, function(m) c("none", "length", "area")[m[[1]] + 1], ""),
    definition = vapply(measure_table, function(m) m[[2]], "")
  )
}

# Column of a measure in a table whose lengths are in `unit`: "ecd_um", "area_um2", "solidity".
measure_column <- function(measure, unit) {
  m <- measure_table[[measure]]
  if (!is.null(m$suffix)) return(paste0(measure, m$suffix))
  paste0(measure, c("", paste0("_", unit), paste0("_", unit, "2"))[m[[1]] + 1])
}

# Its unit as text; "" for ratios, counts and grey levels.
measure_unit <- function(measure, unit) c("", unit, paste0(unit, "2"))[measure_table[[measure]][[1]] + 1]

new_measures <- function(table, objects, trail) {
  structure(table, class = c("bm_measures", "tbl_df", "tbl", "data.frame"), objects = objects, trail = trail)
}

#' Measure every object
#'
#' One row an object, in the unit of the calibration (in pixels when there is none). Grey values
#' come from the picture as photographed, not from the filtered one. See [measure_definitions()] for
#' every column.
#'
#' @param objects A `bm_objects`.
#' @param outline What area, perimeter, hull and Feret diameters are taken from: `"pixel"`, whole pixels, or `"subpixel"`, the
#'   outline at the level of the segmentation between the pixels, in the filtered picture; better for small objects.
#' @param inside Whether the largest inscribed circle, the local thickness and the length of the middle line are measured as
#'   well, which takes a map of distances.
#' @param neighbours Whether the distances to the nearest other object are measured as well; `NA` where there is no other. Objects
#'   beyond the frame are not known: near it they come out too long.
#' @section Warnings: Class `bemrick_warning_strip` when objects lie in an information strip that was not cut off.
#' @return A `bm_measures`: a tibble with `id`, the measures, `x_px`, `y_px`, `on_edge` (the object touches the
#'   frame, or the excluded area), and `accepted`, `reason`, `weight`, which [accept_objects()] sets.
#' @details Perimeters, hulls and Feret diameters of whole pixels are right on average over all places and turns, not for each
#'   object: an edge can lie anywhere between the last pixel centre inside and the first outside. The hull is that of the pixel
#'   centres with every side moved half-way to the next parallel line of the pixel grid, within the upright box of the pixels.
#'   Lines of Crofton's formula that pass between two pixels near a corner are corrected for by comparing neighbours one and two
#'   pixels apart. The greatest Feret diameter would pick the pixel that sticks out most; instead, each end is found from how the
#'   area cut off grows with the depth below it, at most 0.7 pixels from the hull, as a round end or as a corner.
#'   The mean one, and with it the perimeter of the hull, is held to no more than the greatest.
#'
#'   Sub-pixel outlines are given back what the size of a pixel takes off them: bends are moved out by half the variance of its
#'   blur over their radius, and where two straight sides meet, the grey round their meeting point says how far the corner
#'   reaches. `bench/shapes.md` of the sources says how far all are off.
#'
#'   The moments include a pixel's own extent (1/12 px\eqn{^2} an axis).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' objects <- find_objects(segment_auto(field, phase = "bright"))
#' measure_objects(objects)
#' @export
measure_objects <- function(objects, outline = "pixel", inside = FALSE, neighbours = FALSE) {
  check_objects(objects)
  check_flag(inside, "inside")
  check_flag(neighbours, "neighbours")
  check_choice(outline, "outline", c("pixel", "subpixel"))
  field <- objects$mask$field
  unit <- field_unit(field)
  size <- field_pixel(field)
  m <- core_measure(objects$labels, field$picture, objects$count, size[["x"]], size[["y"]], thread_count())
  if (outline == "subpixel") {
    level <- outline_level(objects$mask)
    fine <- core_measure_contours(objects$labels, field$pixels, level, objects$count, size[["x"]], size[["y"]], thread_count())
    m[names(fine)] <- fine
  }
  within <- if (inside) inner_measures(objects, size)
  others <- if (neighbours) neighbour_measures(objects, m, size)
  values <- list(
    ecd = 2 * sqrt(m$area / pi), area = m$area, perimeter = m$perimeter,
    feret_max = m$feret_max, feret_min = m$feret_min, feret_mean = m$hull_perimeter / pi,
    feret_max_angle = m$feret_max_angle, feret_min_angle = m$feret_min_angle,
    smallest_box_length = m$smallest_box_length, smallest_box_width = m$smallest_box_width,
    inscribed_circle = within$inscribed_circle, local_thickness = within$local_thickness,
    skeleton_length = within$skeleton_length, ellipse_major = m$ellipse_major,
    ellipse_minor = m$ellipse_minor, orientation = m$orientation,
    form_factor = 4 * pi * m$area / m$perimeter^2, circularity = sqrt(4 * pi * m$area) / m$perimeter,
    roundness = 4 * m$area / (pi * m$feret_max^2), aspect_ratio = m$feret_min / m$feret_max,
    solidity = pmin(m$area / m$hull_area, 1), convexity = pmin(m$hull_perimeter / m$perimeter, 1), holes = m$holes,
    hole_area = hole_areas(objects, m$holes, size),
    grey_mean = m$grey_mean, grey_sum = m$grey_sum, grey_sd = m$grey_sd, grey_min = m$grey_min, grey_max = m$grey_max,
    grey_x = m$grey_x * size[["x"]], grey_y = m$grey_y * size[["y"]],
    neighbour_distance = others$distance, neighbour_gap = others$gap,
    box_width = m$extent_x, box_height = m$extent_y, x = m$x * size[["x"]], y = m$y * size[["y"]]
  )
  values <- values[!vapply(values, is.null, NA)]
  names(values) <- vapply(names(values), measure_column, "", unit = unit)
  values$x_px <- m$x
  values$y_px <- m$y
  warn_of_strip(field, m$x, m$y)
  table <- tibble::tibble(id = seq_len(objects$count), !!!values,
    on_edge = m$on_edge | touches_outside(objects$labels, objects$count, field),
                          accepted = TRUE, reason = "", weight = 1)
  new_measures(table, objects, add_step(
    objects$trail, "measure_objects",
    list(outline = if (outline != "pixel") outline, inside = if (inside) TRUE, neighbours = if (neighbours) TRUE),
    list(objects = objects$count)
  ))
}

# The edge lies half a pixel before the nearest pixel centre beyond it.
inner_measures <- function(objects, size) {
  labels <- objects$labels
  own <- core_apart(labels)
  far <- core_distance(own, size[["x"]], size[["y"]], thread_count())
  far[!is.finite(far)] <- 0  # no ground in the picture at all
  list(
    inscribed_circle = 2 * pmax(core_label_max(labels, far, objects$count) - sqrt(prod(size)) / 2, 0),
    local_thickness = core_local_thickness(far, labels, objects$count, size[["x"]], size[["y"]]),
    skeleton_length = core_skeleton_lengths(core_skeleton(own), labels, objects$count, size[["x"]], size[["y"]])
  )
}

# From edge to edge the two half pixels beyond the centres are taken off.
neighbour_measures <- function(objects, m, size) {
  found <- core_neighbours(objects$labels, m$x * size[["x"]], m$y * size[["y"]], objects$count, size[["x"]], size[["y"]])
  known <- function(far) ifelse(is.finite(far), far, NA_real_)
  list(distance = known(found$centres), gap = pmax(known(found$edges) - sqrt(prod(size)), 0))
}

hole_areas <- function(objects, holes, size) {
  if (!any(holes > 0)) return(numeric(objects$count))
  core_hole_areas(objects$labels, objects$count) * prod(size)
}

# Which outline a table was measured by.
outline_of <- function(measures) {
  said <- Filter(function(e) e$step == "measure_objects", attr(measures, "trail"))
  if (length(said)) said[[length(said)]]$args$outline %||% "pixel" else "pixel"
}

# The one level a mask was made by.
outline_level <- function(mask, call = rlang::caller_env()) {
  level <- mask_levels(mask)
  if (length(level) != 1) {
    bm_abort(c(
      "Sub-pixel outlines need a mask that was made by one level.",
      i = "Use {.code outline = \"pixel\"}, or {.fn segment_auto} or {.fn segment_level} with one side."
    ), "level", call = call)
  }
  level
}

# Letters of an information strip that nobody cut off are no objects.
warn_of_strip <- function(field, x, y) {
  if (!is.null(decision(field$trail, "trim_strip"))) return(invisible())
  strip <- find_strip(field$picture, top_level(field))
  box <- strip_box(strip, ncol(field$picture), nrow(field$picture))
  lettering <- if (nrow(box)) sum(x > box$left & x < box$right & y > box$top & y < box$bottom) else 0
  if (lettering > 0) {
    bm_warn(c(
      "{lettering} of {length(x)} objects lie in an information strip at the {strip$side} of the picture.",
      i = "They are letters and scale bar: begin with {.fn trim_strip}."
    ), "strip")
  }
}

unclass_measures <- function(measures) {
  attr(measures, "objects") <- attr(measures, "trail") <- NULL
  class(measures) <- c("tbl_df", "tbl", "data.frame")
  measures
}

measures_unit <- function(measures) sub("^ecd_", "", grep("^ecd_", names(measures), value = TRUE)[1])

#' Add a measure of your own
#'
#' Calls a function for every object and puts what it gives into a column of the table.
#'
#' @param measures A `bm_measures`.
#' @param name Name of the new column.
#' @param f A function of one data frame that gives one number: `x_px`, `y_px` (pixel centres) and `grey` of the object's
#'   pixels, or with `of = "outline"` the rows of [object_outlines()].
#' @param of `"pixels"` or `"outline"`.
#' @return The table with the column.
#' @section Errors: Class `bemrick_error_argument` when the name is taken or the function gives anything but one number.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' measure_by(measures, "grey_range", function(p) diff(range(p$grey)))$grey_range
#' @export
measure_by <- function(measures, name, f, of = "pixels") {
  check_measures(measures)
  check_text(name, "name")
  if (!grepl("^[A-Za-z][A-Za-z0-9_]*$", name)) {
    bm_abort("{.arg name} must be letters, digits and underscores, a letter first, not {.val {name}}.", "argument")
  }
  check_choice(of, "of", c("pixels", "outline"))
  if (!is.function(f)) bm_abort("{.arg f} must be a function.", "argument")
  if (name %in% names(measures)) bm_abort("There is a column {.field {name}} already.", "argument")
  objects <- attr(measures, "objects")
  rows <- if (of == "pixels") object_pixels(objects) else object_outlines(objects, outline_of(measures))
  parts <- split(rows, factor(rows$id, measures$id))
  values <- lapply(parts, function(part) f(part))
  one <- vapply(values, function(v) is.numeric(v) && length(v) == 1, NA)
  if (!all(one)) {
    bm_abort("The function must give one number for every object; for object {measures$id[!one][1]} it did not.", "argument")
  }
  measures[[name]] <- as.numeric(unlist(values))
  measures
}

object_pixels <- function(objects) {
  inside <- which(objects$labels > 0)
  rows <- nrow(objects$labels)
  tibble::tibble(
    id = objects$labels[inside], x_px = (inside - 1) %/% rows + 0.5, y_px = (inside - 1) %% rows + 0.5,
    grey = objects$mask$field$picture[inside]
  )
}
