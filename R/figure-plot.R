# plot() of whatever autoplot() draws; and what has no figure says so.

#' @export
plot.bemrick <- function(x, ...) print(ggplot2::autoplot(x, ...))

#' @export
plot.bm_measures <- plot.bemrick

#' @export
plot.bm_finds <- plot.bemrick

#' @export
plot.bm_widths <- plot.bemrick

#' @export
plot.bm_thickness <- plot.bemrick

#' @export
plot.bm_edges <- plot.bemrick

#' @export
plot.bm_profile <- plot.bemrick

#' @export
plot.bm_histogram <- plot.bemrick

#' @export
plot.bm_trend <- plot.bemrick

#' @exportS3Method ggplot2::autoplot bemrick
autoplot.bemrick <- function(object, ...) {
  bm_abort("There is no figure of a {.cls {class(object)[1]}} alone.", "class")
}
