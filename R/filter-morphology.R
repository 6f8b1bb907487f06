# Grey morphology: minima and maxima under a flat element.

#' Grey morphology
#'
#' `filter_erode()` takes the darkest, `filter_dilate()` the brightest grey level under an element;
#' `filter_open()` (erode, then dilate) removes bright structures narrower than the element,
#' `filter_close()` dark ones; `filter_tophat()` keeps just what opening (bright) or closing (dark)
#' would remove. What lies beyond the frame is unknown and counts for nothing.
#'
#' @param field A `bm_field`.
#' @param radius Half size of the element: a number is pixels (need not be whole for a disk), a text
#'   carries its unit. Of a line it is half the length.
#' @param shape `"disk"`, `"square"`, `"diamond"` or `"line"`.
#' @param angle Direction of a line, in degrees counter-clockwise from x.
#' @param phase For `filter_tophat()`: structures that are `"bright"` or `"dark"`.
#' @return The filtered field; `filter_erode()` to `filter_close()` only take levels that are there.
#' @examples
#' field <- as_field(matrix(c(rep(10, 12), 255, rep(10, 12)), 5))
#' filter_open(field, radius = 1)$pixels[3, 3]
#' filter_tophat(field, radius = 1)$pixels[3, 3]
#' @name grey-morphology
NULL

#' @rdname grey-morphology
#' @export
filter_erode <- function(field, radius, shape = "disk", angle = 0) {
  grey_step(field, "erode", radius, shape, angle)
}
register_step(
  "filter_erode", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) element_reach(args, field)
)

#' @rdname grey-morphology
#' @export
filter_dilate <- function(field, radius, shape = "disk", angle = 0) {
  grey_step(field, "dilate", radius, shape, angle)
}
register_step(
  "filter_dilate", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) element_reach(args, field)
)

#' @rdname grey-morphology
#' @export
filter_open <- function(field, radius, shape = "disk", angle = 0) {
  grey_step(field, "open", radius, shape, angle)
}
register_step(
  "filter_open", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) twice_element_reach(args, field)
)

#' @rdname grey-morphology
#' @export
filter_close <- function(field, radius, shape = "disk", angle = 0) {
  grey_step(field, "close", radius, shape, angle)
}
register_step(
  "filter_close", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) twice_element_reach(args, field)
)

#' @rdname grey-morphology
#' @export
filter_tophat <- function(field, radius, shape = "disk", angle = 0, phase = "bright") {
  check_field(field)
  check_choice(phase, "phase", c("bright", "dark"))
  r <- element_size(radius, shape, angle, field)
  ground <- grey_morph(
    field$pixels, if (phase == "bright") "open" else "close", shape, r[["x"]], r[["y"]]
  )
  pixels <- if (phase == "bright") field$pixels - ground else ground - field$pixels
  filtered(
    field, pixels, "filter_tophat", c(element_args(radius, shape, angle), list(phase = phase))
  )
}
register_step(
  "filter_tophat", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) twice_element_reach(args, field)
)

grey_step <- function(field, how, radius, shape, angle, call = rlang::caller_env()) {
  check_field(field, call)
  r <- element_size(radius, shape, angle, field, call)
  filtered(field, grey_morph(field$pixels, how, shape, r[["x"]], r[["y"]]), paste0("filter_", how),
    element_args(radius, shape, angle))
}

element_args <- function(radius, shape, angle) {
  list(radius = radius, shape = if (shape != "disk") shape, angle = if (shape == "line") angle)
}

# How far an element reaches, and two of them one after the other.
element_reach <- function(args, field) {
  abs(element_size(args$radius, args$shape, args$angle, field)) + 1
}
twice_element_reach <- function(args, field) 2 * element_reach(args, field)

# Half axes of an element in pixels, or the end of a line.
element_size <- function(radius, shape, angle, field, call = rlang::caller_env()) {
  check_choice(shape, "shape", c("disk", "square", "diamond", "line"), call)
  r <- length_in_pixels(radius, field$calibration, "radius", call = call)
  if (any(r > 2000)) {
    bm_abort(
      "{.arg radius} comes to {format(max(r))} pixels; at most 2000 are possible.", "argument",
      call = call
    )
  }
  turn <- check_number(angle, "angle", -360, 360, call = call) * pi / 180
  if (shape != "line") return(r)
  c(x = r[["x"]] * cos(turn), y = -r[["y"]] * sin(turn))
}

grey_morph <- function(pixels, how, shape, rx, ry) {
  extreme <- function(pixels, lowest) {
    core_grey_extreme(pixels, lowest, shape, rx, ry, thread_count())
  }
  switch(how,
    erode = extreme(pixels, TRUE), dilate = extreme(pixels, FALSE),
    open = extreme(extreme(pixels, TRUE), FALSE), close = extreme(extreme(pixels, FALSE), TRUE)
  )
}
