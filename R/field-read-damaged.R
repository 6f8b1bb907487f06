# What all readers of pictures share: the refusal, and how much is too much.

most_pixels <- 4e8  # a larger picture should be cut into fields

most_bytes <- 8e9   # what reading one picture may take

damaged <- function(file, why, parent = NULL, call = rlang::caller_env()) {
  bm_abort(c(
    "{.file {basename(file)}} cannot be read: {why}.",
    i = "Copy it again from the microscope, or save it again as PNG or TIFF."
  ), "picture", parent = parent, call = call)
}

big_endian <- function(bytes) sum(as.numeric(bytes) * 256^(rev(seq_along(bytes)) - 1))
