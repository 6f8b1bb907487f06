cli_inspect <- function(args) {
  about <- list(
    line = "IMAGE [options]",
    what = "Says what is in a picture: size, depth, grey levels, information strip, Otsu's level, and what to do about it.",
    examples = c(
      "bemrick inspect plate.tif", "bemrick inspect plate.tif --figure plate-facts.png",
      "bemrick inspect plate.tif --json"
    )
  )
  parsed <- parse_words(args, "inspect", about, list(
    option("--figure", "Write picture, histogram and facts to this PNG", "FILE"),
    option("--replace", "Write over the figure if it is there"),
    option("--page", "Page of a TIFF with several", "N"),
    option("--channel", "Grey of a colour picture: luminance, red, green or blue [%default]", "NAME", "luminance"),
    option("--json", "Print the facts as JSON")
  ), 1, 1)
  if (is.null(parsed)) return(0L)
  page <- parsed$options$page
  field <- read_field(parsed$words, if (!is.null(page)) number_of_words(page, "page"), parsed$options$channel)
  facts <- field_facts(field)
  if (!is.null(parsed$options$figure)) {
    write_beside(
      parsed$options$figure, function(path) save_figure(facts_figure(field), path, 1280, 800), parsed$options$replace
    )
    say("Figure: ", parsed$options$figure)
  }
  tell(
    if (parsed$options$json) jsonlite::toJSON(
      unclass(facts), auto_unbox = TRUE, digits = NA, pretty = TRUE, na = "null"
    ) else format(facts)
  )
  0L
}
