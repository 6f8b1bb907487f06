cli_desk <- function(args) {
  about <- list(
    line = "PICTURE...|DIR|LIST|RESULTS|SESSION [options]",
    what = paste(
      "Opens a page on this machine to calibrate, choose steps and levels, cut, join and exclude",
      "by hand, judge, and run the batch. What is done there is saved as files that run without",
      "it."
    ),
    examples = c(
      "bemrick desk images --calibration sem.calibration.yml",
      "bemrick desk batch.csv --method beads.method.yml --spec beads.spec.yml",
      "bemrick desk desk/beads.desk.json"
    )
  )
  parsed <- parse_words(
    args, "desk", about,
    list(
      option("--method", "Method file to begin with", "FILE"),
      option("--calibration", "Calibration file, a folder of them, tags or auto", "FILE"),
      option("--spec", "Specification file", "FILE"),
      option("--folder", "Folder to save to [%default]", "DIR", "desk"),
      option("--port", "Port to listen on [a free one]", "N"),
      option("--no-browser", "Print the address only")
    ),
    1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  as_option(
    open_desk(
      parsed$words, o$method, o$calibration, o$spec, o$folder,
      port = if (!is.null(o$port)) number_of_words(o$port, "port"), browse = !o[["no-browser"]],
      on_open = function(address) {
        tell(paste("The desk is open at", address))
        flush(stdout())
      }
    ),
    c(method = "--method", calibration = "--calibration", spec = "--spec", port = "--port")
  )
  0L
}
register_command("desk", "decide by eye and hand, on a page of this machine")
