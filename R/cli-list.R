cli_list <- function(args) {
  about <- list(
    line = "DIR --out FILE [options]",
    what = paste(
      "Writes a batch list of the pictures in a folder, to review and edit; their names encode",
      "batch, sample and field."
    ),
    examples = paste(
      "bemrick list images --names \"{batch}-{sample}{field}\" --calibration auto",
      "--out batch.csv"
    )
  )
  parsed <- parse_words(
    args, "list", about,
    list(
      names_option(), option("--calibration", "A file, auto or tags, for all pictures", "FILE"),
      option("--out", "List to write (CSV)", "FILE"),
      option("--replace", "Overwrite an existing list")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  need_option(o, "out", "list")
  check_target(o$out, o$replace)
  list <- as_option(
    list_pictures(parsed$words, o$names, o$calibration %||% NA), c(names = "--names")
  )
  list$image <- vapply(
    file.path(parsed$words, list$image), relative_path, "", folder = dirname(o$out)
  )
  write_table_file(list, o$out, o$replace)
  say("Wrote ", o$out, ": ", nrow(list), " pictures of ", nrow(unique(list[1:2])), " samples.")
  0L
}
register_command("list", "write a batch list of a folder of pictures")

names_option <- function() {
  option(
    "--names", "How file names encode batch, sample and field [%default]", "PATTERN",
    "{batch}-{sample}{field}"
  )
}
