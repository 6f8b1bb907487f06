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
  expect_equal(dim(drawn(autoplot(run$verdict), 1280, 860))[1:2], c(860, 1280))
})

test_that("warning limits are drawn and said", {
  run <- made_run(c(0.32, 0.33, 0.34), 20)
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "limits:",
    "  - porosity: {min: 30 %, max: 40 %, warn_max: 35 %}",
    "  - count_per_area: {max: 900 /mm2, warn_max: 800 /mm2}", "  - percentile: {p: 50, max: 21 um}"
  ))
  verdict <- judge(run, spec)
  expect_equal(verdict$limits$warn_max, c(35, 800, NA))
  rows <- strip_rows(verdict$limits)
  expect_equal(c(rows$warn_min[1], rows$warn_max[1]), c(NA, 0.5))
  expect_match(as.character(rows$panel[1]), "30 % to 40 % (warning above 35)", fixed = TRUE)
  expect_match(
    as.character(rows$panel[2]), "at most 900 /mm\u00b2 (warning above 800)", fixed = TRUE
  )
  expect_no_match(as.character(rows$panel[3]), "warning")
  lines <- ggplot2::layer_data(autoplot(verdict), 3)
  expect_equal(lines$xintercept[1], 0.5)
  expect_equal(nrow(lines), 2)
})

test_that("verdicts without interval, per field and of whole batches are drawn too", {
  run <- made_run(0.33, seq(15, 25, length.out = 40))
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "batch: mean", "limits:",
    "  - porosity: {max: 36 %, per: field}", "  - percentile: {p: 50, max: 21 um}",
    "  - count: {min: 3, per: batch}"
  ))
  verdict <- judge(run, spec)
  rows <- strip_rows(verdict$limits)
  expect_true("S, field 1" %in% rows$row)
  expect_true("batch" %in% rows$row)
  expect_silent(figure_png(autoplot(verdict), 800, 600))
  expect_silent(figure_png(autoplot(verdict, "budget"), 800, 600))
})

test_that("samples of the same name in two batches keep rows of their own", {
  first <- made_run(c(0.32, 0.33, 0.35), seq(15, 25, length.out = 40))
  second <- first
  second$fields$batch <- second$objects$batch <- "C"
  run <- new_run(
    list(objects = rbind(first$objects, second$objects)), rbind(first$fields, second$fields), NULL,
    "um", NULL, NULL
  )
  spec <- read_spec(text_file(
    "bemrick: spec 1", "product: P", "limits:", "  - porosity: {max: 36 %}"
  ))
  run$verdict <- judge(run, spec)
  expect_equal(strip_rows(run$verdict$limits)$row, c("B: S", "C: S"))
  expect_equal(length(unique(ggplot2::layer_data(autoplot(run), 3)$y)), 2)
  expect_equal(length(unique(ggplot2::layer_data(autoplot(run$verdict, "budget"), 2)$y)), 2)
  expect_equal(run$verdict$batches$batch, c("B", "C"))
})

test_that("verdicts look as they were looked at, values lie on the scale of their limits", {
  run <- judged_by_hand()
  expect_equal(fingerprint(autoplot(run$verdict)), "9a2c1373")
  limits <- run$verdict$limits
  rows <- strip_rows(limits)
  porosity <- limits$quantity == "porosity"
  expect_equal(rows$value[porosity], pmin((limits$value[porosity] - 20) / 16, 1.65))
  expect_equal(unique(rows$from[porosity]), 0)
  expect_equal(unique(rows$to[porosity]), 1)
  expect_equal(unique(rows$from[!porosity]), -Inf)
  expect_equal(unique(rows$warn_max[porosity]), 13 / 16)
  expect_equal(as.character(rows$row), limits$sample)
  expect_match(rows$text[1], "^31.00 % +\\(|^31.00 %")
  expect_refused(autoplot(run$verdict, "all"), class = "argument")
})
