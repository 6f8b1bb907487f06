cli_look <- function(args) {
  about <- list(
    line = "RESULTS --field F [--id N | --at X,Y] [--out FILE] [options]",
    what = paste(
      "Looks up an object of a results folder: prints its row, and draws it in its picture;",
      "without --id and --at, draws all objects of the field over the picture."
    ),
    examples = c(
      "bemrick look results --sample a --field 2 --id 17 --out object-17.png",
      "bemrick look results --sample a --field 2 --of ecd --out field-2.pdf"
    )
  )
  parsed <- parse_words(
    args, "look", about,
    list(
      option("--batch", "Batch of the field, where there are several", "NAME"),
      option("--sample", "Sample of the field, where there are several", "NAME"),
      option("--field", "Name of the field", "NAME"),
      option("--branch", "Branch of the method, where several measure objects", "NAME"),
      option("--id", "Number of the object", "N"),
      option("--at", "A point within the object, in pixels, instead of its number", "X,Y"),
      option("--of", "Colour objects by the classes of this measure, such as ecd", "MEASURE"),
      option("--no-numbers", "Leave out the objects' numbers"),
      option("--images", "Folder of the pictures, when they were moved", "DIR"),
      option("--out", "Figure to write (.png, .pdf or .svg)", "FILE"),
      option("--replace", "Overwrite an existing figure"), option("--json", "Print the row as JSON")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  one <- !is.null(o$id) || !is.null(o$at)
  if (!one && is.null(o$out)) usage("--id, --at or --out is needed.\nSee: bemrick look --help")
  if (!is.null(o$id) && !is.null(o$at)) usage("Give --id or --at, not both.")
  if (!is.null(o$out)) check_target(o$out, o$replace)
  measures <- as_option(
    measures_of(read_run(parsed$words), o$field, o$sample, o$batch, o$images, o$branch),
    c(
      field = "--field", branch = "--branch", sample = "--sample", batch = "--batch",
      images = "--images"
    )
  )
  if (one) {
    point <- if (!is.null(o$at)) numbers_of_words(o$at, "at", 2)
    found <- as_option(
      look_up(
        measures, if (!is.null(o$id)) number_of_words(o$id, "id"), point[1], point[2]
      ),
      c(id = "--id", x = "--at", y = "--at")
    )
    if (o$json) show_table(found$row, TRUE) else tell(format(found))
  }
  if (!is.null(o$out)) {
    figure <- if (one) ggplot2::autoplot(found) else as_option(
      ggplot2::autoplot(
        measures, measure_file(measures), of = o$of, numbers = !o[["no-numbers"]]
      ),
      c(of = "--of")
    )
    save_figure(figure, o$out, replace = o$replace)
    say("Wrote ", o$out)
  }
  0L
}
register_command("look", "look up an object of a results folder")
