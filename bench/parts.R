# Regions that follow a part, and measuring at every find: do they give what an unturned picture gives, and what do they cost?
# Rscript bench/parts.R > bench/parts.md
library(bemrick)
use_threads(1)
source("tests/testthat/helper-parts.R")
best <- function(code, times = 3) {
  min(vapply(seq_len(times), function(k) system.time(code())[["elapsed"]], 0))
}

# A clip with three discs beside it, at a pose; discs of 40, 50 and 60 pixels.
with_discs <- function(x, y, turn, seed, noise = 4, width = 640, height = 520) {
  a <- turn * pi / 180
  discs <- cbind(c(110, 110, 175), c(-40, 40, 0))
  picture <- draw_part(matrix(60, height, width), part_shapes$clip, x, y, 120, turn)
  for (k in 1:3) {
    picture <- draw_part(
      picture, list(ngon(120, 0.5)), x + cos(a) * discs[k, 1] + sin(a) * discs[k, 2],
      y + cos(a) * discs[k, 2] - sin(a) * discs[k, 1], c(40, 50, 60)[k], 0, 200
    )
  }
  set.seed(seed)
  smooth <- filter_gaussian(as_field(picture), 0.8)$pixels
  as_field(pmin(pmax(round(smooth + rnorm(length(picture), 0, noise)), 0), 255))
}
pattern <- teach_pattern(with_discs(320, 260, 0, 1, 2), region_box(250, 215, 395, 305), "clip")
beside <- region_box(400, 190, 530, 330)
sizes <- function(field) {
  objects <- find_objects(segment_auto(keep_within(field, beside), phase = "bright"))
  sort(measure_objects(objects, outline = "subpixel")$ecd_px)
}
still <- rowMeans(vapply(1:10, function(seed) sizes(with_discs(320, 260, 0, seed)), numeric(3)))

cat("# Finding and checking parts\n\n")
cat("## Regions that follow a part\n\n")
cat("A clip with three discs beside it (ECD 40, 50, 60 px), noise 4, at 40 random turns and places; the same region and steps.\n\n")
set.seed(11)
moved <- lapply(1:40, function(k) {
  field <- with_discs(runif(1, 300, 340), runif(1, 240, 280), runif(1, -180, 180), 100 + k)
  sizes(follow_pattern(field, pattern))
})
counts <- lengths(moved)
off <- vapply(moved[counts == 3], function(m) m / still - 1, numeric(3))
cat("| | found | bar |\n|---|---|---|\n")
cat(sprintf("| pictures with the same count | %d of 40 | 40 |\n", sum(counts == 3)))
cat(sprintf("| size against the unturned picture, mean | %+.3f %% | 0.3 %% |\n", 100 * mean(off)))
cat(sprintf("| largest deviation of one disc | %.3f %% | 0.3 %% |\n\n", 100 * max(abs(off))))

cat("## Cost\n\n")
m <- matrix(runif(4096^2), 4096)
u <- best(function() m + 0, 5)
rm(m)
big <- matrix(60, 4096, 4096)
at <- expand.grid(x = seq(200, 3900, length.out = 10), y = seq(200, 3900, length.out = 10))
set.seed(2)
at$turn <- runif(100, -180, 180)
for (k in 1:100) big <- draw_part(big, part_shapes$clip, at$x[k], at$y[k], 120, at$turn[k])
big <- as_field(pmin(pmax(round(filter_gaussian(as_field(big), 0.8)$pixels + rnorm(4096^2, 0, 4)), 0), 255))
finds <- locate_pattern(big, pattern)
body <- region_box(255, 220, 385, 300)
steps <- function(field) measure_objects(find_objects(segment_auto(field, phase = "bright")))
each <- best(function() at_each(finds, body, steps))
whole <- best(function() steps(big))
region <- best(function() measure_region(finds, body, low = 110))
cat(sprintf("4096 x 4096, %d finds of 120 px; u = %.0f ms (`x + 0`), one thread.\n\n", nrow(finds), 1000 * u))
cat("| | time | u |\n|---|---|---|\n")
row <- function(what, t) cat(sprintf("| %s | %.0f ms | %.1f |\n", what, 1000 * t, t / u))
row("`at_each()`: threshold, objects and measures at 100 finds", each)
row("the same steps once on the whole picture", whole)
row("`measure_region()` at 100 finds", region)

# one disc every 60 x 58 pixels: 4,899 objects
disc <- outer(1:58, 1:60, function(y, x) 60 + 120 * ((x - 30)^2 + (y - 29)^2 < 18^2))
many <- disc[rep(1:58, length.out = 4096), rep(1:60, length.out = 4096)]
discs <- measure_objects(find_objects(segment_level(as_field(many), low = 120)))
ring <- best(function() measure_ring(discs, 18, 23, low = 100), 5)
row(sprintf("`measure_ring()`, 5 px wide, of %s objects", format(nrow(discs), big.mark = ",")), ring)
