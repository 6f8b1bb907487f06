# Lints the package's R code by .lintr; any finding fails.
found <- c(lintr::lint_package("."), lintr::lint_dir("tools"), lintr::lint_dir("bench"))
print(found)
quit(status = as.integer(length(found) > 0))
