# Area fraction of a phase, and its mean over fields.

#' Area fraction of a phase
#'
#' The share of the sample (the whole picture, without the excluded area) that the mask covers. It always comes from the
#' mask, never from the
#' objects that survived edge rule and limits: this is the figure that a porosity limit is about.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @return One number between 0 and 1.
#' @seealso [mean_over_fields()] for several fields.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' area_fraction(segment_auto(field, phase = "bright"))
#' @export
area_fraction <- function(x) {
  mask <- mask_of_any(x)
  core_count(mask$pixels) / sample_size(mask$field)
}

#' Mean over fields
#'
#' Mean, standard deviation, confidence interval (Student's t) and relative accuracy of a figure measured
#' field by field, such as the area fraction (ASTM E562, E1245).
#'
#' @param values One value a field.
#' @param confidence Confidence level of the interval.
#' @return A list: `n`, `mean`, `sd`, `half_width` of the interval, `low`, `high`, `relative_accuracy`
#'   (half width / mean). With fewer than two fields the last five are `NA`.
#' @examples
#' mean_over_fields(c(0.31, 0.33, 0.32))
#' @export
mean_over_fields <- function(values, confidence = 0.95) {
  if (!is.numeric(values) || is.object(values) || any(is.infinite(values) | is.nan(values))) {
    bm_abort("{.arg values} must be finite numbers (or NA for a field that has none), not {.obj_type_friendly {values}}.",
      "argument")
  }
  check_number(confidence, "confidence", 0.5, 0.9999)
  values <- values[!is.na(values)]
  n <- length(values)
  mean <- if (n > 0) mean(values) else NA_real_
  sd <- if (n > 1) stats::sd(values) else NA_real_
  half <- if (n > 1) stats::qt((1 + confidence) / 2, n - 1) * sd / sqrt(n) else NA_real_
  list(
    n = n, mean = mean, sd = sd, half_width = half, low = mean - half, high = mean + half,
    relative_accuracy = half / mean
  )
}

#' Figures of a phase
#'
#' Area fraction, mean intercept lengths of the phase and of the ground between (from lines along and across the picture;
#' Underwood
#' 1970), and when there are measures the number of accepted objects per area (weighted) and their mean spacing.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @return A tibble of one row: `area_fraction`, `mean_intercept`, `mean_free_path` and, from measures, `count_per_area` and
#'   `mean_spacing` (the side of the square that one object has to itself); columns carry their units.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' phase_figures(accept_objects(measure_objects(find_objects(segment_auto(field)))))
#' @export
phase_figures <- function(x) {
  mask <- mask_of_any(x)
  field <- mask$field
  size <- field_pixel(field)
  unit <- field_unit(field)
  inside <- if (is.null(field$outside)) matrix(TRUE, nrow(mask$pixels), ncol(mask$pixels)) else !field$outside
  cross <- function(first, second, both) sum(first != second & both)
  on <- mask$pixels
  rows <- nrow(on)
  cols <- ncol(on)
  # crossings per length of line: every pair of neighbours is one pixel of line
  pairs_x <- inside[, -1, drop = FALSE] & inside[, -cols, drop = FALSE]
  pairs_y <- inside[-1, , drop = FALSE] & inside[-rows, , drop = FALSE]
  crossings <- cross(on[, -1, drop = FALSE], on[, -cols, drop = FALSE], pairs_x) + cross(on[-1, , drop = FALSE],
    on[-rows, , drop = FALSE], pairs_y)
  per_length <- crossings / (sum(pairs_x) * size[["x"]] + sum(pairs_y) * size[["y"]])
  if (!isTRUE(per_length > 0)) per_length <- NA_real_  # the phase has no edge in the picture
  fraction <- area_fraction(mask)
  found <- list(area_fraction = fraction, mean_intercept = 2 * fraction / per_length,
    mean_free_path = 2 * (1 - fraction) / per_length)
  names(found)[2:3] <- paste0(names(found)[2:3], "_", unit)
  if (inherits(x, "bm_measures")) {
    density <- sum(x$weight) / (sample_size(field) * prod(size))
    found[[paste0("count_per_area_per_", unit, "2")]] <- density
    found[[paste0("mean_spacing_", unit)]] <- 1 / sqrt(density)
  }
  tibble::as_tibble(found)
}

mask_of_any <- function(x, call = rlang::caller_env()) {
  check_mask(if (inherits(x, "bm_measures")) attr(x, "objects")$mask else if (inherits(x, "bm_objects")) x$mask else x, call)
}

#' Is a phase spread evenly?
#'
#' Area fractions of tiles of the picture, how they scatter, and whether they change steadily across it (a plane fitted to
#' the tiles,
#' judged by its F test).
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @param tiles How many tiles along the longer side.
#' @return A `bm_evenness`: `tiles` (`left`, `top`, `right`, `bottom` in pixels, `area_fraction`, `pixels` of sample; tiles
#'   with less than half of their pixels in the sample are left out), `mean`, `sd`, `change_x` and `change_y` (of the plane,
#'   from side to side), and `p_value`: how likely so steady a change is when there is none.
#' @seealso [evenness_figure()]
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' area_fraction_map(segment_auto(field))
#' @export
area_fraction_map <- function(x, tiles = 6) {
  mask <- mask_of_any(x)
  check_number(tiles, "tiles", 2, 100, whole = TRUE)
  rows <- nrow(mask$pixels)
  cols <- ncol(mask$pixels)
  side <- max(rows, cols) / tiles
  edges <- function(n) round(seq(0, n, length.out = max(1, round(n / side)) + 1))
  part <- function(n) rep(seq_len(length(edges(n)) - 1), diff(edges(n)))
  sums <- function(m) t(rowsum(t(rowsum(m + 0, part(rows))), part(cols)))
  sample <- if (is.null(mask$field$outside)) matrix(1, rows, cols) else !mask$field$outside
  pixels <- sums(sample)
  at <- expand.grid(row = seq_len(nrow(pixels)), col = seq_len(ncol(pixels)))
  y <- edges(rows)
  z <- edges(cols)
  table <- tibble::tibble(
    left = z[at$col], top = y[at$row], right = z[at$col + 1], bottom = y[at$row + 1],
    area_fraction = as.numeric(sums(mask$pixels) / pixels),
    pixels = as.integer(pixels)
  )
  table <- table[table$pixels >= 0.5 * (table$right - table$left) * (table$bottom - table$top), ]
  structure(c(list(tiles = table, mean = mean(table$area_fraction), sd = stats::sd(table$area_fraction)),
    plane_of_tiles(table, cols, rows)),
            class = "bm_evenness")
}

plane_of_tiles <- function(table, cols, rows) {
  data <- data.frame(f = table$area_fraction, x = (table$left + table$right) / 2 / cols,
    y = (table$top + table$bottom) / 2 / rows)
  flat <- nrow(data) < 5 || stats::var(data$f) == 0
  if (flat) return(list(change_x = NA_real_, change_y = NA_real_, p_value = NA_real_))
  fit <- stats::lm(f ~ x + y, data)
  test <- stats::anova(stats::lm(f ~ 1, data), fit)
  slopes <- stats::coef(fit)
  list(change_x = slopes[["x"]], change_y = slopes[["y"]], p_value = test$`Pr(>F)`[2])
}

#' Count points
#'
#' A systematic point count (ASTM E562): a square grid of points over the picture, and which of them the mask says lie on the
#' phase.
#' Looked at one by one over the picture ([point_figure()]), it checks the mask by eye.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @param points About how many points.
#' @return A `bm_points`: `points` (`x_px`, `y_px`, `hit`), `share` of hits, its standard uncertainty `u` (as if the points
#'   were drawn at random, which is on the safe side), the mask's own `area_fraction`, and its `mask`.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' count_points(segment_auto(field))
#' @export
count_points <- function(x, points = 400) {
  mask <- mask_of_any(x)
  check_number(points, "points", 4, 1e6, whole = TRUE)
  rows <- nrow(mask$pixels)
  cols <- ncol(mask$pixels)
  step <- max(1, sqrt(rows * cols / points))
  along <- function(n) (seq_len(max(1, round(n / step))) - 0.5) * n / max(1, round(n / step))
  at <- expand.grid(y_px = along(rows), x_px = along(cols))
  place <- cbind(floor(at$y_px) + 1, floor(at$x_px) + 1)
  inside <- if (is.null(mask$field$outside)) TRUE else !mask$field$outside[place]
  at <- at[inside, ]
  hit <- mask$pixels[place][inside]
  share <- mean(hit)
  structure(
    list(points = tibble::tibble(x_px = at$x_px, y_px = at$y_px, hit = hit), share = share,
         u = sqrt(share * (1 - share) / length(hit)), area_fraction = area_fraction(mask), mask = mask),
    class = "bm_points"
  )
}
