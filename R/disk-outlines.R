# Outlines of the objects of a picture on disk: traced while a window's pixels are at hand, put
# aside in a folder for the time of the run, and taken up window by window.

new_spool <- function() tempfile("outlines-")

# Each table of a field (of a branch) has a part of its own.
part_of_spool <- function(spool) if (!is.null(spool)) tempfile("table-", spool)

drop_spool <- function(spool) unlink(spool, recursive = TRUE)

# Those of the rows `kept`, numbered by their place among these, counted from the corner of the
# whole picture.
spool_outlines <- function(table, kept, place, spool, k) {
  outlines <- outlines_of(table)
  outlines$id <- match(outlines$id, kept)
  outlines <- outlines[!is.na(outlines$id), ]
  outlines$x_px <- outlines$x_px + place$left
  outlines$y_px <- outlines$y_px + place$top
  dir.create(spool, showWarnings = FALSE, recursive = TRUE)
  saveRDS(outlines, file.path(spool, k), compress = FALSE)
}

# do(outlines) for each window that holds objects, or the `which`th of them, with the numbers that
# objects have in the table.
each_spooled <- function(measures, do, which = NULL) {
  objects <- attr(measures, "objects")
  spool <- objects$spool
  full <- base::which(lengths(objects$spooled) > 0)
  for (k in if (is.null(which)) full else full[which]) {
    outlines <- readRDS(file.path(spool, k))
    outlines$id <- objects$spooled[[k]][outlines$id]
    do(outlines)
  }
}

# The whole picture at 1 / `times` of its size, by the mean, without what is left over at the right
# and below.
overview_on_disk <- function(view, times) {
  size <- view$size %/% times
  pixels <- matrix(0, size[1], size[2])
  step <- max(1, view$side %/% times)
  for (y in seq(0, size[1] - 1, by = step)) {
    for (x in seq(0, size[2] - 1, by = step)) {
      rows <- min(step, size[1] - y)
      cols <- min(step, size[2] - x)
      part <- read_window(view, y * times, x * times, rows * times, cols * times)
      pixels[y + seq_len(rows), x + seq_len(cols)] <-
        core_shrink(part$pixels, times, rows, cols)
    }
  }
  field <- new_field(pixels, view$field$depth, view$field$source, view$field$trail)
  if (!is.null(view$field$calibration)) {
    field$calibration <- shrunk_calibration(view$field$calibration, times)
  }
  field
}
