cli_report <- function(args) {
  about <- list(
    line = "DIR", what = "Writes the report of a results folder again, as one self-contained page.",
    examples = c("bemrick report results", "bemrick report results --classes \"5 um\"")
  )
  parsed <- parse_words(args, "report", about, list(classes_option()), 1, 1)
  if (is.null(parsed)) return(0L)
  say("Report: ", render_report(parsed$words, classes_of_words(parsed$options$classes)))
  0L
}
register_command("report", "write the report of a results folder again")
