# Measures of objects: names, definitions, columns.

# A measure: the power of the length unit in it, what it is, and its value from what the kernels
# find of all objects (`m`; the name of what they find, when that is all). A measure without a value
# was not asked for. `of`: the kinds of rows that have it; `by`: what measures it on request, a
# step, or an argument of measure_objects().
new_measure <- function(power, definition, value, suffix = NULL, of = "objects", by = NULL) {
  list(power = power, definition = definition, value = value, suffix = suffix, of = of, by = by)
}
a_length <- function(definition, value, ...) new_measure(1, definition, value, ...)
an_area <- function(definition, value, ...) new_measure(2, definition, value, ...)
a_number <- function(definition, value, ...) new_measure(0, definition, value, ...)
an_angle <- function(definition, value, ...) new_measure(0, definition, value, "_deg", ...)

# Kinds of rows: the class of their table, by the name of their file in a results folder.
row_kinds <- c(
  objects = "bm_measures", finds = "bm_finds", widths = "bm_widths", thickness = "bm_thickness"
)

# What one row of each kind is called.
row_words <- c(
  objects = "object", finds = "part", widths = "distance", thickness = "sampling line"
)

measure_table <- list(
  ecd = a_length(
    "equivalent circle diameter x_A = 2 sqrt(A / pi)",
    function(m) 2 * sqrt(m$area / pi)
  ),
  area = an_area("area A: number of pixels times the area of a pixel", "area"),
  perimeter = a_length(
    paste(
      "perimeter P by Crofton's formula over four directions (Ohser & M\u00fccklich 2000),",
      "corrected for corners; of sub-pixel outlines their length"
    ),
    "perimeter"
  ),
  feret_max = a_length(
    paste(
      "maximum Feret diameter x_Fmax: greatest caliper width, its two ends found from the areas",
      "next to them; at least the mean"
    ),
    "feret_max"
  ),
  feret_min = a_length(
    paste(
      "minimum Feret diameter x_Fmin: smallest caliper width; of sub-pixel outlines between flat",
      "sides their mean distance"
    ),
    "feret_min"
  ),
  feret_mean = a_length(
    "mean Feret diameter P_c / pi, P_c the perimeter of the convex hull",
    function(m) m$hull_perimeter / pi
  ),
  feret_max_angle = an_angle(
    "direction of the maximum Feret diameter, counter-clockwise from x, 0 to 180",
    "feret_max_angle"
  ),
  feret_min_angle = an_angle(
    "direction of the minimum Feret diameter, counter-clockwise from x, 0 to 180",
    "feret_min_angle"
  ),
  smallest_box_length = a_length(
    "longer side of the box of least area round the object, at any angle",
    "smallest_box_length"
  ),
  smallest_box_width = a_length("shorter side of that box", "smallest_box_width"),
  inscribed_circle = a_length(
    paste(
      "diameter of the largest circle inside: twice the greatest distance to the edge, from whole",
      "pixels to within one"
    ),
    "inscribed_circle", by = "inside"
  ),
  local_thickness = a_length(
    paste(
      "mean over its pixels of the diameter of the largest circle inside that covers the pixel",
      "(Hildebrand & R\u00fcegsegger 1997)"
    ),
    "local_thickness", by = "inside"
  ),
  skeleton_length = a_length(
    "length of its middle line with all branches (steps weighted after Kulpa 1977)",
    "skeleton_length", by = "inside"
  ),
  ellipse_major = a_length(
    "long axis L of the ellipse with the same second moments",
    "ellipse_major"
  ),
  ellipse_minor = a_length(
    "short axis B of the ellipse with the same second moments",
    "ellipse_minor"
  ),
  orientation = an_angle(
    "direction of the long axis in degrees, counter-clockwise from x, 0 to 180",
    "orientation"
  ),
  whole_area = an_area(
    "area of the ellipse that completes a particle partly hidden by others (separate_outlines())",
    "whole_area", by = "separate_outlines"
  ),
  whole_ecd = a_length(
    "equivalent circle diameter of that ellipse",
    function(m) if (!is.null(m$whole_area)) 2 * sqrt(m$whole_area / pi), by = "separate_outlines"
  ),
  whole_major = a_length("long axis of that ellipse", "whole_major", by = "separate_outlines"),
  whole_minor = a_length("short axis of that ellipse", "whole_minor", by = "separate_outlines"),
  whole_orientation = an_angle(
    "direction of its long axis in degrees, counter-clockwise from x, 0 to 180",
    "whole_orientation", by = "separate_outlines"
  ),
  form_factor = a_number(
    "form factor 4 pi A / P^2 (1 for a circle)",
    function(m) 4 * pi * m$area / m$perimeter^2
  ),
  circularity = a_number(
    "circularity sqrt(4 pi A / P^2) (ISO 9276-6; the root of the form factor)",
    function(m) sqrt(4 * pi * m$area) / m$perimeter
  ),
  roundness = a_number(
    "roundness 4 A / (pi x_Fmax^2)",
    function(m) 4 * m$area / (pi * m$feret_max^2)
  ),
  aspect_ratio = a_number("aspect ratio x_Fmin / x_Fmax", function(m) m$feret_min / m$feret_max),
  solidity = a_number(
    "solidity A / A_c, A_c the area of the convex hull; at most 1",
    function(m) pmin(m$area / m$hull_area, 1)
  ),
  convexity = a_number(
    "convexity P_c / P; at most 1",
    function(m) pmin(m$hull_perimeter / m$perimeter, 1)
  ),
  holes = a_number("number of holes", "holes"),
  hole_area = an_area("area that its holes enclose", "hole_area"),
  grey_mean = a_number("mean grey level, of the picture as photographed", "grey_mean"),
  grey_sum = a_number("sum of the grey levels of its pixels", "grey_sum"),
  grey_sd = a_number("standard deviation of the grey levels", "grey_sd"),
  grey_min = a_number("lowest grey level", "grey_min"),
  grey_max = a_number("highest grey level", "grey_max"),
  grey_x = a_length(
    "centroid weighted by grey level, from the left edge of the picture",
    function(m) m$grey_x * m$size[["x"]]
  ),
  grey_y = a_length(
    "centroid weighted by grey level, from the top edge of the picture",
    function(m) m$grey_y * m$size[["y"]]
  ),
  neighbour_distance = a_length(
    "distance of its centroid to the nearest other object's",
    "neighbour_distance", by = "neighbours"
  ),
  neighbour_gap = a_length(
    "gap between its edge and the nearest other object's", "neighbour_gap", by = "neighbours"
  ),
  ring_share = a_number(
    "share of a ring round the object or find within a range of grey levels (measure_ring())",
    "ring_share", of = c("objects", "finds"), by = "measure_ring"
  ),
  ring_seen = a_number(
    "share of that ring that lies in the picture and in the sample", "ring_seen",
    of = c("objects", "finds"), by = "measure_ring"
  ),
  region_share = a_number(
    "share of a region at the object or find within a range of grey levels (measure_region())",
    "region_share", of = c("objects", "finds"), by = "measure_region"
  ),
  region_seen = a_number(
    "share of that region that lies in the picture and in the sample", "region_seen",
    of = c("objects", "finds"), by = "measure_region"
  ),
  box_width = a_length("width of the upright box round the object", "extent_x"),
  box_height = a_length("height of the upright box round the object", "extent_y"),
  x = a_length(
    "centroid, reference of a find, or middle of a distance, from the left edge of the picture",
    function(m) m$x * m$size[["x"]], of = c("objects", "finds", "widths", "thickness")
  ),
  y = a_length(
    "centroid, reference of a find, or middle of a distance, from the top edge of the picture",
    function(m) m$y * m$size[["y"]], of = c("objects", "finds", "widths", "thickness")
  ),
  turn = an_angle(
    "turn of a find against the taught part, counter-clockwise", "turn", of = "finds"
  ),
  scale = a_number("size of a find beside the taught part", "scale", of = "finds"),
  score = a_number(
    "share of the taught contour that is found with its direction, 0 to 1", "score", of = "finds"
  ),
  width = a_length(
    "distance of two edges with the phase that is gauged between them", "width", of = "widths"
  ),
  gap = a_length("distance of two edges with the other phase between them", "gap", of = "widths"),
  edge_contrast = a_number(
    "step in grey levels at the weaker of both edges", "edge_contrast", of = "widths"
  ),
  thickness = a_length(
    "distance of both edges of a layer along one sampling line", "thickness", of = "thickness"
  )
)

# What has to be done for a measure that is there on request only, in words.
measured_by <- function(measure) {
  by <- measure_table[[measure]]$by %||% "measure_objects"
  if (by %in% names(registered$steps)) paste0(by, "()")
  else paste0("measure_objects(", by, " = TRUE)")
}

# Names of the measures that rows of a kind have.
measures_of_kind <- function(kind) {
  names(Filter(function(m) kind %in% m$of, measure_table))
}

#' What each measure means
#'
#' @return A tibble with `measure` (the name used in limits), `dimension` (`length`,
#'   `area`, `none`), `of` (the kinds of rows that have it: `objects`, `finds`, `widths`,
#'   `thickness`) and `definition`.
#'   Columns of tables carry the unit behind the name: `ecd_um`, `area_um2`.
#' @details Lengths grow with the pixel size, areas with its square, ratios do not change; turning a
#'   picture by a quarter leaves all but position, box and orientation as they are.
#' @examples
#' measure_definitions()
#' @export
measure_definitions <- function() {
  tibble::tibble(
    measure = names(measure_table),
    dimension = vapply(measure_table, function(m) c("none", "length", "area")[m$power + 1], ""),
    of = vapply(measure_table, function(m) paste(m$of, collapse = ", "), ""),
    definition = vapply(measure_table, function(m) m$definition, "")
  )
}

# Column of a measure in a table whose lengths are in `unit`: "ecd_um", "area_um2", "solidity".
measure_column <- function(measure, unit) {
  m <- measure_table[[measure]]
  if (!is.null(m$suffix)) return(paste0(measure, m$suffix))
  paste0(measure, c("", paste0("_", unit), paste0("_", unit, "2"))[m$power + 1])
}

# Its unit as text; "" for ratios, counts and grey levels.
measure_unit <- function(measure, unit) {
  c("", unit, paste0(unit, "2"))[measure_table[[measure]]$power + 1]
}

new_measures <- function(table, objects, trail) {
  structure(
    table, class = c("bm_measures", "tbl_df", "tbl", "data.frame"), objects = objects, trail = trail
  )
}

# Which outline a table was measured by.
outline_of <- function(measures) {
  said <- Filter(function(e) e$step == "measure_objects", attr(measures, "trail"))
  if (length(said)) said[[length(said)]]$args$outline %||% "pixel" else "pixel"
}

# Those of a results folder are kept with the objects.
outlines_of <- function(measures) {
  objects <- attr(measures, "objects")
  if (!is.null(objects$outlines)) return(objects$outlines)
  check_in_memory(objects$mask$field, rlang::caller_env())
  trace_outlines(objects, outline_of(measures), undone_blur(measures))
}

# The blur that was undone, in pixels.
undone_blur <- function(measures) {
  decision(attr(measures, "trail"), "measure_objects")$blur_px %||% 0
}

# A table that was reshaped is still a table of measures as long as it has every column that gives
# its rows a meaning, and rows of its own picture, each at most once. Else it is a plain tibble.
as_measures_or_plain <- function(table, before) {
  plain <- tibble::as_tibble(unclass_measures(table))
  kept <- is.data.frame(table) && all(needed_columns(before) %in% names(table)) &&
    !anyDuplicated(table$id) && all(table$id %in% before$id)
  if (kept) new_measures(plain, attr(before, "objects"), attr(before, "trail")) else plain
}

needed_columns <- function(measures) {
  c(
    "id", "accepted", "reason", "weight", "x_px", "y_px",
    vapply(c("ecd", "area"), measure_column, "", unit = measures_unit(measures))
  )
}

#' @export
`[.bm_measures` <- function(x, ...) {
  part <- unclass_measures(x)[...]
  if (is.data.frame(part)) as_measures_or_plain(part, x) else part
}

#' @export
`names<-.bm_measures` <- function(x, value) {
  table <- unclass_measures(x)
  names(table) <- value
  as_measures_or_plain(table, x)
}

#' @export
`$<-.bm_measures` <- function(x, name, value) {
  table <- unclass_measures(x)
  table[[name]] <- value
  as_measures_or_plain(table, x)
}

#' @export
`[[<-.bm_measures` <- function(x, i, value) {
  table <- unclass_measures(x)
  table[[i]] <- value
  as_measures_or_plain(table, x)
}

#' @export
`[<-.bm_measures` <- function(x, ..., value) {
  table <- unclass_measures(x)
  table[...] <- value
  as_measures_or_plain(table, x)
}

# Rows of several pictures are no longer the table of one.
#' @export
rbind.bm_measures <- function(...) {
  plain <- function(t) if (inherits(t, "bm_measures")) unclass_measures(t) else t
  tables <- lapply(list(...), plain)
  do.call(rbind, tables)
}

#' @exportS3Method dplyr::dplyr_reconstruct bm_measures
dplyr_reconstruct.bm_measures <- function(data, template) as_measures_or_plain(data, template)

#' @exportS3Method tibble::as_tibble bm_measures
as_tibble.bm_measures <- function(x, ...) unclass_measures(x)

# The same as a plain tibble.
unclass_measures <- function(measures) {
  class(measures) <- c("tbl_df", "tbl", "data.frame")
  attr(measures, "objects") <- attr(measures, "trail") <- NULL
  measures
}

measures_unit <- function(measures) {
  sub("^ecd_", "", grep("^ecd_", names(measures), value = TRUE)[1])
}
