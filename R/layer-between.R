# Layers between two edges that are drawn, traced, or those of a mask.

#' A layer between two edges
#'
#' @param field A `bm_field`.
#' @param first,second Its edges ([edge_line()], [edge_circle()], [edge_polygon()], [trace_edge()]);
#'   both open or both closed.
#' @param mask A `bm_mask` of a phase that reaches across the picture.
#' @param upright Whether the layer runs from the top to the bottom of the picture, not from its
#'   left to its right side.
#' @return A `bm_layer`: `field`, `first` and `second` as they lie in it, for [layer_thickness()].
#'   `layer_of_mask()` takes as edges, for every column of the picture (or row), the outermost
#'   pixels of the largest connected part of the phase, and of those beside it from a tenth of its
#'   size on, to a fraction of a pixel by the grey level that it was thresholded at; columns without
#'   it are gaps.
#' @section Errors: Class `bemrick_error_edge` when an edge lies outside the picture, or one is open
#'   and the other closed; `bemrick_error_empty` for an empty mask.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' layer_between(field, edge_line(c(0, 200), c(40, 42)), edge_line(c(0, 200), c(90, 88)))
#' @export
layer_between <- function(field, first, second) {
  check_field(field)
  edges <- list(first = as_edge(first), second = as_edge(second))
  placed <- lapply(edges, placed_edge, field = field)
  for (edge in placed) check_edge_inside(edge, field)
  check_both_edges(placed)

  trail <- add_step(
    field$trail, "layer_between", lapply(edges, edge_words),
    list(corners = vapply(placed, function(e) length(e$x), 0L))
  )
  new_layer(field, placed$first, placed$second, trail)
}
register_step("layer_between", takes = "bm_field", gives = "bm_layer", lengths = list(
  first = function(value, calibration, call) as_edge(value, call),
  second = function(value, calibration, call) as_edge(value, call)
))

check_edge_inside <- function(edge, field, call = rlang::caller_env()) {
  inside <- edge$x >= 0 & edge$y >= 0 & edge$x <= ncol(field$pixels) & edge$y <= nrow(field$pixels)
  if (any(inside)) return(invisible())
  bm_abort(
    c(
      "An edge lies outside this picture of {ncol(field$pixels)} x {nrow(field$pixels)} pixels.",
      i = "Coordinates are x, y from the outer corner of the first pixel."
    ),
    "edge", call = call
  )
}

check_both_edges <- function(placed, call = rlang::caller_env()) {
  if (placed$first$closed == placed$second$closed) return(invisible())
  bm_abort("One edge is closed and the other is not.", "edge", call = call)
}

#' @rdname layer_between
#' @export
layer_of_mask <- function(mask, upright = FALSE) {
  check_mask(mask)
  check_flag(upright, "upright")
  found <- find_objects(mask)
  if (found$count == 0) {
    bm_abort("The mask is empty, so there is no layer in it.", "empty")
  }
  labels <- found$labels
  grey <- mask$field$pixels
  if (upright) {
    labels <- t(labels)
    grey <- t(grey)
  }
  ends <- outermost(matrix(labels %in% parts_of_layer(labels), nrow(labels)))
  seen <- which(!is.na(ends$first))
  if (length(seen) < 2) {
    bm_abort(
      c(
        "The phase spans only {length(seen)} {if (upright) 'row' else 'column'} of the picture.",
        i = "Set {.code upright = {!upright}} for layers that run the other way."
      ),
      "edge"
    )
  }
  edges <- lapply(c(first = -1, second = 1), function(side) {
    at <- if (side < 0) ends$first - 1 else ends$last
    along <- at[seen] + level_offset(grey, seen, ends, side, mask)
    x <- seen - 0.5
    gap <- diff(seen) > 1
    edge <- list(x = x, y = along, closed = FALSE, gap = gap, u = rep(0, length(seen)))
    if (upright) edge[c("x", "y")] <- edge[c("y", "x")]
    edge
  })
  trail <- add_step(
    mask$trail, "layer_of_mask", list(upright = if (upright) TRUE), list(seen = length(seen))
  )
  new_layer(mask$field, edges$first, edges$second, trail)
}
register_step("layer_of_mask", takes = "bm_mask", gives = "bm_layer")

# The largest part, and of the others from a tenth of its size on, largest first, those that lie
# beside all before: pieces of a layer that cracks part.
parts_of_layer <- function(labels) {
  at <- which(labels > 0, arr.ind = TRUE)
  columns <- split(at[, 2], labels[at])
  columns <- columns[order(lengths(columns), decreasing = TRUE)]
  columns <- columns[lengths(columns) >= length(columns[[1]]) / 10]
  covered <- logical(ncol(labels))
  beside <- vapply(columns, function(own) {
    if (any(covered[own])) return(FALSE)
    covered[own] <<- TRUE
    TRUE
  }, NA)
  as.integer(names(columns)[beside])
}

# First and last row of every column that is inside; NA where none is.
outermost <- function(inside) {
  at <- which(inside, arr.ind = TRUE)
  first <- last <- rep(NA_integer_, ncol(inside))
  runs <- split(at[, 1], factor(at[, 2], seq_len(ncol(inside))))
  some <- lengths(runs) > 0
  first[some] <- vapply(runs[some], min, 0L)
  last[some] <- vapply(runs[some], max, 0L)
  list(first = first, last = last)
}

# How far beyond the outermost pixel (less than half of it, or into it) the grey level crosses the
# threshold, by a straight line between the centres of the pixels on both sides.
level_offset <- function(grey, columns, ends, side, mask) {
  row <- (if (side < 0) ends$first else ends$last)[columns]
  out <- row + side
  offset <- rep(0, length(columns))
  there <- out >= 1 & out <= nrow(grey)
  inner <- grey[cbind(row, columns)]
  outer <- grey[cbind(ifelse(there, out, row), columns)]
  bounds <- c(mask$low, mask$high)
  for (level in bounds[is.finite(bounds)]) {
    share <- (level - inner) / (outer - inner)
    crossed <- there & is.finite(share) & share > 0 & share <= 1
    offset[crossed] <- side * (share[crossed] - 0.5)
  }
  offset
}
