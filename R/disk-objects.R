# Objects of a picture on disk: found, separated and measured window by window, each in the one that
# holds it whole, and put together as one table.

# Objects that are made when they are measured: by these steps, of this mask.
new_disk_objects <- function(mask) {
  objects <- new_objects(mask$pixels, NA, mask, mask$trail)
  objects$steps <- list()
  objects
}

# The objects after one step more. What is joined may lie in windows far apart.
objects_on_disk <- function(objects, name, args) {
  if (name == "join_objects") refuse_on_disk(name)
  if (!is.null(args$seeds)) check_seeds_on_disk(args$seeds, objects$mask$view)
  if (identical(args$on, "grey")) objects$mask$ends <- ends_on_disk(objects$mask$view)
  objects$steps <- c(objects$steps, list(list(step = name, args = args)))
  objects
}

# The least and the greatest grey of the whole picture.
ends_on_disk <- function(view) {
  ends <- NULL
  each_tile(view, function(field, tile) ends <<- range(ends, field$pixels), picture = FALSE)
  ends
}

# How far beyond an object its measures look: at the grey a few pixels round it, and where its
# outline is moved to when a blur is undone.
round_objects <- function(blur = NULL) 12 + ceiling((blur %||% 0)^2)

measured_on_disk <- function(objects, args) {
  full <- full_args("measure_objects", args)
  if (isTRUE(full$neighbours)) {
    refuse_on_disk("measure_objects", "Leave {.arg neighbours} out.")
  }
  mask <- objects$mask
  blur <- if (identical(full$blur, "corrected")) blur_on_disk(objects, full)
  found <- list()
  unseen <- numeric()
  cuts <- NULL
  objects$spool <- spool <- part_of_spool(mask$field$disk$spool)
  each_objects_window(objects, round_objects(blur), function(made, place, own, own_part) {
    unseen <<- c(unseen, made$unseen[own_part])
    cuts <<- cuts_of_window(made, cuts)
    made$blur <- blur
    table <- quietly_measured(made, args)
    kept <- which(own)
    rows <- tibble::as_tibble(table)[kept, ]
    first <- made$first_pixels
    k <- length(found) + 1
    if (!is.null(spool)) spool_outlines(table, kept, place, spool, k)
    found[[k]] <<- list(
      rows = rows,
      at = cbind(place$top + first$row, place$left + first$col)[kept, , drop = FALSE],
      sides = kept %in% forbidden_sides(made, place, mask$view$size)
    )
  })
  warn_of_unseen(unseen)
  table_of_windows(objects, found, args, blur, cuts)
}

# do(objects, place, own, own_part) for every window, with such a margin: whether each object, and
# each part of the mask, belongs to it.
each_objects_window <- function(objects, margin, do) {
  each_part_window(objects$mask, margin, function(window, place, first) {
    made <- window
    for (step in objects$steps) made <- quiet_windows(run_step(made, step$step, step$args))
    # what is only found are the parts themselves
    if (identical(names_of_steps(objects$steps), "find_objects")) {
      id <- made$labels[first]
      made$first_pixels <- list(row = rep(NA, made$count), col = rep(NA, made$count))
      made$first_pixels$row[id] <- first[, 1]
      made$first_pixels$col[id] <- first[, 2]
      owned <- !is.na(made$first_pixels$row)
      return(do(made, place, owned, owned))
    }
    made$first_pixels <- core_first_pixels(made$labels, made$count)
    parts <- parts_of_window(window, first)
    do(made, place, are_own(made$first_pixels, parts), parts$own)
  }, grey = TRUE)
}

names_of_steps <- function(steps) vapply(steps, function(s) s$step, "")

# What a window cannot know is said of the whole picture, or not at all; what R itself warns of
# comes of objects that the window cuts.
quiet_windows <- function(code) {
  by_window <- paste0("bemrick_warning_", c("gaps", "giant", "strip", "unseen", "hand"))
  withCallingHandlers(code, warning = function(w) {
    if (inherits(w, c(by_window, "simpleWarning"))) invokeRestart("muffleWarning")
  })
}

quietly_measured <- function(made, args) {
  quiet_windows(run_step(made, "measure_objects", args))
}

# Objects that touch the left side or the bottom of the whole picture, or what is excluded.
forbidden_sides <- function(made, place, size) {
  labels <- made$labels
  unique(c(
    if (place$left == 0) labels[, 1],
    if (place$top + place$rows == size[1]) labels[nrow(labels), ],
    which(touches_outside(labels, made$count, made$mask$field))
  ))
}

# Deviation of the blur at the edges of all objects, in pixels.
blur_on_disk <- function(objects, args) {
  check_outline(args$outline, args$blur)
  level <- outline_level(objects$mask)
  edges <- area <- 0
  each_objects_window(objects, round_objects(), function(made, place, own, own_part) {
    id <- core_contours(made$labels, made$mask$field$pixels, level)$id
    edges <<- edges + sum(own[id])
    area <<- area + sum(tabulate(made$labels, made$count)[own])
  })
  checked_blur(objects$mask$field$facts$counts, level, pi / 4 * edges, area)
}

# One table, numbered in reading order of the whole picture.
table_of_windows <- function(objects, found, args, blur, cuts) {
  mask <- objects$mask
  if (length(found) == 0) {
    found <- list(none_of_window(objects, args))
    cuts <- found[[1]]$cuts
  }
  warn_of_missed(cuts$missed, cuts$lines)
  rows <- bind_tables(lapply(found, function(w) w$rows))
  at <- do.call(rbind, lapply(found, function(w) w$at))
  order <- order(at[, 1], at[, 2])
  rows <- rows[order, ]
  rows$id <- seq_len(nrow(rows))
  objects$count <- nrow(rows)
  objects$first <- at[order, , drop = FALSE]
  objects$sides <- which(unlist(lapply(found, function(w) w$sides))[order])
  objects$spooled <- split(
    match(seq_along(order), order),
    rep(factor(seq_along(found)), vapply(found, function(w) nrow(w$rows), 0L))
  )
  trail <- mask$trail
  for (step in objects$steps) {
    decided <- c(list(objects = objects$count), if (step$step == "separate_cuts") cuts["lines"])
    trail <- add_step(trail, step$step, step$args, decided)
  }
  separated <- startsWith(names_of_steps(objects$steps), "separate_")
  if (any(separated)) warn_of_gaps(mask)
  unit <- field_unit(mask$field)
  area <- rows[[measure_column("area", unit)]] / prod(field_pixel(mask$field))
  warn_of_giant(area, objects)
  objects$trail <- trail
  new_measures(rows, with_looks(objects), add_step(
    trail, "measure_objects", args,
    c(list(objects = objects$count), if (!is.null(blur)) list(blur_px = blur))
  ))
}

# What later steps ask windows for; the functions hold the objects, not the rows they were made of.
with_looks <- function(objects) {
  force(objects)
  looks <- list(
    by_window = function(value) value_by_window(objects, value),
    at = function(x, y) object_at_on_disk(objects, x, y)
  )
  objects[names(looks)] <- looks
  objects
}

# The table of no object.
none_of_window <- function(objects, args) {
  size <- pmin(objects$mask$view$size, 3)
  field <- window_after_steps(objects$mask$view, 0, 0, size[1], size[2])
  made <- mask_window(objects$mask, 0, 0, size[1], size[2], field)
  made$pixels[] <- FALSE
  for (step in objects$steps) made <- quiet_windows(run_step(made, step$step, step$args))
  made$blur <- 0
  table <- quietly_measured(made, args)
  list(
    rows = tibble::as_tibble(table), at = matrix(0, 0, 2), sides = logical(),
    cuts = cuts_of_window(made, NULL)
  )
}

# list(lines, missed) of cuts by hand: those that meet no object in any window.
cuts_of_window <- function(made, before) {
  now <- decision(made$trail, "separate_cuts")
  if (is.null(now)) return(NULL)
  missed <- if (is.null(before)) now$missed else intersect(before$missed, now$missed)
  list(lines = now$lines, missed = missed)
}

# Rings lie round places; each is looked at in the window of the tile its middle lies in.
ring_on_disk <- function(table, args) {
  objects <- attr(table, "objects")
  view <- objects$mask$view
  reach <- ceiling(ring_radius(full_args("measure_ring", args)$outer, view$field, "outer") *
    c(1 / pixel_ratio(view$field$calibration), 1)) + 2
  tiles <- tiles_of(view)
  shares <- matrix(NA_real_, nrow(table), 2)
  for (k in seq_len(nrow(tiles))) {
    tile <- as.list(tiles[k, ])
    rows <- which(
      table$x_px >= tile$left & table$x_px < tile$left + tile$cols &
        table$y_px >= tile$top & table$y_px < tile$top + tile$rows
    )
    if (length(rows) == 0) next
    from <- pmax(c(tile$top, tile$left) - reach, 0)
    to <- pmin(c(tile$top + tile$rows, tile$left + tile$cols) + reach, view$size)
    field <- window_after_steps(view, from[1], from[2], to[1] - from[1], to[2] - from[2])
    part <- tibble::as_tibble(table)[rows, ]
    part$x_px <- part$x_px - from[2]
    part$y_px <- part$y_px - from[1]
    window <- objects
    window$mask$field <- field
    made <- run_step(new_measures(part, window, list()), "measure_ring", args)
    shares[rows, ] <- cbind(made$ring_share, made$ring_seen)
  }
  trail <- add_step(
    attr(table, "trail"), "measure_ring", args, list(cut = sum(shares[, 2] < 1, na.rm = TRUE))
  )
  rows_with(table, list(ring_share = shares[, 1], ring_seen = shares[, 2]), trail)
}

# A value of each object, from value(objects) of the windows they are whole in.
value_by_window <- function(objects, value) {
  values <- rep(NA_real_, objects$count)
  each_objects_window(objects, round_objects(), function(made, place, own, own_part) {
    rows <- row_of_first(objects, made, place)
    values[rows[own]] <<- value(made)[own]
  })
  values
}

# Which row of the table each object of a window is.
row_of_first <- function(objects, made, place) {
  first <- made$first_pixels
  width <- objects$mask$view$size[2]
  match(
    (place$top + first$row) * width + place$left + first$col,
    objects$first[, 1] * width + objects$first[, 2]
  )
}

# Numbers of the objects at places, 0 for the ground.
object_at_on_disk <- function(objects, x, y) {
  found <- integer(length(x))
  each_objects_window(objects, round_objects(), function(made, place, own, own_part) {
    at <- label_at(made$labels, x - place$left, y - place$top)
    here <- which(at > 0 & c(FALSE, own)[at + 1])
    found[here] <<- row_of_first(objects, made, place)[at[here]]
  })
  found
}

# A seed must lie in the picture; windows without it know nothing of that.
check_seeds_on_disk <- function(seeds, view) {
  for (k in seq_along(seeds <- as_regions(seeds))) {
    box <- region_bounds(seeds[[k]], view$field)
    if (box[1] >= view$size[2] || box[2] >= view$size[1] || box[3] <= 0 || box[4] <= 0) {
      bm_abort(
        "Seed {k} holds no pixel of this picture of {view$size[2]} x {view$size[1]} pixels.",
        "region"
      )
    }
  }
}
