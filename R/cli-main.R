# The command line. Parses words, prints, and gives the exit status; computes nothing itself.

#' The command-line program
#'
#' What `exec/bemrick` runs: `bemrick demo`, `inspect`, `calibrate`, `steps`, `new`, `list`,
#' `measure`, `batch`, `look`, `report`, `compare`, `teach` and `locate`, each with `--help`. Tables
#' go to standard output, messages and progress to standard error. Names of files and texts are
#' UTF-8.
#'
#' @param args The words after the program's name.
#' @return The exit status: 0 all pass; 1 it ran but something failed, is undecided or faulty; 2 it
#'   could not run, or could not write all it should; 130 it was interrupted (Ctrl-C); 143 it was
#'   terminated.
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
      },
      bemrick_kept = function(m) {
        say(cli::ansi_strip(conditionMessage(m)))
        invokeRestart("muffleMessage")
      }
    ),
    bemrick_usage = function(e) {
      say(conditionMessage(e))
      2L
    },
    error = function(e) {
      # whoever read the output (such as head) has seen enough
      if (identical(conditionMessage(e), "ignoring SIGPIPE signal")) return(141L)
      say("Error: ", error_words(e))
      2L
    },
    interrupt = function(e) {
      terminated <- core_was_terminated()
      say(if (terminated) "Terminated" else "Interrupted", ". Earlier results are untouched.")
      if (terminated) 143L else 130L
    }
  )
}

# An error in words, with those that led to it.
error_words <- function(e) {
  if (is_out_of_memory(e)) return("There is not enough memory for this.")
  cli::ansi_strip(rlang::cnd_message(e, inherit = TRUE))
}

# Words and names of files are UTF-8 whatever the session's locale: where that is another (C,
# Latin-1), it is changed until the program ends, so that a list reads, finds its pictures and
# prints the same everywhere.
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
  commands <- names(registered$commands)
  first <- if (length(args)) args[1] else "--help"
  if (first %in% c("--help", "-h", "help")) {
    tell(main_help())
    return(if (length(args)) 0L else 2L)
  }
  if (first == "--version") {
    tell(paste("bemrick", utils::packageVersion("bemrick")))
    return(0L)
  }
  if (!first %in% commands) {
    unknown_word(
      paste0("There is no command \"", first, "\"."), first, commands,
      paste0("\nCommands: ", paste(commands, collapse = ", "), ".")
    )
  }
  as.integer(registered_function(paste0("cli_", first))(args[-1]))
}

main_help <- function() {
  lines <- registered$commands
  c(
    "bemrick: from micrographs to verdicts on particle size and porosity", "",
    "Usage: bemrick COMMAND [options]", "",
    paste0("  ", formatC(names(lines), width = -10), unlist(lines)), "",
    "Every command takes --help. Exit status: 0 all pass; 1 ran, but something failed,",
    "is undecided or faulty; 2 could not run, or not write all results."
  )
}
