cli_gauge <- function(args) {
  about <- list(
    line = "IMAGE...|DIR --line X1,Y1,X2,Y2 [options]",
    what = paste(
      "Gauges the widths of bright or dark things, and the gaps between them, along a path across",
      "pictures, to a fraction of a pixel. Coordinates are pixels, or lengths with their unit.",
      "Exit status 1 when a picture shows no edges, or cannot be read."
    ),
    examples = c(
      "bemrick gauge cloth.png --line 100,400,1500,400 --across 20 --phase bright",
      "bemrick gauge cloth --line 100,100,1500,100 --every 40 --times 20 --out widths.csv"
    )
  )
  parsed <- parse_words(
    args, "gauge", about,
    c(list(
      option("--line", "A line: both ends", "X1,Y1,X2,Y2"),
      option("--arc", "An arc: centre, radius, first and last angle in degrees", "X,Y,R,FROM,TO"),
      option("--circle", "A circle: centre and radius", "X,Y,R"),
      option("--polyline", "A line with corners", "X1,Y1,X2,Y2,..."),
      option("--across", "Width of the path, that grey levels are averaged over [%default]",
        "LENGTH", "1"),
      option("--every", "Repeat the path so far to its right (with --times)", "LENGTH"),
      option("--around", "Repeat it by turns about a point (with --times)", "X,Y"),
      option("--times", "Number of paths in all", "N"),
      option("--phase", "What is a width: bright or dark [%default]", "PHASE", "bright"),
      option("--contrast", "Least step of an edge in grey levels [a third of the strongest]",
        "LEVELS"),
      option("--sigma", "Smoothing before edges are looked for [%default]", "LENGTH", "1"),
      option("--width", "Widths that are expected, such as \"20 um,60 um\"", "LOW,HIGH"),
      option("--gap", "Gaps that are expected", "LOW,HIGH"),
      option("--tilt", "Fit the tilt of edges that stand aslant to the path"),
      option("--edges", "List the edges, not the distances between them")
    ), picture_options("rows", "rows")),
    1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  along <- path_of_words(o)
  found <- rows_of_pictures(parsed$words, o, function(field) gauged_of_words(field, along, o))
  finish_pictures(found, o, shown_distances)
}
register_command("gauge", "measure widths and gaps between edges along a path")

# The path that --line, --arc, --circle or --polyline names.
path_of_words <- function(o) {
  kinds <- c("line", "arc", "circle", "polyline")
  given <- kinds[!vapply(o[kinds], is.null, NA)]
  if (length(given) != 1) {
    usage("Give one path: --line, --arc, --circle or --polyline.\nSee: bemrick gauge --help")
  }
  path <- c(
    stats::setNames(list(quantities_of_words(o[[given]])), given),
    list(across = quantities_of_words(o$across)[[1]])
  )
  if (!is.null(o$every)) path$every <- quantities_of_words(o$every)[[1]]
  if (!is.null(o$around)) path$around <- quantities_of_words(o$around)
  if (!is.null(o$times)) path$times <- number_of_words(o$times, "times")
  as_option(as_path(path), c(
    path = paste0("--", given), across = "--across", every = "--every", around = "--around",
    times = "--times", radius = paste0("--", given), from = "--arc", to = "--arc"
  ))
}

# "120,40 um" as numbers and texts with a unit.
quantities_of_words <- function(text) {
  parts <- trimws(strsplit(paste0(text, ","), ",", fixed = TRUE)[[1]])  # an empty last one too
  lapply(parts, function(part) {
    number <- suppressWarnings(as.numeric(part))
    if (is.na(number)) part else number
  })
}

gauged_of_words <- function(field, along, o) {
  range <- function(name) {
    if (is.null(o[[name]])) return(NULL)
    ends <- quantities_of_words(o[[name]])
    lapply(ends, function(end) if (identical(end, "")) NA else end)
  }
  contrast <- if (!is.null(o$contrast)) number_of_words(o$contrast, "contrast")
  sigma <- quantities_of_words(o$sigma)[[1]]
  as_option(
    if (o$edges) gauge_edges(field, along, contrast, sigma = sigma, tilt = o$tilt)
    else gauge_widths(
      field, along, o$phase, contrast, range("width"), range("gap"), sigma, o$tilt
    ),
    c(
      phase = "--phase", contrast = "--contrast", sigma = "--sigma", width = "--width",
      gap = "--gap", polarity = "--edges"
    )
  )
}

# What a person reads first.
shown_distances <- function(rows, image) {
  table <- tibble::tibble(image = rep(image, nrow(rows)), tibble::as_tibble(rows))
  hidden <- c(
    "contrast_first", "contrast_last", "from_x_px", "from_y_px", "to_x_px", "to_y_px", "weight",
    "dx", "dy", "across"
  )
  if (any(grepl("^x_(nm|um|mm|in)$", names(table)))) hidden <- c(hidden, "x_px", "y_px")
  table[setdiff(names(table), hidden)]
}
