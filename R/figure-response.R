#' How the results depend on the threshold
#'
#' Area fraction, number of objects and median size over the threshold, the one chosen, its likely
#' error (twice the standard uncertainty to either side, shaded) and the plateau of the count (thick
#' line under it).
#'
#' @param object A `bm_response` from [level_response()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(level_response(find_objects(segment_auto(field))))
#' @exportS3Method ggplot2::autoplot bm_response
autoplot.bm_response <- function(object, ...) {
  check_dots_empty(...)
  t <- object$table
  names <- c("area fraction (%)", "objects", paste0("median ecd (", show_units(object$unit), ")"))
  panels <- tibble::tibble(
    at = rep(t$level, 3), what = factor(rep(names, each = nrow(t)), names),
    value = c(100 * t$area_fraction, t$objects, t$median_ecd)
  )
  error <- 2 * object$error
  # a quantity that hardly changes must not fill its panel, nor objects be counted in halves
  aside <- pmax(0.01 * panels$value, ifelse(panels$what == "objects", 3, 0))
  room <- tibble::tibble(
    panels[c("at", "what")],
    value = panels$value + aside * rep(c(-1, 1), length.out = nrow(panels))
  )
  steady <- tibble::tibble(
    what = factor(names[2], names), from = object$plateau[1], to = object$plateau[2]
  )

  ggplot2::ggplot() +
    ggplot2::annotate(
      "rect", xmin = object$level - error, xmax = object$level + error, ymin = -Inf, ymax = Inf,
      fill = look$bar, alpha = 0.4
    ) +
    ggplot2::geom_vline(xintercept = object$level, colour = look$mark, linewidth = 0.6) +
    response_layers(panels[!is.na(panels$value), ], room[!is.na(room$value), ], steady) +
    ggplot2::labs(
      x = "threshold", y = NULL, title = paste("Response to the threshold", format(object$level)),
      subtitle = paste0(
        "shaded: threshold \u00b1 ", signif(error, 2), "; it changes area fraction by ",
        signif(200 * object$uncertainty$area_fraction, 2),
        " points, median size by ", signif(200 * object$uncertainty$median_ecd, 2), " %\n",
        "line below the objects: their number changes by at most 2 %"
      )
    ) +
    look_theme()
}
