# The one place that raises errors and warnings. Every condition has the class
# `bemrick_error` (or `bemrick_warning`) and a narrower one naming what was wrong.

bm_abort <- function(
  message, class, ..., call = rlang::caller_env(), parent = NULL, .envir = rlang::caller_env()
) {
  if (!is.null(parent)) parent$message <- visible(parent$message, colours = TRUE)
  rlang::abort(
    cleaned(message, .envir),
    class = c(paste0("bemrick_error_", class), "bemrick_error"),
    ..., call = call, parent = parent, use_cli_format = TRUE
  )
}

bm_warn <- function(message, class, ..., call = rlang::caller_env(), .envir = rlang::caller_env()) {
  rlang::warn(
    cleaned(message, .envir),
    class = c(paste0("bemrick_warning_", class), "bemrick_warning"),
    ..., call = call, use_cli_format = TRUE
  )
}

# Marked-up lines as text; what came in from names and files cannot move the cursor of whoever reads
# the message.
cleaned <- function(message, envir) {
  message[] <- gsub("\\s*\n\\s*", " ", message)  # lines of the source
  message[] <- vapply(message, function(line) cli::format_inline(line, .envir = envir), "")
  visible(message, colours = TRUE)
}

# Text that cli must not read as markup.
plain <- function(text) gsub("}", "}}", gsub("{", "{{", text, fixed = TRUE), fixed = TRUE)

# Text for a terminal, a figure or a message: control characters (also those that turn the reading
# direction) are shown as their codes, so that a name can neither move the cursor nor pretend to be
# another. `colours`: those of cli may stay.
visible <- function(text, colours = FALSE) {
  broken <- which(!validUTF8(text))
  text[broken] <- iconv(text[broken], "UTF-8", "UTF-8", sub = "byte")
  control <- "[\u0001-\u0008\u000b-\u001f\u007f-\u009f\u200e\u200f\u2028-\u202e\u2066-\u2069]"
  odd <- which(grepl(control, text))
  text[odd] <- vapply(text[odd], function(x) {
    letters <- strsplit(x, "")[[1]]
    keep <- if (colours) colour_letters(x, length(letters)) else FALSE
    hide <- grepl(control, letters) & !keep
    letters[hide] <- sprintf("<U+%04X>", vapply(letters[hide], utf8ToInt, 0L))
    paste(letters, collapse = "")
  }, "", USE.NAMES = FALSE)
  text
}

# Which letters begin one of cli's own colour codes (ESC [ numbers m).
colour_letters <- function(x, n) {
  at <- gregexpr("\u001b\\[[0-9;]*m", x)[[1]]
  seq_len(n) %in% at
}

one_line <- function(e) {
  if (is_out_of_memory(e)) return("There is not enough memory to measure it.")
  lines <- rlang::cnd_message(e, inherit = TRUE)
  marks <- "(?<=\n)[ix*\u2139\u2716\u2022] "  # of bullets
  gsub("\\s+", " ", cli::ansi_strip(gsub(marks, "", lines, perl = TRUE)))
}
