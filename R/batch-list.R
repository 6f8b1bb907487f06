# Batch lists: which image belongs to which sample and batch.

batch_columns <- c("batch", "sample", "field", "image", "calibration")

#' Read a batch list
#'
#' A batch list is a CSV file with the columns `batch`, `sample`, `field`, `image`, `calibration`, and, if
#' wanted, `method` and `note`. Paths are relative to the list. An empty `calibration` means "measure in pixels".
#'
#' @param file Path of the list.
#' @return A tibble, one row an image, paths made absolute.
#' @section Errors: A missing column, an empty cell, a field listed twice, or an image or calibration file that is
#'   not there is refused with its row before any work begins.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' read_batch_list(file.path(dir, "alumina-beads", "batch.csv"))
#' @export
read_batch_list <- function(file) {
  list <- read_table_file(file)
  where <- paste0(" in ", basename(file))
  check_known(names(list), c(batch_columns, "method", "note"), "column", where)
  absent <- setdiff(batch_columns, names(list))
  if (length(absent)) {
    bm_abort(c("Column {.field {absent}} is missing{where}.", i = "Needed: {.field {batch_columns}}."), "file_content")
  }
  if (nrow(list) == 0) bm_abort("There is no row{where}.", "file_content")
  for (name in setdiff(batch_columns, "calibration")) {
    empty <- which(is.na(list[[name]]))
    if (length(empty)) bm_abort("Column {.field {name}}{where} is empty in row {empty[1] + 1}.", "file_content")
  }
  twice <- which(duplicated(list[c("batch", "sample", "field")]))
  if (length(twice)) {
    bm_abort(
      "Row {twice[1] + 1}{where} lists a field that an earlier row has already (same batch, sample and field).",
      "file_content"
    )
  }
  if (!"method" %in% names(list)) list$method <- NA_character_
  for (name in c("image", "calibration", "method")) list[[name]] <- list_paths(list[[name]], name, dirname(file), where)
  list[c(batch_columns, "method")]
}

list_paths <- function(paths, name, folder, where, call = rlang::caller_env()) {
  rooted <- grepl("^(/|[A-Za-z]:)", paths)
  absolute <- ifelse(is.na(paths), NA_character_, ifelse(rooted, paths, file.path(folder, paths)))
  absent <- which(!is.na(absolute) & !file.exists(absolute))
  if (length(absent)) {
    bm_abort(c(
      "There is no {name} {.file {paths[absent[1]]}} (row {absent[1] + 1}{where}).",
      i = if (length(absent) > 1) "{length(absent) - 1} more {name} file{?s} {?is/are} missing.",
      i = "Paths are relative to the list."
    ), "file", call = call)
  }
  absolute
}

# A list made up for single images: each is a sample of its own with one field.
list_of_images <- function(images, calibration = NA_character_) {
  for (image in images) check_file(image)
  sample <- make.unique(sub("\\.[^.]*$", "", basename(images)), sep = "-")
  tibble::tibble(batch = "single images", sample = sample, field = "1", image = images,
                 calibration = calibration, method = NA_character_)
}
