# Edges as methods write them, and as they lie in a field.

as_edge <- function(edge, call = rlang::caller_env()) {
  if (inherits(edge, "bm_layer_edge")) return(edge)
  if (is.list(edge) && length(edge) == 1 && rlang::is_named(edge)) {
    kind <- names(edge)
    check_known(kind, c("line", "polygon", "circle", "trace"), "edge", call = call)
    numbers <- unname(as.list(edge[[1]]))
    if (kind == "trace" && rlang::is_named(edge[[1]])) return(trace_to_do(edge[[1]], call))
    if (kind == "circle" && length(numbers) == 3) return(do.call(edge_circle, numbers))
    even <- length(numbers) >= 4 && length(numbers) %% 2 == 0
    if (kind %in% c("line", "polygon") && even) {
      make <- if (kind == "line") edge_line else edge_polygon
      return(make(numbers[c(TRUE, FALSE)], numbers[c(FALSE, TRUE)]))
    }
  }
  bm_abort(
    c(
      "This is not an edge.",
      i = "Make one with {.fn edge_line}, {.fn edge_circle}, {.fn edge_polygon} or
           {.fn trace_edge}."
    ),
    "edge", call = call
  )
}

# As a method writes it.
edge_words <- function(edge) {
  if (edge$kind == "trace") return(list(trace = edge$words))
  stats::setNames(list(unlist(edge$numbers)), edge$kind)
}

# An edge as it lies in the field: list(x, y in pixels, closed; gap: for every segment whether it
# leads over a stretch where no edge was seen; u: standard uncertainty of every corner, in pixels
# along x).
placed_edge <- function(edge, field, call = rlang::caller_env()) {
  if (edge$kind == "trace") {
    if (!is.null(edge$found)) return(edge$found)
    return(do.call(trace_edge, c(list(field), edge$words))$found)
  }
  numbers <- if (edge$kind == "circle") edge$numbers[1:2] else edge$numbers
  axis <- rep(c("x", "y"), length(numbers) / 2)
  v <- unlist(Map(function(q, a) length_as_taught(q, field, "edge", call)[[a]], numbers, axis))
  x <- v[c(TRUE, FALSE)]
  y <- v[c(FALSE, TRUE)]
  closed <- edge$kind != "line"
  if (edge$kind == "circle") {
    # so many corners that it is a circle to a ten thousandth of its radius
    a <- 2 * pi * (seq_len(360) - 1) / 360
    radius <- length_as_taught(edge$numbers[[3]], field, "edge", call)[["x"]]
    radius <- radius / cos(pi / 360)^(2 / 3)  # inside as much as outside
    x <- x + radius * cos(a)
    y <- y - radius * sin(a) / taught_ratio(field)
  }
  if (any(diff(x) == 0 & diff(y) == 0)) {
    bm_abort("Two corners of an edge that follow each other are the same.", "edge", call = call)
  }
  at <- points_in_field(field, x, y)
  list(
    x = at$x, y = at$y, closed = closed, gap = rep(FALSE, length(x) - !closed),
    u = rep(0, length(x))
  )
}
