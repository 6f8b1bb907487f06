#' @export
format.bm_suggestion <- function(x, ...) {
  paste0("<suggestion> ", if (x$filter == "none") "no smoothing" else x$call, " (", x$why, ")")
}

#' How strong a filter to take
#'
#' The usual guide is a radius of a tenth of the smallest object to keep; less when the picture has
#' little noise, none when it has hardly any. Gaussian noise asks for a Gaussian, impulses for a
#' median.
#'
#' @param field A `bm_field`.
#' @param smallest Width of the smallest object to keep: a number is in pixels, a string carries its
#'   unit (`"22 px"`, `"12 um"`).
#' @return A list of class `bm_suggestion`: `filter` (`"filter_median"`, `"filter_gaussian"` or
#'   `"none"`), `radius` in pixels, `call` (the step as text), `why`.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", noise = 15, seed = 1
#' )
#' suggest_radius(field, "22 px")
#' @export
suggest_radius <- function(field, smallest) {
  check_field(field)

  width <- min(length_in_pixels(smallest, field$calibration, "smallest"))
  facts <- field_facts(field)
  most <- width / 10
  ratio <- facts$noise / facts$contrast
  if (is.na(ratio)) {
    bm_abort("This picture has one grey level only, so there is no noise to smooth.", "flat")
  }
  impulses <- facts$noise_kind == "impulse"
  share <- if (impulses || ratio > 0.1) 1 else if (ratio > 0.03) 0.6 else 0
  radius <- if (impulses) max(1, round(most)) else round(max(0.5, share * most), 1)
  filter <- if (share == 0) "none" else if (impulses) "filter_median" else "filter_gaussian"
  why <- paste0(
    "noise is ", signif(100 * ratio, 2), " % of the contrast",
    if (impulses) " and comes as impulses" else if (share == 0) ", too little to matter",
    "; a tenth of the smallest object is ", signif(most, 2), " pixels"
  )
  call <- if (share == 0) {
    ""
  } else {
    paste0(filter, ": {", if (impulses) "radius: " else "sigma: ", radius, " px}")
  }
  if (share == 0) radius <- 0

  structure(
    list(filter = filter, radius = radius, call = call, why = why),
    class = c("bm_suggestion", "bemrick")
  )
}
