# From circles in a flat section to the spheres that were cut.

#' @export
format.bm_sections <- function(x, ...) {
  c(
    paste0("<sections> ", x$n, " sections, ", nrow(x$classes), " classes, by ", x$how),
    paste0(
      "  spheres: mean ", show_number(x$mean), " ", show_units(x$unit), ", sd ", show_number(x$sd),
      ", ", signif(x$density, 4), " per ", show_units(x$unit), "\u00b3"
    ),
    if (any(x$classes$spheres < 0)) {
      "  some classes came out negative: fewer classes, or how = \"em\""
    }
  )
}

#' @exportS3Method tibble::as_tibble bm_sections
as_tibble.bm_sections <- function(x, ...) x$classes

#' Sphere sizes from section sizes
#'
#' A flat section through spheres shows circles smaller than the spheres, and cuts large spheres
#' more often (Wicksell 1925). Unfolding finds the spheres' number distribution: by Saltykov's
#' (1958) inverse, class by class from the largest down, or by expectation and maximisation
#' (Richardson 1972, Lucy 1974), which never gives a negative number. Chance puts too many small
#' sections into some class, which small spheres that are not there would explain; so the second way
#' leaves out the smallest classes of spheres as long as the sections are as likely without, by
#' Akaike's (1974) criterion.
#'
#' @param measures A `bm_measures` or `bm_run` with a calibration.
#' @param classes Number of classes of equal width from zero up; the largest section lies in the
#'   middle of the last.
#' @param how `"em"`, or `"saltykov"`, the exact inverse, which is as noisy as its classes are
#'   narrow: use few. From 2,000 sections the first finds mean diameters to 0 to 2 %, the second to
#'   3 to 4 % (`bench/sections.md` of the sources).
#' @return A `bm_sections`: `classes` (`from`, `to`, `sections` per area, `spheres` per volume), and
#'   of the spheres the number per volume `density`, `mean` diameter and `sd`; `unit`, `how`, `n`.
#' @details Holds for spheres only, cut by a plane of no thickness, with all sections seen. Within a
#'   class spheres are taken as evenly spread over its width.
#' @section Errors: Class `bemrick_error_empty` when no object is accepted,
#'   `bemrick_error_no_calibration` without a calibration.
#' @examples
#' field <- simulate_field(width = 500, height = 400, count = 60, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' unfold_sections(measures, classes = 8)
#' @export
unfold_sections <- function(measures, classes = 16, how = "em") {
  d <- size_distribution(measures)
  check_number(classes, "classes", 2, 100, whole = TRUE)
  check_choice(how, "how", c("em", "saltykov"))
  if (d$unit == "px") {
    bm_abort(
      c(
        "Numbers per volume need lengths, but these objects were measured in pixels.",
        i = "Use {.fn calibrate} before measuring."
      ),
      "no_calibration"
    )
  }
  weight <- d$share *
    sum(tibble::as_tibble(measures)$weight)
  found <- unfold(d$values, weight, sampled_area(measures, d$unit), classes, how)

  structure(c(found, list(unit = d$unit, how = how, n = d$n)), class = c("bm_sections", "bemrick"))
}

# Area of the sample that was looked at.
sampled_area <- function(measures, unit) {
  if (inherits(measures, "bm_run")) {
    fields <- measures$fields[measures$fields$status == "measured", ]
    return(sum(fields$area_um2) * unit_ratio("um", unit)^2)
  }
  field <- attr(measures, "objects")$mask$field
  sample_size(field) * prod(field_pixel(field))
}

unfold <- function(x, weight, area, classes, how) {
  limits <- seq(0, max(x) * classes / (classes - 0.5), length.out = classes + 1)
  seen <- numeric(classes)
  sums <- rowsum(weight, findInterval(x, limits, rightmost.closed = TRUE))
  seen[as.integer(rownames(sums))] <- sums / area
  kernel <- section_kernel(limits)
  spheres <- if (how == "em") unfold_em(kernel, seen, area) else backsolve(kernel, seen)
  middle <- (limits[-1] + limits[-length(limits)]) / 2
  density <- sum(spheres)
  mean <- sum(spheres * middle) / density

  list(
    classes = tibble::tibble(
      from = limits[-length(limits)], to = limits[-1], sections = seen, spheres = spheres
    ),
    density = density, mean = mean, sd = sqrt(max(0, sum(spheres * (middle - mean)^2) / density))
  )
}

# Sections per area in class i (row) that one sphere per volume of class j (column) gives: a sphere
# of diameter D is cut to a circle wider than d by planes within sqrt(D^2 - d^2) of length. Averaged
# over the diameters of the class.
section_kernel <- function(limits) {
  n <- length(limits) - 1
  inside <- (seq_len(21) - 0.5) / 21
  wider <- function(sphere, d) sqrt(pmax(sphere^2 - d^2, 0))
  vapply(
    seq_len(n),
    function(j) {
      spheres <- limits[j] + inside * (limits[j + 1] - limits[j])
      vapply(
        seq_len(n), function(i) mean(wider(spheres, limits[i]) - wider(spheres, limits[i + 1])), 0
      )
    },
    numeric(n)
  )
}

# Spheres from the class on from which the counts of sections are likeliest, every class less being
# worth one unit of the logarithm.
unfold_em <- function(kernel, seen, area) {
  classes <- length(seen)
  fits <- lapply(seq_len(classes), function(first) em_from(kernel, seen, first))
  score <- vapply(seq_len(classes), function(first) {
    expected <- pmax(as.numeric(kernel %*% fits[[first]]), 1e-300)
    area * sum(ifelse(seen > 0, seen * log(expected), 0) - expected) - (classes - first + 1)
  }, 0)
  fits[[which.max(score)]]
}

# No spheres below class `first`. Stopped when the numbers hardly change; started evenly.
em_from <- function(kernel, seen, first, most = 2000) {
  given <- colSums(kernel)
  spheres <- ifelse(seq_along(seen) >= first, sum(seen) / sum(given), 0)
  for (k in seq_len(most)) {
    expected <- as.numeric(kernel %*% spheres)
    ratio <- ifelse(expected > 0, seen / expected, 0)
    better <- spheres * as.numeric(crossprod(kernel, ratio)) / given
    change <- sum(abs(better - spheres))
    spheres <- better
    if (change < 1e-7 * sum(spheres)) break
  }
  spheres
}
