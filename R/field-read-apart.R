# Decoding in a process of its own. A damaged TIFF file can end the process that decodes it,
# whatever is checked before: in a batch that must cost one field and not all of them. PNG and JPEG
# decoders report damage and are used as they are.

# list(read, close): `read` as read_field(); the process is started with the first TIFF and lives
# until `close()`. `decode_there` is what runs in it.
apart_reader <- function(decode_there = decoded_there) {
  session <- NULL
  close <- function() {
    if (!is.null(session)) session$close()
    session <<- NULL
  }
  decode_apart <- function(file, header, channel) {
    if (header$format != "tiff") return(decode(file, header, channel))
    if (is.null(session)) session <<- started_apart()
    answer <- tryCatch(
      session$run(decode_there, list(normalizePath(file), header, channel)),
      error = function(e) {
        alive <- session$is_alive()
        close()
        if (alive) rlang::cnd_signal(e)
        damaged(file, "the file is damaged, so badly that decoding it failed")
      }
    )
    if (inherits(answer, "condition")) rlang::cnd_signal(answer)
    storage.mode(answer$grey) <- "double"
    answer
  }
  list(
    read = function(file, page, channel) read_picture(file, page, channel, decode_apart),
    close = close
  )
}

# A loaded machine may need long to start R; three seconds are callr's own patience.
started_apart <- function(patience = 60) {
  tryCatch(callr::r_session$new(wait_timeout = 1000 * patience), error = function(e) {
    bm_abort(
      c(
        "A second process of R, in which TIFF pictures are decoded, did not start within {patience}
         seconds.",
        i = "Is the machine very busy, or short of memory? Then try again later."
      ),
      "workers", call = NULL
    )
  })
}

# Runs in the other process. Whole levels travel as integers, at half the size; errors as values.
decoded_there <- function(file, header, channel) {
  tryCatch({
    read <- asNamespace("bemrick")$decode(file, header, channel)
    if (!header$real) storage.mode(read$grey) <- "integer"
    read
  }, error = function(e) e)
}
