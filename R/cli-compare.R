# `bemrick compare`: two results folders held against each other.

cli_compare <- function(args) {
  about <- list(
    line = "RESULTS RESULTS [options]",
    what = paste(
      "Compares the sizes of two results folders: percentiles, their shift and its interval.",
      "Exit status 1 when they differ."
    ),
    examples = "bemrick compare march/results april/results --weight area --figure shift.png"
  )
  parsed <- parse_words(
    args, "compare", about,
    list(
      option("--of", "Measure, such as ecd", "NAME"),
      option("--branch", "Branch of the method, where it has several", "NAME"),
      option("--weight", "number, length, area or volume", "NAME"),
      option("--figure", "Write both curves as a PNG", "FILE"),
      option("--replace", "Overwrite an existing figure"),
      option("--json", "Print the table as JSON")
    ),
    2, 2
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  if (!is.null(o$figure)) check_target(o$figure, o$replace)
  runs <- lapply(parsed$words, run_of_branch, o)
  shift <- compare_distributions(runs[[1]], runs[[2]], o$of %||% "ecd", o$weight %||% "number")
  if (!is.null(o$figure)) {
    save_figure(
      ggplot2::autoplot(shift, folder_names(parsed$words)), o$figure, 1280, 860, o$replace
    )
    say("Figure: ", o$figure)
  }
  s <- shift$shifts
  show_table(
    data.frame(
      percentile = paste0("D", s$p), first = s$a, second = s$b, shift = s$shift, low = s$low,
      high = s$high, unit = show_units(shift$unit), differs = ifelse(s$differs, "yes", "not shown")
    ),
    o$json
  )

  if (any(s$differs)) 1L else 0L
}
register_command("compare", "compare the sizes of two results folders")

# What two folders are called: their own names, or where those are alike, those of the folders they
# lie in.
folder_names <- function(folders) {
  folders <- normalizePath(folders)
  names <- basename(folders)
  if (names[1] == names[2]) names <- basename(dirname(folders))
  make.unique(names)
}
