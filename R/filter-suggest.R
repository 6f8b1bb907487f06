#' @export
format.bm_suggestion <- function(x, ...) {
  paste0("<suggestion> ", if (x$filter == "none") "no smoothing" else x$call, " (", x$why, ")")
}

#' How strong a filter to take
#'
#' The noise sets the filter: the weakest Gaussian that leaves a ninth of the contrast, so that
#' hardly a pixel crosses a threshold halfway by chance; no filter for noise that is less than 6 %
#' of it; a median for impulses. The smallest object limits it: where the Gaussian would be wider
#' than a twentieth of it, non-local means keep its edges. Against noise whose pixels hang together
#' only the Gaussian helps, to a fifth of the smallest object.
#'
#' @param field A `bm_field`.
#' @param smallest Width of the smallest object to keep: a number is in pixels, a string carries its
#'   unit (`"22 px"`, `"12 um"`).
#' @return A list of class `bm_suggestion`: `filter` (`"filter_median"`, `"filter_gaussian"`,
#'   `"filter_nonlocal"` or `"none"`), `radius` in pixels (of a Gaussian its standard deviation),
#'   `call` (the step as text), `remaining` (the noise that remains, as a share of the contrast;
#'   `NA` where it is not known: after a median, and of correlated noise), `narrower` (by how much
#'   the smallest object, if round, comes out narrower by a Gaussian: its variance over the radius,
#'   Verbeek & van Vliet 1994; `NA` after the others), and `why`.
#' @section Errors: Class `bemrick_error_flat` for a picture of one grey level.
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
  if (is.na(facts$contrast)) {
    bm_abort("This picture has one grey level only, so there is no noise to smooth.", "flat")
  }
  found <- if (facts$noise_kind == "impulse") {
    median_for(facts$impulses, width)
  } else {
    smoothing_for(facts$noise / facts$contrast, width, facts$noise_kind == "correlated")
  }

  structure(found, class = c("bm_suggestion", "bemrick"))
}

# A median of nine pixels fails where five of them are impulses, one of 25 where 13 are.
median_for <- function(share, width) {
  radius <- if (share <= 0.1) 1 else 2
  list(
    filter = "filter_median", radius = radius,
    call = paste0("filter_median: {radius: ", radius, " px}"), remaining = NA_real_,
    narrower = NA_real_,
    why = paste0(
      signif(100 * share, 2), " % of the pixels are impulses",
      if (width < 2 * radius + 1) "; objects as narrow as the smallest vanish with them"
    )
  )
}

# `ratio`: the noise as a share of the contrast.
smoothing_for <- function(ratio, width, correlated) {
  said <- paste("noise is", as_percent(ratio), "of the contrast")
  if (ratio <= 0.06) {
    return(list(
      filter = "none", radius = 0, call = "", remaining = ratio, narrower = 0,
      why = paste0(said, ", too little to matter")
    ))
  }
  sigmas <- seq(0.5, 10, 0.1)
  enough <- c(sigmas[ratio * vapply(sigmas, noise_kept, 0) <= 1 / 9], 10)[1]
  if (correlated || enough <= max(0.5, width / 20)) {
    gaussian_for(min(enough, floor(10 * max(0.5, width / 5)) / 10), ratio, width, correlated, said)
  } else {
    nonlocal_for(ratio, said)
  }
}

gaussian_for <- function(sigma, ratio, width, correlated, said) {
  remaining <- ratio * noise_kept(sigma)
  narrower <- min(2 * sigma^2 / width^2, 1)
  list(
    filter = "filter_gaussian", radius = sigma,
    call = paste0("filter_gaussian: {sigma: ", sigma, " px}"),
    remaining = if (correlated) NA_real_ else remaining, narrower = narrower,
    why = paste0(
      said,
      if (correlated) {
        ", its pixels hang together: smoothing takes off less than of other noise"
      } else {
        paste0(", ", as_percent(remaining), " remain")
      },
      if (remaining > 1 / 9) {
        "; more would take the smallest object: take pictures with less noise"
      },
      "; the smallest object comes out ", as_percent(narrower), " narrower"
    )
  )
}

# Within flat phases a sixth of the noise remains, found by simulation at a contrast of once to
# three times the noise.
nonlocal_for <- function(ratio, said) {
  list(
    filter = "filter_nonlocal", radius = 5, call = "filter_nonlocal: {radius: 5 px}",
    remaining = ratio / 6, narrower = NA_real_,
    why = paste0(
      said, ", about ", as_percent(ratio / 6), " remain; a Gaussian would round off the smallest ",
      "object", if (ratio > 2 / 3) ": take pictures with less noise"
    )
  )
}

as_percent <- function(share) paste(signif(100 * share, 2), "%")

# Share of the deviation of white noise that a Gaussian on the pixel grid leaves.
noise_kept <- function(sigma) {
  w <- exp(-(-50:50)^2 / (2 * sigma^2))
  sum(w^2) / sum(w)^2
}
