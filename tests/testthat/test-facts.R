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
