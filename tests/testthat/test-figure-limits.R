test_that("limits are marked on the distribution they concern only", {
  limits <- read_spec(kit("beads.spec.yml"))$limits
  d <- size_distribution(accept_objects(measured_beads()))
  marks <- limit_marks(d, limits)
  expect_equal(nrow(marks), 2)
  expect_equal(unlist(marks[1, c("low", "high", "from")], use.names = FALSE), c(22, 26, 50))
  expect_equal(unlist(marks[2, c("low", "from", "to")], use.names = FALSE), c(12, 0, 2))
  expect_match(marks$text[2], "12 \u00b5m")
  by_volume <- size_distribution(accept_objects(measured_beads()), weight = "volume")
  marks <- limit_marks(by_volume, limits)
  expect_equal(marks$high, 42)
  expect_false(marks$first)  # no lower bound: no mark at that end
  expect_equal(nrow(limit_marks(d, NULL)), 0)
})

test_that("limits of sizes run along their percentile, limits of shares along their size", {
  d <- new_distribution(c(10, 20, 30), rep(1, 3), "ecd", "number", "um")
  marks <- function(...) {
    limit_marks(
      d,
      read_spec(text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", c(...))))$limits
    )
  }
  stretch <- function(m) unlist(m[c("low", "high", "from", "to")], use.names = FALSE)
  expect_equal(stretch(marks("percentile: {p: 50, min: 12 um, max: 28 um}")), c(12, 28, 50, 50))
  open <- marks("percentile: {p: 90, max: 0.028 mm}")
  expect_equal(stretch(open), c(10, 28, 90, 90))
  expect_equal(c(open$first, open$last), c(FALSE, TRUE))
  expect_equal(open$text, "  D90: at most 0.028 mm  ")
  expect_equal(
    stretch(marks("share_below: {size: 15 um, min: 10 %, max: 20 %}")), c(15, 15, 10, 20)
  )
  above <- marks("share_above: {size: 25 um, max: 20 %}")
  expect_equal(stretch(above), c(25, 25, 80, 100))
  expect_equal(c(above$first, above$last), c(TRUE, FALSE))
  expect_equal(above$text, "above 25 \u00b5m: at most 20 %")
  expect_equal(above$hjust, 1)
  expect_equal(marks("share_below: {size: 15 um, max: 20 %}")$hjust, 0)
  ends <- limit_ends(rbind(marks("percentile: {p: 50, min: 12 um, max: 28 um}"), above))
  expect_equal(ends$end, c("|", "\u2013", "|"))
  expect_equal(ends$end_x, c(12, 25, 28))
  for (kind in c("mean: {max: 9 um}", "largest: {max: 9 um}", "porosity: {max: 9 %}", "count: {min: 2}", "percentile: {p: 50, max: 9 um, weight: area}", "percentile: {p: 50, max: 9 um, of: feret_max}")) {
    expect_equal(nrow(marks(kind)), 0)
  }
  expect_refused(autoplot(d, 3), class = "argument")
  expect_refused(autoplot(d, list(a = 1)), class = "argument")
  expect_equal(as_number(NULL), NA_real_)
})

test_that("limits on ratios and areas are marked in the measure's own unit", {
  marks <- function(d, line) {
    limit_marks(d, read_spec(text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", line)))$limits)
  }
  ratios <- new_distribution(c(0.5, 0.7, 0.9), rep(1, 3), "solidity", "number", "")
  share <- marks(ratios, "share_below: {of: solidity, size: 0.8, max: 20 %}")
  expect_equal(c(share$low, share$from, share$to), c(0.8, 0, 20))
  expect_equal(marks(ratios, "percentile: {of: solidity, p: 10, min: 0.6, max: 0.8}")$high, 0.8)
  areas <- new_distribution(c(1e-4, 3e-4), rep(1, 2), "area", "number", "mm2")
  expect_equal(marks(areas, "percentile: {of: area, p: 10, min: 150 um2, max: 250 um2}")$low, 1.5e-4)
  expect_equal(marks(areas, "share_above: {of: area, size: 200 um2, max: 2 %}")$low, 2e-4)
  pixels <- new_distribution(c(10, 20, 30), rep(1, 3), "ecd", "number", "px")
  expect_equal(nrow(marks(pixels, "percentile: {p: 50, max: 28 um}")), 0)
})
