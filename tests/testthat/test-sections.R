# Sections of spheres with diameters by q(): a plane cuts a sphere with a chance in proportion to its diameter, anywhere
# across it.
cut_spheres <- function(n, q) {
  many <- q(stats::runif(20 * n))
  spheres <- sample(many, n, TRUE, prob = many)
  sqrt(spheres^2 - (spheres * stats::runif(n))^2)
}

test_that("known spheres are found again from two thousand sections", {
  set.seed(98)
  cases <- list(function(p) stats::qnorm(p, 30, 4), function(p) stats::qlnorm(p, log(20), 0.25), function(p) 25 + 0 * p)
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
    many <- replicate(8, unfold(sort(cut_spheres(2000, cases[[k]])), rep(1, 2000), area, 16, "em")$mean)
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
  expect_error(unfold_sections(pixels), class = "bemrick_error_no_calibration")
  expect_error(unfold_sections(beads, 1), class = "bemrick_error_argument")
})
