# YAML files: data only. Tags and code in them are never evaluated.

largest_yaml <- 2^20  # bytes

deepest_yaml <- 30

write_yaml_file <- function(content, file, replace = FALSE, call = rlang::caller_env()) {
  text <- yaml::as.yaml(
    null_for_missing(content), indent.mapping.sequence = TRUE, precision = 12,
    handlers = list(logical = function(x) {
      structure(ifelse(is.na(x), "null", ifelse(x, "true", "false")), class = "verbatim")
    })
  )
  write_text(sub("\n$", "", text), file, replace, call)
}

# A missing value is written `null`, whatever kind of vector it stands in.
null_for_missing <- function(x) {
  if (is.list(x)) {
    x[] <- lapply(x, null_for_missing)
    return(x)
  }
  if (!is.atomic(x) || !anyNA(x)) return(x)
  if (length(x) == 1) NA else lapply(as.list(x), null_for_missing)
}

# A YAML file of ours: `bemrick: <kind> 1` and known keys only.
read_yaml_file <- function(file, kind, keys, call = rlang::caller_env()) {
  text <- read_text(file, call)
  check_yaml_size(text, file, call)
  content <- tryCatch(
    load_yaml(text),
    error = function(e) {
      bm_abort(c(
        "{.file {basename(file)}} is not valid YAML.",
        x = plain(conditionMessage(e)),
        i = if (grepl("(^|\n) *\t", text)) "Lines begin with spaces in YAML, not with tabs."
      ), "file_content", call = call)
    }
  )
  says <- if (is.list(content)) content$bemrick
  if (!identical(says, paste(kind, "1"))) {
    bm_abort(c(
      "{.file {basename(file)}} is not a {kind} file.",
      i = "Its first line must be {.code bemrick: {kind} 1}."
    ), "file_content", call = call)
  }
  check_known(names(content), keys, "key", paste0(" in ", basename(file)), call)

  content
}

# Handlers of our own keep "y", "no" and dates the texts they were written as.
load_yaml <- function(text) {
  yaml::yaml.load(text, eval.expr = FALSE, handlers = list(
    "bool#yes" = function(x) if (tolower(x) == "true") TRUE else x,
    "bool#no" = function(x) if (tolower(x) == "false") FALSE else x
  ))
}

# The parser goes one call deeper for every level and would run out of them; files of ours have five
# levels at most.
check_yaml_size <- function(text, file, call) {
  refuse <- function(what) bm_abort("{.file {basename(file)}} {what}.", "file_content", call = call)
  if (nchar(text, "bytes") > largest_yaml) {
    refuse(paste("is larger than", largest_yaml / 2^20, "MB"))
  }
  lines <- strsplit(text, "\n", fixed = TRUE)[[1]]
  marks <- function(pattern) lengths(regmatches(lines, gregexpr(pattern, lines)))
  opened <- cumsum(marks("[[{]") - marks("[]}]"))
  indent <- nchar(sub("[^ ].*", "", lines))

  if (any(
      pmax(opened, marks("[[{]"), marks("(- |\\? |: )")) > deepest_yaml | indent > 4 * deepest_yaml
    )) {
    refuse(paste("is nested more than", deepest_yaml, "levels deep"))
  }
}

# YAML takes 500 or 2026 for a number.
text_or_none <- function(x, key, where, call = rlang::caller_env()) {
  if (is.null(x)) return(NULL)
  if (!is.atomic(x) || length(x) != 1 || is.na(x)) {
    bm_abort("{.field {key}}{where} must be one text.", "file_content", call = call)
  }
  as.character(x)
}

day_of_content <- function(x, key, where, call = rlang::caller_env()) {
  text <- text_or_none(x, key, where, call)
  if (is.null(text)) return(NULL)
  tryCatch(day_text(text, key), bemrick_error_argument = function(e) {
    bm_abort(
      "{.field {key}}{where} must be a day such as {.val 2027-05-01}.", "file_content", call = call
    )
  })
}
