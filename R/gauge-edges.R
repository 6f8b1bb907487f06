# Edges along paths, to a fraction of a pixel.

#' Find edges along a path
#'
#' Edges are where the grey level along a path steps by more than `contrast`. They are found on the
#' smoothed profile and placed by a fit of a blurred step to the raw pixels of the path: an error
#' function averaged over the pixels, with the grey levels of both sides, place and blur free
#' (Levenberg 1944, Marquardt 1963). Edges nearer to each other than about six blurs are fitted
#' together, since each moves the other's peak. An edge is placed in the middle of the step, on the
#' axis of the path.
#'
#' @param x A `bm_field`, or the `bm_finds` of [locate_pattern()]: then paths are meant in the
#'   taught picture, and edges are taken at every accepted find.
#' @param along A path ([path_line()], [path_arc()], ...), once or repeated.
#' @param contrast Least step in grey levels; `NULL` for a third of the strongest of each path.
#' @param polarity `"both"`, `"rising"` (dark to bright along the path) or `"falling"`.
#' @param which Of each path `"all"` edges, the `"first"`, the `"last"` or the `"strongest"`.
#' @param alternate Whether of edges of one polarity in a row only the most distinct is kept.
#' @param sigma Standard deviation of the Gaussian that the profile is smoothed by before edges are
#'   looked for, in pixels, or a string with a unit. A larger one finds blurred edges in noise more
#'   surely, a smaller one distinguishes near ones. It does not move fitted edges.
#' @param tilt Whether edges that stand aslant to the path are fitted with their tilt, for paths at
#'   least 3 pixels across; then it is given, and paths that are wide may cross edges up to 30
#'   degrees aslant.
#' @return A `bm_edges`, a tibble with one row per edge: `path` (number of the copy), `find`
#'   (where given finds), `id`, `position` along the path and place `x`, `y` in the unit of the
#'   calibration (through the map of a tilted plane) and in pixels, `polarity`, `contrast` (step in
#'   grey levels), `rise` (distance from 10 % to 90 % of the step), `u` (standard uncertainty of the
#'   place along the path: of noise and of rounded grey levels), `tilt_deg` (the edge against the
#'   path's normal, counter-clockwise) and `resolved` (`FALSE` where no fit held and the edge is
#'   the peak of the slope).
#' @section Errors: Class `bemrick_error_not_found` when there is no edge: it tells the strongest
#'   step that was seen; `bemrick_error_path` when the path lies outside the picture.
#' @details The uncertainty is that of noise which differs from pixel to pixel. Filters make noise
#'   of neighbours alike: gauge unfiltered pictures, the path's width averages as well.
#'   `bench/gauge.md` has simulations: the error is within a tenth of the bound of Cramér and Rao.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' edges <- gauge_edges(field, path_line(10, 75, 190, 75, across = 3), sigma = 2)
#' edges
#' @export
gauge_edges <- function(
  x, along, contrast = NULL, polarity = "both", which = "all", alternate = FALSE, sigma = 1,
  tilt = FALSE
) {
  along <- as_path(along)
  check_choice(polarity, "polarity", c("both", "rising", "falling"))
  check_choice(which, "which", c("all", "first", "last", "strongest"))
  check_flag(alternate, "alternate")
  found <- gauged(x, along, contrast, sigma, tilt)
  edges <- found$edges
  removed <- c(weak = found$weak)
  if (alternate) {
    kept <- most_distinct(edges)
    removed <- c(removed, in_a_row = sum(!kept))
    edges <- edges[kept, ]
  }
  if (polarity != "both") edges <- edges[edges$rising == (polarity == "rising"), ]
  edges <- edges[chosen_edges(edges, which), ]
  if (nrow(edges) == 0) no_edges(found, contrast, polarity)

  table <- edge_table(edges, found)
  trail <- add_step(
    found$trail, "gauge_edges",
    list(along = path_words(along), contrast = contrast, polarity = polarity, which = which,
      alternate = if (alternate) TRUE, sigma = sigma, tilt = if (tilt) TRUE),
    c(list(edges = nrow(table)), as.list(removed))
  )
  structure(
    table, class = c("bm_edges", "tbl_df", "tbl", "data.frame"), field = found$field,
    placed = found$placed, trail = trail
  )
}

#' @exportS3Method tibble::as_tibble bm_edges
as_tibble.bm_edges <- function(x, ...) without_origin(x, c("field", "placed", "trail"))

edge_columns <- c(
  "path", "place", "height", "blur", "u", "slant", "u_slant", "x", "y", "dx", "dy", "fitted",
  "shared"
)

# list(edges: a data frame of what the kernel finds, with `rising` and `find`; field, placed, trail,
# weak, strongest): of all copies, at all finds.
gauged <- function(x, along, contrast, sigma, tilt, call = rlang::caller_env()) {
  frames <- gauge_frames(x, call)
  field <- frames$field
  if (!is.null(contrast)) check_number(contrast, "contrast", 0, 1e9, call = call)
  check_flag(tilt, "tilt", call)
  sigma <- smoothing_in_pixels(sigma, field, call)
  placed <- lapply(frames$frames, function(frame) {
    field["frame"] <- list(frame)
    placed_path(along, field, call)
  })
  copies <- length(placed[[1]]$across)
  placed <- bind_placed(placed)
  found <- core_gauge(
    field$pixels, field$outside, pixel_ratio(field$calibration), placed$pieces, placed$across,
    placed$closed, contrast %||% -1, sigma, tilt, grey_rounding(field), thread_count()
  )
  if (!any(found$seen)) path_outside(field, length(found$seen), call)
  if (!all(found$seen)) warn_of_paths(sum(!found$seen), length(found$seen))
  edges <- as.data.frame(found$edges)
  names(edges) <- edge_columns
  edges$rising <- edges$height > 0
  edges$fitted <- edges$fitted > 0
  edges$y <- edges$y / pixel_ratio(field$calibration)
  edges$find <- frames$id[(edges$path - 1) %/% copies + 1]
  edges$copy <- as.integer((edges$path - 1) %% copies + 1)

  list(
    edges = edges, field = field, placed = placed, trail = frames$trail, weak = sum(found$weak),
    strongest = max(found$strongest, 0), at_finds = inherits(x, "bm_finds"), tilt = tilt
  )
}

# Steps of the grey levels: 1 where they are whole, 0 where filters have made them real. A sample of
# the picture tells it.
grey_rounding <- function(field) {
  n <- length(field$pixels)
  some <- field$pixels[unique(round(seq(1, n, length.out = min(n, 1e4))))]
  if (all(some == round(some))) 1 else 0
}

warn_of_paths <- function(outside, paths) {
  bm_warn(
    c(
      "{outside} of {paths} paths lie outside the picture, or outside its sample.",
      i = "Nothing is gauged there: set fewer {.arg times}."
    ),
    "path"
  )
}

# Where paths are named: list(field, frames, id: of every find; trail).
gauge_frames <- function(x, call) {
  if (!inherits(x, "bm_finds")) {
    check_field(x, call)
    return(list(field = x, frames = list(x$frame), id = NA_integer_, trail = x$trail))
  }
  chosen <- which(x$accepted)
  if (length(chosen) == 0) {
    bm_abort("No find is accepted, so there is nothing to gauge at.", "not_found", call = call)
  }
  list(
    field = attr(x, "field"), frames = lapply(chosen, frame_of_find, finds = x), id = x$id[chosen],
    trail = attr(x, "trail")
  )
}

# Of edges of one polarity in a row, along one path, the one with the highest step.
most_distinct <- function(edges) {
  if (nrow(edges) == 0) return(logical())
  run <- cumsum(c(TRUE, diff(edges$path) != 0 | diff(edges$rising) != 0))
  height <- abs(edges$height)
  seq_along(run) %in% vapply(split(seq_along(run), run), function(k) k[which.max(height[k])], 0L)
}

chosen_edges <- function(edges, which) {
  rows <- seq_len(nrow(edges))
  if (which == "all" || length(rows) == 0) return(rows)
  pick <- switch(which,
    first = function(k) k[1],
    last = function(k) k[length(k)],
    strongest = function(k) k[which.max(abs(edges$height[k]))]
  )
  unname(vapply(split(rows, edges$path), pick, 0L))
}

no_edges <- function(found, contrast, polarity, call = rlang::caller_env()) {
  strongest <- signif(found$strongest, 3)
  weak <- !is.null(contrast) && found$strongest < contrast
  bm_abort(
    c(
      "No {if (polarity != 'both') paste0(polarity, ' ')}edge was found along the path: the
       strongest step seen is {strongest} grey levels.",
      i = if (weak) {
        "Set {.arg contrast} to {signif(0.6 * found$strongest, 2)} to find it, if it is one."
      } else if (polarity != "both") {
        "Set {.arg polarity} to {.val both} to see what edges there are."
      } else {
        "Lay the path across an edge, or make it wider where the picture is noisy."
      }
    ),
    "not_found", call = call
  )
}

# Lengths of the unit for a pixel along the path, at every edge.
unit_along <- function(field, edges) {
  ratio <- pixel_ratio(field$calibration)
  ahead <- points_in_unit(field, edges$x + 0.5 * edges$dx, edges$y + 0.5 * edges$dy / ratio)
  back <- points_in_unit(field, edges$x - 0.5 * edges$dx, edges$y - 0.5 * edges$dy / ratio)
  sqrt((ahead$x - back$x)^2 + (ahead$y - back$y)^2)
}

edge_table <- function(edges, found) {
  field <- found$field
  unit <- field_unit(field)
  scale <- unit_along(field, edges)
  at <- points_in_unit(field, edges$x, edges$y)
  columns <- list(
    path = edges$copy, find = if (found$at_finds) edges$find, id = seq_len(nrow(edges)),
    position = position_in_unit(edges, found), x = at$x, y = at$y, x_px = edges$x, y_px = edges$y,
    polarity = ifelse(edges$rising, "rising", "falling"), contrast = abs(edges$height),
    rise = 2 * stats::qnorm(0.9) * edges$blur * scale, u = edges$u * scale,
    tilt_deg = if (found$tilt) atan(edges$slant) * 180 / pi,
    u_tilt_deg = if (found$tilt) edges$u_slant / (1 + edges$slant^2) * 180 / pi,
    resolved = edges$fitted, dx = edges$dx, dy = edges$dy, across = found$placed$across[edges$path]
  )
  columns <- columns[!vapply(columns, is.null, NA)]
  lengths <- names(columns) %in% c("position", "x", "y", "rise", "u")
  names(columns)[lengths] <- paste0(names(columns)[lengths], "_", unit)
  columns <- columns[!duplicated(names(columns))]
  tibble::new_tibble(columns, nrow = nrow(edges))
}

# From the start of each path: along straight ones as points of the plane.
position_in_unit <- function(edges, found) {
  field <- found$field
  first <- found$placed$pieces[match(edges$path, found$placed$pieces[, 1]), , drop = FALSE]
  straight <- tabulate(found$placed$pieces[, 1], length(found$placed$across))[edges$path] == 1 &
    first[, 2] == 0
  from <- points_in_unit(field, first[, 3], first[, 4] / pixel_ratio(field$calibration))
  at <- points_in_unit(field, edges$x, edges$y)
  ifelse(
    straight, sqrt((at$x - from$x)^2 + (at$y - from$y)^2), edges$place * unit_along(field, edges)
  )
}
