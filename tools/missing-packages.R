# Prints the packages that are missing or older than DESCRIPTION asks for; with --load also those
# that do not load. Arguments name packages; without any, those of DESCRIPTION.
args <- commandArgs(trailingOnly = TRUE)
load <- "--load" %in% args
named <- setdiff(args, "--load")
fields <- read.dcf("DESCRIPTION", fields = c("Imports", "Suggests", "LinkingTo"))
wanted <- if (length(named)) named else trimws(unlist(strsplit(fields[!is.na(fields)], ",")))
# Compiled from source for minutes, and of use for one thing only: RPostgres for ledgers in
# PostgreSQL (tools/setup-postgres.sh), openxlsx2 for workbooks. The tests install them.
if (!length(named)) wanted <- grep("^(RPostgres|openxlsx2)", wanted, value = TRUE, invert = TRUE)
name <- sub("[ (].*", "", wanted)
least <- ifelse(grepl(">=", wanted), sub(".*>= *([^)]*)\\).*", "\\1", wanted), "0")
have <- rownames(installed.packages(fields = character()))
good <- vapply(seq_along(name), function(k) {
  name[k] %in% have && utils::packageVersion(name[k]) >= least[k] &&
    (!load || suppressWarnings(requireNamespace(name[k], quietly = TRUE)))
}, NA)
cat(unique(name[!good]), sep = "\n")
