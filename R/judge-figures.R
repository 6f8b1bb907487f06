# The figures a specification can limit, computed for one sample: value and interval in base units
# (um, per um2, share). A sample is list(objects, fields, unit, uncertainty, level).

sample_figure <- function(limit, sample, confidence) {
  if (limit$name != "porosity") need_units(sample, limit)
  sizes <- function(statistic, relative) object_figure(sample, limit, confidence, statistic, relative)
  u <- sample$uncertainty
  # a diameter changes by half as much as the area that the level adds
  size_error <- sqrt(u^2 + (sample$level / 2)^2)
  found <- switch(limit$name,
    porosity = field_mean(sample$fields$area_fraction, confidence, relative = sample$level),
    count_per_area = field_mean(sample$fields$accepted_weight / sample$fields$area_um2, confidence, 2 * u),
    percentile = sizes(function(x, share) weighted_percentile(x, share, limit$args$p), size_error),
    share_above = sizes(function(x, share) share_above(x, share, limit_size(limit)), 0),
    share_below = sizes(function(x, share) 1 - share_above(x, share, limit_size(limit)), 0)
  )
  if (limit$name %in% c("share_above", "share_below")) found <- open_zero_share(found, nrow(sample$objects), confidence)
  found
}

need_units <- function(sample, limit) {
  if (sample$unit != "px") return(invisible())
  bm_abort(c(
    "The specification limits {.val {limit$label}}, but the objects were measured in pixels.",
    i = "Give the images a calibration."
  ), "no_calibration", call = NULL)
}

# None (or all) of n objects beyond a size does not prove a share of 0 (or 1): the exact binomial
# bound (Clopper & Pearson 1934), which the bootstrap cannot see.
open_zero_share <- function(found, n, confidence) {
  bound <- 1 - ((1 - confidence) / 2)^(1 / n)
  if (anyNA(found)) return(found)
  if (found[["value"]] == 0) found[["high"]] <- max(found[["high"]], bound)
  if (found[["value"]] == 1) found[["low"]] <- min(found[["low"]], 1 - bound)
  found
}

limit_size <- function(limit) parse_length(limit$args$size, "size", "um")

field_mean <- function(values, confidence, relative) {
  m <- mean_over_fields(values, confidence)
  c(value = m$mean, widen_interval(m$mean, c(low = m$low, high = m$high), relative, confidence))
}

# A figure of the size distribution of a sample's accepted objects, pooled over its fields.
object_figure <- function(sample, limit, confidence, statistic, relative) {
  if (nrow(sample$objects) == 0) return(c(value = NA_real_, low = NA_real_, high = NA_real_))
  x <- sample$objects[[measure_column(limit$args$of, sample$unit)]] * unit_ratio(sample$unit, "um")
  by_size <- order(x)
  x <- x[by_size]
  share <- sample$objects$weight[by_size] * x^weight_powers[[limit$args$weight]]
  value <- statistic(x, share)
  interval <- bootstrap_interval(x, share, sample$objects$field[by_size], statistic, confidence)
  c(value = value, widen_interval(value, interval, relative, confidence))
}
