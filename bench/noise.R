# What noise does to sizes by the filter advised: small discs at low contrast, and fine mosaics of
# two phases, whose mean intercept every pixel on the wrong side shortens. Otsu's threshold.
#   R_LIBS=build/lib Rscript bench/noise.R
suppressPackageStartupMessages(library(bemrick))

points <- 4
at <- function(n) (seq_len(n * points) - 0.5) / points

# Means over points x points, blurred by a point spread; `fine` is 0 or 1.
seen <- function(fine, sigma = 0.8) {
  n <- nrow(fine) / points
  half <- matrix(colMeans(matrix(fine, points)), n)
  filter_gaussian(as_field(t(matrix(colMeans(matrix(t(half), points)), n)), 8), sigma)$pixels
}
noisy <- function(share, low, contrast, noise) {
  as_field(pmin(pmax(round(low + contrast * share + rnorm(length(share), 0, noise)), 0), 255), 8)
}

discs <- function(across, n = 400) {
  fine <- matrix(0, n * points, n * points)
  places <- seq(across + 4, n - across - 4, 2 * across)
  for (x in places) for (y in places) {
    centre <- c(x, y) + runif(2, -3, 3)
    cols <- which(abs(at(n) - centre[1]) < across)
    rows <- which(abs(at(n) - centre[2]) < across)
    inside <- outer((at(n)[rows] - centre[2])^2, (at(n)[cols] - centre[1])^2, "+") < across^2 / 4
    fine[rows, cols][inside] <- 1
  }
  fine
}

# Cells nearest to random places, two fifths of them bright.
mosaic <- function(cell, n = 400) {
  places <- round((n / cell)^2)
  x <- runif(places, 0, n)
  y <- runif(places, 0, n)
  bright <- runif(places) < 0.4
  nearest <- matrix(Inf, n * points, n * points)
  fine <- matrix(0, n * points, n * points)
  for (k in seq_len(places)) {
    rows <- which(abs(at(n) - y[k]) < 3 * cell)
    cols <- which(abs(at(n) - x[k]) < 3 * cell)
    d <- outer((at(n)[rows] - y[k])^2, (at(n)[cols] - x[k])^2, "+")
    closer <- d < nearest[rows, cols]
    nearest[rows, cols][closer] <- d[closer]
    fine[rows, cols][closer] <- bright[k]
  }
  fine
}

ways <- function(field, smallest) {
  advised <- suggest_radius(field, paste(smallest, "px"))
  list(
    advised = switch(advised$filter,
      filter_gaussian = filter_gaussian(field, advised$radius),
      filter_nonlocal = filter_nonlocal(field, advised$radius), field
    ),
    gaussian = filter_gaussian(field, 1.3), median = filter_median(field, 2)
  )
}
row_of <- function(what, one) {
  off <- rowMeans(vapply(1:3, one, numeric(3)))
  do.call(sprintf, c(list("| %s | %+.1f %% | %+.1f %% | %+.1f %% |", what), as.list(off)))
}

of_discs <- apply(expand.grid(noise = c(13, 20, 27), across = c(8, 12, 16, 30)), 1, function(v) {
  row_of(sprintf("%d | %.1f", v[["across"]], 40 / v[["noise"]]), function(seed) {
    set.seed(seed)
    field <- noisy(seen(discs(v[["across"]])), 100, 40, v[["noise"]])
    vapply(ways(field, v[["across"]]), function(f) {
      found <- measure_objects(find_objects(segment_auto(f, "otsu", "bright")), "subpixel")
      100 * (mean(found$ecd_px[found$area_px2 > 0.2 * v[["across"]]^2]) / v[["across"]] - 1)
    }, 0)
  })
})
intercept <- function(mask) phase_quantities(mask)$mean_intercept_px
of_mosaics <- apply(expand.grid(noise = c(35, 60), cell = c(8, 12, 20)), 1, function(v) {
  row_of(sprintf("%d | %d", v[["cell"]], v[["noise"]]), function(seed) {
    set.seed(seed)
    fine <- mosaic(v[["cell"]])
    true <- intercept(segment_level(as_field(200 * fine, 8), low = 100)) / points
    found <- ways(noisy(seen(fine), 70, 100, v[["noise"]]), v[["cell"]])
    vapply(found, function(f) 100 * (intercept(segment_auto(f, "otsu", "bright")) / true - 1), 0)
  })
})

lines <- c(
  "# Sizes in noise, by the filter advised", "",
  "Mean of three pictures each, Otsu's threshold; beside it a Gaussian of 1.3 pixels and a median of radius 2.",
  "Made by `bench/noise.R`.", "",
  "Discs, error of the mean ECD:", "",
  "| across (px) | contrast / noise | advised | Gaussian | median |", "|---|---|---|---|---|", of_discs, "",
  "Mosaics of a contrast of 100 levels, error of the mean intercept. Wanted: 5 %.", "",
  "| cell (px) | noise | advised | Gaussian | median |", "|---|---|---|---|---|", of_mosaics
)
writeLines(lines, "bench/noise.md")
cat(lines, sep = "\n")
