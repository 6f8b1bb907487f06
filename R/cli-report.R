cli_report <- function(args) {
  about <- list(
    line = "DIR", what = "Writes the report of a results folder again, as one self-contained page.",
    examples = "bemrick report results"
  )
  parsed <- parse_words(args, "report", about, list(), 1, 1)
  if (is.null(parsed)) return(0L)
  say("Report: ", render_report(parsed$words))
  0L
}
