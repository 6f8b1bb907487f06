# Which objects count. Nothing is deleted: every object keeps its row, with the reason it was left
# out.

#' Decide which objects count
#'
#' Sets `accepted`, `reason` and `weight`; every object stays in the table. The edge rule comes
#' first, then `resolve`, then the limits in the order given; an object is left out for the first
#' that it breaks. What [exclude_objects()] left out stays out.
#'
#' @param measures A `bm_measures`.
#' @param edge What to do with objects that touch the frame: `"drop"` leaves them out (for sizes)
#'   and weights the others against the fact that large objects are cut more often (Miles 1974,
#'   Lantuéjoul 1980: the inverse of the share of places where the object's box would lie inside
#'   the frame; within a region, where a disc as wide as the box on average would lie inside it);
#'   `"frame"` leaves out those that touch the left or lower side only, which makes counts over many
#'   fields unbiased (Gundersen 1977), but not sizes; `"keep"` counts them all.
#' @param resolve Objects narrower than this (minimum Feret diameter) cannot be distinguished from
#'   noise and are left out: a number is in pixels, a string carries its unit.
#' @param ... Limits by measure, each `c(lowest, highest)` with `NA` for none: lengths and areas as
#'   texts with a unit (`ecd = c("2 um", NA)`), ratios and grey levels as numbers (`circularity =
#'   c(0.3, NA)`).
#' @return The table with the three columns set; the trail says how many objects each rule left out.
#' @section Errors: Class `bemrick_error_unknown_name` for a limit on a measure that does not exist,
#'   `bemrick_error_argument` when the lowest is above the highest.
#' @section Warnings: Class `bemrick_warning_resolution` when more than a twentieth of the accepted
#'   objects are under 5 pixels across: their sizes and shapes are hardly resolved.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' accept_objects(measures, edge = "drop", ecd = c("5 um", NA), circularity = c(0.5, NA))
#' @export
accept_objects <- function(measures, edge = "drop", ..., resolve = NULL) {
  check_measures(measures)
  check_choice(edge, "edge", c("drop", "frame", "keep"))

  limits <- named_limits(list(...), measures_of_kind("objects"))
  reason <- ifelse(startsWith(measures$reason, "by hand:"), measures$reason, "")
  cut <- switch(edge, drop = measures$on_edge, frame = on_forbidden_side(measures), keep = FALSE)
  reason[reason == "" & cut] <- if (edge == "frame") {
    "touches a forbidden side"
  } else {
    "touches the frame"
  }
  unit <- measures_unit(measures)
  width <- width_in_pixels(measures, measures[[measure_column("feret_min", unit)]])
  if (!is.null(resolve)) {
    narrow <- width < least_width(measures, resolve)
    reason[reason == "" & narrow] <- paste("narrower than", as.character(resolve))
  }
  for (name in names(limits)) {
    value <- measures[[measure_column(name, unit)]]
    if (is.null(value)) {
      bm_abort(c(
        "{.field {name}} was not measured, so no limit on it can be kept.",
        i = "It comes from {.code {measured_by(name)}}."
      ), "argument")
    }
    reason <- beyond_limit(
      reason, value, limits[[name]], name, unit, measure_table[[name]]$power
    )
  }
  measures$accepted <- reason == ""
  measures$reason <- reason
  measures$weight <- ifelse(measures$accepted, if (edge == "drop") edge_weight(measures) else 1, 0)
  warn_of_resolution(width[measures$accepted])
  left_out <- table(reason[reason != ""])
  trail <- add_step(
    attr(measures, "trail"), "accept_objects", c(list(edge = edge, resolve = resolve), limits),
    c(list(found = nrow(measures), accepted = sum(measures$accepted)), as.list(left_out))
  )

  new_measures(measures, attr(measures, "objects"), trail)
}
register_step(
  "accept_objects", takes = "bm_measures", gives = "bm_measures", lengths = "resolve"
)

# Limits named by measures that are known.
named_limits <- function(limits, known, call = rlang::caller_env()) {
  if (length(limits) > 0 && !rlang::is_named(limits)) {
    bm_abort(
      "Every limit must be named by its measure, such as {.code {known[1]} = c(\"2 um\", NA)}.",
      "argument", call = call
    )
  }
  check_known(names(limits), known, "measure", call = call)
  limits
}

# The reasons with this limit's where a value breaks it and no rule before it did.
beyond_limit <- function(reason, value, limit, name, unit, power, call = rlang::caller_env()) {
  range <- read_limits(limit, name, unit, power, call)
  low <- reason == "" & (value < range[1]) %in% TRUE
  high <- reason == "" & (value > range[2]) %in% TRUE
  reason[low] <- paste(name, "below", range_text(limit, 1))
  reason[high] <- paste(name, "above", range_text(limit, 2))
  reason
}

# Two sides of the frame (and the excluded area) are forbidden, the other two allowed: over
# fields side by side every object is then counted once.
on_forbidden_side <- function(measures) {
  objects <- attr(measures, "objects")
  # of a picture on disk they were found while its labels were at hand
  if (!is.null(objects$sides)) return(measures$id %in% objects$sides)
  sides <- c(objects$labels[, 1], objects$labels[nrow(objects$labels), ])
  measures$id %in% sides |
    touches_outside(objects$labels, objects$count, objects$mask$field)[measures$id]
}

# A width in the unit of the table, in pixels; of oblong ones, in squares as large.
width_in_pixels <- function(measures, width) {
  width / sqrt(prod(field_pixel(attr(measures, "objects")$mask$field)))
}

# What `resolve` says, in pixels.
least_width <- function(measures, resolve, call = rlang::caller_env()) {
  calibration <- attr(measures, "objects")$mask$field$calibration
  min(length_in_pixels(resolve, calibration, "resolve", call = call))
}

warn_of_resolution <- function(width) {
  small <- sum(width < 5)
  if (small > length(width) / 20 && length(width) > 0) {
    bm_warn(
      c(
        "{small} of {length(width)} accepted objects are less than 5 pixels across: their sizes and
         shapes are hardly resolved.",
        i = "Take pictures at a higher magnification, or leave them out by {.arg resolve} or a
             limit on size."
      ),
      "resolution"
    )
  }
}

# c(lowest, highest) in the unit of the table.
read_limits <- function(
  limit, name, unit, power = measure_table[[name]]$power, call = rlang::caller_env()
) {
  limit <- if (is.atomic(limit) || rlang::is_bare_list(limit)) as.list(limit)
  if (length(limit) != 2) {
    bm_abort(
      "The limit on {.field {name}} must be two values, the lowest and the highest, {.code NA} for
       none.",
      "argument", call = call
    )
  }
  range <- vapply(
    limit,
    function(x) {
      if (is.null(x) || is.na(x)) return(NA_real_)
      q <- parse_quantity(x, name, call)
      if (power == 0) {
        if (q$unit != "") {
          bm_abort(
            "The limit on {.field {name}} must be a number without unit, not {.val {x}}.",
            "quantity", call = call
          )
        }
        return(q$value)
      }
      if (unit == "px" && q$unit %in% c("", "px")) return(q$value)
      if (unit == "px") {
        bm_abort(c(
          "The limit on {.field {name}} is {.val {x}}, but these objects were measured in pixels.",
          i = "Use {.fn calibrate} before measuring."
        ), "no_calibration", call = call)
      }
      check_calibrated_limit(q, name, unit, call)
      parse_length(x, name, unit, power, call)
    },
    0
  )
  if (!anyNA(range) && range[1] > range[2]) {
    bm_abort(c(
      "The lowest {.field {name}} ({limit[[1]]}) is above the highest ({limit[[2]]}).",
      i = "Swap them."
    ), "argument", call = call)
  }
  range
}

# Limits in pixels would mean another size at every magnification.
check_calibrated_limit <- function(quantity, name, unit, call) {
  if (quantity$unit != "px") return(invisible())
  bm_abort(
    c(
      "The limit on {.field {name}} is in pixels, but this picture has a scale.",
      i = "Give it such as {.val {paste(2, measure_unit(name, unit))}}.",
      i = if (name %in% measures_of_kind("objects")) {
        "What is too small to be resolved is left out by {.arg resolve}, which may be in pixels."
      }
    ),
    "quantity", call = call
  )
}

# Which objects were left out by these limits, or for being too narrow.
is_beyond_limits <- function(reason, limits) {
  sub(" (below|above|than) .*", "", reason) %in% c(limits, "narrower") & reason != ""
}

# NA: no limit on that side.
is_within <- function(value, range) {
  !(value < range[1]) %in% TRUE & !(value > range[2]) %in% TRUE
}

range_text <- function(limit, which) as.character(as.list(limit)[[which]])
