#include "glue.h"

#include "core/histogram.h"
#include "core/levels.h"
#include "core/otsu.h"

// [[Rcpp::export]]
std::string core_levels(const Rcpp::NumericMatrix& pixels) {
  switch (bm::levels_of(plane(pixels))) {
    case bm::Levels::bits8: return "8-bit";
    case bm::Levels::bits16: return "16-bit";
    default: return "real";
  }
}

// [[Rcpp::export]]
Rcpp::NumericVector core_histogram(const Rcpp::NumericMatrix& pixels, int levels) {
  return Rcpp::wrap(bm::histogram(plane(pixels), static_cast<std::size_t>(levels)));
}

// [[Rcpp::export]]
double core_otsu(const std::vector<double>& counts) { return bm::otsu(counts); }

// TRUE where low <= grey <= high.
// [[Rcpp::export]]
Rcpp::LogicalMatrix core_between(const Rcpp::NumericMatrix& pixels, double low, double high) {
  Rcpp::LogicalMatrix out(Rcpp::no_init(pixels.nrow(), pixels.ncol()));
  const double* v = pixels.begin();
  int* to = out.begin();
  const std::size_t n = static_cast<std::size_t>(pixels.size());
  for (std::size_t i = 0; i < n; ++i) to[i] = (v[i] >= low) & (v[i] <= high);
  return out;
}
