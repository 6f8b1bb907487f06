# Commands that measure single pictures: one file of rows, a figure of each.

picture_options <- function(rows, printed) {
  list(
    option("--calibration", "Calibration file of the pictures", "FILE"), override_option(),
    option("--out", paste("Table of all", rows, "to write (.csv)"), "FILE"),
    option("--figures", "Folder for a figure of each picture", "DIR"),
    option("--replace", "Overwrite existing files"),
    option("--json", paste("Print the", printed, "as JSON"))
  )
}

# The rows that `measure(field)` gives of every picture, by its name; NULL of those that show
# nothing or cannot be read, which is said. What is wrong with the words is wrong with all pictures:
# of a single one it is an error.
rows_of_pictures <- function(words, o, measure) {
  if (!is.null(o$calibration)) o$calibration <- read_calibration(o$calibration)
  images <- pictures_of_words(words)
  figures <- figure_files(images, o$figures)
  for (file in c(o$out, figures)) check_target(file, o$replace)

  found <- lapply(seq_along(images), function(k) {
    rows <- tryCatch(measure(scaled_field(images[k], o)), bemrick_error = function(e) {
      alone <- length(images) == 1 && !inherits(e, "bemrick_error_not_found")
      if (alone) rlang::cnd_signal(e)
      say("Left out: ", basename(images[k]), ": ", error_words(e))
    })
    if (!is.null(rows) && !is.null(figures)) {
      figure <- ggplot2::autoplot(rows, title = basename(images[k]))
      save_figure(figure, figures[k], 1280, 800, o$replace)
    }
    rows
  })
  stats::setNames(found, basename(images))
}

# Writes all rows, prints what `shown(rows, image)` makes of those of each picture, and gives the
# exit status.
finish_pictures <- function(found, o, shown) {
  read <- Filter(Negate(is.null), found)
  if (length(read) == 0) return(1L)
  if (!is.null(o$out)) {
    tables <- Map(function(rows, image) {
      tibble::tibble(image = rep(image, nrow(rows)), tibble::as_tibble(rows))
    }, read, names(read))
    write_table_file(do.call(rbind, unname(tables)), o$out, o$replace)
  }
  show_table(do.call(rbind, unname(Map(shown, read, names(read)))), o$json)
  for (file in c(o$out, o$figures)) say("Wrote ", file)

  if (length(read) == length(found)) 0L else 1L
}
