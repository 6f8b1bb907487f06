cli_measure <- function(args) {
  about <- list(
    line = "IMAGE...|DIR --method FILE --out DIR [options]",
    what = paste(
      "Measures single pictures, or all of a folder, by a method, and writes tables, outlines and",
      "overlays."
    ),
    examples = paste(
      "bemrick measure a.png b.png --method beads.method.yml --calibration sem.calibration.yml",
      "--out results"
    )
  )
  parsed <- parse_words(
    args, "measure", about,
    c(
      run_options(),
      option(
        "--calibration",
        "Calibration file, a folder of them, tags or auto; without it all is in pixels", "FILE"
      ),
      override_option(), option("--page", "Page of TIFFs with several", "N"),
      option("--channel", "Grey of colour pictures: luminance, red, green or blue", "NAME")
    ),
    1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (name in c("method", "out")) need_option(o, name, "measure")
  if (!is.null(o$calibration) && !o$calibration %in% c("auto", "tags") &&
      !dir.exists(o$calibration)) {
    check_file(o$calibration)
  }
  list <- list_of_images(
    pictures_of_words(parsed$words), o$calibration %||% NA_character_,
    if (is.null(o$page)) NA_integer_ else number_of_words(o$page, "page"),
    o$channel %||% NA_character_
  )
  list$override <- o$override
  run <- run_of_words(list, o)
  tell_run(run, o)
  show_samples(run, o$json)
  reported <- report_words(o)

  if (!reported) 2L else if (any(run$fields$status == "faulty")) 1L else 0L
}
register_command("measure", "measure single images by a method")
