say <- function(...) message(visible(in_door_words(paste0(...))))

tell <- function(lines) writeLines(visible(enc2utf8(lines)), useBytes = TRUE)

usage <- function(text) rlang::abort(text, class = "bemrick_usage", call = NULL)

# Parses the words of one command. `about`: list(line, needs, examples); options as for optparse.
# Returns list(options, words); words are what is no option, between `at_least` and `at_most` of
# them.
parse_words <- function(args, command, about, options, at_least = 0, at_most = 0) {
  parser <- optparse::OptionParser(
    usage = paste("bemrick", command, about$line), option_list = options,
    description = paste0("\n", about$what), epilogue = paste0(
      "Examples:\n", paste0("  ", about$examples, collapse = "\n")
    )
  )
  if (any(args %in% c("--help", "-h"))) {
    tell(utils::capture.output(optparse::print_help(parser)))
    return(NULL)
  }
  known <- vapply(parser@options, function(o) o@long_flag, "")
  for (word in sub("=.*", "", args[startsWith(args, "-") & nchar(args) > 1])) {
    if (!word %in% known) {
      unknown_word(
        paste0("bemrick ", command, " has no option \"", word, "\"."), word, known,
        paste0("\nSee: bemrick ", command, " --help")
      )
    }
  }
  parsed <- tryCatch(
    optparse::parse_args(parser, args, print_help_and_exit = FALSE, positional_arguments = TRUE),
    error = function(e) usage(paste0(conditionMessage(e), "\nSee: bemrick ", command, " --help"))
  )
  given <- length(parsed$args)
  if (given < at_least || given > at_most) {
    usage(paste0(
      "Usage: bemrick ", command, " ", about$line, "\nSee: bemrick ", command, " --help"
    ))
  }

  list(options = parsed$options, words = parsed$args)
}

option <- function(flag, help, metavar = NULL, default = NULL) {
  if (is.null(metavar)) {
    return(optparse::make_option(flag, action = "store_true", default = FALSE, help = help))
  }
  optparse::make_option(flag, type = "character", default = default, metavar = metavar, help = help)
}

# `said` of a word that names nothing known, with the nearest that is; `listed` says what is known.
unknown_word <- function(said, word, known, listed = NULL) {
  usage(paste0(paste(c(said, did_you_mean(word, known)), collapse = " "), listed))
}

# What the report shows, where the method does not say it.
report_options <- function() {
  list(
    option(
      "--classes", "Size classes of the report: how many, a width, their limits, or log", "CLASSES"
    ),
    option("--measures", "Measures the report shows beside ecd, with commas between", "NAMES"),
    option("--format", "Format of the report: html, pdf, docx, xlsx [%default]", "FORMAT", "html"),
    option("--lab", "The lab's own head, signatories and language (YAML)", "FILE"),
    option("--facts", "What the head says besides: \"customer=Norvale; order=4711\"", "FACTS")
  )
}

override_option <- function() {
  option(
    "--override", "Take a calibration that does not fit size or magnification, for this reason",
    "REASON"
  )
}

need_option <- function(options, name, command) {
  value <- options[[name]]
  if (is.null(value)) usage(paste0("--", name, " is needed.\nSee: bemrick ", command, " --help"))
  value
}

# A table as aligned text: numbers to the right, words to the left.
text_table <- function(table) {
  cells <- lapply(table, function(column) {
    if (is.integer(column)) format_plain(column)
    else if (is.numeric(column)) show_number(column)
    else gsub("[\t\n]", " ", as.character(column))
  })
  columns <- lapply(names(cells), function(name) {
    right <- is.numeric(table[[name]])
    formatted <- formatC(c(name, cells[[name]]), width = if (right) 1 else -1)
    cli::ansi_align(
      formatted, width = max(cli::ansi_nchar(formatted, "width")),
      align = if (right) "right" else "left"
    )
  })
  sub(" +$", "", do.call(paste, c(columns, sep = "  ")))
}

# A function to call with the row of every field that is done: a bar with the time left on a
# terminal, else a line every ten seconds.
progress_of <- function(total, what, quiet = FALSE, now = Sys.time, terminal = isatty(stderr())) {
  if (quiet) return(NULL)
  faulty <- 0
  count <- function(field) faulty <<- faulty + any(field$status == "faulty")
  said <- function() if (faulty) paste0(", ", faulty, " faulty") else ""
  if (terminal) {
    bar <- cli::cli_progress_bar(
      total = total, .envir = rlang::caller_env(),
      format = paste0(
        what, " {cli::pb_bar} {cli::pb_current}/{cli::pb_total}{cli::pb_extra$said()}",
        " {cli::pb_eta_str}"
      ),
      extra = list(said = said)
    )
    return(function(field) {
      count(field)
      cli::cli_progress_update(id = bar)
    })
  }
  started <- last <- now()
  done <- 0
  function(field) {
    count(field)
    done <<- done + 1
    seconds <- as.numeric(now() - started, units = "secs")
    if (as.numeric(now() - last, units = "secs") < 10 || done == total) return(invisible())
    last <<- now()
    left <- seconds / done * (total - done)
    say(what, ": ", done, " of ", total, " fields", said(), ", about ", time_words(left), " left")
  }
}

time_words <- function(seconds) {
  if (seconds < 90) return(paste(max(1, round(seconds)), "s"))
  if (seconds < 5400) return(paste(round(seconds / 60), "min"))
  paste(format_plain(round(seconds / 3600, 1)), "h")
}

show_table <- function(table, json) {
  tell(if (json) {
    jsonlite::toJSON(table, digits = NA, pretty = TRUE, na = "null")
  } else {
    text_table(table)
  })
}

number_of_words <- function(text, name) {
  value <- suppressWarnings(as.numeric(text))
  if (is.na(value)) {
    point <- if (grepl("^[0-9]*,[0-9]+$", text)) " Write decimals with a point."
    usage(paste0("--", name, " must be a number, not \"", text, "\".", point))
  }
  value
}

# "90s", "30min" or "8h" as seconds.
seconds_of_words <- function(text, name) {
  parts <- regmatches(text, regexec("^([0-9.]+) *(s|min|h)$", text))[[1]]
  value <- suppressWarnings(as.numeric(parts[2]))
  if (length(parts) != 3 || is.na(value)) {
    usage(paste0("--", name, " must be a time such as 90s, 30min or 8h, not \"", text, "\"."))
  }
  value * c(s = 1, min = 60, h = 3600)[[parts[3]]]
}

# "log", "8" (how many), "5 um" (their width) or "10 um, 20 um, 50 um" (their limits).
classes_of_words <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- trimws(strsplit(text, ",", fixed = TRUE)[[1]])
  number <- suppressWarnings(as.numeric(parts))
  if (length(parts) > 0 && !anyNA(number)) number else parts
}

names_of_words <- function(text) {
  if (!is.null(text)) trimws(strsplit(text, ",", fixed = TRUE)[[1]])
}

# "1,2,3,4" as four numbers.
numbers_of_words <- function(text, name, count = 4) {
  if (is.null(text)) return(NULL)
  values <- vapply(strsplit(text, ",")[[1]], number_of_words, 0, name = name, USE.NAMES = FALSE)
  if (!is.null(count) && length(values) != count) {
    usage(paste0(
      "--", name, " must be ", c("one", "two", "three", "four")[count],
      " numbers with commas between, not \"", text, "\"."
    ))
  }
  values
}

# "customer=Norvale; order=4711" as named texts.
facts_of_words <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- trimws(strsplit(text, ";", fixed = TRUE)[[1]])
  said <- regmatches(parts, regexec("^([^=]+?) *= *(.+)$", parts, perl = TRUE))
  if (any(lengths(said) != 3)) {
    usage(paste0(
      "--facts must be written as \"customer=Norvale; order=4711\", not \"", text, "\"."
    ))
  }
  stats::setNames(vapply(said, function(s) s[3], ""), vapply(said, function(s) s[2], ""))
}
