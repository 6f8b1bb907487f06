#include "glue.h"

#include "core/gaussian.h"
#include "core/median.h"
#include "core/shrink.h"

// [[Rcpp::export]]
Rcpp::NumericMatrix core_median(const Rcpp::NumericMatrix& pixels, int rx, int ry) {
  Rcpp::NumericMatrix out(Rcpp::no_init(pixels.nrow(), pixels.ncol()));
  bm::median(plane(pixels), writable(out), static_cast<std::size_t>(rx), static_cast<std::size_t>(ry), pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_gaussian(const Rcpp::NumericMatrix& pixels, double sigma_x, double sigma_y) {
  Rcpp::NumericMatrix out(Rcpp::no_init(pixels.nrow(), pixels.ncol()));
  bm::gaussian(plane(pixels), writable(out), sigma_x, sigma_y, pause_for_user);
  return out;
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_shrink(const Rcpp::NumericMatrix& pixels, double times, int rows, int cols) {
  Rcpp::NumericMatrix out(Rcpp::no_init(rows, cols));
  bm::shrink(plane(pixels), writable(out), times);
  return out;
}
