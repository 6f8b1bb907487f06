# How sure a value is (JCGM 100): sampling, calibration, threshold and repeatability, each a
# standard uncertainty, combined in quadrature.

# A statistic of weighted objects as something that can be drawn again: `percentile` (x in rising
# order, shares, p between 0 and 1), `ratio` of two sums, or an `extreme` (the largest or smallest),
# which is not sampled: it is what it is.
percentile_statistic <- function(x, share, p) list(kind = "percentile", x = x, share = share, p = p)

ratio_statistic <- function(over, under) list(kind = "ratio", over = over, under = under)

extreme_statistic <- function(x, find) list(kind = "extreme", x = x, find = find)

statistic_value <- function(s) {
  if (s$kind == "extreme") return(s$find(s$x))
  if (s$kind == "ratio") return(sum(s$over) / sum(s$under))
  weighted_percentile(s$x, s$share, 100 * s$p)
}

# x in rising order; not a number where no share is left.
weighted_percentile <- function(x, share, p) {
  if (!any(share > 0)) return(rep(NaN, length(p)))
  if (length(x) == 1) return(rep(x, length(p)))
  middle <- (cumsum(share) - share / 2) / sum(share)
  stats::approx(middle, x, p / 100, rule = 2, ties = "ordered")$y
}

# `field` counts from 1.
statistic_draws <- function(s, field, replicates, seed) {
  field <- field - 1L
  if (s$kind == "ratio") {
    return(core_bootstrap_ratio(s$over, s$under, field, max(field) + 1L, replicates, seed))
  }
  core_bootstrap_percentile(s$x, s$share, field, max(field) + 1L, s$p, replicates, seed)
}

# Standard uncertainty by sampling: list(u, df, low, high), from a jackknife that leaves out whole
# fields (Davison & Hinkley 1997, ch. 3), with as many degrees of freedom as fields but one: so it
# holds whether fields differ or not. It is never taken smaller than a bootstrap of the objects
# within fields shows. `low` and `high` tell how much farther the bootstrap reaches to that side
# than on average. With one field nothing is known of others, unless it is all that is asked about
# (`alone`); nor of a percentile that fewer than three objects lie beyond, whose interval would
# cover the truth in 80 % (`bench/coverage.md`).
# `alike`: as many values as tell no more than one independent value would.
sampling_part <- function(s, field, alone = FALSE, alike = 1, replicates = 2000, seed = 1) {
  if (s$kind == "extreme") return(nothing_sampled())
  n <- length(field)
  fields <- unique(field)
  m <- length(fields)
  if (n < 10 || (m < 2 && !alone) || objects_beyond(s) < 3) {
    return(list(u = NA_real_, df = NA_real_, low = 1, high = 1))
  }
  field <- match(field, fields)
  drawn <- if (n > most_drawn) {
    drawn_in_the_limit(s, field)
  } else {
    summary_of_draws(statistic_draws(s, field, replicates, seed))
  }
  within <- drawn$sd * sqrt(alike)
  n <- max(2, n / alike)
  over_fields <- if (m > 1) sqrt(jackknife_variance(s, field)) else 0
  reach <- abs(drawn$ends - statistic_value(s))
  reach <- if (sum(reach) > 0) 2 * reach / sum(reach) else c(1, 1)
  by_fields <- m > 1 && stats::qt(0.975, m - 1) * over_fields >= stats::qt(0.975, n - 1) * within

  list(
    u = if (by_fields) over_fields else within, df = if (by_fields) m - 1 else n - 1,
    low = reach[1], high = reach[2]
  )
}

# As many independent values as tell as much as these, which follow each other: from their
# autocorrelation, summed while pairs of it are above zero (Geyer 1992, initial positive sequence).
effective_number <- function(x) {
  n <- length(x)
  if (n < 4 || stats::sd(x) <= 1e-9 * abs(mean(x))) return(n)
  rho <- stats::acf(x, min(n - 1, 100 + 10 * sqrt(n)), plot = FALSE)$acf[-1]
  pairs <- rho[c(TRUE, FALSE)][seq_len(length(rho) %/% 2)] + rho[c(FALSE, TRUE)]
  end <- c(which(pairs <= 0), length(pairs) + 1)[1] - 1
  times <- 1 + 2 * sum(pairs[seq_len(end)])
  min(n, max(1, n / max(times, 1)))
}

# Objects on the shorter side of a percentile.
objects_beyond <- function(s) {
  if (s$kind != "percentile") return(Inf)
  value <- statistic_value(s)
  min(sum(s$x <= value), sum(s$x >= value))
}

# `field` counts from 1.
jackknife_variance <- function(s, field) {
  m <- max(field)
  left_out <- if (s$kind == "ratio") {
    (sum(s$over) - sums_of_fields(s$over, field)) / (sum(s$under) - sums_of_fields(s$under, field))
  } else {
    core_left_out_percentile(s$x, s$share, field - 1L, m, s$p)
  }
  (m - 1) / m * sum((left_out - mean(left_out))^2)
}

sums_of_fields <- function(x, field) as.numeric(rowsum(x, field))

# More objects are not drawn again: so many draw as a normal law does.
most_drawn <- 20000

summary_of_draws <- function(drawn) {
  list(sd = stats::sd(drawn), ends = stats::quantile(drawn, c(0.025, 0.975), names = FALSE))
}

# What the draws of very many objects come to: a ratio by its linear terms (Efron & Tibshirani 1993,
# ch. 21); a percentile from the variance of the share that lies below it, turned into sizes by the
# distribution itself (Woodruff 1952).
drawn_in_the_limit <- function(s, field) {
  value <- statistic_value(s)
  terms <- if (s$kind == "ratio") {
    (s$over - value * s$under) / sum(s$under)
  } else {
    s$share * ((s$x <= value) - s$p) / sum(s$share)
  }
  n <- tabulate(field)
  u <- sqrt(sum(sums_of_fields(terms^2, field) - sums_of_fields(terms, field)^2 / n))
  far <- stats::qnorm(0.975)
  if (s$kind == "ratio") return(list(sd = u, ends = value + c(-far, far) * u))
  at <- function(p) weighted_percentile(s$x, s$share, 100 * pmin(pmax(p, 0), 1))
  list(sd = diff(at(s$p + c(-u, u))) / 2, ends = at(s$p + c(-far, far) * u))
}

# The mean of one value per field.
mean_part <- function(values) {
  n <- length(values)
  list(
    u = if (n > 1) stats::sd(values) / sqrt(n) else NA_real_, df = if (n > 1) n - 1 else NA_real_,
    low = 1, high = 1
  )
}

nothing_sampled <- function() list(u = 0, df = Inf, low = 1, high = 1)

# Parts (standard uncertainties by name) and sampling put together. Sampling reaches Student's
# factor for its degrees of freedom to either side, the others the normal one, added in quadrature:
# one factor for the sum by effective degrees of freedom can make an interval narrower when a part
# is added (Ballico 2000).
combine_parts <- function(value, sampling, others, confidence) {
  normal <- stats::qnorm((1 + confidence) / 2)
  student <- if (is.na(sampling$df)) NA_real_ else stats::qt((1 + confidence) / 2, sampling$df)
  rest <- sum(others^2)
  reach <- function(side) sqrt((student * side * sampling$u)^2 + normal^2 * rest)
  list(
    value = value, low = value - reach(sampling$low), high = value + reach(sampling$high),
    u = sqrt(sampling$u^2 + rest), df = sampling$df, normal = normal,
    parts = c(sampling = sampling$u, others)
  )
}

# A value computed with random numbers from a fixed seed, leaving the session's own stream as it
# was.
repeatable <- function(seed, value, call = rlang::caller_env()) {
  check_number(seed, "seed", -.Machine$integer.max, .Machine$integer.max, whole = TRUE, call = call)
  withr::with_seed(
    seed, value, .rng_kind = "Mersenne-Twister", .rng_normal_kind = "Inversion",
    .rng_sample_kind = "Rejection"
  )
}
