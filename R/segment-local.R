#' Segment by the neighbourhood
#'
#' Every pixel is compared with a threshold of its own, from mean m and standard deviation s of the
#' window round it, so that light may change over the picture. `"mean"`: m + offset. `"niblack"`
#' (Niblack 1986): m + k s. `"sauvola"` (Sauvola & Pietikäinen 2000): m (1 + k (s / R - 1)) with R
#' half the scale, for dark objects; for bright ones the same on the picture inverted. The window
#' must be larger than the objects, or their insides are lost.
#'
#' @param field A `bm_field`.
#' @param radius Radius of the window of (2 radius + 1) x (2 radius + 1) pixels: a number is pixels,
#'   a text carries its unit.
#' @param rule `"mean"`, `"niblack"` or `"sauvola"`.
#' @param phase Whether objects are `"bright"` or `"dark"`.
#' @param offset For `"mean"`: grey levels between the mean and the threshold, toward the objects.
#' @param k For `"niblack"` and `"sauvola"`: how many standard deviations from the mean, or how
#'   strongly they count.
#' @return A `bm_mask`, without one threshold of its own.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", uneven = 0.5, seed = 1
#' )
#' segment_local(field, radius = "25 px", rule = "mean", offset = 30)
#' @export
segment_local <- function(field, radius, rule = "mean", phase = "bright", offset = 10, k = 0.2) {
  check_field(field)
  check_choice(rule, "rule", c("mean", "niblack", "sauvola"))
  check_choice(phase, "phase", c("bright", "dark"))
  check_number(offset, "offset")
  check_number(k, "k", 0, 5)

  r <- window_radius(radius, field, 2000)
  if (min(r) < 1) bm_abort("{.arg radius} must be at least 1 pixel.", "argument")
  toward <- if (phase == "bright") 1 else -1
  # the rule is for dark objects on a bright background
  turned <- rule == "sauvola" && phase == "bright"
  pixels <- if (turned) top_level(field) - field$pixels else field$pixels
  pixels <- core_local(
    pixels, r[["x"]], r[["y"]],
    floor(top_level(field) / 2),
    switch(rule, mean = 0, niblack = toward * k, sauvola = k),
    if (rule == "mean") toward * offset else 0,
    if (rule == "sauvola") (top_level(field) + 1) / 2 else 0, phase == "bright" && !turned,
    thread_count()
  )
  args <- list(
    radius = radius, rule = rule, phase = phase, offset = if (rule == "mean") offset,
    k = if (rule != "mean") k
  )

  made_mask(pixels, field, phase, NA, NA, "segment_local", args)
}
register_step(
  "segment_local", takes = "bm_field", gives = "bm_mask", lengths = "radius",
  reach = function(args, field) window_radius(args$radius, field, 2000), block = c(x = 512, y = 1)
)

#' Segment between two levels
#'
#' Takes pixels beyond the level `likely` where they are connected with a pixel beyond the level
#' `sure`: weak parts of clear objects stay, weak specks go.
#'
#' @param field A `bm_field`.
#' @param sure,likely Grey levels; for bright objects `sure` is the higher one, for dark ones the
#'   lower.
#' @return A `bm_mask`, bright or dark by the order of the levels.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_hysteresis(field, sure = 160, likely = 110)
#' @export
segment_hysteresis <- function(field, sure, likely) {
  check_field(field)
  check_number(sure, "sure")
  check_number(likely, "likely")
  if (sure == likely) {
    bm_abort(
      c("{.arg sure} and {.arg likely} are the same.", i = "Use {.fn segment_level}."), "argument"
    )
  }

  phase <- if (sure > likely) "bright" else "dark"
  beyond <- function(level) if (phase == "bright") field$pixels >= level else field$pixels <= level
  found <- core_label(beyond(likely))
  kept <- logical(found$count + 1)
  kept[found$labels[beyond(sure)] + 1] <- TRUE
  kept[1] <- FALSE
  pixels <- matrix(kept[found$labels + 1], nrow(field$pixels))
  limits <- if (phase == "bright") c(likely, Inf) else c(-Inf, likely)

  made_mask(
    pixels, field, phase, limits[1], limits[2], "segment_hysteresis",
    list(sure = sure, likely = likely), list(specks_dropped = found$count - sum(kept))
  )
}
register_step("segment_hysteresis", takes = "bm_field", gives = "bm_mask")
