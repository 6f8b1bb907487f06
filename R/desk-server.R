# The server of a desk: on this machine only, for whoever has its token, and for its own page alone.
# It reads and writes nothing outside the folders the desk was opened with.

#' Open a desk
#'
#' A page on this machine where the analyst sees a picture, decides by eye and hand, and leaves with
#' the method that runs unattended: calibrate, add and change steps with the picture beside them,
#' choose a level in the histogram, cut, join and exclude objects, set limits, judge, and run the
#' batch. All it computes is what the functions of this package compute, and all that is done is an
#' action ([desk_act()]).
#'
#' The address holds a secret key: whoever has it can use the desk while it is open, and nobody else
#' can. The desk listens on this machine only. It reads the pictures and files it was opened with
#' and what lies in their folders, and writes to `folder`. The desk is open until its page closes
#' it, or the call is interrupted.
#'
#' @inheritParams desk_state
#' @param pictures As for [desk_state()]; or the path of a session that [save_desk()] wrote, which
#'   is then taken up again; or a `bm_desk`.
#' @param folder Folder to save to; it is made when something is saved.
#' @param port Port to listen on; `NULL` takes a free one.
#' @param browse Whether to open the page in the browser.
#' @param on_open Function called with the address, once the desk is there.
#' @return The `bm_desk` as it was left, invisibly.
#' @section Errors: Class `bemrick_error_package` without the package httpuv, `bemrick_error_port`
#'   when the port is taken; else as [desk_state()].
#' @examples
#' if (interactive()) {
#'   open_desk(
#'     system.file("extdata", "beads.png", package = "bemrick"),
#'     calibration = system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#'   )
#' }
#' @export
open_desk <- function(
  pictures, method = NULL, calibration = NULL, spec = NULL, folder = "desk", port = NULL,
  browse = interactive(), on_open = NULL
) {
  need_package("httpuv", "A desk")
  check_text(folder, "folder")
  if (is_file(folder)) bm_abort("{.file {folder}} is a file, not a folder to save to.", "file")
  check_flag(browse, "browse")
  check_function(on_open, "on_open")
  state <- if (inherits(pictures, "bm_desk")) {
    pictures
  } else if (rlang::is_string(pictures) && endsWith(pictures, session_ending)) {
    read_desk(pictures)
  } else {
    desk_state(pictures, method, calibration, spec)
  }
  if (!is.null(port)) check_number(port, "port", 1, 65535, whole = TRUE)
  named <- Filter(rlang::is_string, list(method, calibration, spec))
  desk <- serve_desk(state, folder, port, unlist(named))
  on.exit(desk$end())
  if (!is.null(on_open)) on_open(desk$address)
  if (browse) utils::browseURL(desk$address)
  desk_stages(state, 0)  # the picture is read while the browser starts
  while (!desk$closed()) httpuv::service(200)
  httpuv::service(100)  # the last answer is still to be sent
  invisible(desk$state())
}

# The address, and functions: whether its page has closed it, its state, and its end.
serve_desk <- function(state, folder, port = NULL, files = character()) {
  port <- port %||% httpuv::randomPort()
  key <- paste(openssl::rand_bytes(24), collapse = "")
  roots <- folders_of_desk(state, folder, files)
  desk <- new_seat(state, folder, roots)
  guard <- desk_guard(port, key)
  answer <- function(request) {
    refused <- guard(request)
    if (!is.null(refused)) return(refused)
    tryCatch(desk_answer(desk, request), error = function(e) said_response(e))
  }
  server <- tryCatch(
    httpuv::startServer("127.0.0.1", port, list(
      call = answer,
      onWSOpen = function(socket) socket$close(),  # there is none
      onHeaders = function(request) {
        size <- as.numeric(request$HTTP_CONTENT_LENGTH %||% 0)
        if (size > 2^20) plain_response(413L, "Too large.")
      }
    )),
    error = function(e) {
      bm_abort(
        c("Nothing can listen on port {port}.", i = "Choose another by {.arg port}."), "port",
        parent = e
      )
    }
  )
  list(
    address = paste0("http://127.0.0.1:", port, "/?key=", key),
    closed = function() desk$closed, state = function() desk$state,
    end = function() {
      desk$run <- stop_run(desk$run)
      httpuv::stopServer(server)
    }
  )
}

# What changes while a desk is open: its state, and the run it has started.
new_seat <- function(state, folder, roots) {
  desk <- new.env(parent = emptyenv())
  desk$state <- state
  desk$folder <- folder
  desk$roots <- roots
  desk$run <- NULL
  desk$closed <- FALSE
  desk
}
