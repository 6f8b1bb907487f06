# What a page shows of a desk, as plain lists: of everything but the pixels, outlines and rows,
# which are asked for when they changed.

# `last`: no more steps than these are looked at, so that a picture can be shown before they are
# done.
desk_view <- function(state, last = Inf) {
  stages <- desk_stages(state, last)
  doc <- state$doc
  wrong <- problem_of_stages(stages)
  list(
    pictures = pictures_view(state, stages), count = nrow(state$list), at = state$at,
    title = doc$title, objects = doc$objects, branch = doc$branch,
    branches = I(names(doc$branches) %||% character()), chain = chain_view(state, stages),
    stages = stages_view(stages), problem = if (!is.null(wrong)) in_page_words(wrong$said),
    scale = scale_view(state, stages[[1]]), rows = rows_view(stages), hand = hand_view(state),
    spec = if (!is.null(doc$spec)) {
      list(product = doc$spec$product, lines = I(show_units(visible(format(doc$spec)[-1]))))
    },
    undo = length(state$past), redo = length(state$future), actions = length(state$actions)
  )
}

# The picture that is open and those before and after it: lists may name thousands.
pictures_view <- function(state, stages) {
  list <- state$list
  near <- seq(max(1, state$at - 50), min(nrow(list), state$at + 50))
  marks <- state$doc$marks
  if (!is.null(stages[[1]]$error)) marks[state$at] <- "faulty"
  lapply(near, function(k) {
    list(
      at = k, name = visible(basename(list$image[k])), batch = visible(list$batch[k]),
      sample = visible(list$sample[k]), field = visible(as.character(list$field[k])),
      mark = marks[k]
    )
  })
}

# The steps with their arguments as texts, and what they decided on this picture.
chain_view <- function(state, stages) {
  chain <- desk_chain(state$doc)
  made <- vapply(stages, function(s) s$step, 0)
  lapply(seq_along(chain), function(k) {
    step <- chain[[k]]
    stage <- match(k, made)
    list(
      step = step$step, on = !isTRUE(step$off), trunk = k <= length(state$doc$steps),
      args = lapply(step$args, flow_text), rows = rows_of_step(step),
      stage = if (!is.na(stage)) stage - 1
    )
  })
}

# Number of rows of hand edits.
rows_of_step <- function(step) {
  tables <- step$args[registered$steps[[step$step]]$tables]
  if (length(tables)) sum(lengths(tables))
}

# With the keys of its pixels and of what is drawn over them, which later stages may share: steps on
# masks and tables leave the pixels, those that accept or exclude leave the outlines.
stages_view <- function(stages) {
  greys <- shapes <- last <- ""
  lapply(stages, function(stage) {
    kind <- class(stage$value)[1]
    if (kind == "bm_field") greys <<- stage$key
    if (kind != "bm_measures" || last != kind) shapes <<- stage$key
    last <<- kind
    c(stage_view(stage), list(greys = greys, shapes = shapes))
  })
}

stage_view <- function(stage) {
  view <- list(step = stage$step, said = stage$said, remarks = I(stage$remarks))
  if (!is.null(stage$error)) return(view)
  value <- stage$value
  field <- field_of_stage(value)
  trail <- if (is.data.frame(value)) attr(value, "trail") else value$trail
  decided <- if (stage$step > 0) trail[[length(trail)]]$decided
  c(view, list(
    key = stage$key, kind = class(value)[1], width = ncol(field$pixels),
    height = nrow(field$pixels), origin = I(unname(field$origin %||% c(0, 0))),
    geometry = geometry_view(field), top = top_level(field), frame = frame_view(value, field),
    decided = paste(names(decided), vapply(decided, show_value, ""), collapse = ", "),
    levels = if (inherits(value, "bm_mask")) {
      list(phase = value$phase, low = shown_level(value$low), high = shown_level(value$high))
    }
  ))
}

# Where the taught picture's (0, 0) lies in the field, and a step in x and in y from there: for what
# is named after this stage, or for its first find. NULL where nothing was taught.
frame_view <- function(value, field) {
  if (inherits(value, "bm_finds") && nrow(value) > 0) field$frame <- frame_of_find(value, 1)
  if (is.null(field$frame)) return(NULL)
  at <- points_in_field(field, c(0, 1, 0), c(0, 0, 1))
  I(c(at$x[1], at$y[1], at$x[2] - at$x[1], at$y[2] - at$y[1], at$x[3] - at$x[1], at$y[3] - at$y[1]))
}

# Stages with the same text differ by their origins only: a place in one is a place in the other.
geometry_view <- function(field) {
  bent <- Filter(function(e) e$step == "rectify_field", field$trail)
  paste(times_shrunk(field), length(bent))
}

# A level that is one number; levels that differ from pixel to pixel have none to draw.
shown_level <- function(level) if (length(level) == 1 && is.finite(level)) level

scale_view <- function(state, stage) {
  own <- state$doc$calibrations[[state$at]]
  field <- stage$value
  if (is.null(own) || is.null(field$calibration)) return(NULL)
  calibration <- field$calibration
  list(
    lines = I(visible(sub("^<calibration> ", "", format(calibration)))), unit = calibration$unit,
    pixel = if (!is.null(calibration$pixel)) unname(calibration$pixel), ends = ends_of_scale(own)
  )
}

# Ends of the bar that a calibration was found on.
ends_of_scale <- function(calibration) {
  found <- if (is.list(calibration)) calibration$evidence
  if (identical(found$kind, "bar")) unname(c(found$left, found$right))
}

rows_view <- function(stages) {
  table <- table_of_stages(stages)
  if (is.null(table)) return(NULL)
  list(
    kind = kind_of_rows(table), word = row_words[[kind_of_rows(table)]], count = nrow(table),
    accepted = sum(table$accepted), unit = rows_unit(table)
  )
}

# Lines drawn and objects left out by hand in this picture.
hand_view <- function(state) {
  image <- basename(state$list$image[state$at])
  unlist(lapply(desk_chain(state$doc), function(step) {
    table <- intersect(names(step$args), registered$steps[[step$step]]$tables)
    if (length(table) == 0) return(NULL)
    own <- Filter(function(row) {
      is.null(row$image) || tolower(basename(row$image)) == tolower(image)
    }, step$args[[table[1]]])
    lapply(own, function(row) c(list(step = step$step), row))
  }), recursive = FALSE)
}
