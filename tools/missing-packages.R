# Prints the packages that are missing or older than DESCRIPTION asks for; with --load also those
# that do not load. Arguments name packages; without any, those of DESCRIPTION.
args <- commandArgs(trailingOnly = TRUE)
load <- "--load" %in% args
named <- setdiff(args, "--load")
fields <- read.dcf("DESCRIPTION", fields = c("Imports", "Suggests", "LinkingTo"))
wanted <- if (length(named)) named else trimws(unlist(strsplit(fields[!is.na(fields)], ",")))
# compiled from source, and of use with one kind of database only: tools/setup-postgres.sh
if (!length(named)) wanted <- grep("^RPostgres", wanted, value = TRUE, invert = TRUE)
name <- sub("[ (].*", "", wanted)
least <- ifelse(grepl(">=", wanted), sub(".*>= *([^)]*)\\).*", "\\1", wanted), "0")
have <- rownames(installed.packages(fields = character()))
good <- vapply(seq_along(name), function(k) {
  name[k] %in% have && utils::packageVersion(name[k]) >= least[k] &&
    (!load || suppressWarnings(requireNamespace(name[k], quietly = TRUE)))
}, NA)
cat(unique(name[!good]), sep = "\n")
