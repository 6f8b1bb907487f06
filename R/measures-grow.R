# What measures would be if every edge lay a little farther out.

# The values of a measure with every outline moved outward by `shift`, a length in the unit of the
# table: Steiner's formulas for convex bodies, which hold for small shifts of others as well. What
# an edge does not move (places, angles, grey levels) stays.
grown_values <- function(table, measure, shift, unit) {
  column <- function(name) table[[measure_column(name, unit)]]
  as_they_are <- column(measure)
  value <- measure_table[[measure]]$value
  grown <- grown_bodies(column, shift)
  moved <- if (is.function(value)) value(grown) else grown[[value]]
  if (length(moved) != length(as_they_are)) return(as_they_are)
  ifelse(is.finite(moved), moved, as_they_are)  # what nothing is left of has no shape
}

# The columns that this takes, with that of the measure.
columns_to_grow <- function(measure, unit) {
  asked <- measure_column(measure, unit)
  grown <- grown_bodies(function(name) {
    asked <<- union(asked, measure_column(name, unit))
    numeric()
  }, 0)
  value <- measure_table[[measure]]$value
  if (is.function(value)) value(grown) else if (rlang::is_string(value)) grown[[value]]
  asked
}

# What the kernels would find, as the values in `measure_table` take it.
grown_bodies <- function(column, shift) {
  wider <- function(name, sides = 2) {
    width <- column(name)
    if (!is.null(width)) pmax(width + sides * shift, 0)
  }
  ring <- function(perimeter) {
    by <- pmax(shift, -perimeter / (2 * pi))  # farther inside nothing is left to take away
    perimeter * by + pi * by^2
  }
  hull_perimeter <- pi * column("feret_mean")
  hole <- column("hole_area")
  promised(
    area = pmax(column("area") + ring(column("perimeter")), 0),
    perimeter = wider("perimeter", 2 * pi), hull_perimeter = pi * wider("feret_mean"),
    hull_area = pmax(column("area") / column("solidity") + ring(hull_perimeter), 0),
    hole_area = if (!is.null(hole)) pmax(sqrt(hole) - sqrt(pi) * shift, 0)^2 * (hole > 0),
    feret_max = wider("feret_max"), feret_min = wider("feret_min"),
    smallest_box_length = wider("smallest_box_length"),
    smallest_box_width = wider("smallest_box_width"),
    inscribed_circle = wider("inscribed_circle"), local_thickness = wider("local_thickness"),
    ellipse_major = wider("ellipse_major"), ellipse_minor = wider("ellipse_minor"),
    neighbour_gap = wider("neighbour_gap", -2),
    extent_x = wider("box_width"), extent_y = wider("box_height")
  )
}

# An environment of values that are computed when they are asked for, if ever.
promised <- function(...) {
  asked <- rlang::enquos(...)
  values <- new.env()
  lapply(names(asked), function(name) {
    delayedAssign(name, rlang::eval_tidy(asked[[name]]), environment(), values)
  })
  values
}

# Standard uncertainty of the number of accepted objects: half of how many more the limits of
# accept_objects() let pass with edges `shift` farther out than with edges as much farther in.
count_error <- function(measures, shift) {
  rules <- Filter(function(e) e$step == "accept_objects", attr(measures, "trail"))
  if (length(rules) == 0) return(0)
  args <- rules[[length(rules)]]$args
  limits <- args[intersect(names(args), names(measure_table))]
  unit <- measures_unit(measures)
  open <- measures$accepted | is_beyond_limits(measures$reason, names(limits))
  within <- function(shift) {
    inside <- open
    if (!is.null(args$resolve)) {
      width <- grown_values(measures, "feret_min", shift, unit)
      inside <- inside & width_in_pixels(measures, width) >= least_width(measures, args$resolve)
    }
    for (name in names(limits)) {
      value <- grown_values(measures, name, shift, unit)
      inside <- inside & is_within(value, read_limits(limits[[name]], name, unit))
    }
    sum(inside)
  }
  abs(within(shift) - within(-shift)) / 2
}
