measured <- function(part, overlays = TRUE, method = lab_file("beads.method.yml"), k = 2,
                     memory = NULL) {
  list <- read_batch_list(lab_file("batch.csv"))
  method <- read_method(method)
  for (dir in c("kept", "results/outlines", "results/overlays")) {
    dir.create(file.path(part, dir), recursive = TRUE)
  }
  job <- new_job(
    list, methods_of(list, method), calibrations_of(list), "um", kinds_of_methods(list(method)), part, overlays,
    memory
  )
  reader <- apart_reader()
  on.exit(reader$close())
  list(job = job, result = measure_listed(job, k, reader))
}

test_that("a field leaves rows in seven digits, its files, and what is kept of it", {
  part <- tempfile()
  done <- measured(part)
  result <- done$result
  expect_false("tables" %in% names(result))
  expect_equal(result$fields$field, "2")
  expect_identical(result$objects$ecd_um, as.numeric(as.character(signif(result$objects$ecd_um, 7))))
  name <- done$job$names[[2]]
  expect_setequal(
    list.files(part, recursive = TRUE),
    c(
      file.path("kept", done$job$keys[2], c("fields.csv", "histograms.csv", "objects.csv")),
      paste0("results/outlines/", name, ".geojson"), paste0("results/overlays/", name, ".jpg")
    )
  )
  kept <- kept_fields(done$job)(2)
  expect_equal(as.data.frame(kept$objects), as.data.frame(result$objects), tolerance = 0)
  expect_null(kept_fields(done$job)(1))
})

test_that("other rows leave an overlay only, and none where overlays are left out", {
  method <- text_file(
    "bemrick: method 1", "steps: [trim_strip]", "branches:",
    "  beads: [segment_auto: {phase: bright}, find_objects, measure_objects]",
    "  rows: [gauge_widths: {along: {line: [0, 100, 300, 100]}, phase: bright}]"
  )
  part <- tempfile()
  measured(part, method = method)
  expect_length(list.files(file.path(part, "results", "overlays")), 2)
  expect_match(list.files(file.path(part, "results", "outlines")), "beads")
  without <- tempfile()
  done <- measured(without, overlays = FALSE, method = method)
  expect_length(list.files(file.path(without, "results", "overlays")), 0)
  expect_length(list.files(file.path(without, "results", "outlines")), 1)
  expect_gt(nrow(done$result$widths), 1)
})

test_that("garbage gathers between fields, unless memory is given", {
  times <- 0
  with_own("let_fields_gather", function() times <<- times + 1, {
    measured(tempfile(), overlays = FALSE)
    expect_equal(times, 1)
    measured(tempfile(), overlays = FALSE, memory = "2 GB")
  })
  expect_equal(times, 1)
})

test_that("overlays are titled by the picture, and by the branch where there is one", {
  title <- NULL
  with_own("save_overlay", function(table, path, what, outlines) title <<- what, {
    measured(tempfile())
    expect_equal(title, basename(read_batch_list(lab_file("batch.csv"))$image[2]))
    measured(tempfile(), method = text_file(
      "bemrick: method 1", "steps: [trim_strip]", "branches:",
      "  beads: [segment_auto: {phase: bright}, find_objects, measure_objects]"
    ))
  })
  expect_match(title, "[.]png: beads$")
})
