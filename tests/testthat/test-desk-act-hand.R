last_step <- function(desk, name) {
  Filter(function(s) s$step == name, desk_method(desk)$steps)
}

test_that("cuts and joins are rows in the order they were drawn, of this picture", {
  desk <- beads_desk()
  table <- rows_of(desk)
  one <- which.max(table$area_um2)
  x <- table$x_px[one]
  y <- table$y_px[one]
  r <- table$ecd_um[one] / 1.2 + 3  # in pixels, beyond its edge
  line <- function(do, dx, dy) list(do = do, x1 = x - dx, y1 = y - dy, x2 = x + dx, y2 = y + dy)
  cut <- desk_act(desk, line("cut", r, 0))
  expect_equal(nrow(rows_of(cut)), nrow(table) + 1)
  joined <- desk_act(cut, list(do = "join", x1 = x, y1 = y - 8, x2 = x, y2 = y + 8))
  expect_equal(nrow(rows_of(joined)), nrow(table))
  again <- desk_act(joined, line("cut", 0, r))
  # the second cut runs along the stroke that joined the halves, and parts both
  expect_equal(nrow(rows_of(again)), nrow(table) + 3)
  steps <- vapply(desk_method(again)$steps, function(s) s$step, "")
  expect_equal(
    steps[6:10],
    c("separate_watershed", "separate_cuts", "join_objects", "separate_cuts", "measure_objects")
  )
  two <- acted(desk, line("cut", r, 0), line("cut", 0, r))
  expect_length(last_step(two, "separate_cuts"), 1)
  expect_equal(last_step(two, "separate_cuts")[[1]]$args$cuts[[2]]$image, "beads.png")
})

test_that("an object is left out by its number or a place, and taken back in", {
  desk <- beads_desk()
  table <- rows_of(desk)
  id <- which(table$accepted)[3]
  out <- desk_act(desk, list(do = "exclude", id = id, why = "dust"))
  expect_equal(rows_of(out)$reason[id], "by hand: dust")
  by_place <- desk_act(
    desk, list(do = "exclude", x = table$x_px[id], y = table$y_px[id], why = "dust")
  )
  expect_identical(rows_of(by_place), rows_of(out))
  more <- desk_act(out, list(do = "exclude", id = which(table$accepted)[5], why = "scratch"))
  expect_length(last_step(more, "exclude_objects"), 1)
  back <- desk_act(more, list(do = "readmit", id = id))
  expect_true(rows_of(back)$accepted[id])
  expect_equal(sum(rows_of(back)$accepted), sum(table$accepted) - 1)
  none <- desk_act(back, list(do = "readmit", id = which(table$accepted)[5]))
  expect_identical(desk_method(none), desk_method(desk))
})

test_that("rows by hand of one picture leave the others as they are", {
  lab <- read_batch_list(lab_file("batch.csv"))
  desk <- desk_state(lab, lab_file("beads.method.yml"))
  second <- rows_of(desk_act(desk, list(do = "open_picture", at = 2)))
  table <- rows_of(desk)
  edited <- acted(
    desk, list(do = "exclude", id = which(table$accepted)[1], why = "dust"),
    list(do = "cut", x1 = 0, y1 = 0, x2 = 700, y2 = 600),
    list(do = "open_picture", at = 2)
  )
  expect_identical(rows_of(edited), second)
})
