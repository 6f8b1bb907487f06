# Edges of layers: drawn as lines of corners, circles and polygons, read from a file, or traced.

#' Edges of layers
#'
#' The two edges that a layer's thickness is taken between ([layer_between()], [layer_thickness()]).
#' They are drawn by their corners, or followed in the picture by [trace_edge()]. After
#' [follow_pattern()] they are meant in the taught picture.
#'
#' @param x,y Corners in order, or the centre of a circle. Numbers are pixels from the outer corner
#'   of the first pixel, x to the right, y down; strings carry their unit.
#' @param radius Radius.
#' @param file CSV with the columns `x` and `y` in pixels, a row per corner, and `edge` (a name)
#'   where there are several; or GeoJSON of LineString and Polygon features in pixels, named by
#'   their property `name`.
#' @return A `bm_layer_edge`; `read_edges()` gives a list of them by name. In a method they are
#'   written `{line: [x1, y1, x2, y2, ...]}`, `{circle: [x, y, radius]}`, `{polygon: [...]}` or
#'   `{trace: {along: ..., reach: ..., polarity: ...}}`.
#' @section Errors: Class `bemrick_error_edge` for fewer than two corners (three of a polygon);
#'   `bemrick_error_file_content` for a file that holds no edges.
#' @examples
#' edge_line(x = c(0, 100, 200), y = c(40, 42, 41))
#' edge_circle(100, 75, 60)
#' file <- tempfile(fileext = ".csv")
#' writeLines(c("edge,x,y", "top,0,40", "top,200,41", "bottom,0,90", "bottom,200,88"), file)
#' read_edges(file)
#' @name edges
NULL

new_edge <- function(kind, numbers, call = rlang::caller_env()) {
  for (q in numbers) check_length(q, "edge", call)
  structure(list(kind = kind, numbers = unname(numbers)), class = c("bm_layer_edge", "bemrick"))
}

corners_of <- function(x, y, least, what, call = rlang::caller_env()) {
  good <- is.vector(x) && is.vector(y) && length(x) == length(y) && length(x) >= least
  if (!good) {
    bm_abort(
      "{what} needs at least {least} corners, as many x as y.", "edge", call = call
    )
  }
  unlist(Map(list, as.list(x), as.list(y)), recursive = FALSE)
}

#' @rdname edges
#' @export
edge_line <- function(x, y) new_edge("line", corners_of(x, y, 2, "An edge"))

#' @rdname edges
#' @export
edge_polygon <- function(x, y) new_edge("polygon", corners_of(x, y, 3, "A closed edge"))

#' @rdname edges
#' @export
edge_circle <- function(x, y, radius) {
  if (!isTRUE(parse_quantity(radius, "radius")$value > 0)) {
    bm_abort("{.arg radius} must be above zero, not {radius}.", "edge")
  }
  new_edge("circle", list(x, y, radius))
}

#' @rdname edges
#' @export
read_edges <- function(file) {
  check_file(file)
  corners <- if (grepl("json$", file, ignore.case = TRUE)) edges_of_json(file)
  else edges_of_table(file)
  named <- names(corners)
  if (anyDuplicated(named)) {
    bm_abort("{.file {basename(file)}} has several edges {.val {named[duplicated(named)][1]}}.",
      "file_content"
    )
  }
  lapply(corners, function(c) {
    tryCatch(
      if (c$closed) edge_polygon(c$x, c$y) else edge_line(c$x, c$y),
      bemrick_error = function(e) {
        bm_abort("An edge in {.file {basename(file)}} is not valid.", "file_content", parent = e,
          call = rlang::caller_env(4)
        )
      }
    )
  })
}

edges_of_table <- function(file, call = rlang::caller_env(2)) {
  table <- read_sheet_file(file)
  absent <- setdiff(c("x", "y"), names(table))
  if (length(absent)) {
    bm_abort(
      "{.file {basename(file)}} has no column {.field {absent}}.", "file_content", call = call
    )
  }
  numbers <- lapply(table[c("x", "y")], function(v) {
    suppressWarnings(as.numeric(sub(",", ".", v, fixed = TRUE)))  # of any country
  })
  wrong <- which(is.na(numbers$x) | is.na(numbers$y))
  if (length(wrong) || nrow(table) == 0) {
    bm_abort(
      c(
        if (nrow(table) == 0) "{.file {basename(file)}} holds no points."
        else "{.file {basename(file)}} holds no number in row {wrong[1] + 1} of x or y."
      ),
      "file_content", call = call
    )
  }
  edge <- table[["edge"]] %||% rep("edge", nrow(table))
  edge <- factor(edge, unique(edge))
  lapply(split(seq_along(edge), edge), function(k) {
    list(x = numbers$x[k], y = numbers$y[k], closed = FALSE)
  })
}

edges_of_json <- function(file, call = rlang::caller_env(2)) {
  content <- read_json(file, simplifyVector = FALSE)
  features <- if (is.list(content)) content$features
  read <- lapply(features, function(f) {
    shape <- if (is.list(f) && is.list(f$geometry)) f$geometry
    closed <- identical(shape$type, "Polygon")
    points <- if (closed && length(shape$coordinates) > 0) {
      ring <- line_points(shape$coordinates[[1]])
      ring[-nrow(ring), , drop = FALSE]  # the last corner is the first
    } else if (identical(shape$type, "LineString")) {
      line_points(shape$coordinates)
    }
    if (is.null(points)) return(NULL)
    list(x = points[, 1], y = points[, 2], closed = closed, name = f$properties$name)
  })
  if (length(read) == 0 || any(vapply(read, is.null, NA))) {
    bm_abort(
      c(
        "{.file {basename(file)}} does not hold edges.",
        i = "They are features of type LineString or Polygon, in pixels."
      ),
      "file_content", call = call
    )
  }
  names(read) <- vapply(seq_along(read), function(k) {
    name <- read[[k]]$name
    if (rlang::is_string(name)) name else if (length(read) == 1) "edge" else paste0("edge ", k)
  }, "")
  read
}

line_points <- function(line) {
  values <- suppressWarnings(as.numeric(unlist(line)))
  good <- is.list(line) && length(line) > 1 && all(lengths(line) == 2) &&
    length(values) == 2 * length(line) && all(is.finite(values))
  if (good) matrix(values, ncol = 2, byrow = TRUE)
}

#' @export
format.bm_layer_edge <- function(x, ...) {
  if (x$kind == "trace") {
    return(paste0("<edge> traced, ", length(x$found$x), " points; ", sum(x$found$gap), " gaps"))
  }
  paste0("<edge> ", x$kind, " ", show_value(x$numbers))
}
