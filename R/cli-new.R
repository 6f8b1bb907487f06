cli_new <- function(args) {
  about <- list(
    line = "method|spec|list|cluster|lab|standard FILE",
    what = paste(
      "Writes a commented file to start from: a method, a specification, a batch list, what a",
      "cluster's scheduler is told, the lab's letterhead, or a certified length standard."
    ),
    examples = c("bemrick new method plate.method.yml", "bemrick new list batch.csv")
  )
  parsed <- parse_words(
    args, "new", about, list(option("--replace", "Overwrite an existing file")), 2, 2
  )
  if (is.null(parsed)) return(0L)
  kinds <- c(
    method = "method.yml", spec = "spec.yml", list = "list.csv", cluster = "cluster.yml",
    lab = "lab.yml", standard = "standard.yml"
  )
  kind <- parsed$words[1]
  if (!kind %in% names(kinds)) {
    unknown_word(
      paste0("There is no kind of file \"", kind, "\"."), kind, names(kinds),
      paste0("\nKinds: ", paste(names(kinds), collapse = ", "), ".")
    )
  }
  file <- parsed$words[2]
  from <- system.file("templates", kinds[[kind]], package = "bemrick", mustWork = TRUE)
  write_text(read_text(from), file, parsed$options$replace)
  say("Wrote ", file)
  0L
}
register_command("new", "write a method, specification, list or other file to start from")
