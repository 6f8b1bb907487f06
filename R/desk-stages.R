# What the steps of a desk make of the picture that is open, one after the other. A stage that was
# made before, of the same picture by the same steps, is taken.

# A list of stages: the calibrated field first, then what each step made. Each is list(step = its
# place in the chain, 0 for the field; value, or error and what it said; remarks). After an error
# there are no more, nor after `last` steps.
desk_stages <- function(state, last = Inf) {
  row <- state$list[state$at, ]
  calibration <- state$doc$calibrations[[state$at]]
  key <- rlang::hash(list(
    row$image, file.mtime(row$image), file.size(row$image), row$page, row$channel, calibration,
    row$magnification, row[["override"]], desk_unit(state)
  ))
  stages <- list(stage_of(state, key, 0, function() {
    calibrated_row(picture_of_desk(state), row, calibration, desk_unit(state))
  }))
  chain <- desk_chain(state$doc)
  for (k in seq_len(min(last, length(chain)))) {
    before <- stages[[length(stages)]]
    if (!is.null(before$error)) break
    step <- chain[[k]]
    if (isTRUE(step$off)) next
    rest <- registered$steps[[step$step]]$rest
    steps <- if (is.null(rest)) list(step) else done_steps(chain[k:length(chain)])
    key <- rlang::hash(list(key, steps, files_of(steps)))
    stages <- c(stages, list(stage_of(state, key, k, function() {
      run_steps(before$value, steps, k - 1, "")
    })))
    if (!is.null(rest)) break
  }
  if (last == Inf) keep_stages(state, vapply(stages, function(s) s$key, ""))
  stages
}

stage_of <- function(state, key, step, make) {
  stage <- state$kept[[key]]
  if (is.null(stage)) {
    remarks <- character()
    value <- tryCatch(
      withCallingHandlers(make(), warning = function(w) {
        remarks <<- c(remarks, one_line(w))
        invokeRestart("muffleWarning")
      }),
      error = function(e) e
    )
    failed <- inherits(value, "error")
    stage <- list(
      key = key, value = if (!failed) value, error = if (failed) value,
      said = if (failed) one_line(value), remarks = remarks
    )
    state$kept[[key]] <- stage
  }
  stage$step <- step
  stage
}

# Only of the chain as it stands: stages of large pictures are large.
keep_stages <- function(state, keys) {
  old <- setdiff(ls(state$kept), keys)
  rm(list = old, envir = state$kept)
}

# The picture that is open, as read. Those for the disk are refused: a desk shows all pixels.
picture_of_desk <- function(state) {
  field_of_row(state$list[state$at, ], list(read = read_field), list())
}

# The unit that a batch of these pictures has; while only some are calibrated, that of the picture
# that is open.
desk_unit <- function(state) {
  own <- state$doc$calibrations[state$at]
  tryCatch(
    one_unit(state$doc$calibrations), bemrick_error = function(e) one_unit(own)
  )
}

problem_of_stages <- function(stages) {
  last <- stages[[length(stages)]]
  if (!is.null(last$error)) last
}

# The table that the stages end in, or NULL.
table_of_stages <- function(stages) {
  last <- stages[[length(stages)]]$value
  if (inherits(last, row_kinds)) last
}

# The last stage of one of these classes.
last_stage <- function(stages, classes) {
  for (stage in rev(stages)) if (inherits(stage$value, classes)) return(stage)
  NULL
}

# The field of what a stage made.
field_of_stage <- function(value) {
  if (inherits(value, "bm_field")) return(value)
  if (inherits(value, "bm_mask")) return(value$field)
  if (inherits(value, "bm_objects")) return(value$mask$field)
  if (inherits(value, "bm_layer")) return(value$field)
  field_of_rows(value)
}
