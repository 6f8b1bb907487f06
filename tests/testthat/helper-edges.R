# Pictures of straight and round edges with known places: blurred steps by pnorm(), averaged over
# each pixel on a fine grid. Nothing of the package draws them.

# `distance(x, y)`: how far points lie inside the bright side, in pixels across.
edge_picture <- function(
  distance, width = 60, height = 21, blur = 1, low = 60, high = 160, tall = 1, fine = 6
) {
  step <- (seq_len(fine) - 0.5) / fine
  x <- rep(seq_len(width) - 1, each = height)
  y <- rep(seq_len(height) - 1, width)
  sum <- 0
  for (a in step) for (b in step) sum <- sum + stats::pnorm(distance(x + a, (y + b) * tall) / blur)
  matrix(low + (high - low) * sum / fine^2, height, width)
}

# Bright to the right of an upright line through (at, middle), leaning by `tilt` degrees.
upright_edge <- function(at, tilt = 0, middle = 10.5) {
  t <- tilt * pi / 180
  function(x, y) (x - at) * cos(t) - (y - middle) * sin(t)
}

# Bright between edges at the places `from` and `to`.
bright_bars <- function(from, to, width = 120, height = 21, blur = 1, low = 60, high = 160, fine = 6) {
  share <- 0
  for (k in seq_along(from)) {
    share <- share + edge_picture(function(x, y) x - from[k], width, height, blur, 0, 1, fine = fine) -
      edge_picture(function(x, y) x - to[k], width, height, blur, 0, 1, fine = fine)
  }
  low + (high - low) * share
}

with_noise <- function(picture, sd, seed = 1) {
  set.seed(seed)
  round(picture + stats::rnorm(length(picture), 0, sd))
}

# The least standard deviation of a place that any estimate can have (Cramér and Rao), levels, blur,
# place and noise known.
least_error <- function(noise, contrast, blur, lines) {
  sqrt((noise^2 + 1 / 12) * 2 * sqrt(blur^2 + 1 / 12) * sqrt(pi) / (contrast^2 * lines))
}

# Three pictures of one sample, 2 um a pixel, measured by these steps and held against these limits:
# the run, with its results in `results`.
batch_of_three <- function(dir, pictures, steps, limits) {
  write_calibration(
    calibration_from_length(2000, "4000 um"), file.path(dir, "scale.calibration.yml")
  )
  for (k in 1:3) write_field(pictures[[k]], file.path(dir, paste0("p", k, ".png")))
  writeLines(c(
    "batch,sample,field,image,calibration",
    paste0("B1,A,", 1:3, ",p", 1:3, ".png,scale.calibration.yml")
  ), file.path(dir, "batch.csv"))
  writeLines(
    c("bemrick: method 1", "title: t", "steps:", paste0("  - ", steps)), file.path(dir, "method.yml")
  )
  writeLines(
    c("bemrick: spec 1", "product: p", "limits:", paste0("  - ", limits)), file.path(dir, "spec.yml")
  )
  run_batch(
    file.path(dir, "batch.csv"), file.path(dir, "method.yml"), file.path(dir, "spec.yml"),
    out = file.path(dir, "results")
  )
}
