// Pictures in TIFF files that are read part by part.
#include "glue.h"

#include "core/disk/tiff_file.h"

namespace {
typedef Rcpp::XPtr<bm::TiffFile> File;
}

// `page` from 1.
// [[Rcpp::export]]
SEXP core_tiff_open(const std::string& path, int page, const std::vector<double>& weights) {
  return File(new bm::TiffFile(path, page - 1, weights));
}

// `rows` x `cols` pixels from (top, left) on, counted from 0.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_tiff_read(SEXP file, int top, int left, int rows, int cols) {
  const File from(file);
  auto n = [](int value) { return static_cast<std::size_t>(value); };
  if (top < 0 || left < 0 || rows < 1 || cols < 1 || n(top) + n(rows) > from->height() ||
      n(left) + n(cols) > from->width())
    Rcpp::stop("a window beyond the picture");
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  from->read(n(top), n(left), writable(out));
  return out;
}
