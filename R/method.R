# Methods: the lab's written procedure, as a file and as something to run.

#' @export
format.bm_method <- function(x, ...) {
  lines <- function(steps, before = 0, indent = "  ") {
    if (length(steps) == 0) return(character())
    paste0(indent, before + seq_along(steps), ". ", vapply(steps, format_step, ""))
  }
  c(
    paste0("<method> ", x$title, " (", x$objects, ")"),
    lines(x$steps),
    unlist(lapply(names(x$branches), function(name) {
      c(paste0("  ", name, ":"), lines(x$branches[[name]], length(x$steps), "    "))
    }))
  )
}

#' @exportS3Method tibble::as_tibble bm_method
as_tibble.bm_method <- function(x, ...) {
  if (is.null(x$branches)) return(trail_table(x$steps))
  parts <- c(if (length(x$steps)) list(x$steps), unname(x$branches))
  names <- c(if (length(x$steps)) "", names(x$branches))
  tibble::tibble(
    branch = rep(names, lengths(parts)), do.call(rbind, lapply(parts, trail_table))
  )
}

# `steps` is the trunk; `branches`, by name, are what follows it, each on its own; NULL for none.
new_method <- function(
  steps, title, objects, file = NULL, sha256 = NULL, report = NULL, branches = NULL
) {
  structure(
    list(
      title = title, objects = objects, steps = steps, branches = branches, file = file,
      sha256 = sha256, report = report, files = files_of(c(steps, unlist_steps(branches)))
    ),
    class = c("bm_method", "bemrick")
  )
}

file_arguments <- function(step) {
  unlist(registered$steps[[step]][c("pictures", "patterns")], use.names = FALSE)
}

# Path and hash of every picture and pattern that steps name.
files_of <- function(steps) {
  paths <- unlist(lapply(steps, function(s) {
    s$args[intersect(names(s$args), file_arguments(s$step))]
  }))
  lapply(unname(paths), function(path) list(path = path, sha256 = file_sha256(path)))
}

unlist_steps <- function(branches) do.call(c, as.list(unname(branches)))

# The whole chain of steps of every branch; of a method without branches its only one, named "".
chains_of <- function(method) {
  if (is.null(method$branches)) return(stats::setNames(list(method$steps), ""))
  lapply(method$branches, function(steps) c(method$steps, steps))
}

chain_of <- function(method, branch) {
  chains <- chains_of(method)
  chains[[match(branch, names(chains))]]
}

# The kind of rows that each branch ends in, by its name; NA where it ends in no table.
kinds_of <- function(method) {
  vapply(chains_of(method), function(steps) {
    c(names(row_kinds)[row_kinds == end_of_steps(steps)], NA)[1]
  }, "")
}

#' Make a method of what was done
#'
#' Takes the steps from the trail of an object, so that what was done by hand once can be written
#' down and run on any other picture. Reading and calibrating are not steps: they belong to the
#' single picture.
#'
#' Several tables that began with the same steps become a method with branches: what they share is
#' done once, then each branch goes on from there to its own table.
#'
#' @param x A field, mask, layer, set of objects, table of measures, finds, widths or thicknesses;
#'   or a named list of tables, each the end of a branch of that name.
#' @param title What the method is for, in words.
#' @param objects What the objects are called in reports, such as `"pores"`.
#' @return A `bm_method`.
#' @section Errors: Class `bemrick_error_step` for a step that cannot be run on another picture: a
#'   measure of one's own ([measure_by()]), or a mask combined with one of a field treated
#'   otherwise.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' done <- field |> filter_median(radius = 1) |> segment_auto(phase = "bright") |>
#'   find_objects() |> measure_objects() |> accept_objects(edge = "drop")
#' as_method(done, title = "Beads", objects = "beads")
#' as_method(list(
#'   bright = done,
#'   dark = field |> filter_median(radius = 1) |> segment_auto(phase = "dark") |> find_objects() |>
#'     measure_objects()
#' ))
#' @export
as_method <- function(x, title = "Untitled method", objects = "objects") {
  check_text(title, "title")
  check_text(objects, "objects")
  if (is.list(x) && !is.object(x)) return(method_of_branches(x, title, objects))

  steps <- steps_of_trail(x)
  check_steps(steps)
  new_method(steps, title, objects)
}

# The steps that all branches begin with are the trunk.
method_of_branches <- function(x, title, objects, call = rlang::caller_env()) {
  if (length(x) < 2 || !rlang::is_named(x)) {
    bm_abort(
      c(
        "Branches must be a list of two or more tables, each with the name of its branch.",
        i = "Write for example {.code as_method(list(beads = beads, pores = pores))}."
      ),
      "argument", call = call
    )
  }
  check_branch_names(names(x), call = call)
  chains <- lapply(x, steps_of_trail, call = call)
  most <- min(lengths(chains))
  alike <- vapply(seq_len(most), function(k) {
    all(vapply(chains[-1], function(chain) identical(chain[[k]], chains[[1]][[k]]), NA))
  }, NA)
  shared <- sum(cumprod(alike))
  branches <- lapply(chains, function(chain) chain[-seq_len(shared)])
  if (shared == 0) branches <- chains
  method <- new_method(chains[[1]][seq_len(shared)], title, objects, branches = branches)
  check_branches(method, call = call)
  method
}

check_branch_names <- function(names, where = "", call = rlang::caller_env()) {
  plain <- grepl("^[[:alnum:]][[:alnum:] _.-]*$", names) & nchar(names) <= 60
  if (!all(plain)) {
    bm_abort(
      c(
        "{.val {names[!plain][1]}} cannot be the name of a branch{where}.",
        i = "Use letters, digits, spaces, dots and hyphens."
      ),
      "file_content", call = call
    )
  }
  if (anyDuplicated(tolower(names))) {
    bm_abort("Two branches{where} have the same name.", "file_content", call = call)
  }
}

# Every branch does something of its own, and ends in a table.
check_branches <- function(method, where = "", call = rlang::caller_env()) {
  for (name in names(method$branches)) {
    of <- paste0(" of branch ", name, where)
    steps <- check_steps(chain_of(method, name), of, call)
    if (length(method$branches[[name]]) == 0) {
      bm_abort(
        c(
          "Branch {.val {name}}{where} has no step of its own.",
          i = "Every branch goes on from where the common steps end."
        ),
        "step_order", call = call
      )
    }
    if (!end_of_steps(steps) %in% row_kinds) {
      bm_abort(
        c(
          "The steps{of} do not end in a table.",
          i = "The last is for example {.code measure_objects} or {.code locate_pattern}."
        ),
        "step_order", call = call
      )
    }
  }
}

steps_of_trail <- function(x, call = rlang::caller_env()) {
  trail <- if (is.data.frame(x)) attr(x, "trail") else if (is.list(x)) x$trail
  if (is.null(trail)) {
    bm_abort("{.obj_type_friendly {x}} has no trail to make a method of.", "class", call = call)
  }
  steps <- Filter(function(entry) !entry$step %in% makes_fields, trail)
  check_replayable(steps, call)
  if (length(steps) == 0) {
    bm_abort(
      "Nothing has been done to this yet, so there is no method in its trail.", "empty", call = call
    )
  }
  lapply(steps, function(entry) entry[c("step", "args")])
}

# What belongs to the single picture: how it was got, and its scale.
makes_fields <- c("read_field", "as_field", "calibrate")

check_replayable <- function(steps, call = rlang::caller_env()) {
  for (entry in steps) {
    known <- entry$step %in% names(registered$steps)
    if (known) check_pattern_files(entry, call)
    if (known && !(entry$step == "mask_combine" && is.null(entry$args$other))) next
    bm_abort(
      c(
        "{.fn {entry$step}} cannot be a step of a method.",
        i = if (known) {
          "The other mask was made of a field treated otherwise: make both of the same field."
        } else {
          "Make the method before it, and do it to what the method gives."
        }
      ),
      "step", call = call
    )
  }
}

# A pattern that was never written down cannot be followed again.
check_pattern_files <- function(entry, call) {
  for (file in unlist(entry$args[registered$steps[[entry$step]]$patterns])) {
    if (file.exists(file)) next
    bm_abort(
      c(
        "{.fn {entry$step}} followed a pattern that is in no file.",
        i = "Write it by {.fn write_pattern}, and follow the file."
      ),
      "step", call = call
    )
  }
}
