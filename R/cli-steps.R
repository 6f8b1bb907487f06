cli_steps <- function(args) {
  about <- list(
    line = "[STEP...]",
    what = paste(
      "Lists the steps that a method may have, with their arguments and defaults, in the order of",
      "work; of the steps named, only those."
    ),
    examples = c("bemrick steps", "bemrick steps filter_median accept_objects")
  )
  parsed <- parse_words(args, "steps", about, list(), 0, Inf)
  if (is.null(parsed)) return(0L)
  steps <- step_registry()
  for (name in parsed$words) {
    if (!name %in% names(steps)) {
      unknown_word(paste0("There is no step \"", name, "\"."), name, names(steps))
    }
  }
  if (length(parsed$words)) steps <- steps[parsed$words]
  takes <- lapply(steps, function(s) s$takes)
  all <- length(parsed$words) == 0
  for (kind in intersect(names(kind_names), unlist(takes))) {
    if (all) tell(c("", paste0("What is done to ", kind_names[[kind]], ":"), ""))
    own <- vapply(takes, function(t) kind %in% t, NA)
    tell(vapply(names(steps)[own], function(name) step_line(name, steps[[name]]), ""))
  }
  if (all) tell(c("", "? must be given; null may be left out. In R, ?<step> describes a step."))
  0L
}
register_command("steps", "list the steps of methods with their arguments")

# As it is written in a method: "  - filter_median: {radius: ?}".
step_line <- function(name, step) {
  defaults <- formals(step$run)[-1]
  defaults <- defaults[setdiff(names(defaults), step$rest)]
  defaults <- defaults[names(defaults) != "..."]
  shown <- vapply(defaults, function(value) {
    if (identical(value, rlang::missing_arg())) return("?")
    if (is.symbol(value)) return(paste0("<", value, ">"))  # the same as another argument
    value <- eval(value, topenv())
    if (is.null(value)) "null" else show_value(value)
  }, "")
  more <- if ("..." %in% names(formals(step$run))) "<measure>: [min, max]"
  inside <- c(if (length(shown)) paste0(names(shown), ": ", shown), more)
  paste0("  - ", name, ": {", paste(inside, collapse = ", "), "}")
}
