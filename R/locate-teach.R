# Teaching: what of a part's contour is kept, and how the part repeats itself when it is turned.

# The part is searched first where it is about this many pixels wide.
coarsest_size <- 11
most_points <- c(fine = 300, middle = 80, coarse = 40)

#' Teach a pattern
#'
#' Learns the contour of a part from a picture, so that [locate_pattern()] finds it anywhere, in any
#' turn, under other light. What is kept are points where the picture is steepest, to a fraction of
#' a pixel, with the direction in which it brightens, at several levels of coarseness. Draw the
#' pattern (`plot()`) to see what was learnt: shadows, reflections and dirt within the region are
#' learnt as well, unless several pictures of the part are given.
#'
#' A part that looks alike in other turns (a square, a hexagon, a bar, a ring) is recognised: its
#' turns are then given only up to that. Small differences do not count: a part with a nick looks
#' like a whole one. To find damage, check what must be there, not the score.
#'
#' @param field A `bm_field` that shows the part, in focus and lit well.
#' @param region The part and a little around it: a region ([region_box()], ...), in the picture.
#' @param name What the part is called.
#' @param also More fields that show the part (a field, or a list): it is located in each, and
#'   points of the contour that are not there in all of them are dropped.
#' @return A `bm_pattern`. `plot()` draws its points over the picture, `as_tibble()` gives them.
#' @section Errors: Class `bemrick_error_region` for a region that reaches beyond the picture;
#'   `bemrick_error_pattern` when there is too little contour in it, when all of it runs in one
#'   direction, so that the place along it cannot be found, or when the part is not found in one of
#'   `also`.
#' @source Contour points: Canny (1986), to fractions of a pixel by a parabola across the edge
#'   (Devernay 1995).
#' @seealso [locate_pattern()] to find it, [read_pattern()] for files.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' teach_pattern(field, region_box(10, 10, 190, 140), name = "eight beads")
#' @export
teach_pattern <- function(field, region, name = "part", also = NULL) {
  check_field(field)
  region <- as_region(region)
  check_text(name, "name")
  also <- check_fields(also)
  check_region_inside(region, field)

  taught <- contour_of(field, inside_region(region, field))
  centre <- c(mean(taught[[1]]$x), mean(taught[[1]]$y))
  aspect <- pixel_ratio(field$calibration)
  levels <- lapply(seq_along(taught), function(k) from_centre(taught[[k]], centre, k - 1, aspect))
  levels[[1]] <- settled_points(levels[[1]], field, centre)
  check_contour(levels[[1]])
  symmetry <- symmetry_of(levels[[1]])
  calibration <- field$calibration
  pattern <- new_pattern(
    name, levels, c(x = centre[1], y = centre[2]) + field$origin, attr(taught, "spacing"),
    symmetry, calibration$pixel, if (!is.null(calibration$pixel)) calibration$unit,
    if (!is.null(field$source)) field$source[c("file", "sha256")]
  )
  if (symmetry != 1) pattern <- recentred(pattern, symmetry_centre(pattern, field), aspect)
  for (k in seq_along(also)) pattern <- seen_in(pattern, also[[k]], k)
  pattern$picture <- part_picture(field, pattern)

  pattern
}

check_fields <- function(also, call = rlang::caller_env()) {
  if (inherits(also, "bm_field")) also <- list(also)
  good <- is.null(also) ||
    (rlang::is_bare_list(also) && all(vapply(also, inherits, NA, "bm_field")))
  if (!good) bm_abort("{.arg also} must be a field or a list of fields.", "class", call = call)
  also
}

check_region_inside <- function(region, field, call = rlang::caller_env()) {
  e <- region_extent(region, field, call)
  if (e[1] < 0 || e[2] < 0 || e[3] > ncol(field$pixels) || e[4] > nrow(field$pixels)) {
    bm_abort(
      c(
        "The region reaches beyond the picture of {ncol(field$pixels)} x {nrow(field$pixels)}
         pixels.",
        i = "It goes from {round(e[1])}, {round(e[2])} to {round(e[3])}, {round(e[4])}."
      ),
      "region", call = call
    )
  }
}

# Contour points of every level, thinned; in pixels of the picture.
contour_of <- function(field, inside, call = rlang::caller_env()) {
  fine <- steep_points(field$pixels, 0, inside)
  if (nrow(fine) < 20) too_little_contour(call)
  thin <- thinned(fine, 1.5, most_points[["fine"]])
  levels <- list(thin$points)
  size <- max(diff(range(fine$x)), diff(range(fine$y)))
  while (size / 2^length(levels) >= coarsest_size) {
    level <- length(levels)
    points <- steep_points(field$pixels, level, inside)
    points <- thinned(points, 2^level, most_points[["middle"]])$points
    if (nrow(points) < 12) break
    levels[[level + 1]] <- points
  }
  last <- length(levels)
  if (last > 1) {
    levels[[last]] <- thinned(levels[[last]], 2^(last - 1), most_points[["coarse"]])$points
  }

  structure(levels, spacing = round(thin$gap, 3))
}

too_little_contour <- function(call) {
  bm_abort(
    c(
      "There is too little contour in the region to find the part by.",
      i = "Take a larger region, or one with more contrast."
    ),
    "pattern", call = call
  )
}

# Where a level is steepest across itself: above the noise, and beside the strongest there.
steep_points <- function(pixels, level, inside) {
  p <- core_contour_points(pixels, level)
  size <- 2^level
  points <- tibble::tibble(
    x = p[, 1] * size, y = p[, 2] * size, nx = p[, 3], ny = p[, 4], slope = p[, 5]
  )
  points <- points[inside[pixels_of(points, dim(inside))], ]
  if (nrow(points) == 0) return(points)
  strong <- stats::quantile(points$slope, 0.98, names = FALSE)
  points <- points[points$slope > 0.3 * strong, ]

  if (level == 0) long_chains(points, dim(inside)) else points
}

# Rows and columns of the pixels that points lie in.
pixels_of <- function(points, size) {
  cbind(pmin(pmax(ceiling(points$y), 1), size[1]), pmin(pmax(ceiling(points$x), 1), size[2]))
}

# Without contours of a few points: specks and noise.
long_chains <- function(points, size, least = 8) {
  if (nrow(points) == 0) return(points)
  at <- pixels_of(points, size)
  mask <- matrix(FALSE, size[1], size[2])
  mask[at] <- TRUE
  label <- core_label(mask)$labels[at]
  points[tabulate(label)[label] >= least, ]
}

# The strongest points that keep a gap between each other; a wider gap where there are too many.
thinned <- function(points, gap, most) {
  points <- points[order(-points$slope, points$x, points$y), ]
  repeat {
    kept <- keep_apart(points$x, points$y, gap)
    if (length(kept) <= most) return(list(points = points[kept, ], gap = gap))
    gap <- gap * max(1.05, 0.95 * length(kept) / most)
  }
}

keep_apart <- function(x, y, gap) {
  kept <- integer(length(x))
  n <- 0
  for (i in seq_along(x)) {
    before <- kept[seq_len(n)]
    if (any((x[before] - x[i])^2 + (y[before] - y[i])^2 < gap^2)) next
    n <- n + 1
    kept[n] <- i
  }
  kept[seq_len(n)]
}

# From the centre, in pixels as wide as high.
from_centre <- function(points, centre, level, ratio) {
  turn <- atan2(-points$ny / ratio, points$nx) * 180 / pi
  pattern_points(
    points$x - centre[1], (points$y - centre[2]) * ratio, turn,
    points$slope / stats::median(points$slope), level
  )
}

# The finest points moved to where the search will see their edges; those whose edge it does not see
# there are left out.
settled_points <- function(points, field, centre) {
  for (turn in 1:2) {
    seen <- core_sights(
      field$pixels, list(kernel_points(points)), pixel_ratio(field$calibration), c(centre, 0, 1)
    )
    good <- which(seen[, 3] == 1 & abs(seen[, 1]) < 1)
    if (length(good) < 4) return(points[good, , drop = FALSE])
    normal <- kernel_points(points)[good, 3:4, drop = FALSE]
    points <- pattern_points(
      points[good, "x"] + seen[good, 1] * normal[, 1],
      points[good, "y"] + seen[good, 1] * normal[, 2], points[good, "direction"],
      seen[good, 2] / stats::median(seen[good, 2]), 0
    )
  }
  points
}

# Enough points, and not all of one direction.
check_contour <- function(points, call = rlang::caller_env(2)) {
  if (nrow(points) < 20) too_little_contour(call)
  turn <- points[, "direction"] * pi / 180
  # a find's place along each direction is known by how many points look that way
  spread <- eigen(crossprod(cbind(cos(turn), sin(turn))) / nrow(points), TRUE, TRUE)$values
  if (spread[2] < 0.02) {
    bm_abort(
      c(
        "All contour in the region runs in one direction: where along it the part lies could not be
         found.",
        i = "Take a region that holds an end or a corner of the part as well."
      ),
      "pattern", call = call
    )
  }
}

# In how many turns of a full circle a part looks alike: most of its points fall on points of the
# same direction. 0: in all of them.
symmetry_of <- function(points, share = 0.88) {
  alike <- function(turn) mean(falls_on_itself(points, turn)) >= share
  if (all(vapply(c(17, 41, 73, 101, 151, 197, 251, 313), alike, NA))) return(0L)
  for (order in 12:2) {
    if (all(vapply(360 * seq_len(order - 1) / order, alike, NA))) return(order)
  }
  1L
}

falls_on_itself <- function(points, turn, step = max(1.5, 0.02 * diff(range(points[, "x"])))) {
  a <- turn * pi / 180
  x <- cos(a) * points[, "x"] + sin(a) * points[, "y"]
  y <- cos(a) * points[, "y"] - sin(a) * points[, "x"]
  reach <- 1.5 * step + stats::median(gaps_to_nearest(points))  # the points lie apart
  vapply(seq_along(x), function(k) {
    near <- (points[, "x"] - x[k])^2 + (points[, "y"] - y[k])^2 < reach^2
    off <- (points[near, "direction"] - points[k, "direction"] - turn + 180) %% 360 - 180
    any(abs(off) < 20)
  }, NA)
}

gaps_to_nearest <- function(points) {
  apart <- as.matrix(stats::dist(points[, c("x", "y")]))
  diag(apart) <- Inf
  apply(apart, 1, min)
}

# The centre about which the part repeats itself, found by locating it in its own picture one turn
# on: only there do turns that look alike give one place.
symmetry_centre <- function(pattern, field) {
  turn <- 2 * pi / if (pattern$symmetry == 0) 4 else pattern$symmetry
  own <- pattern$reference - field$origin
  whole <- kernel_levels(pattern, field)
  found <- core_locate(
    field$pixels, whole$levels, whole$aspect, whole$spacing, c(turn, turn, 1, 1), 0.5, 1,
    100, FALSE, thread_count()
  )
  near <- abs(found[, 1] - own[1]) < 0.1 * pattern$size &
    abs(found[, 2] - own[2]) < 0.1 * pattern$size
  if (!any(near)) return(c(0, 0))
  best <- which(near)[1]
  moved <- (found[best, 1:2] - own) * c(1, whole$aspect)
  solve(diag(2) - rbind(c(cos(turn), sin(turn)), c(-sin(turn), cos(turn))), moved)
}

recentred <- function(pattern, by, aspect) {
  pattern$levels <- lapply(pattern$levels, function(points) {
    pattern_points(
      points[, "x"] - by[1], points[, "y"] - by[2], points[, "direction"], points[, "slope"],
      attr(points, "level")
    )
  })
  pattern$reference <- round(pattern$reference + by / c(1, aspect), 3)
  pattern
}

# Without the points that another picture of the part does not show.
seen_in <- function(pattern, field, k, call = rlang::caller_env()) {
  whole <- kernel_levels(pattern, field)
  found <- core_locate(
    field$pixels, whole$levels, whole$aspect, whole$spacing, c(turn_range(pattern), 1, 1), 0.5,
    0.5, 1, FALSE, thread_count()
  )
  if (nrow(found) == 0) {
    bm_abort(
      c(
        "The part is not found in field {k} of {.arg also}.",
        i = "Give pictures that show the whole part, or teach a smaller region."
      ),
      "pattern", call = call
    )
  }
  seen <- core_sights(field$pixels, whole$levels, whole$aspect, found[1, 1:4])
  kept <- which(seen[, 3] == 1 & abs(seen[, 1]) < 1.5)
  fine <- pattern$levels[[1]][kept, , drop = FALSE]
  check_contour(fine, call)
  pattern$levels <- lapply(pattern$levels, function(points) {
    level <- attr(points, "level")
    if (level == 0) return(with_level(fine, 0L))
    near <- vapply(seq_len(nrow(points)), function(i) {
      min((fine[, "x"] - points[i, "x"])^2 + (fine[, "y"] - points[i, "y"])^2) < (2 * 2^level)^2
    }, NA)
    with_level(points[near, , drop = FALSE], level)
  })
  pattern$levels <- Filter(function(points) nrow(points) >= 12, pattern$levels)

  pattern
}

# The part of the picture that the pattern was taught on, for its figure.
part_picture <- function(field, pattern) {
  at <- pattern$reference - field$origin
  reach <- 0.7 * pattern$size
  cols <- seq(max(1, floor(at[1] - reach)), min(ncol(field$picture), ceiling(at[1] + reach)))
  rows <- seq(max(1, floor(at[2] - reach)), min(nrow(field$picture), ceiling(at[2] + reach)))
  list(
    grey = field$picture[rows, cols, drop = FALSE], top = top_level(field),
    reference = unname(at - c(cols[1], rows[1]) + 1)
  )
}
