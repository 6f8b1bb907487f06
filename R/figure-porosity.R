#' Area fractions field by field
#'
#' One point per field, and each sample's mean with its confidence interval; limits on porosity as
#' lines.
#'
#' @param object A `bm_run`.
#' @param confidence Confidence level of the interval.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "plates", samples = 1, fields = 2)
#' lab <- file.path(dir, "diffuser-plates")
#' run <- run_batch(file.path(lab, "batch.csv"), file.path(lab, "plates.method.yml"), file.path(
#'   lab, "plates.spec.yml"
#' ))
#' plot(run)
#' @exportS3Method ggplot2::autoplot bm_run
autoplot.bm_run <- function(object, confidence = 0.95, ...) {
  check_dots_empty(...)
  check_one_branch(object)
  fields <- object$fields[object$fields$status == "measured", ]
  fields$place <- place_names(fields[c("batch", "sample")])
  means <- do.call(rbind, lapply(split(fields, fields$place), function(f) {
    m <- mean_over_fields(f$area_fraction, confidence)
    data.frame(place = f$place[1], mean = m$mean, low = m$low, high = m$high)
  }))
  limits <- unlist(lapply(object$verdict$spec$limits, function(l) {
    if (l$name == "porosity") c(as_number(l$min$value), as_number(l$max$value))
  }))
  ggplot2::ggplot(means, ggplot2::aes(y = .data$place)) +
    ggplot2::geom_vline(
      xintercept = 100 * limits[!is.na(limits)], colour = look$mark, linewidth = 0.7,
      linetype = "42"
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(x = 100 * .data$low, xend = 100 * .data$high, yend = .data$place), linewidth = 3,
      colour = look$bar, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      ggplot2::aes(x = 100 * .data$mean), shape = 124, size = 7, colour = look$ink
    ) +
    ggplot2::geom_point(
      ggplot2::aes(x = 100 * .data$area_fraction), data = fields, shape = 1, size = 2.4,
      colour = look$ink
    ) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = "area fraction (%): fields (rings), mean and its interval", y = "sample") +
    look_theme()
}
