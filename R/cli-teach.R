cli_teach <- function(args) {
  about <- list(
    line = "IMAGE --box L,T,R,B --out FILE [options]",
    what = paste(
      "Learns the contour of a part from a picture and writes it to a pattern file, by which",
      "\"bemrick locate\" finds the part anywhere, in any turn. Look at the figure before use."
    ),
    examples = c(
      "bemrick teach plate.png --box 120,80,260,210 --name clip --out clip.pattern.yml \\",
      "  --figure clip.png"
    )
  )
  parsed <- parse_words(
    args, "teach", about,
    list(
      option("--box", "The part and a little around it: left, top, right and bottom in pixels",
        "L,T,R,B"),
      option("--circle", "The same as a circle: centre and radius in pixels", "X,Y,R"),
      option("--polygon", "The same as a polygon: its corners in pixels", "X,Y,X,Y,..."),
      option("--name", "What the part is called [%default]", "NAME", "part"),
      option("--also", "More pictures of the part, with commas between: what is not in all of them
                is dropped", "IMAGES"),
      option("--calibration", "Calibration file of the pictures", "FILE"), override_option(),
      option("--out", "Pattern file to write (.yml)", "FILE"),
      option("--figure", "Draw the pattern over the picture (.png, .pdf or .svg)", "FILE"),
      option("--replace", "Overwrite existing files")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  need_option(o, "out", "teach")
  for (file in c(o$out, o$figure)) check_target(file, o$replace)
  region <- region_of_words(o)
  field <- scaled_field(parsed$words, o)
  also <- lapply(strsplit(o$also %||% "", ",", fixed = TRUE)[[1]], scaled_field, o)
  pattern <- as_option(
    teach_pattern(field, region, o$name, also),
    c(region = paste0("--", names(region)), name = "--name", also = "--also")
  )
  write_pattern(pattern, o$out, o$replace)
  if (!is.null(o$figure)) save_figure(pattern, o$figure, 1280, 800, o$replace)
  tell(format(pattern))
  for (file in c(o$out, o$figure)) say("Wrote ", file)

  0L
}
register_command("teach", "learn the contour of a part from a picture")

region_of_words <- function(o) {
  given <- Filter(Negate(is.null), o[c("box", "circle", "polygon")])
  if (length(given) != 1) {
    usage("Give one of --box, --circle and --polygon.\nSee: bemrick teach --help")
  }
  kind <- names(given)
  count <- if (kind == "polygon") NULL else c(box = 4, circle = 3)[[kind]]
  numbers <- as.list(numbers_of_words(given[[1]], kind, count))
  stats::setNames(list(numbers), kind)
}

# A picture with the calibration that the words name.
scaled_field <- function(file, o) {
  field <- read_field(file)
  if (is.null(o$calibration)) return(field)
  calibrate(field, o$calibration, override = !is.null(o$override))
}
