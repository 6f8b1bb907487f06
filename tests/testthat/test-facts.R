test_that("facts of a good picture", {
  f <- field_facts(read_field(kit("beads.png")))
  expect_equal(f[c("width", "depth")], list(width = 800, depth = 8))
  expect_equal(f$strip$side, "bottom")
  expect_match(f$advice, "trim_strip", all = FALSE)
  expect_gt(f$level, 100)
  expect_output(print(f), "strip +bottom, ")
})

test_that("clipped, dull and flat pictures get advice", {
  bright <- small_beads()$pixels + 110
  f <- field_facts(as_field(pmin(bright, 255)))
  expect_equal(f$clipped_high, mean(bright >= 255))
  expect_match(f$advice, "lower the exposure", all = FALSE)
  dark <- pmax(small_beads()$pixels - 100, 0)
  expect_match(field_facts(as_field(dark))$advice, "raise the exposure", all = FALSE)
  expect_match(field_facts(as_field(matrix(100:103, 20, 20)))$advice, "less than 15 %", all = FALSE)
  flat <- field_facts(as_field(matrix(9, 20, 20)))
  expect_true(is.na(flat$level))
  expect_match(flat$advice, "nothing can be measured", all = FALSE)
  expect_output(print(flat), "one grey level only")
})

test_that("noise, contrast, edges and uneven light are near what was drawn", {
  for (noise in c(2, 5, 10)) {
    f <- field_facts(small_beads(noise = noise, uneven = 0))
    expect_equal(f$noise, noise, tolerance = 0.12)
    expect_equal(f$contrast, 110, tolerance = 0.1)
    expect_lt(f$uneven, 0.1)
  }
  sharp <- field_facts(small_beads(blur = 0.5, noise = 2))$edge_px
  soft <- field_facts(small_beads(blur = 3, noise = 2))$edge_px
  expect_lt(sharp, 3)
  expect_gt(soft, 2 * sharp)
  expect_gt(field_facts(small_beads(uneven = 0.6, noise = 3))$uneven, 0.3)
})

test_that("bad light, focus and noise get advice, and the tags are told", {
  expect_match(field_facts(small_beads(uneven = 0.8))$advice, "uneven", all = FALSE)
  expect_match(field_facts(small_beads(noise = 25))$advice, "smooth before", all = FALSE)
  expect_match(field_facts(small_beads(blur = 5))$advice, "in focus", all = FALSE)
  expect_null(field_facts(small_beads())$advice)
  file <- tempfile(fileext = ".png")
  png::writePNG(small_beads()$pixels / 255, file, dpi = 72)
  expect_match(field_facts(read_field(file))$scale, "print default")
  scaled <- tempfile(fileext = ".tif")
  write_field(small_beads(), scaled)
  expect_match(field_facts(read_field(scaled))$scale, "0.6 um a pixel")
})
