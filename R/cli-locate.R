cli_locate <- function(args) {
  about <- list(
    line = "IMAGE...|DIR --pattern FILE [options]",
    what = paste(
      "Finds every instance of a taught part in pictures: place, turn and score, a row each. Exit",
      "status 1 when a picture does not show it, or cannot be read."
    ),
    examples = c(
      "bemrick locate plate.png --pattern clip.pattern.yml --figures found",
      "bemrick locate plates --pattern clip.pattern.yml --turn -20,20 --out finds.csv"
    )
  )
  parsed <- parse_words(
    args, "locate", about,
    list(
      option("--pattern", "Pattern file (bemrick teach)", "FILE"),
      option("--score", "Least share of the contour that must be found [%default]", "S", "0.55"),
      option("--most", "At most so many finds a picture, the best ones", "N"),
      option("--turn", "Turns to look at, in degrees counter-clockwise [all]", "FROM,TO"),
      option("--scale", "Sizes to look at, beside the taught one [1]", "FROM,TO"),
      option("--contrast", "same: bright and dark as taught; either: or exchanged [%default]",
        "WORD", "same"),
      option("--calibration", "Calibration file of the pictures", "FILE"), override_option(),
      option("--out", "Table of all finds to write (.csv)", "FILE"),
      option("--figures", "Folder for a figure of each picture", "DIR"),
      option("--replace", "Overwrite existing files"), option("--json", "Print the finds as JSON")
    ),
    1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  pattern <- read_pattern(need_option(o, "pattern", "locate"))
  if (!is.null(o$calibration)) o$calibration <- read_calibration(o$calibration)
  images <- pictures_of_words(parsed$words)
  figures <- figure_files(images, o$figures)
  for (file in c(o$out, figures)) check_target(file, o$replace)
  score <- number_of_words(o$score, "score")  # words are refused before any picture is read
  found <- lapply(seq_along(images), function(k) {
    field <- tryCatch(scaled_field(images[k], o), bemrick_error = function(e) {
      say("Left out: ", basename(images[k]), ": ", error_words(e))
    })
    if (is.null(field)) return(NULL)
    finds <- finds_of_words(field, pattern, score, o)
    if (!is.null(figures)) {
      save_figure(
        ggplot2::autoplot(finds, basename(images[k])), figures[k], 1280, 800, o$replace
      )
    }
    tibble::tibble(image = rep(basename(images[k]), nrow(finds)), tibble::as_tibble(finds))
  })
  read <- !vapply(found, is.null, NA)
  if (!any(read)) return(2L)
  table <- do.call(rbind, found[read])
  if (!is.null(o$out)) write_table_file(table, o$out, o$replace)
  show_table(shown_finds(table), o$json)
  missed <- images[read][vapply(found[read], nrow, 0L) == 0]
  if (length(missed)) say("Not found in ", paste(basename(missed), collapse = ", "))
  for (file in c(o$out, o$figures)) say("Wrote ", file)

  if (length(missed) || !all(read)) 1L else 0L
}
register_command("locate", "find a taught part in pictures")

finds_of_words <- function(field, pattern, score, o) {
  range <- function(name) if (!is.null(o[[name]])) numbers_of_words(o[[name]], name, 2)
  as_option(
    locate_pattern(
      field, pattern, score,
      if (!is.null(o$most)) number_of_words(o$most, "most"), range("turn"), range("scale"),
      o$contrast
    ),
    c(
      score = "--score", most = "--most", turn = "--turn", scale = "--scale",
      contrast = "--contrast"
    )
  )
}

figure_files <- function(images, folder) {
  if (is.null(folder)) return(NULL)
  dir.create(folder, showWarnings = FALSE, recursive = TRUE)
  names <- sub("\\.[^.]*$", "", basename(images))
  file.path(folder, paste0(make.unique(names, "-"), ".png"))
}

# What a person reads first.
shown_finds <- function(table) {
  hidden <- c("inverted", "accepted", "reason", "weight")
  if (!all(c("x_px", "y_px") %in% names(table))) return(table)
  if (any(grepl("^u_x_(nm|um|mm|in)$", names(table)))) hidden <- c(hidden, "x_px", "y_px")
  table[setdiff(names(table), hidden)]
}
