# Known populations of spheres cut by a plane: how near unfolding comes to their mean diameter and
# number per volume from 2,000 sections, over 40 runs each. Writes bench/sections.md.
library(bemrick)
set.seed(1)
cut_spheres <- function(n, q) {
  many <- q(runif(100 * n))
  spheres <- sample(many, n, TRUE, prob = many)
  sqrt(spheres^2 - (spheres * runif(n))^2)
}
cases <- list(
  "normal, 30 +- 4" = list(q = function(p) qnorm(p, 30, 4), mean = 30),
  "lognormal, sd 1.28" = list(
    q = function(p) qlnorm(p, log(20), 0.25), mean = 20 * exp(0.25^2 / 2)
  ),
  "lognormal, sd 1.57" = list(
    q = function(p) qlnorm(p, log(20), 0.45), mean = 20 * exp(0.45^2 / 2)
  ),
  "two normal, 12 +- 1.5, 30 +- 3" = list(
    q = function(p) ifelse(p < 0.7, qnorm(p / 0.7, 12, 1.5), qnorm((p - 0.7) / 0.3, 30, 3)),
    mean = 0.7 * 12 + 0.3 * 30
  ),
  "all of 25" = list(q = function(p) 25 + 0 * p, mean = 25)
)
rows <- do.call(rbind, Map(
  function(name, how) {
    case <- cases[[name]]
    found <- replicate(40, {
      x <- sort(cut_spheres(2000, case$q))
      u <- bemrick:::unfold(x, rep(1, 2000), 2000 / (1e-5 * case$mean), 16, how)
      c(u$mean / case$mean, u$density / 1e-5) - 1
    })
    show <- function(v) sprintf("%+.1f %% (%.1f)", 100 * mean(v), 100 * sd(v))
    data.frame(
      spheres = name, how = how, `mean diameter` = show(found[1, ]),
      `number per volume` = show(found[2, ]), check.names = FALSE
    )
  },
  rep(names(cases), each = 2), rep(c("em", "saltykov"), length(cases))
))
rownames(rows) <- NULL
lines <- c(
  "# Unfolding", "",
  "Mean deviation (standard deviation of a run) from the truth, 2,000 sections, 16 classes.", "",
  knitr::kable(rows, format = "pipe")
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/sections.md")
