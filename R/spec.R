# Specifications: the limits a product must keep, read from YAML and checked word by word.

#' @export
format.bm_spec <- function(x, ...) {
  c(
    paste0(
      "<specification> ", x$product, ", ", x$decision$rule, " at ", 100 * x$decision$confidence,
      " %"
    ),
    paste0("  needs ", x$needs$fields, " fields and ", x$needs$objects, " objects a sample"),
    unlist(lapply(x$checks, check_lines, limits = x$limits))
  )
}

# A limit in a line; a group with its limits below it.
check_lines <- function(check, limits, indent = "  ") {
  if (check$rule != "limit") {
    below <- lapply(check$of, check_lines, limits = limits, indent = paste0(indent, "  "))
    return(c(paste0(indent, gsub("_", " ", check$rule), ":"), unlist(below)))
  }
  l <- limits[[check$of]]
  paste0(
    indent, if (!is.null(l$branch)) paste0(l$branch, ": "), l$label, ": ",
    limit_text(l$min$text, l$max$text), if (l$per != "sample") paste(", per", l$per)
  )
}

#' @exportS3Method tibble::as_tibble bm_spec
as_tibble.bm_spec <- function(x, ...) {
  text <- function(end) vapply(x$limits, function(l) as.character(l[[end]]$text), "")
  tibble::tibble(
    branch = if (!is.null(unlist(lapply(x$limits, `[[`, "branch")))) {
      vapply(x$limits, function(l) l$branch %||% "", "")
    },
    quantity = vapply(x$limits, function(l) l$label, ""),
    per = vapply(x$limits, function(l) l$per, ""), min = text("min"), max = text("max"),
    warn_min = text("warn_min"), warn_max = text("warn_max")
  )
}

spec_keys <- c("bemrick", "product", "decision", "needs", "batch", "limits")

#' Read a specification
#'
#' A specification file is YAML: `bemrick: spec 1`, then `product`, `decision`, `needs`, `batch` and
#' `limits`.
#'
#' * `decision: {rule: guarded, confidence: 95 %}`: with `guarded` (JCGM 106, ISO 14253-1) a limit
#'   is passed only when the whole interval lies inside, failed when it lies wholly outside, and
#'   undecided between; with `simple` the value alone decides; with `shared` (`risk: 20 %`) a limit
#'   is passed when the probability that the true value is outside is at most the risk, failed when
#'   that of its being inside is, and undecided between. `repeatability: 0.5 %` is the relative
#'   standard deviation of repeated measurements, when it is known.
#' * `needs: {fields: 3, objects: 300, resolution: 10 px, calibration_uncertainty: 1 %}`: what a
#'   sample must have for any verdict; `resolution` is the smallest width in pixels that half of the
#'   objects must reach.
#' * `batch: all` (the default: every sample must pass), `batch: {at_least: 2}` or `batch: mean`
#'   (limits are held against the mean of the samples).
#' * `limits`: a list of `porosity`, `percentile` (`p`, `weight`, `of`), `mean` (`weight`, `of`: by
#'   number D\[1,0\], by length D\[2,1\], by area D\[3,2\], by volume D\[4,3\]), `largest` and
#'   `smallest` (`of`),
#'   `share_above` and `share_below` (`size`, `weight`, `of`), `share_between` (`from`, `to`,
#'   `weight`, `of`), `count` (accepted objects) and `count_per_area`; `of` is any measure
#'   ([measure_definitions()]). Each has `min`, `max` or both, with units (`36 %`, `55 um`, `900
#'   /mm2`; ratios without), and, if wanted, `warn_min` and `warn_max` inside them, and `per:
#'   field`, `sample` (the default) or `batch`. `count` may have `exactly: 13` instead. Where the
#'   method has branches, `branch` names the one whose rows are meant, if several have the measure.
#' * Limits may be put together: `any_of` holds a list of limits of which one must be kept, `all_of`
#'   one of which all must; groups may hold groups.
#'
#' Limits `per: field` are checks of single pictures: every picture then gets a verdict of its own,
#' and a faulty one leaves its sample undecided.
#'
#' A whole specification:
#' ```yaml
#' bemrick: spec 1
#' product: Diffuser plate DP-3
#' decision: {rule: guarded, confidence: 95 %}
#' needs: {fields: 3, objects: 180}
#' limits:
#'   - porosity: {min: 30 %, max: 36 %, warn_max: 35 %}
#'   - percentile: {p: 50, weight: area, of: ecd, max: 55 um}
#'   - share_above: {size: 120 um, weight: number, max: 2 %}
#'   - count_per_area: {max: 900 /mm2}
#' ```
#' Checks of what must be on every picture:
#' ```yaml
#' limits:
#'   - count: {branch: clips, exactly: 13, per: field}
#'   - any_of:
#'     - share_below: {branch: clips, of: ring_share, size: 0.5, max: 0 %, per: field}
#'     - count: {branch: marks, min: 1, per: field}
#' ```
#' `bemrick new spec FILE` writes a commented one to start from.
#'
#' @param file Path of the file.
#' @return A `bm_spec`.
#' @section Errors: Class `bemrick_error_file_content` or `bemrick_error_unknown_name`, naming the
#'   line and what to write instead.
#' @examples
#' read_spec(system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
read_spec <- function(file) {
  given <- read_yaml_file(file, "spec", spec_keys)
  lines <- strsplit(read_text(file), "\n", fixed = TRUE)[[1]]
  where <- function(key, item = NULL) place_in_file(lines, key, item, basename(file))
  if (!rlang::is_string(given$product)) {
    bm_abort("{.field product}{where('product')} must name the product.", "file_content")
  }
  if (!is.list(given$limits) || length(given$limits) == 0) {
    bm_abort("{.field limits}{where('limits')} must list at least one limit.", "file_content")
  }
  read <- read_checks(given$limits, function(k) where("limits", k))

  structure(
    list(
      product = given$product, decision = read_decision(given$decision, where("decision")),
      needs = read_needs(given$needs, where("needs")),
      batch = read_batch_rule(given$batch, where("batch")), limits = read$limits,
      checks = read$checks, file = basename(file),
      sha256 = file_sha256(file)
    ),
    class = c("bm_spec", "bemrick")
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
  if (is.na(at)) {
    paste0(" in ", if (!is.null(item)) paste0("limit ", item, " of "), file)
  } else {
    paste0(" (line ", at, " of ", file, ")")
  }
}

# A key that holds keys of its own, or nothing.
check_keys <- function(given, name, where, example, call = rlang::caller_env()) {
  if (!is.null(given) && (!is.list(given) || is.null(names(given)))) {
    bm_abort(
      c(
        "{.field {name}}{where} must hold keys of its own.",
        i = "Write for example {.code {plain(example)}}."
      ),
      "file_content", call = call
    )
  }
}

read_decision <- function(given, where) {
  check_keys(given, "decision", where, "decision: {rule: guarded}")
  check_known(
    names(given), c("rule", "confidence", "risk", "repeatability"), "key",
    paste0(" in decision", where)
  )
  rule <- check_choice(
    given$rule %||% "guarded", paste0("rule", where), c("guarded", "simple", "shared")
  )
  share <- function(name, default, low, high) {
    check_number(
      if (is.null(given[[name]])) default else parse_share(given[[name]], paste0(name, where)),
      paste0(name, where), low, high
    )
  }
  if (!is.null(given$risk) && rule != "shared") {
    bm_abort(
      c(
        "{.field risk} in decision{where} belongs to the rule {.val shared}, not to {.val {rule}}.",
        i = "Take it out, or write {.code rule: shared}."
      ),
      "file_content"
    )
  }
  list(
    rule = rule, confidence = share("confidence", 0.95, 0.5, 0.9999),
    risk = share("risk", 0.2, 1e-6, 0.5), repeatability = share("repeatability", 0, 0, 1)
  )
}

read_needs <- function(given, where) {
  check_keys(given, "needs", where, "needs: {fields: 3}")
  check_known(
    names(given), c("fields", "objects", "resolution", "calibration_uncertainty"), "key",
    paste0(" in needs", where)
  )

  need <- function(name) {
    if (is.null(given[[name]])) {
      0
    } else {
      check_number(given[[name]], paste0(name, where), min = 0, whole = TRUE)
    }
  }
  resolution <- parse_quantity(given$resolution, paste0("resolution", where))
  if (!resolution$unit %in% c("", "px")) {
    bm_abort(
      "{.field resolution}{where} is a number of pixels, such as {.val 10 px}, not
       {.val {given$resolution}}.",
      "quantity"
    )
  }
  sure <- parse_share(given$calibration_uncertainty, paste0("calibration_uncertainty", where))
  list(
    fields = need("fields"), objects = need("objects"),
    resolution = if (is.na(resolution$value)) 0 else resolution$value,
    calibration_uncertainty = if (is.na(sure)) Inf else sure
  )
}

read_batch_rule <- function(given, where) {
  if (is.null(given)) return(list(rule = "all"))
  if (rlang::is_string(given)) {
    return(list(rule = check_choice(given, paste0("batch", where), c("all", "mean"))))
  }
  if (!is.list(given) || !identical(names(given), "at_least")) {
    bm_abort(
      "{.field batch}{where} must be {.code all}, {.code mean} or {.code {{at_least: 2}}}.",
      "file_content"
    )
  }
  list(
    rule = "at_least",
    at_least = check_number(given$at_least, paste0("at_least", where), 1, whole = TRUE)
  )
}
