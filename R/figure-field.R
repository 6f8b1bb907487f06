# Fields, masks and objects over their picture.

#' A field, a mask or objects drawn
#'
#' The picture with its scale bar, and over it the pixels of a mask or the outlines of objects. The
#' excluded area is veiled. Fields show what the steps work on (the filtered picture), masks and
#' objects lie over the picture as photographed.
#'
#' @param object A `bm_field`, `bm_mask` or `bm_objects`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(field)
#' mask <- segment_auto(field)
#' plot(mask)
#' plot(find_objects(mask))
#' @name field-figures
NULL

#' @rdname field-figures
#' @exportS3Method ggplot2::autoplot bm_field
autoplot.bm_field <- function(object, title = object$source$file, ...) {
  check_dots_empty(...)
  ends <- range(object$pixels, 0, top_level(object))  # filters may leave the levels of the picture
  object$picture <- (object$pixels - ends[1]) / diff(ends) * top_level(object)
  draw_field(object, title)
}

#' @rdname field-figures
#' @exportS3Method ggplot2::autoplot bm_mask
autoplot.bm_mask <- function(object, title = object$field$source$file, ...) {
  check_dots_empty(...)
  width <- ncol(object$pixels)
  height <- nrow(object$pixels)
  colours <- c("#00000000", paste0(look$accepted, "A0"))
  tint <- structure(
    colours[t(object$pixels) + 1L], dim = dim(object$pixels), class = "raster"  # by rows
  )
  covered <- signif(100 * area_fraction(object), 3)
  draw_field(
    object$field, title,
    ggplot2::annotation_raster(tint, 0, width, -height, 0, interpolate = FALSE),
    paste0(object$phase, " phase, ", covered, " % of the sample")
  )
}

#' @rdname field-figures
#' @exportS3Method ggplot2::autoplot bm_objects
autoplot.bm_objects <- function(object, title = object$mask$field$source$file, ...) {
  check_dots_empty(...)
  outlines <- object_outlines(object)
  rings <- ggplot2::geom_polygon(
    ggplot2::aes(.data$x_px, .data$y_px, group = .data$id, subgroup = .data$ring),
    data = outlines, fill = NA, colour = look$accepted, linewidth = 0.55
  )
  draw_field(object$mask$field, title, rings, paste(object$count, "objects"))
}

draw_field <- function(field, title, layer = NULL, subtitle = NULL) {
  if (!is.null(title)) check_text(title, "title", call = rlang::caller_env())
  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    layer +
    picture_frame(field) +
    ggplot2::labs(title = title, subtitle = subtitle)
}
