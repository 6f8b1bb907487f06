# Edges of layers followed in the picture.

#' Trace the edges of a layer
#'
#' Follows an edge, or both edges of a layer, along a path: the line of greatest slope of the wanted
#' polarity within `reach` of it that moves at most a pixel to the side for each pixel ahead, by
#' dynamic programming (Bellman 1957; Montanari 1971), then placed to a fraction of a pixel by fits
#' of a blurred step over 15 pixels along it, every 5 pixels. Where both edges are near each other
#' they are fitted together.
#'
#' @param field A `bm_field`.
#' @param along A path ([path_line()], [path_polyline()], [path_circle()]) that the edges run along,
#'   roughly.
#' @param reach How far to both sides of it they are looked for.
#' @param polarity `"rising"` where it gets brighter from the left to the right of the path as it
#'   runs, or `"falling"`: of a path from left to right, from above to below. `trace_layer()` takes
#'   one for each edge, in order from the left to the right of the path.
#' @param contrast Least step in grey levels; stretches with less are left out.
#' @param smooth Standard deviation of the Gaussian that the traced points are smoothed by along the
#'   edge, weighted by their certainty; 0 for none. Their jitter, unsmoothed, makes shortest
#'   distances too short.
#' @return `trace_edge()` gives a `bm_layer_edge` for [layer_between()], `trace_layer()` a
#'   `bm_layer` with both. Stretches where no edge was seen are gaps: sampling lines that end there
#'   are not accepted.
#' @section Errors: Class `bemrick_error_not_found` where less than a quarter of the path has an
#'   edge; `bemrick_error_path` for a path that is repeated or an arc.
#' @examples
#' y <- row(matrix(0, 80, 200))
#' field <- as_field(60 + 100 * (y > 25) - 50 * (y > 55))
#' layer <- trace_layer(field, path_line(0, 40, 200, 40), 30, c("rising", "falling"))
#' layer_thickness(layer)
#' @export
trace_layer <- function(field, along, reach, polarity, contrast = 5, smooth = 10) {
  check_field(field)
  along <- as_path(along)
  if (!is.character(polarity) || length(polarity) != 2) {
    bm_abort("{.arg polarity} must be two of {.val rising} and {.val falling}.", "argument")
  }
  for (word in polarity) check_choice(word, "polarity", c("rising", "falling"))
  found <- traced(field, along, reach, polarity, contrast, smooth)
  # in order from left to right; of one polarity either may have been traced first
  beside <- vapply(found$points, function(p) mean(p$offset[p$fitted]), 0)
  edges <- found$edges[order(beside)]
  if (polarity[1] != polarity[2] && is.unsorted(beside)) {
    bm_abort(
      c(
        "The {polarity[2]} edge lies to the left of the {polarity[1]} one.",
        i = "Give {.arg polarity} in their order from the left of the path, as it runs, to its
             right."
      ),
      "not_found"
    )
  }
  trail <- add_step(
    field$trail, "trace_layer",
    list(along = path_words(along), reach = reach, polarity = polarity, contrast = contrast,
      smooth = smooth),
    list(seen = signif(vapply(found$points, function(p) mean(p$fitted), 0), 3)[order(beside)])
  )
  new_layer(field, edges[[1]], edges[[2]], trail)
}
register_step("trace_layer", takes = "bm_field", gives = "bm_layer", lengths = list(
  along = function(value, calibration, call) as_path(value, call),
  reach = function(value, calibration, call) {
    length_in_pixels(value, calibration, "reach", call = call)
  },
  smooth = function(value, calibration, call) {
    length_in_pixels(value, calibration, "smooth", call = call)
  }
))

#' @rdname trace_layer
#' @export
trace_edge <- function(field, along, reach, polarity, contrast = 5, smooth = 10) {
  check_field(field)
  along <- as_path(along)
  check_choice(polarity, "polarity", c("rising", "falling"))
  found <- traced(field, along, reach, polarity, contrast, smooth)
  edge <- new_edge("trace", list())
  edge$found <- found$edges[[1]]
  edge$words <- list(
    along = path_words(along), reach = reach, polarity = polarity, contrast = contrast,
    smooth = smooth
  )
  edge
}

# A trace that is done when the field is there.
trace_to_do <- function(words, call) {
  known <- setdiff(names(formals(trace_edge)), "field")
  check_known(names(words), known, "argument", " of trace", call)
  absent <- setdiff(c("along", "reach", "polarity"), names(words))
  if (length(absent)) {
    bm_abort("An edge to be traced needs {.field {absent}}.", "edge", call = call)
  }
  as_path(words$along, call)
  edge <- new_edge("trace", list())
  edge$words <- words
  edge
}

# list(points: of each edge a data frame of what the kernel finds; edges: as placed_edge() gives)
traced <- function(field, along, reach, polarity, contrast, smooth, call = rlang::caller_env()) {
  if (!is.null(along$copies) || along$kind == "arc") {
    bm_abort("An edge is traced along one line, polyline or circle.", "path", call = call)
  }
  check_number(contrast, "contrast", 0, 1e9, call = call)
  size <- field$frame$size %||% 1
  in_pixels <- function(q, name) length_as_taught(q, field, name, call)[["x"]] * size
  reach_px <- in_pixels(reach, "reach")
  if (reach_px < 5) {
    bm_abort("{.arg reach} must be at least 5 pixels, not {reach}.", "argument", call = call)
  }
  if (reach_px > sum(dim(field$pixels))) {
    bm_abort("{.arg reach} ({reach}) is more than the whole picture.", "argument", call = call)
  }
  smooth_px <- in_pixels(smooth, "smooth")
  if (smooth_px < 0) bm_abort("{.arg smooth} must not be below zero.", "argument", call = call)
  placed <- placed_path(along, field, call)
  if (along$kind == "circle" && reach_px >= placed$pieces[1, 5]) {
    bm_abort("{.arg reach} must be less than the radius of the circle.", "argument", call = call)
  }
  found <- core_trace(
    field$pixels, field$outside, pixel_ratio(field$calibration), placed$pieces, placed$closed,
    reach_px, ifelse(polarity == "rising", 1L, -1L), 3, 1.5, 5, 15, grey_rounding(field)
  )
  points <- lapply(seq_along(found), function(k) {
    p <- as.data.frame(found[[k]])
    names(p) <- c("along", "offset", "x", "y", "u", "height", "blur", "fitted")
    up <- polarity[k] == "rising"
    p$fitted <- p$fitted > 0 & abs(p$height) >= contrast & (p$height > 0) == up & p$u < 2
    p$y <- p$y / pixel_ratio(field$calibration)
    if (mean(p$fitted) < 0.25 || sum(p$fitted) < 3) not_traced(p, polarity[k], contrast, call)
    p
  })
  list(points = points, edges = lapply(points, edge_of_points, smooth_px, placed$closed))
}

not_traced <- function(points, polarity, contrast, call) {
  if (nrow(points) == 0) {
    bm_abort(
      "The path is too short to trace an edge along it, or lies beyond the picture.", "not_found",
      call = call
    )
  }
  seen <- stats::quantile(abs(points$height), 0.9, names = FALSE)
  bm_abort(
    c(
      "No {polarity} edge was found along the path: {round(100 * mean(points$fitted))} % of it has
       one, with steps of up to {signif(seen, 3)} grey levels.",
      i = if (seen < contrast) "Set a lower {.arg contrast}."
      else "Look at {.arg polarity}, {.arg reach} and the path: brighter to its right is rising."
    ),
    "not_found", call = call
  )
}

# The traced points as an edge; a segment over points without an edge is a gap.
edge_of_points <- function(points, smooth, closed) {
  kept <- which(points$fitted)
  gap <- diff(kept) > 1
  if (closed) gap <- c(gap, kept[1] + nrow(points) - kept[length(kept)] > 1)
  p <- points[kept, ]
  runs <- cumsum(c(FALSE, gap[seq_len(length(kept) - 1)]))
  at <- smoothed_points(p, smooth, runs, closed && !any(gap))
  list(x = at$x, y = at$y, closed = closed, gap = gap, u = at$u)
}

# A Gaussian along each stretch without gaps, of parabolas through the points near, so that neither
# bends nor ends are drawn inward. Fits over 15 pixels every 5 share pixels: their errors are alike.
smoothed_points <- function(points, smooth, runs, round) {
  step <- stats::median(diff(points$along))
  n <- nrow(points)
  if (smooth <= 0 || n < 4) return(list(x = points$x, y = points$y, u = points$u))
  near <- -ceiling(3 * smooth / step):ceiling(3 * smooth / step)
  certain <- 1 / pmax(points$u, 1e-3)^2
  at <- lapply(near, function(k) {
    j <- seq_len(n) + k
    if (round) j <- (j - 1) %% n + 1
    there <- j >= 1 & j <= n
    j[!there] <- 1L
    list(j = j, there = there & runs[j] == runs)
  })
  weight <- Map(function(a, k) {
    ifelse(a$there, certain[a$j] * exp(-0.5 * (k * step / smooth)^2), 0)
  }, at, near)
  moment <- lapply(0:4, function(p) Reduce(`+`, Map(function(w, k) w * k^p, weight, near)))
  share <- parabola_shares(moment)
  out <- list(x = 0, y = 0, u = 0)
  for (i in seq_along(near)) {
    k <- near[i]
    own <- weight[[i]] * (share$level + share$slope * k + share$bend * k^2)
    j <- at[[i]]$j
    out$x <- out$x + own * points$x[j]
    out$y <- out$y + own * points$y[j]
    out$u <- out$u + own^2 * points$u[j]^2
  }
  alike <- 1 + 2 * sum(pmax(0, 1 - seq_len(3) * step / 15))
  out$u <- sqrt(alike * out$u)
  out
}

# What a weighted parabola through points makes of each for its value at 0: the first row of the
# inverse of the moments; of a straight line or the mean where there are too few points.
parabola_shares <- function(m) {
  det <- m[[1]] * (m[[3]] * m[[5]] - m[[4]]^2) - m[[2]] * (m[[2]] * m[[5]] - m[[3]] * m[[4]]) +
    m[[3]] * (m[[2]] * m[[4]] - m[[3]]^2)
  flat <- m[[1]] * m[[3]] - m[[2]]^2
  bent <- det > 1e-6 * m[[1]] * m[[3]] * m[[5]]
  line <- !bent & flat > 1e-9 * m[[1]] * m[[3]]
  list(
    level = ifelse(
      bent, (m[[3]] * m[[5]] - m[[4]]^2) / det, ifelse(line, m[[3]] / flat, 1 / m[[1]])
    ),
    slope = ifelse(
      bent, (m[[3]] * m[[4]] - m[[2]] * m[[5]]) / det, ifelse(line, -m[[2]] / flat, 0)
    ),
    bend = ifelse(bent, (m[[2]] * m[[4]] - m[[3]]^2) / det, 0)
  )
}
