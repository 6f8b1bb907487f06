# What a person waits for when objects of a large picture are cut, joined, excluded and looked up.
#   R_LIBS=build/lib Rscript bench/hand.R > bench/hand.md
suppressPackageStartupMessages(library(bemrick))
Sys.setenv(BEMRICK_THREADS = 1)
set.seed(1)
tile <- outer(1:58, 1:60, function(y, x) 60 + 120 * ((x - 30)^2 + (y - 29)^2 < 18^2))
grey <- tile[rep(1:58, length.out = 4096), rep(1:60, length.out = 4096)]
noise <- stats::rnorm(4096 * 512, 0, 8)
field <- as_field(matrix(pmin(255, pmax(0, round(grey + noise))), 4096))
objects_of <- function(field) find_objects(mask_open(segment_level(field, low = 120), 2))
objects <- objects_of(field)
measures <- accept_objects(measure_objects(objects, outline = "subpixel"))
pixels <- measure_objects(objects)
x <- c(30, 90, 150, 210, 1000)
cuts <- data.frame(image = NA, x1 = x, y1 = 0, x2 = x, y2 = c(58, 58, 58, 58, 60))
polygon <- region_polygon(x = c(200, 3900, 3800, 2000, 300), y = c(300, 200, 3900, 3500, 3800))
within <- measure_objects(objects_of(keep_within(field, polygon)))
calls <- list(
  "one cut" = function() separate_cuts(objects, cuts[1, ]),
  "five cuts" = function() separate_cuts(objects, cuts),
  "one join" = function() {
    join_objects(objects, data.frame(image = NA, x1 = 30, y1 = 29, x2 = 90, y2 = 29))
  },
  "work within a polygon" = function() keep_within(field, polygon),
  "work within a circle" = function() keep_within(field, region_circle(2000, 2000, 1500)),
  "accept objects" = function() accept_objects(measures),
  "accept objects within a polygon" = function() accept_objects(within),
  "exclude one object" = function() exclude_objects(measures, id = 1, reason = "dust"),
  "look up an object, sub-pixel outlines" = function() look_up(measures, 2500),
  "look up an object, pixel outlines" = function() look_up(pixels, 2500)
)
before <- c("3 s", "10 s", "", "7.6 s", "", "", "2.2 s", "", "", "0.3 s")
seconds <- vapply(calls, function(call) {
  stats::median(vapply(1:3, function(k) system.time(call())[["elapsed"]], 0))
}, 0)
cat(
  "# Work by hand on a large picture", "",
  paste0("4096 x 4096 pixels, ", format(objects$count, big.mark = ","), " objects, one thread."), "",
  "| | | whole picture looked at (earlier) |", "|---|---|---|",
  sprintf("| %s | %.3f s | %s |", names(calls), seconds, before), sep = "\n"
)
