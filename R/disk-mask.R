# Masks of pictures on disk: one bit a pixel, all in memory. Steps that look a stated way round a
# pixel are done window by window, those that look at whole parts on the bits or on windows that
# hold the parts.

# A mask without pixels in memory: its `bits`, the view its grey values are seen by, how many pixels
# it covers.
new_disk_mask <- function(view, bits, phase, low, high, trail) {
  mask <- new_mask(view$field$pixels, view$field, phase, low, high, trail)
  mask$view <- view
  mask$bits <- bits
  mask$covered <- core_bits_count(bits)
  mask$frame <- frame_of_bits(bits, view$size)
  mask
}

# A view or a mask after one step more, on the way to a mask.
step_to_mask <- function(x, name, args) {
  if (inherits(x, "bm_mask")) return(masked_on_disk(x, name, args))
  switch(registered$steps[[name]]$gives[1],
    bm_field = grey_on_disk(x, name, args), bm_mask = mask_on_disk(x, name, args),
    refuse_on_disk(name)
  )
}

mask_on_disk <- function(view, name, args) {
  made <- switch(name,
    segment_hysteresis = hysteresis_on_disk(view, args),
    segment_local = local_on_disk(view, args),
    mask_by_levels(view, limits_on_disk(view, name, args))
  )
  view$field$facts <- made$facts
  if (!is.null(view$outside)) view$field$facts$deeper <- deeper_on_disk(view)
  trail <- add_step(view$field$trail, name, args, made$decided)
  mask <- new_disk_mask(view, made$bits, made$phase, made$low, made$high, trail)
  warn_of_cover(mask$covered / made$facts$sample, mask$frame, mask$phase)
  mask
}

# Bits made of tiles: pixels(field) of each.
bits_of_tiles <- function(view, pixels, also = function(field, tile) NULL) {
  bits <- core_bits(view$size[1], view$size[2])
  each_tile(view, function(field, tile) {
    put_tile(bits, tile, within_sample(pixels(field), field))
    also(field, tile)
  })
  bits
}

put_tile <- function(bits, tile, pixels) {
  core_bits_write(bits, tile$top, tile$left, pixels, 0, 0, tile$rows, tile$cols, FALSE)
}

mask_by_levels <- function(view, limits) {
  errors <- level_gatherer(view, Filter(is.finite, c(limits$low, limits$high)), limits$counts)
  bits <- bits_of_tiles(view, function(field) {
    core_between(field$pixels, limits$low, limits$high, thread_count())
  }, errors$add)
  c(list(bits = bits, facts = errors$facts()), limits)
}

local_on_disk <- function(view, args) {
  errors <- level_gatherer(view, numeric())
  # what the windows' masks are made of is looked at beyond their tiles
  wider <- with_step(view, reach_on_disk("segment_local", args, view$field), function(field) {
    mask <- suppressWarnings(run_step(field, "segment_local", args))
    field$picture <- mask$pixels + 0
    field
  }, registered$steps$segment_local$block)
  bits <- bits_of_tiles(wider, function(field) field$picture > 0, errors$add)
  list(
    bits = bits, facts = errors$facts(), low = NA, high = NA,
    phase = full_args("segment_local", args)$phase, decided = list()
  )
}

hysteresis_on_disk <- function(view, args) {
  tried <- suppressWarnings(do.call(segment_hysteresis, c(list(as_field(matrix(0, 1, 1))), args)))
  limits <- list(low = tried$low, high = tried$high, phase = tried$phase)
  bright <- limits$phase == "bright"
  made <- mask_by_levels(view, limits)
  sure <- bits_of_tiles(view, function(field) {
    if (bright) field$pixels >= args$sure else field$pixels <= args$sure
  })
  made$decided <- list(specks_dropped = core_bits_keep_marked(made$bits, sure))
  made
}

# Share of the picture's frame that a mask covers.
frame_of_bits <- function(bits, size) {
  side <- function(top, left, rows, cols) core_bits_read(bits, top, left, rows, cols)
  mean(c(
    side(0, 0, 1, size[2]), side(size[1] - 1, 0, 1, size[2]), side(0, 0, size[1], 1),
    side(0, size[2] - 1, size[1], 1)
  ))
}

# The mask after one step more.
masked_on_disk <- function(mask, name, args) {
  done <- switch(name,
    mask_fill = filled_on_disk(mask, args), mask_drop = dropped_on_disk(mask, args),
    mask_skeleton = thinned_on_disk(mask), mask_combine = combined_on_disk(mask, args),
    list(bits = mask_by_tiles(mask, name, args))
  )
  phase <- if (name == "mask_flip") {
    switch(mask$phase, bright = "dark", dark = "bright", mask$phase)
  } else {
    mask$phase
  }
  change <- core_bits_count(done$bits) - mask$covered
  decided <- c(if (change < 0) list(removed = -change) else list(added = change), done$decided)
  new_disk_mask(
    mask$view, done$bits, phase, mask$low, mask$high, add_step(mask$trail, name, args, decided)
  )
}

# Only so far round a tile lies what decides of its pixels.
mask_by_tiles <- function(mask, name, args) {
  reach <- ceiling(unname(reach_on_disk(name, args, mask$field)[c("y", "x")]))
  changed_tiles(mask, reach, function(window, place) run_step(window, name, args))
}

# Bits of what step(window, place) makes of windows that reach so far beyond their tiles.
changed_tiles <- function(mask, reach, step) {
  size <- mask$view$size
  bits <- core_bits(size[1], size[2])
  tiles <- tiles_of(mask$view)
  let_windows_gather(mask$view)
  for (k in seq_len(nrow(tiles))) {
    tile <- as.list(tiles[k, ])
    from <- pmax(c(tile$top, tile$left) - reach, 0)
    to <- pmin(c(tile$top + tile$rows, tile$left + tile$cols) + reach, size)
    place <- list(top = from[1], left = from[2], rows = to[1] - from[1], cols = to[2] - from[2])
    window <- mask_window(mask, place$top, place$left, place$rows, place$cols)
    core_bits_write(
      bits, tile$top, tile$left, step(window, place)$pixels, tile$top - from[1],
      tile$left - from[2], tile$rows, tile$cols, FALSE
    )
  }
  bits
}

combined_on_disk <- function(mask, args) {
  other <- mask$view
  for (step in args$other) other <- step_to_mask(other, names(step), step[[1]])
  how <- full_args("mask_combine", args)$how
  list(bits = changed_tiles(mask, c(0, 0), function(window, place) {
    with <- mask_window(other, place$top, place$left, place$rows, place$cols)
    mask_combine(window, with, how)
  }))
}

filled_on_disk <- function(mask, args) {
  args <- full_args("mask_fill", args)
  check_choice(args$holes, "holes", c("all", "inside"))
  if (args$holes == "inside") return(list(bits = inside_filled_on_disk(mask, args)))
  most <- if (is.null(args$largest)) {
    Inf
  } else {
    area_in_pixels(args$largest, mask$field$calibration, "largest")
  }
  bits <- core_bits_copy(mask$bits)
  core_bits_fill(bits, most)
  if (!is.null(mask$view$outside)) core_bits_without(bits, mask$view$outside)
  gaps <- gaps_on_disk(mask, bits)
  list(bits = bits, decided = if (gaps > 0) list(gaps = gaps))
}

# As gaps_filled(), each hole in a window that holds it.
gaps_on_disk <- function(mask, filled) {
  added <- mask
  added$bits <- core_bits_copy(filled)
  core_bits_without(added$bits, mask$bits)
  if (core_bits_count(added$bits) == 0) return(0)
  gaps <- 0
  each_part_window(added, 0, function(window, place, first) {
    holes <- core_label(window$pixels, thread_count(), TRUE)
    of_hole <- core_first_pixels(holes$labels, holes$count)
    gaps <<- gaps + sum(are_gaps(holes) & are_own(of_hole, parts_of_window(window, first)))
  })
  gaps
}

# A hole is decided of where all that lies round it is there.
inside_filled_on_disk <- function(mask, args) {
  bits <- core_bits_copy(mask$bits)
  args$holes <- "inside"
  args <- Filter(Negate(is.null), args)
  each_part_window(mask, 1, function(window, place, first) {
    filled <- run_step(window, "mask_fill", args)$pixels
    parts <- core_label(window$pixels, thread_count())$labels
    cut <- cut_labels(parts, place, mask$view$size)
    if (length(cut)) {
      holes <- core_label(filled & !window$pixels, thread_count(), TRUE)
      near <- core_morph(matrix(parts %in% cut, nrow(parts)), "dilate", "square", 1, 1)$mask
      unsure <- setdiff(unique(holes$labels[near]), 0L)
      filled[holes$labels %in% unsure] <- FALSE
    }
    core_bits_write(
      bits, place$top, place$left, filled, 0, 0, place$rows, place$cols, TRUE
    )
  })
  bits
}

# Labels that a window cuts.
cut_labels <- function(labels, place, size) {
  sides <- c(
    if (place$top > 0) labels[1, ], if (place$top + place$rows < size[1]) labels[nrow(labels), ],
    if (place$left > 0) labels[, 1], if (place$left + place$cols < size[2]) labels[, ncol(labels)]
  )
  setdiff(unique(sides), 0L)
}

dropped_on_disk <- function(mask, args) {
  bits <- core_bits_copy(mask$bits)
  core_bits_drop(bits, area_in_pixels(args$smallest, mask$field$calibration, "smallest") - 1e-9)
  list(bits = bits)
}

# Each part is thinned in a window that holds it.
thinned_on_disk <- function(mask) {
  bits <- core_bits(mask$view$size[1], mask$view$size[2])
  each_part_window(mask, 1, function(window, place, first) {
    parts <- parts_of_window(window, first)
    kept <- c(FALSE, parts$own)
    window$pixels <- matrix(kept[parts$labels + 1], nrow(parts$labels))
    core_bits_write(
      bits, place$top, place$left, mask_skeleton(window)$pixels, 0, 0, place$rows, place$cols, TRUE
    )
  })
  list(bits = bits)
}

# Share of the sample that lies at least so far from its edge, for any depths: as share_deeper(),
# from windows that reach as far as the greatest of them.
deeper_on_disk <- function(view) {
  size <- field_pixel(view$field)
  function(depths) {
    wanted <- sort(unique(depths))
    reach <- ceiling((max(wanted, 0) + 1) / rev(size)) + 2
    less <- numeric(length(wanted))
    total <- 0
    tiles <- tiles_of(view)
    for (k in seq_len(nrow(tiles))) {
      tile <- as.list(tiles[k, ])
      from <- pmax(c(tile$top, tile$left) - reach, 0)
      to <- pmin(c(tile$top + tile$rows, tile$left + tile$cols) + reach, view$size)
      outside <- core_bits_read(view$outside, from[1], from[2], to[1] - from[1], to[2] - from[2])
      depth <- depth_in_sample(outside, size)
      rows <- tile$top - from[1] + seq_len(tile$rows)
      cols <- tile$left - from[2] + seq_len(tile$cols)
      # a side that is no frame seems one, but lies farther off than is asked for
      depth <- sort(depth[rows, cols][!outside[rows, cols]])
      less <- less + findInterval(wanted, depth, left.open = TRUE)
      total <- total + length(depth)
    }
    (1 - less / total)[match(depths, wanted)]
  }
}
