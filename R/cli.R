# The command line. Parses words, prints, and gives the exit status; computes nothing itself.

cli_commands <- function() {
  list(
    demo = cli_demo, inspect = cli_inspect, calibrate = cli_calibrate, measure = cli_measure, batch = cli_batch,
    report = cli_report, compare = cli_compare
  )
}

#' The command-line program
#'
#' What `exec/bemrick` runs: `bemrick demo | inspect | calibrate | measure | batch | report | compare`, each with `--help`.
#' Tables go to standard output, messages and progress to standard error. Names of files and texts are UTF-8.
#'
#' @param args The words after the program's name.
#' @return The exit status: 0 all pass; 1 it ran but something failed, is undecided or faulty; 2 it could not run, or could
#'   not write all it should; 130 it was interrupted (Ctrl-C); 143 it was terminated.
#' @examples
#' cli_main(c("inspect", system.file("extdata", "beads.png", package = "bemrick")))
#' cli_main("--help")
#' @export
cli_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  steady_session()
  words <- in_utf8(args)
  core_watch_termination(TRUE)
  on.exit(core_watch_termination(FALSE))
  tryCatch(
    withCallingHandlers(
      run_command(words),
      warning = function(w) {
        say("Warning: ", cli::ansi_strip(conditionMessage(w)))
        invokeRestart("muffleWarning")
      }
    ),
    bemrick_usage = function(e) {
      say(conditionMessage(e))
      2L
    },
    error = function(e) {
      say("Error: ", error_words(e))
      2L
    },
    interrupt = function(e) {
      terminated <- core_was_terminated()
      say(if (terminated) "Terminated" else "Interrupted", ": unfinished work is cleared away, earlier results are untouched.")
      if (terminated) 143L else 130L
    }
  )
}

# An error in words, with those that led to it.
error_words <- function(e) {
  if (is_out_of_memory(e)) return("There is not enough memory for this.")
  cli::ansi_strip(rlang::cnd_message(e, inherit = TRUE))
}

# Words and names of files are UTF-8 whatever the session's locale: where that is another (C, Latin-1), it is changed until
# the program ends, so that a list reads, finds its pictures and prints the same everywhere.
in_utf8 <- function(args, env = rlang::caller_env()) {
  if (l10n_info()[["UTF-8"]]) return(args)
  words <- ifelse(validUTF8(args), args, enc2utf8(args))
  Encoding(words) <- "UTF-8"
  before <- Sys.getlocale("LC_CTYPE")
  withr::defer(Sys.setlocale("LC_CTYPE", before), envir = env)
  for (locale in c("C.UTF-8", "en_US.UTF-8", "UTF-8")) {
    if (nzchar(suppressWarnings(Sys.setlocale("LC_CTYPE", locale)))) break
  }
  words
}

run_command <- function(args) {
  commands <- cli_commands()
  first <- if (length(args)) args[1] else "--help"
  if (first %in% c("--help", "-h", "help")) {
    tell(main_help())
    return(if (length(args)) 0L else 2L)
  }
  if (first == "--version") {
    tell(paste("bemrick", utils::packageVersion("bemrick")))
    return(0L)
  }
  if (!first %in% names(commands)) {
    usage(
      paste0(
        "There is no command \"", first, "\". ", did_you_mean(first, names(commands)), "\nCommands: ",
        paste(names(commands), collapse = ", "), "."
      )
    )
  }
  as.integer(commands[[first]](args[-1]))
}

main_help <- function() {
  c(
    "bemrick: from micrographs to verdicts on particle size and porosity", "",
    "Usage: bemrick COMMAND [options]", "",
    "  demo      set up the made-up Ardlow Works lab and judge its batches",
    "  inspect   describe an image",
    "  calibrate determine the pixel size, from a bar, a ruler, tags or typed in",
    "  measure   measure single pictures by a method",
    "  batch     measure and judge all samples of a batch list",
    "  report    write the report of a results folder again",
    "  compare   compare the sizes of two results folders", "",
    "Every command takes --help. Exit status: 0 all pass; 1 ran, but something failed,",
    "is undecided or faulty; 2 could not run, or not write all results."
  )
}

say <- function(...) message(visible(paste0(...)))
tell <- function(lines) writeLines(visible(enc2utf8(lines)), useBytes = TRUE)

usage <- function(text) rlang::abort(text, class = "bemrick_usage", call = NULL)

# Parses the words of one command. `about`: list(line, needs, examples); options as for optparse.
# Returns list(options, words); words are what is no option, between `at_least` and `at_most` of them.
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
      usage(
        paste0(
          "There is no option \"", word, "\" of ", command, ". ", did_you_mean(word, known), "\nSee: bemrick ", command,
          " --help"
        )
      )
    }
  }
  parsed <- tryCatch(
    optparse::parse_args(parser, args, print_help_and_exit = FALSE, positional_arguments = TRUE),
    error = function(e) usage(paste0(conditionMessage(e), "\nSee: bemrick ", command, " --help"))
  )
  given <- length(parsed$args)
  if (given < at_least || given > at_most) {
    usage(paste0("Usage: bemrick ", command, " ", about$line, "\nSee: bemrick ", command, " --help"))
  }
  list(options = parsed$options, words = parsed$args)
}

option <- function(flag, help, metavar = NULL, default = NULL) {
  if (is.null(metavar)) return(optparse::make_option(flag, action = "store_true", default = FALSE, help = help))
  optparse::make_option(flag, type = "character", default = default, metavar = metavar, help = help)
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
    cli::ansi_align(formatted, width = max(cli::ansi_nchar(formatted, "width")), align = if (right) "right" else "left")
  })
  sub(" +$", "", do.call(paste, c(columns, sep = "  ")))
}

# A bar on standard error, one tick a field; nothing when that is no terminal.
progress_of <- function(total, what) {
  if (!isatty(stderr())) return(NULL)
  bar <- cli::cli_progress_bar(what, total = total, .envir = rlang::caller_env())
  function(field) cli::cli_progress_update(id = bar)
}
