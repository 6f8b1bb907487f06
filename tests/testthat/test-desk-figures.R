test_that("figures are drawn of what is there, and say what is missing", {
  stages <- desk_stages(beads_desk())
  for (what in c("rules", "level", "split", "sizes", "facts")) {
    png <- png::readPNG(figure_shown(stages, what))
    expect_equal(dim(png)[1:2], c(620, 860))
    expect_gt(stats::sd(png), 0.05)
  }
  expect_refused(figure_shown(stages[1:3], "sizes"), class = "action")
  expect_refused(figure_shown(stages, "none"), class = "argument")
  classes <- sizes_shown(stages[[9]]$value, list(of = "ecd", weight = "volume", classes = "12"))
  expect_equal(classes, size_distribution(stages[[9]]$value, "ecd", "volume", 12))
})

test_that("percentiles are those of the distribution that is drawn", {
  stages <- desk_stages(beads_desk())
  table <- stages[[9]]$value
  expect_equal(
    unclass(percentiles_shown(stages, list(weight = "area"))$lines),
    format(size_distribution(table, "ecd", "area"))
  )
  expect_refused(percentiles_shown(stages[1:3], list()), class = "action")
  none <- accept_objects(table, ecd = c("500 um", NA))
  expect_refused(figure_shown(list(list(value = none)), "sizes"), class = "empty")
  kinds <- list(
    widths = gauge_widths(stages[[1]]$value, path_line(1, 100, 799, 100, across = 3)),
    finds = no_finds(stages[[1]]$value)
  )
  expect_equal(first_measure(table), "ecd")
  expect_equal(first_measure(kinds$widths), "width")
  expect_equal(first_measure(kinds$finds), "score")
})
