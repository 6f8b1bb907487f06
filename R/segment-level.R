# From grey to mask: which pixels are objects.

#' Segment at given grey levels
#'
#' Marks the pixels whose grey level lies between `low` and `high`, both included.
#'
#' @param field A `bm_field`.
#' @param low,high Grey levels in the picture's own scale; leave one out for "everything below" or
#'   "everything above".
#' @return A `bm_mask`.
#' @section Errors: Class `bemrick_error_argument` when neither level is given or `low` is above
#'   `high`.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_level(field, low = 120)
#' @export
segment_level <- function(field, low = NULL, high = NULL) {
  check_field(field)
  if (is.null(low) && is.null(high)) bm_abort("Give {.arg low}, {.arg high} or both.", "argument")

  from <- if (is.null(low)) -Inf else check_number(low, "low")
  to <- if (is.null(high)) Inf else check_number(high, "high")
  if (from > to) {
    bm_abort(c("{.arg low} ({low}) is above {.arg high} ({high}).", i = "Swap them."), "argument")
  }
  phase <- if (is.null(high)) "bright" else if (is.null(low)) "dark" else "between"
  masked(field, from, to, phase, "segment_level", list(low = low, high = high))
}
register_step(
  "segment_level", takes = "bm_field", gives = "bm_mask",
  reach = function(args, field) c(x = 0, y = 0)
)

#' Segment by a published rule
#'
#' The threshold is chosen from the (filtered) picture, from whole levels 0 to 255 or 0 to 65535
#' without binning; by its histogram, but for one rule that looks at its edges:
#' * `otsu` (1979) makes the classes as different as can be in the mean; the usual first choice for
#'   two clear phases;
#' * `ridler` (Ridler & Calvard 1978) halfway between the means of the classes, iteratively;
#' * `kapur` (Kapur, Sahoo & Wong 1985) greatest entropy of both classes; for rare objects;
#' * `kittler` (Kittler & Illingworth 1986) least error for two normal classes, also of unlike size;
#' * `li` (Li & Lee 1993) least cross entropy; finds weak objects on a dark ground;
#' * `zack` (Zack, Rogers & Latt 1977) farthest from the line between peak and end of the tail; for
#'   one peak with a tail;
#' * `kohler` (Kohler 1981) where the edges that it cuts are strongest, which is where blurred edges
#'   are steepest; for objects with bright rims, saturated or shaded ones, whose histogram has its
#'   classes elsewhere (on rims 30 to 60 levels brighter it is 0.1 to 0.4 points of area fraction
#'   off where `otsu` is 0.4 to 1.4); stray pixels draw it up or down, so filter them away first;
#' * `percentile` puts `share` of the pixels into the phase.
#'
#' [compare_rules()] shows them side by side.
#'
#' @param field A `bm_field`.
#' @param rule One of the rules above.
#' @param phase Whether objects are `"bright"` or `"dark"`; `"auto"` takes the phase that covers
#'   less of the picture's frame, as objects lie on a ground that goes on beyond it.
#' @param share For `percentile`: the share of the picture that is objects, such as `"30 %"`.
#' @return A `bm_mask`; the threshold is in its trail. It lies halfway between two levels, that of
#'   `kohler` anywhere.
#' @section Errors: Class `bemrick_error_flat` for a picture with one grey level.
#' @section Warnings: Class `bemrick_warning_phase` when `"auto"` finds between 35 and 65 % of the
#'   frame bright, `bemrick_warning_empty` when nothing lies on that side of the threshold,
#'   `bemrick_warning_polarity` when the phase covers most of the picture and of its frame: then it
#'   is probably the background.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_auto(field, rule = "otsu", phase = "bright")
#' @export
segment_auto <- function(field, rule = "otsu", phase = "bright", share = NULL) {
  check_field(field)
  check_choice(rule, "rule", rule_names)
  check_choice(phase, "phase", c("bright", "dark", "auto"))

  wanted <- share_for_rule(rule, share, phase)
  found <- auto_level(
    level_counts(field), edge_sums(field), frame_pixels(field$pixels), rule, wanted, phase
  )
  masked(
    field, found$low, found$high, found$phase, "segment_auto",
    list(rule = rule, phase = phase, share = share), found$decided
  )
}
register_step("segment_auto", takes = "bm_field", gives = "bm_mask")

# list(low, high, phase, decided), from the histogram, its edges and the greys along the frame.
auto_level <- function(counts, edges, frame, rule, share, phase, call = rlang::caller_env()) {
  level <- level_by_rule(counts, rule, share, phase, edges)
  if (is.na(level)) {
    bm_abort(
      c(
        "This picture has one grey level only ({which.max(counts) - 1}), so nothing can be told
         from anything.",
        i = "Look at it: is it blank, overexposed, or was a filter far too strong?"
      ),
      "flat", call = call
    )
  }
  # between the highest level of the dark class and the lowest of the bright one
  level <- level + 0.5
  taken <- if (phase == "auto") phase_of_objects(frame, level) else phase
  limits <- if (taken == "bright") c(level, Inf) else c(-Inf, level)
  list(
    low = limits[1], high = limits[2], phase = taken,
    decided = c(list(level = level), if (phase == "auto") list(phase = taken))
  )
}

share_for_rule <- function(rule, share, phase, call = rlang::caller_env()) {
  if (rule != "percentile") {
    if (!is.null(share)) {
      bm_abort("{.arg share} is for the rule {.val percentile} only.", "argument", call = call)
    }
    return(NULL)
  }
  if (phase == "auto") {
    bm_abort("The rule {.val percentile} needs a phase, bright or dark.", "argument", call = call)
  }
  wanted <- parse_share(share, "share", call)
  if (is.na(wanted) || wanted <= 0 || wanted >= 1) {
    bm_abort(
      "{.arg share} must be a share above 0 and below 1, such as {.val 30 %}.", "argument",
      call = call
    )
  }
  wanted
}

phase_of_objects <- function(frame, level) {
  bright <- mean(frame > level)
  phase <- if (bright <= 0.5) "bright" else "dark"
  if (bright > 0.35 && bright < 0.65) {
    bm_warn(
      c(
        "Objects are assumed to be {phase}, but this is uncertain: {round(100 * bright)} % of the
         picture's frame is bright.",
        i = "Set {.code phase = \"bright\"} or {.code phase = \"dark\"}."
      ),
      "phase"
    )
  }
  phase
}
