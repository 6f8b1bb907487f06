# The desk at 4096 x 4096 with 5,000 objects, measured in the browser.
# Rscript bench/desk.R [side] [objects] > bench/desk.md
suppressPackageStartupMessages(library(bemrick))
given <- as.numeric(commandArgs(trailingOnly = TRUE))
side <- if (length(given) > 0) given[1] else 4096
count <- if (length(given) > 1) given[2] else 5000
folder <- tempfile()
dir.create(folder)
picture <- file.path(folder, "large.png")
invisible(write_field(
  simulate_field(width = side, height = side, count = count, diameter = "24 um", seed = 1), picture
))
method <- as_method(
  simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1) |>
    segment_auto(phase = "bright") |> separate_watershed() |> measure_objects() |> accept_objects()
)
write_method(method, file.path(folder, "large.method.yml"))
told <- file.path(folder, "address")
server <- callr::r_bg(function(picture, method, told) {
  bemrick::open_desk(picture, method, folder = dirname(told), on_open = function(address) {
    writeLines(address, told)
  })
}, list(picture, file.path(folder, "large.method.yml"), told))
while (!file.exists(told)) Sys.sleep(0.05)
Sys.sleep(0.2)
browser <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
out <- file.path(folder, "found.json")
asked <- list(
  address = readLines(told), browser = browser[nzchar(browser)][[1]],
  driver = normalizePath("build/browser/node_modules/playwright-core"),
  script = normalizePath("bench/desk.mjs"), out = out
)
ran <- callr::process$new("node", c(
  "tests/testthat/desk/driver.mjs", jsonlite::toJSON(asked, auto_unbox = TRUE)
), stdout = "|", stderr = "2>&1")
ran$wait()
if (!file.exists(out)) stop(ran$read_all_output())
invisible(server$kill())
found <- jsonlite::read_json(out)
middle <- function(x) stats::median(unlist(x))
row <- function(what, ms, bar) cat(sprintf("| %s | %.0f | %d |\n", what, ms, bar))
cat(sprintf(
  "# The desk, in the browser\n\n%d x %d pixels, %d objects; milliseconds, medians. `Rscript bench/desk.R > bench/desk.md`\n\n",
  side, side, found$rows
))
cat("| | ms | at most |\n|---|---|---|\n")
row("the picture is seen", found$seen, 3000)
row("desk open: page, picture, outlines, table, forms", found$opened, 3000)
row("mask follows the level, whole picture", found$own$mask, 50)
row("click to highlight", found$own$click, 50)
row("pan at one pixel a pixel, with outlines", found$own$pan, 50)
row("whole picture with all outlines drawn", found$own$whole, 100)
row("all outlines replaced and drawn", found$own$outlines, 100)
of <- function(action, what) middle(lapply(found$times[[action]], function(t) t[[what]]))
row("an object left out: shown", of("exclude", "shown"), 500)
row("an object left out: table and all", of("exclude", "all"), 1500)
row("a cut: shown", of("cut", "shown"), 500)
row("a cut: measured again, outlines and table", of("cut", "all"), 1500)
row("a limit set: picture and table again", of("limit", "all"), 1500)
row("another level: objects, outlines and table", of("level", "all"), 1500)
