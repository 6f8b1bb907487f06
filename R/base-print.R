# What all objects of the package have in common: they show themselves by their format() method, and
# nothing else of the core prints.

#' @export
print.bemrick <- function(x, ...) {
  writeLines(wrapped(visible(format(x, ...))))
  invisible(x)
}

#' @export
summary.bemrick <- function(object, ...) object

# For those that have no table of their own.
#' @exportS3Method tibble::as_tibble bemrick
as_tibble.bemrick <- function(x, ...) {
  bm_abort(
    c("There is no table of a {.cls {class(x)[1]}}.", i = "See what it holds with {.fn names}."),
    "class"
  )
}

#' @export
as.data.frame.bemrick <- function(x, ...) as.data.frame(tibble::as_tibble(x, ...))

# Lines longer than the console go on below, indented by two more than they begin.
wrapped <- function(lines, width = getOption("width")) {
  long <- which(cli::ansi_nchar(lines, "width") > width)
  lines <- as.list(lines)
  for (k in long) {
    indent <- nchar(sub("^( *).*", "\\1", lines[[k]]))
    lines[[k]] <- strwrap(lines[[k]], width, indent = indent, exdent = indent + 2)
  }
  unlist(lines)
}
