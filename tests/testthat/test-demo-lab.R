test_that("every readable demo picture is measured close to its truth", {
  dir <- tempfile("lab-")
  demo_lab(dir, samples = 1, fields = 2)
  for (product in c("beads", "plates")) {
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

test_that("every clip of the demo's plates is found, and what is wrong with some is told", {
  dir <- withr::local_tempdir()
  lab <- file.path(dir, "lab")
  demo_lab(lab, products = "clips")
  folder <- file.path(lab, "clip-plates")
  run <- run_batch(
    file.path(folder, "batch.csv"), file.path(folder, "clips.method.yml"),
    file.path(folder, "clips.spec.yml")
  )
  truth <- utils::read.csv(file.path(folder, "truth.csv"))
  clips <- take_branch(run, "clips")
  expect_equal(clips$fields$accepted[!truth$faulty], truth$clips[!truth$faulty])
  expect_equal(run$verdict$samples$verdict, c("pass", "fail", "undecided"))
  expect_equal(
    run$verdict$pictures$verdict, c(rep("pass", 3), rep("fail", 3), "pass", "undecided", "pass")
  )
  expect_equal(
    run$verdict$pictures$failed[4:6],
    c("clips: count", "clips: smallest score", "clips: smallest region_share")
  )
  # each find lies on a clip of the truth, and the whole ones score whole
  known <- utils::read.csv(file.path(folder, "truth-objects.csv"))
  for (k in which(!truth$faulty)) {
    same <- known$sample == truth$sample[k] & known$field == truth$field[k]
    finds <- clips$finds[own_rows(clips$finds, clips$fields[k, ]), ]
    apart <- outer(finds$x_px, known$x_px[same], "-")^2 + outer(finds$y_px, known$y_px[same], "-")^2
    expect_true(all(sqrt(apply(apart, 1, min)) < 12))  # the reference is not the middle
    expect_equal(sort(apply(apart, 1, which.min)), seq_len(sum(same)))
    seen <- known$seen[same][apply(apart, 1, which.min)]
    expect_lt(max(abs(finds$score - seen)), 0.06)
  }
  judged <- judge(truth_run(folder, run), read_spec(file.path(folder, "clips.spec.yml")))
  expect_equal(judged$pictures$verdict, run$verdict$pictures$verdict)
  expect_false(anyNA(judged$limits$value))
  holes <- run$verdict$limits[grepl("holes", run$verdict$limits$quantity), ]
  expect_lt(max(abs(holes$value / judged$limits$value[grepl("holes", judged$limits$quantity)] - 1)), 0.02)
})

test_that("layers and cloth of the demo are measured close to their truth, and judged alike", {
  dir <- withr::local_tempdir()
  lab <- file.path(dir, "lab")
  demo_lab(lab, products = c("glaze", "cloth"))
  expected <- list(glaze = c("pass", "fail", "undecided"), cloth = c("pass", "fail", "undecided"))
  for (product in names(expected)) {
    folder <- file.path(lab, demo_products[[product]]$folder)
    spec <- read_spec(file.path(folder, paste0(product, ".spec.yml")))
    run <- run_batch(
      file.path(folder, "batch.csv"), file.path(folder, paste0(product, ".method.yml")), spec
    )
    expect_equal(run$verdict$samples$verdict, expected[[product]])
    known <- judge(truth_run(folder, run), spec)$limits
    mean <- grepl("mean", known$quantity)
    expect_lt(max(abs(run$verdict$limits$value[mean] / known$value[mean] - 1)), 0.01)
  }
  # one picture through a tilted camera has a map of its own, and sizes as the others
  list <- utils::read.csv(file.path(folder, "batch.csv"))
  expect_equal(sum(list$calibration != "light-table.calibration.yml"), 1)
  tilted <- run$widths[run$widths$sample == "A" & run$widths$field == "2" & run$widths$branch == "across", ]
  expect_equal(mean(tilted$gap_um, na.rm = TRUE), 90, tolerance = 0.003)
  expect_true(is.na(run$fields$pixel_x_um[run$fields$sample == "A" & run$fields$field == "2"][1]))
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
  expect_refused(demo_lab(dir), "not empty", class = "exists")
  expect_refused(demo_lab(tempfile(), products = "bead"), "beads", class = "argument")
})
