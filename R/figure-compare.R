# Figures of filters: before and after, and kernels.

#' Before and after a filter
#'
#' Both fields and their difference, the same part of each enlarged below, in one grey scale; the difference in a scale of its own
#' about its middle grey.
#'
#' @param comparison A `bm_comparison` from [compare_fields()].
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1)
#' comparison_figure(compare_fields(field, filter_median(field, 2)))
#' @export
comparison_figure <- function(comparison) {
  check_class(comparison, "bm_comparison", "comparison", "Make one with {.fn compare_fields}.")
  before <- comparison$before$pixels
  after <- comparison$after$pixels
  ends <- range(before, after)
  reach <- max(stats::quantile(abs(after - before), 0.995, names = FALSE), 1e-9)
  shown <- list(
    (before - ends[1]) / max(diff(ends), 1e-9), (after - ends[1]) / max(diff(ends), 1e-9), 0.5 + (after - before) / reach / 2
  )
  t <- comparison$table
  said <- function(side) paste0("noise ", signif(t[[side]][1], 2), ", edges ", signif(t[[side]][3], 2), " pixels wide")
  titles <- c("before", "after", "difference")
  subtitles <- c(said("before"), said("after"), paste0("mean ", signif(comparison$difference[["mean"]], 2),
    ", grey scale \u00b1 ", signif(reach, 2)))
  part <- steepest_part(before)
  ratio <- pixel_ratio(comparison$before$calibration)
  panel <- function(grey, title, subtitle, box = NULL) {
    figure <- ggplot2::ggplot() +
      picture_layer(grey, 1) +
      ggplot2::coord_fixed(ratio = ratio, xlim = c(0, ncol(grey)), ylim = c(nrow(grey), 0), expand = FALSE) +
      ggplot2::labs(title = title, subtitle = subtitle)
    if (is.null(box)) return(figure)
    figure + ggplot2::annotate(
      "rect", xmin = min(box$cols) - 1, xmax = max(box$cols), ymin = -(min(box$rows) - 1), ymax = -max(box$rows), fill = NA,
      colour = look$rejected, linewidth = 0.6
    )
  }
  whole <- Map(function(grey, title, subtitle) panel(grey, title, subtitle, part), shown, titles, subtitles)
  enlarged <- lapply(shown, function(grey) panel(grey[part$rows, part$cols], NULL, NULL))
  patchwork::wrap_plots(c(whole, enlarged), nrow = 2)
}

# A window of a sixth of the picture, at most 120 pixels, where grey changes most.
steepest_part <- function(pixels) {
  side <- max(8, min(120, min(dim(pixels)) %/% 3))
  rows <- min(nrow(pixels), side)
  cols <- min(ncol(pixels), round(side * 4 / 3))
  slope <- core_sobel(pixels, 1, "magnitude")
  corner <- function(n, size) unique(c(seq(1, n - size + 1, by = max(1, size %/% 2)), n - size + 1))
  at <- expand.grid(row = corner(nrow(pixels), rows), col = corner(ncol(pixels), cols))
  found <- vapply(seq_len(nrow(at)), function(k) sum(slope[at$row[k] + seq_len(rows) - 1, at$col[k] + seq_len(cols) - 1]), 0)
  best <- at[which.max(found), ]
  list(rows = best$row + seq_len(rows) - 1, cols = best$col + seq_len(cols) - 1)
}

#' A kernel drawn
#'
#' The weights as tiles, and the cross-section through the middle row.
#'
#' @param kernel A `bm_kernel` ([kernel_gaussian()], ...).
#' @return A figure (patchwork of ggplots).
#' @examples
#' kernel_figure(kernel_log(2))
#' @export
kernel_figure <- function(kernel) {
  check_class(kernel, "bm_kernel", "kernel", "Make one with {.fn kernel_gaussian} or {.fn kernel_of}.")
  weights <- kernel$weights
  x <- seq_len(ncol(weights)) - (ncol(weights) + 1) / 2
  y <- seq_len(nrow(weights)) - (nrow(weights) + 1) / 2
  tiles <- tibble::tibble(expand.grid(y = y, x = x), weight = as.vector(weights))
  map <- ggplot2::ggplot(tiles) +
    ggplot2::geom_tile(ggplot2::aes(.data$x, .data$y, fill = .data$weight)) +
    ggplot2::scale_fill_gradient2(low = look$fail, mid = "#F4F2EE", high = look$ink, midpoint = 0) +
    ggplot2::scale_y_reverse() +
    ggplot2::coord_fixed(expand = FALSE) +
    ggplot2::labs(x = "x (pixels)", y = "y (pixels)", title = kernel$name,
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
