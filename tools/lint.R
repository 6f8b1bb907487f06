# Lints the package's R code by .lintr, and spells its help pages, vignettes and README by the words
# of inst/WORDLIST; any finding fails.
found <- c(lintr::lint_package("."), lintr::lint_dir("tools"), lintr::lint_dir("bench"))
print(found)
misspelt <- spelling::spell_check_package(".")
if (nrow(misspelt) > 0) print(misspelt)
quit(status = as.integer(length(found) > 0 || nrow(misspelt) > 0))
