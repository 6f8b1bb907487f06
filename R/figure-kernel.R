#' A kernel drawn
#'
#' The weights as tiles, and the cross-section through the middle row.
#'
#' @param object A `bm_kernel` ([kernel_gaussian()], ...).
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' plot(kernel_log(2))
#' @exportS3Method ggplot2::autoplot bm_kernel
autoplot.bm_kernel <- function(object, ...) {
  check_dots_empty(...)
  weights <- object$weights
  x <- seq_len(ncol(weights)) - (ncol(weights) + 1) / 2
  y <- seq_len(nrow(weights)) - (nrow(weights) + 1) / 2
  tiles <- tibble::tibble(expand.grid(y = y, x = x), weight = as.vector(weights))
  map <- ggplot2::ggplot(tiles) +
    ggplot2::geom_tile(ggplot2::aes(.data$x, .data$y, fill = .data$weight)) +
    ggplot2::scale_fill_gradient2(low = look$fail, mid = "#F4F2EE", high = look$ink, midpoint = 0) +
    ggplot2::scale_y_reverse() +
    ggplot2::coord_fixed(expand = FALSE) +
    ggplot2::labs(x = "x (pixels)", y = "y (pixels)", title = object$name,
      subtitle = paste("sum of weights", round(sum(weights), 9))) +
    look_theme() +
    ggplot2::theme(legend.position = "right")
  middle <- tibble::tibble(x = x, weight = weights[(nrow(weights) + 1) / 2, ])
  section <- ggplot2::ggplot(middle, ggplot2::aes(.data$x, .data$weight)) +
    ggplot2::geom_hline(yintercept = 0, colour = look$faint, linewidth = 0.3) +
    ggplot2::geom_step(ggplot2::aes(x = .data$x - 0.5), colour = look$ink, linewidth = 0.7) +
    ggplot2::geom_point(colour = look$mark, size = 1.3) +
    ggplot2::labs(x = "x (pixels)", y = "weight", title = "middle row") +
    look_theme()

  patchwork::wrap_plots(map, section, widths = c(4, 3))
}
