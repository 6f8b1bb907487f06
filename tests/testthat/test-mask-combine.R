test_that("two masks are combined pixel by pixel", {
  a <- mask_of(matrix(c(TRUE, TRUE, FALSE, FALSE), 2))
  b <- mask_of(matrix(c(TRUE, FALSE, TRUE, FALSE), 2))
  expected <- list(
    and = c(TRUE, FALSE, FALSE, FALSE), or = c(TRUE, TRUE, TRUE, FALSE),
    without = c(FALSE, TRUE, FALSE, FALSE), xor = c(FALSE, TRUE, TRUE, FALSE)
  )
  for (how in names(expected)) {
    expect_identical(as.vector(mask_combine(a, b, how)$pixels), expected[[how]])
  }
  expect_equal(decision(mask_combine(a, b, "or")$trail, "mask_combine"), list(added = 1))
  expect_refused(mask_combine(a, b, "not"), class = "argument")
  expect_refused(mask_combine(a, mask_of(matrix(TRUE, 2, 3))), "2 x 2 and 3 x 2", class = "argument")
})

test_that("the other mask may be given by its steps, of the field as it stands", {
  field <- filter_median(small_beads(), 1)
  mask <- segment_auto(field)
  core <- mask_erode(mask, 2)
  rim <- mask_combine(mask, core, "without")
  steps <- rim$trail[[length(rim$trail)]]$args$other
  expect_equal(lapply(steps, names), list("segment_auto", "mask_erode"))
  expect_identical(mask_combine(mask, steps, "without")$pixels, rim$pixels)
  # a mask of another picture has the same trail, and yet no steps to repeat here
  plain <- function(m) segment_level(as_field(m), low = 100)
  a <- plain(matrix(c(0, 255), 8, 8))
  expect_null(steps_to(plain(matrix(c(255, 0), 8, 8)), a$field))
  expect_length(steps_to(a, a$field), 1)
  # a mask of another field leaves no steps to repeat
  other <- segment_auto(small_beads())
  expect_null(steps_to(other, field))
  expect_null(mask_combine(mask, other)$trail[[length(rim$trail)]]$args$other)
})

test_that("steps that make the other mask are refused when they are not steps", {
  field <- as_field(matrix(c(10, 200), 4, 4))
  mask <- segment_level(field, low = 100)
  for (wrong in list(
    list("segment_level"), list(list(low = 3)), list(list(segment_level = list(low = 3), mask_flip = list())),
    list(list()), list(list(list(low = 3)))
  )) {
    expect_error(mask_combine(mask, wrong, "or"), class = "bemrick_error")
  }
  expect_error(mask_combine(mask, list(list(list(low = 3))), "or"), "steps that make one")
  two <- list(list(segment_level = list(low = 3), mask_flip = list()))
  expect_error(mask_combine(mask, two, "or"), "steps that make one")
})
