# Calibrations: how long a pixel is, how sure that is, and where it was found.

#' @export
format.bm_calibration <- function(x, ...) {
  name <- if (!is.null(x$name)) paste0(x$name, ": ")
  paste0(
    "<calibration> ", name, scale_text(x), " (standard uncertainty), ", show_units(x$found),
    if (!is.null(x$standard)) paste0(", by ", x$standard$name),
    if (!is.null(x$due)) paste0(", due ", x$due)
  )
}

scale_text <- function(x) {
  sure <- paste0("\u00b1 ", signif(100 * x$uncertainty, 2), " %")
  if (is.null(x$pixel)) return(paste0("map of a tilted plane in ", show_units(x$unit), ", ", sure))
  size <- paste(unique(signif(unlist(x$pixel, use.names = FALSE), 6)), collapse = " x ")
  paste0(size, " ", show_units(x$unit), " per pixel, ", sure)
}

# `pixel` is NULL where only a map of the plane is valid.
new_calibration <- function(
  pixel, unit, uncertainty, found, name = NULL, image = NULL, date = NULL,
  call = rlang::caller_env()
) {
  if (!is.null(name)) check_text(name, "name", call)
  structure(
    list(
      name = name, pixel = pixel, unit = unit, uncertainty = uncertainty, found = found,
      image = image, date = date
    ),
    class = c("bm_calibration", "bemrick")
  )
}

in_unit <- function(calibration, unit) {
  ratio <- unit_ratio(calibration$unit, unit)
  if (!is.null(calibration$pixel)) calibration$pixel <- calibration$pixel * ratio
  if (!is.null(calibration$plane)) {
    calibration$plane$matrix <- diag(c(ratio, ratio, 1)) %*% calibration$plane$matrix
  }
  calibration$unit <- unit
  calibration
}

# A length above zero with its unit, such as those that something photographed has.
check_true_length <- function(length, name, example, call = rlang::caller_env()) {
  q <- parse_quantity(length, name, call)
  if (is.na(q$value) || q$power != 1 || q$unit == "px" || q$value <= 0) {
    bm_abort(
      "{.arg {name}} must be a length above zero with its unit, such as {.val {example}}, not
       {.val {as.character(length)}}.",
      "quantity", call = call
    )
  }
  q
}

check_calibration <- function(calibration, call = rlang::caller_env()) {
  check_class(
    calibration, "bm_calibration", "calibration", "Make one with {.fn calibration_from_length}.",
    call
  )
}
