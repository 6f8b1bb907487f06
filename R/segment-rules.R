# Rules that choose a level from the histogram, and one that looks at the edges. Each takes counts
# of the levels 0, 1, ... and gives k so that levels up to k are the dark class; NA when there is
# one level only. Where neighbouring k are equally good, the middle of them.

rule_names <- c("otsu", "ridler", "kapur", "kittler", "li", "zack", "kohler", "percentile")

# `edges` (from edge_sums()) is asked for by one rule only, and is made when it is.
level_by_rule <- function(counts, rule, share = NULL, phase = "bright", edges = NULL) {
  used <- which(counts > 0)
  if (length(used) < 2) return(NA_real_)
  switch(rule,
    otsu = core_otsu(counts),
    ridler = ridler_level(counts),
    kapur = best_cut(kapur_score(counts)),
    kittler = best_cut(kittler_score(counts)),
    li = best_cut(li_score(counts)),
    zack = zack_level(counts),
    kohler = kohler_level(edges, otsu_means(counts)) %||% core_otsu(counts),
    percentile = percentile_level(counts, share, phase)
  )
}

# Of every cut: weight, mean and second moment of the dark and of the bright class.
cut_sums <- function(counts) {
  p <- counts / sum(counts)
  level <- seq_along(p) - 1
  before <- seq_len(length(p) - 1)
  w0 <- cumsum(p)[before]
  s0 <- cumsum(p * level)[before]
  q0 <- cumsum(p * level^2)[before]

  list(
    w0 = w0, w1 = 1 - w0, s0 = s0, s1 = sum(p * level) - s0, q0 = q0, q1 = sum(p * level^2) - q0,
    p = p
  )
}

# Middle of the first run of cuts with the highest score.
best_cut <- function(score) {
  score[!is.finite(score)] <- -Inf
  top <- max(score)
  if (!is.finite(top)) return(NA_real_)
  good <- which(score >= top - 1e-12 * max(1, abs(top)))
  run <- sum(good - seq_along(good) == good[1] - 1)
  good[1] + (run - 1) / 2 - 1
}

# Ridler & Calvard (1978), "Picture thresholding using an iterative selection method", IEEE Trans.
# SMC 8, 630-632: the level halfway between the means of the two classes, found iteratively from the
# mean.
ridler_level <- function(counts) {
  s <- cut_sums(counts)
  level <- sum(s$p * (seq_along(counts) - 1))
  for (turn in 1:1000) {
    k <- min(max(floor(level) + 1, 1), length(s$w0))
    if (s$w0[k] <= 0 || s$w1[k] <= 1e-15) break
    again <- (s$s0[k] / s$w0[k] + s$s1[k] / s$w1[k]) / 2
    if (abs(again - level) < 1e-9) break
    level <- again
  }
  # a level within a gap of the histogram parts the same classes; the cut is put behind a level in
  # use
  floor(level)
}

# Kapur, Sahoo & Wong (1985), "A new method for gray-level picture thresholding using the entropy of
# the histogram", CVGIP 29, 273-285: the greatest sum of the entropies of the classes.
kapur_score <- function(counts) {
  s <- cut_sums(counts)
  plogp <- ifelse(s$p > 0, s$p * log(s$p), 0)
  h0 <- cumsum(plogp)[seq_along(s$w0)]
  h1 <- sum(plogp) - h0
  some <- s$w0 > 1e-15 & s$w1 > 1e-15
  ifelse(some, log(s$w0) - h0 / s$w0 + log(s$w1) - h1 / s$w1, -Inf)
}

# Kittler & Illingworth (1986), "Minimum error thresholding", Pattern Recognition 19, 41-47. The
# twelfth of a level is added to the variances, since levels are rounded: a class of one level would
# be infinitely good.
kittler_score <- function(counts) {
  s <- cut_sums(counts)
  some <- s$w0 > 1e-15 & s$w1 > 1e-15
  v0 <- pmax(s$q0 / s$w0 - (s$s0 / s$w0)^2, 0) + 1 / 12
  v1 <- pmax(s$q1 / s$w1 - (s$s1 / s$w1)^2, 0) + 1 / 12
  ifelse(some, -(s$w0 * log(v0) + s$w1 * log(v1) - 2 * (s$w0 * log(s$w0) + s$w1 * log(s$w1))), -Inf)
}

# Li & Lee (1993), "Minimum cross entropy thresholding", Pattern Recognition 26, 617-625.
li_score <- function(counts) {
  s <- cut_sums(counts)
  some <- s$w0 > 1e-15 & s$w1 > 1e-15
  part <- function(moment, weight) ifelse(moment > 0, moment * log(moment / weight), 0)
  ifelse(some, part(s$s0, s$w0) + part(s$s1, s$w1), -Inf)
}

# Zack, Rogers & Latt (1977), "Automatic measurement of sister chromatid exchange frequency", J.
# Histochem. Cytochem. 25, 741-753: farthest from the line between the peak and the end of the
# longer tail. For 16-bit pictures, whose counts scatter from level to level, the counts are taken
# as a running mean over a 256th of the scale.
zack_level <- function(counts) {
  if (length(counts) > 256) {
    width <- 2 * (length(counts) %/% 512) + 1
    padded <- c(rep(0, width %/% 2), counts, rep(0, width %/% 2))
    sums <- cumsum(c(0, padded))
    counts <- (sums[-seq_len(width)] - sums[seq_along(counts)]) / width
  }
  used <- which(counts > 0)
  peak <- which.max(counts)
  end <- if (peak - used[1] > used[length(used)] - peak) used[1] else used[length(used)]
  if (end == peak) return(peak - 1)
  at <- min(peak, end):max(peak, end)
  below <- counts[peak] + (counts[end] - counts[peak]) * (at - peak) / (end - peak) - counts[at]
  best <- at[which.max(below)]

  # the level found, best - 1, belongs to the side of the peak
  if (end > peak) best - 1 else best - 2
}

# The cut that leaves nearest to `share` of the pixels in the phase.
percentile_level <- function(counts, share, phase) {
  below <- cumsum(counts)[-length(counts)] / sum(counts)
  wanted <- if (phase == "bright") 1 - share else share
  best_cut(-abs(below - wanted))
}
