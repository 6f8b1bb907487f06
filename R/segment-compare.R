#' @export
format.bm_rules <- function(x, ...) {
  t <- x$table
  c(
    paste0("<rules> ", x$phase, " phase"),
    paste0(
      "  ", formatC(t$rule, width = -9), "threshold ", format(round(t$level, 1)), "  ",
      format(signif(100 * t$area_fraction, 3)), " %  ", format(t$objects), " objects"
    ),
    if (length(x$advice)) paste0("  ", x$advice)
  )
}

# Phases that are not flat have their edges elsewhere than halfway between their means.
rule_advice <- function(field, halfway, steepest) {
  off <- (steepest - halfway) / diff(phase_means(field, halfway))
  if (!is.finite(off) || abs(off) < 0.05) return(character())
  paste0(
    "Edges are steepest at ", round(steepest), ", not at the threshold ", round(halfway),
    " of the histogram: objects have rims, are saturated or thin. The rule kohler takes the edges."
  )
}

#' @exportS3Method tibble::as_tibble bm_rules
as_tibble.bm_rules <- function(x, ...) x$table

#' Compare the rules of segmentation
#'
#' The threshold each rule of [segment_auto()] finds, with the area fraction and the number of
#' objects at it, so that a person can choose. [plot()] draws the masks and the thresholds in the
#' histogram.
#'
#' @param field A `bm_field`.
#' @param phase Whether objects are `"bright"` or `"dark"`, or `"auto"`.
#' @return A `bm_rules`: `table` (tibble: `rule`, `level`, `area_fraction`, `objects`), `phase`,
#'   `advice` (a text where edges are steepest elsewhere than halfway between the phases) and the
#'   field.
#' @examples
#' compare_rules(simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1))
#' @export
compare_rules <- function(field, phase = "auto") {
  check_field(field)
  check_choice(phase, "phase", c("bright", "dark", "auto"))

  rules <- setdiff(rule_names, "percentile")
  counts <- level_counts(field)
  edges <- edge_sums(field)
  level <- vapply(rules, function(rule) level_by_rule(counts, rule, edges = edges), 0)
  level <- unname(level) + 0.5
  if (all(is.na(level))) {
    bm_abort("This picture has one grey level only, so no rule can separate it.", "flat")
  }
  if (phase == "auto") phase <- phase_of_objects(frame_pixels(field$pixels), level[1])
  masks <- lapply(level, function(l) {
    within_sample(
      if (phase == "bright") {
        core_between(field$pixels, l, Inf)
      } else {
        core_between(field$pixels, -Inf, l)
      },
      field
    )
  })
  fraction <- vapply(masks, sum, 0) / sample_size(field)
  count <- vapply(masks, function(m) core_label(m)$count, 0L)

  structure(
    list(
      table = tibble::tibble(
        rule = rules, level = level, area_fraction = fraction, objects = count
      ),
      phase = phase, advice = rule_advice(field, level[rules == "otsu"], level[rules == "kohler"]),
      field = field
    ),
    class = c("bm_rules", "bemrick")
  )
}
