cli_report <- function(args) {
  about <- list(
    line = "DIR",
    what = paste(
      "Writes the report of a results folder: one self-contained page, a PDF, a document or a",
      "workbook."
    ),
    examples = c(
      "bemrick report results",
      "bemrick report results --format pdf --lab lab.yml --facts \"customer=Norvale; order=4711\"",
      "bemrick report results --classes \"5 um\" --measures feret_max,circularity"
    )
  )
  parsed <- parse_words(args, "report", about, report_options(), 1, 1)
  if (is.null(parsed)) return(0L)
  say("Report: ", report_of_words(parsed$words, parsed$options))
  0L
}
register_command("report", "write the report of a results folder again")
