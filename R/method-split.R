# What the depth of a neck does to the objects: the same mask split at a range of depths.

#' @export
format.bm_split <- function(x, ...) {
  t <- x$table
  c(
    paste0(
      "<split> by ", x$separate, ", ", length(unique(t$objects)), " different counts at ",
      nrow(t), " depths from ", 100 * min(t$depth), " to ", 100 * max(t$depth), " %, ",
      "count steady from ", 100 * x$plateau[1], " to ", 100 * x$plateau[2], " %"
    ),
    paste0(
      "  ", format(paste(100 * t$depth, "%")), "  ", format(t$objects), " objects, ",
      format(t$merges), " suspected merges, ", format(t$splits), " suspected splits"
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_split
as_tibble.bm_split <- function(x, ...) x$table

#' How the objects depend on the depth of a neck
#'
#' Splits a mask by [separate_watershed()] or [separate_outlines()] at a range of depths and counts
#' the objects, those that are probably several still, and splits of what was probably one. A good
#' depth lies where all three are steady (the plateau) and the last two are low.
#'
#' @param mask A `bm_mask`.
#' @param depths Depths to try, as shares of the smaller part's radius: numbers between 0 and 1, or
#'   texts such as `"5 %"`.
#' @param separate `"watershed"` or `"outlines"`.
#' @return A `bm_split`: `table` (tibble: `depth`, `objects`, `merges`: objects of a solidity
#'   below 0.9, `splits`: parts beyond the first of what is convex as a whole, with a solidity of
#'   0.98 and more) and `plateau` (the longest run of depths over which the count changes by at most
#'   2 %).
#' @section Errors: Class `bemrick_error_argument` for fewer than three depths.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1
#' )
#' split_response(segment_auto(field, phase = "bright"))
#' @export
split_response <- function(
  mask, depths = c(0:10 / 50, 0.25, 0.3, 0.4, 0.5), separate = "watershed"
) {
  check_mask(mask)
  check_choice(separate, "separate", c("watershed", "outlines"))
  if (!(is.numeric(depths) || is.character(depths)) || length(depths) < 3) {
    bm_abort("{.arg depths} must be at least three shares, such as {.val 5 %}.", "argument")
  }
  shares <- vapply(depths, function(depth) {
    if (is.na(depth)) bm_abort("{.arg depths} holds {.code NA}.", "argument", call = NULL)
    text <- if (is.numeric(depth)) paste(100 * depth, "%") else depth
    neck_depth(text, NULL)$share
  }, 0)
  shares <- sort(unique(unname(shares)))
  whole <- suppressWarnings(measure_objects(find_objects(mask)))
  convex <- whole$solidity >= 0.98
  labels <- attr(whole, "objects")$labels
  way <- if (separate == "outlines") separate_outlines else separate_watershed
  rows <- lapply(shares, function(share) split_at(mask, share, labels, convex, way))
  table <- tibble::tibble(depth = shares, !!!do.call(rbind, rows))

  structure(
    list(
      table = table, plateau = longest_plateau(table$depth, table$objects), separate = separate
    ),
    class = c("bm_split", "bemrick")
  )
}

# One row at one depth; `labels` of the objects as they hang together, and which are `convex`.
split_at <- function(mask, share, labels, convex, way) {
  parts <- suppressWarnings(way(mask, paste(100 * share, "%")))
  measures <- suppressWarnings(measure_objects(parts))
  inside <- parts$labels > 0
  owner <- integer(parts$count)
  owner[parts$labels[inside]] <- labels[inside]
  of_each <- tabulate(owner, length(convex))

  data.frame(
    objects = parts$count, merges = sum(measures$solidity < 0.9), splits = sum(of_each[convex] - 1)
  )
}

# From where to where a count stays within 2 % of its value at some depth in between, over the most
# depths; the deeper of several.
longest_plateau <- function(depth, count) {
  runs <- vapply(seq_along(count), function(at) {
    flat <- abs(count - count[at]) <= 0.02 * count[at]
    ends <- range(run_around(flat, at))
    c(ends, diff(ends))
  }, numeric(3))
  best <- max(which(runs[3, ] == max(runs[3, ])))
  depth[runs[1:2, best]]
}
