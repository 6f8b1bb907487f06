test_that("facts of a good picture", {
  f <- field_facts(read_field(kit("beads.png")))
  expect_equal(f[c("width", "depth")], list(width = 800, depth = 8))
  expect_equal(f$strip$side, "bottom")
  expect_match(f$advice, "trim_strip", all = FALSE)
  expect_gt(f$threshold, 100)
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
  expect_true(is.na(flat$threshold))
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
  expect_match(field_facts(read_field(scaled))$scale, "0.6 um per pixel")
})

test_that("each advice is given at its limit and not before", {
  facts <- function(...) {
    utils::modifyList(list(
      depth = 8, strip = list(side = "none", pixels = 0), drawn = character(), threshold = 100,
      clipped_high = 0, clipped_low = 0, lowest = 0, highest = 255, noise_kind = "gaussian",
      noise = 1, contrast = 100, edge_px = 2, uneven = 0.1,
      light = "unknown", cut_off = c(low = 0, high = 0)
    ), list(...))
  }
  given <- function(...) picture_advice(facts(...))
  expect_null(given())
  expect_match(given(strip = list(side = "top", pixels = 30)), "strip of 30 pixels lies at the top")
  expect_match(given(drawn = c("bar", "plate")), "bar, plate.*exclude_overlay")
  expect_match(given(threshold = NA), "one grey level")
  expect_null(given(clipped_high = 0.01))
  expect_match(given(clipped_high = 0.0123), "1.2 % of the pixels are at the top")
  expect_null(given(clipped_low = 0.01))
  expect_match(given(clipped_low = 0.02), "2 % of the pixels are at level 0")
  expect_match(given(cut_off = c(low = 0, high = 0.2), highest = 150), "20 % .* level 150 and none above")
  expect_match(given(cut_off = c(low = 0.2, high = 0), lowest = 7), "20 % .* level 7 and none below")
  expect_null(given(cut_off = c(low = 0, high = 0.2), noise = 0.5))
  expect_length(given(cut_off = c(low = 0.2, high = 0.2), clipped_high = 0.2, clipped_low = 0.2), 2)
  expect_null(given(lowest = 100, highest = 138.25))
  expect_match(given(lowest = 100, highest = 138), "less than 15 %")
  expect_null(given(depth = 16, highest = 9830.25))
  expect_match(given(depth = 16, highest = 9830), "less than 15 %")
  expect_match(given(noise_kind = "impulse", noise = 50), "impulse noise")
  expect_null(given(noise = 11.1))
  expect_match(given(noise = 11.2), "noise is strong")
  expect_null(given(edge_px = 6))
  expect_match(given(edge_px = 6.1), "focus")
  expect_null(given(uneven = 0.15))
  expect_match(given(uneven = 0.16), "uneven: put filter_flatten first")
  expect_match(given(uneven = 0.16, light = "added"), "added.*correct: subtract")
  expect_match(given(uneven = 0.16, light = "multiplied"), "factor.*correct: divide.*flat-field")
})

test_that("facts are those of the picture, and read as one would say them", {
  m <- matrix(rep(c(0, 50, 150, 255), c(40, 900, 600, 60)), 40)
  facts <- field_facts(as_field(m))
  expect_equal(facts[c("width", "height", "depth", "lowest", "highest")],
    list(width = 40, height = 40, depth = 8, lowest = 0, highest = 255))
  expect_equal(facts[c("clipped_low", "clipped_high", "bright")],
    list(clipped_low = 0.025, clipped_high = 0.0375, bright = 660 / 1600))
  expect_gt(facts$threshold, 50)
  expect_lt(facts$threshold, 150)
  expect_equal(facts$scale, "none")
  shown <- format(facts)
  expect_equal(shown[1], "picture    40 x 40 pixels, 8-bit")
  expect_equal(shown[2],
    "grey       levels 0 to 255; 2.5 % of the pixels at level 0, 3.75 % at the top")
  expect_equal(shown[3], "strip      none found")
  expect_match(shown[4], "\\(otsu\\); bright 41.2 %, dark 58.8 %")
  flat <- field_facts(as_field(matrix(7, 20, 20)))
  expect_equal(format(flat)[4], "threshold  none: one grey level only")
  expect_true(is.na(flat$threshold) && is.na(flat$bright))
  expect_equal(
    tags_text(list(kind = "TIFF", x = 20000, y = 20000, unit = "cm")), "TIFF, 0.5 um per pixel"
  )
  expect_match(tags_text(list(kind = "TIFF", x = 72, y = 72, unit = "in")), "default")
  expect_match(
    tags_text(list(kind = "OME-XML", x = 72, y = 72, unit = "in")), "352.78 um per pixel"
  )
})

test_that("the threshold lies between two levels, and bright is what lies above it", {
  m <- matrix(c(10, 11), 20, 20)
  facts <- field_facts(as_field(m))
  expect_equal(facts$threshold, 10.5)
  expect_equal(facts$bright, 0.5)
  lowest <- field_facts(as_field(matrix(c(0, 1), 20, 20)))
  expect_equal(lowest[c("threshold", "bright")], list(threshold = 0.5, bright = 0.5))
  three <- field_facts(as_field(matrix(c(10, 10, 10, 200), 20, 20)))
  expect_equal(three$bright, 0.25)
})

test_that("a picture cut off within the scale is recognised, one with a flat phase is not", {
  noisy <- small_beads(noise = 4)
  cut <- noisy
  cut$pixels <- cut$picture <- pmin(noisy$pixels, 170)
  facts <- field_facts(cut)
  expect_equal(facts$cut_off[["high"]], mean(cut$pixels == 170))
  expect_match(facts$advice, "at level 170 and none above", all = FALSE)
  expect_equal(field_facts(noisy)$cut_off, c(low = 0, high = 0))
  expect_no_match(c("", field_facts(small_beads(noise = 0, uneven = 0))$advice), "cut off")
})

test_that("several pieces of advice stand below each other", {
  facts <- field_facts(small_beads(strip = TRUE, width = 420, uneven = 0.9))
  shown <- format(facts)
  expect_gt(length(facts$advice), 1)
  expect_equal(tail(shown, length(facts$advice) - 1), paste0(strrep(" ", 11), facts$advice[-1]))
  expect_match(shown[length(shown) - length(facts$advice) + 1], "^advice     An information strip")
  expect_match(format(field_facts(small_beads()))[9], "^advice     no problems found$")
  one <- field_facts(small_beads(strip = TRUE, width = 420))
  expect_equal(length(format(one)), 9)
  expect_equal(trimws(substr(format(one), 1, 11)), c(
    "picture", "grey", "strip", "threshold", "contrast", "edges", "light", "scale", "advice"
  ))
})
