# Noise: to add it, to tell what kind it is, and how strong a filter it asks for.

#' Add noise
#'
#' To learn what noise does and to test a method against it.
#'
#' @param field A `bm_field`.
#' @param kind `"gaussian"` (every pixel a little off) or `"impulse"` (some pixels black or white).
#' @param amount Standard deviation in grey levels, or the share of pixels hit, such as `"5 %"`.
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return The field with noise, levels whole and within the picture's scale.
#' @examples
#' field <- simulate_field(width = 100, height = 80, count = 4, diameter = "12 um", noise = 0, seed = 1)
#' field_facts(add_noise(field, "impulse", "5 %"))$noise_kind
#' @export
add_noise <- function(field, kind = "gaussian", amount = 8, seed = 1) {
  check_field(field)
  check_choice(kind, "kind", c("gaussian", "impulse"))
  top <- top_level(field)
  n <- length(field$pixels)
  strength <- if (kind == "impulse") parse_share(amount, "amount") else check_number(amount, "amount", 0, 65535)
  if (is.na(strength) || strength < 0) bm_abort("{.arg amount} must be at least 0.", "argument")
  pixels <- repeatable(seed, {
    if (kind == "gaussian") {
      field$pixels + stats::rnorm(n, 0, strength)
    } else {
      hit <- stats::runif(n) < strength
      replace(field$pixels, hit, sample(c(0, top), sum(hit), TRUE))
    }
  })
  filtered(field, round(pmin(pmax(pixels, 0), top)), "add_noise", list(kind = kind, amount = amount, seed = seed))
}

# Pixels far from the median of the nine round them, where smooth noise would hardly ever put one: the share of them.
impulse_share <- function(m, noise) {
  off <- abs(m - core_median(m, 1L, 1L))
  alone <- off > max(8 * noise, 0.08 * diff(range(m)))
  # an edge puts its neighbours off as well, an impulse stands alone
  crowded <- core_box(alone + 0, 1L, 1L) * 9 > 3
  mean(alone & !crowded)
}

#' How strong a filter to take
#'
#' The usual guide is a radius of a tenth of the smallest object to keep; less when the picture has little noise, none when
#' it has hardly any. Gaussian noise asks for a Gaussian, impulses for a median.
#'
#' @param field A `bm_field`.
#' @param smallest Width of the smallest object to keep: a number is pixels, a text carries its unit (`"22 px"`, `"12 um"`).
#' @return A list of class `bm_suggestion`: `filter` (`"filter_median"`, `"filter_gaussian"` or `"none"`), `radius` in
#'   pixels, `call` (the step as text), `why`.
#' @examples
#' suggest_radius(simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", noise = 15, seed = 1), "22 px")
#' @export
suggest_radius <- function(field, smallest) {
  check_field(field)
  width <- min(length_in_pixels(smallest, field$calibration, "smallest"))
  facts <- field_facts(field)
  most <- width / 10
  ratio <- facts$noise / facts$contrast
  if (is.na(ratio)) bm_abort("This picture has one grey level only, so there is no noise to smooth.", "flat")
  impulses <- facts$noise_kind == "impulse"
  share <- if (impulses || ratio > 0.1) 1 else if (ratio > 0.03) 0.6 else 0
  radius <- if (impulses) max(1, round(most)) else round(max(0.5, share * most), 1)
  filter <- if (share == 0) "none" else if (impulses) "filter_median" else "filter_gaussian"
  why <- paste0(
    "noise is ", signif(100 * ratio, 2), " % of the contrast",
    if (impulses) " and comes as impulses" else if (share == 0) ", too little to matter",
    "; a tenth of the smallest object is ", signif(most, 2), " pixels"
  )
  call <- if (share == 0) "" else paste0(filter, ": {", if (impulses) "radius: " else "sigma: ", radius, " px}")
  if (share == 0) radius <- 0
  structure(list(filter = filter, radius = radius, call = call, why = why), class = "bm_suggestion")
}
