# Messages in the words of the door they go through: at the command line what R users set by an
# argument is an option, or a key of a method; what they call by a function is a step.

# Patterns of R's words, and what stands for them here.
door_words <- c(
  "set `replace = TRUE` \\(`--replace`\\)" = "use --replace",
  "`replace = TRUE`" = "--replace", "`resume = TRUE`" = "--resume",
  "`resume = FALSE`" = "--restart", "`again = TRUE`" = "--again", "`trust = TRUE`" = "--trust",
  "`override = TRUE`" = "--override",
  "`page = ([0-9]+)`" = "--page \\1", "`magnification = \"([^\"]*)\"`" = "the column magnification",
  "`box = c\\(left, top, right, bottom\\)`" = "--box left,top,right,bottom",
  "`c\\(left, top, right, bottom\\)`" = "left,top,right,bottom",
  "`c\\(x1, y1, x2, y2\\)`" = "x1,y1,x2,y2",
  "`calibration_from_length\\(\\)`" = "--pixels and --length",
  "`calibration_from_(bar|marks|grid|tags)\\(\\)`" = "--\\1",
  "`calibrate\\(\\)`" = "--calibration", "`read_method\\(\\)`" = "--method",
  "`read_spec\\(\\)`" = "--spec", "`as_method\\(\\)`" = "bemrick new method",
  "`(teach|write)_pattern\\(\\)`" = "bemrick teach", "`read_pattern\\(\\)`" = "--pattern",
  "`locate_pattern\\(\\)`" = "bemrick locate", "`take_branch\\(\\)`" = "--branch",
  "`(turn|scale) = c\\(([-0-9.]+), ([-0-9.]+)\\)`" = "--\\1=\\2,\\3",
  "`run_batch\\(\\)`" = "bemrick batch", "`write_calibration\\(\\)`" = "bemrick calibrate",
  "`plot\\(field_facts\\(field\\)\\)`" = "bemrick inspect --figure",
  "`([a-z_]+) = c\\(\"([^\"]*)\", NA\\)`" = "`\\1: [\\2, null]`",
  ", or take single points with `points_on_plane\\(\\)`" = "",
  "`(?:region|path|edge)_(box|circle|ring|polygon|line|arc|polyline)\\(\\)`" =
    "{\\1: [...]}",
  "`trace_edge\\(\\)`" = "{trace: {...}}", "`gauge_edges\\(\\)`" = "bemrick gauge --edges",
  "`field_on_disk\\(\\)`" = "--memory",
  ", or read the part to look at with `part_on_disk\\(\\)`" = "",
  "`desk_state\\(\\)`" = "bemrick desk", "`find_entries\\(\\)`" = "bemrick ledger find",
  "`open_ledger\\(at, create = TRUE\\)`|`open_ledger\\(\\)`" = "bemrick ledger new",
  "`verify_results\\(\\)`" = "bemrick verify", "`ledger_trend\\(\\)`" = "bemrick ledger trend",
  "`chart = \"individuals\"`" = "--chart individuals",
  "`open_ledger\\(at, upgrade = TRUE\\)`" = "bemrick ledger upgrade",
  "`(apply_method|read_run)\\(\\)`" = "bemrick batch", "`read_cluster\\(\\)`" = "--cluster",
  "`read_lab\\(\\)`" = "--lab", "`length_standard\\(\\)`" = "--standard",
  "`verify_calibration\\(\\)` and set a new day" =
    "bemrick calibrate --verify and set a new day by --due",
  "`file_check\\(\\)`" = "bemrick calibrate --verify FILE --ledger LEDGER"
)

# Whatever is left: a step, or an argument as it is written in a method.
in_door_words <- function(text) {
  for (pattern in names(door_words)) text <- gsub(pattern, door_words[[pattern]], text)
  steps <- paste(names(registered$steps), collapse = "|")
  text <- gsub(paste0("`(", steps, ")\\(\\)`"), "the step \\1", text)
  text <- gsub("`([a-z_]+)\\(([a-z_]+) = TRUE\\)`", "`\\1: {\\2: true}`", text)
  text <- gsub("`([a-z_]+) = \"([^\"`]*)\"`", "`\\1: \\2`", text)
  text <- gsub("`([a-z_]+) = TRUE`", "`\\1: true`", text)
  gsub("`([a-z_]+) = ([0-9.]+)`", "`\\1: \\2`", text)
}

# An argument that came from an option is named by it: c(length = "--bar").
as_option <- function(code, options) {
  tryCatch(code, bemrick_error = function(e) {
    for (name in names(options)) {
      said <- paste0("`", name, "`")
      for (part in Filter(function(p) is.character(e[[p]]), c("message", "body"))) {
        e[[part]] <- gsub(said, options[[name]], e[[part]], fixed = TRUE)
      }
    }
    rlang::cnd_signal(e)
  })
}
