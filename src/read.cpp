#include "glue.h"

#include "core/field/grey.h"
#include "core/field/jpeg_check.h"

// Changes the matrix it is given, which must be a decoder's fresh result: a copy would cost as much
// as decoding.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_levels_of_shares(Rcpp::NumericMatrix shares, double top) {
  bm::shares_to_levels(shares.begin(), static_cast<std::size_t>(shares.size()), top);
  return shares;
}

// Pixels as [row, col, channel >= 3]; coloured pixels are counted beside.
// [[Rcpp::export]]
Rcpp::List core_levels_of_colours(const Rcpp::NumericVector& colours, int rows, int cols,
                                  const Rcpp::NumericVector& weight, double top, double spread) {
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  const std::size_t n = static_cast<std::size_t>(out.size());
  const double* c = colours.begin();
  const double coloured =
      bm::colours_to_levels(c, c + n, c + 2 * n, out.begin(), n, weight.begin(), top, spread);
  return Rcpp::List::create(Rcpp::Named("grey") = out,
                            Rcpp::Named("coloured") = coloured / static_cast<double>(n));
}

// The same from a decoder's packed colours, four bytes a pixel, line by line: a quarter of the
// memory.
// [[Rcpp::export]]
Rcpp::List core_levels_of_packed(const Rcpp::IntegerVector& packed, int rows, int cols,
                                 const Rcpp::NumericVector& weight, double spread) {
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  const double coloured =
      bm::packed_to_levels(packed.begin(), writable(out), weight.begin(), spread);
  return Rcpp::List::create(Rcpp::Named("grey") = out,
                            Rcpp::Named("coloured") = coloured / static_cast<double>(out.size()));
}

// Size and channels of a JPEG stream, and what is damaged in it ("" when it is whole). `tables`: a
// stream of tables only that comes before it, or nothing.
// [[Rcpp::export]]
Rcpp::List core_check_jpeg(const Rcpp::RawVector& bytes, const Rcpp::RawVector& tables,
                           double largest) {
  bm::JpegCheck check(largest);
  std::string damage;
  try {
    if (tables.size() > 0)
      check.read(tables.begin(), static_cast<std::size_t>(tables.size()), true);
    check.read(bytes.begin(), static_cast<std::size_t>(bytes.size()));
  } catch (const bm::JpegDamage& e) { damage = e.what(); }
  return Rcpp::List::create(
      Rcpp::Named("width") = check.width, Rcpp::Named("height") = check.height,
      Rcpp::Named("channels") = check.channels, Rcpp::Named("damage") = damage);
}
