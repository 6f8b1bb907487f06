cli_sort <- function(args) {
  about <- list(
    line = "RESULTS --good RESULTS --bad RESULTS --of NAME [options]",
    what = paste(
      "Sorts the objects or parts of a results folder into good, damaged and unsure, by what two",
      "other folders show of known good and known bad ones. Exit status 1 when not all are good."
    ),
    examples = c(
      "bemrick sort results --good known-good --bad known-bad --of region_share --out sorted.csv",
      "bemrick sort results --good good --bad bad --of score,region_share --figure sorted.png"
    )
  )
  parsed <- parse_words(
    args, "sort", about,
    list(
      option("--good", "Results of parts known to be good", "DIR"),
      option("--bad", "Results of parts known to be bad", "DIR"),
      option("--of", "Measures to sort by, such as region_share", "NAMES"),
      option("--branch", "Branch of the method, where it has several", "NAME"),
      option("--out", "Table to write (.csv)", "FILE"),
      option("--figure", "Figure to write (.png, .pdf or .svg)", "FILE"),
      option("--replace", "Overwrite existing files"),
      option("--json", "Print the table as JSON")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (name in c("good", "bad", "of")) need_option(o, name, "sort")
  for (file in c(o$out, o$figure)) check_target(file, o$replace)
  run <- run_of_branch(parsed$words, o)
  known <- lapply(o[c("good", "bad")], run_of_branch, o)
  limits <- as_option(
    lapply(names_of_words(o$of), function(of) suggest_limits(known$good, known$bad, of)),
    c(of = "--of")
  )
  sorted <- sort_parts(run, limits)
  if (!is.null(o$out)) write_table_file(sorted$table, o$out, o$replace)
  if (!is.null(o$figure)) save_figure(sorted, o$figure, replace = o$replace)
  say(paste(format(sorted), collapse = "\n"))
  of <- vapply(limits, function(l) measure_column(l$measure, run$unit), "")
  show_table(sorted$table[c(id_columns, "id", unique(of), "sorted", "why")], o$json)
  for (file in c(o$out, o$figure)) say("Wrote ", file)
  if (all(sorted$table$sorted == "good")) 0L else 1L
}
register_command("sort", "sort parts into good, damaged and unsure")
