# Classes of size distributions: equal, logarithmic, given, or the openings of sieves.

# Limits of the classes in the unit of the values.
class_limits <- function(classes, x, of, unit, call = rlang::caller_env()) {
  if (identical(classes, "auto")) return(even_limits(x))
  if (identical(classes, "log")) {
    if (any(x <= 0)) bm_abort("Logarithmic classes need values above zero; {.field {of}} has others.", "argument", call = call)
    return(exp(even_limits(log(x), FALSE)))
  }
  if (is.character(classes)) classes <- vapply(classes, size_in_unit, 0, name = "classes", of = of, unit = unit, call = call,
    USE.NAMES = FALSE)
  if (is.numeric(classes) && length(classes) == 1) {
    n <- check_number(classes, "classes", 1, 10000, whole = TRUE, call = call)
    return(if (min(x) < max(x)) seq(min(x), max(x), length.out = n + 1) else x[1] + c(-0.5, 0.5))
  }
  if (!is.numeric(classes) || anyNA(classes) || length(classes) < 2 || anyDuplicated(classes)) {
    bm_abort(c(
      "{.arg classes} must be {.val auto}, {.val log}, how many classes, or their limits.",
      i = "Limits are at least two different sizes, numbers or texts such as {.val 20 um}."
    ), "argument", call = call)
  }
  sort(classes)
}

# Widths by Freedman & Diaconis (1981), at most 200 classes; round limits where asked.
even_limits <- function(x, round = TRUE) {
  width <- 2 * stats::IQR(x) / length(x)^(1 / 3)
  n <- if (width > 0) min(200, max(1, ceiling(diff(range(x)) / width))) else 1
  limits <- if (round) pretty(range(x), n = n) else if (min(x) < max(x)) seq(min(x), max(x), length.out = n + 1) else x[1]
  if (length(limits) < 2) limits[1] + c(-0.5, 0.5) else limits
}

size_classes <- function(x, share, limits) {
  class <- findInterval(x, limits, rightmost.closed = TRUE)
  sums <- numeric(length(limits) + 1)
  found <- rowsum(share, class)
  sums[as.integer(rownames(found)) + 1] <- found
  tibble::tibble(from = limits[-length(limits)], to = limits[-1], share = sums[2:length(limits)])
}

sieve_series <- list(
  "R20/3" = c(
    20, 32, 45, 63, 90, 125, 180, 250, 355, 500, 710, 1000, 1400, 2000, 2800, 4000, 5600, 8000, 11200, 16000, 22400,
    31500, 45000, 63000, 90000, 125000
  ),
  "R20" = c(
    20, 25, 32, 36, 40, 45, 50, 56, 63, 71, 80, 90, 100, 112, 125, 140, 160, 180, 200, 224, 250, 280, 315, 355, 400,
    450, 500, 560, 630, 710, 800, 900, 1000, 1120, 1250, 1400, 1600, 1800, 2000, 2240, 2500, 2800, 3150, 3550, 4000,
    4500, 5000, 5600, 6300, 7100, 8000, 9000, 10000, 11200, 12500, 14000, 16000, 18000, 20000, 22400, 25000, 28000,
    31500, 35500, 40000, 45000, 50000, 56000, 63000, 71000, 80000, 90000, 100000, 112000, 125000
  ),
  "R40/3" = c(
    20, 25, 32, 38, 45, 53, 63, 75, 90, 106, 125, 150, 180, 212, 250, 300, 355, 425, 500, 600, 710, 850, 1000, 1180,
    1400, 1700, 2000, 2360, 2800, 3350, 4000, 4750, 5600, 6700, 8000, 9500, 11200, 13200, 16000, 19000, 22400, 26500,
    31500, 37500, 45000, 53000, 63000, 75000, 90000, 106000, 125000
  )
)

#' Openings of standard sieves
#'
#' Nominal openings of test sieves from 20 um to 125 mm.
#'
#' @param series `"R20/3"` (principal sizes of ISO 3310-1), `"R20"`, or `"R40/3"` (supplementary sizes of ISO 3310-1; those of
#'   ASTM E11).
#' @param from,to Only those between these sizes.
#' @return Texts with units, for `classes` of [size_distribution()].
#' @examples
#' sieve_openings("R40/3", "20 um", "100 um")
#' @export
sieve_openings <- function(series = "R20/3", from = "0 um", to = "1000 mm") {
  check_choice(series, "series", names(sieve_series))
  openings <- sieve_series[[series]]
  size <- function(x, name) check_number(parse_length(x, name, "um"), name, 0, call = rlang::caller_env())
  paste(openings[openings >= size(from, "from") & openings <= size(to, "to")], "um")
}
