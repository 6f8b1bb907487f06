# Draws the pictures that ship with the package (inst/extdata), one of each product of the demo lab,
# and teaches the patterns of the clip plates.
library(bemrick)
beads <- simulate_field(
  width = 800, height = 600, count = 110, diameter = "24 um", spread = 1.18, pixel = "0.6 um",
  touching = 0.1, rim = 35, texture = 3, strip = TRUE, seed = 7
)
png::writePNG(beads$pixels / 255, "inst/extdata/beads.png")
plate <- simulate_field(
  width = 800, height = 600, count = NULL, cover = 0.33, diameter = "30 um", spread = 1.35,
  shape = "blob", pixel = "0.8 um", phase = "dark", noise = 4, uneven = 0.04, texture = 4,
  depth = 16, seed = 8
)
tiff::writeTIFF(
  plate$pixels / 65535, "inst/extdata/plate.tif", bits.per.sample = 16L, compression = "deflate"
)
straight <- simulate_plate(turns = 0, clutter = 0, noise = 2, seed = 1)
png::writePNG(straight$pixels / 255, "inst/extdata/clip-plate.png")
straight <- calibrate(
  read_field("inst/extdata/clip-plate.png"), read_calibration("inst/extdata/stand.calibration.yml")
)
teach <- function(box, name) {
  pattern <- teach_pattern(straight, do.call(region_box, as.list(box)), name)
  write_pattern(pattern, file.path("inst/extdata", paste0(name, ".pattern.yml")), replace = TRUE)
}
teach(c(182, 142, 274, 200), "clip")
teach(c(80, 100, 155, 175), "corner")
