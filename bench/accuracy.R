# Measures every readable picture of the demo lab and prints, field by field, what was found beside
# what was drawn: whole objects, median diameter, porosity. Writes bench/accuracy.md.
library(bemrick)

dir <- tempfile("lab-")
demo_lab(dir)
folders <- c(beads = "alumina-beads", plates = "diffuser-plates")
rows <- lapply(names(folders), function(product) {
  lab <- file.path(dir, folders[[product]])
  run <- run_batch(file.path(lab, "batch.csv"), file.path(lab, paste0(product, ".method.yml")))
  truth <- utils::read.csv(file.path(lab, "truth.csv"))
  median_of <- function(k) {
    own <- run$objects$sample == truth$sample[k] & run$objects$field == truth$field[k] &
      run$objects$accepted
    if (any(own)) stats::median(run$objects$ecd_um[own]) else NA
  }
  d50 <- vapply(seq_len(nrow(truth)), median_of, 0)
  data.frame(
    image = truth$image, status = run$fields$status, found = run$fields$accepted,
    drawn = truth$whole, d50_um = round(d50, 2), drawn_d50_um = round(truth$d50_um, 2),
    d50_off_percent = round(100 * (d50 / truth$d50_um - 1), 2),
    porosity = round(100 * run$fields$area_fraction, 2),
    drawn_porosity = round(100 * truth$porosity, 2),
    porosity_off_points = round(100 * (run$fields$area_fraction - truth$porosity), 2)
  )
})
table <- do.call(rbind, rows)
good <- table[table$status == "measured", ]
lines <- c(
  "# Demo pictures against their truth", "",
  sprintf(
    "Largest deviation: count %.2f %%, D50 %.2f %%, porosity %.2f points.",
    max(abs(100 * (good$found / good$drawn - 1))), max(abs(good$d50_off_percent)),
    max(abs(good$porosity_off_points))
  ),
  "", knitr::kable(table, format = "pipe", row.names = FALSE)
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/accuracy.md")
