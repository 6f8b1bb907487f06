test_that("facts stand under the picture with its strip and its histogram", {
  field <- small_beads(strip = TRUE, width = 420)
  figure <- autoplot(field_facts(field))
  expect_equal(fingerprint(figure), "5687d5ae")
  box <- figure[[1]][[1]]$layers[[2]]$data
  expect_equal(c(box$left, box$right, box$bottom), c(0, 420, nrow(field)))
  expect_match(figure[[1]][[1]]$labels$subtitle, "dashed: information strip")
  expect_null(autoplot(field_facts(small_beads()))[[1]][[1]]$labels$subtitle)
})
