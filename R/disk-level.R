# What a level is found from, and how far it may be off, of a picture on disk: gathered from its
# tiles, the same numbers as of the whole.

# Gathers columns that are looked at for edges: of large pictures every few, each with the one
# before it. list(add(pixels, outside, tile), sums()).
edge_gatherer <- function(view, step = edge_step(view$size)) {
  taken <- seq(0, view$size[2] - 1, by = step)
  # so that each follows the column before it: 0, s - 1, s, 2 s - 1, 2 s ...
  if (step > 1) taken <- c(taken[1], rbind(taken[-1] - 1, taken[-1]))
  pixels <- matrix(NA_real_, view$size[1], length(taken))
  outside <- if (!is.null(view$outside)) matrix(FALSE, view$size[1], length(taken))
  levels <- 2^view$field$depth
  list(
    add = function(values, out, tile) {
      here <- which(taken >= tile$left & taken < tile$left + tile$cols)
      rows <- tile$top + seq_len(tile$rows)
      pixels[rows, here] <<- values[, taken[here] - tile$left + 1]
      if (!is.null(outside)) outside[rows, here] <<- out[, taken[here] - tile$left + 1]
    },
    sums = function() {
      core_edge_contrast(
        pixels, outside %||% matrix(NA, 0, 0), levels, if (step > 1) 2 else 1, thread_count()
      )
    }
  )
}

# list(counts, frame, edges()): the histogram, the greys along the frame, the edges where they are
# asked for.
survey_on_disk <- function(view, edges = FALSE) {
  counts <- numeric(2^view$field$depth)
  frame <- list()
  gatherer <- if (edges) edge_gatherer(view)
  size <- view$size
  each_tile(view, function(field, tile) {
    counts <<- counts + level_counts(field)
    p <- field$pixels
    sides <- c(
      if (tile$top == 0) p[1, ], if (tile$top + tile$rows == size[1]) p[nrow(p), ],
      if (tile$left == 0) p[, 1], if (tile$left + tile$cols == size[2]) p[, ncol(p)]
    )
    frame[[length(frame) + 1]] <<- sides
    if (edges) gatherer$add(p, field$outside, tile)
  }, picture = FALSE)
  list(counts = counts, frame = unlist(frame), edges = function() gatherer$sums())
}

# Gathers what the error of a level is found from. list(add(field, tile), facts()). `counts`: the
# histogram, where it is known.
level_gatherer <- function(view, level, counts = NULL) {
  one <- length(level) == 1  # of masks that were made otherwise there is no error
  counted <- !is.null(counts)
  as_seen <- numeric(2^view$field$depth)
  if (!counted) counts <- as_seen
  gatherer <- if (one) edge_gatherer(view)
  ends <- tile_ends(view$size)
  tiles <- if (one) core_tiles(level, 2^view$field$depth, ends$rows, ends$cols)
  add <- function(field, tile) {
    if (!counted) counts <<- counts + level_counts(field)
    if (!one) return()
    as_seen <<- as_seen + if (length(view$steps) == 0) 0 else counts_as_photographed(field)
    gatherer$add(field$pixels, field$outside, tile)
    core_tiles_add(
      tiles, field$pixels, outside_of(field), 0, 0, tile$rows, tile$cols, tile$top, tile$left
    )
  }
  facts <- function() {
    sample <- sum(counts)
    if (length(view$steps) == 0) as_seen <- counts
    if (!one) return(list(counts = counts, sample = sample, level_error = 0))
    list(counts = counts, sample = sample, level_error = max(
      halfway_of_tiles(core_tiles_middles(tiles), level, function() means_on_disk(view, level)),
      steepest_of_edges(gatherer$sums(), level, counts),
      saturation_of_edges(as_seen, level, function() median_edges(view))
    ))
  }
  list(add = add, facts = facts)
}

counts_as_photographed <- function(field) {
  field$pixels <- field$picture
  level_counts(field)
}

# Mean grey of the dark and of the bright side of a level.
means_on_disk <- function(view, level) {
  sums <- numbers <- c(0, 0)
  each_tile(view, function(field, tile) {
    kept <- if (is.null(field$outside)) field$pixels else field$pixels[!field$outside]
    bright <- kept > level
    sums <<- sums + c(sum(kept[!bright]), sum(kept[bright]))
    numbers <<- numbers + c(sum(!bright), sum(bright))
  })
  sums / numbers
}

# Edges of the picture's median, as it was photographed.
median_edges <- function(view) {
  gatherer <- edge_gatherer(view)
  view$steps <- list(function(field) {
    field$pixels <- core_median(field$picture, 1L, 1L, thread_count())
    field
  })
  view$margin <- c(1, 1)
  each_tile(view, function(field, tile) gatherer$add(field$pixels, field$outside, tile))
  gatherer$sums()
}

# list(low, high, phase, decided) of a step that makes a mask by levels; also the `counts` that they
# were found from.
limits_on_disk <- function(view, name, args) {
  args <- full_args(name, args)
  if (name == "segment_level") {
    # its arguments are checked by a picture of nothing
    tried <- do.call(segment_level, c(list(as_field(matrix(0, 1, 1))), args)) |> suppressWarnings()
    return(list(low = tried$low, high = tried$high, phase = tried$phase, decided = list()))
  }
  if (name == "segment_classes") {
    keep <- classes_kept(args$keep, args$classes)
    counts <- survey_on_disk(view)$counts
    return(c(class_levels(counts, args$classes, keep), list(counts = counts)))
  }
  share <- share_for_rule(args$rule, args$share, args$phase)
  found <- survey_on_disk(view, edges = args$rule == "kohler")
  limits <- auto_level(found$counts, found$edges(), found$frame, args$rule, share, args$phase)
  c(limits, list(counts = found$counts))
}
