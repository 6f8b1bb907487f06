test_that("excluding by hand needs a reason and outlives the rules", {
  m <- measured_beads()
  out <- exclude_objects(m, c(2, 3), c("dust", "crack"))
  expect_equal(out$reason[2:3], c("by hand: dust", "by hand: crack"))
  ruled <- accept_objects(out, edge = "keep")
  expect_equal(which(!ruled$accepted), 2:3)
  expect_equal(nrow(ruled), nrow(m))
  expect_refused(exclude_objects(m, 2), "reason", class = "hand")
  expect_refused(exclude_objects(m, 2, " "), "reason", class = "hand")
  expect_refused(exclude_objects(m, 999, "x"), "999", class = "hand")
})

test_that("exclusions are places with reasons, for the pictures they name", {
  m <- matrix(FALSE, 20, 30)
  m[3:6, 3:6] <- m[3:6, 20:25] <- m[12:16, 10:12] <- TRUE
  measures <- measure_objects(find_objects(mask_of(m)))
  at <- data.frame(image = NA, x = c(21.5, 11), y = c(4.5, 13), why = c("dust", "fibre"), who = "AB")
  by_place <- exclude_objects(measures, at = at)
  expect_equal(by_place$reason, c("", "by hand: dust", "by hand: fibre"))
  expect_equal(by_place$accepted, c(TRUE, FALSE, FALSE))
  expect_equal(by_place$weight, c(1, 0, 0))
  file <- text_file("image,x,y,why", ",21.5,4.5,dust", "other.png,4,4,scratch", ext = ".csv")
  picture <- measures
  attr(picture, "objects")$mask$field$source <- list(file = "this.png")
  expect_equal(exclude_objects(picture, at = file)$reason, c("", "by hand: dust", ""))
  # numbers become places, which hold whatever the numbers are when the method is run
  by_number <- exclude_objects(measures, 2:3, c("dust", "fibre"))
  place <- attr(by_number, "trail")[[5]]$args$at
  expect_identical(exclude_objects(measures, at = place)$reason, by_number$reason)
  cut <- measure_objects(find_objects(mask_of(m & col(m) > 8)))
  expect_equal(exclude_objects(cut, at = place)$reason, c("by hand: dust", "by hand: fibre"))

  refused <- function(..., class = "bemrick_error_hand") {
    expect_error(exclude_objects(measures, ...), class = class)
  }
  refused(at = data.frame(image = NA, x = 1, y = 1, why = "dust"))
  refused(at = data.frame(image = NA, x = 99, y = 4, why = "dust"))
  refused(at = data.frame(image = NA, x = 4, y = 4, why = " "))
  refused(at = data.frame(x = 4, y = 4), class = "bemrick_error_file_content")
  refused(at = data.frame(image = NA, x = "a", y = 4, why = "dust"), class = "bemrick_error_file_content")
  refused()
  refused(1, "dust", at)
  refused(1:2, c("a", "b", "c"))
  refused(1, NA_character_)
})

test_that("each exclusion has its own reason, and its place is a pixel of the object", {
  m <- matrix(FALSE, 20, 30)
  m[3, 3] <- m[3, 20] <- m[12, 10] <- TRUE
  measures <- measure_objects(find_objects(mask_of(m)))
  at <- trail_of(exclude_objects(measures, 2:3, "dust"))
  args <- attr(exclude_objects(measures, 2:3, c("dust", "fibre")), "trail")[[5]]$args$at
  expect_equal(
    lapply(args, function(row) c(row$x, row$y)), list(c(19.5, 2.5), c(9.5, 11.5))
  )
  refused <- function(...) expect_refused(exclude_objects(measures, ...), class = "hand")
  refused(1:2, c("dust", " "))
  refused(1:3, c("dust", "fibre"))
  refused(at = data.frame(image = NA, x = c(2.5, 19.5), y = 2.5, why = c("dust", " ")))
  expect_refused(
    exclude_objects(measures, at = data.frame(image = NA, x = c(2.5, 8, 9), y = 2.5, why = "dust")),
    "at 8, 2.5", class = "hand"
  )
})
