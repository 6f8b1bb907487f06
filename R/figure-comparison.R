# Figures of filters: before and after, and kernels.

#' Before and after a filter
#'
#' Both fields and their difference, the same part of each enlarged below, in one grey scale; the
#' difference in a scale of its own about its middle grey.
#'
#' @param object A `bm_comparison` from [compare_fields()].
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1
#' )
#' plot(compare_fields(field, filter_median(field, 2)))
#' @exportS3Method ggplot2::autoplot bm_comparison
autoplot.bm_comparison <- function(object, ...) {
  check_dots_empty(...)
  before <- object$before$pixels
  after <- object$after$pixels
  ends <- range(before, after)
  reach <- max(stats::quantile(abs(after - before), 0.995, names = FALSE), 1e-9)
  shown <- list(
    (before - ends[1]) / max(diff(ends), 1e-9), (after - ends[1]) / max(diff(ends), 1e-9),
    0.5 + (after - before) / reach / 2
  )
  t <- object$table
  said <- function(side) {
    paste0("noise ", signif(t[[side]][1], 2), ", edges ", signif(t[[side]][3], 2), " pixels wide")
  }
  titles <- c("before", "after", "difference")
  subtitles <- c(
    said("before"), said("after"),
    paste0("mean ", signif(object$difference[["mean"]], 2),
      ", grey scale \u00b1 ", signif(reach, 2))
  )
  part <- steepest_part(before)
  ratio <- pixel_ratio(object$before$calibration)
  panel <- function(grey, title, subtitle, box = NULL) {
    figure <- ggplot2::ggplot() +
      picture_layer(grey, 1) +
      ggplot2::coord_fixed(
        ratio = ratio, xlim = c(0, ncol(grey)), ylim = c(nrow(grey), 0), expand = FALSE
      ) +
      ggplot2::labs(title = title, subtitle = subtitle)
    if (is.null(box)) return(figure)
    figure +
      ggplot2::annotate(
        "rect", xmin = min(box$cols) - 1, xmax = max(box$cols), ymin = -(min(box$rows) - 1),
        ymax = -max(box$rows), fill = NA, colour = look$rejected, linewidth = 0.6
      )
  }
  whole <- Map(
    function(grey, title, subtitle) panel(grey, title, subtitle, part), shown, titles, subtitles
  )
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
  found <- vapply(
    seq_len(nrow(at)),
    function(k) sum(slope[at$row[k] + seq_len(rows) - 1, at$col[k] + seq_len(cols) - 1]), 0
  )
  best <- at[which.max(found), ]

  list(rows = best$row + seq_len(rows) - 1, cols = best$col + seq_len(cols) - 1)
}
