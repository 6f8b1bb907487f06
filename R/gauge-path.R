# Paths to gauge along: lines, arcs, circles and polylines with a width, once or repeated. Named in
# pixels of the picture (after follow_pattern(), of the taught picture) or in lengths.

#' Paths
#'
#' What grey profiles, edges and widths are taken along. Grey levels are averaged across the width
#' `across`, so a wide path has less noise; it should be no wider than the edges are straight.
#' `path_repeat()` lays copies of a path side by side, `path_around()` turns copies about a point.
#'
#' @param x1,y1,x2,y2 Both ends of a line. Numbers are pixels from the outer corner of the first
#'   pixel, x to the right, y down; strings carry their unit.
#' @param x,y Centre of an arc or circle, or the corners of a polyline in order.
#' @param radius Radius.
#' @param from,to Angles at which an arc begins and ends, in degrees, counter-clockwise from x; it
#'   runs clockwise when `to` is less than `from`.
#' @param across Width across the path.
#' @param path A `bm_path`.
#' @param every Distance from one copy to the next, to the right as the path runs; to the left when
#'   it is negative.
#' @param times Number of paths in all, with the first.
#' @return A `bm_path`. In a method it is written `{line: [x1, y1, x2, y2], across: 10 px}`, `{arc:
#'   [x, y, radius, from, to]}`, `{circle: [x, y, radius]}` or `{polyline: [x1, y1, x2, y2, ...]}`,
#'   with `every` and `times`, or `around: [x, y]` and `times`.
#' @section Errors: Class `bemrick_error_path` for a path without length or width;
#'   `bemrick_error_quantity` for what is not a length.
#' @examples
#' path_line(20, 50, 180, 50, across = 10)
#' path_repeat(path_line(20, 50, 180, 50, across = 10), every = 20, times = 4)
#' path_around(path_line(100, 75, 160, 75, across = 5), x = 100, y = 75, times = 36)
#' @name paths
NULL

path_sizes <- c(line = 4, arc = 5, circle = 3)

new_path <- function(kind, numbers, across, call = rlang::caller_env()) {
  path <- structure(
    list(kind = kind, numbers = unname(numbers), across = across, copies = NULL),
    class = c("bm_path", "bemrick")
  )
  for (q in c(if (kind == "arc") path$numbers[1:3] else path$numbers, list(across))) {
    check_length(q, "path", call)
  }
  if (parse_quantity(across, "across", call)$value <= 0) {
    bm_abort("{.arg across} must be above zero, not {across}.", "path", call = call)
  }
  path
}

# A length, of whatever sign.
check_length <- function(x, name, call) {
  q <- parse_quantity(x, name, call)
  if (!is.finite(q$value) || (q$unit != "" && q$power != 1) || q$unit == "%") {
    bm_abort(
      "{.arg {name}} must be of lengths such as {.val 120 px} or {.val 12 um}.", "quantity",
      call = call
    )
  }
  if (abs(q$value) > longest_length) {
    bm_abort("{.arg {name}} holds {q$value}: no picture is that large.", "quantity", call = call)
  }
}

#' @rdname paths
#' @export
path_line <- function(x1, y1, x2, y2, across = 1) {
  if (identical(x1, x2) && identical(y1, y2)) no_length()
  new_path("line", list(x1, y1, x2, y2), across)
}

#' @rdname paths
#' @export
path_polyline <- function(x, y, across = 1) {
  corners <- is.vector(x) && is.vector(y) && length(x) == length(y) && length(x) >= 2
  if (!corners) bm_abort("A polyline needs at least two corners, as many x as y.", "path")
  x <- as.list(x)
  y <- as.list(y)
  n <- length(x)
  if (any(mapply(identical, x[-1], x[-n]) & mapply(identical, y[-1], y[-n]))) {
    bm_abort("Two corners of the polyline that follow each other are the same.", "path")
  }
  new_path("polyline", unlist(Map(list, x, y), recursive = FALSE), across)
}

#' @rdname paths
#' @export
path_arc <- function(x, y, radius, from, to, across = 1) {
  check_number(from, "from", -3600, 3600)
  check_number(to, "to", -3600, 3600)
  if (from == to) no_length()
  if (abs(to - from) > 360) {
    bm_abort("An arc goes round at most once: {from} to {to} degrees do not.", "path")
  }
  check_path_radius(radius, across)
  new_path("arc", list(x, y, radius, from, to), across)
}

#' @rdname paths
#' @export
path_circle <- function(x, y, radius, across = 1) {
  check_path_radius(radius, across)
  new_path("circle", list(x, y, radius), across)
}

check_path_radius <- function(radius, across, call = rlang::caller_env()) {
  r <- parse_quantity(radius, "radius", call)
  w <- parse_quantity(across, "across", call)
  if (!isTRUE(r$value > 0)) {
    bm_abort("{.arg radius} must be above zero, not {radius}.", "path", call = call)
  }
  if (r$unit == w$unit && isTRUE(w$value / 2 >= r$value)) {
    bm_abort(
      "{.arg across} ({across}) must be less than twice the radius ({radius}).", "path", call = call
    )
  }
}

no_length <- function(call = rlang::caller_env()) {
  bm_abort(
    c("The path has no length.", i = "Its two ends must be different points."), "path", call = call
  )
}

#' @rdname paths
#' @export
path_repeat <- function(path, every, times) {
  path <- as_path(path)
  check_single(path)
  check_length(every, "every", rlang::current_env())
  if (parse_quantity(every, "every")$value == 0) {
    bm_abort("{.arg every} must not be zero.", "path")
  }
  if (path$kind == "polyline") {
    bm_abort("A polyline has no one side to repeat it to: repeat a line.", "path")
  }
  times <- check_number(times, "times", 1, 1e6, whole = TRUE)
  path$copies <- list(every = every, times = times)
  path
}

#' @rdname paths
#' @export
path_around <- function(path, x, y, times) {
  path <- as_path(path)
  check_single(path)
  for (q in list(x, y)) check_length(q, "around", rlang::current_env())
  times <- check_number(times, "times", 1, 1e6, whole = TRUE)
  path$copies <- list(around = list(x, y), times = times)
  path
}

check_single <- function(path, call = rlang::caller_env()) {
  if (is.null(path$copies)) return(invisible())
  bm_abort("This path is repeated already.", "path", call = call)
}

#' @export
format.bm_path <- function(x, ...) {
  said <- if (!is.null(x$copies)) paste0(", ", x$copies$times, " times")
  paste0("<path> ", x$kind, " ", paste(unlist(x$numbers), collapse = ", "), ", across ", x$across,
    said)
}

as_path <- function(path, call = rlang::caller_env()) {
  if (inherits(path, "bm_path")) return(path)
  kinds <- c(names(path_sizes), "polyline")
  more <- c("across", "every", "times", "around")
  if (is.list(path) && length(path) > 0 && rlang::is_named(path)) {
    check_known(names(path), c(kinds, more), "path", call = call)
    kind <- intersect(names(path), kinds)
    numbers <- if (length(kind) == 1) as.list(path[[kind]])
    fits <- length(kind) == 1 && if (kind == "polyline") {
      length(numbers) >= 4 && length(numbers) %% 2 == 0
    } else {
      length(numbers) == path_sizes[[kind]]
    }
    if (fits) return(path_of(kind, unname(numbers), path[intersect(names(path), more)], call))
  }
  bm_abort(
    c(
      "This is not a path.",
      i = "Make one with {.fn path_line}, {.fn path_arc}, {.fn path_circle} or
           {.fn path_polyline}."
    ),
    "path", call = call
  )
}

path_of <- function(kind, numbers, more, call) {
  across <- more$across %||% 1
  path <- if (kind == "polyline") {
    path_polyline(numbers[c(TRUE, FALSE)], numbers[c(FALSE, TRUE)], across)
  } else {
    make <- switch(kind, line = path_line, arc = path_arc, circle = path_circle)
    do.call(make, c(numbers, list(across = across)))
  }
  if (is.null(more$times)) {
    if (!is.null(more$every) || !is.null(more$around)) {
      bm_abort("A path that is repeated needs {.field times}.", "path", call = call)
    }
    return(path)
  }
  if (is.null(more$every) == is.null(more$around)) {
    bm_abort(
      "A path with {.field times} needs either {.field every} or {.field around}.", "path",
      call = call
    )
  }
  if (is.null(more$around)) return(path_repeat(path, more$every, more$times))
  if (length(more$around) != 2) {
    bm_abort("{.field around} must be the two coordinates of a point.", "path", call = call)
  }
  path_around(path, more$around[[1]], more$around[[2]], more$times)
}

# As a method writes it.
path_words <- function(path) {
  across <- if (!identical(path$across, 1)) path$across
  copies <- path$copies
  if (!is.null(copies$around)) copies$around <- unlist(copies$around)
  words <- c(
    stats::setNames(list(unlist(path$numbers)), path$kind), list(across = across), copies
  )
  words[!vapply(words, is.null, NA)]
}

# The pieces of a path, and of its copies, as they lie in a field: list(pieces: a matrix as kernels
# take it (gauge.cpp), across, closed: of every copy). Those along y are times the height of a pixel
# over its width.
placed_path <- function(path, field, call = rlang::caller_env()) {
  length_of <- function(q, axis = "x") length_as_taught(q, field, "path", call)[[axis]]
  ratio <- taught_ratio(field)
  points <- path_points(path, field, call)
  points[, 2] <- points[, 2] * ratio
  if (path$kind %in% c("line", "polyline") && any(rowSums(diff(points)^2) == 0)) no_length(call)
  size <- (field$frame$size %||% 1)
  turn <- field$frame$turn %||% 0
  radius <- if (path$kind %in% c("arc", "circle")) length_of(path$numbers[[3]])
  across <- length_of(path$across)
  if (!is.null(radius) && across >= 2 * radius) {
    bm_abort("{.arg across} must be less than twice the radius of the path.", "path", call = call)
  }
  copies <- path_copies(path, points, radius, length_of, ratio)
  in_field <- function(x, y) {
    at <- points_in_field(field, x, y / ratio)
    list(x = at$x, y = at$y * pixel_ratio(field$calibration))
  }
  pieces <- if (is.null(radius)) line_pieces(copies, in_field)
  else arc_pieces(path, copies, in_field, turn, size)
  times <- nrow(copies$shift)

  list(
    pieces = unname(pieces), across = rep(across * size, times),
    closed = rep(path$kind == "circle", times)
  )
}

# Corners, or the centre, in pixels of the taught picture.
path_points <- function(path, field, call) {
  numbers <- if (path$kind %in% c("arc", "circle")) path$numbers[1:2] else path$numbers
  axis <- rep(c("x", "y"), length(numbers) / 2)
  v <- unlist(Map(function(q, a) length_as_taught(q, field, "path", call)[[a]], numbers, axis))
  matrix(v, ncol = 2, byrow = TRUE)
}

# Each copy: how far it is moved (`shift`) and turned (`turn`, radians, about `centre`), and by how
# much its radius grows.
path_copies <- function(path, points, radius, length_of, ratio) {
  copies <- path$copies
  times <- copies$times %||% 1
  none <- rep(0, times)
  k <- seq_len(times) - 1
  out <- list(
    points = points, shift = cbind(none, none), turn = none, centre = c(0, 0), radius = radius,
    grown = none
  )
  if (!is.null(copies$around)) {
    out$centre <- c(length_of(copies$around[[1]]), length_of(copies$around[[2]], "y") * ratio)
    out$turn <- 2 * pi * k / times
  } else if (!is.null(copies$every)) {
    every <- length_of(copies$every)
    if (is.null(radius)) {
      along <- points[2, ] - points[1, ]
      along <- along / sqrt(sum(along^2))
      out$shift <- cbind(-along[2], along[1])[rep(1, times), , drop = FALSE] * every * k
    } else {  # to the right of a path that runs counter-clockwise is outside
      clockwise <- path$kind == "arc" && path$numbers[[5]] < path$numbers[[4]]
      out$grown <- every * k * if (clockwise) -1 else 1
      if (any(radius + out$grown <= 0)) {
        bm_abort("The copies of the path come to have no radius.", "path")
      }
    }
  }
  out
}

# A point of the path in every copy.
copied <- function(copies, x, y) {
  u <- x - copies$centre[1]
  v <- y - copies$centre[2]
  list(
    x = copies$centre[1] + cos(copies$turn) * u + sin(copies$turn) * v + copies$shift[, 1],
    y = copies$centre[2] + cos(copies$turn) * v - sin(copies$turn) * u + copies$shift[, 2]
  )
}

line_pieces <- function(copies, in_field) {
  n <- nrow(copies$points)
  times <- nrow(copies$shift)
  ends <- lapply(seq_len(n), function(k) {
    at <- copied(copies, copies$points[k, 1], copies$points[k, 2])
    in_field(at$x, at$y)
  })
  pieces <- lapply(seq_len(n - 1), function(k) {
    cbind(seq_len(times), 0, ends[[k]]$x, ends[[k]]$y, ends[[k + 1]]$x, ends[[k + 1]]$y, 0)
  })
  pieces <- do.call(rbind, pieces)
  pieces[order(pieces[, 1]), , drop = FALSE]
}

arc_pieces <- function(path, copies, in_field, turn, size) {
  at <- copied(copies, copies$points[1, 1], copies$points[1, 2])
  at <- in_field(at$x, at$y)
  angle <- if (path$kind == "circle") c(0, 360) else c(path$numbers[[4]], path$numbers[[5]])
  cbind(
    seq_along(at$x), 1, at$x, at$y, (copies$radius + copies$grown) * size,
    angle[1] * pi / 180 + copies$turn + turn, diff(angle) * pi / 180
  )
}

# Length of each path, in pixels along x.
path_lengths <- function(placed) {
  p <- placed$pieces
  length <- ifelse(
    p[, 2] == 0, sqrt((p[, 5] - p[, 3])^2 + (p[, 6] - p[, 4])^2), p[, 5] * abs(p[, 7])
  )
  as.vector(rowsum(length, p[, 1]))
}

# Paths one after the other.
bind_placed <- function(placed) {
  before <- 0
  pieces <- lapply(placed, function(p) {
    own <- p$pieces
    own[, 1] <- own[, 1] + before
    before <<- before + length(p$across)
    own
  })
  list(
    pieces = do.call(rbind, pieces), across = unlist(lapply(placed, function(p) p$across)),
    closed = unlist(lapply(placed, function(p) p$closed))
  )
}

# Where a path lies in a field, for figures: points along its middle, a row each with the number of
# the copy.
path_outline <- function(placed, field) {
  ratio <- pixel_ratio(field$calibration)
  rows <- lapply(seq_len(nrow(placed$pieces)), function(k) {
    p <- placed$pieces[k, ]
    if (p[2] == 0) return(cbind(p[1], c(p[3], p[5]), c(p[4], p[6])))
    a <- p[6] + p[7] * seq(0, 1, length.out = 73)
    cbind(p[1], p[3] + p[5] * cos(a), p[4] - p[5] * sin(a))
  })
  rows <- do.call(rbind, rows)
  tibble::tibble(path = as.integer(rows[, 1]), x = rows[, 2], y = rows[, 3] / ratio)
}
