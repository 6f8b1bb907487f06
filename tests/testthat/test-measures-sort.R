beads_of <- function(...) {
  measures <- measured_beads()[seq_along(c(...)), ]
  measures$ecd_um <- c(...)
  measures
}

test_that("parts are good, unsure or damaged by what known ones showed", {
  limit <- suggest_limits(beads_of(1, 2, 3), beads_of(7, 9), "ecd")
  sorted <- sort_parts(beads_of(0.5, 3, 3.1, 6.9, 7, 20), limit)
  expect_equal(
    tibble::as_tibble(sorted)$sorted, c("good", "good", "unsure", "unsure", "damaged", "damaged")
  )
  expect_equal(sorted$table$why[c(1, 3, 5)], c("", "ecd_um 3.1 lies between", "ecd_um 7 is among the bad"))
  expect_equal(format(sorted), c(
    "<sorted> 2 good, 2 unsure, 2 damaged", "  ecd_um: good up to 3, damaged from 7"
  ))
  below <- suggest_limits(beads_of(7, 9), beads_of(1, 2, 3), "ecd")
  expect_equal(
    sort_parts(beads_of(0.5, 3, 5, 7, 30), below)$table$sorted,
    c("damaged", "damaged", "unsure", "good", "good")
  )
  expect_match(format(sort_parts(beads_of(1), below))[2], "good from 7, damaged up to 3")
  # a value that both had
  touching <- suggest_limits(beads_of(1, 5), beads_of(5, 9), "ecd")
  expect_equal(
    sort_parts(beads_of(4.9, 5, 5.1), touching)$table$sorted, c("good", "unsure", "damaged")
  )
  # where values overlap, what lies in the overlap is unsure
  mixed <- suggest_limits(beads_of(1, 2, 3, 6), beads_of(5, 7, 8, 9), "ecd")
  expect_equal(
    sort_parts(beads_of(4.9, 5, 5.5, 6, 6.1), mixed)$table$sorted,
    c("good", "unsure", "unsure", "unsure", "damaged")
  )
})

test_that("one measure is enough to be damaged, all are needed to be good", {
  one <- suggest_limits(beads_of(1, 2, 3), beads_of(7, 9), "ecd")
  good <- beads_of(1, 2)
  good$solidity <- c(0.9, 0.95)
  bad <- beads_of(1, 2)
  bad$solidity <- c(0.5, 0.6)
  two <- suggest_limits(good, bad, "solidity")
  rows <- beads_of(2, 2, 8, 2, 5)
  rows$solidity <- c(0.97, 0.5, 0.95, 0.7, 0.55)
  sorted <- sort_parts(rows, list(one, two))
  expect_equal(sorted$table$sorted, c("good", "damaged", "damaged", "unsure", "damaged"))
  expect_equal(sorted$table$why[5], "solidity 0.55 is among the bad")
  rows$solidity[1] <- NA
  rows$accepted[5] <- FALSE
  again <- sort_parts(rows, list(one, two))
  expect_equal(again$table$sorted, c("unsure", "damaged", "damaged", "unsure"))
  expect_equal(again$table$why[1], "solidity is not known")
  expect_s3_class(ggplot2::autoplot(again), "ggplot")
  none <- sort_parts(rows[0, ], one)
  expect_equal(nrow(none$table), 0)
  expect_equal(format(none)[1], "<sorted> 0 good, 0 unsure, 0 damaged")
})

test_that("limits that say nothing of these rows are refused", {
  limit <- suggest_limits(beads_of(1, 2, 3), beads_of(7, 9), "ecd")
  refused <- function(message, ...) expect_error(sort_parts(...), message, class = "bemrick_error")
  refused("limits of", beads_of(1), list())
  refused("limits of", beads_of(1), 3)
  refused("limits of", beads_of(1), list(limit, 3))
  refused("widths or thicknesses is needed here, not a data frame", data.frame(a = 1), limit)
  open <- suppressWarnings(suggest_limits(beads_of(1, 2), NULL, "ecd", 5))
  refused("without bad ones", beads_of(1), open)
  refused("limited in um and measured in px", measure_objects(pair()), limit)
  near <- measure_objects(find_objects(attr(measured_beads(), "objects")$mask), neighbours = TRUE)
  gap <- suggest_limits(near, near, "neighbour_gap")
  refused("was not measured", beads_of(1), gap)
})

test_that("limits are printed with four digits, from the side they come from", {
  made <- structure(
    list(
      table = data.frame(sorted = c("good", "good", "damaged")),
      limits = list(
        list(measure = "ecd", unit = "um", side = "above", good = 12.34567, bad = 23.45678, gap = 1),
        list(measure = "solidity", unit = "um", side = "below", good = 0.987654, bad = 0.9, gap = 1)
      )
    ),
    class = c("bm_sorted", "bemrick")
  )
  said <- format(made)
  expect_equal(said[1], "<sorted> 2 good, 0 unsure, 1 damaged")
  expect_match(said[2], "  ecd_um: good up to [0-9.]{2,5}, damaged from [0-9.]{2,5}$")
  expect_match(said[3], "  solidity: good from [0-9.]{2,6}, damaged up to [0-9.]{2,6}$")
})
