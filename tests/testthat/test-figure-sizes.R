test_that("facts, histogram and distribution are drawn for every depth", {
  expect_equal(
    dim(drawn(autoplot(field_facts(small_beads(strip = TRUE, depth = 16))), 1280, 800))[1:2],
    c(800, 1280)
  )
  expect_equal(
    dim(drawn(autoplot(field_facts(as_field(matrix(7, 30, 30)))), 600, 400))[1:2], c(400, 600)
  )
})

test_that("a cumulative curve of very many objects stays short and ends at 100 %", {
  curve <- cumulative_curve(new_distribution(
    as.numeric(1:50000), rep(1, 50000), "ecd", "number", "um"
  ))
  expect_lte(nrow(curve), 2001)
  expect_equal(range(curve$y), c(0, 100))
})

test_that("the cumulative curve has its band", {
  set.seed(111)
  d <- new_distribution(
    stats::rlnorm(300, 3, 0.3), rep(1, 300), "ecd", "number", "um",
    field = rep(c("a", "b", "c"), 100)
  )
  ribbon <- ggplot2::layer_data(autoplot(d)[[2]], 1)
  expect_true(all(ribbon$ymin <= ribbon$ymax))
  expect_gt(max(ribbon$ymax - ribbon$ymin), 2)
})

test_that("a distribution is drawn as shares per class and smaller than, with its limits", {
  d <- size_distribution(accept_objects(suspect_merges(measured_beads()), ecd = c("14 um", NA)))
  expect_equal(fingerprint(autoplot(d, read_spec(kit("beads.spec.yml"))$limits)), "f5181a48")
  marks <- ggplot2::layer_data(autoplot(d)[[2]], 7)
  expect_equal(marks$label, paste(names(quantile(d)), show_number(quantile(d), 3)))
  expect_equal(marks$x, unname(quantile(d)))
  expect_equal(marks$y, c(10, 50, 90))
  expect_equal(size_axis(d), "equivalent circle diameter (\u00b5m)")
  expect_equal(size_axis(list(of = "aspect_ratio", unit = "")), "aspect ratio")
  expect_equal(axis_name("feret_min"), "minimum Feret diameter")
  curve <- cumulative_curve(new_distribution(c(1, 2, 4), c(1, 1, 2), "ecd", "number", "um"))
  expect_equal(curve, tibble::tibble(x = c(1, 1, 2, 4), y = c(0, 25, 50, 100)))
})
