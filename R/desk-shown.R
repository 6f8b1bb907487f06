# Pixels, outlines, rows and figures of a desk, for its page. Pixels and outlines go as bytes, in
# the order of the machine: the page is on the same one.

# The pixels of a stage row by row, or means of squares of `times` pixels: list(bytes, bits, scale);
# a level is its code over the scale.
greys_of_stage <- function(stage, times = 1) {
  field <- field_of_stage(stage$value)
  core_greys_by_row(field$pixels, top_level(field), times)
}

# What is drawn over the picture: rings of objects or of a mask's parts, or strokes of other rows,
# as int32 counts: number of rings, of points, bits of a place; for each ring its id and where its
# points begin; then x, y of every point, as uint16 where all are whole, else float32. Strokes are
# rings of two points.
shapes_of_stage <- function(stage) {
  value <- stage$value
  if (inherits(value, "bm_field")) return(shape_bytes(integer(), integer(), numeric(), numeric()))
  if (inherits(value, "bm_measures")) value <- attr(value, "objects")
  if (inherits(value, c("bm_mask", "bm_objects"))) {
    corners <- if (inherits(value, "bm_mask")) {
      core_outlines(core_label(value$pixels)$labels)
    } else {
      value$outlines %||% core_outlines(value$labels)
    }
    first <- which(!duplicated(corners$ring))
    return(shape_bytes(corners$id[first], first - 1L, corners$x_px, corners$y_px))
  }
  strokes <- strokes_of(value)
  n <- nrow(strokes)
  shape_bytes(
    strokes$id, 2L * (seq_len(n) - 1L), as.vector(rbind(strokes$x, strokes$x_end)),
    as.vector(rbind(strokes$y, strokes$y_end))
  )
}

# Strokes of finds, widths and sampling lines, with the row each belongs to.
strokes_of <- function(value) {
  if (!inherits(value, row_kinds) || nrow(value) == 0) {
    nothing <- numeric()
    return(tibble::tibble(id = nothing, x = nothing, y = nothing, x_end = nothing, y_end = nothing))
  }
  field <- field_of_rows(value)
  if (inherits(value, "bm_finds")) {
    drawn <- lapply(seq_len(nrow(value)), function(k) {
      cbind(id = value$id[k], drawn_finds(value[k, ], field, attr(value, "pattern"))$contour)
    })
    return(do.call(rbind, drawn))
  }
  strokes <- tibble::tibble(
    id = value$id, x = value$from_x_px, y = value$from_y_px, x_end = value$to_x_px,
    y_end = value$to_y_px
  )
  strokes[stats::complete.cases(strokes), ]
}

shape_bytes <- function(id, first, x, y) {
  places <- as.vector(rbind(x, y))
  whole <- all(places == round(places) & places >= 0 & places < 65536)
  c(
    writeBin(as.integer(c(length(id), length(x), if (whole) 16 else 32, id, first)), raw()),
    if (whole) writeBin(as.integer(places), raw(), size = 2) else writeBin(places, raw(), size = 4)
  )
}

# Rows as a table of results has them: the length of a head and the head, JSON filled up to whole
# eights with the columns that hold no numbers and the names of the others; then these, float64.
# `only`: what a step that accepts has changed.
rows_bytes <- function(stages, only = NULL) {
  table <- table_of_stages(stages)
  table <- if (is.null(table)) tibble::tibble() else tibble::as_tibble(table)
  if (!is.null(only)) table <- table[intersect(c("id", only), names(table))]
  table <- as.list(table_digits(table))
  numbers <- vapply(table, is.numeric, NA)
  head <- jsonlite::toJSON(
    list(
      rows = length(table[["id"]]), order = I(names(table)), numbers = I(names(table)[numbers]),
      others = lapply(table[!numbers], I)
    ),
    auto_unbox = TRUE, na = "null"
  )
  head <- charToRaw(enc2utf8(head))
  head <- c(head, rep(charToRaw(" "), -length(head) %% 8))
  c(
    writeBin(c(length(head), 0L), raw()), head,
    writeBin(as.double(unlist(table[numbers], use.names = FALSE)), raw())
  )
}

# The histogram a threshold is chosen in: that of the field before the first mask, or of the last
# field.
histogram_shown <- function(stages) {
  fields <- Filter(function(s) inherits(s$value, "bm_field"), stages)
  field <- fields[[length(fields)]]$value
  classes <- display_histogram(field)
  list(from = I(classes$from), to = I(classes$to), count = I(classes$count), top = top_level(field))
}

# Objects that may be several, by their numbers, and why.
suspects_shown <- function(stages) {
  table <- table_of_stages(stages)
  if (!inherits(table, "bm_measures")) return(list(id = I(integer()), why = I(character())))
  table <- suspect_merges(table)
  found <- table$suspected != "" & table$accepted
  list(id = I(table$id[found]), why = I(table$suspected[found]))
}
