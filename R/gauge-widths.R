# Pairs of edges along paths: widths of bright or dark things, and of the gaps between them.

#' Gauge widths and gaps along a path
#'
#' Edges along a path ([gauge_edges()]) taken in pairs: from where the path enters the bright (or
#' dark) phase to where it leaves it is a `width`, from there to the next a `gap`. Distances are
#' taken between points in real lengths, so they are right on a tilted plane as well.
#'
#' Edges that belong to nothing, such as reflections, are left out by `contrast`, by smoothing
#' (`sigma`), where several of one polarity follow each other (the most distinct stays), and by the
#' sizes that are expected: those edges are left out without which most widths and gaps lie within
#' `width` and `gap`. The trail says how many each rule left out. What lies outside these ranges
#' all the same stays in the table, not accepted.
#'
#' @inheritParams gauge_edges
#' @param phase What is a width: `"bright"` or `"dark"` things; the others are gaps.
#' @param width,gap Sizes that are expected, `c(lowest, highest)` with units (`c("20 um", NA)`; bare
#'   numbers are pixels where there is no calibration).
#' @param tilt Whether edges aslant to the path are fitted with their tilt; widths are then those
#'   square to the edges.
#' @return A `bm_widths`, a tibble with one row per width or gap: `id`, `path`, `find` (where given
#'   finds), place of its middle `x`, `y`, `width` or `gap` (the other is `NA`), `edge_contrast`
#'   (the lesser of both edges), `contrast_first`, `contrast_last`, `u` (standard uncertainty of the
#'   distance, of noise), `accepted`, `reason`, `weight`. Both stand in one table and may be limited
#'   by a specification (`of: width`, `of: gap`).
#' @section Errors: As [gauge_edges()]; `bemrick_error_not_found` also when no two edges make a
#'   pair.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' widths <- gauge_widths(field, path_line(10, 75, 190, 75, across = 3), sigma = 2)
#' widths
#' trail_of(widths)
#' @export
gauge_widths <- function(
  x, along, phase = "bright", contrast = NULL, width = NULL, gap = NULL, sigma = 1, tilt = FALSE
) {
  along <- as_path(along)
  check_choice(phase, "phase", c("bright", "dark"))
  found <- gauged(x, along, contrast, sigma, tilt)
  unit <- field_unit(found$field)
  expected <- list(
    width = if (!is.null(width)) read_limits(width, "width", unit),
    gap = if (!is.null(gap)) read_limits(gap, "gap", unit)
  )
  found$edges$at <- position_in_unit(found$edges, found)
  found$edges$number <- seq_len(nrow(found$edges))
  chain <- chained_edges(found$edges, phase == "bright", expected)
  table <- width_table(chain$edges, found, phase == "bright")
  if (nrow(table) == 0) no_pairs(found, contrast)
  table <- with_reasons(table, list(width = width, gap = gap), unit)

  trail <- add_step(
    found$trail, "gauge_widths",
    list(
      along = path_words(along), phase = phase, contrast = contrast, width = width, gap = gap,
      sigma = sigma, tilt = if (tilt) TRUE
    ),
    c(
      list(edges = nrow(chain$edges), weak = found$weak), as.list(chain$removed),
      list(accepted = sum(table$accepted))
    )
  )
  new_widths(table, found$field, found$placed, trail)
}
register_step(
  "gauge_widths", takes = c("bm_field", "bm_finds"), gives = c("bm_widths", "bm_widths"),
  lengths = list(
    along = function(value, calibration, call) as_path(value, call),
    sigma = function(value, calibration, call) {
      length_in_pixels(value, calibration, "sigma", call = call)
    }
  )
)

new_widths <- function(table, field, placed, trail) {
  structure(
    table, class = c("bm_widths", "tbl_df", "tbl", "data.frame"), field = field, placed = placed,
    trail = trail
  )
}

#' @exportS3Method tibble::as_tibble bm_widths
as_tibble.bm_widths <- function(x, ...) without_origin(x, c("field", "placed", "trail"))

# list(edges: alternating along each path; removed: how many each rule left out)
chained_edges <- function(edges, bright, expected) {
  sized <- !all(vapply(expected, is.null, NA))
  by_path <- split(seq_len(nrow(edges)), edges$path)
  if (sized) {
    fits <- lapply(by_path, function(k) best_chain(edges[k, ], bright, expected))
    fits <- as.logical(unlist(fits))
    by_size <- sum(!fits)
    edges <- edges[unlist(by_path)[fits], ]
  }
  distinct <- most_distinct(edges)
  removed <- c(in_a_row = sum(!distinct), if (sized) c(by_size = by_size))
  list(edges = edges[distinct, ], removed = removed)
}

# Which edges of one path to keep so that they alternate and most distances lie within what is
# expected: the chain of greatest contrast, where a distance outside costs a little less than the
# contrast of one edge. So a reflection, which makes three such distances, goes, and a thing of
# another size stays.
best_chain <- function(edges, bright, expected) {
  n <- nrow(edges)
  if (n < 3) return(rep(TRUE, n))
  height <- abs(edges$height)
  cost <- 0.9 * stats::median(height)
  best <- height
  before <- rep(0L, n)
  for (j in seq_len(n)[-1]) {
    from <- which(edges$rising[seq_len(j - 1)] != edges$rising[j])
    if (length(from) == 0) next
    size <- edges$at[j] - edges$at[from]
    range <- expected[[if (edges$rising[j] != bright) "width" else "gap"]]
    outside <- if (is.null(range)) FALSE else !is_within_each(size, range)
    gain <- best[from] - cost * outside
    if (max(gain) <= 0) next
    best[j] <- best[j] + max(gain)
    before[j] <- from[which.max(gain)]
  }
  kept <- rep(FALSE, n)
  k <- which.max(best)
  while (k > 0) {
    kept[k] <- TRUE
    k <- before[k]
  }
  kept
}

is_within_each <- function(values, range) {
  vapply(values, is_within, NA, range = range)
}

# Neighbours along a path, and round a closed one the last and the first.
edge_pairs <- function(edges, closed) {
  n <- nrow(edges)
  first <- seq_len(max(n - 1, 0))
  first <- first[edges$path[first] == edges$path[first + 1]]
  last <- first + 1L
  ends <- split(seq_len(n), edges$path)
  round <- vapply(ends, function(k) {
    closed[edges$path[k[1]]] && length(k) > 1 && edges$rising[k[1]] != edges$rising[k[length(k)]]
  }, NA)
  wrapped <- ends[round]
  list(
    first = c(first, vapply(wrapped, function(k) k[length(k)], 0L)),
    last = c(last, vapply(wrapped, function(k) k[1], 0L)),
    wraps = rep(c(FALSE, TRUE), c(length(first), length(wrapped)))
  )
}

width_table <- function(edges, found, bright) {
  pairs <- edge_pairs(edges, found$placed$closed)
  order <- order(edges$path[pairs$first], edges$place[pairs$first])
  pairs <- lapply(pairs, function(p) unname(p[order]))
  a <- edges[pairs$first, ]
  b <- edges[pairs$last, ]
  field <- found$field
  unit <- field_unit(field)
  scale <- (unit_along(field, a) + unit_along(field, b)) / 2
  size <- pair_distance(a, b, pairs$wraps, found, scale)
  next_one <- b$number == a$number + 1
  shared <- ifelse(next_one, a$shared, 0)
  u <- sqrt(pmax(a$u^2 + b$u^2 - 2 * shared, 0)) * scale
  middle <- pair_middle(a, b, pairs$wraps, found)
  at <- points_in_unit(field, middle$x, middle$y)
  is_width <- a$rising == bright
  columns <- list(
    id = seq_along(size), path = a$copy, find = if (found$at_finds) a$find, x = at$x, y = at$y,
    x_px = middle$x, y_px = middle$y, width = ifelse(is_width, size, NA),
    gap = ifelse(is_width, NA, size), edge_contrast = pmin(abs(a$height), abs(b$height)),
    contrast_first = abs(a$height), contrast_last = abs(b$height), u = u,
    from_x_px = a$x, from_y_px = a$y, to_x_px = b$x, to_y_px = b$y,
    resolved = a$fitted & b$fitted
  )
  columns <- columns[!vapply(columns, is.null, NA)]
  lengths <- names(columns) %in% c("x", "y", "width", "gap", "u")
  names(columns)[lengths] <- paste0(names(columns)[lengths], "_", unit)
  columns <- columns[!duplicated(names(columns))]
  tibble::new_tibble(columns, nrow = length(size))
}

# Between points of straight paths; along round ones. Of tilted edges the distance square to them.
pair_distance <- function(a, b, wraps, found, scale) {
  placed <- found$placed
  pieces <- tabulate(placed$pieces[, 1], length(placed$across))
  round <- placed$pieces[match(a$path, placed$pieces[, 1]), 2] == 1
  straight <- pieces[a$path] == 1 & !round
  from <- points_in_unit(found$field, a$x, a$y)
  to <- points_in_unit(found$field, b$x, b$y)
  along <- b$place - a$place
  along[wraps] <- along[wraps] + path_lengths(placed)[a$path[wraps]]
  size <- ifelse(straight, sqrt((to$x - from$x)^2 + (to$y - from$y)^2), along * scale)
  if (!found$tilt) return(size)
  size * cos((atan(a$slant) + atan(b$slant)) / 2)
}

# On a round path the middle lies on the arc.
pair_middle <- function(a, b, wraps, found) {
  x <- (a$x + b$x) / 2
  y <- (a$y + b$y) / 2
  piece <- found$placed$pieces[match(a$path, found$placed$pieces[, 1]), , drop = FALSE]
  round <- piece[, 2] == 1
  if (any(round)) {
    end <- b$place + ifelse(wraps, piece[, 5] * abs(piece[, 7]), 0)
    angle <- piece[, 6] + sign(piece[, 7]) * (a$place + end) / 2 / piece[, 5]
    ratio <- pixel_ratio(found$field$calibration)
    x[round] <- (piece[, 3] + piece[, 5] * cos(angle))[round]
    y[round] <- ((piece[, 4] - piece[, 5] * sin(angle)) / ratio)[round]
  }
  list(x = x, y = y)
}

with_reasons <- function(table, expected, unit) {
  reason <- ifelse(table$resolved, "", "edges not resolved")
  for (name in names(expected)) {
    if (is.null(expected[[name]])) next
    value <- table[[measure_column(name, unit)]]
    reason <- beyond_limit(reason, value, expected[[name]], name, unit, 1)
  }
  table$resolved <- NULL
  table$accepted <- reason == ""
  table$reason <- reason
  table$weight <- as.numeric(table$accepted)
  table
}

no_pairs <- function(found, contrast, call = rlang::caller_env()) {
  if (nrow(found$edges) == 0) no_edges(found, contrast, "both", call)
  bm_abort(
    c(
      "No two edges make a width or a gap: {nrow(found$edges)} edge{?s} {?was/were} found, the
       strongest step is {signif(found$strongest, 3)} grey levels.",
      i = "Lay the path across both edges, or set a lower {.arg contrast}."
    ),
    "not_found", call = call
  )
}
