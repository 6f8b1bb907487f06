# Figures as files.

#' Save a figure
#'
#' Writes a PNG, PDF or SVG by the file's ending, on a white background, at a size that suits a
#' page.
#'
#' @param figure A figure, as [ggplot2::autoplot()] gives it, or an object that has one.
#' @param file File to write: `.png`, `.pdf` or `.svg`.
#' @param width,height Size in pixels of 1/144 inch; the default is 8.9 x 6.9 inches.
#' @param replace Whether to overwrite an existing file.
#' @return The path, invisibly.
#' @section Errors: Class `bemrick_error_exists` for a file that is there already,
#'   `bemrick_error_argument` for another ending.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field))))
#' save_figure(size_distribution(measures), tempfile(fileext = ".pdf"))
#' @export
save_figure <- function(figure, file, width = 1280, height = 1000, replace = FALSE) {
  check_flag(replace, "replace")
  check_text(file, "file")
  width <- check_number(width, "width", 50, 20000)
  height <- check_number(height, "height", 50, 20000)
  if (inherits(figure, c(
    "bemrick", row_kinds, "bm_edges", "bm_profile", "bm_histogram"
  ))) {
    figure <- ggplot2::autoplot(figure)
  }
  check_class(figure, "ggplot", "figure", "Make one with {.fn autoplot}.")
  ending <- tolower(sub(".*[.]", "", basename(file)))
  if (!ending %in% c("png", "pdf", "svg")) {
    bm_abort(
      "{.arg file} must end in .png, .pdf or .svg, not {.val {basename(file)}}.", "argument"
    )
  }
  check_target(file, replace)

  bytes <- if (ending == "png") figure_png(figure, width, height)
  else figure_vectors(figure, ending, width / 144, height / 144)
  write_bytes(bytes, file, replace)
}

# A figure as the bytes of a PDF or SVG; sizes in inches.
figure_vectors <- function(figure, kind, width, height) {
  made <- tempfile()
  on.exit(unlink(made))
  device <- if (kind == "pdf") grDevices::cairo_pdf else grDevices::svg
  device(made, width = width, height = height)
  tryCatch(print(figure), finally = grDevices::dev.off())
  file_bytes(made)
}
