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
  expect_error(autoplot(d, 3), class = "bemrick_error_argument")
  expect_error(autoplot(d, list(a = 1)), class = "bemrick_error_argument")
  expect_equal(as_number(NULL), NA_real_)
})
