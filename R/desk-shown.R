# Pixels, outlines, rows and figures of a desk, for its page. Pixels and outlines go as bytes, in the
# order of the machine: the page is on the same one.

# The pixels of a stage row by row: list(bytes, bits, scale); level = code / scale.
greys_of_stage <- function(stage) {
  field <- field_of_stage(stage$value)
  core_greys_by_row(field$pixels, top_level(field))
}

# What is drawn over the picture: rings of objects or of a mask's parts, or strokes of other rows, as int32 counts and
# float32 places: number of rings, of points; then for each ring its id and where its points begin;
# then x, y of every point. Strokes are rings of two points.
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
  c(
    writeBin(as.integer(c(length(id), length(x), id, first)), raw()),
    writeBin(as.vector(rbind(x, y)), raw(), size = 4)
  )
}

# Rows as the page and a table of results have them, by column.
rows_shown <- function(stages) {
  table <- table_of_stages(stages)
  if (is.null(table)) return(list(columns = list(), rows = 0))
  table <- table_digits(tibble::as_tibble(table))
  list(columns = lapply(as.list(table), I), rows = nrow(table))
}

# The histogram a threshold is chosen in: that of the field before the first mask, or of the last
# field.
histogram_shown <- function(stages) {
  fields <- Filter(function(s) inherits(s$value, "bm_field"), stages)
  field <- fields[[length(fields)]]$value
  classes <- display_histogram(field)
  list(from = I(classes$from), to = I(classes$to), count = I(classes$count), top = top_level(field))
}

# Figures of the package that the page shows beside the picture.
figure_shown <- function(stages, what, asked = list()) {
  need <- function(classes, words) {
    stage <- last_stage(stages, classes)
    if (is.null(stage)) {
      bm_abort("There are no {words} yet: the steps do not come that far.", "action")
    }
    stage$value
  }
  rows <- function() {
    table <- need(unname(row_kinds), "rows")
    if (!any(table$accepted)) bm_abort("No row is accepted.", "empty")
    table
  }
  figure <- switch(
    check_choice(what, "figure", c("rules", "level", "split", "sizes", "facts")),
    rules = ggplot2::autoplot(compare_rules(need("bm_field", "fields"))),
    facts = ggplot2::autoplot(field_facts(stages[[1]]$value)),
    level = ggplot2::autoplot(level_response(rows())),
    split = ggplot2::autoplot(split_response(need("bm_mask", "masks"))),
    sizes = ggplot2::autoplot(sizes_shown(rows(), asked))
  )
  figure_png(figure, 860, 620)
}

sizes_shown <- function(table, asked) {
  classes <- asked[["classes"]] %||% "auto"
  if (grepl("^[0-9]+$", classes)) classes <- as.numeric(classes)
  size_distribution(
    table, asked[["of"]] %||% first_measure(table), asked[["weight"]] %||% "number", classes
  )
}

# What a kind of rows is usually sorted by.
first_measure <- function(table) {
  switch(kind_of_rows(table), objects = "ecd", finds = "score", widths = "width", "thickness")
}

# Objects that may be several, by their numbers, and why.
suspects_shown <- function(stages) {
  table <- table_of_stages(stages)
  if (!inherits(table, "bm_measures")) return(list(id = I(integer()), why = I(character())))
  table <- suspect_merges(table)
  found <- table$suspected != "" & table$accepted
  list(id = I(table$id[found]), why = I(table$suspected[found]))
}

percentiles_shown <- function(state, asked) {
  table <- table_of_stages(desk_stages(state))
  if (is.null(table)) bm_abort("The steps do not end in a table yet.", "action")
  distribution <- sizes_shown(table, asked)
  list(lines = I(visible(format(distribution))), of = asked[["of"]] %||% first_measure(table))
}
