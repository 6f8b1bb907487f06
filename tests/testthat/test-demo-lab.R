test_that("every readable demo picture is measured close to its truth", {
  dir <- tempfile("lab-")
  demo_lab(dir, samples = 1, fields = 2)
  for (product in names(demo_products)) {
    lab <- file.path(dir, demo_products[[product]]$folder)
    run <- run_batch(file.path(lab, "batch.csv"), file.path(lab, paste0(product, ".method.yml")))
    truth <- utils::read.csv(file.path(lab, "truth.csv"))
    expect_equal(run$fields$status, rep("measured", 2))
    expect_lte(max(abs(run$fields$accepted / truth$whole - 1)), 0.01)
    expect_lte(max(abs(run$fields$area_fraction - truth$porosity)), 0.003)
    for (k in 1:2) {
      sizes <- run$objects$ecd_um[run$objects$field == k & run$objects$accepted]
      expect_lte(abs(stats::median(sizes) / truth$d50_um[k] - 1), 0.01)
    }
    known <- judge(
      truth_run(lab, run), read_spec(file.path(lab, paste0(product, ".spec.yml")))
    )$limits
    expect_false(anyNA(known$value))
  }
})

test_that("the broken file of the demo is broken, and its sample undecided", {
  dir <- tempfile("lab-")
  demo_lab(dir, products = "beads")
  lab <- file.path(dir, "alumina-beads")
  list <- read_batch_list(file.path(lab, "batch.csv"))
  run <- run_batch(
    list[list$sample == "C", ], file.path(lab, "beads.method.yml"), file.path(lab, "beads.spec.yml")
  )
  expect_equal(run$fields$status, c("measured", "faulty", "measured"))
  expect_equal(run$verdict$samples$verdict, "undecided")
  expect_match(run$verdict$samples$why, "2 of 3 needed fields")
})

test_that("a folder in use is not drawn into", {
  dir <- tempfile()
  dir.create(dir)
  writeLines("mine", file.path(dir, "a.txt"))
  expect_error(demo_lab(dir), "not empty", class = "bemrick_error_exists")
  expect_error(demo_lab(tempfile(), products = "bead"), "beads", class = "bemrick_error_argument")
})
