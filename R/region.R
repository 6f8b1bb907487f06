# Parts of a picture that are no sample. They stay in the picture, but no level is chosen by them, no object lies in
# them, and no area counts them.

# Marks pixels as "not sample". What filters see there is filled from the sample round it, so that nothing drawn there
# reaches into the sample.
set_outside <- function(field, outside) {
  if (!any(outside)) return(field)
  if (!is.null(field$outside)) outside <- outside | field$outside
  field$outside <- outside
  inside <- matrix(as.numeric(!outside), nrow(outside))
  seen <- core_gaussian(inside, 6, 6)
  near <- core_gaussian(field$pixels * inside, 6, 6) / pmax(seen, 1e-9)
  fill <- ifelse(seen > 1e-3, near, mean(field$pixels[!outside]))[outside]
  field$pixels[outside] <- if (all(field$pixels == round(field$pixels))) round(fill) else fill
  field
}

# Number of pixels that are sample.
sample_size <- function(field) length(field$pixels) - if (is.null(field$outside)) 0 else sum(field$outside)

# A mask without what is no sample.
within_sample <- function(pixels, field) {
  if (is.null(field$outside)) return(pixels)
  pixels[field$outside] <- FALSE
  pixels
}

# Whether objects touch what is no sample: a value for every label.
touches_outside <- function(labels, count, field) {
  if (is.null(field$outside) || count == 0) return(logical(count))
  near <- core_dilate(field$outside, 1.5, 1.5)
  seq_len(count) %in% labels[near & labels > 0]
}
