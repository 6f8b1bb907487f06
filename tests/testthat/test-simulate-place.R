test_that("as many are placed as asked for, apart by the gap", {
  withr::local_seed(7)
  placed <- place_objects(200, 150, 12, NULL, 16, 1.1, "disc", 0, 4)
  expect_length(placed$shapes, 12)
  expect_equal(dim(placed$cover), c(150, 200))
  x <- vapply(placed$shapes, function(s) s$x, 0)
  y <- vapply(placed$shapes, function(s) s$y, 0)
  r <- vapply(placed$shapes, function(s) s$reach, 0)
  apart <- as.matrix(stats::dist(cbind(x, y))) - outer(r, r, `+`)
  diag(apart) <- 99
  expect_gt(min(apart), 3)
  expect_equal(order(-r), seq_along(r))  # the large ones find their place first
  expect_true(all(abs(x - r) > 2 & abs(y - r) > 2 & abs(x + r - 200) > 2 & abs(y + r - 150) > 2))
})

test_that("the cover asked for is reached, or it is said that it cannot be", {
  withr::local_seed(8)
  placed <- place_objects(300, 200, NULL, 0.25, 20, 1.2, "blob", 0, 3)
  expect_gte(mean(placed$cover), 0.25)
  expect_lt(mean(placed$cover), 0.25 + 0.02)
  expect_refused(place_objects(100, 80, 60, NULL, 30, 1.1, "disc", 0, 3), "do not fit",
    class = "simulation")
})

test_that("a shape is set beside another so that they overlap by three hundredths", {
  withr::local_seed(9)
  a <- new_shape("disc", 20)
  a$x <- 50
  a$y <- 50
  b <- set_beside(new_shape("disc", 10), a)
  expect_equal(sqrt((b$x - 50)^2 + (b$y - 50)^2), 0.97 * 15)
  placed <- place_objects(200, 150, 10, NULL, 16, 1.01, "disc", 1, 4)
  objects <- core_label(placed$cover > 0.5)
  expect_lte(objects$count, 6)
})

test_that("what grazes the frame is not clear of it", {
  s <- list(x = 50, y = 40, radius = rep(10, 1441), reach = 10)
  expect_true(clear_of_frame(s, 200, 150))
  for (x in c(10, 12, 8.1, 190, 189, 211.9)) {
    expect_false(clear_of_frame(utils::modifyList(s, list(x = x)), 200, 150))
  }
  for (x in c(0, 12.1, 7.9, 187.9)) {
    expect_true(clear_of_frame(utils::modifyList(s, list(x = x)), 200, 150))
  }
  expect_false(clear_of_frame(utils::modifyList(s, list(y = 11)), 200, 150))
  expect_false(clear_of_frame(utils::modifyList(s, list(y = 141)), 200, 150))
})
