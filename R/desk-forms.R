# Forms for the steps of methods, from their register: a new step needs nothing here. In a form
# every value is a text as a method file has it.

# One for every step: what it takes and gives, and its arguments with their defaults.
desk_forms <- function() {
  steps <- step_registry()
  unname(Map(function(step, name) {
    list(
      step = name, takes = I(step$takes), gives = I(step$gives),
      measures = if ("..." %in% names(formals(step$run))) I(limitable_measures(step$takes)),
      args = form_arguments(step)
    )
  }, steps, names(steps)))
}

# Arguments that can be drawn over the picture, and what they are drawn as.
drawn_arguments <- c(region = "region", along = "path", first = "edge", second = "edge")

limitable_measures <- function(takes) measures_of_kind(names(row_kinds)[row_kinds %in% takes])

form_arguments <- function(step) {
  defaults <- form_defaults(step)
  unname(Map(function(default, argument) {
    needed <- identical(default, rlang::missing_arg())
    list(
      name = argument, needed = needed, default = if (!needed) flow_text(default),
      drawn = if (argument %in% names(drawn_arguments)) drawn_arguments[[argument]],
      rows = argument %in% step$tables,
      file = argument %in% c(step$pictures, step$patterns)
    )
  }, defaults, names(defaults)))
}

# By name; an argument that is the same as another by itself has none.
form_defaults <- function(step) {
  defaults <- formals(step$run)[-1]
  lapply(defaults[setdiff(names(defaults), c("...", step$rest))], function(value) {
    if (identical(value, rlang::missing_arg())) return(value)
    if (is.symbol(value)) NULL else eval(value, topenv())
  })
}

# The words that arguments of a step may be, by their names.
choices_of_step <- function(name) {
  step <- step_registry()[[name]]
  trial <- trial_object(step$takes[1])
  defaults <- form_defaults(step)
  found <- Map(function(default, argument) {
    if (is.logical(default)) return(c("true", "false"))
    if (rlang::is_string(default)) choices_of(trial, name, argument)
  }, defaults, names(defaults))
  lapply(Filter(length, found), I)
}

# The step names them when it is given none of them.
choices_of <- function(trial, name, argument) {
  args <- stats::setNames(list("\u2026"), argument)
  tryCatch(
    suppressWarnings({
      run_step(trial, name, args)
      character()
    }),
    error = function(e) as.character(e$choices)
  )
}

# A value in one line of YAML.
flow_text <- function(x) {
  if (is.null(x)) return("")
  if (rlang::is_bare_list(x) && rlang::is_named(x)) {
    return(paste0("{", paste0(names(x), ": ", vapply(x, flow_text, ""), collapse = ", "), "}"))
  }
  if (is.list(x)) return(paste0("[", paste(vapply(x, flow_text, ""), collapse = ", "), "]"))
  shown <- vapply(seq_along(x), function(k) flow_scalar(x[[k]]), "")
  if (length(x) == 1) shown else paste0("[", paste(shown, collapse = ", "), "]")
}

# Quoted where it would be read as something else.
flow_scalar <- function(x) {
  if (is.na(x)) return("null")
  if (is.logical(x)) return(if (x) "true" else "false")
  # 1e+06 would be a text in YAML
  if (is.numeric(x)) return(format(x, digits = 15, scientific = FALSE, drop0trailing = TRUE))
  same <- !grepl("[][{},:#\"'\n]", x) &&
    tryCatch(identical(load_yaml(x), as.character(x)), error = function(e) FALSE)
  if (same) x else as.character(jsonlite::toJSON(x, auto_unbox = TRUE))
}

# What was typed into a field of a form; nothing means the default.
flow_value <- function(text, name, call = rlang::caller_env()) {
  if (!rlang::is_string(text)) {
    bm_abort("{.arg {name}} must be one text.", "argument", call = call)
  }
  if (!nzchar(trimws(text))) return(NULL)
  check_yaml_size(text, name, call)
  value <- tryCatch(load_yaml(text), error = function(e) {
    bm_abort(
      c(
        "{.arg {name}} cannot be read: {.val {text}}.",
        i = "Write for example {.code 5 um}, {.code [5 um, null]} or
             {.code {{box: [10, 10, 200, 100]}}}."
      ),
      "argument", call = call
    )
  })
  if (is.null(value)) NA else missing_for_null(value)
}

# Fields of a form as the arguments of a step.
values_of_form <- function(texts, call = rlang::caller_env()) {
  if (length(texts) == 0) return(list())
  values <- Map(flow_value, texts, names(texts), MoreArgs = list(call = call))
  Filter(Negate(is.null), values)
}
