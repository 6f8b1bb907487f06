# Steps done once at every find: in its own frame, and at the cost of its own pixels.

#' Measure at every find
#'
#' Does the same steps in the frame of every accepted find, within a region that moves and turns
#' with the part, and puts the tables together: thresholds are found for each part by itself, and
#' every row carries the number of its find. Only the pixels round the region are looked at.
#'
#' In a method the steps after `at_each` are those that are done at every find:
#' ```yaml
#' steps:
#'   - locate_pattern: {pattern: clip.pattern.yml}
#'   - accept_finds: {score: [0.7, null]}
#'   - at_each: {region: {box: [136, 80, 172, 124]}}
#'   - segment_auto: {phase: bright}
#'   - find_objects: {}
#'   - measure_objects: {}
#' ```
#' Widths at every find need no `at_each`: [gauge_widths()] takes finds itself.
#'
#' Filters see the picture end a few pixels beyond the region: put them before `locate_pattern`
#' where they reach farther.
#'
#' @param finds A `bm_finds`.
#' @param region Where to look, in the taught picture ([region_box()], ...); `NULL` for the box that
#'   holds the taught contour.
#' @param steps A function of a field that ends in a table of measures.
#' @return A `bm_measures` of the whole picture, with the column `find`. An object that lies in the
#'   regions of two finds belongs to the better one. Shares of area are those of the regions.
#' @section Errors: Class `bemrick_error_not_found` when no find is accepted;
#'   `bemrick_error_step` when the steps do not end in measures, or cut or scale the picture. An
#'   error at one find names it.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' finds <- locate_pattern(field, teach_pattern(field, region_box(10, 10, 190, 140)))
#' at_each(finds, region_circle(100, 75, 50), function(field) {
#'   field |> segment_auto(phase = "bright") |> find_objects() |> measure_objects()
#' })
#' @export
at_each <- function(finds, region = NULL, steps) {
  check_finds(finds)
  if (!is.function(steps)) {
    bm_abort("{.arg steps} must be a function of a field, not {.obj_type_friendly {steps}}.",
      "argument")
  }
  where <- if (is.null(region)) taught_box(attr(finds, "pattern")) else as_region(region)
  chosen <- which(finds$accepted)
  if (length(chosen) == 0) {
    bm_abort("No find is accepted, so there is nowhere to measure.", "not_found")
  }

  parts <- lapply(chosen, function(k) {
    tryCatch(part_at_find(finds, k, where, steps), bemrick_error = function(e) {
      bm_abort("The steps at find {finds$id[k]} failed.", "step", parent = e)
    })
  })
  asked <- if (!is.null(region)) region_words(where)
  parts <- Filter(Negate(is.null), parts)
  if (length(parts) == 0) {
    bm_abort("The region lies beyond the picture at every find.", "region")
  }
  join_parts(parts, finds, asked)
}
register_step("at_each", takes = "bm_finds", gives = "bm_field", rest = "steps")

taught_box <- function(pattern) {
  x <- pattern$reference[[1]] + range(pattern$levels[[1]][, "x"])
  y <- pattern$reference[[2]] + range(pattern$levels[[1]][, "y"])
  region_box(x[1] - 1, y[1] - 1, x[2] + 1, y[2] + 1)
}

# list(find, cols, rows: where in the picture the part was cut out; table), or NULL where the region
# lies beyond the picture.
part_at_find <- function(finds, k, region, steps, margin = 8) {
  field <- attr(finds, "field")
  field$frame <- frame_of_find(finds, k)
  bounds <- region_bounds(region, field)
  size <- dim(field$pixels)
  cols <- c(max(1, floor(bounds[1]) - margin), min(size[2], ceiling(bounds[3]) + margin))
  rows <- c(max(1, floor(bounds[2]) - margin), min(size[1], ceiling(bounds[4]) + margin))
  if (cols[1] > cols[2] || rows[1] > rows[2]) return(NULL)
  cols <- seq(cols[1], cols[2])
  rows <- seq(rows[1], rows[2])
  part <- cut_field(field, rows, cols)
  inside <- inside_region(region, part)
  if (!is.null(part$outside)) inside <- inside & !part$outside
  if (!any(inside)) return(NULL)
  part <- set_outside(part, !inside)
  part$trail <- add_step(list(), "at_each")
  table <- steps(part)
  if (!inherits(table, "bm_measures")) {
    bm_abort(
      c(
        "The steps must end in measures, not in {.obj_type_friendly {table}}.",
        i = "The last is for example {.fn measure_objects}."
      ),
      "step"
    )
  }
  if (any(dim(field_of_rows(table)) != c(length(rows), length(cols)))) {
    bm_abort("Steps at a find must not cut or scale the picture.", "step")
  }
  list(find = finds$id[k], cols = cols, rows = rows, table = table)
}

# The tables of all parts as one, of objects in the whole picture.
join_parts <- function(parts, finds, region) {
  field <- attr(finds, "field")
  labels <- matrix(0L, nrow(field$pixels), ncol(field$pixels))
  count <- 0L
  for (k in seq_along(parts)) {
    part <- numbered_apart(parts[[k]], labels[parts[[k]]$rows, parts[[k]]$cols], count)
    labels[part$rows, part$cols] <- part$labels
    count <- count + nrow(part$table)
    parts[[k]] <- part
  }
  trail <- add_step(attr(finds, "trail"), "at_each", list(region = region), list(
    finds = length(parts), objects = count, twice = sum(vapply(parts, function(p) p$twice, 0L))
  ))
  done <- lapply(attr(parts[[1]]$table, "trail")[-1], function(entry) {
    list(step = entry$step, args = entry$args, decided = list())
  })
  trail <- c(trail, done)
  objects <- new_objects(labels, count, joined_mask(parts, field, trail), trail)
  if (outline_of(parts[[1]]$table) == "subpixel") objects$outlines <- joined_outlines(parts)

  new_measures(bind_tables(lapply(parts, placed_rows, field = field)), objects, trail)
}

# A part with its objects numbered on from `count`; those that an earlier part has (in `taken`) are
# left out. Adds `labels`, `id` (as they were numbered) and `twice`.
numbered_apart <- function(part, taken, count) {
  labels <- attr(part$table, "objects")$labels
  own <- !part$table$id %in% labels[taken > 0]
  part$twice <- sum(!own)
  if (!all(own)) part$table <- part$table[own, ]
  part$id <- part$table$id
  place <- match(labels, part$id, nomatch = 0L)
  taken[place > 0] <- count + place[place > 0]
  part$labels <- taken
  part$before <- count
  part
}

joined_mask <- function(parts, field, trail) {
  pixels <- matrix(FALSE, nrow(field$pixels), ncol(field$pixels))
  outside <- !pixels
  masks <- lapply(parts, function(p) attr(p$table, "objects")$mask)
  for (k in seq_along(parts)) {
    rows <- parts[[k]]$rows
    cols <- parts[[k]]$cols
    pixels[rows, cols] <- pixels[rows, cols] | masks[[k]]$pixels
    outside[rows, cols] <- outside[rows, cols] & (masks[[k]]$field$outside %||% FALSE)
  }
  field$outside <- outside
  new_mask(
    pixels, field, masks[[1]]$phase, common_level(masks, "low", -Inf),
    common_level(masks, "high", Inf), trail
  )
}

# A level that is the same at all finds; else none, as of masks that follow the ground.
common_level <- function(masks, side, none) {
  level <- unique(vapply(masks, function(m) m[[side]], 0))
  if (length(level) == 1) level else none
}

# Rows with their places in the whole picture, and their find. As a list: a tibble that is changed
# column by column takes longer than all measuring.
placed_rows <- function(part, field) {
  n <- nrow(part$table)
  columns <- as.list(tibble::as_tibble(part$table))
  columns$id <- part$before + seq_len(n)
  corner <- c(x = part$cols[1], y = part$rows[1]) - 1
  unit <- field_unit(field)
  size <- field_pixel(field)
  for (axis in c("x", "y")) {
    own <- c(axis, paste0("grey_", axis))
    names <- unique(c(paste0(axis, "_px"), vapply(own, measure_column, "", unit = unit)))
    for (name in names) {
      pixel <- if (name == paste0(axis, "_px")) 1 else size[[axis]]
      columns[[name]] <- columns[[name]] + corner[[axis]] * pixel
    }
  }
  columns <- append(columns, list(find = rep(part$find, n)), match("id", names(columns)))
  tibble::new_tibble(columns, nrow = n)
}

joined_outlines <- function(parts) {
  all <- lapply(parts, function(part) {
    outlines <- outlines_of(part$table)
    outlines <- outlines[outlines$id %in% part$id, ]
    outlines$ring <- paste(part$before, outlines$ring)
    outlines$id <- part$before + match(outlines$id, part$id)
    outlines$x_px <- outlines$x_px + part$cols[1] - 1
    outlines$y_px <- outlines$y_px + part$rows[1] - 1
    outlines
  })
  all <- do.call(rbind, all)
  all$ring <- match(all$ring, unique(all$ring))
  all
}
