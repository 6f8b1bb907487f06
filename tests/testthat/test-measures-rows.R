test_that("tables of both kinds say what they are of", {
  field <- field_of_parts("clip", places(80, 70), 160, 140)
  finds <- locate_pattern(field, taught_part("clip"))
  measures <- measure_objects(find_objects(segment_level(field, low = 110)))
  expect_equal(kind_of_rows(finds), "finds")
  expect_equal(kind_of_rows(measures), "objects")
  expect_identical(field_of_rows(finds)$pixels, field$pixels)
  expect_identical(field_of_rows(measures)$pixels, field$pixels)
  expect_refused(check_rows(data.frame(id = 1)), "widths or thicknesses", class = "class")
  expect_refused(
    check_rows(data.frame(id = 1), c("bm_measures", "bm_finds")), "table of measures or finds",
    class = "class"
  )
  trail <- list(list(step = "x"))
  for (rows in list(finds, measures)) {
    more <- rows_with(rows, list(id = 7L, extra = 1), trail)
    expect_equal(class(more), class(rows))
    expect_equal(c(more$id, more$extra), c(7, 1))
    expect_equal(attr(more, "trail"), trail)
  }
  expect_equal(tally_objects(finds)$outcome, c("found", "accepted"))
  verdict <- judge(list(clips = finds, bodies = measures), text_file(
    "bemrick: spec 1", "product: P", "decision: {rule: simple}", "limits:", "  - count: {branch: clips, exactly: 1}",
    "  - largest: {of: solidity, max: 0.9}"
  ))
  expect_equal(verdict$limits$quantity, c("clips: count", "bodies: largest solidity"))
  expect_equal(verdict$limits$verdict[1], "pass")
  expect_equal(verdict$samples$objects, 1)
})

test_that("tables are put together column by column, whatever each of them lacks", {
  a <- tibble::tibble(id = 1:2, x = c(0.5, 1), reason = c("", "b"))
  b <- tibble::tibble(id = 3L, why = "w", y = 2)
  both <- bind_tables(list(a, NULL, b))
  expect_equal(names(both), c("id", "x", "reason", "why", "y"))
  expect_equal(both$x, c(0.5, 1, NA))
  expect_equal(both$reason, c("", "b", ""))
  expect_equal(both$why, c("", "", "w"))
  expect_equal(both$y, c(NA, NA, 2))
  expect_null(bind_tables(list(NULL)))
  expect_identical(bind_tables(list(a)), a)
})
