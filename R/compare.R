# Side by side: what a filter did, and what the rules say.

#' Compare two fields
#'
#' What a filter did to edges and noise, in numbers: put the field before and after into it. [comparison_figure()] shows both,
#' their difference and a part enlarged, in one grey scale.
#'
#' @param before,after Two `bm_field`s of the same size.
#' @return A `bm_comparison`: `table` (tibble: `what`, `before`, `after`) with noise, contrast and edge width as in
#'   [field_facts()], mean and range of the levels; `difference` (mean and largest absolute difference); and both fields.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1)
#' compare_fields(field, filter_median(field, 2))
#' @export
compare_fields <- function(before, after) {
  check_field(before)
  check_field(after)
  if (!identical(dim(before$pixels), dim(after$pixels))) {
    bm_abort(c(
      "The fields have {ncol(before$pixels)} x {nrow(before$pixels)} and {ncol(after$pixels)} x {nrow(after$pixels)} pixels.",
      i = "Only fields of one size can be compared: compare before cutting or shrinking."
    ), "argument")
  }
  numbers <- function(field) {
    counts <- level_counts(field)
    quality <- quality_facts(field, counts, core_otsu(counts))
    c(quality$noise, quality$contrast, quality$edge_px, mean(field$pixels), range(field$pixels))
  }
  what <- c("noise, levels", "contrast, levels", "edge width, pixels", "mean level", "lowest level", "highest level")
  first <- numbers(before)
  second <- numbers(after)
  change <- abs(after$pixels - before$pixels)
  structure(
    list(table = tibble::tibble(what = what, before = first, after = second),
         difference = c(mean = mean(change), largest = max(change)), before = before, after = after),
    class = "bm_comparison"
  )
}

#' Compare the rules of segmentation
#'
#' The level each rule of [segment_auto()] finds, with the area fraction and the number of objects at it, so that a person
#' can choose.
#' [rules_figure()] draws the masks and the levels in the histogram.
#'
#' @param field A `bm_field`.
#' @param phase Whether objects are `"bright"` or `"dark"`, or `"auto"`.
#' @return A `bm_rules`: `table` (tibble: `rule`, `level`, `area_fraction`, `objects`), `phase` and the field.
#' @examples
#' compare_rules(simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1))
#' @export
compare_rules <- function(field, phase = "auto") {
  check_field(field)
  check_choice(phase, "phase", c("bright", "dark", "auto"))
  rules <- setdiff(rule_names, "percentile")
  counts <- level_counts(field)
  level <- vapply(rules, function(rule) level_by_rule(counts, rule), 0, USE.NAMES = FALSE) + 0.5
  if (all(is.na(level))) bm_abort("This picture has one grey level only, so no rule can part it.", "flat")
  if (phase == "auto") phase <- phase_of_objects(field, level[1])
  masks <- lapply(level, function(l) {
    within_sample(if (phase == "bright") core_between(field$pixels, l, Inf) else core_between(field$pixels, -Inf, l), field)
  })
  fraction <- vapply(masks, sum, 0) / sample_size(field)
  count <- vapply(masks, function(m) core_label(m)$count, 0L)
  structure(
    list(table = tibble::tibble(rule = rules, level = level, area_fraction = fraction, objects = count), phase = phase,
      field = field),
    class = "bm_rules"
  )
}
