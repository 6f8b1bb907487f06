test_that("an action is data, and the same actions end in the same state", {
  start <- beads_desk()
  actions <- list(
    list(do = "limit", measure = "ecd", low = "10 um"),
    list(do = "add_step", step = "filter_gaussian", args = list(sigma = "1 px"), after = 2),
    list(do = "mark", as = "odd"), list(do = "undo"), list(do = "redo"), list(do = "undo")
  )
  once <- Reduce(desk_act, actions, start)
  again <- Reduce(desk_act, actions, beads_desk())
  expect_identical(once$doc, again$doc)
  expect_identical(once$actions, actions)
  expect_identical(rows_of(once), rows_of(again))
  expect_length(start$actions, 0)  # the state given is untouched
})

test_that("everything is undone and done again, in order", {
  states <- list(beads_desk())
  for (action in list(
    list(do = "switch_step", at = 5, on = FALSE), list(do = "cut", x1 = 10, y1 = 10, x2 = 90, y2 = 90),
    list(do = "exclude", id = 20, why = "dust"), list(do = "name_method", title = "Other")
  )) states <- c(states, list(desk_act(states[[length(states)]], action)))
  at <- states[[5]]
  for (k in 4:1) {
    at <- desk_act(at, list(do = "undo"))
    expect_identical(at$doc, states[[k]]$doc)
  }
  expect_refused(desk_act(at, list(do = "undo")), class = "action")
  for (k in 2:5) {
    at <- desk_act(at, list(do = "redo"))
    expect_identical(at$doc, states[[k]]$doc)
  }
  expect_refused(desk_act(at, list(do = "redo")), class = "action")
  # another action after undoing: there is nothing to do again
  forked <- acted(at, list(do = "undo"), list(do = "mark", as = "odd"))
  expect_refused(desk_act(forked, list(do = "redo")), class = "action")
})

test_that("what is no action is refused by class, and names what is known", {
  desk <- beads_desk()
  refused <- function(action, class) expect_error(
    desk_act(desk, action), class = paste0("bemrick_error_", class)
  )
  refused(list(do = "cutt"), "unknown_name")
  refused(list(do = "cut", x1 = 1, y1 = 1, x2 = 2, z = 3), "unknown_name")
  refused(list(do = "cut", x1 = 1, y1 = 1, x2 = 2), "argument")
  refused(list(do = 7), "argument")
  refused("undo", "argument")
  refused(list(do = "open_picture", at = 2), "argument")
  refused(list(do = "open_picture", at = 0.5), "argument")
  refused(list(do = "mark", as = "faulty"), "argument")
  refused(list(do = "exclude", id = 9999, why = "no"), "hand")
  refused(list(do = "exclude", id = 3, why = " "), "hand")
  refused(list(do = "readmit", id = 3), "action")
  refused(list(do = "limit", measure = "size"), "unknown_name")
  refused(list(do = "limit", measure = "ecd", low = "9 um", high = "3 um"), "argument")
  refused(list(do = "show_branch", branch = "holes"), "argument")
  refused(list(do = "use_spec", file = "nowhere.yml"), "file")
})

test_that("pictures are opened and marked by their number", {
  lab <- read_batch_list(lab_file("batch.csv"))
  desk <- desk_state(lab, lab_file("beads.method.yml"))
  second <- desk_act(desk, list(do = "open_picture", at = 2))
  expect_false(identical(rows_of(desk), rows_of(second)))
  marked <- acted(second, list(do = "mark", as = "odd"), list(do = "mark", as = "looked at", at = 4))
  expect_equal(marked$doc$marks, c("untouched", "odd", "untouched", "looked at"))
  # marks are no part of the method
  expect_identical(desk_method(marked), desk_method(desk))
})
