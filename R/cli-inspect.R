cli_inspect <- function(args) {
  about <- list(
    line = "IMAGE [options]",
    what = paste(
      "Describes an image: size, depth, grey levels, information strip, noise, what each rule",
      "would take as objects, and what to do about it."
    ),
    examples = c(
      "bemrick inspect plate.tif", "bemrick inspect plate.tif --figure plate-facts.png",
      "bemrick inspect plate.tif --smallest \"22 px\" --rules plate-rules.png",
      "bemrick inspect plate.tif --json"
    )
  )
  parsed <- parse_words(
    args, "inspect", about,
    list(
      option("--figure", "Write picture, histogram and facts to this PNG", "FILE"),
      option("--rules", "Write the thresholds and masks of all rules to this PNG", "FILE"),
      option(
        "--smallest", "Width of the smallest object to keep, such as \"22 px\": suggests a filter",
        "LENGTH"
      ),
      option("--replace", "Overwrite existing figures"),
      option("--page", "Page of a TIFF with several", "N"),
      option(
        "--channel", "Grey of a colour picture: luminance, red, green or blue [%default]", "NAME",
        "luminance"
      ),
      option("--json", "Print the facts as JSON")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  page <- parsed$options$page
  for (file in c(parsed$options$figure, parsed$options$rules)) check_target(
    file, parsed$options$replace
  )
  field <- read_field(
    parsed$words, if (!is.null(page)) number_of_words(page, "page"), parsed$options$channel
  )
  o <- parsed$options
  facts <- field_facts(field)
  rules <- if (!is.na(facts$threshold)) compare_rules(trim_strip(field))
  advised <- if (!is.null(o$smallest)) suggest_radius(trim_strip(field), o$smallest)
  draw <- function(file, figure) {
    save_figure(figure, file, 1280, 800, o$replace)
    say("Figure: ", file)
  }
  if (!is.null(o$figure)) draw(o$figure, ggplot2::autoplot(facts))
  if (!is.null(o$rules) && !is.null(rules)) draw(o$rules, ggplot2::autoplot(rules))
  if (o$json) {
    content <- c(
      unclass(facts), list(rules = rules$table),
      if (!is.null(advised)) list(suggestion = unclass(advised))
    )
    tell(jsonlite::toJSON(content, auto_unbox = TRUE, digits = NA, pretty = TRUE, na = "null"))
  } else {
    tell(c(
      format(facts),
      if (!is.null(advised)) paste0("filter   ", sub("<suggestion> ", "", format(advised)))
    ))
    if (!is.null(rules)) {
      tell(c(
        "", paste0("What each rule takes as the ", rules$phase, " objects:"), "", rule_lines(rules),
        if (length(rules$advice)) c("", rules$advice)
      ))
    }
  }

  0L
}
register_command("inspect", "describe an image")

rule_lines <- function(rules) {
  t <- rules$table
  text_table(data.frame(
    rule = t$rule, threshold = round(t$level, 1), `area %` = 100 * t$area_fraction,
    objects = t$objects, check.names = FALSE
  ))
}
