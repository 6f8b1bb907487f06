cli_outlines <- function(args) {
  about <- list(
    line = "RESULTS DIR [options]",
    what = paste(
      "Writes the outlines of all objects of a results folder for other programs: a GeoJSON file",
      "per field, in lengths."
    ),
    examples = "bemrick outlines results for-the-customer --unit um"
  )
  parsed <- parse_words(
    args, "outlines", about,
    list(option(
      "--unit", "Unit of the coordinates: nm, um, mm or in [that of the results]", "UNIT"
    )),
    2, 2
  )
  if (is.null(parsed)) return(0L)
  dir <- as_option(
    export_outlines(parsed$words[1], parsed$words[2], parsed$options$unit),
    c(run = "RESULTS", dir = "DIR", unit = "--unit")
  )
  say("Wrote ", length(list.files(dir)), " files to ", dir)
  0L
}
register_command("outlines", "write the outlines of results for other programs, in lengths")
