test_that("the demo's folder is replaced only when it is the demo's", {
  dir <- tempfile()
  dir.create(dir)
  writeLines("mine", file.path(dir, "mine.txt"))
  refused <- run_cli("demo", "--out", dir, "--replace")
  expect_equal(refused$status, 2)
  expect_equal(list.files(dir), "mine.txt")
  dir.create(file.path(dir, "sub"))
  expect_refused(clear_demo(dir, TRUE), class = "exists")
  own <- tempfile()
  dir.create(file.path(own, "results"), recursive = TRUE)
  expect_refused(clear_demo(own, FALSE), "--replace", class = "exists")
  clear_demo(own, TRUE)
  expect_equal(list.files(own), character())
})

test_that("the demo prints every result beside the truth as drawn, its limit and its verdict", {
  dir <- tempfile("demo-")
  demo_lab(dir, products = "beads", samples = 1, fields = 2)
  said <- utils::capture.output(suppressMessages(demo_batch(dir, "beads")))
  head <- grep(
    "^sample +quantity +measured +low +high +known +unit +limit +P\\(conforming\\) +verdict$", said
  )
  expect_length(head, 1)
  expect_match(said[head + 1], "^A +D50 of ecd by number .*(pass|fail|undecided)$")
  expect_true(any(grepl("^Batch AB-2611: ", said)))
  expect_true(file.exists(file.path(dir, "results", "alumina-beads", "report.html")))
})
