# Makes tests/testthat/damaged: small files of every kind of damage that is looked for, and
# damaged.csv, which says how each is read and what must be said of it. Needs jpegtran (Debian:
# libjpeg-turbo-progs) for codings that R cannot write.
suppressPackageStartupMessages(library(bemrick))
source("tests/testthat/helper-tiff.R")
dir <- "tests/testthat/damaged"
unlink(dir, recursive = TRUE)
dir.create(dir)
index <- list()
keep <- function(name, bytes, says, reader = "read_field") {
  if (is.character(bytes)) bytes <- charToRaw(paste0(paste(bytes, collapse = "\n"), "\n"))
  writeBin(bytes, file.path(dir, name))
  index[[length(index) + 1]] <<- data.frame(file = name, reader = reader, says = says)
}
bytes_of <- function(file) readBin(file, "raw", file.size(file))
set.seed(5)
grey <- round(
  outer(1:40, 1:48, function(y, x) 128 + 60 * sin(x / 5) + 50 * cos(y / 7)) +
    stats::rnorm(40 * 48, 0, 4)
)

# ---- PNG
# ---
png <- png::writePNG(grey / 255, dpi = 254, text = c(Comment = "scale 0.5 um"))
find <- function(bytes, what) grepRaw(what, bytes, fixed = TRUE)
flip <- function(bytes, at) {
  bytes[at] <- xor(bytes[at], as.raw(1))
  bytes
}
keep("png-scale-checksum.png", flip(png, find(png, "pHYs") + 6), "checksum")
keep("png-text-checksum.png", flip(png, find(png, "tEXt") + 14), "checksum")
keep("png-pixel-checksum.png", flip(png, find(png, "IDAT") + 30), "checksum")
keep("png-header-checksum.png", flip(png, find(png, "IHDR") + 7), "checksum")
keep("png-cut.png", utils::head(png, length(png) %/% 2), "cut short")
keep("png-no-end.png", utils::head(png, -12), "cut short")
header <- png[find(png, "IHDR") - 4 + 0:24]
keep(
  "png-two-headers.png", append(png, header, find(png, "IHDR") + 20),
  "does not begin with a PNG header"
)
keep("png-chunk-beyond.png", replace(png, find(png, "IDAT") - 4, as.raw(0x7f)), "cut short")

# ---- JPEG
# ---
plain <- jpeg::writeJPEG(grey / 255, quality = 0.95)
tran <- function(...) {
  from <- tempfile()
  to <- tempfile()
  writeBin(plain, from)
  stopifnot(system2("jpegtran", c(..., "-outfile", to, from)) == 0)
  bytes_of(to)
}
n <- length(plain)
keep("jpeg-hole.jpg", plain[-(n %/% 2 + 0:60)], "data|restart|values|codes")
keep("jpeg-cut-end-put-back.jpg", c(utils::head(plain, n * 0.8), as.raw(c(0xff, 0xd9))), "missing")
keep("jpeg-cut.jpg", utils::head(plain, n * 0.8), "cut short|missing")
keep("jpeg-surplus.jpg", append(plain, as.raw(1:40), n - 2), "more data")
restarts <- tran("-restart", "1B")
marks <- gregexpr(
  "\\xff[\\xd0-\\xd7]", rawToChar(replace(restarts, restarts == 0, as.raw(1))), useBytes = TRUE,
  perl = TRUE
)[[
  1
]]
keep(
  "jpeg-restart-order.jpg", replace(restarts, marks[3] + 1, restarts[marks[5] + 1]), "restart marks"
)
keep("jpeg-restart-lost.jpg", restarts[-seq(marks[3], marks[4] - 1)], "restart marks")
progressive <- tran("-progressive")
scans <- gregexpr(
  "\\xff\\xda", rawToChar(replace(progressive, progressive == 0, as.raw(1))), useBytes = TRUE,
  perl = TRUE
)[[
  1
]]
keep(
  "jpeg-scan-missing.jpg",
  c(utils::head(progressive, scans[length(scans)] - 1), as.raw(c(0xff, 0xd9))), "missing"
)
keep("jpeg-arithmetic.jpg", tran("-arithmetic"), "coded in a way")
keep(
  "jpeg-table-damaged.jpg", replace(plain, find(plain, as.raw(c(0xff, 0xc4))) + 5, as.raw(200)),
  "header|tables"
)

# ---- TIFF
# ---
made <- function(...) bytes_of(tiff_made(grey, ...))
keep("tiff-tile-wide.tif", made(tile = 16, tags = list("322" = 2^24)), "impossible size")
keep("tiff-tile-high.tif", made(tile = 16, tags = list("323" = 2^31)), "impossible size")
keep("tiff-tile-odd.tif", made(tile = 16, tags = list("322" = 20)), "impossible size")
keep(
  "tiff-tiles-few.tif", made(tile = 16, tags = list("324" = c(8, 300), "325" = c(256, 256))),
  "its size needs"
)
keep("tiff-stray-tile-tag.tif", made(tags = list("322" = 16)), "half in strips")
keep("tiff-strips-few.tif", made(tags = list("278" = 10)), "its size needs 4")
keep("tiff-strip-short.tif", made(tags = list("279" = 900)), "data are missing")
keep("tiff-strip-in-header.tif", made(tags = list("273" = 0)), "none can be")
keep("tiff-strip-beyond.tif", made(tags = list("273" = 2^31)), "cut short")
keep("tiff-strip-rows-none.tif", made(tags = list("278" = 0)), "no height")
keep("tiff-compression-unknown.tif", made(tags = list("259" = 4711)), "compression")
keep("tiff-no-colours.tif", made(photometric = 3), "table of colours")
keep("tiff-few-colours.tif", made(photometric = 2), "too few")
keep("tiff-depths-differ.tif", made(tags = list("258" = c(8, 16))), "different depths")
keep("tiff-empty-number.tif", made(tags = list("278" = numeric())), "empty places")
deflated <- tiff::writeTIFF(grey / 255, raw(), 8L, "deflate")
whole <- tempfile(fileext = ".tif")
writeBin(deflated, whole)
strip <- bemrick:::tiff_pages(whole)[[1]]
end <- strip$strip_at[1] + strip$strip_bytes[1]
keep("tiff-deflate-checksum.tif", flip(deflated, end - 1), "damaged")
keep(
  "tiff-deflate-pixel.tif", flip(deflated, strip$strip_at[1] + strip$strip_bytes[1] %/% 2),
  "damaged"
)
lzw <- tiff::writeTIFF(grey / 255, raw(), 8L, "LZW")
keep("tiff-cut.tif", utils::head(lzw, length(lzw) %/% 2), "cut short")

# ---- text
# ---
head <- "batch,sample,field,image,calibration"
keep("list-row-short.csv", c(head, "a,b,1,x.png"), "line 2 has 4 cells", "read_batch_list")
keep(
  "list-row-long.csv", c(head, rep("a,b,1,x.png,", 6), "a,b,1,x.png,,,"), "line 8 has 7 cells",
  "read_batch_list"
)
keep("list-quote-open.csv", c(head, "a,\"b,1,x.png,"), "comma-separated", "read_batch_list")
keep("list-no-rows.csv", head, "no row", "read_batch_list")
keep(
  "method-nested.yml", c("bemrick: method 1", paste0("steps: ", strrep("[", 500))), "nested",
  "read_method"
)
keep("method-no-yaml.yml", c("bemrick: method 1", "steps: ["), "not valid YAML", "read_method")
keep("method-kind.yml", c("bemrick: spec 1", "steps: []"), "not a method file", "read_method")
keep(
  "spec-decision-word.yml",
  c("bemrick: spec 1", "product: P", "decision: guarded", "limits: [porosity: {max: 3 %}]"),
  "keys of its own", "read_spec"
)
keep(
  "spec-needs-word.yml",
  c("bemrick: spec 1", "product: P", "needs: many", "limits: [porosity: {max: 3 %}]"),
  "keys of its own", "read_spec"
)
keep(
  "calibration-image-word.yml", c("bemrick: calibration 1", "pixel: 1 um", "image: x"), "width",
  "read_calibration"
)
keep(
  "calibration-list-name.yml", c("bemrick: calibration 1", "pixel: 1 um", "name: [a, b]"),
  "one text", "read_calibration"
)
keep(
  "outlines-cut.geojson", "{\"type\":\"FeatureCollection\",\"features\":[{\"type\":\"Fea",
  "not valid JSON", "read_outlines"
)
shapeless <- paste0(
  "{\"type\":\"FeatureCollection\",",
  "\"features\":[{\"id\":\"x\",\"geometry\":{\"coordinates\":[1,2]}}]}"
)
keep("outlines-shape.geojson", shapeless, "not an outline", "read_outlines")
keep("outlines-kind.geojson", "[1,2,3]", "not hold outlines", "read_outlines")
utils::write.csv(do.call(rbind, index), file.path(dir, "damaged.csv"), row.names = FALSE)
