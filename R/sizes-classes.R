# Classes of size distributions: equal, logarithmic, given, or the openings of sieves.

# A size given as text, in the unit of a distribution.
size_in_unit <- function(x, name, of, unit, call = rlang::caller_env()) {
  power <- measure_table[[of]]$power
  if (power == 0) {
    bm_abort(
      "{.arg {name}} must be plain numbers: {.field {of}} has no unit.", "quantity", call = call
    )
  }
  if (startsWith(unit, "px")) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, but these objects were measured in pixels.",
      i = "Give plain numbers of pixels, or use {.fn calibrate} before measuring."
    ), "no_calibration", call = call)
  }
  parse_length(x, name, sub("2$", "", unit), power, call)
}

# Limits of the classes in the unit of the values.
class_limits <- function(classes, x, of, unit, call = rlang::caller_env()) {
  if (identical(classes, "auto")) return(even_limits(x))
  if (identical(classes, "log")) {
    if (any(x <= 0)) {
      bm_abort(
        "Logarithmic classes need values above zero; {.field {of}} has others.", "argument",
        call = call
      )
    }
    return(exp(even_limits(log(x), FALSE)))
  }
  if (rlang::is_string(classes)) return(classes_of_width(classes, x, of, unit, call))
  if (is.character(classes)) {
    classes <- vapply(classes, size_in_unit, 0, name = "classes", of = of, unit = unit, call = call,
      USE.NAMES = FALSE)
  }
  if (is.numeric(classes) && length(classes) == 1) {
    n <- check_number(classes, "classes", 1, 10000, whole = TRUE, call = call)
    return(if (min(x) < max(x)) seq(min(x), max(x), length.out = n + 1) else x[1] + c(-0.5, 0.5))
  }
  if (!is.numeric(classes) || anyNA(classes) || length(classes) < 2 || anyDuplicated(classes)) {
    bm_abort(c(
      "{.arg classes} must be {.val auto}, {.val log}, how many classes, their width, or their
       limits.",
      i = "A width is one text such as {.val 5 um}; limits are at least two different sizes, numbers
           or texts."
    ), "argument", call = call)
  }
  sort(classes)
}

# From a multiple of the width below the smallest value to one above the greatest.
classes_of_width <- function(width, x, of, unit, call) {
  by <- size_in_unit(width, "classes", of, unit, call)
  if (by <= 0) {
    bm_abort(
      "{.arg classes} must be a width above zero, not {.val {width}}.", "argument", call = call
    )
  }
  ends <- c(floor(min(x) / by + 1e-9), ceiling(max(x) / by - 1e-9))
  if (diff(ends) > 10000) {
    bm_abort(
      "{.arg classes} of {.val {width}} would be {diff(ends)} classes; at most 10000 are made.",
      "argument", call = call
    )
  }
  by * seq(ends[1], max(ends[2], ends[1] + 1))
}

# Widths by Freedman & Diaconis (1981), at most 200 classes; round limits where asked.
even_limits <- function(x, round = TRUE) {
  width <- 2 * stats::IQR(x) / length(x)^(1 / 3)
  n <- if (width > 0) min(200, max(1, ceiling(diff(range(x)) / width))) else 1
  limits <- if (round) {
    pretty(range(x), n = n)
  } else if (min(x) < max(x)) {
    seq(min(x), max(x), length.out = n + 1)
  } else {
    x[1]
  }
  if (length(limits) < 2) limits[1] + c(-0.5, 0.5) else limits
}

size_classes <- function(x, share, limits) {
  class <- findInterval(x, limits, rightmost.closed = TRUE)
  sums <- numeric(length(limits) + 1)
  found <- rowsum(share, class)
  sums[as.integer(rownames(found)) + 1] <- found
  tibble::tibble(from = limits[-length(limits)], to = limits[-1], share = sums[2:length(limits)])
}
