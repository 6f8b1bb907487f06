# What a person decides about single objects. Hand edits are data: rows of a file, replayed by the method, and in the trail.

cut_columns <- c("image", "x1", "y1", "x2", "y2")

#' Cut and join objects by hand
#'
#' `separate_cuts()` splits objects along lines drawn by hand where the eye knows better than the watershed;
#' `join_objects()` makes one of the two objects under the ends of a line. Lines are a table, or a CSV file, with the columns
#' `image` (name of the picture's file; rows of other images are passed over), `x1`, `y1`, `x2`, `y2` in pixels of
#' the field, and, if wanted, `width` of the cut in pixels (1), `who` and `why`.
#'
#' @param objects A `bm_objects`.
#' @param cuts,joins A data frame or the path of a CSV file.
#' @return The objects, renumbered in reading order; the trail says how many lines were used.
#' @section Errors: Class `bemrick_error_file_content` for a missing column or a coordinate that is not a number,
#'   `bemrick_error_hand` when an end of a line to join lies on no object.
#' @examples
#' two <- matrix(0, 20, 40)
#' two[5:15, 5:35] <- 255
#' objects <- find_objects(segment_level(as_field(two), low = 128))
#' cuts <- data.frame(image = NA, x1 = 20, y1 = 0, x2 = 20, y2 = 20)
#' separate_cuts(objects, cuts)
#' @name by-hand
NULL

#' @rdname by-hand
#' @export
separate_cuts <- function(objects, cuts) {
  check_objects(objects)
  lines <- hand_lines(cuts, objects, "cuts")
  labels <- objects$labels
  for (k in seq_len(nrow(lines))) {
    gone <- near_line(lines[k, ], dim(labels))
    hit <- setdiff(unique(labels[gone]), 0L)
    labels[gone] <- 0L
    for (id in hit) {
      parts <- core_label(labels == id)
      more <- parts$labels > 1
      labels[more] <- max(labels) + parts$labels[more] - 1L
    }
  }
  renumbered(objects, labels, "separate_cuts", list(cuts = if (rlang::is_string(cuts)) cuts), list(lines = nrow(lines)))
}

#' @rdname by-hand
#' @export
join_objects <- function(objects, joins) {
  check_objects(objects)
  lines <- hand_lines(joins, objects, "joins")
  labels <- objects$labels
  for (k in seq_len(nrow(lines))) {
    ends <- c(label_at(labels, lines$x1[k], lines$y1[k]), label_at(labels, lines$x2[k], lines$y2[k]))
    if (any(ends == 0)) {
      bm_abort(c(
        "Line {k} to join has an end on no object.",
        i = "Both ends must lie within the objects to join, in pixels of the field as it is after trimming."
      ), "hand")
    }
    labels[labels == ends[2]] <- ends[1]
    # the two hang together through the line itself
    between <- near_line(tibble::tibble(lines[k, cut_columns], width = 1), dim(labels))
    labels[between & labels == 0L] <- ends[1]
  }
  renumbered(objects, labels, "join_objects", list(joins = if (rlang::is_string(joins)) joins), list(lines = nrow(lines)))
}

hand_lines <- function(lines, objects, name, call = rlang::caller_env()) {
  if (rlang::is_string(lines)) lines <- read_table_file(lines)
  if (!is.data.frame(lines) || !all(cut_columns %in% names(lines))) {
    bm_abort("{.arg {name}} must be a table with the columns {.field {cut_columns}}.", "file_content", call = call)
  }
  if (is.null(lines$width)) lines$width <- 1
  lines$width[is.na(lines$width)] <- 1
  for (column in c(cut_columns[-1], "width")) {
    number <- suppressWarnings(as.numeric(lines[[column]]))
    wrong <- which(!is.finite(number))
    if (length(wrong)) {
      bm_abort("Column {.field {column}} of {.arg {name}} holds no number in row {wrong[1]}.", "file_content", call = call)
    }
    lines[[column]] <- number
  }
  file <- objects$mask$field$source$file
  mine <- is.na(lines$image) | is.null(file) | basename(as.character(lines$image)) == (file %||% "")
  tibble::as_tibble(lines[mine, c(cut_columns, "width")])
}

# Pixels whose centres lie within half the width of a stretch of line, at least the nearest ones.
near_line <- function(line, size) {
  x <- matrix(seq_len(size[2]) - 0.5, size[1], size[2], byrow = TRUE)
  y <- matrix(seq_len(size[1]) - 0.5, size[1], size[2])
  along <- c(line$x2 - line$x1, line$y2 - line$y1)
  length2 <- max(sum(along^2), 1e-12)
  share <- pmin(pmax(((x - line$x1) * along[1] + (y - line$y1) * along[2]) / length2, 0), 1)
  reach <- max(line$width / 2, 0.75)  # so that an 8-connected object cannot pass through
  (x - line$x1 - share * along[1])^2 + (y - line$y1 - share * along[2])^2 <= reach^2
}

label_at <- function(labels, x, y) {
  row <- floor(y) + 1
  col <- floor(x) + 1
  if (row < 1 || col < 1 || row > nrow(labels) || col > ncol(labels)) 0L else labels[row, col]
}

# Numbered in reading order, as all objects are.
renumbered <- function(objects, labels, step, args, decided) {
  order <- unique(as.vector(t(labels)))
  order <- order[order > 0]
  number <- integer(max(labels, 0L) + 1)
  number[order + 1] <- seq_along(order)
  fresh <- matrix(number[labels + 1L], nrow(labels))
  new_objects(fresh, length(order), objects$mask, add_step(objects$trail, step, args, c(list(objects = length(order)),
    decided)))
}

#' Exclude objects by hand
#'
#' Marks single objects as not accepted. They stay in the table, with the reason; nothing is deleted.
#'
#' @param measures A `bm_measures`.
#' @param id Numbers of the objects.
#' @param reason Why, in words: one for all, or one each.
#' @return The table; reasons begin with "by hand".
#' @section Errors: Class `bemrick_error_hand` when an object is not in the table or no reason is given.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' exclude_objects(measures, 2, "dust")[, c("id", "accepted", "reason")]
#' @export
exclude_objects <- function(measures, id, reason) {
  check_measures(measures)
  if (missing(reason) || !is.character(reason) || anyNA(reason) || any(!nzchar(trimws(reason))) ||
      !length(reason) %in% c(1, length(id))) {
    bm_abort("Every object excluded by hand needs a {.arg reason}.", "hand")
  }
  check_encoding(reason, "reason")
  check_numbers(id, "id")
  place <- match(id, measures$id)
  if (anyNA(place)) bm_abort("There is no object {.val {id[is.na(place)]}} in this table.", "hand")
  measures$accepted[place] <- FALSE
  measures$reason[place] <- paste("by hand:", reason)
  measures$weight[place] <- 0
  trail <- add_step(attr(measures, "trail"), "exclude_objects", list(id = id, reason = reason), list(excluded = length(place)))
  new_measures(measures, attr(measures, "objects"), trail)
}

#' Look up one object
#'
#' From the picture to the table and back: the row of an object, its outline, and the part of the picture round it.
#' [look_up_figure()] draws it.
#'
#' @param measures A `bm_measures`.
#' @param id Number of the object, or
#' @param x,y a point within it, in pixels.
#' @return A `bm_object`: `row` (one row of the table), `outline` (as from [object_outlines()]) and `part` (`rows` and `cols` of
#'   the picture), and the field.
#' @section Errors: Class `bemrick_error_argument` when there is no such object, or none at the point.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' look_up(measures, 2)
#' @export
look_up <- function(measures, id = NULL, x = NULL, y = NULL) {
  check_measures(measures)
  objects <- attr(measures, "objects")
  if (is.null(id) == (is.null(x) || is.null(y)) ||
    is.null(x) != is.null(y)) bm_abort("Give {.arg id}, or {.arg x} and {.arg y}.", "argument")
  if (is.null(id)) {
    id <- label_at(objects$labels, check_number(x, "x"), check_number(y, "y"))
    if (id == 0) bm_abort("There is no object at {x}, {y}.", "argument")
  }
  place <- match(check_number(id, "id"), measures$id)
  if (is.na(place)) bm_abort("There is no object {.val {id}} in this table.", "argument")
  inside <- which(objects$labels == id, arr.ind = TRUE)
  reach <- function(k, most) {
    room <- max(6, round(0.5 * diff(range(inside[, k]))))
    max(1, min(inside[, k]) - room):min(most, max(inside[, k]) + room)
  }
  part <- list(rows = reach(1, nrow(objects$labels)), cols = reach(2, ncol(objects$labels)))
  alone <- matrix(as.integer(objects$labels == id), nrow(objects$labels))
  structure(
    list(row = unclass_measures(measures)[place, ], outline = tibble::as_tibble(core_outlines(alone)), part = part,
         field = objects$mask$field),
    class = "bm_object"
  )
}

#' Suggest a limit from good and bad
#'
#' From measured pictures known to be good and known to be bad: the values of one measure, the gap between them, the limit in the
#' middle of it, and how many objects that limit would get wrong. Where they overlap, the limit with the fewest
#' wrong.
#'
#' @param good,bad A `bm_measures`, or a list of them; accepted objects count.
#' @param measure Name of the measure, such as `"solidity"` (see [measure_definitions()]).
#' @return A `bm_limit`: `limit`, `unit`, `side` (whether bad ones lie `"above"` or `"below"`), `gap` (below zero when they
#'   overlap), `wrong_good` and `wrong_bad` (counts), `good` and `bad` (values).
#' @examples
#' beads <- function(...) measure_objects(find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...))))
#' suggest_limits(beads(diameter = "14 um", seed = 1), beads(diameter = "28 um", seed = 2), "ecd")
#' @export
suggest_limits <- function(good, bad, measure) {
  tables <- list(good = good, bad = bad)
  tables <- lapply(tables, function(x) if (inherits(x, "bm_measures")) list(x) else x)
  for (x in unlist(tables, recursive = FALSE)) check_measures(x)
  check_text(measure, "measure")
  check_known(measure, names(measure_table), "measure")
  units <- unique(vapply(unlist(tables, recursive = FALSE), measures_unit, ""))
  if (length(units) > 1) bm_abort("The tables are in different units: {.val {units}}.", "argument")
  column <- measure_column(measure, units)
  values <- lapply(tables, function(x) unlist(lapply(x, function(m) m[[column]][m$accepted])))
  if (any(lengths(values) == 0)) bm_abort("There must be accepted objects among both the good and the bad.", "argument")
  above <- stats::median(values$bad) > stats::median(values$good)
  sign <- if (above) 1 else -1
  g <- sign * values$good
  b <- sign * values$bad
  gap <- min(b) - max(g)
  if (gap >= 0) {
    limit <- (min(b) + max(g)) / 2
  } else {
    all <- sort(unique(c(g, b)))
    between <- (all[-1] + all[-length(all)]) / 2
    wrong <- vapply(between, function(t) sum(g > t) + sum(b <= t), 0)
    best <- which(wrong == min(wrong))
    limit <- between[best[(length(best) + 1) %/% 2]]
  }
  structure(
    list(measure = measure, limit = sign * limit, unit = units, side = if (above) "above" else "below", gap = gap,
         wrong_good = sum(g > limit), wrong_bad = sum(b <= limit), good = values$good, bad = values$bad),
    class = "bm_limit"
  )
}
