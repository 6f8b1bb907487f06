# Sections of spheres with diameters by q(): a plane cuts a sphere with a chance in proportion to
# its diameter, anywhere across it.
cut_spheres <- function(n, q) {
  many <- q(stats::runif(20 * n))
  spheres <- sample(many, n, TRUE, prob = many)
  sqrt(spheres^2 - (spheres * stats::runif(n))^2)
}

test_that("known spheres are found again from two thousand sections", {
  set.seed(98)
  cases <- list(
    function(p) stats::qnorm(p, 30, 4), function(p) stats::qlnorm(p, log(20), 0.25),
    function(p) 25 + 0 * p
  )
  truth <- c(30, 20 * exp(0.25^2 / 2), 25)
  for (k in seq_along(cases)) {
    x <- cut_spheres(2000, cases[[k]])
    # so many sections per area when there are 1e-5 spheres per volume
    area <- 2000 / (1e-5 * truth[k])
    for (how in c("em", "saltykov")) {
      found <- unfold(sort(x), rep(1, 2000), area, 12, how)
      expect_equal(found$mean, truth[k], tolerance = 0.08)
      expect_equal(found$density, 1e-5, tolerance = 0.1)
    }
    many <- replicate(
      8, unfold(sort(cut_spheres(2000, cases[[k]])), rep(1, 2000), area, 16, "em")$mean
    )
    if (k < 3) expect_equal(mean(many), truth[k], tolerance = 0.03)  # spheres all alike fall into one class
    expect_true(all(unfold(sort(x), rep(1, 2000), area, 12, "em")$classes$spheres >= 0))
  }
})

test_that("unfolding undoes the kernel exactly, and one size of sphere gives its closed form", {
  limits <- seq(0, 10, 1)
  kernel <- section_kernel(limits)
  expect_true(all(kernel[lower.tri(kernel)] == 0))
  # all sections of a sphere together: its diameter
  expect_equal(colSums(kernel), (limits[-1] + limits[-11]) / 2, tolerance = 1e-3)
  spheres <- c(0, 0, 1, 3, 5, 2, 1, 0.5, 0, 0.1)
  expect_equal(backsolve(kernel, as.numeric(kernel %*% spheres)), spheres)
  expect_equal(unfold_em(kernel, as.numeric(kernel %*% spheres), 20000), spheres, tolerance = 0.15)
})

test_that("measures are unfolded with their weights and the area looked at", {
  beads <- accept_objects(measured_beads())
  found <- unfold_sections(beads, classes = 6)
  field <- attr(beads, "objects")$mask$field
  area <- length(field$pixels) * prod(field_pixel(field))
  expect_equal(sum(found$classes$sections), sum(beads$weight) / area)
  expect_output(print(found), "per")
  pixels <- accept_objects(measure_objects(find_objects(mask_of(disc_mask(40, 8)))))
  expect_refused(unfold_sections(pixels), class = "no_calibration")
  expect_refused(unfold_sections(beads, 1), class = "argument")
})

test_that("sections of one size of spheres are those of geometry", {
  limits <- c(0, 1, 2, 3, 4)
  kernel <- section_kernel(limits)
  expect_equal(kernel[lower.tri(kernel)], rep(0, 6))
  spheres <- 3 + (seq_len(21) - 0.5) / 21
  expect_equal(kernel[1, 4], mean(sqrt(spheres^2) - sqrt(spheres^2 - 1)))
  expect_equal(kernel[4, 4], mean(sqrt(spheres^2 - 9)))
  expect_equal(colSums(kernel)[4], mean(spheres))
  # sections as they come from two classes of spheres are unfolded to them
  given <- c(0, 0.5, 0, 0.25)
  seen <- as.numeric(kernel %*% given)
  expect_equal(backsolve(kernel, seen), given)
  expect_equal(unfold_em(kernel, seen, 1000), given, tolerance = 1e-3)
  expect_equal(em_from(kernel, seen, 1), given, tolerance = 2e-3)
  expect_lt(max(abs(em_from(kernel, seen, 1, 3) - given)), 0.3)
  expect_equal(em_from(kernel, seen, 3)[1:2], c(0, 0))
  middle <- limits[-1] - 0.5
  found <- unfold(rep(middle, times = 1), seen, 1, 4, "saltykov")
  expect_equal(found$density, sum(found$classes$spheres))
  # the largest section lies in the middle of the last class
  expect_equal(found$classes$to, 1:4)
  expect_equal(
    found$mean,
    sum(found$classes$spheres * (found$classes$from + found$classes$to) / 2) / found$density
  )
})

test_that("numbers are per area of the sample, in the measures' unit", {
  run <- made_run(c(0.3, 0.3), 1:20 + 0)
  expect_equal(sampled_area(run, "um"), 2e6)
  expect_equal(sampled_area(run, "mm"), 2)
  run$fields$status[2] <- "faulty"
  expect_equal(sampled_area(run, "um"), 1e6)
  measures <- measured_beads()
  expect_equal(sampled_area(measures, "um"), 320 * 240 * 0.36)
  found <- unfold_sections(run, 5)
  expect_equal(sum(found$classes$sections), 40 / 1e6)
  expect_equal(found$n, 40)
  shown <- format(found)
  expect_equal(shown[1], "<sections> 40 sections, 5 classes, by em")
  expect_match(shown[2], "spheres: mean .* \u00b5m, sd .* per \u00b5m\u00b3")
  expect_length(shown, 2)
  few <- unfold_sections(made_run(c(0.3, 0.3), c(rep(1, 5), 10)), 10, "saltykov")
  expect_true(any(few$classes$spheres < 0))
  expect_match(format(few)[3], "negative")
  for (wrong in list(1, 101)) expect_refused(unfold_sections(run, wrong), class = "argument")
})

test_that("spheres of one class have its middle as mean, and their spread as sd", {
  x <- c(0.5, 1.5, 2.5, 3.5)
  found <- unfold(x, c(0, 0, 0, 8), 2, 4, "saltykov")
  middle <- (found$classes$from + found$classes$to) / 2
  share <- found$classes$spheres / found$density
  expect_equal(found$mean, sum(share * middle))
  many <- unfold(x, c(1, 2, 6, 8), 2, 4, "em")
  share <- many$classes$spheres / many$density
  expect_equal(many$sd, sqrt(sum(share * (middle - many$mean)^2)))
  expect_equal(many$classes$from, 0:3)
  for (classes in c(2, 100)) {
    expect_equal(nrow(unfold_sections(made_run(0.3, 1:20 + 0), classes)$classes), classes)
  }
})

test_that("small spheres are left out as long as the sections are as likely without", {
  kernel <- section_kernel(0:8)
  # spheres of the last class only; one section too many in the second is chance, fifty are not
  seen <- as.numeric(kernel %*% c(rep(0, 7), 100))
  area <- 1
  chance <- seen + c(0, 1, 0, 0, 0, 0, 0, 0)
  expect_equal(unfold_em(kernel, chance, area)[1:7], rep(0, 7))
  expect_gt(sum(em_from(kernel, chance, 1)[1:3]), 0.3)
  many <- unfold_em(kernel, seen + c(0, 50, 0, 0, 0, 0, 0, 0), area)
  expect_gt(sum(many[1:3]), 20)
  # what counts is how many sections there are, not the unit of their number per area
  expect_equal(unfold_em(kernel, chance / 1e6, 1e6) * 1e6, unfold_em(kernel, chance, 1))
  # of the likelihoods less one a class, by hand
  score <- vapply(1:8, function(first) {
    expected <- as.numeric(kernel %*% em_from(kernel, chance, first))
    sum(chance * log(expected) - expected) - (9 - first)
  }, 0)
  expect_equal(unfold_em(kernel, chance, 1), em_from(kernel, chance, which.max(score)))
})

test_that("mean and number of known spheres come out within two percent", {
  set.seed(91)
  for (sizes in list(rep(25, 20000), stats::rnorm(20000, 30, 4), stats::rlnorm(20000, 3, 0.25))) {
    cut <- sample(sizes, 4000, TRUE, prob = sizes)
    x <- sort(cut * sqrt(1 - stats::runif(4000)^2))
    found <- unfold(x, rep(1, 4000), 4000 / mean(sizes), 16, "em")
    expect_equal(found$mean, mean(sizes), tolerance = 0.02)
    expect_equal(found$density, 1, tolerance = 0.02)
  }
})
