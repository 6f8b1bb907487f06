# Steps from grey to grey on a picture on disk: those that look a stated way round a pixel are done
# window by window; what others need of the whole picture is found first, by going through it.

# The view after one step more.
grey_on_disk <- function(view, name, args) {
  special <- switch(name,
    crop_to = cropped_on_disk, shrink_field = shrunk_on_disk, keep_within = kept_on_disk,
    filter_flatten = flattened_on_disk, filter_nonlocal = nonlocal_on_disk, NULL
  )
  if (!is.null(special)) return(special(view, args))
  reach <- reach_on_disk(name, args, view$field)
  view <- with_step(
    view, reach, function(field) run_step(field, name, args), registered$steps[[name]]$block
  )
  after_step(view, name, args)
}

# The arguments of a step with what it takes where they are not given.
full_args <- function(name, args) {
  f <- registered_function(name)
  wanted <- setdiff(names(formals(f))[-1], "...")
  body(f) <- bquote(mget(.(wanted)))
  do.call(f, c(list(NULL), args))
}

reach_on_disk <- function(name, args, field) {
  reach <- registered$steps[[name]]$reach
  if (is.null(reach)) refuse_on_disk(name)
  reach(full_args(name, args), field)
}

refuse_on_disk <- function(name, why = NULL, call = rlang::caller_env()) {
  bm_abort(
    c(
      "{.fn {name}} needs the whole picture in memory; this one stays on disk.",
      i = why %||% "Leave it out, or cut the picture into fields."
    ),
    "on_disk", call = call
  )
}

after_step <- function(view, name, args, decided = list()) {
  view$field$trail <- add_step(view$field$trail, name, args, decided)
  view
}

cropped_on_disk <- function(view, args) {
  if (length(view$steps) > 0) {
    refuse_on_disk("crop_to", "Put it first: what lies beyond is not read at all then.")
  }
  field <- view$field
  box <- check_box(box_in_pixels(args$box, field$calibration), field)
  view$corner <- view$corner + view$times * box[2:1]
  view$field$origin <- field$origin + box[1:2]
  view <- of_size(view, box[4:3] - box[2:1])
  after_step(view, "crop_to", args, list(width = view$size[2], height = view$size[1]))
}

of_size <- function(view, size) {
  view$size <- size
  view$field$pixels <- view$field$picture <- unread_pixels(size[1], size[2])
  view$side <- window_side(view, view$field$disk$memory)
  view
}

# Windows are shrunk as they are read.
shrunk_on_disk <- function(view, args) {
  times <- check_number(args$times, "times", 1, 64)
  if (length(view$steps) > 0 || times != round(times)) {
    refuse_on_disk("shrink_field", "Put it first, with a whole number of {.arg times}.")
  }
  size <- view$size %/% times
  if (min(size) < 1) {
    bm_abort("{.arg times} is {times}, which leaves nothing of the picture.", "argument")
  }
  view$times <- view$times * times
  if (!is.null(view$field$calibration)) {
    view$field$calibration <- shrunk_calibration(view$field$calibration, times)
  }
  after_step(of_size(view, size), "shrink_field", args, list(times = times))
}

# The excluded area is held as bits; what filters see there is made of what lies near by, and far
# off of the mean.
kept_on_disk <- function(view, args) {
  region <- as_region(args$region)
  outside <- core_bits(view$size[1], view$size[2])
  sum <- count <- 0
  each_tile(view, function(field, tile) {
    inside <- inside_region(region, field)
    core_bits_write(
      outside, tile$top, tile$left, !inside | (field$outside %||% FALSE), 0, 0, tile$rows,
      tile$cols, FALSE
    )
    sum <<- sum + sum(field$pixels[inside])
    count <<- count + sum(inside)
  })
  if (count == 0) {
    bm_abort(
      "The region lies outside this picture of {view$size[2]} x {view$size[1]} pixels.", "region"
    )
  }
  view$outside <- outside
  far <- sum / count
  reach <- gaussian_reach(6, view$field)
  view <- with_step(view, reach, function(field) {
    set_outside(field, !inside_region(region, field), far)
  })
  left <- prod(view$size) - core_bits_count(outside)
  after_step(
    view, "keep_within", list(region = region_words(region)),
    list(share = signif(left / prod(view$size), 4))
  )
}

nonlocal_on_disk <- function(view, args) {
  if (is.null(args$noise)) {
    middle <- pmax(view$size - 2048, 0) %/% 2
    size <- pmin(view$size, 2048)
    field <- window_after_steps(view, middle[1], middle[2], size[1], size[2])
    args$noise <- noise_to_remove(field)
  }
  reach <- reach_on_disk("filter_nonlocal", args, view$field)
  view <- with_step(
    view, reach, function(field) run_step(field, "filter_nonlocal", args),
    registered$steps$filter_nonlocal$block
  )
  after_step(view, "filter_nonlocal", args, list(noise = args$noise))
}

flattened_on_disk <- function(view, args) {
  args <- full_args("filter_flatten", args)
  if (!is.null(args$flat)) refuse_on_disk("filter_flatten")
  check_flatten(args)
  ground <- if (args$how == "surface") {
    surface_on_disk(view)
  } else {
    list(
      reach = flatten_reach(args, view$field),
      at = function(field, top, left) ground_by(field, args)
    )
  }
  sum <- 0
  ends <- NULL
  grounds <- with_step(view, ground$reach, function(field) {
    at <- -unlist(field$frame[c("y", "x")])
    field$picture <- ground$at(field, at[[1]], at[[2]])
    field
  })
  each_tile(grounds, function(field, tile) {
    sum <<- sum + sum(field$picture)
    ends <<- range(ends, field$picture)
  })
  if (args$correct == "divide") check_ground(ends[1])
  level <- sum / prod(view$size)
  view <- with_step(view, ground$reach, function(field) {
    at <- -unlist(field$frame[c("y", "x")])
    flattened(field, ground$at(field, at[[1]], at[[2]]), level, args)
  })
  after_step(view, "filter_flatten", flatten_args(args), list(change = diff(ends)))
}

# The surface is fitted to the same pixels as in memory.
surface_on_disk <- function(view) {
  step <- surface_step(view$size)
  rows <- seq(1, view$size[1], by = step)
  cols <- seq(1, view$size[2], by = step)
  grey <- matrix(0, length(rows), length(cols))
  kept <- matrix(TRUE, length(rows), length(cols))
  each_tile(view, function(field, tile) {
    y <- which(rows > tile$top & rows <= tile$top + tile$rows)
    x <- which(cols > tile$left & cols <= tile$left + tile$cols)
    grey[y, x] <<- field$pixels[rows[y] - tile$top, cols[x] - tile$left]
    if (!is.null(field$outside)) {
      kept[y, x] <<- !field$outside[rows[y] - tile$top, cols[x] - tile$left]
    }
  })
  fit <- fitted_surface(
    rep(rows, length(cols))[kept], rep(cols, each = length(rows))[kept], grey[kept], view$size
  )
  list(
    reach = c(x = 0, y = 0),
    at = function(field, top, left) {
      rows <- top + seq_len(nrow(field$pixels))
      surface_at(fit, rows, left + seq_len(ncol(field$pixels)), view$size)
    }
  )
}
