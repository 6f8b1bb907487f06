# What a person decides about single objects. Hand edits are data: rows of a file, replayed by the
# method, and in the trail.

cut_columns <- c("image", "x1", "y1", "x2", "y2")

# Columns of hand edits that hold numbers.
hand_numbers <- c("x", "y", "x1", "y1", "x2", "y2", "width")

#' Cut and join objects by hand
#'
#' `separate_cuts()` splits objects along lines drawn by hand where the eye knows better than the
#' watershed; `join_objects()` makes one of the two objects under the ends of a line. Lines are a
#' table, or a CSV file, with the columns `image` (name of the picture's file; rows of other images
#' are passed over; without one a row is for every picture, and follows the part after
#' [follow_pattern()]), `x1`, `y1`, `x2`, `y2` in pixels of the field, and, if wanted, `width` of
#' the cut in pixels (1), `who` and `why`.
#'
#' @param objects A `bm_objects`.
#' @param cuts,joins A data frame or the path of a CSV file.
#' @return The objects, renumbered in reading order; the trail says how many lines were used.
#' @section Errors: Class `bemrick_error_file_content` for a missing column or a coordinate that is
#'   not a number, `bemrick_error_hand` when an end of a line to join lies on no object.
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
  near <- lapply(seq_len(nrow(lines)), function(k) near_line(lines[k, ], dim(labels)))
  # parts of an object lie in its box: only there is looked for them
  hit <- setdiff(unique(labels[unlist(near)]), 0L)
  boxes <- stats::setNames(object_boxes(labels, hit), hit)
  top <- objects$count
  missed <- touched <- integer()
  for (k in seq_along(near)) {
    hit <- setdiff(unique(labels[near[[k]]]), 0L)
    if (length(hit) == 0) missed <- c(missed, k)
    touched <- c(touched, hit)
    labels[near[[k]]] <- 0L
    for (id in hit) {
      box <- boxes[[as.character(id)]]
      own <- labels[box$rows, box$cols, drop = FALSE]
      parts <- core_label(own == id)
      if (parts$count < 2) next
      more <- parts$labels > 1
      own[more] <- top + parts$labels[more] - 1L
      labels[box$rows, box$cols] <- own
      boxes[as.character(top + seq_len(parts$count - 1L))] <- list(box)
      top <- top + parts$count - 1L
    }
  }
  warn_of_missed(missed, nrow(lines))
  renumbered(
    objects, labels, touched, "separate_cuts", list(cuts = lines_as_data(cuts)),
    list(lines = nrow(lines), missed = if (length(missed)) missed)
  )
}
register_step("separate_cuts", takes = "bm_objects", gives = "bm_objects", tables = "cuts")

warn_of_missed <- function(missed, of) {
  if (length(missed) == 0) return(invisible())
  bm_warn(
    c(
      "{cli::qty(length(missed))}Cut{?s} {missed} of {of}
       {cli::qty(length(missed))}meet{?s/} no object.",
      i = "Lines are in pixels of the field as it is after trimming."
    ),
    "hand"
  )
}

#' @rdname by-hand
#' @export
join_objects <- function(objects, joins) {
  check_objects(objects)
  lines <- hand_lines(joins, objects, "joins")
  labels <- objects$labels
  touched <- integer()
  for (k in seq_len(nrow(lines))) {
    ends <- c(
      label_at(labels, lines$x1[k], lines$y1[k]), label_at(labels, lines$x2[k], lines$y2[k])
    )
    if (any(ends == 0)) {
      bm_abort(
        c(
          "Line {k} to join has an end on no object.",
          i = "Both ends must lie within the objects to join, in pixels of the field as it is after
               trimming."
        ),
        "hand"
      )
    }
    box <- object_boxes(labels, ends[2])[[1]]
    own <- labels[box$rows, box$cols]
    own[own == ends[2]] <- ends[1]
    labels[box$rows, box$cols] <- own
    touched <- c(touched, ends[1])
    # the two are connected through the line itself
    between <- near_line(tibble::tibble(lines[k, cut_columns], width = 1), dim(labels))
    labels[between[labels[between] == 0L]] <- ends[1]
  }
  renumbered(
    objects, labels, touched, "join_objects", list(joins = lines_as_data(joins)),
    list(lines = nrow(lines))
  )
}
register_step("join_objects", takes = "bm_objects", gives = "bm_objects", tables = "joins")

# A table as a method can hold it: a list of rows. Files stay files.
lines_as_data <- function(lines) {
  if (!is.data.frame(lines)) return(lines)
  lapply(seq_len(nrow(lines)), function(k) Filter(Negate(is.na), as.list(lines[k, ])))
}

# Rows as a method holds them, as a table; what a row leaves out is missing.
data_as_lines <- function(rows, columns) {
  columns <- unique(c(columns, unlist(lapply(rows, names))))
  values <- lapply(columns, function(name) unlist(lapply(rows, function(r) r[[name]] %||% NA)))
  tibble::as_tibble(stats::setNames(lapply(values, function(v) v %||% logical()), columns))
}

is_row <- function(row) {
  rlang::is_named(row) && all(lengths(row) == 1) && !any(vapply(row, is.list, NA))
}

hand_lines <- function(lines, objects, name, call = rlang::caller_env()) {
  lines <- hand_table(lines, name, cut_columns, c(cut_columns[-1], "width"), call)
  lines <- lines[of_this_picture(lines$image, objects), c(cut_columns, "width")]
  field <- objects$mask$field
  lines |> followed_rows("x1", "y1", field) |> followed_rows("x2", "y2", field)
}

# Rows for every picture follow the part that the field is aligned by; those of an image are meant
# in its own pixels.
followed_rows <- function(rows, x, y, field) {
  if (!is.null(field$window)) {
    named <- which(!is.na(rows$image))
    rows[[x]][named] <- rows[[x]][named] - field$window[["x"]]
    rows[[y]][named] <- rows[[y]][named] - field$window[["y"]]
  }
  every <- which(is.na(rows$image))
  at <- points_in_field(field, rows[[x]][every], rows[[y]][every])
  rows[[x]][every] <- at$x
  rows[[y]][every] <- at$y
  rows
}

# A table drawn up by hand, from a file, a data frame, or rows as a method holds them; without
# images it is for every picture, without a width lines are one pixel wide.
hand_table <- function(table, name, columns, numbers, call = rlang::caller_env()) {
  if (rlang::is_string(table)) table <- read_sheet_file(table, numbers, call)
  if (rlang::is_bare_list(table) && all(vapply(table, is_row, NA))) {
    table <- data_as_lines(table, columns)
  }
  if (!is.data.frame(table) || !all(columns %in% names(table))) {
    bm_abort(
      "{.arg {name}} must be a table with the columns {.field {columns}}.", "file_content",
      call = call
    )
  }

  if ("width" %in% numbers) {
    if (is.null(table[["width"]])) table$width <- rep(1, nrow(table))
    table$width[is.na(table$width)] <- 1
  }
  for (column in numbers) {
    number <- suppressWarnings(as.numeric(table[[column]]))
    wrong <- which(!is.finite(number))
    if (length(wrong)) {
      bm_abort(
        "Column {.field {column}} of {.arg {name}} does not hold a number in row {wrong[1]}.",
        "file_content", call = call
      )
    }
    table[[column]] <- number
  }
  tibble::as_tibble(table)
}

# Rows without an image are for every picture; names are compared without case where none is the
# same to the letter.
of_this_picture <- function(image, objects) {
  file <- objects$mask$field$source$file
  if (is.null(file)) return(rep(TRUE, length(image)))
  named <- basename(as.character(image))
  same <- named == file
  if (!any(same, na.rm = TRUE)) same <- tolower(named) == tolower(file)
  is.na(image) | same
}

# Places in a matrix of the pixels whose centres lie within half the width of a stretch of line, at
# least the nearest ones.
near_line <- function(line, size) {
  reach <- max(line$width / 2, 0.75)  # so that an 8-connected object cannot pass through
  seen <- function(ends, most) {
    from <- max(1, floor(min(ends) - reach))
    to <- min(most, ceiling(max(ends) + reach) + 1)
    if (to >= from) from:to else integer()
  }
  rows <- seen(c(line$y1, line$y2), size[1])
  cols <- seen(c(line$x1, line$x2), size[2])
  x <- rep(cols - 0.5, each = length(rows))
  y <- rep(rows - 0.5, length(cols))
  along <- c(line$x2 - line$x1, line$y2 - line$y1)
  length2 <- max(sum(along^2), 1e-12)
  share <- pmin(pmax(((x - line$x1) * along[1] + (y - line$y1) * along[2]) / length2, 0), 1)
  near <- (x - line$x1 - share * along[1])^2 + (y - line$y1 - share * along[2])^2 <= reach^2
  (rep(rows, length(cols)) + (rep(cols, each = length(rows)) - 1) * size[1])[near]
}

# list(rows, cols) of the smallest box that holds each of some objects.
object_boxes <- function(labels, ids) {
  boxes <- core_object_boxes(labels, as.integer(ids))
  lapply(seq_along(ids), function(k) {
    list(rows = boxes[1, k]:boxes[2, k], cols = boxes[3, k]:boxes[4, k])
  })
}

# Numbers of the objects at points, 0 for the ground and beyond the picture.
label_at <- function(labels, x, y) {
  row <- floor(y) + 1
  col <- floor(x) + 1
  inside <- row >= 1 & col >= 1 & row <= nrow(labels) & col <= ncol(labels)
  found <- integer(length(x))
  found[inside] <- labels[cbind(row, col)[inside, , drop = FALSE]]
  found
}

# Numbered in reading order, as all objects are. Those that were `touched`, and new ones, are no
# longer what separate_outlines() completed.
renumbered <- function(objects, labels, touched, step, args, decided) {
  fresh <- core_renumber(labels)
  out <- new_objects(
    fresh$labels, length(fresh$order), objects$mask,
    add_step(objects$trail, step, args, c(list(objects = length(fresh$order)), decided))
  )
  out$unseen <- objects$unseen
  if (!is.null(objects$wholes)) {
    kept <- fresh$order
    kept[kept %in% touched | kept > objects$count] <- NA
    out$wholes <- objects$wholes[kept, , drop = FALSE]
  }
  out
}
