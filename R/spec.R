# Specifications: the limits a product must keep, read from YAML and checked word by word.

spec_keys <- c("bemrick", "product", "decision", "needs", "batch", "limits")

# Every figure that can be limited: its arguments (with defaults), the kind of value min and max
# are, and a label. What it means is in `judge-figures.R`.
limit_kinds <- list(
  porosity = list(args = list(), bound = "share", label = function(a) "porosity"),
  percentile = list(
    args = list(p = NULL, weight = "number", of = "ecd"), bound = "measure",
    label = function(a) paste0("D", a$p, " of ", a$of, " by ", a$weight)
  ),
  mean = list(
    args = list(weight = "number", of = "ecd"), bound = "measure", label = function(a) paste0("mean ", a$of, " by ", a$weight)
  ),
  largest = list(args = list(of = "ecd"), bound = "measure", label = function(a) paste("largest", a$of)),
  share_above = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " above ", a$size, " by ", a$weight)
  ),
  share_below = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " below ", a$size, " by ", a$weight)
  ),
  share_between = list(
    args = list(from = NULL, to = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " between ", a$from, " and ", a$to, " by ", a$weight)
  ),
  count = list(args = list(), bound = "number", label = function(a) "count"),
  count_per_area = list(args = list(), bound = "density", label = function(a) "count per area")
)

#' Read a specification
#'
#' A specification file is YAML: `bemrick: spec 1`, then `product`, `decision`, `needs`, `batch` and `limits`.
#'
#' * `decision: {rule: guarded, confidence: 95 %}`: with `guarded` (JCGM 106, ISO 14253-1) a limit is passed
#'   only when the whole interval lies inside, failed when it lies wholly outside, and undecided between; with
#'   `simple` the value alone decides; with `shared` (`risk: 20 %`) a limit is passed when the probability that the true value is
#'   outside is at most the risk, failed when that of its being inside is, and undecided between. `repeatability: 0.5 %` is
#'   the relative standard deviation of repeated measurements, when it is known.
#' * `needs: {fields: 3, objects: 300, resolution: 10 px, calibration_uncertainty: 1 %}`: what a sample must have for any
#'   verdict; `resolution` is the smallest width in pixels that half of the objects must reach.
#' * `batch: all` (the default: every sample must pass), `batch: {at_least: 2}` or `batch: mean` (limits are held against the mean
#'   of the samples).
#' * `limits`: a list of `porosity`, `percentile` (`p`, `weight`, `of`), `mean` (`weight`, `of`: by number D\[1,0\], by length
#'   D\[2,1\], by area D\[3,2\], by volume D\[4,3\]), `largest` (`of`), `share_above` and `share_below` (`size`, `weight`, `of`),
#'   `share_between` (`from`, `to`, `weight`, `of`), `count` (accepted objects) and `count_per_area`; `of` is any measure
#'   ([measure_definitions()]). Each has `min`, `max` or both, with units (`36 %`, `55 um`, `900 /mm2`; ratios without), and,
#'   if wanted, `warn_min` and `warn_max` inside them, and `per: field`, `sample` (the default) or `batch`.
#'
#' @param file Path of the file.
#' @return A `bm_spec`.
#' @section Errors: Class `bemrick_error_file_content` or `bemrick_error_unknown_name`, naming the line and
#'   what to write instead.
#' @examples
#' read_spec(system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
read_spec <- function(file) {
  given <- read_yaml_file(file, "spec", spec_keys)
  lines <- strsplit(read_text(file), "\n", fixed = TRUE)[[1]]
  where <- function(key, item = NULL) place_in_file(lines, key, item, basename(file))
  if (!rlang::is_string(given$product)) bm_abort("{.field product}{where('product')} must name the product.", "file_content")
  if (!is.list(given$limits) || length(given$limits) == 0) {
    bm_abort("{.field limits}{where('limits')} must list at least one limit.", "file_content")
  }
  limits <- lapply(seq_along(given$limits), function(k) read_limit(given$limits[[k]], where("limits", k)))
  structure(
    list(
      product = given$product, decision = read_decision(given$decision, where("decision")),
      needs = read_needs(given$needs, where("needs")), batch = read_batch_rule(given$batch, where("batch")), limits = limits,
      file = basename(file), sha256 = file_sha256(file)
    ),
    class = "bm_spec"
  )
}

# " (line 7 of dp3.spec.yml)": the line of a key, or of the k-th item of the list under it.
place_in_file <- function(lines, key, item, file) {
  at <- grep(paste0("^", key, "\\s*:"), lines)[1]
  if (!is.na(at) && !is.null(item)) {
    below <- seq_along(lines) > at
    ended <- which(below & grepl("^[^ #-]", lines))[1]
    inside <- if (is.na(ended)) below else below & seq_along(lines) < ended
    dashes <- which(inside & grepl("^ *- ", lines))
    indent <- nchar(sub("-.*", "", lines[dashes]))
    at <- dashes[indent == min(indent, Inf)][item]
  }
  if (is.na(at)) paste0(" in ", if (!is.null(item)) paste0("limit ", item, " of "), file) else paste0(" (line ", at, " of ",
    file, ")")
}

# A key that holds keys of its own, or nothing.
check_keys <- function(given, name, where, example, call = rlang::caller_env()) {
  if (!is.null(given) && (!is.list(given) || is.null(names(given)))) {
    bm_abort(c("{.field {name}}{where} must hold keys of its own.", i = "Write for example {.code {plain(example)}}."),
      "file_content", call = call)
  }
}

read_decision <- function(given, where) {
  check_keys(given, "decision", where, "decision: {rule: guarded}")
  check_known(names(given), c("rule", "confidence", "risk", "repeatability"), "key", paste0(" in decision", where))
  rule <- check_choice(given$rule %||% "guarded", paste0("rule", where), c("guarded", "simple", "shared"))
  share <- function(name, default, low, high) {
    check_number(if (is.null(given[[name]])) default else parse_share(given[[name]], paste0(name, where)),
      paste0(name, where), low, high)
  }
  if (!is.null(given$risk) && rule != "shared") {
    bm_abort(c("{.field risk} in decision{where} belongs to the rule {.val shared}, not to {.val {rule}}.",
               i = "Take it out, or write {.code rule: shared}."), "file_content")
  }
  list(rule = rule, confidence = share("confidence", 0.95, 0.5, 0.9999), risk = share("risk", 0.2, 1e-6, 0.5),
       repeatability = share("repeatability", 0, 0, 1))
}

read_needs <- function(given, where) {
  check_keys(given, "needs", where, "needs: {fields: 3}")
  check_known(names(given), c("fields", "objects", "resolution", "calibration_uncertainty"), "key", paste0(" in needs", where))
  need <- function(name) {
    if (is.null(given[[name]])) 0 else check_number(given[[name]], paste0(name, where), min = 0, whole = TRUE)
  }
  resolution <- parse_quantity(given$resolution, paste0("resolution", where))
  if (!resolution$unit %in% c("", "px")) {
    bm_abort("{.field resolution}{where} is a number of pixels, such as {.val 10 px}, not {.val {given$resolution}}.", "quantity")
  }
  sure <- parse_share(given$calibration_uncertainty, paste0("calibration_uncertainty", where))
  list(fields = need("fields"), objects = need("objects"), resolution = if (is.na(resolution$value)) 0 else resolution$value,
       calibration_uncertainty = if (is.na(sure)) Inf else sure)
}

read_batch_rule <- function(given, where) {
  if (is.null(given)) return(list(rule = "all"))
  if (rlang::is_string(given)) return(list(rule = check_choice(given, paste0("batch", where), c("all", "mean"))))
  if (!is.list(given) || !identical(names(given), "at_least")) {
    bm_abort("{.field batch}{where} must be {.code all}, {.code mean} or {.code {{at_least: 2}}}.", "file_content")
  }
  list(rule = "at_least", at_least = check_number(given$at_least, paste0("at_least", where), 1, whole = TRUE))
}

read_limit <- function(given, where) {
  if (!is.list(given) || length(given) != 1 || !is.list(given[[1]])) {
    bm_abort(c(
      "This limit is not valid{where}.",
      i = "Write for example {.code - porosity: {{min: 30 %, max: 36 %}}}."
    ), "file_content")
  }
  name <- names(given)
  check_known(name, names(limit_kinds), "figure", where)
  kind <- limit_kinds[[name]]
  given <- given[[1]]
  ends <- c(min = "min", max = "max", warn_min = "warn_min", warn_max = "warn_max")
  check_known(names(given), c(names(kind$args), ends, "per"), "key", paste0(" of ", name, where))
  args <- kind$args
  args[names(given)[names(given) %in% names(args)]] <- given[names(given) %in% names(kind$args)]
  check_limit_args(name, args, where)
  bounds <- lapply(ends, function(end) read_bound(given[[end]], paste0(name, " ", end, where), kind$bound, args$of))
  check_bounds(name, bounds, given, where)
  per <- check_choice(given$per %||% "sample", paste0("per of ", name, where), c("field", "sample", "batch"))
  units <- Filter(nzchar, c(bounds$max$unit, bounds$min$unit))
  list(
    name = name, args = args, label = kind$label(args), bound = kind$bound, per = per, where = where,
    unit = if (length(units)) units[[1]] else "", min = bounds$min, max = bounds$max, warn_min = bounds$warn_min,
    warn_max = bounds$warn_max
  )
}

# All bounds are in base units, so they can be compared whatever units they were written in.
check_bounds <- function(name, bounds, given, where) {
  if (is.na(bounds$min$value) && is.na(bounds$max$value)) {
    bm_abort("The limit on {.field {name}}{where} needs {.field min}, {.field max} or both.", "file_content")
  }
  rising <- function(low, high, fix) {
    if (isTRUE(bounds[[low]]$value > bounds[[high]]$value)) {
      bm_abort(c("The limit on {.field {name}}{where} has {low} ({given[[low]]}) above {high} ({given[[high]]}).", i = fix),
        "file_content")
    }
  }
  rising("min", "max", "Swap them.")
  inside <- "Warning limits lie inside the limits."
  rising("min", "warn_min", inside)
  rising("warn_max", "max", inside)
  rising("warn_min", "warn_max", "Swap them.")
}

check_limit_args <- function(name, args, where) {
  for (arg in names(limit_kinds[[name]]$args)) {
    if (is.null(args[[arg]])) bm_abort("The limit on {.field {name}}{where} needs {.field {arg}}.", "file_content")
  }
  if (!is.null(args$p)) check_number(args$p, paste0("p", where), 0, 100)
  if (!is.null(args$weight)) check_choice(args$weight, paste0("weight", where), names(weight_powers))
  if (!is.null(args$of)) check_choice(args$of, paste0("of", where), names(measure_table))
  if (!identical(args$weight %||% "number", "number") && measure_table[[args$of]][[1]] != 1) {
    bm_abort(c(
      "A distribution of {.field {args$of}} by {args$weight} makes no sense{where}: it is no length.",
      i = "Write {.code weight: number}, or a length such as {.code of: ecd}."
    ), "file_content")
  }
  for (size in intersect(c("size", "from", "to"), names(args))) read_measure_bound(args[[size]], paste0(size, where), args$of)
  if (!is.null(args$from) && isTRUE(read_measure_bound(args$from, "from", args$of) >= read_measure_bound(args$to, "to",
    args$of))) {
    bm_abort("{.field from} ({args$from}) must lie below {.field to} ({args$to}){where}.", "file_content")
  }
}

# A bound in the base unit (um, um2, /um2, share), with the text it was written as and the unit to show it in.
read_bound <- function(x, name, kind, of) {
  if (is.null(x)) return(list(value = NA_real_, text = "", unit = ""))
  value <- switch(kind,
    share = parse_share(x, name),
    measure = read_measure_bound(x, name, of),
    number = read_plain(x, name),
    density = parse_length(x, name, "um", power = -2)
  )
  q <- parse_quantity(x, name)
  unit <- switch(kind, share = "%", number = "", density = paste0("/", q$unit, "2"),
                 measure = paste0(q$unit, if (q$power == 2) "2"))
  list(value = value, text = as.character(x), unit = unit)
}

# A value of a measure: a length or an area with its unit, or a plain number.
read_measure_bound <- function(x, name, of) {
  power <- measure_table[[of]][[1]]
  if (power == 0) read_plain(x, paste0(name, ", of ", of)) else parse_length(x, name, "um", power)
}

read_plain <- function(x, name) {
  q <- parse_quantity(x, name)
  if (is.na(q$value) || q$unit != "") {
    bm_abort("{.arg {name}} must be a number without a unit, not {.val {as.character(x)}}.", "quantity")
  }
  q$value
}

# What a method must measure for a specification is looked at before any picture is.
check_measured <- function(spec, methods) {
  for (limit in spec$limits) {
    for (method in methods) {
      steps <- Filter(function(s) s$step == "measure_objects", method$steps)
      args <- if (length(steps)) steps[[length(steps)]]$args else list()
      needs <- c(inscribed_circle = "inside", local_thickness = "inside", skeleton_length = "inside",
                 neighbour_distance = "neighbours", neighbour_gap = "neighbours")[limit$args$of %||% "ecd"]
      if (!is.na(needs) && !isTRUE(args[[needs]])) not_measured(limit)
    }
  }
  invisible(spec)
}
