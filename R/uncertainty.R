# How sure a figure is: sampling by a cluster bootstrap, calibration added in quadrature.

# Interval of statistic(x, share) over the objects of one sample, `x` in rising order, `field` their fields.
# Fields are drawn again first, then objects within each field (cluster bootstrap, Davison & Hinkley 1997, ch.
# 3.8). Percentile interval; none with fewer than two fields or ten objects.
bootstrap_interval <- function(x, share, field, statistic, confidence, replicates = 400, seed = 1) {
  fields <- unname(split(seq_along(x), field))
  if (length(fields) < 2 || length(x) < 10) return(c(low = NA_real_, high = NA_real_))
  draw <- function() {
    rows <- unlist(lapply(sample.int(length(fields), replace = TRUE), function(k) {
      fields[[k]][sample.int(length(fields[[k]]), replace = TRUE)]
    }))
    times <- tabulate(rows, length(x))  # how often each object was drawn: no need to sort again
    drawn <- times > 0
    statistic(x[drawn], (share * times)[drawn])
  }
  values <- repeatable(seed, vapply(seq_len(replicates), function(i) draw(), 0))
  tail <- (1 - confidence) / 2
  stats::setNames(stats::quantile(values, c(tail, 1 - tail), names = FALSE), c("low", "high"))
}

# A value computed with random numbers from a fixed seed, leaving the session's own stream as it was.
repeatable <- function(seed, value) {
  withr::with_seed(
    seed, value, .rng_kind = "Mersenne-Twister", .rng_normal_kind = "Inversion", .rng_sample_kind = "Rejection"
  )
}

# Widens an interval by a relative standard uncertainty of the value (JCGM 100: in quadrature).
widen_interval <- function(value, interval, relative, confidence) {
  if (is.na(value)) return(interval)
  extra <- stats::qnorm((1 + confidence) / 2) * relative * abs(value)
  c(
    low = value - sqrt((value - interval[["low"]])^2 + extra^2),
    high = value + sqrt((interval[["high"]] - value)^2 + extra^2)
  )
}
