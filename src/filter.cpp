#include "glue.h"

#include "core/filter/box.h"
#include "core/filter/convolve.h"
#include "core/filter/gaussian.h"
#include "core/filter/gaussian_recursive.h"
#include "core/filter/gradient.h"
#include "core/filter/grey_morphology.h"
#include "core/filter/median.h"
#include "core/filter/nonlocal.h"
#include "core/field/shrink.h"

namespace {
Rcpp::NumericMatrix like(const Rcpp::NumericMatrix& m) {
  return fresh<Rcpp::NumericMatrix>(m.nrow(), m.ncol());
}
std::size_t size(int n) { return static_cast<std::size_t>(n); }
}  // namespace

// [[Rcpp::export]]
Rcpp::NumericMatrix core_median(const Rcpp::NumericMatrix& pixels, int rx, int ry,
                                int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  bm::median(plane(pixels), writable(out), size(rx), size(ry), threads, pause_for_user);
  return out;
}

// `rows` x `cols` of a picture from (top, left) on, which R itself takes three times as long for.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_part(const Rcpp::NumericMatrix& pixels, int top, int left, int rows,
                              int cols) {
  if (top < 0 || left < 0 || top + rows > pixels.nrow() || left + cols > pixels.ncol())
    Rcpp::stop("a part beyond the picture");
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  const bm::Plane<const double> from = plane(pixels);
  for (int x = 0; x < cols; ++x) {
    const double* column = from.col(static_cast<std::size_t>(left + x)) + top;
    std::copy(column, column + rows, out.begin() + static_cast<R_xlen_t>(x) * rows);
  }
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_gaussian(const Rcpp::NumericMatrix& pixels, double sigma_x, double sigma_y,
                                  int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  // wide ones recursively: their time does not grow with sigma; narrow ones exactly
  const bool wide = std::max(sigma_x, sigma_y) > 6 && std::min(sigma_x, sigma_y) > 3;
  if (wide)
    bm::gaussian_recursive(plane(pixels), writable(out), sigma_x, sigma_y, threads, pause_for_user);
  else
    bm::gaussian(plane(pixels), writable(out), sigma_x, sigma_y, threads, pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_box(const Rcpp::NumericMatrix& pixels, int rx, int ry, int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  bm::box_mean(plane(pixels), writable(out), size(rx), size(ry), threads, pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_nonlocal(const Rcpp::NumericMatrix& pixels, int reach_x, int reach_y,
                                  double noise, int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  bm::nonlocal_means(plane(pixels), writable(out), {reach_x, reach_y, noise}, threads,
                     pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_convolve(const Rcpp::NumericMatrix& pixels,
                                  const Rcpp::NumericMatrix& kernel, int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  bm::convolve(plane(pixels), writable(out), plane(kernel), threads, pause_for_user);
  return out;
}

// `what`: magnitude, direction, x or y.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_sobel(const Rcpp::NumericMatrix& pixels, double scale_y,
                               const std::string& what, int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  const bm::Slope slope = what == "magnitude"   ? bm::Slope::magnitude
                          : what == "direction" ? bm::Slope::direction
                          : what == "x"         ? bm::Slope::x
                                                : bm::Slope::y;
  bm::sobel(plane(pixels), writable(out), scale_y, slope, threads, pause_for_user);
  return out;
}

// Minimum (lowest) or maximum under the element.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_grey_extreme(const Rcpp::NumericMatrix& pixels, bool lowest,
                                      const std::string& shape, double rx, double ry,
                                      int threads = 1) {
  Rcpp::NumericMatrix out = like(pixels);
  const std::vector<bm::Chord> chords = bm::element(shape_named(shape), rx, ry);
  if (lowest)
    bm::grey_extreme<true>(plane(pixels), writable(out), chords, threads, pause_for_user);
  else
    bm::grey_extreme<false>(plane(pixels), writable(out), chords, threads, pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_shrink(const Rcpp::NumericMatrix& pixels, double times, int rows,
                                int cols) {
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  bm::shrink(plane(pixels), writable(out), times);
  return out;
}
