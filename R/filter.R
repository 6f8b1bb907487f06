# Levels put back on the picture's scale where a filter went beyond it.
within_scale <- function(pixels, field) {
  ends <- range(pixels)
  if (ends[1] < 0 || ends[2] > top_level(field)) pmin(pmax(pixels, 0), top_level(field)) else pixels
}

# Runs a kernel on the pixels; the picture as photographed stays beside the result.
filtered <- function(field, pixels, step, args, decided = list()) {
  field$pixels <- pixels
  field$trail <- add_step(field$trail, step, args, decided)
  field
}
