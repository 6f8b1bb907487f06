# What registers itself. A step of methods and a command of the program say so in the file that
# defines them, so that nothing else has to name them. Filled while the package is built; nothing is
# added later.

registered <- new.env(parent = emptyenv())

# A function that a method may name: what its first argument is and what it returns, as classes,
# which of its arguments are lengths (names, or by name what reads them, as function(value,
# calibration, call)), which may be the path of a table, which are paths of pictures or of patterns,
# whether it changes which part of the picture is looked at, or at what size (`part`), and the
# argument that takes what follows it in a method, as a function (`rest`). A step that takes several
# kinds gives one for each of them. `reach`: how far from a pixel lies what it is made of, c(x, y)
# in pixels, as function(args, field); NULL for a step that looks at all of a picture. `block`:
# where sums of its kernel begin anew, which a part of a picture must begin at for the same last
# digits.
register_step <- function(
  name, takes, gives, lengths = character(), tables = character(), pictures = character(),
  patterns = character(), part = FALSE, rest = NULL, reach = NULL,
  block = c(x = 1, y = 1)
) {
  if (is.character(lengths)) {
    lengths <- sapply(lengths, function(argument) {
      function(value, calibration, call) length_in_pixels(value, calibration, argument, call = call)
    }, simplify = FALSE)
  }
  registered$steps[[name]] <- list(
    takes = takes, gives = gives, lengths = lengths, tables = tables, pictures = pictures,
    patterns = patterns, part = part, rest = rest, reach = reach, block = block
  )
}

# A command of the program: cli_<name>(), and its line in the program's help.
register_command <- function(name, line) {
  registered$commands[[name]] <- line
}

# An action at a desk: act_<name>(state, action) gives the next `doc`, or with `moves` the next
# state. `takes`: the parts of the action besides its name.
register_action <- function(name, takes = character(), moves = FALSE) {
  registered$actions[[name]] <- list(takes = takes, moves = moves)
}

# The registered step of that name, done to `x`.
run_step <- function(x, name, args) do.call(registered_function(name), c(list(x), args))

# Registered functions by their names, looked up when they are needed.
registered_function <- function(name) get(name, envir = topenv(), mode = "function")
