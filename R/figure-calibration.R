# What a calibration was found on, drawn over its picture.

#' Where a calibration was found
#'
#' The picture with the ends of the scale bar, the marks of the ruler (those left out dashed), or
#' the lines through the dots of the grid (dashed to dots left out), drawn over it, so that the eye
#' can check what was measured.
#'
#' @param field The `bm_field` the calibration was found on.
#' @param calibration A `bm_calibration` from [calibration_from_bar()], [calibration_from_marks()]
#'   or [calibration_from_grid()]; for others the picture is shown with a scale bar only.
#' @return A ggplot.
#' @examples
#' ruler <- simulate_ruler(pitch = 30, angle = 2, seed = 1)
#' calibration_figure(ruler, calibration_from_marks(ruler, pitch = "10 um"))
#' @export
calibration_figure <- function(field, calibration) {
  check_field(field)
  check_calibration(calibration)
  lines <- evidence_lines(calibration$evidence, ncol(field$picture), nrow(field$picture))
  ggplot2::ggplot() +
    picture_layer(field$picture, top_level(field)) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end, linetype = .data$used),
      data = lines, colour = look$mark, linewidth = 0.6, show.legend = FALSE
    ) +
    ggplot2::scale_linetype_manual(values = c("TRUE" = "solid", "FALSE" = "22")) +
    picture_frame(field, calibration, 1.1) +
    ggplot2::labs(
      title = if (is.null(calibration$name)) "Calibration" else calibration$name,
      subtitle = paste0(scale_text(calibration), ", ", show_units(calibration$found))
    )
}

evidence_lines <- function(evidence, width, height) {
  segments <- function(x, y, x_end, y_end, used = TRUE) {
    tibble::tibble(x = x, y = y, x_end = x_end, y_end = y_end, used = as.character(used))
  }
  if (is.null(evidence)) return(segments(numeric(), numeric(), numeric(), numeric(), logical()))
  if (evidence$kind == "bar") {
    a <- evidence$left
    b <- evidence$right
    tick <- max(4, height * 0.02)
    return(segments(
      c(a[1], b[1], a[1]), c(a[2] - tick, b[2] - tick, a[2]), c(a[1], b[1], b[1]),
      c(a[2] + tick, b[2] + tick, b[2])
    ))
  }
  if (evidence$kind == "grid") return(grid_lines(evidence$dots, segments))
  # a mark's centre is its distance from the picture's corner along the ruler; draw it across the
  # middle of the picture
  along <- c(cos(evidence$angle), sin(evidence$angle))
  across <- c(-along[2], along[1])
  half <- 0.25 * min(width, height)
  middle <- sum(c(width, height) / 2 * across)
  x <- evidence$marks$centre_px * along[1] + middle * across[1]
  y <- evidence$marks$centre_px * along[2] + middle * across[2]

  segments(
    x - half * across[1], y - half * across[2], x + half * across[1], y + half * across[2],
    evidence$marks$used
  )
}

# Neighbours joined along both directions; dots left out dashed.
grid_lines <- function(dots, segments) {
  joined <- function(across, down) {
    to <- match(paste(dots$across + across, dots$down + down), paste(dots$across, dots$down))
    from <- which(!is.na(to))
    to <- to[from]
    segments(
      dots$x_px[from], dots$y_px[from], dots$x_px[to], dots$y_px[to],
      dots$used[from] & dots$used[to]
    )
  }
  rbind(joined(1, 0), joined(0, 1))
}
