# The thickness of a layer between its edges.

#' Thickness of a layer
#'
#' Takes sampling lines from the one edge of a layer to the other, every `step` along the one: each
#' is a row. All distances are taken between points in real lengths, through the map of a tilted
#' plane where there is one. The edges themselves never are rows.
#'
#' @param layer A `bm_layer` ([trace_layer()], [layer_between()], [layer_of_mask()]).
#' @param by How a point of the one edge finds the other: `"shortest"`, the nearest point of it;
#'   `"matched"`, the point at the same share of its length; `"direction"`, along one direction.
#' @param step Distance of the sampling lines along the reference edge; `NULL` for a hundredth of
#'   its length.
#' @param reference `"first"` or `"second"` edge.
#' @param direction Direction of the sampling lines in degrees, counter-clockwise from x; `NULL` for
#'   the one square to both edges (to the straight line that fits them best).
#' @return A `bm_thickness`, a tibble with one row per sampling line: `id`, `position` along the
#'   reference edge, place of its middle `x`, `y`, `thickness`, `u` (standard uncertainty from those
#'   of traced edges), both ends in pixels, `accepted` and `reason`: lines that miss the other edge,
#'   cross it twice, end where an edge was not seen, or lie where the edges have crossed each other
#'   are kept, not accepted. `summary()` gives n,
#'   mean, sd, extremes, percentiles, evenness (the least beside the greatest thickness), the
#'   effective number of independent lines, and the roughness of both edges.
#' @section Errors: Class `bemrick_error_edge` for directions with closed edges, edges that cross
#'   each other everywhere, or a step longer than the edge.
#' @details The shortest distance is never greater than the others: jitter of a traced edge makes it
#'   too small (0.3 pixels of jitter between near points make 19.75 of 20), and the matched one too
#'   large, so edges are smoothed when they are traced. Near the ends of open edges the shortest
#'   distance is taken to the end point: such lines are not accepted.
#'
#'   Neighbouring lines are alike: the uncertainty of a mean counts as many as there are independent
#'   ones, from their autocorrelation (Geyer 1992). Coating standards (ISO 1463, ASTM B487) ask for
#'   at least five places; fewer are warned of.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' layer <- layer_between(field, edge_line(c(0, 200), c(40, 42)), edge_line(c(0, 200), c(90, 88)))
#' thickness <- layer_thickness(layer, by = "direction", step = "5 um")
#' thickness
#' summary(thickness)
#' @export
layer_thickness <- function(
  layer, by = "shortest", step = NULL, reference = "first", direction = NULL
) {
  check_layer(layer)
  check_choice(by, "by", c("shortest", "matched", "direction"))
  check_choice(reference, "reference", c("first", "second"))
  if (!is.null(direction)) check_number(direction, "direction", -360, 360)
  field <- layer$field
  from <- edge_in_unit(layer[[reference]], field)
  to <- edge_in_unit(layer[[setdiff(c("first", "second"), reference)]], field)
  if (from$closed && by == "direction") {
    bm_abort(
      c(
        "Sampling lines in one direction need open edges.",
        i = "Set {.arg by} to {.val shortest} or {.val matched}."
      ),
      "edge"
    )
  }
  spacing <- step_in_unit(step, field, from)
  start <- points_along(from, spacing)
  direction <- if (by == "direction") direction %||% square_to(from, to)
  ends <- switch(by,
    shortest = nearest_ends(start, to),
    matched = matched_ends(start, from, to),
    direction = directed_ends(start, to, direction)
  )
  table <- thickness_table(start, ends, from, to, field)
  if (sum(table$accepted) == 0) nothing_between(table)
  warn_of_few(sum(table$accepted))

  trail <- add_step(
    layer$trail, "layer_thickness",
    list(by = by, step = step, reference = reference,
      direction = if (by == "direction") signif(direction, 6)),
    list(lines = nrow(table), accepted = sum(table$accepted))
  )
  new_thickness(table, layer, trail)
}
register_step("layer_thickness", takes = "bm_layer", gives = "bm_thickness", lengths = list(
  step = function(value, calibration, call) {
    length_in_pixels(value, calibration, "step", call = call)
  }
))

new_thickness <- function(table, layer, trail) {
  structure(
    table, class = c("bm_thickness", "tbl_df", "tbl", "data.frame"), field = layer$field,
    layer = layer, trail = trail
  )
}

#' @exportS3Method tibble::as_tibble bm_thickness
as_tibble.bm_thickness <- function(x, ...) without_origin(x, c("field", "layer", "trail"))

# An edge in real lengths, its corners so near each other that straight lines between them are
# straight in the plane as well; closed ones end where they begin. Adds `at`, the length up to each
# corner, and `scale`, lengths for a pixel.
edge_in_unit <- function(edge, field) {
  x <- edge$x
  y <- edge$y
  u <- edge$u
  gap <- edge$gap
  if (edge$closed) {
    x <- c(x, x[1])
    y <- c(y, y[1])
    u <- c(u, u[1])
  }
  if (!is.null(field$calibration$plane)) {
    parts <- pmax(1, ceiling(sqrt(diff(x)^2 + diff(y)^2) / 10))
    at <- rep(seq_along(parts), parts) + (sequence(parts) - 1) / rep(parts, parts)
    at <- c(at, length(x))
    between <- function(v) stats::approx(seq_along(v), v, at)$y
    gap <- rep(gap, parts)
    x <- between(x)
    y <- between(y)
    u <- between(u)
  }
  p <- points_in_unit(field, x, y)
  scale <- sqrt(sum(diff(p$x)^2 + diff(p$y)^2) /
    sum(diff(x)^2 + (diff(y) * pixel_ratio(field$calibration))^2))
  list(
    x = p$x, y = p$y, x_px = x, y_px = y, closed = edge$closed, gap = gap, u = u * scale,
    at = c(0, cumsum(sqrt(diff(p$x)^2 + diff(p$y)^2)))
  )
}

step_in_unit <- function(step, field, edge, call = rlang::caller_env()) {
  length <- edge$at[length(edge$at)]
  if (is.null(step)) return(length / 100)
  q <- parse_quantity(step, "step", call)
  unit <- field_unit(field)
  spacing <- if (!q$unit %in% c("", "px")) {
    if (unit == "px") length_in_pixels(step, NULL, "step", call = call)
    parse_length(step, "step", unit, call = call)
  } else {
    pixels <- length_in_pixels(step, field$calibration, "step", call = call)[["x"]]
    tall <- pixel_ratio(field$calibration)
    pixels * length / sum(sqrt(diff(edge$x_px)^2 + (diff(edge$y_px) * tall)^2))
  }
  if (spacing <= 0) {
    bm_abort("{.arg step} must be above zero, not {step}.", "argument", call = call)
  }
  if (spacing > length) {
    bm_abort("{.arg step} ({step}) is longer than the edge.", "edge", call = call)
  }
  if (length / spacing > 1e7) {
    bm_abort("{.arg step} ({step}) makes more than ten million lines.", "argument", call = call)
  }
  spacing
}

# Places every `spacing` along an edge, half of it from its start: list(position, x, y, x_px, y_px,
# segment)
points_along <- function(edge, spacing) {
  length <- edge$at[length(edge$at)]
  count <- max(1, floor(length / spacing + 1e-9))
  position <- (seq_len(count) - 0.5) * length / count
  place_on(edge, position)
}

place_on <- function(edge, position) {
  k <- pmin(pmax(findInterval(position, edge$at), 1), length(edge$at) - 1)
  t <- (position - edge$at[k]) / (edge$at[k + 1] - edge$at[k])
  between <- function(v) v[k] + t * (v[k + 1] - v[k])
  list(
    position = position, x = between(edge$x), y = between(edge$y), x_px = between(edge$x_px),
    y_px = between(edge$y_px), segment = k
  )
}

# Of each line where it ends: list(x, y, segment of the other edge, reason)
nearest_ends <- function(start, to) {
  found <- core_nearest(to$x, to$y, start$x, start$y)
  last <- length(to$x) - 1
  at_end <- !to$closed & (
    (found[, 4] == 1 & found[, 2] == to$x[1] & found[, 3] == to$y[1]) |
      (found[, 4] == last & found[, 2] == to$x[last + 1] & found[, 3] == to$y[last + 1])
  )
  # a foot right below an end is one all the same
  square <- vapply(which(at_end), function(k) {
    end <- if (found[k, 4] == 1) c(1, 2) else c(last + 1, last)
    along <- c(diff(to$x[end]), diff(to$y[end]))
    off <- c(start$x[k] - to$x[end[1]], start$y[k] - to$y[end[1]])
    abs(sum(along * off)) < 1e-6 * sqrt(sum(along^2) * sum(off^2))
  }, NA)
  at_end[which(at_end)] <- !square
  list(
    x = found[, 2], y = found[, 3], segment = found[, 4],
    reason = c("", "beyond the end of the other edge")[at_end + 1]
  )
}

# At the same share of the length. Both edges are taken in the direction in which their ends lie
# nearest; closed ones begin where they then lie nearest to each other on the whole.
matched_ends <- function(start, from, to) {
  length <- to$at[length(to$at)]
  share <- start$position / from$at[length(from$at)]
  if (!to$closed) {
    ends <- function(e) cbind(e$x, e$y)[c(1, length(e$x)), ]
    ahead <- sum((ends(from) - ends(to))^2)
    back <- sum((ends(from) - ends(to)[2:1, ])^2)
    position <- length * if (back < ahead) 1 - share else share
  } else {
    position <- closed_match(start, share, from, to)
  }
  place <- place_on(to, position)
  list(x = place$x, y = place$y, segment = place$segment, reason = rep("", length(share)))
}

closed_match <- function(start, share, from, to) {
  length <- to$at[length(to$at)]
  way <- if (turning(from) == turning(to)) 1 else -1
  some <- unique(round(seq(1, length(share), length.out = min(length(share), 100))))
  position <- function(begin, share) (begin + way * share * length) %% length
  apart <- function(begin) {
    at <- place_on(to, position(begin, share[some]))
    sum((at$x - start$x[some])^2 + (at$y - start$y[some])^2)
  }
  tried <- seq(0, length, length.out = 201)[-1]
  best <- tried[which.min(vapply(tried, apart, 0))]
  begin <- stats::optimize(apart, best + c(-1, 1) * length / 200, tol = 1e-8 * length)$minimum
  position(begin, share)
}

# Sign of the area that a closed edge goes round.
turning <- function(edge) {
  n <- length(edge$x)
  sign(sum(edge$x[-n] * edge$y[-1] - edge$x[-1] * edge$y[-n]))
}

directed_ends <- function(start, to, direction) {
  a <- direction * pi / 180
  found <- core_crossings(to$x, to$y, start$x, start$y, cos(a), -sin(a))
  list(
    x = found[, 2], y = found[, 3], segment = found[, 4],
    reason = ifelse(
      found[, 5] == 0, "misses the other edge", ifelse(found[, 5] > 1, "crosses it twice", "")
    )
  )
}

# Direction square to the straight line that fits both edges best, in degrees from 0 to 180.
square_to <- function(from, to) {
  moments <- lapply(list(from, to), function(e) {
    w <- c(0, diff(e$at)) + c(diff(e$at), 0)
    dx <- e$x - sum(w * e$x) / sum(w)
    dy <- e$y - sum(w * e$y) / sum(w)
    c(sum(w * dx^2), sum(w * dx * dy), sum(w * dy^2)) / sum(w)
  })
  m <- moments[[1]] + moments[[2]]
  along <- -0.5 * atan2(2 * m[2], m[1] - m[3]) * 180 / pi  # y runs down
  (along + 90) %% 180
}

thickness_table <- function(start, ends, from, to, field) {
  unit <- field_unit(field)
  size <- sqrt((ends$x - start$x)^2 + (ends$y - start$y)^2)
  k <- ends$segment
  k[is.na(k)] <- 1
  reason <- ends$reason
  reason[reason == "" & (from$gap[start$segment] | to$gap[k])] <- "edge not seen"
  reason[reason == "" & beyond_crossing(start, ends, from)] <- "the edges cross"
  accepted <- reason == ""
  share <- sqrt((ends$x - to$x[k])^2 + (ends$y - to$y[k])^2) / diff(to$at)[k]
  end_px <- list(
    x = to$x_px[k] + share * (to$x_px[k + 1] - to$x_px[k]),
    y = to$y_px[k] + share * (to$y_px[k + 1] - to$y_px[k])
  )
  middle <- list(x = (start$x_px + end_px$x) / 2, y = (start$y_px + end_px$y) / 2)
  at <- list(x = (start$x + ends$x) / 2, y = (start$y + ends$y) / 2)
  columns <- list(
    seq_along(size), start$position, at$x, at$y, middle$x, middle$y, size,
    sqrt(from$u[start$segment]^2 + to$u[k]^2), start$x_px, start$y_px, end_px$x, end_px$y,
    accepted, reason, as.numeric(accepted)
  )
  names(columns) <- c(
    "id", paste0(c("position_", "x_", "y_"), unit), "x_px", "y_px",
    paste0(c("thickness_", "u_"), unit), "from_x_px", "from_y_px", "to_x_px", "to_y_px", "accepted",
    "reason", "weight"
  )
  columns <- columns[!duplicated(names(columns))]
  tibble::new_tibble(columns, nrow = length(size))
}

# Where edges cross each other the layer continues on the other side: lines to the side that fewer
# go to.
beyond_crossing <- function(start, ends, from) {
  k <- start$segment
  along_x <- from$x[k + 1] - from$x[k]
  along_y <- from$y[k + 1] - from$y[k]
  side <- sign(along_x * (ends$y - start$y) - along_y * (ends$x - start$x))
  side[is.na(side)] <- 0
  main <- if (sum(side) < 0) -1 else 1
  ends$reason == "" & side != main
}

nothing_between <- function(table, call = rlang::caller_env()) {
  reasons <- names(sort(table(table$reason), decreasing = TRUE))
  bm_abort(
    c(
      "No sampling line is accepted: of {nrow(table)}, most are left out because: {reasons[1]}.",
      i = "Look at both edges, and at {.arg by} and {.arg direction}."
    ),
    "edge", call = call
  )
}

warn_of_few <- function(accepted) {
  if (accepted >= 5) return(invisible())
  bm_warn(
    c(
      "Only {accepted} sampling line{?s} {?is/are} accepted; coating standards ask for at least
       five places.",
      i = "Set a smaller {.arg step}."
    ),
    "few_lines"
  )
}

#' @export
summary.bm_thickness <- function(object, ...) {
  unit <- rows_unit(object)
  x <- object[[measure_column("thickness", unit)]][object$accepted]
  layer <- attr(object, "layer")
  rough <- vapply(c("first", "second"), function(name) {
    edge_roughness(edge_in_unit(layer[[name]], layer$field))
  }, 0, USE.NAMES = FALSE)
  tibble::tibble(
    what = c(
      "lines", "accepted", "effective number", "mean", "sd", "smallest", "D10", "D50", "D90",
      "largest", "evenness", "roughness of the first edge", "roughness of the second edge"
    ),
    value = c(
      nrow(object), length(x), round(effective_number(x), 1), mean(x), stats::sd(x), min(x),
      stats::quantile(x, c(0.1, 0.5, 0.9), names = FALSE), max(x), min(x) / max(x), rough
    ),
    unit = c("", "", "", rep(unit, 7), "", unit, unit)
  )
}

# Mean distance of an edge from the straight line, or of a closed one from the circle, that fits it
# best.
edge_roughness <- function(edge) {
  n <- length(edge$x)
  middle <- function(v) (v[-1] + v[-n]) / 2
  w <- diff(edge$at)
  w <- w / sum(w)
  x <- middle(edge$x)
  y <- middle(edge$y)
  x <- x - sum(w * x)
  y <- y - sum(w * y)
  if (!edge$closed) {
    a <- 0.5 * atan2(2 * sum(w * x * y), sum(w * x^2) - sum(w * y^2))
    return(sum(w * abs(cos(a) * y - sin(a) * x)))
  }
  # the circle by linear least squares (Kasa 1976)
  fit <- qr.solve(cbind(x, y, 1) * sqrt(w), (x^2 + y^2) * sqrt(w))
  radius <- sqrt(fit[3] + sum(fit[1:2]^2) / 4)
  sum(w * abs(sqrt((x - fit[1] / 2)^2 + (y - fit[2] / 2)^2) - radius))
}
