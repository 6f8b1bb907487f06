test_that("openings are those of the standards, between the sizes asked for", {
  expect_equal(sieve_openings("R20/3", "20 um", "100 um"), paste(c(20, 32, 45, 63, 90), "um"))
  expect_equal(
    sieve_openings("R40/3", "1 mm", "2 mm"), paste(c(1000, 1180, 1400, 1700, 2000), "um")
  )
  expect_equal(sieve_openings("R20", "45 um", "56 um"), paste(c(45, 50, 56), "um"))
  all <- as.numeric(sub(" um", "", sieve_openings()))
  expect_equal(range(all), c(20, 125000))
  expect_refused(sieve_openings("R10"), class = "argument")
  expect_refused(sieve_openings(from = 20), class = "quantity")
})

test_that("each series goes up by its step", {
  steps <- c("R20/3" = 10^(3 / 20), "R20" = 10^(1 / 20), "R40/3" = 10^(3 / 40))
  for (series in names(steps)) {
    size <- sieve_series[[series]]
    expect_equal(sort(size), size)
    large <- size[size >= 40]  # smaller ones are few and far rounded
    expect_lt(max(abs(diff(log(large)) / log(steps[[series]]) - 1)), 0.25)
  }
  expect_true(all(sieve_series[["R20/3"]] %in% sieve_series[["R20"]]))
})
