test_that("a batch runs from the desk, is stopped, and goes on from what is there", {
  desk <- open_apart(
    lab_file("batch.csv"), lab_file("beads.method.yml"), spec = lab_file("beads.spec.yml")
  )
  posted <- function(path, body) asked_of(desk, path, "POST", body)
  expect_equal(json_of(asked_of(desk, "/run"))$state, "none")
  expect_equal(json_of(posted("/run", "{\"name\":\"b\"}"))$of, 4)
  expect_equal(posted("/run", "{\"name\":\"b\"}")$status, 422L)  # one at a time
  kept <- file.path(desk$folder, "b-results.part", "kept")
  for (i in 1:200) if (length(list.files(kept)) > 0) break else Sys.sleep(0.05)
  stopped <- json_of(posted("/stop", "{}"))
  expect_true(stopped$state %in% c("stopped", "done"))
  posted("/run", "{\"name\":\"b\",\"replace\":true}")
  for (i in 1:600) {
    run <- json_of(asked_of(desk, "/run"))
    if (run$state != "running") break
    Sys.sleep(0.1)
  }
  expect_equal(run$state, "done")
  expect_equal(run$done, 4)
  expect_equal(unlist(run$verdict$batches$batch), "AB-2611")
  expect_equal(asked_of(desk, "/results/report.html")$status, 200L)
  expect_equal(asked_of(desk, "/results/../b-scales")$status, 404L)
  by_itself <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  expect_equal(
    unlist(run$verdict$limits$value), by_itself$verdict$limits$value, tolerance = 1e-6
  )
  # earlier results are not replaced unasked
  again <- posted("/run", "{\"name\":\"b\"}")
  expect_equal(again$status, 422L)
  expect_match(json_of(again)$said, "b-results")
})

test_that("a run that fails says why", {
  run <- start_run(
    desk_act(desk_state(lab_file("batch.csv")), list(do = "mark", as = "odd")),
    withr::local_tempdir(), "b"
  )
  unlink(results_in(part_of(run$out)), recursive = TRUE)
  run$process$wait(60000)
  expect_true(run_shown(run)$state %in% c("failed", "done"))
})

test_that("the open picture is judged as a batch of it alone would be", {
  desk <- desk_state(
    lab_file("batch.csv"), lab_file("beads.method.yml"), spec = lab_file("beads.spec.yml")
  )
  list <- read_batch_list(lab_file("batch.csv"))
  alone <- run_batch(list[2, ], lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  second <- desk_act(desk, list(do = "open_picture", at = 2))
  expect_equal(verdict_of_picture(second)$limits, alone$verdict$limits)
  both <- run_batch(list[c(2, 4), ], lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  marked <- desk_act(second, list(do = "mark", as = "looked at", at = 4))
  expect_equal(verdict_of_picture(marked, seen = TRUE)$limits, both$verdict$limits)
  expect_equal(verdict_of_picture(marked)$limits, alone$verdict$limits)
  shown <- verdict_shown(alone$verdict)
  expect_equal(unclass(shown$limits$verdict), alone$verdict$limits$verdict)
  expect_refused(verdict_of_picture(desk_state(kit("beads.png"))), class = "action")
})
