#include "glue.h"

#include "core/grey.h"

// Changes the matrix it is given, which must be a decoder's fresh result: a copy would cost as much as decoding.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_levels_of_shares(Rcpp::NumericMatrix shares, double top) {
  bm::shares_to_levels(shares.begin(), static_cast<std::size_t>(shares.size()), top);
  return shares;
}

// Pixels as [row, col, channel >= 3]; coloured pixels are counted beside.
// [[Rcpp::export]]
Rcpp::List core_levels_of_colours(const Rcpp::NumericVector& colours, int rows, int cols, const Rcpp::NumericVector& weight,
                                  double top, double spread) {
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  const std::size_t n = static_cast<std::size_t>(out.size());
  const double* c = colours.begin();
  const double coloured = bm::colours_to_levels(c, c + n, c + 2 * n, out.begin(), n, weight.begin(), top, spread);
  return Rcpp::List::create(Rcpp::Named("grey") = out, Rcpp::Named("coloured") = coloured / static_cast<double>(n));
}
