cli_thickness <- function(args) {
  about <- list(
    line = "IMAGE...|DIR --along X1,Y1,X2,Y2 --reach LENGTH --polarity A,B | --edges FILE",
    what = paste(
      "Measures the thickness of a layer in pictures, between two edges that are traced along a",
      "line, or drawn in a file. Exit status 1 when a picture shows no layer, or cannot be read."
    ),
    examples = c(
      paste(
        "bemrick thickness glaze.png --along 0,400,1600,400 --reach 200",
        "--polarity rising,falling --figures drawn"
      ),
      "bemrick thickness glaze.png --edges glaze.csv --by direction --step \"5 um\" --out lines.csv"
    )
  )
  parsed <- parse_words(
    args, "thickness", about,
    c(list(
      option("--along", "The line (or polyline) that the edges run along", "X1,Y1,X2,Y2,..."),
      option("--circle", "The circle that they run along, of closed layers", "X,Y,R"),
      option("--reach", "How far from it to both sides they are looked for", "LENGTH"),
      option(
        "--polarity", "Of each edge, from left to right of the line as it runs, rising or falling",
        "A,B"
      ),
      option("--smooth", "Smoothing of traced edges along themselves [%default]", "LENGTH", "10"),
      option("--edges", "File with two edges: CSV (edge, x, y in pixels) or GeoJSON", "FILE"),
      option("--by", "shortest, matched or direction [%default]", "WAY", "shortest"),
      option("--step", "Distance of the sampling lines [a hundredth of the edge]", "LENGTH"),
      option("--reference", "first or second edge, that lines start from [%default]", "EDGE",
        "first"),
      option("--direction", "Direction of the lines in degrees [square to both edges]", "DEGREES")
    ), picture_options("sampling lines", "summary")),
    1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  layer_of <- layer_of_words(o)
  found <- rows_of_pictures(parsed$words, o, function(field) thickness_of_words(layer_of(field), o))
  finish_pictures(found, o, function(rows, image) {
    said <- summary(rows)
    tibble::tibble(image = image, what = said$what, value = said$value, unit = said$unit)
  })
}
register_command("thickness", "measure the thickness of a layer between its edges")

# What makes a layer of a field, as the options say.
layer_of_words <- function(o) {
  given <- !vapply(o[c("along", "circle", "edges")], is.null, NA)
  if (sum(given) != 1) {
    usage("Give one of --along, --circle and --edges.\nSee: bemrick thickness --help")
  }
  if (!is.null(o$edges)) {
    edges <- read_edges(o$edges)
    if (length(edges) != 2) {
      usage(paste0(
        "--edges must hold two edges; ", basename(o$edges), " holds ", length(edges), "."
      ))
    }
    return(function(field) layer_between(field, edges[[1]], edges[[2]]))
  }
  words <- quantities_of_words(o$along %||% o$circle)
  kind <- if (!is.null(o$circle)) "circle" else if (length(words) == 4) "line" else "polyline"
  along <- as_option(
    as_path(stats::setNames(list(words), kind)),
    c(path = if (kind == "circle") "--circle" else "--along")
  )
  reach <- quantities_of_words(need_option(o, "reach", "thickness"))[[1]]
  polarity <- names_of_words(need_option(o, "polarity", "thickness"))
  smooth <- quantities_of_words(o$smooth)[[1]]
  function(field) {
    as_option(
      trace_layer(field, along, reach, polarity, smooth = smooth),
      c(reach = "--reach", polarity = "--polarity", smooth = "--smooth")
    )
  }
}

thickness_of_words <- function(layer, o) {
  as_option(
    layer_thickness(
      layer, o$by, if (!is.null(o$step)) quantities_of_words(o$step)[[1]], o$reference,
      if (!is.null(o$direction)) number_of_words(o$direction, "direction")
    ),
    c(by = "--by", step = "--step", reference = "--reference", direction = "--direction")
  )
}
