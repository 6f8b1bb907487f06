#' Separate touching and overlapping convex objects by their outlines
#'
#' Where convex particles touch or overlap, their common outline turns inward at both ends of the
#' neck. The outline is cut into arcs there (concave points: Bai, Sun & Zhou 2009), arcs that lie on
#' one convex outline within the object and near one ellipse are put together (segment grouping:
#' Zafari, Eerola, Sampo & Kalviainen 2015), and every group is one particle, completed by
#' the ellipse through its arcs (Halir & Flusser 1998).
#'
#' Use it for round, oblong and polygonal particles, whatever their sizes; it finds hidden parts and
#' splits at wide necks where [separate_watershed()] sees a single peak. Use the watershed for
#' particles that are not convex, which it splits at their own bays, and for beds packed so densely
#' that only gaps of a few pixels show their edges. `bench/parting-mixed.md` of the sources compares
#' the two.
#'
#' @param mask A `bm_mask`. Outlines run through the grey between the pixels where one threshold
#'   made the mask, else along its pixels.
#' @param depth How much narrower a neck must be than the smaller of the two parts, as in
#'   [separate_watershed()]: a share of that part's radius such as `"5 %"`, a number in pixels or a
#'   string with a unit; at least three quarters of a pixel. [split_response()] shows what it does.
#' @return A `bm_objects`, numbered in reading order. Pixels of overlaps belong to the particle they
#'   lie deepest in; a particle that lies under another may consist of several pieces.
#'   [measure_objects()] adds the measures `whole_area`, `whole_ecd`, `whole_major`, `whole_minor`
#'   and `whole_orientation` of the completed ellipses; they are missing where less than a third of
#'   the ellipse is seen, or too little to tell.
#' @section Warnings: Class `bemrick_warning_gaps` as in [separate_watershed()];
#'   `bemrick_warning_unseen` when a quarter or more of an object lies in no particle that its
#'   outline shows, as in densely packed beds whose gaps are a few pixels wide.
#' @section Errors: Class `bemrick_error_quantity` for a depth that is not one.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1
#' )
#' objects <- separate_outlines(segment_auto(field, phase = "bright"))
#' measure_objects(objects)[c("ecd_um", "whole_ecd_um")]
#' @export
separate_outlines <- function(mask, depth = "5 %") {
  check_mask(mask)
  neck <- neck_depth(depth, mask$field$calibration)
  warn_of_gaps(mask)

  found <- core_label(mask$pixels, thread_count())
  size <- field_pixel(mask$field)
  one_level <- length(mask_levels(mask)) == 1
  side <- size / max(size)
  parts <- core_separate_outlines(
    found$labels, if (one_level) mask$field$pixels else mask$pixels + 0,
    if (one_level) mask_levels(mask) else 0.5, side[["x"]], side[["y"]],
    max(neck$pixels * side[["x"]], least_neck$pixels), neck$share, found$count, thread_count()
  )
  warn_of_unseen(parts$unseen)

  fresh <- core_renumber(parts$labels)
  count <- length(fresh$order)
  objects <- new_objects(fresh$labels, count, mask, add_step(
    mask$trail, "separate_outlines", list(depth = depth),
    list(objects = count, parted = count - found$count)
  ))
  objects$wholes <- parts$ellipses[fresh$order, , drop = FALSE]
  objects$unseen <- parts$unseen  # of every object as it was before
  objects
}
register_step(
  "separate_outlines", takes = "bm_mask", gives = "bm_objects",
  lengths = list(depth = function(value, calibration, call) neck_depth(value, calibration, call))
)

# Particles whose edges show nowhere leave the object they are part of unexplained.
warn_of_unseen <- function(shares) {
  many <- sum(shares >= 0.25)
  if (many == 0) return(invisible())
  bm_warn(
    c(
      "Of {many} {cli::qty(many)}object{?s} a quarter or more lies in no particle whose outline is
       seen.",
      i = "Packed densely, particles show too little of their edges: use {.fn separate_watershed}."
    ),
    "unseen"
  )
}

# What measure_objects() takes from the ellipses that complete the objects: centre and axes in units
# of the larger side of a pixel, and turn.
whole_measures <- function(wholes, size) {
  if (is.null(wholes)) return(NULL)
  major <- wholes[, 3] * max(size)
  minor <- wholes[, 4] * max(size)
  list(
    whole_area = pi / 4 * major * minor, whole_major = major, whole_minor = minor,
    # y runs down, angles are counter-clockwise as seen
    whole_orientation = (-wholes[, 5]) %% 180
  )
}
