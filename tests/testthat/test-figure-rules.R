test_that("every rule's level is drawn, and its phase where the rules differ most", {
  rules <- compare_rules(small_beads())
  figure <- autoplot(rules)
  expect_equal(fingerprint(figure), "f5a04c43")
  first <- figure[[2]][[1]]
  expect_equal(first$labels$title, rules$table$rule[1])
  expect_match(first$labels$subtitle, paste0("threshold ", rules$table$level[1], ".*area.*objects"))
})

test_that("the part shown holds most of the pixels between the outermost levels", {
  m <- matrix(10, 500, 700)
  m[300:400, 450:500] <- 100
  part <- part_where_rules_differ(list(
    field = list(pixels = m), table = data.frame(level = c(50, 120, NA))
  ))
  expect_equal(lengths(part), c(rows = 165, cols = 330))
  expect_true(all(300:400 %in% part$rows) && all(450:500 %in% part$cols))
  small <- part_where_rules_differ(list(
    field = list(pixels = m[1:90, 1:60]), table = data.frame(level = c(5, 12))
  ))
  expect_equal(lengths(small), c(rows = 90, cols = 60))
})
