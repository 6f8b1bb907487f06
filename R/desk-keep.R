# What a desk leaves behind: the files that run without it, and a session that can be taken up
# again.

session_ending <- ".desk.json"

#' Save what was done at a desk
#'
#' Writes `NAME.method.yml` (the steps with cuts, joins, exclusions, regions and paths),
#' `NAME.list.csv` (the batch list of the pictures), a calibration file for each scale that was
#' found at the desk, and `NAME.desk.json` (the session, with every action). `bemrick batch
#' NAME.list.csv --method NAME.method.yml` then gives the tables that the desk showed; `read_desk()`
#' of the session opens the desk as it was, with all that can be undone.
#'
#' @param state A `bm_desk`.
#' @param folder Folder to write into; it is made when it is not there.
#' @param name What the files' names begin with.
#' @param replace Whether files of that name may be overwritten.
#' @param file Path of a session.
#' @return `save_desk()` the paths of the files, invisibly; `read_desk()` a `bm_desk`.
#' @section Errors: Class `bemrick_error_exists` for files that are there already, before any is
#'   written; `bemrick_error_session` when an action of a session cannot be done again.
#' @examples
#' desk <- desk_state(system.file("extdata", "beads.png", package = "bemrick"))
#' desk <- desk_act(
#'   desk, list(do = "scale", by = "length", length = "100 um", ends = c(0, 0, 240, 0))
#' )
#' folder <- tempfile()
#' save_desk(desk, folder, "beads")
#' list.files(folder)
#' read_desk(file.path(folder, "beads.desk.json"))
#' @export
save_desk <- function(state, folder, name = "desk", replace = FALSE) {
  check_desk(state)
  check_text(folder, "folder")
  check_file_stem(name)
  check_flag(replace, "replace")
  steady_session()
  method <- desk_method(state)
  make_folder(folder)
  scales <- scales_to_write(state, folder, name)
  named <- function(ending) file.path(folder, paste0(name, ending))
  files <- c(
    method = named(".method.yml"), list = named(".list.csv"), scales$files,
    session = named(session_ending)
  )
  for (one in files) check_target(one, replace)
  write_method(method, files[["method"]], replace)
  write_scales(scales, replace)
  list <- state$list
  list$calibration <- scales$of
  for (column in c("image", "calibration", "method")) {
    known <- !is.na(list[[column]]) & list[[column]] != "tags"
    list[[column]][known] <- vapply(list[[column]][known], relative_path, "", folder)
  }
  write_table_file(list, files[["list"]], replace)
  write_json(session_content(state, folder), files[["session"]], replace)
  invisible(files)
}

# list(files, values: calibrations that have no file; of: the path of every picture's).
scales_to_write <- function(state, folder, name) {
  calibrations <- state$doc$calibrations
  new <- vapply(calibrations, function(c) inherits(c, "bm_calibration") && is.null(c$file), NA)
  values <- unique(calibrations[new])
  names <- make.unique(rep(name, length(values)), "-")
  files <- sprintf("%s/%s.calibration.yml", folder, names)
  of <- vapply(seq_along(calibrations), function(k) {
    own <- calibrations[[k]]
    if (is.null(own)) return(NA_character_)
    if (!new[k]) return(if (identical(own, "tags")) "tags" else own$path)
    files[match(list(own), values)]
  }, "")
  list(files = files, values = values, of = of)
}

write_scales <- function(scales, replace) {
  for (k in seq_along(scales$files)) {
    write_calibration(scales$values[[k]], scales$files[[k]], replace)
  }
}

check_file_stem <- function(name, call = rlang::caller_env()) {
  check_text(name, "name", call)
  if (!grepl("^[[:alnum:]][[:alnum:] _.-]*$", name) || nchar(name) > 80) {
    bm_abort(
      c(
        "{.val {name}} cannot be the name of files.",
        i = "Use letters, digits, spaces, dots, hyphens and underscores, at most 80."
      ),
      "argument", call = call
    )
  }
  invisible(name)
}

# What it began with, and every action since.
session_content <- function(state, folder) {
  first <- c(state$past, list(state$doc))[[1]]
  method <- new_method(
    first$steps, first$title, first$objects, report = first$report, branches = first$branches
  )
  scales <- unique(first$calibrations)
  list <- state$list
  list$image <- vapply(list$image, relative_path, "", folder)
  list(
    bemrick = "desk 1", list = list, method = method_content(method),
    scales = lapply(scales, function(c) {
      if (inherits(c, "bm_calibration")) c(calibration_content(c), path = c$path) else c
    }),
    scale = match(first$calibrations, scales), spec = first$spec$path, actions = state$actions
  )
}

#' @rdname save_desk
#' @export
read_desk <- function(file) {
  steady_session()
  given <- read_json(check_file(file), simplifyVector = FALSE)
  if (!identical(given$bemrick, "desk 1")) {
    bm_abort("{.file {basename(file)}} is not a session of a desk.", "file_content")
  }
  state <- tryCatch(state_of_session(given, dirname(file)), error = function(e) {
    bm_abort("The session {.file {basename(file)}} cannot be opened.", "session", parent = e)
  })
  for (k in seq_along(given$actions)) {
    state <- tryCatch(desk_act(state, given$actions[[k]]), bemrick_error = function(e) {
      bm_abort(
        c(
          "Action {k} of {length(given$actions)} of {.file {basename(file)}} cannot be done again.",
          i = "Pictures and files must be as they were when it was saved."
        ),
        "session", parent = e
      )
    })
  }
  state
}

state_of_session <- function(given, folder) {
  list <- data_as_lines(given$list, c(batch_columns, optional_columns))
  list$page <- as.integer(list$page)
  text <- c(batch_columns, setdiff(optional_columns, "page"))
  list[text] <- lapply(list[text], as.character)
  here <- !is_rooted(list$image)
  list$image[here] <- file.path(folder, list$image[here])
  method <- method_of_content(given$method, "the session", NULL, folder)
  scales <- lapply(given$scales, function(c) {
    if (!is.list(c) || length(c) == 0) return(if (is.character(c)) c)
    scale <- calibration_of_content(c[names(c) != "path"], " in the session")
    scale["path"] <- list(c$path)
    if (!is.null(c$path)) scale$file <- basename(c$path)
    scale
  })
  spec <- if (!is.null(given$spec)) spec_from(given$spec)
  new_desk(list, c(
    doc_of_method(method),
    list(
      calibrations = scales[unlist(given$scale)], spec = spec,
      marks = rep("untouched", nrow(list))
    )
  ))
}
