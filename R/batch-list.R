# Batch lists: which image belongs to which sample and batch.

batch_columns <- c("batch", "sample", "field", "image", "calibration")

optional_columns <- c("method", "magnification", "page", "channel")

#' Read a batch list
#'
#' A batch list is a CSV file with the columns `batch`, `sample`, `field`, `image`, `calibration`,
#' and, if wanted, `magnification`, `page`, `channel` (of [read_field()]) and `method`. Further
#' columns, such as `note` or `operator`, are kept: they stand in `fields.csv` and, where they are
#' filled in, in the report. One of them counts: where `override` holds a reason, the calibration is
#' taken although picture size or magnification do not fit it. Paths are relative to the list; both
#' slashes part folders.
#'
#' Lists of spreadsheets of any country are read: separated by commas, semicolons or tabs, in UTF-8,
#' UTF-16 or Windows-1252, with decimal commas where the separator is another sign, with a first
#' line `sep=;`, with rows and columns left empty.
#'
#' `calibration` is a file; a folder of calibrations, of which the one for the picture's
#' magnification is taken (from the column `magnification` or the name of the image); `tags` for the
#' scale in the image's own tags; `auto` for a calibration by magnification in the list's own folder
#' or its folder `calibrations`, and by tags where there is none; or empty for "measure in pixels".
#'
#' A whole list:
#' ```
#' batch,sample,field,image,calibration,note
#' AB-2611,A,1,images/ab-2611-a1.png,sem-500x.calibration.yml,
#' AB-2611,A,2,images/ab-2611-a2.png,sem-500x.calibration.yml,second operator
#' ```
#' [list_pictures()] and `bemrick list DIR` write one of a folder.
#'
#' @param file Path of the list.
#' @return A tibble, one row per image, paths made absolute.
#' @section Errors: A missing column, an empty cell, a field listed twice, an image or calibration
#'   file that is not there, or a calibration that cannot be picked is refused with its row before
#'   any work begins.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' read_batch_list(file.path(dir, "alumina-beads", "batch.csv"))
#' @export
read_batch_list <- function(file) {
  list <- read_sheet_file(file, c("magnification", "page"))
  where <- paste0(" in ", basename(file))
  check_own_columns(names(list), where)
  absent <- setdiff(batch_columns, names(list))
  if (length(absent)) {
    bm_abort(
      c("Column {.field {absent}} is missing{where}.", i = "Needed: {.field {batch_columns}}."),
      "file_content"
    )
  }
  if (nrow(list) == 0) bm_abort("There is no row{where}.", "file_content")
  for (name in setdiff(batch_columns, "calibration")) {
    empty <- which(is.na(list[[name]]))
    if (length(empty)) {
      bm_abort("Column {.field {name}}{where} is empty in row {empty[1] + 1}.", "file_content")
    }
  }
  twice <- which(duplicated(list[c("batch", "sample", "field")]))
  if (length(twice)) {
    bm_abort(
      "Row {twice[1] + 1}{where} lists a field that an earlier row has already (same batch, sample
       and field).",
      "file_content"
    )
  }
  list[setdiff(optional_columns, names(list))] <- NA_character_
  for (name in c("image", "calibration", "method")) list[[name]] <- list_paths(
    list[[name]], name, dirname(file), where
  )
  list <- read_list_columns(list, where)
  list$calibration <- picked_calibrations(list, dirname(file), where)

  list[union(c(batch_columns, optional_columns), names(list))]
}

# A column of the user's own is kept, but one that looks like ours misspelt would be missed.
check_own_columns <- function(names, where, call = rlang::caller_env()) {
  ours <- c(batch_columns, optional_columns)
  own <- setdiff(names, ours)
  close <- function(name, known, most) any(utils::adist(name, known, ignore.case = TRUE) <= most)
  for (name in own) {
    if (close(name, setdiff(batch_columns, names), 2) || close(name, ours, 1)) {
      check_known(name, ours, "column", where, call)
    }
  }
}

own_columns <- function(list) list[setdiff(names(list), c(batch_columns, optional_columns))]

read_list_columns <- function(list, where, call = rlang::caller_env()) {
  at_row <- function(k, value) {
    tryCatch(value, bemrick_error = function(e) {
      bm_abort("Row {k + 1}{where} cannot be used.", "file_content", parent = e, call = call)
    })
  }
  for (k in seq_len(nrow(list))) {
    at_row(
      k,
      if (!is.na(list$channel[k])) check_choice(list$channel[k], "channel", names(channel_weights))
    )
    list$magnification[k] <- at_row(
      k,
      if (is.na(list$magnification[k])) {
        magnification_of(basename(list$image[k]))
      } else {
        check_magnification(list$magnification[k])
      }
    )
  }
  page <- suppressWarnings(as.numeric(list$page))
  wrong <- which(
    !is.na(list$page) & (is.na(page) | page < 1 | page > most_pages | page != round(page))
  )
  if (length(wrong)) {
    bm_abort(
      "Column {.field page}{where} must hold whole numbers from 1 (row {wrong[1] + 1}).",
      "file_content", call = call
    )
  }
  list$page <- as.integer(page)

  list
}

# Folders and `auto` become the path of one file, or "tags".
picked_calibrations <- function(list, folder, where, call = rlang::caller_env()) {
  own <- file.path(folder, c(".", "calibrations"))
  own <- own[vapply(own, function(dir) length(calibration_files(dir)) > 0, NA)]
  vapply(
    seq_len(nrow(list)),
    function(k) {
      asked <- list$calibration[k]
      folders <- if (asked %in% "auto") own else if (!is.na(asked) && dir.exists(asked)) asked
      if (is.null(folders)) return(asked)
      files <- unlist(lapply(folders, calibrations_by_magnification))
      found <- unique(unname(files[names(files) %in% setdiff(list$magnification[k], NA)]))
      if (length(found) == 1) return(found)
      if (asked == "auto" && has_scale_tags(list$image[k])) return("tags")
      taken_at <- list$magnification[k]

      bm_abort(
        c(
          "No calibration can be picked for {.file {basename(list$image[k])}} (row
           {k + 1}{where}).",
          x = if (is.na(taken_at)) {
            "Neither the column {.field magnification} nor the image's name says a magnification."
          } else {
            "{length(found)} of the calibrations are for {taken_at}; they are for {names(files)}."
          },
          x = if (asked == "auto") {
            "Its tags carry no scale, or only a default of screens and printers."
          }
        ),
        "file_content", call = call
      )
    },
    ""
  )
}

# A damaged image has none, and is found faulty when its turn comes.
has_scale_tags <- function(image) {
  tryCatch({
    tags <- suppressWarnings(picture_scale(image, picture_header(image)))
    !is.null(tags) && (tags$kind == "OME-XML" || !is_default_resolution(tags))
  }, error = function(e) FALSE)
}

list_paths <- function(paths, name, folder, where, call = rlang::caller_env()) {
  paths <- gsub("\\", "/", paths, fixed = TRUE)
  word <- name == "calibration" & paths %in% c("auto", "tags")
  absolute <- ifelse(
    is.na(paths), NA_character_, ifelse(is_rooted(paths) | word, paths, file.path(folder, paths))
  )
  absent <- which(!is.na(absolute) & !word & !file.exists(absolute))
  if (length(absent)) {
    more <- length(absent) - 1
    bm_abort(c(
      "There is no {name} {.file {paths[absent[1]]}} (row {absent[1] + 1}{where}).",
      i = if (more > 0) {
        "{more} more file{?s} of column {.field {name}} {cli::qty(more)}{?is/are} missing."
      },
      i = "Paths are relative to the list."
    ), "file", call = call)
  }
  absolute
}

# A list made up for single images: each is a sample of its own with one field.
list_of_images <- function(
  images, calibration = NA_character_, page = NA_integer_, channel = NA_character_
) {
  for (image in images) check_file(image)
  if (!is.na(page)) page <- as.integer(check_number(page, "page", 1, most_pages, whole = TRUE))
  sample <- make.unique(sub("\\.[^.]*$", "", basename(images)), sep = "-")
  list <- tibble::tibble(
    batch = "single images", sample = sample, field = "1", image = images,
    calibration = calibration, method = NA_character_,
    magnification = magnification_of(basename(images)), page = page, channel = channel
  )
  list$calibration <- picked_calibrations(list, dirname(images[1]), "")
  list
}

# The list of a folder of pictures, ready to run.
list_of_folder <- function(dir, names, calibration) {
  list <- list_pictures(dir, names, calibration %||% NA)
  list$image <- file.path(dir, list$image)
  list[c("method", "channel")] <- NA_character_
  list$page <- NA_integer_
  list$magnification <- magnification_of(basename(list$image))
  known <- list$calibration %in% c("auto", "tags") | is.na(list$calibration)
  if (!all(known) && !dir.exists(calibration)) check_file(calibration)
  list$calibration <- picked_calibrations(list, dir, "")
  list
}

# The list a run was made from, as its results keep it; without calibrations and methods.
list_of_run <- function(run, call = rlang::caller_env()) {
  known <- run$provenance$pictures
  if (is.null(known)) {
    bm_abort(
      c(
        "The results in {.file {run$dir}} do not say where their pictures lie.",
        i = "Take the batch list they were made from."
      ),
      "file_content", call = call
    )
  }
  read <- function(name) vapply(known, function(p) as.character(p[[name]] %||% NA), "")
  image <- path_of_record(read("path"), run$dir)
  tibble::tibble(
    fields_once(run)[id_columns], image = image, calibration = NA_character_,
    method = NA_character_, magnification = magnification_of(basename(image)),
    page = as.integer(read("page")), channel = read("channel")
  )
}

# A row for each picture, whatever branches there are.
fields_once <- function(run) run$fields[!duplicated(run$fields[id_columns]), ]

# Paths of a record are seen from the results folder.
path_of_record <- function(path, dir) ifelse(is_rooted(path), path, file.path(dir, path))
