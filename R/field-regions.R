# Parts of a picture that are not part of the sample. They stay in the picture, but no level is
# chosen by them, no object lies in them, and no area counts them.

#' @export
format.bm_region <- function(x, ...) {
  paste0("<region> ", x$kind, " ", paste(unlist(x$numbers), collapse = ", "))
}

# Marks pixels as excluded. What filters see there is filled from the sample round it, so that
# nothing drawn there reaches into the sample.
# `far`: the grey far from any sample.
set_outside <- function(field, outside, far = mean(field$pixels[!outside])) {
  if (!any(outside)) return(field)
  force(far)
  if (!is.null(field$outside)) outside <- outside | field$outside
  field$outside <- outside
  pixels <- field$pixels
  whole <- all(pixels == round(pixels))
  # part by part: there is nothing to do within the sample, and little far from it
  for (cols in parts_along(ncol(outside))) {
    for (rows in parts_along(nrow(outside))) {
      gone <- outside[rows, cols, drop = FALSE]
      if (!any(gone)) next
      fill <- filled_from_near(field, rows, cols, far)[gone]
      pixels[rows, cols][gone] <- if (whole) round(fill) else fill
    }
  }
  field$pixels <- pixels
  field
}

parts_along <- function(n) lapply(seq(1, n, by = 512), function(from) from:min(from + 511, n))

# The grey of the sample near by, of which the excluded area takes no part; where there is none,
# `far`.
filled_from_near <- function(field, rows, cols, far) {
  sigma <- 6
  reach <- function(along, n) {
    max(1, along[1] - 4 * sigma):min(n, along[length(along)] + 4 * sigma)
  }
  around <- list(
    rows = reach(rows, nrow(field$outside)), cols = reach(cols, ncol(field$outside))
  )
  inside <- !field$outside[around$rows, around$cols, drop = FALSE]
  fill <- matrix(far, length(rows), length(cols))
  if (!any(inside)) return(fill)
  greys <- field$pixels[around$rows, around$cols, drop = FALSE] * inside
  at <- list(match(rows, around$rows), match(cols, around$cols))
  seen <- core_gaussian(inside + 0, sigma, sigma)[at[[1]], at[[2]]]
  near <- core_gaussian(greys, sigma, sigma)[at[[1]], at[[2]]]
  known <- seen > 1e-3
  fill[known] <- near[known] / seen[known]
  fill
}

# Number of pixels that are sample.
sample_size <- function(field) {
  if (is_on_disk(field)) return(field$facts$sample)
  length(field$pixels) - if (is.null(field$outside)) 0 else sum(field$outside)
}

# A mask without the excluded area.
within_sample <- function(pixels, field) {
  if (is.null(field$outside)) return(pixels)
  pixels[field$outside] <- FALSE
  pixels
}

# Whether objects touch the excluded area: a value for every label.
touches_outside <- function(labels, count, field) {
  if (is.null(field$outside) || count == 0) return(logical(count))
  near <- core_morph(field$outside, "dilate", "disk", 1.5, 1.5)$mask
  seq_len(count) %in% labels[near & !field$outside]
}

#' Regions
#'
#' Parts of a picture to work in, for [keep_within()]. Numbers are pixels from the outer corner of
#' the first pixel, x to the right, y down; texts carry their unit.
#'
#' @param left,top,right,bottom Sides of a box.
#' @param x,y Centre of a circle or ring, or the corners of a polygon in order.
#' @param radius,inner,outer Radii.
#' @return A `bm_region`.
#' @examples
#' region_circle(100, 80, 60)
#' region_polygon(x = c(10, 190, 100), y = c(10, 20, 140))
#' @name regions
NULL

new_region <- function(kind, ..., call = rlang::caller_env()) {
  numbers <- list(...)
  for (k in seq_along(numbers)) {
    name <- names(numbers)[k]
    q <- parse_quantity(numbers[[k]], name, call)
    if (!is.finite(q$value) || (q$unit != "" && q$power != 1) || q$unit == "%") {
      bm_abort(
        "{.arg {name}} must be a length such as {.val 120 px} or {.val 12 um}.", "quantity",
        call = call
      )
    }
    if (abs(q$value) > longest_length) {
      bm_abort("{.arg {name}} is {q$value}: no picture is that large.", "quantity", call = call)
    }
  }
  structure(list(kind = kind, numbers = unname(numbers)), class = c("bm_region", "bemrick"))
}

# Refuses what is the wrong way round; sizes in different units are compared when the region meets a
# picture.
check_rising <- function(low, high, names, call = rlang::caller_env()) {
  a <- parse_quantity(low, names[1], call)
  b <- parse_quantity(high, names[2], call)
  if (a$unit == b$unit && isTRUE(a$value >= b$value)) {
    bm_abort(
      "{.arg {names[1]}} ({low}) must be less than {.arg {names[2]}} ({high}).", "argument",
      call = call
    )
  }
}

#' @rdname regions
#' @export
region_box <- function(left, top, right, bottom) {
  region <- new_region("box", left = left, top = top, right = right, bottom = bottom)
  check_rising(left, right, c("left", "right"))
  check_rising(top, bottom, c("top", "bottom"))
  region
}

#' @rdname regions
#' @export
region_circle <- function(x, y, radius) {
  region <- new_region("circle", x = x, y = y, radius = radius)
  if (parse_quantity(radius, "radius")$value <= 0) {
    bm_abort("{.arg radius} must be above zero, not {radius}.", "argument")
  }
  region
}

#' @rdname regions
#' @export
region_ring <- function(x, y, inner, outer) {
  region <- new_region("ring", x = x, y = y, inner = inner, outer = outer)
  if (parse_quantity(inner, "inner")$value < 0) {
    bm_abort("{.arg inner} must not be below zero, not {inner}.", "argument")
  }
  check_rising(inner, outer, c("inner", "outer"))
  region
}

#' @rdname regions
#' @export
region_polygon <- function(x, y) {
  corners <- is.vector(x) && is.vector(y) && length(x) == length(y) && length(x) >= 3
  if (!corners) bm_abort("A polygon needs at least three corners, as many x as y.", "argument")
  numbers <- as.list(rbind(as.list(x), as.list(y)))
  names(numbers) <- rep(c("x", "y"), length(x))
  do.call(new_region, c("polygon", numbers, call = rlang::current_env()))
}

#' Work within a region
#'
#' Marks all outside the region as excluded: no threshold is chosen by it, no object lies in it,
#' objects that touch it count as cut by the frame, and areas are those of the region.
#'
#' @param field A `bm_field`.
#' @param region A region ([region_circle()], ...); in a method `{circle: [x, y, radius]}`, `{box:
#'   [left, top, right, bottom]}`, `{ring: [x, y, inner, outer]}` or `{polygon: [x1, y1, x2, y2,
#'   ...]}`.
#' @return The field.
#' @section Errors: Class `bemrick_error_region` when the region is none, or holds no pixel of the
#'   picture.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' area_fraction(segment_auto(keep_within(field, region_circle(100, 75, 60))))
#' @export
keep_within <- function(field, region) {
  check_field(field)

  region <- as_region(region)
  inside <- inside_region(region, field)
  if (!any(inside)) {
    bm_abort(
      "The region lies outside this picture of {ncol(inside)} x {nrow(inside)} pixels.", "region"
    )
  }
  field <- set_outside(field, !inside)
  field$trail <- add_step(field$trail, "keep_within", list(region = region_words(region)),
    list(share = signif(sample_size(field) / length(inside), 4)))

  field
}
register_step("keep_within", takes = "bm_field", gives = "bm_field", part = TRUE)

region_sizes <- c(box = 4, circle = 3, ring = 4)

as_region <- function(region, call = rlang::caller_env()) {
  if (inherits(region, "bm_region")) return(region)
  kinds <- c(names(region_sizes), "polygon")
  if (is.list(region) && length(region) == 1 && rlang::is_named(region)) {
    check_known(names(region), kinds, "region", call = call)
    numbers <- as.list(region[[1]])
    is_complete <- if (names(region) == "polygon") length(numbers) >= 6 && length(numbers) %% 2 == 0
    else length(numbers) == region_sizes[[names(region)]]
    if (is_complete) return(region_of(names(region), unname(numbers)))
  }
  bm_abort(
    c(
      "This is not a region.",
      i = "Make one with {.fn region_box}, {.fn region_circle}, {.fn region_ring} or
           {.fn region_polygon}."
    ),
    "region", call = call
  )
}

region_of <- function(kind, numbers) {
  if (kind == "polygon") return(region_polygon(numbers[c(TRUE, FALSE)], numbers[c(FALSE, TRUE)]))
  do.call(switch(kind, box = region_box, circle = region_circle, ring = region_ring), numbers)
}

as_regions <- function(regions, call = rlang::caller_env()) {
  if (inherits(regions, "bm_region")) regions <- list(regions)
  if (!rlang::is_bare_list(regions) || length(regions) == 0) as_region(NULL, call)
  lapply(regions, as_region, call = call)
}

# As a method writes it.
region_words <- function(region) stats::setNames(list(unlist(region$numbers)), region$kind)

# The region's numbers in pixels of the field, or of the picture its pattern was taught on.
region_pixels <- function(region, field, call = rlang::caller_env()) {
  axis <- switch(region$kind,
    box = c("x", "y", "x", "y"),
    circle = c("x", "y", "x"),
    ring = c("x", "y", "x", "x"),
    rep(c("x", "y"), length(region$numbers) / 2)
  )
  unlist(Map(
    function(q, a) length_as_taught(q, field, "region", call)[[a]], region$numbers, axis
  ))
}

# Left, top, right and bottom of what it covers.
region_extent <- function(region, field, call = rlang::caller_env()) {
  v <- region_pixels(region, field, call)
  if (region$kind == "box") return(v)
  if (region$kind == "polygon") {
    x <- v[c(TRUE, FALSE)]
    y <- v[c(FALSE, TRUE)]
    return(c(min(x), min(y), max(x), max(y)))
  }
  reach <- v[length(v)] * c(1, 1 / taught_ratio(field))
  c(v[1:2] - reach, v[1:2] + reach)
}

# The upright box in pixels of the field that holds the region, as it lies there.
region_bounds <- function(region, field, call = rlang::caller_env()) {
  v <- region_extent(region, field, call)
  at <- points_in_field(field, v[c(1, 3, 3, 1)], v[c(2, 2, 4, 4)])
  c(range(at$x), range(at$y))[c(1, 3, 2, 4)]
}

# Pixels whose centres lie in the region.
inside_region <- function(region, field, call = rlang::caller_env()) {
  size <- dim(field$pixels)
  if (!is.null(field$frame)) {
    at <- points_as_taught(field, col(field$pixels) - 0.5, row(field$pixels) - 0.5)
    return(points_inside(region, field, at$x, at$y, call))
  }
  if (region$kind == "polygon") {
    v <- region_pixels(region, field, call)
    return(core_polygon_mask(size[1], size[2], v[c(TRUE, FALSE)], v[c(FALSE, TRUE)]))
  }
  # nothing beyond its sides is looked at
  v <- region_extent(region, field, call)
  cols <- which(seq_len(size[2]) > v[1] & seq_len(size[2]) - 1 < v[3])
  rows <- which(seq_len(size[1]) > v[2] & seq_len(size[1]) - 1 < v[4])
  inside <- matrix(FALSE, size[1], size[2])
  inside[rows, cols] <- points_inside(
    region, field, rep(cols - 0.5, each = length(rows)), rep(rows - 0.5, length(cols)), call
  )
  inside
}

# Which points lie in the region, that are given as places in it are.
points_inside <- function(region, field, x, y, call = rlang::caller_env()) {
  v <- region_pixels(region, field, call)
  if (region$kind == "box") return(x > v[1] & y > v[2] & x < v[3] & y < v[4])
  if (region$kind == "polygon") return(inside_polygon(x, y, v[c(TRUE, FALSE)], v[c(FALSE, TRUE)]))
  away <- sqrt((x - v[1])^2 + ((y - v[2]) * taught_ratio(field))^2)

  if (region$kind == "circle") away <= v[3] else away >= v[3] & away <= v[4]
}

inside_polygon <- function(x, y, px, py) {
  found <- core_in_polygon(x, y, as.numeric(px), as.numeric(py))
  dim(found) <- dim(x)
  found
}

# The outlines of a region as they lie in the field: a table of corners for each.
region_outlines <- function(region, field, call = rlang::caller_env()) {
  v <- region_pixels(region, field, call)
  a <- seq(0, 2 * pi, length.out = 73)
  circle <- function(radius) {
    cbind(v[1] + radius * cos(a), v[2] + radius * sin(a) / taught_ratio(field))
  }
  corners <- switch(region$kind,
    box = list(cbind(v[c(1, 3, 3, 1, 1)], v[c(2, 2, 4, 4, 2)])),
    circle = list(circle(v[3])),
    ring = list(circle(v[3]), circle(v[4])),
    list(matrix(v[c(seq_along(v), 1, 2)], ncol = 2, byrow = TRUE))
  )
  lapply(corners, function(p) {
    at <- points_in_field(field, p[, 1], p[, 2])
    tibble::tibble(x = at$x, y = at$y)
  })
}
