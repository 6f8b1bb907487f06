test_that("rules are compared on one field", {
  rules <- compare_rules(small_beads())
  expect_equal(rules$phase, "bright")
  expect_setequal(rules$table$rule, setdiff(rule_names, "percentile"))
  otsu <- segment_auto(small_beads())
  row <- rules$table[rules$table$rule == "otsu", ]
  expect_equal(row$level, otsu$low)
  expect_equal(row$area_fraction, area_fraction(otsu))
  expect_equal(row$objects, find_objects(otsu)$count)
  expect_refused(compare_rules(as_field(matrix(1, 9, 9))), class = "flat")
})

test_that("the phase of objects is taken or given, and shares are of the sample", {
  field <- small_beads()
  dark <- compare_rules(field, "dark")
  bright <- compare_rules(field, "bright")
  expect_equal(dark$phase, "dark")
  expect_equal(dark$table$area_fraction, 1 - bright$table$area_fraction)
  expect_equal(compare_rules(as_field(255 - field$pixels))$phase, "dark")
  part <- keep_within(field, region_box(0, 0, 160, 240))
  row <- compare_rules(part, "bright")$table[1, ]
  mask <- segment_level(part, low = row$level)
  expect_equal(row$area_fraction, area_fraction(mask))
  expect_equal(row$objects, find_objects(mask)$count)
  shown <- format(bright)
  expect_equal(shown[1], "<rules> bright phase")
  expect_match(shown[2], sprintf("otsu +threshold +%s +%s %%", bright$table$level[1],
    signif(100 * bright$table$area_fraction[1], 3)))
  expect_identical(tibble::as_tibble(bright), bright$table)
})

test_that("rules without a threshold stand beside those that have one", {
  # two greys next to each other: some rules find no place between them
  m <- matrix(rep(c(10, 200), c(300, 100)), 20)
  rules <- compare_rules(as_field(m))
  expect_equal(rules$phase, "bright")
  expect_true(any(is.finite(rules$table$level)))
  expect_match(format(rules)[2], "^  otsu     threshold [0-9.]+ ")
  expect_equal(rules$table$area_fraction[rules$table$rule == "otsu"], 0.25)
})

test_that("edges that lie elsewhere than the histogram says are told, with the rule for them", {
  expect_equal(compare_rules(small_beads())$advice, character())
  rim <- matrix(70, 60, 60)
  rim[10:50, 10:50] <- 235
  rim[14:46, 14:46] <- 160
  rules <- compare_rules(as_field(rim), "bright")
  expect_match(rules$advice, "steepest at 15[0-9].*threshold 11[0-9].*kohler")
  expect_match(format(rules), "The rule kohler", all = FALSE)
  file <- tempfile(fileext = ".png")
  write_field(as_field(rim), file)
  expect_match(run_cli("inspect", file)$out, "Edges are steepest at 15")
})
