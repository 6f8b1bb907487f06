// Pictures as they are shown: tiles with outlines over them, greys for a page.
#include "glue.h"

#include "core/common/levels.h"
#include "core/draw/lines.h"
#include "core/draw/numbers.h"
#include "core/draw/raster.h"
#include "core/field/by_row.h"

namespace {
// A native raster lies line by line.
bm::Raster raster(Rcpp::IntegerMatrix& m) {
  return {reinterpret_cast<std::uint32_t*>(m.begin()), m.nrow(), m.ncol()};
}

// Made what it is here: setting a class in R copies the pixels.
Rcpp::IntegerMatrix fresh_raster(int rows, int cols) {
  Rcpp::IntegerMatrix out = fresh<Rcpp::IntegerMatrix>(rows, cols);
  out.attr("class") = "nativeRaster";
  out.attr("channels") = 4;
  return out;
}
}  // namespace

// A picture in 256 greys as graphics devices take it: opaque colours as integers, by rows.
// [[Rcpp::export]]
Rcpp::IntegerMatrix core_native_raster(const Rcpp::NumericMatrix& pixels, double top) {
  Rcpp::IntegerMatrix out = fresh_raster(pixels.nrow(), pixels.ncol());
  bm::grey_raster(plane(pixels), 255 / top, raster(out));
  return out;
}

// Rings drawn into the raster: `size` points each, one behind the other; the raster's first pixel
// is (left, top) of what is shrunk to 1 / `times`. `width`, `on` and `off` are those of each ring's
// line.
// [[Rcpp::export]]
void core_draw_rings(Rcpp::IntegerMatrix picture, const Rcpp::NumericVector& x,
                     const Rcpp::NumericVector& y, const Rcpp::IntegerVector& size,
                     const Rcpp::IntegerVector& colour, const Rcpp::NumericVector& width,
                     const Rcpp::NumericVector& on, const Rcpp::NumericVector& off, double left = 0,
                     double top = 0, double times = 1) {
  bm::Drawing drawing(raster(picture));
  std::vector<double> px, py;
  R_xlen_t at = 0;
  for (R_xlen_t k = 0; k < size.size(); ++k) {
    px.clear();
    py.clear();
    for (int i = 0; i < size[k]; ++i, ++at) {
      px.push_back(x[at] / times - left);
      py.push_back(y[at] / times - top);
    }
    drawing.ring(px.data(), py.data(), px.size(),
                 {static_cast<std::uint32_t>(colour[k]), width[k], on[k], off[k]});
  }
}

// [[Rcpp::export]]
Rcpp::IntegerMatrix core_white_raster(int rows, int cols) {
  Rcpp::IntegerMatrix out = fresh_raster(rows, cols);
  std::fill(out.begin(), out.end(), -1);
  return out;
}

// A picture put on a page at another size, in the box c(left, top, width, height).
// [[Rcpp::export]]
void core_put_scaled(Rcpp::IntegerMatrix page, const Rcpp::IntegerMatrix& picture,
                     const Rcpp::NumericVector& box) {
  Rcpp::IntegerMatrix from = picture;  // the same memory, only read
  bm::put_scaled(raster(from), raster(page), box[0], box[1], box[2], box[3]);
}

// Boxes of what was written on white put on the page: their corners there and here, their sizes,
// and how much of 255 the page is paled under each.
// [[Rcpp::export]]
void core_put_letters(Rcpp::IntegerMatrix page, const Rcpp::IntegerMatrix& letters,
                      const Rcpp::IntegerVector& from_x, const Rcpp::IntegerVector& from_y,
                      const Rcpp::IntegerVector& to_x, const Rcpp::IntegerVector& to_y,
                      const Rcpp::IntegerVector& cols, const Rcpp::IntegerVector& rows,
                      const Rcpp::IntegerVector& pale) {
  Rcpp::IntegerMatrix from = letters;  // the same memory, only read
  for (R_xlen_t k = 0; k < cols.size(); ++k) {
    if (from_x[k] < 0 || from_y[k] < 0 || from_x[k] + cols[k] > letters.ncol() ||
        from_y[k] + rows[k] > letters.nrow())
      Rcpp::stop("letters beyond what was written");
    bm::put_letters(raster(from), raster(page), from_x[k], from_y[k], to_x[k], to_y[k], cols[k],
                    rows[k], static_cast<std::uint32_t>(pale[k]));
  }
}

// [[Rcpp::export]]
Rcpp::IntegerMatrix core_halve(Rcpp::IntegerMatrix picture) {
  Rcpp::IntegerMatrix out = fresh_raster((picture.nrow() + 1) / 2, (picture.ncol() + 1) / 2);
  bm::halve(raster(picture), raster(out));
  return out;
}

// `rows` x `cols` pixels from (top, left) on.
// [[Rcpp::export]]
Rcpp::IntegerMatrix core_raster_part(const Rcpp::IntegerMatrix& picture, int top, int left,
                                     int rows, int cols) {
  if (top < 0 || left < 0 || top + rows > picture.nrow() || left + cols > picture.ncol())
    Rcpp::stop("a part beyond the picture");
  Rcpp::IntegerMatrix out = fresh_raster(rows, cols);
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

// At most `most` numbers of the objects in `order` (from 1): which, where, and whether beside.
// [[Rcpp::export]]
Rcpp::List core_place_numbers(const Rcpp::IntegerVector& order, const Rcpp::NumericVector& x,
                              const Rcpp::NumericVector& y, const Rcpp::NumericVector& box_x,
                              const Rcpp::NumericVector& box_y,
                              const Rcpp::NumericVector& half_width, double half_height,
                              double width, double height, int most) {
  bm::PlaceNumbers numbers({x.begin(), y.begin(), box_x.begin(), box_y.begin(), half_width.begin(),
                            static_cast<std::size_t>(x.size()), half_height, width, height});
  for (const int of : order) {
    if (static_cast<int>(numbers.kept.size()) >= most) break;
    numbers.place(static_cast<std::size_t>(of - 1));
  }
  const R_xlen_t n = static_cast<R_xlen_t>(numbers.kept.size());
  Rcpp::IntegerVector of(n);
  Rcpp::NumericVector at_x(n), at_y(n);
  Rcpp::LogicalVector beside(n);
  for (R_xlen_t k = 0; k < n; ++k) {
    const bm::Spot& spot = numbers.kept[static_cast<std::size_t>(k)];
    of[k] = static_cast<int>(spot.of) + 1;
    at_x[k] = spot.x;
    at_y[k] = spot.y;
    beside[k] = spot.beside;
  }
  return Rcpp::List::create(Rcpp::Named("of") = of, Rcpp::Named("x") = at_x,
                            Rcpp::Named("y") = at_y, Rcpp::Named("beside") = beside);
}
