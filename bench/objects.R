# How time grows with the number of objects: pictures of rising size full of small discs, 12,500 to
# 200,000; and a table of a million objects: distribution, percentiles, moments and figure. Writes
# bench/objects.md.
library(bemrick)
use_threads(1)
picture <- function(count) {
  side <- round(18 * sqrt(count))
  tile <- outer(1:18, 1:18, function(y, x) (x - 9.5)^2 + (y - 9.5)^2 < 36)
  as_field(255 * tile[rep(1:18, length.out = side), rep(1:18, length.out = side)], 8)
}
time <- function(code) system.time(code, gcFirst = TRUE)[["elapsed"]]
rows <- do.call(rbind, lapply(c(12500, 25000, 50000, 100000, 200000), function(count) {
  mask <- segment_level(picture(count), low = 128)
  before <- sum(gc(reset = TRUE)[, 2])
  label <- time(objects <- find_objects(mask))
  part <- time(separate_watershed(mask))
  measure <- time(measures <- suppressWarnings(measure_objects(objects)))
  accept <- time(accept_objects(measures))
  peak <- sum(gc()[, 6]) - before
  data.frame(
    objects = objects$count, pixels = length(mask$pixels), find = label, watershed = part,
    measure = measure, accept = accept,
    `microseconds an object` = round(1e6 * (label + part + measure + accept) / objects$count, 1),
    `MB at most` = round(peak), check.names = FALSE
  )
}))
set.seed(1)
n <- 1e6
table <- tibble::tibble(
  batch = "B", sample = "S", field = as.character(rep(1:20, n / 20)), id = seq_len(n),
  ecd_um = rlnorm(n, 3, 0.4), area_um2 = 1, accepted = TRUE, reason = "", weight = 1
)
run <- bemrick:::new_run(list(objects = table), tibble::tibble(), NULL, "um", NULL, NULL)
million <- c(
  distribution = time(d <- size_distribution(run, weight = "area")),
  percentiles = time(quantile(d)),
  figure = time(bemrick:::save_figure(ggplot2::autoplot(d), tempfile(fileext = ".png")))
)
lines <- c(
  "# Growth with objects", "", "Seconds, one thread; discs of 12 pixels across, 18 apart.", "",
  knitr::kable(rows, format = "pipe"), "",
  paste0(
    "A million objects of 20 fields: ",
    paste(names(million), sprintf("%.2f s", million), collapse = ", "), "; together ",
    sprintf("%.2f s.", sum(million))
  )
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/objects.md")
