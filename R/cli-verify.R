cli_verify <- function(args) {
  about <- list(
    line = "RESULTS [options]",
    what = paste(
      "Compares the files of a results folder, and those it was made from, with the hashes that",
      "were kept; with --again repeats the run and compares its numbers. The status is 1 where",
      "anything is not as it was."
    ),
    examples = c("bemrick verify results", "bemrick verify results --again --workers 2")
  )
  parsed <- parse_words(args, "verify", about, list(
    option("--again", "Repeat the run and compare"),
    option("--workers", "How many processes measure at once [%default]", "N", "1"),
    option("--json", "Print all that was looked at as JSON")
  ), 1, 1)
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  found <- as_option(
    verify_results(parsed$words, o$again, number_of_words(o$workers, "workers")),
    c(dir = "RESULTS", workers = "--workers")
  )
  if (o$json) show_table(as.data.frame(found$rows), TRUE) else tell(format(found))
  if (all(found$rows$state %in% c("same", "unknown"))) 0L else 1L
}
register_command("verify", "compare results, and what they were made from, with what was kept")
