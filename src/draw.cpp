// Pictures as they are shown: tiles with outlines over them, greys for a page.
#include "glue.h"

#include "core/common/levels.h"
#include "core/disk/draw.h"
#include "core/field/by_row.h"

namespace {
// A native raster lies line by line.
bm::Raster raster(Rcpp::IntegerMatrix& m) {
  return {reinterpret_cast<std::uint32_t*>(m.begin()), m.nrow(), m.ncol()};
}
}  // namespace

// Rings drawn into the raster: `size` points each, one behind the other; the raster's first pixel
// is (left, top) of what is shrunk to 1 / `times`.
// [[Rcpp::export]]
void core_draw_rings(Rcpp::IntegerMatrix picture, const Rcpp::NumericVector& x,
                     const Rcpp::NumericVector& y, const Rcpp::IntegerVector& size,
                     const Rcpp::IntegerVector& colour, const Rcpp::LogicalVector& dashed,
                     double left, double top, double times) {
  std::vector<double> px, py;
  R_xlen_t at = 0;
  for (R_xlen_t k = 0; k < size.size(); ++k) {
    px.clear();
    py.clear();
    for (int i = 0; i < size[k]; ++i, ++at) {
      px.push_back(x[at] / times - left);
      py.push_back(y[at] / times - top);
    }
    bm::draw_ring(raster(picture), px.data(), py.data(), px.size(),
                  static_cast<std::uint32_t>(colour[k]), dashed[k] == TRUE);
  }
}

// [[Rcpp::export]]
Rcpp::IntegerMatrix core_halve(Rcpp::IntegerMatrix picture) {
  Rcpp::IntegerMatrix out =
      fresh<Rcpp::IntegerMatrix>((picture.nrow() + 1) / 2, (picture.ncol() + 1) / 2);
  bm::halve(raster(picture), raster(out));
  return out;
}

// `rows` x `cols` pixels from (top, left) on.
// [[Rcpp::export]]
Rcpp::IntegerMatrix core_raster_part(const Rcpp::IntegerMatrix& picture, int top, int left,
                                     int rows, int cols) {
  if (top < 0 || left < 0 || top + rows > picture.nrow() || left + cols > picture.ncol())
    Rcpp::stop("a part beyond the picture");
  Rcpp::IntegerMatrix out = fresh<Rcpp::IntegerMatrix>(rows, cols);
  for (int y = 0; y < rows; ++y) {
    const int* line = picture.begin() + static_cast<R_xlen_t>(top + y) * picture.ncol() + left;
    std::copy(line, line + cols, out.begin() + static_cast<R_xlen_t>(y) * cols);
  }
  return out;
}

// A part put in its place.
// [[Rcpp::export]]
void core_raster_put(Rcpp::IntegerMatrix picture, const Rcpp::IntegerMatrix& part, int top,
                     int left) {
  if (top < 0 || left < 0 || top + part.nrow() > picture.nrow() ||
      left + part.ncol() > picture.ncol())
    Rcpp::stop("a part beyond the picture");
  for (int y = 0; y < part.nrow(); ++y) {
    const int* line = part.begin() + static_cast<R_xlen_t>(y) * part.ncol();
    std::copy(line, line + part.ncol(),
              picture.begin() + static_cast<R_xlen_t>(top + y) * picture.ncol() + left);
  }
}

// Greys row by row, or means of squares of `times` pixels: one byte each where all are whole levels
// of 8 bits and `top` says that they are meant as such, else two; level = code / scale.
// [[Rcpp::export]]
Rcpp::List core_greys_by_row(const Rcpp::NumericMatrix& grey, double top, int times = 1) {
  const bool small = top <= 255 && bm::levels_of(plane(grey)) == bm::Levels::bits8;
  const double scale = small ? 1 : 65535 / top;
  const R_xlen_t rows = (grey.nrow() + times - 1) / times, cols = (grey.ncol() + times - 1) / times;
  Rcpp::RawVector bytes(Rcpp::no_init(rows * cols * (small ? 1 : 2)));
  auto fill = [&](auto* out, double most) {
    if (times == 1)
      bm::greys_by_row(plane(grey), scale, most, out);
    else
      bm::shrunk_by_row(plane(grey), static_cast<std::size_t>(times), scale, most, out);
  };
  if (small)
    fill(static_cast<std::uint8_t*>(bytes.begin()), 255);
  else
    fill(reinterpret_cast<std::uint16_t*>(bytes.begin()), 65535);
  return Rcpp::List::create(Rcpp::Named("bytes") = bytes, Rcpp::Named("bits") = small ? 8 : 16,
                            Rcpp::Named("scale") = scale);
}
