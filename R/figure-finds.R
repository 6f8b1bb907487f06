# Patterns and finds drawn: the taught contour where it lies, its turn and its score.

#' A taught pattern drawn
#'
#' The points of its contour over the part of the picture they were taught on, with the pattern's
#' reference as a cross. A pattern read from a file has no picture: its points stand alone.
#'
#' @param object A `bm_pattern`.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(teach_pattern(field, region_box(10, 10, 190, 140)))
#' @exportS3Method ggplot2::autoplot bm_pattern
autoplot.bm_pattern <- function(object, ...) {
  check_dots_empty(...)
  ratio <- pattern_ratio(object)
  shown <- object$picture %||% blank_picture(object, ratio)
  pose <- list(x = shown$reference[1], y = shown$reference[2], turn = 0, scale = 1, stroke = 0.75)
  contour <- placed_contour(object$levels[[1]], object$spacing, pose, ratio)
  reach <- 0.04 * object$size
  at <- shown$reference
  width <- ncol(shown$grey)
  height <- nrow(shown$grey)

  ggplot2::ggplot() +
    picture_layer(shown$grey, shown$top) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end), data = contour,
      colour = look$accepted, linewidth = 0.7, lineend = "round"
    ) +
    ggplot2::annotate(
      "segment", x = at[1] + reach * c(-1, 0), xend = at[1] + reach * c(1, 0),
      y = at[2] + reach * c(0, -1), yend = at[2] + reach * c(0, 1), colour = look$mark,
      linewidth = 0.7
    ) +
    ggplot2::coord_fixed(
      ratio = ratio, xlim = c(0, width), ylim = c(height, 0), expand = FALSE
    ) +
    ggplot2::labs(
      title = object$name,
      subtitle = paste0(nrow(object$levels[[1]]), " points; ", symmetry_text(object$symmetry))
    )
}

blank_picture <- function(pattern, ratio) {
  reach <- ceiling(0.6 * pattern$size)
  grey <- matrix(1, ceiling(2 * reach / ratio), 2 * reach)
  list(grey = grey, top = 1, reference = c(reach, nrow(grey) / 2))
}

# Strokes along the contour, a row each, of a pattern at a pose (turn in degrees; `stroke`: half
# their length beside the spacing of the points).
placed_contour <- function(points, spacing, pose, ratio) {
  a <- pose$turn * pi / 180
  along <- (points[, "direction"] + pose$turn + 90) * pi / 180
  x <- pose$x + pose$scale * (cos(a) * points[, "x"] + sin(a) * points[, "y"])
  y <- pose$y + pose$scale * (cos(a) * points[, "y"] - sin(a) * points[, "x"]) / ratio
  half <- pose$scale * spacing * pose$stroke
  dx <- half * cos(along)
  dy <- -half * sin(along) / ratio

  tibble::tibble(x_end = x + dx, y_end = y + dy, x = x - dx, y = y - dy)
}

#' Finds over the picture
#'
#' The taught contour at every find: solid where it is accepted, dotted in a second colour where
#' not. A line from the reference towards where the taught part's x axis points shows its turn.
#' Number and score stand beside it, for up to 60 finds. Regions and rings that were measured
#' ([measure_region()], [measure_ring()]) are outlined at every find.
#'
#' @param object A `bm_finds`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' pattern <- teach_pattern(field, region_box(10, 10, 190, 140))
#' plot(locate_pattern(field, pattern))
#' @exportS3Method ggplot2::autoplot bm_finds
autoplot.bm_finds <- function(object, title = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  field <- attr(object, "field")
  pattern <- attr(object, "pattern")
  drawn <- drawn_finds(object, field, pattern)
  colours <- stats::setNames(c(look$accepted, look$rejected), find_groups)

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    region_marks(object, field) +
    find_marks(drawn, pattern$symmetry != 0) +
    ggplot2::scale_colour_manual(values = colours, limits = find_groups, drop = FALSE) +
    picture_frame(field) +
    ggplot2::labs(title = title %||% pattern$name, subtitle = finds_subtitle(object))
}

find_groups <- c("accepted", "not accepted")

# More finds are drawn without number and score.
most_labels <- 60

finds_subtitle <- function(finds) {
  n <- nrow(finds)
  if (n == 0) return("not found")
  scores <- unique(sprintf("%.2f", range(finds$score)))
  paste0(
    n, " found, ", sum(finds$accepted), " accepted; score", if (length(scores) > 1) "s", " ",
    paste(scores, collapse = " to ")
  )
}

# Contours, marks of the turn and labels, as tables for drawing.
drawn_finds <- function(finds, field, pattern) {
  ratio <- pixel_ratio(field$calibration)
  group <- ifelse(finds$accepted, find_groups[1], find_groups[2])
  turn <- ifelse(is.na(finds$turn_deg), 0, finds$turn_deg)
  size <- finds$scale * kernel_levels(pattern, field)$spacing / pattern$spacing
  contours <- lapply(seq_len(nrow(finds)), function(k) {
    pose <- list(
      x = finds$x_px[k], y = finds$y_px[k], turn = turn[k], scale = size[k],
      stroke = if (finds$accepted[k]) 0.75 else 0.25
    )
    strokes <- placed_contour(pattern$levels[[1]], pattern$spacing, pose, ratio)
    tibble::tibble(strokes, group = group[k])
  })
  reach <- pattern$size * size / 2
  a <- turn * pi / 180
  marks <- tibble::tibble(
    x = finds$x_px, y = finds$y_px, x_end = finds$x_px + 0.6 * reach * cos(a),
    y_end = finds$y_px - 0.6 * reach * sin(a) / ratio,
    label = sprintf("%d: %.2f", finds$id, finds$score), y_label = finds$y_px + 0.35 * reach / ratio
  )
  list(contour = do.call(rbind, contours), marks = marks)
}

# Outlines of the regions measured at every find, a number for each.
drawn_regions <- function(finds, field) {
  done <- Filter(function(e) e$step %in% c("measure_region", "measure_ring"), attr(finds, "trail"))
  last <- done[!duplicated(vapply(done, function(e) e$step, ""), fromLast = TRUE)]
  rings <- unlist(lapply(last, function(entry) {
    unlist(lapply(seq_len(nrow(finds)), function(k) {
      field$frame <- frame_of_find(finds, k)
      if (entry$step == "measure_region") {
        return(region_outlines(as_region(entry$args$region), field))
      }
      field$frame <- NULL
      radii <- lapply(entry$args[c("inner", "outer")], ring_radius, field, "outer")
      regions <- lapply(Filter(function(r) r > 0, radii), function(r) {
        region_circle(finds$x_px[k], finds$y_px[k], r)
      })
      unlist(lapply(regions, region_outlines, field = field), recursive = FALSE)
    }), recursive = FALSE)
  }), recursive = FALSE)
  do.call(rbind, Map(function(ring, k) {
    tibble::tibble(x = ring$x, y = ring$y, ring = k)
  }, rings, seq_along(rings)))
}

# Dark in pale, to be seen on any ground and in print without colours.
region_marks <- function(finds, field) {
  rings <- drawn_regions(finds, field)
  if (is.null(rings)) return(NULL)
  path <- function(...) {
    ggplot2::geom_path(
      ggplot2::aes(.data$x, .data$y, group = .data$ring), data = rings, inherit.aes = FALSE, ...
    )
  }
  list(
    path(colour = look$paper, linewidth = 1.1),
    path(colour = look$ink, linewidth = 0.4, linetype = "42")
  )
}

find_marks <- function(drawn, turned) {
  if (nrow(drawn$marks) == 0) return(list())
  labelled <- if (nrow(drawn$marks) <= most_labels) drawn$marks else drawn$marks[0, ]
  list(
    ggplot2::geom_segment(
      ggplot2::aes(
        .data$x, .data$y, xend = .data$x_end, yend = .data$y_end, colour = .data$group
      ),
      data = drawn$contour, linewidth = 0.6, lineend = "round"
    ),
    if (turned) ggplot2::geom_segment(
      ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end), data = drawn$marks,
      colour = look$mark, linewidth = 0.5
    ),
    ggplot2::geom_point(
      ggplot2::aes(.data$x, .data$y), data = drawn$marks, colour = look$mark, size = 1.4
    ),
    ggplot2::geom_label(
      ggplot2::aes(.data$x, .data$y_label, label = .data$label), data = labelled, size = 2.6,
      fill = look$paper, colour = look$ink, label.size = 0,
      label.padding = ggplot2::unit(1.2, "pt")
    )
  )
}
