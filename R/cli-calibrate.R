cli_calibrate <- function(args) {
  about <- list(
    line = paste(
      "IMAGE --bar LENGTH | --marks PITCH | --grid PITCH | --tags | --pixels N --length LENGTH",
      "| --verify FILE [options]"
    ),
    what = paste(
      "Determines the pixel size and writes it to a calibration file, or verifies a calibration",
      "on a picture of something of known length."
    ),
    examples = c(
      "bemrick calibrate sem.png --bar \"50 um\" --name \"SEM 500x\" --out sem.calibration.yml",
      "bemrick calibrate ruler.png --marks \"0.1 mm\" --out light.calibration.yml --figure m.png",
      "bemrick calibrate tilted.png --grid \"1 mm\" --out stage.calibration.yml",
      "bemrick calibrate scan.tif --tags --out scan.calibration.yml",
      paste(
        "bemrick calibrate ruler.png --marks \"0.1 mm\" --standard graticule.standard.yml",
        "--due 2027-05-01 --out light.calibration.yml"
      ),
      "bemrick calibrate ruler.png --verify light.calibration.yml --marks \"0.1 mm\""
    )
  )
  parsed <- parse_words(
    args, "calibrate", about,
    list(
      option(
        "--bar",
        "Length of the scale bar in the information strip or over the sample, such as \"50 um\"",
        "LENGTH"
      ),
      option("--box", "Where the bar is: left,top,right,bottom in pixels", "BOX"),
      option(
        "--marks", "Distance of two marks of a ruler or graticule, such as \"0.1 mm\"", "PITCH"
      ),
      option(
        "--grid", "Distance of two dots or lines of a grid, seen straight or at a tilt", "PITCH"
      ),
      option("--tags", "Take the scale from the file's tags"),
      option("--trust", "Accept a screen or print resolution in the tags"),
      option("--pixels", "Length of a known stretch in pixels", "N"),
      option("--ends", "Ends of a known stretch, or of the bar: x1,y1,x2,y2 in pixels", "POINTS"),
      option("--length", "True length of that stretch, such as \"100 um\"", "LENGTH"),
      option("--verify", "Verify this calibration by --marks, or by --ends and --length", "FILE"),
      override_option(),
      option("--tolerance", "Largest deviation allowed by --verify [%default]", "SHARE", "1 %"),
      option("--standard", "File of the length standard, whose own uncertainty counts too", "FILE"),
      option("--due", "The day the calibration is due again", "YYYY-MM-DD"),
      option("--ledger", "With --verify: file the verification in this ledger", "LEDGER"),
      option("--instrument", "With --ledger: what measured", "NAME"),
      option("--operator", "With --ledger: who measured", "NAME"),
      option("--name", "Name of the calibration, usually the magnification", "TEXT"),
      option("--page", "Page of a TIFF with several", "N"),
      option("--out", "Calibration file to write", "FILE"),
      option("--figure", "Write what was found over the picture to this PNG", "FILE"),
      option("--replace", "Overwrite existing files")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (file in c(o$out, o$figure)) check_target(file, o$replace)
  field <- read_field(parsed$words, page = if (!is.null(o$page)) number_of_words(o$page, "page"))
  if (!is.null(o$verify)) return(verify_words(field, o))
  for (name in c("ledger", "instrument", "operator")) {
    if (!is.null(o[[name]])) usage(paste0("--", name, " goes with --verify."))
  }
  calibration <- calibration_of_words(field, o)
  calibration$name <- o$name
  calibration$date <- format(Sys.Date())
  if (!is.null(o$standard)) {
    calibration <- as_option(add_standard(calibration, o$standard), c(standard = "--standard"))
  }
  if (!is.null(o$due)) calibration <- as_option(set_due(calibration, o$due), c(due = "--due"))
  if (!is.null(o$out)) write_calibration(calibration, o$out, o$replace)
  if (!is.null(o$figure)) {
    save_figure(calibration_figure(field, calibration), o$figure, 1280, 800, o$replace)
  }
  tell(format(calibration))
  for (file in c(o$out, o$figure)) say("Wrote ", file)

  0L
}
register_command(
  "calibrate", "determine the pixel size from a bar, a ruler, a grid, tags or a length"
)

calibration_of_words <- function(field, o) {
  ends <- numbers_of_words(o$ends, "ends")
  ways <- c(
    bar = !is.null(o$bar), marks = !is.null(o$marks), grid = !is.null(o$grid), tags = o$tags,
    pixels = !is.null(o$pixels), ends = !is.null(ends) && is.null(o$bar)
  )
  if (sum(ways) != 1) {
    usage(paste0(
      "Give one of --bar, --marks, --grid, --tags, --pixels, or --ends with --length.\n",
      "See: bemrick calibrate --help"
    ))
  }
  length <- function() need_option(o, "length", "calibrate")
  switch(names(ways)[ways],
    bar = as_option(
      calibration_from_bar(field, o$bar, box = numbers_of_words(o$box, "box"), ends = ends),
      c(length = "--bar", box = "--box", ends = "--ends")
    ),
    marks = as_option(calibration_from_marks(field, o$marks), c(pitch = "--marks")),
    grid = as_option(calibration_from_grid(field, o$grid), c(pitch = "--grid")),
    tags = calibration_from_tags(field, trust = o$trust),
    pixels = as_option(
      calibration_from_length(number_of_words(o$pixels, "pixels"), length()),
      c(pixels = "--pixels", length = "--length")
    ),
    ends = as_option(
      calibration_from_length(length = length(), from = ends[1:2], to = ends[3:4]),
      c(length = "--length", from = "--ends", to = "--ends")
    )
  )
}

# Exit status 0 when the calibration holds, 1 when it does not or nobody can tell.
verify_words <- function(field, o) {
  if (is.null(o$due) != is.null(o$out)) {
    usage("With --verify, --due goes with --out: the calibration to write with its new day.")
  }
  check_ledger_option(o)
  calibration <- read_calibration(o$verify)
  calibration$file <- basename(o$verify)
  if (!is.null(o$due)) calibration <- as_option(set_due(calibration, o$due), c(due = "--due"))
  field <- calibrate(field, calibration, override = !is.null(o$override))
  check <- check_of_words(field, o)
  tell(format(check))
  if (!is.null(o$ledger)) file_check_of_words(check, o)
  if (check$verdict != "pass") return(1L)
  if (!is.null(o$out)) {
    write_calibration(calibration, o$out, o$replace)
    say("Wrote ", o$out)
  }

  0L
}

check_of_words <- function(field, o) {
  ends <- numbers_of_words(o$ends, "ends")
  if (is.null(ends) == is.null(o$marks)) {
    usage("Say --marks, or --ends with --length, to verify by.\nSee: bemrick calibrate --help")
  }
  known <- o$marks %||% need_option(o, "length", "calibrate")
  as_option(
    verify_calibration(
      field, known, ends[1:2], ends[3:4], tolerance = o$tolerance, standard = o$standard
    ),
    c(
      length = if (is.null(ends)) "--marks" else "--length", from = "--ends", to = "--ends",
      tolerance = "--tolerance", standard = "--standard"
    )
  )
}

file_check_of_words <- function(check, o) {
  with_ledger(o$ledger, function(ledger) {
    entry <- as_option(
      file_check(ledger, check, o$instrument, o$operator),
      c(instrument = "--instrument", operator = "--operator")
    )
    tell(paste("Filed the verification as entry", entry))
  })
}
