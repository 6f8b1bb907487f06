# Objects that are probably several.

#' Suspect merges
#'
#' Marks objects that are probably several grown together, with the reason: a hull much larger than
#' the object (solidity), an area far beyond the others (more than 3.5 robust standard deviations in
#' the logarithm), or several maxima of the distance to the edge, as [separate_watershed()] would
#' part. Nothing is left out: suspects are drawn in another colour, and to exclude one takes
#' [exclude_objects()] and a reason.
#'
#' @param measures A `bm_measures`.
#' @param solidity Objects below this solidity are suspected.
#' @param depth How deep a saddle between two maxima must be, as in [separate_watershed()] on
#'   distances.
#' @return The table with the column `suspected`: the reasons, or an empty text.
#' @examples
#' field <- simulate_field(
#'   width = 300, height = 200, count = 20, diameter = "14 um", touching = 0.4, seed = 2
#' )
#' measures <- suspect_merges(measure_objects(find_objects(segment_auto(field))))
#' measures[measures$suspected != "", c("id", "solidity", "suspected")]
#' @export
suspect_merges <- function(measures, solidity = 0.9, depth = "5 %") {
  check_measures(measures)
  check_number(solidity, "solidity", 0, 1)

  objects <- attr(measures, "objects")
  field <- objects$mask$field
  size <- field_pixel(field)
  neck <- neck_depth(depth, field$calibration)
  area <- log(measures[[measure_column("area", measures_unit(measures))]])
  spread <- stats::mad(area)
  parts <- if (is.null(objects$by_window)) {
    parts_of_objects(objects, size, neck)
  } else {
    objects$by_window(function(made) parts_of_objects(made, size, neck))
  }
  parts <- parts[measures$id]
  said <- cbind(
    ifelse(measures$solidity < solidity, paste0("solidity ", signif(measures$solidity, 2)), NA),
    ifelse(
      nrow(measures) >= 8 & spread > 0 & area > stats::median(area) + 3.5 * spread,
      "much larger than the others", NA
    ),
    ifelse(parts > 1, paste(parts, "distance maxima"), NA)
  )
  measures$suspected <- apply(said, 1, function(r) paste(r[!is.na(r)], collapse = ", "))
  trail <- add_step(
    attr(measures, "trail"), "suspect_merges", list(solidity = solidity, depth = depth),
    list(suspected = sum(measures$suspected != ""))
  )

  new_measures(measures, objects, trail)
}
register_step(
  "suspect_merges", takes = "bm_measures", gives = "bm_measures",
  lengths = list(depth = function(value, calibration, call) neck_depth(value, calibration, call))
)

# Into how many parts the watershed would split each object, those that touch looked at apart.
parts_of_objects <- function(objects, size, neck) {
  labels <- objects$labels
  found <- core_watershed(
    core_apart(labels), size[["y"]] / size[["x"]], neck$pixels, neck$share, matrix(0L, 0, 0),
    thread_count()
  )
  owner <- integer(found$count)
  inside <- found$labels > 0
  owner[found$labels[inside]] <- labels[inside]
  area <- tabulate(found$labels, found$count)

  tabulate(owner[area >= 9], objects$count)
}
