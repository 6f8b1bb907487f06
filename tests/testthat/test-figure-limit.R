limit_of <- function() {
  of <- function(...) {
    measures <- measured_beads()[seq_along(c(...)), ]
    measures$ecd_um <- c(...)
    measures
  }
  suggest_limits(of(1, 2, 3, 2), of(7, 9), "ecd")
}

test_that("all values stand apart in their rows, the steps count what every limit gets wrong", {
  limit <- limit_of()
  heights <- spread_apart(c(2, 2, 2), factor(c("a", "a", "a")))
  expect_equal(length(unique(heights)), 3)
  expect_true(all(heights > 0.6 & heights < 1.4))
  steps <- wrong_steps(limit, c(0, 10))
  expect_equal(max(steps$limit), 10)
  # counted at limits between the values
  at <- function(t, state) {
    s <- steps[steps$state == state & steps$limit <= t, ]
    s$wrong[which.max(s$limit)]
  }
  for (t in c(0.5, 1.5, 2.5, 4, 6.9, 8, 9.5)) {
    expect_equal(at(t, "good left out"), sum(c(1, 2, 3, 2) > t))
    expect_equal(at(t, "bad passed"), sum(c(7, 9) <= t))
  }
  expect_equal(limit_title(limit), "ecd_um 5: bad ones lie above, gap 4; wrong: 0 of 4 good, 0 of 2 bad")
  expect_equal(measure_axis("ecd", "um"), "equivalent circle diameter (\u00b5m)")
  expect_equal(measure_axis("score", "px"), "score")
  expect_equal(dim(drawn(ggplot2::autoplot(limit)))[1:2], c(1000, 1280))
  overlap <- limit
  overlap$gap <- -1
  expect_null(gap_layer(overlap))
})

test_that("sorted parts are drawn by one measure and by two", {
  limit <- limit_of()
  rows <- measured_beads()[1:4, ]
  rows$ecd_um <- c(1, 3, 5, 8)
  one <- ggplot2::autoplot(sort_parts(rows, limit))
  expect_equal(one$labels$title, "2 good, 1 unsure, 1 damaged")
  expect_equal(ggplot2::layer_data(one, 1)$xmin, 3)
  expect_equal(ggplot2::layer_data(one, 1)$xmax, 7)
  expect_equal(ggplot2::layer_data(one, 2)$x, rows$ecd_um)
  second <- limit
  second$measure <- "feret_max"
  two <- ggplot2::autoplot(sort_parts(rows, list(limit, second)))
  expect_equal(ggplot2::layer_data(two, 3)$y, rows$feret_max_um)
  expect_equal(dim(drawn(two))[1:2], c(1000, 1280))
})
