#' From micrographs to verdicts
#'
#' A field (one micrograph) flows through small functions: [read_field()], [calibrate()],
#' [trim_strip()], filters, [segment_auto()], mask steps, [separate_watershed()],
#' [measure_objects()], [accept_objects()]. Every function leaves its name and arguments in the
#' trail, which [as_method()] turns into a written procedure; [run_batch()] runs it over a batch
#' list and [judge()] checks the results against a specification.
#'
#' Coordinates: origin at the outer corner of the top-left pixel, x to the right, y down. Lengths in
#' arguments: a bare number is in pixels, a string carries its unit (`"12 um"`, `"3 px"`).
#'
#' @useDynLib bemrick, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @keywords internal
"_PACKAGE"

# The pronoun of figures and tables, which is there where it is used.
utils::globalVariables(".data")
