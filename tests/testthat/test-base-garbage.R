test_that("R looks for garbage when as many bytes as said have gathered", {
  # in an R that has done nothing else
  limits <- callr::r(function() {
    limit <- function() gc()["Vcells", 3] * 8
    before <- limit()
    asNamespace("bemrick")$let_garbage_grow(4e8)
    c(before, limit())
  })
  expect_lt(limits[1], 2e8)
  expect_gt(limits[2], 3e8)
  expect_lt(limits[2], 6e8)
})

test_that("freed memory stays with the process instead of being cleared anew", {
  skip_if_not(file.exists("/proc/self/stat"))
  faults <- callr::r(function() {
    pages <- function() as.numeric(strsplit(readLines("/proc/self/stat"), " ")[[1]][10])
    pictures <- function() {
      before <- pages()
      for (k in 1:20) numeric(1e6)
      gc()
      pages() - before
    }
    asNamespace("bemrick")$let_garbage_grow(4e8)
    c(pictures() + pictures(), pictures())
  })
  skip_if(faults[1] < 2e4, "this system has other pages")
  expect_lt(faults[2], faults[1] / 10)
})

test_that("what R begins with is not asked for, and never more than helps", {
  asked <- numeric()
  with_own("core_widen_heap", function(bytes) asked <<- c(asked, bytes), {
    for (bytes in c(0, 6.4e7, 7e7, 1e12)) let_garbage_grow(bytes)
  })
  expect_equal(asked, c(7e7, 1e9))
})

test_that("between the fields of a batch it is said again, but not at each", {
  asked <- 0
  the$gathering_since <- NULL
  with_own("core_widen_heap", function(bytes) asked <<- asked + 1, {
    for (k in 1:5) let_fields_gather(seconds = 1e6)
    expect_equal(asked, 1)
    for (k in 1:5) let_fields_gather(seconds = 0)
  })
  expect_equal(asked, 6)
})

test_that("a batch lets 160 MB gather, and says so every two seconds", {
  asked <- numeric()
  ago <- function(seconds) the$gathering_since <- proc.time()[["elapsed"]] - seconds
  with_own("core_widen_heap", function(bytes) asked <<- c(asked, bytes), {
    ago(1)
    let_fields_gather()
    expect_length(asked, 0)
    ago(2.5)
    let_fields_gather()
  })
  expect_equal(asked, 1.6e8)
})
