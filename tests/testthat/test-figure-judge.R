judged_run <- function() {
  run <- made_run(c(0.32, 0.33, 0.35), seq(15, 25, length.out = 40), uncertainty = 0.01)
  run$fields$area_fraction_level_uncertainty <- 0.003
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "decision: {repeatability: 0.5 %}", "limits:", "  - porosity: {min: 30 %, max: 36 %}",
    "  - percentile: {p: 50, max: 21 um}", "  - share_below: {size: 16 um, max: 2 %}", "  - count_per_area: {min: 20 /mm2}"
  ))
  run$verdict <- judge(run, spec)
  run
}

test_that("every figure stands on a scale of its own between its limits", {
  run <- judged_run()
  rows <- strip_rows(run$verdict$limits)
  expect_equal(nrow(rows), 4)
  porosity <- rows[1, ]
  expect_equal(porosity$value, (100 * mean(c(0.32, 0.33, 0.35)) - 30) / 6)
  expect_equal(c(porosity$from, porosity$to), c(0, 1))
  expect_equal(rows$from[2], -Inf)  # only a highest limit: everything below is allowed
  expect_equal(rows$to[4], Inf)
  limits <- run$verdict$limits
  inside <- limits$value <= limits$max
  expect_equal(rows$value[2:3] <= 1, inside[2:3])
  expect_true(all(rows$low <= rows$value & rows$value <= rows$high))
  expect_match(rows$text[2], "20.00 \u00b5m")
  expect_equal(dim(drawn(verdict_figure(run), 1280, 860))[1:2], c(860, 1280))
})

test_that("warning limits are drawn and said", {
  run <- made_run(c(0.32, 0.33, 0.34), 20)
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "limits:", "  - porosity: {min: 30 %, max: 40 %, warn_max: 35 %}",
    "  - count_per_area: {max: 900 /mm2, warn_max: 800 /mm2}", "  - percentile: {p: 50, max: 21 um}"
  ))
  verdict <- judge(run, spec)
  expect_equal(verdict$limits$warn_max, c(35, 800, NA))
  rows <- strip_rows(verdict$limits)
  expect_equal(c(rows$warn_min[1], rows$warn_max[1]), c(NA, 0.5))
  expect_match(as.character(rows$panel[1]), "30 % to 40 % (warning above 35)", fixed = TRUE)
  expect_match(as.character(rows$panel[2]), "at most 900 /mm\u00b2 (warning above 800)", fixed = TRUE)
  expect_no_match(as.character(rows$panel[3]), "warning")
  lines <- ggplot2::layer_data(verdict_figure(verdict), 3)
  expect_equal(lines$xintercept[1], 0.5)
  expect_equal(nrow(lines), 2)
})

test_that("verdicts without interval, per field and of whole batches are drawn too", {
  run <- made_run(0.33, seq(15, 25, length.out = 40))
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "batch: mean", "limits:", "  - porosity: {max: 36 %, per: field}",
    "  - percentile: {p: 50, max: 21 um}", "  - count: {min: 3, per: batch}"
  ))
  verdict <- judge(run, spec)
  rows <- strip_rows(verdict$limits)
  expect_true("S, field 1" %in% rows$row)
  expect_true("batch" %in% rows$row)
  expect_equal(length(dim(drawn(verdict_figure(verdict), 800, 600))), 3)
  expect_equal(length(dim(drawn(budget_figure(verdict), 800, 600))), 3)
  expect_error(verdict_figure(made_run(0.3, 20)), class = "bemrick_error_class")
})

test_that("the bars of the budget add up to the whole variance", {
  run <- judged_run()
  bars <- ggplot2::layer_data(budget_figure(run), 1)
  ends <- tapply(bars$xmax, bars$PANEL, max)
  expect_equal(as.numeric(ends), rep(100, length(ends)))
  words <- ggplot2::layer_data(budget_figure(run), 2)$label
  expect_true(any(grepl("^u = .* %$", words)))
})

test_that("porosity is drawn field by field with its limits", {
  figure <- porosity_figure(judged_run())
  points <- ggplot2::layer_data(figure, 4)
  expect_equal(points$x, c(32, 33, 35))
  expect_equal(ggplot2::layer_data(figure, 1)$xintercept, c(30, 36))
  expect_equal(ggplot2::layer_data(porosity_figure(made_run(0.3, 20)), 3)$x, 30)
})

test_that("samples of the same name in two batches keep rows of their own", {
  first <- made_run(c(0.32, 0.33, 0.35), seq(15, 25, length.out = 40))
  second <- first
  second$fields$batch <- second$objects$batch <- "C"
  run <- new_run(rbind(first$objects, second$objects), rbind(first$fields, second$fields), NULL, "um", NULL, NULL)
  spec <- read_spec(text_file("bemrick: spec 1", "product: P", "limits:", "  - porosity: {max: 36 %}"))
  run$verdict <- judge(run, spec)
  expect_equal(strip_rows(run$verdict$limits)$row, c("B: S", "C: S"))
  expect_equal(length(unique(ggplot2::layer_data(porosity_figure(run), 3)$y)), 2)
  expect_equal(length(unique(ggplot2::layer_data(budget_figure(run), 2)$y)), 2)
  expect_equal(run$verdict$batches$batch, c("B", "C"))
})
