# Specifications: the limits a product must keep, read from YAML and checked word by word.

spec_keys <- c("bemrick", "product", "decision", "needs", "limits")

# Every figure that can be limited: its arguments (with defaults), the kind of value min and max
# are, and a label. What it means is in `judge-figures.R`.
limit_kinds <- list(
  porosity = list(args = list(), bound = "share", label = function(a) "porosity"),
  percentile = list(
    args = list(p = NULL, weight = "number", of = "ecd"), bound = "length",
    label = function(a) paste0("D", a$p, " of ", a$of, " by ", a$weight)
  ),
  share_above = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " above ", a$size, " by ", a$weight)
  ),
  share_below = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " below ", a$size, " by ", a$weight)
  ),
  count_per_area = list(args = list(), bound = "density", label = function(a) "count per area")
)

#' Read a specification
#'
#' A specification file is YAML: `bemrick: spec 1`, then `product`, `decision`, `needs` and `limits`.
#'
#' * `decision: {rule: guarded, confidence: 95 %}`: with `guarded` (JCGM 106, ISO 14253-1) a limit is passed
#'   only when the whole interval lies inside, failed when it lies wholly outside, and undecided between; with
#'   `simple` the value alone decides.
#' * `needs: {fields: 3, objects: 300}`: what a sample must have for any verdict.
#' * `limits`: a list of `porosity`, `percentile` (`p`, `weight`, `of`), `share_above` and `share_below`
#'   (`size`, `weight`, `of`), `count_per_area`; each with `min`, `max` or both, with units (`36 %`, `55 um`,
#'   `900 /mm2`).
#'
#' @param file Path of the file.
#' @return A `bm_spec`.
#' @section Errors: Class `bemrick_error_file_content` or `bemrick_error_unknown_name`, naming the limit and
#'   what to write instead.
#' @examples
#' read_spec(system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
read_spec <- function(file) {
  given <- read_yaml_file(file, "spec", spec_keys)
  where <- paste0(" in ", basename(file))
  if (!rlang::is_string(given$product)) bm_abort("{.field product}{where} must name the product.", "file_content")
  if (!is.list(given$limits) || length(given$limits) == 0) {
    bm_abort("{.field limits}{where} must list at least one limit.", "file_content")
  }
  limits <- lapply(seq_along(given$limits), function(k) read_limit(given$limits[[k]], paste0(" in limit ", k, where)))
  structure(
    list(
      product = given$product, decision = read_decision(given$decision, where), needs = read_needs(given$needs, where),
      limits = limits, file = basename(file), sha256 = file_sha256(file)
    ),
    class = "bm_spec"
  )
}

read_decision <- function(given, where) {
  check_known(names(given), c("rule", "confidence"), "key", paste0(" in decision", where))
  rule <- check_choice(if (is.null(given$rule)) "guarded" else given$rule, "rule", c("guarded", "simple"))
  confidence <- if (is.null(given$confidence)) 0.95 else parse_share(given$confidence, "confidence")
  list(rule = rule, confidence = check_number(confidence, "confidence", 0.5, 0.9999))
}

read_needs <- function(given, where) {
  check_known(names(given), c("fields", "objects"), "key", paste0(" in needs", where))
  need <- function(name) if (is.null(given[[name]])) 0 else check_number(given[[name]], name, min = 0, whole = TRUE)
  list(fields = need("fields"), objects = need("objects"))
}

read_limit <- function(given, where) {
  if (!is.list(given) || length(given) != 1 || !is.list(given[[1]])) {
    bm_abort(c(
      "A limit is not written rightly{where}.",
      i = "Write for example {.code - porosity: {{min: 30 %, max: 36 %}}}."
    ), "file_content")
  }
  name <- names(given)
  check_known(name, names(limit_kinds), "figure", where)
  kind <- limit_kinds[[name]]
  given <- given[[1]]
  check_known(names(given), c(names(kind$args), "min", "max"), "key", paste0(" of ", name, where))
  args <- kind$args
  args[names(given)[names(given) %in% names(args)]] <- given[names(given) %in% names(kind$args)]
  check_limit_args(name, args, where)
  bounds <- lapply(
    c(min = "min", max = "max"), function(end) read_bound(given[[end]], paste0(name, " ", end, where), kind$bound, args)
  )
  if (is.na(bounds$min$value) && is.na(bounds$max$value)) {
    bm_abort("The limit on {.field {name}}{where} needs {.field min}, {.field max} or both.", "file_content")
  }
  # both in micrometres (or shares), so they can be compared whatever units they were written in
  if (isTRUE(bounds$min$value > bounds$max$value)) {
    bm_abort(c(
      "The limit on {.field {name}}{where} has min ({given$min}) above max ({given$max}).",
      i = "Swap them."
    ), "file_content")
  }
  list(name = name, args = args, label = kind$label(args), bound = kind$bound, min = bounds$min, max = bounds$max)
}

check_limit_args <- function(name, args, where) {
  for (arg in names(args)) {
    if (is.null(args[[arg]])) bm_abort("The limit on {.field {name}}{where} needs {.field {arg}}.", "file_content")
  }
  if (!is.null(args$p)) check_number(args$p, paste0("p", where), 0, 100)
  if (!is.null(args$weight)) check_choice(args$weight, paste0("weight", where), names(weight_powers))
  if (!is.null(args$of)) {
    check_choice(args$of, paste0("of", where), names(measure_table))
    if (measure_table[[args$of]][[1]] != 1) {
      bm_abort("{.field of}{where} must be a length, such as {.val ecd}; {.val {args$of}} is none.", "file_content")
    }
  }
  if (!is.null(args$size)) parse_length(args$size, paste0("size", where), "um")
}

# A bound in the base unit (um, /um2, share), with the text it was written as and the unit to show it in.
read_bound <- function(x, name, kind, args) {
  if (is.null(x)) return(list(value = NA_real_, text = "", unit = ""))
  value <- switch(kind,
    share = parse_share(x, name),
    length = parse_length(x, name, "um"),
    density = parse_length(x, name, "um", power = -2)
  )
  q <- parse_quantity(x, name)
  unit <- switch(kind, share = "%", length = q$unit, density = paste0("/", q$unit, "2"))
  list(value = value, text = as.character(x), unit = unit)
}
