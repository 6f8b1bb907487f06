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
#' field <- simulate_field(
#'   width = 100, height = 80, count = 4, diameter = "12 um", noise = 0, seed = 1
#' )
#' field_facts(add_noise(field, "impulse", "5 %"))$noise_kind
#' @export
add_noise <- function(field, kind = "gaussian", amount = 8, seed = 1) {
  check_field(field)
  check_choice(kind, "kind", c("gaussian", "impulse"))

  top <- top_level(field)
  n <- length(field$pixels)
  strength <- if (kind == "impulse") {
    parse_share(amount, "amount")
  } else {
    check_number(amount, "amount", 0, 65535)
  }
  if (is.na(strength) || strength < 0) bm_abort("{.arg amount} must be at least 0.", "argument")
  pixels <- repeatable(seed, {
    if (kind == "gaussian") {
      field$pixels + stats::rnorm(n, 0, strength)
    } else {
      hit <- stats::runif(n) < strength
      replace(field$pixels, hit, sample(c(0, top), sum(hit), TRUE))
    }
  })

  filtered(
    field, round(pmin(pmax(pixels, 0), top)), "add_noise",
    list(kind = kind, amount = amount, seed = seed)
  )
}
register_step("add_noise", takes = "bm_field", gives = "bm_field")
