cli_calibrate <- function(args) {
  about <- list(
    line = "IMAGE --bar LENGTH | --marks PITCH | --tags | --pixels N --length LENGTH [options]",
    what = "Finds the length of a pixel and writes it to a calibration file.",
    examples = c(
      "bemrick calibrate sem.png --bar \"50 um\" --name \"SEM 500x\" --out sem-500x.calibration.yml",
      "bemrick calibrate graticule.png --marks \"0.1 mm\" --out light-200x.calibration.yml --figure marks.png",
      "bemrick calibrate scan.tif --tags --out scan.calibration.yml"
    )
  )
  parsed <- parse_words(args, "calibrate", about, list(
    option("--bar", "Length of the scale bar in the information strip, such as \"50 um\"", "LENGTH"),
    option("--box", "Where the bar is: left,top,right,bottom in pixels", "BOX"),
    option("--marks", "Distance of two marks of a ruler or graticule, such as \"0.1 mm\"", "PITCH"),
    option("--tags", "Take the scale from the file's tags"),
    option("--trust", "Take a screen or print resolution in the tags for true"),
    option("--pixels", "Length of a known stretch in pixels", "N"),
    option("--length", "True length of that stretch, such as \"100 um\"", "LENGTH"),
    option("--name", "Name of the calibration, usually the magnification", "TEXT"),
    option("--out", "Calibration file to write", "FILE"),
    option("--figure", "Write what was found over the picture to this PNG", "FILE"),
    option("--replace", "Write over files that are there")
  ), 1, 1)
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  ways <- c(bar = !is.null(o$bar), marks = !is.null(o$marks), tags = o$tags, pixels = !is.null(o$pixels))
  if (sum(ways) != 1) usage("Say one of --bar, --marks, --tags or --pixels.\nSee: bemrick calibrate --help")
  field <- read_field(parsed$words)
  calibration <- switch(names(ways)[ways],
    bar = calibration_from_bar(field, o$bar, box = box_of_words(o$box), name = o$name),
    marks = calibration_from_marks(field, o$marks, name = o$name),
    tags = calibration_from_tags(field, trust = o$trust),
    pixels = calibration_from_length(
      number_of_words(o$pixels, "pixels"), need_option(o, "length", "calibrate"), name = o$name
    )
  )
  calibration$name <- o$name
  calibration$date <- format(Sys.Date())
  if (!is.null(o$out)) write_calibration(calibration, o$out, o$replace)
  if (!is.null(o$figure)) {
    write_beside(
      o$figure, function(path) save_figure(calibration_figure(field, calibration), path, 1280, 800), o$replace
    )
  }
  tell(format(calibration))
  for (file in c(o$out, o$figure)) say("Written: ", file)
  0L
}

number_of_words <- function(text, name) {
  value <- suppressWarnings(as.numeric(text))
  if (is.na(value)) usage(paste0("--", name, " must be a number, not \"", text, "\"."))
  value
}

box_of_words <- function(text) {
  if (is.null(text)) return(NULL)
  vapply(strsplit(text, ",")[[1]], number_of_words, 0, name = "box", USE.NAMES = FALSE)
}
