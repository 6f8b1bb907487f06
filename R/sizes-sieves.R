sieve_series <- list(
  "R20/3" = c(
    20, 32, 45, 63, 90, 125, 180, 250, 355, 500, 710, 1000, 1400, 2000, 2800, 4000, 5600, 8000,
    11200, 16000, 22400, 31500, 45000, 63000, 90000, 125000
  ),
  "R20" = c(
    20, 25, 32, 36, 40, 45, 50, 56, 63, 71, 80, 90, 100, 112, 125, 140, 160, 180, 200, 224, 250,
    280, 315, 355, 400, 450, 500, 560, 630, 710, 800, 900, 1000, 1120, 1250, 1400, 1600, 1800, 2000,
    2240, 2500, 2800, 3150, 3550, 4000, 4500, 5000, 5600, 6300, 7100, 8000, 9000, 10000, 11200,
    12500, 14000, 16000, 18000, 20000, 22400, 25000, 28000, 31500, 35500, 40000, 45000, 50000,
    56000, 63000, 71000, 80000, 90000, 100000, 112000, 125000
  ),
  "R40/3" = c(
    20, 25, 32, 38, 45, 53, 63, 75, 90, 106, 125, 150, 180, 212, 250, 300, 355, 425, 500, 600, 710,
    850, 1000, 1180, 1400, 1700, 2000, 2360, 2800, 3350, 4000, 4750, 5600, 6700, 8000, 9500, 11200,
    13200, 16000, 19000, 22400, 26500, 31500, 37500, 45000, 53000, 63000, 75000, 90000, 106000,
    125000
  )
)

#' Openings of standard sieves
#'
#' Nominal openings of test sieves from 20 um to 125 mm.
#'
#' @param series `"R20/3"` (principal sizes of ISO 3310-1), `"R20"`, or `"R40/3"` (supplementary
#'   sizes of ISO 3310-1; those of ASTM E11).
#' @param from,to Only those between these sizes.
#' @return Texts with units, for `classes` of [size_distribution()].
#' @examples
#' sieve_openings("R40/3", "20 um", "100 um")
#' @export
sieve_openings <- function(series = "R20/3", from = "0 um", to = "1000 mm") {
  check_choice(series, "series", names(sieve_series))
  openings <- sieve_series[[series]]
  size <- function(x, name) {
    check_number(parse_length(x, name, "um"), name, 0, call = rlang::caller_env())
  }
  paste(openings[openings >= size(from, "from") & openings <= size(to, "to")], "um")
}
