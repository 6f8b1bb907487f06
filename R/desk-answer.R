# What the page of a desk can ask for.

desk_answer <- function(desk, request) {
  if (request$REQUEST_METHOD == "POST") {
    body <- rawToChar(request$rook.input$read())
    Encoding(body) <- "UTF-8"
    asked <- tryCatch(jsonlite::fromJSON(body, simplifyVector = FALSE), error = function(e) {
      bm_abort("What was sent is not JSON.", "argument")
    })
    answer <- desk_posts[[request$PATH_INFO]]
    return(if (is.null(answer)) plain_response(404L, "Nothing here.") else answer(desk, asked))
  }
  path <- request$PATH_INFO
  query <- read_query(request$QUERY_STRING)
  if (startsWith(path, "/results/")) return(result_file(desk, sub("^/results/", "", path)))
  if (startsWith(path, "/part/")) return(part_of_page(sub("^/part/", "", path)))
  answer <- desk_gets[[path]]
  if (is.null(answer)) plain_response(404L, "Nothing here.") else answer(desk, query)
}

desk_gets <- list(
  "/" = function(desk, query) response(desk_page(), "text/html; charset=utf-8"),
  "/view" = function(desk, query) {
    json_response(desk_view(desk$state, if (identical(query[["of"]], "picture")) 0 else Inf))
  },
  "/forms" = function(desk, query) json_response(desk_forms()),
  "/choices" = function(desk, query) {
    check_choice(query[["step"]], "step", names(registered$steps))
    json_response(choices_of_step(query[["step"]]))
  },
  "/files" = function(desk, query) json_response(files_of_desk(desk)),
  "/greys" = function(desk, query) {
    times <- suppressWarnings(as.integer(query[["times"]] %||% 1))
    check_number(times, "times", 1, 1000)
    greys <- greys_of_stage(asked_stage(desk, query), times)
    response(greys$bytes, "application/octet-stream", headers = list(
      `X-Bits` = as.character(greys$bits), `X-Scale` = format(greys$scale, digits = 15)
    ))
  },
  "/shapes" = function(desk, query) {
    response(shapes_of_stage(asked_stage(desk, query)), "application/octet-stream")
  },
  "/rows" = function(desk, query) {
    only <- if (identical(query[["only"]], "accepted")) c("accepted", "reason", "weight")
    response(rows_bytes(desk_stages(desk$state), only), "application/octet-stream")
  },
  "/histogram" = function(desk, query) json_response(histogram_shown(desk_stages(desk$state))),
  "/suspects" = function(desk, query) json_response(suspects_shown(desk_stages(desk$state))),
  "/figure" = function(desk, query) {
    png <- figure_shown(desk_stages(desk$state), query[["what"]], query)
    response(png, "image/png")
  },
  "/percentiles" = function(desk, query) {
    json_response(percentiles_shown(desk_stages(desk$state), query))
  },
  "/run" = function(desk, query) json_response(run_shown(desk$run)),
  "/verdict" = function(desk, query) {
    seen <- identical(query[["of"]], "seen")
    json_response(verdict_shown(verdict_of_picture(desk$state, seen)))
  }
)

desk_posts <- list(
  "/act" = function(desk, asked) {
    desk$state <- desk_act(desk$state, page_action(asked, desk$roots))
    json_response(desk_view(desk$state))
  },
  "/save" = function(desk, asked) {
    files <- save_desk(desk$state, desk$folder, asked[["name"]], isTRUE(asked[["replace"]]))
    json_response(list(folder = absolute_path(desk$folder), files = I(basename(files))))
  },
  "/run" = function(desk, asked) {
    if (!is.null(desk$run) && desk$run$process$is_alive()) {
      bm_abort(c("A run is under way.", i = "Stop it first, or wait for its end."), "action")
    }
    desk$run <- start_run(desk$state, desk$folder, asked[["name"]], isTRUE(asked[["replace"]]))
    json_response(run_shown(desk$run))
  },
  "/stop" = function(desk, asked) {
    desk$run <- stop_run(desk$run)
    json_response(run_shown(desk$run))
  },
  # how many rows would be accepted, while a bound is dragged
  "/count" = function(desk, asked) {
    asked$do <- "limit"
    table <- table_of_stages(desk_stages(desk_act(desk$state, asked)))
    json_response(list(count = nrow(table), accepted = sum(table$accepted)))
  },
  "/teach" = function(desk, asked) json_response(list(file = taught_here(desk, asked))),
  "/verify" = function(desk, asked) json_response(verified_here(desk$state, asked)),
  "/close" = function(desk, asked) {
    desk$closed <- TRUE
    json_response(list(closed = TRUE))
  }
)

# Stages are counted from 0, the calibrated field.
asked_stage <- function(desk, query, call = rlang::caller_env()) {
  last <- if (identical(query[["stage"]], "0")) 0 else Inf
  stages <- desk_stages(desk$state, last)
  good <- which(vapply(stages, function(s) is.null(s$error), NA)) - 1
  at <- match(query[["stage"]] %||% "", as.character(good))
  if (is.na(at)) bm_abort("There is no such stage.", "argument", call = call)
  stages[[good[at] + 1]]
}

# An action as the page sends it: fields of a form are texts yet, and whatever names a file must lie
# in the desk's folders before it is read.
page_action <- function(asked, roots, call = rlang::caller_env()) {
  if (!is.null(asked[["texts"]])) {
    asked$args <- values_of_form(asked$texts, call)
    asked$texts <- NULL
  }
  named <- asked$args[intersect(names(asked$args), path_arguments())]
  paths <- Filter(rlang::is_string, c(asked["file"], named))
  if (identical(asked[["do"]], "use_method") && length(paths) && is_inside(paths[[1]], roots)) {
    paths <- c(paths, paths_in_method(paths[[1]]))
  }
  for (path in paths) if (!is_inside(path, roots)) refuse_path(path, call)
  asked
}

# What a method file names, before any of it is read.
paths_in_method <- function(file) {
  given <- read_yaml_file(file, "method", method_keys)
  values <- unlist(given[c("steps", "branches")])
  paths <- unname(values[sub(".*[.]", "", names(values)) %in% path_arguments()])
  ifelse(is_rooted(paths), paths, file.path(dirname(file), paths))
}

# Arguments of any step that may be paths.
path_arguments <- function() {
  unique(unlist(lapply(registered$steps, function(s) s[c("tables", "pictures", "patterns")])))
}

refuse_path <- function(path, call) {
  bm_abort(
    c(
      "{.file {path}} is not in a folder that this desk was opened with.",
      i = "Open the desk with it, or copy it to the desk's folder."
    ),
    "file", call = call
  )
}

# Methods, specifications, calibrations and patterns in the desk's folders.
files_of_desk <- function(desk) {
  found <- unlist(lapply(desk$roots, list.files, "[.]ya?ml$", full.names = TRUE))
  found <- found[vapply(found, is_inside, NA, roots = desk$roots)]
  of <- function(kind) I(unique(grep(paste0("[.]", kind, "[.]ya?ml$"), found, value = TRUE)))
  list(
    folder = absolute_path(desk$folder), methods = of("method"), specs = of("spec"),
    calibrations = of("calibration"), patterns = of("pattern")
  )
}

# A file of the page: those of the package, by their names only.
part_of_page <- function(name) {
  folder <- system.file("desk", package = "bemrick", mustWork = TRUE)
  if (!name %in% list.files(folder)) return(plain_response(404L, "Nothing here."))
  type <- switch(
    sub(".*[.]", "", name), js = "text/javascript; charset=utf-8", css = "text/css; charset=utf-8",
    "application/octet-stream"
  )
  response(file_bytes(file.path(folder, name)), type)
}

# A file of the results of the run that was started here: the report has rules of its own on what it
# may load.
result_file <- function(desk, path) {
  path <- utils::URLdecode(path)
  file <- file.path(desk$run$out %||% "", path)
  good <- !is.null(desk$run) && !grepl("(^|/)[.][.](/|$)|\\\\", path) && is_file(file) &&
    is_inside(file, absolute_path(desk$run$out))
  if (!good) return(plain_response(404L, "Nothing here."))
  ending <- tolower(sub(".*[.]", "", path))
  type <- switch(
    ending, html = "text/html; charset=utf-8", jpg = "image/jpeg", png = "image/png",
    csv = "text/plain; charset=utf-8", json = , geojson = "application/json", "text/plain"
  )
  sent <- response(file_bytes(file), type)
  if (ending == "html") sent$headers[["Content-Security-Policy"]] <- NULL
  sent
}

# A pattern taught from a box of the field before the first mask, written to the desk's folder.
taught_here <- function(desk, asked) {
  check_file_stem(asked[["name"]])
  fields <- Filter(function(s) inherits(s$value, "bm_field"), desk_stages(desk$state))
  if (length(fields) == 0) bm_abort("There is no picture to teach from.", "action")
  box <- unlist(asked[["box"]])
  if (!is.numeric(box) || length(box) != 4) bm_abort("{.arg box} must be four numbers.", "argument")
  field <- fields[[length(fields)]]$value
  field["frame"] <- list(NULL)  # the box is drawn over this picture, not over the taught one
  pattern <- teach_pattern(
    field, region_box(box[1], box[2], box[3], box[4]), asked[["name"]]
  )
  make_folder(desk$folder)
  file <- file.path(absolute_path(desk$folder), paste0(asked[["name"]], ".pattern.yml"))
  write_pattern(pattern, file, isTRUE(asked[["replace"]]))
  file
}

# The calibration of the open picture held against a second stretch of known length.
verified_here <- function(state, asked) {
  stages <- desk_stages(state)
  if (!is.null(stages[[1]]$error)) rlang::cnd_signal(stages[[1]]$error)
  ends <- unlist(asked[["ends"]])
  check_numbers(ends, "ends")
  found <- verify_calibration(stages[[1]]$value, asked[["length"]], ends[1:2], ends[3:4])
  list(lines = I(visible(format(found))))
}
