# The list of pictures a desk is opened on, with a calibration for those that name none.

list_of_names <- function(names, calibration, call) {
  check_texts(names, "pictures", call = call)
  if (length(names) == 1 && grepl("\\.csv$", names, ignore.case = TRUE)) {
    return(read_batch_list(names))
  }
  list_of_images(pictures_of_words(names), calibration %||% NA_character_)
}

# For the pictures that have none.
with_calibration <- function(list, calibration, call = rlang::caller_env()) {
  without <- is.na(list$calibration)
  if (is.null(calibration) || !any(without)) return(list)
  list$calibration[without] <- calibration
  list$calibration <- picked_calibrations(list, dirname(list$image[1]), "", call)
  list
}
