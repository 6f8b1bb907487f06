# How time and memory grow with the picture, on one and on two threads: seconds and the highest R
# heap (MB beyond what was there) of each call on 1024, 2048, 4096 and 8192 pixels a side. The table
# goes to bench/growth.md as well.
library(bemrick)
sides <- c(1024, 2048, 4096, 8192)
calls <- list(
  "median, radius 2" = function(f) filter_median(f, 2),
  "median, radius 10" = function(f) filter_median(f, 10),
  "gaussian, sigma 2" = function(f) filter_gaussian(f, 2),
  "box, radius 15" = function(f) filter_box(f, 15),
  "gradient magnitude" = function(f) filter_gradient(f),
  "grey erosion, disk 5" = function(f) filter_erode(f, 5),
  "local threshold, radius 15" = function(f) segment_local(f, 15, "niblack"),
  "histogram and otsu" = function(f) segment_auto(f),
  "fill, open, label, measure" = function(f) {
    measure_objects(find_objects(mask_open(
      mask_fill(segment_level(f, low = 120)), 2
    )))
  },
  "watershed" = function(f) separate_watershed(segment_level(f, low = 120)),
  "chain, median to table" = function(f) {
    f |>
      filter_median(2) |>
      segment_auto() |>
      mask_fill() |>
      mask_open(1.5) |>
      separate_watershed() |>
      measure_objects()
  }
)
picture <- function(side) {
  set.seed(1)
  tile <- outer(1:58, 1:60, function(y, x) 60 + 120 * ((x - 30)^2 + (y - 29)^2 < 18^2))
  m <- tile[rep(1:58, length.out = side), rep(1:60, length.out = side)]
  as_field(matrix(pmin(255, pmax(0, round(m + stats::rnorm(side * 512, 0, 8)))), side))
}
rows <- list()
for (side in sides) {
  field <- picture(side)
  for (name in names(calls)) {
    time <- vapply(
      1:2,
      function(threads) {
        use_threads(threads)
        min(vapply(
          1:2, function(k) system.time(calls[[name]](field), gcFirst = TRUE)[["elapsed"]], 0
        ))
      },
      0
    )
    use_threads(1)
    before <- sum(gc(reset = TRUE)[, 2])
    calls[[name]](field)
    peak <- sum(gc()[, 6]) - before
    rows[[length(rows) + 1]] <- data.frame(
      call = name, side = side, one = time[1], two = time[2], peak = peak
    )
  }
}
table <- do.call(rbind, rows)
per_pixel <- function(column, digits = 1) {
  round(
    1e9 * tapply(table[[column]], list(table$call, table$side), sum)[names(calls), ] /
      rep(sides^2, each = length(calls)),
    digits
  )
}
at_4096 <- table[table$side == 4096, ]
wide <- data.frame(
  call = names(calls), per_pixel("one"), round(at_4096$one / at_4096$two, 2),
  round(at_4096$peak / (4096^2 * 8 / 2^20), 1), check.names = FALSE
)
names(wide) <- c("call", paste(sides, "ns a pixel"), "gain by 2 threads", "peak, pictures")
lines <- c(
  "# Growth with the picture", "",
  "Nanoseconds a pixel on one thread by side of the picture (level: time grows linearly), gain by a second thread at 4096, and",
  "the highest memory during a call there beyond what was held before, in pictures of numbers (128 MB), its result counted.",
  "", knitr::kable(wide, format = "pipe", row.names = FALSE)
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/growth.md")
