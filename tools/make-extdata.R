# Draws the pictures that ship with the package (inst/extdata): one of each product of the demo lab,
# smaller.
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
