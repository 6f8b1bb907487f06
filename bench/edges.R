# Objects cut by the frame: mean size and count over 200 simulated fields small against the objects,
# by edge rule, against the truth of the population drawn. The table goes to bench/edges.md as well.
library(bemrick)
count <- 200
whole <- lapply(1:20, function(k) {
  simulate_field(
    width = 1200, height = 1000, count = 190, diameter = "40 px", spread = 1.45, pixel = "1 um",
    noise = 2, seed = k
  )
})
fields <- unlist(lapply(whole, function(field) {
  lapply(1:10, function(k) {
    left <- 200 * ((k - 1) %% 5) + 40
    top <- 400 * ((k - 1) %/% 5) + 60
    list(field = crop_to(field, c(left, top, left + 200, top + 180)), box = c(left, top))
  })
}), recursive = FALSE)
# the population: objects whose middles lie in the fields, with their true sizes
true <- unlist(Map(
  function(f, k) {
    o <- whole[[(k - 1) %/% 10 + 1]]$truth$objects
    o$ecd_um[
      o$x_px >= f$box[1] & o$x_px < f$box[1] + 200 & o$y_px >= f$box[2] & o$y_px < f$box[2] + 180
    ]
  },
  fields, seq_along(fields)
))
measured <- lapply(fields, function(f) {
  m <- suppressWarnings(measure_objects(find_objects(mask_drop(
    segment_level(f$field, low = 128), 8
  ))))
  list(drop = accept_objects(m, "drop"), frame = suppressWarnings(accept_objects(m, "frame")))
})
kept <- lapply(measured, function(m) m$drop[m$drop$accepted, ])
size <- unlist(lapply(kept, function(m) m$ecd_um))
weight <- unlist(lapply(kept, function(m) m$weight))
field_of <- rep(seq_along(kept), vapply(kept, nrow, 0L))
mean_of <- function(w) sum(w * size) / sum(w)
again <- replicate(500, {
  n <- tabulate(sample(count, count, TRUE), count)[field_of]
  c(mean_of(n), mean_of(n * weight))
})
frame <- vapply(measured, function(m) sum(m$frame$accepted), 0)
table <- data.frame(
  what = c(
    "mean ecd, drop, not weighted", "mean ecd, drop, weighted",
    "objects a field, drop, not weighted", "objects a field, drop, weighted",
    "objects a field, two-sided frame"
  ),
  found = c(mean(size), mean_of(weight), length(size) / count, sum(weight) / count, mean(frame)),
  truth = c(rep(mean(true), 2), rep(length(true) / count, 3)),
  error = c(stats::sd(again[1, ]), stats::sd(again[2, ]), NA, NA, stats::sd(frame) / sqrt(count))
)
table$off <- round(100 * (table$found / table$truth - 1), 2)
names(table)[4:5] <- c("standard error", "off, %")
lines <- c(
  "# Objects cut by the frame", "",
  sprintf("%d fields of 200 x 180 pixels, diameters 40 pixels (geometric sd 1.45).", count), "",
  knitr::kable(table, format = "pipe", digits = 3)
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/edges.md")
