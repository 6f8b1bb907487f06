# The figures a specification can limit, computed from the evidence of a field, a sample or a batch: list(fields, objects,
# unit, uncertainty (of the calibration), level (of the area fraction), repeatability, alone). Values and intervals in base
# units (um, um2, per um2, shares).

sample_figure <- function(limit, evidence, confidence) {
  if (limit$name == "count_per_area") need_units(evidence, limit)
  found <- switch(limit$name,
    porosity = field_figure(evidence, confidence, evidence$fields$area_fraction, level = evidence$level),
    count_per_area = field_figure(
      evidence, confidence, evidence$fields$accepted_weight / evidence$fields$area_um2, calibration = 2 * evidence$uncertainty
    ),
    count = combine_parts(nrow(evidence$objects), nothing_sampled(), no_parts(), confidence),
    object_figure(limit, evidence, confidence)
  )
  if (startsWith(limit$name, "share_")) found <- open_zero_share(found, nrow(evidence$objects), confidence)
  found
}

no_parts <- function(calibration = 0, level = 0, repeatability = 0) {
  c(calibration = calibration, level = level, repeatability = repeatability)
}

need_units <- function(evidence, limit) {
  if (evidence$unit != "px") return(invisible())
  bm_abort(c(
    "The specification limits {.val {limit$label}}, but the objects were measured in pixels.",
    i = "Give the images a calibration."
  ), "no_calibration", call = NULL)
}

# A figure that every field has: its mean over fields; calibration and level as relative uncertainties.
field_figure <- function(evidence, confidence, values, calibration = 0, level = 0) {
  value <- if (length(values) > 0) mean(values) else NA_real_
  sampling <- if (evidence$alone) nothing_sampled() else mean_part(values)
  combine_parts(value, sampling, abs(value) * no_parts(calibration, level, evidence$repeatability), confidence)
}

# A figure of the sizes (or of another measure) of the accepted objects, pooled over fields. What calibration and level do to it
# is found by doing it: the measure is made larger and smaller by their uncertainty.
object_figure <- function(limit, evidence, confidence) {
  of <- limit$args$of
  power <- measure_table[[of]][[1]]
  if (power > 0) need_units(evidence, limit)
  x <- evidence$objects[[measure_column(of, evidence$unit)]]
  if (is.null(x)) not_measured(limit)
  known <- !is.na(x)
  if (!any(known)) return(combine_parts(NA_real_, nothing_sampled(), no_parts(), confidence))
  x <- x[known] * if (power > 0) unit_ratio(evidence$unit, "um")^power else 1
  by_size <- order(x)
  x <- x[by_size]
  weight <- evidence$objects$weight[known][by_size]
  statistic <- function(scale = 1) limit_statistic(limit, x * scale, weight)
  moved <- function(relative) abs(limit_value(limit, statistic(1 + relative)) - limit_value(limit, statistic(1 - relative))) / 2
  value <- limit_value(limit, statistic())
  sampling <- if (limit$name == "largest") nothing_sampled()
  else sampling_part(statistic(), evidence$objects$field[known][by_size], evidence$alone)
  # a diameter changes by half as much as the area that the level adds
  parts <- no_parts(moved(power * evidence$uncertainty), moved(power * evidence$level / 2), abs(value) * evidence$repeatability)
  combine_parts(value, sampling, parts, confidence)
}

# x in rising order.
limit_statistic <- function(limit, x, weight) {
  args <- limit$args
  share <- weight * x^weight_powers[[args$weight %||% "number"]]
  size <- function(name) read_measure_bound(args[[name]], name, args$of)
  switch(limit$name,
    percentile = percentile_statistic(x, share, args$p / 100),
    mean = ratio_statistic(share * x, share),
    share_above = ratio_statistic(share * (x > size("size")), share),
    share_below = ratio_statistic(share * (x <= size("size")), share),
    share_between = ratio_statistic(share * (x > size("from") & x <= size("to")), share),
    largest = list(kind = "largest", x = x)
  )
}

limit_value <- function(limit, statistic) if (limit$name == "largest") max(statistic$x) else statistic_value(statistic)

not_measured <- function(limit) {
  asked <- if (limit$args$of %in% c("neighbour_distance", "neighbour_gap")) "neighbours" else "inside"
  bm_abort(c(
    "The specification limits {.field {limit$args$of}} ({limit$label}{limit$where}), which was not measured.",
    i = "Say {.code measure_objects: {{{asked}: true}}} in the method."
  ), "file_content", call = NULL)
}

# None (or all) of n objects beyond a size does not prove a share of 0 (or 1): the exact binomial
# bound (Clopper & Pearson 1934), which the bootstrap cannot see.
open_zero_share <- function(found, n, confidence) {
  if (is.na(found$value)) return(found)
  bound <- 1 - ((1 - confidence) / 2)^(1 / n)
  if (found$value == 0) found$high <- max(found$high, bound)
  if (found$value == 1) found$low <- min(found$low, 1 - bound)
  found$low <- max(found$low, 0)
  found$high <- min(found$high, 1)
  found
}
