# Actions by hand: rows of the steps that a method file has for them, each for the picture that is
# open.

act_cut <- function(state, action) {
  add_hand_row(state, "separate_cuts", "cuts", line_of_action(action))
}
register_action("cut", takes = c("x1", "y1", "x2", "y2", "width"))

act_join <- function(state, action) {
  add_hand_row(state, "join_objects", "joins", line_of_action(action))
}
register_action("join", takes = c("x1", "y1", "x2", "y2"))

act_exclude <- function(state, action) {
  table <- table_by_hand(state)
  if (is.null(action[["id"]])) {
    found <- look_up(table, x = action[["x"]], y = action[["y"]])
    action$id <- found$row$id
  }
  row <- places_of_objects(
    attr(table, "objects"), check_excluded(action[["id"]], table), action[["why"]]
  )
  add_hand_row(state, "exclude_objects", "at", Filter(Negate(is.na), as.list(row)))
}
register_action("exclude", takes = c("x", "y", "id", "why"))

# Rows of this picture that leave the object out, wherever in the chain they stand.
act_readmit <- function(state, action) {
  table <- table_by_hand(state)
  id <- check_excluded(action[["id"]], table)
  objects <- attr(table, "objects")
  doc <- state$doc
  chain <- desk_chain(doc)
  removed <- 0
  for (k in which(vapply(chain, function(s) s$step == "exclude_objects", NA))) {
    rows <- chain[[k]]$args$at
    hit <- vapply(rows, function(row) {
      own <- exclusion_rows(list(row), objects)
      nrow(own) > 0 && label_at(objects$labels, own$x, own$y) == id
    }, NA)
    removed <- removed + sum(hit)
    chain[[k]]$args$at <- rows[!hit]
  }
  if (removed == 0) {
    bm_abort(
      c(
        "Object {id} was not left out by hand.",
        i = "What a limit or the frame leaves out is changed by that step."
      ),
      "action"
    )
  }
  bare <- vapply(chain, function(s) s$step == "exclude_objects" && length(s$args$at) == 0, NA)
  trunk <- length(doc$steps) - sum(bare[seq_along(doc$steps)])
  with_chain(doc, chain[!bare], trunk)
}
register_action("readmit", takes = "id")

line_of_action <- function(action) {
  row <- action[intersect(c("x1", "y1", "x2", "y2", "width"), names(action))]
  for (name in c("x1", "y1", "x2", "y2")) check_number(row[[name]], name)
  if (!is.null(row$width)) check_number(row$width, "width", 0)
  row
}

# The row goes into the last step of hand edits when that is of its kind: cuts and joins count in
# the order they were drawn in.
add_hand_row <- function(state, name, argument, row) {
  doc <- state$doc
  chain <- desk_chain(doc)
  image <- basename(state$list$image[state$at])
  row <- c(list(image = image), row[setdiff(names(row), "image")])
  after <- place_for_step(chain, name)
  before <- if (after > 0) chain[[after]]
  if (identical(before$step, name) && !isTRUE(before$off)) {
    chain[[after]]$args[[argument]] <- c(before$args[[argument]], list(row))
    return(with_chain(doc, chain))
  }
  step <- list(step = name, args = stats::setNames(list(list(row)), argument))
  insert_step(doc, step, after)
}

# The table of the picture that is open, which must be one of objects.
table_by_hand <- function(state, call = rlang::caller_env()) {
  stages <- desk_stages(state)
  table <- table_of_stages(stages)
  if (!inherits(table, "bm_measures")) {
    wrong <- problem_of_stages(stages)
    bm_abort(
      c(
        "There is no table of objects to leave any out of.",
        x = if (!is.null(wrong)) plain(wrong$said)
      ),
      "action", call = call
    )
  }
  table
}
