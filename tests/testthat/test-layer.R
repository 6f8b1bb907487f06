test_that("a layer tells its edges and their gaps", {
  edge <- function(y, gap) list(x = c(0, 5, 9), y = rep(y, 3), closed = FALSE, gap = gap, u = rep(0, 3))
  layer <- new_layer(
    as_field(matrix(0, 20, 20)), edge(4, c(FALSE, FALSE)), edge(9, c(TRUE, FALSE)), list()
  )
  expect_equal(format(layer), "<layer> first edge: 3 corners; second edge: 3 corners, 1 gaps")
  expect_identical(check_layer(layer), layer)
  expect_refused(check_layer(3), "A layer is needed", class = "class")
  ring <- layer_between(layer$field, edge_circle(9, 9, 4), edge_circle(9, 9, 8))
  expect_match(format(ring), "360 corners, closed")
})
