#include "glue.h"

#include "core/filter/box.h"
#include "core/segment/classes.h"
#include "core/segment/contrast.h"
#include "core/field/histogram.h"
#include "core/common/levels.h"
#include "core/segment/local.h"
#include "core/segment/middles.h"
#include "core/segment/otsu.h"
#include "core/common/parallel.h"

// [[Rcpp::export]]
std::string core_levels(const Rcpp::NumericMatrix& pixels) {
  switch (bm::levels_of(plane(pixels))) {
    case bm::Levels::bits8:
      return "8-bit";
    case bm::Levels::bits16:
      return "16-bit";
    default:
      return "real";
  }
}

// [[Rcpp::export]]
Rcpp::NumericVector core_histogram(const Rcpp::NumericMatrix& pixels, int levels, int threads = 1) {
  return Rcpp::wrap(bm::histogram(plane(pixels), static_cast<std::size_t>(levels), threads));
}

// Share above a level, and medians below and above it, of tiles: one column each, those of the left
// column of tiles first. Tiles end before the rows and columns given; `outside` may be empty.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_tile_middles(const Rcpp::NumericMatrix& pixels,
                                      const Rcpp::LogicalMatrix& outside, double level,
                                      const std::vector<int>& rows, const std::vector<int>& cols) {
  Rcpp::NumericMatrix out(3, static_cast<int>(rows.size() * cols.size()));
  const int* left_out = outside.size() == pixels.size() ? outside.begin() : nullptr;
  int k = 0, left = 0;
  for (int right : cols) {
    int top = 0;
    for (int bottom : rows) {
      const bm::Middles m = bm::middles(plane(pixels), left_out, level, top, bottom, left, right);
      out(0, k) = m.share;
      out(1, k) = m.low;
      out(2, k++) = m.high;
      top = bottom;
    }
    left = right;
  }
  return out;
}

// Of every cut between two levels: the contrasts of the pairs of neighbours that it parts, summed,
// and the number of these pairs, of every `step`th column. `outside` may be empty.
// [[Rcpp::export]]
Rcpp::List core_edge_contrast(const Rcpp::NumericMatrix& pixels, const Rcpp::LogicalMatrix& outside,
                              int levels, int step = 1, int threads = 1) {
  const int* left_out = outside.size() == pixels.size() ? outside.begin() : nullptr;
  const bm::EdgeContrast found =
      bm::edge_contrast(plane(pixels), left_out, static_cast<std::size_t>(levels),
                        static_cast<std::size_t>(step), threads);
  return Rcpp::List::create(Rcpp::Named("contrast") = found.contrast,
                            Rcpp::Named("pairs") = found.pairs);
}

// [[Rcpp::export]]
double core_otsu(const std::vector<double>& counts) { return bm::otsu(counts); }

// TRUE where low <= grey <= high.
// [[Rcpp::export]]
Rcpp::LogicalMatrix core_between(const Rcpp::NumericMatrix& pixels, double low, double high,
                                 int threads = 1) {
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(pixels.nrow(), pixels.ncol());
  const bm::Plane<const double> from = plane(pixels);
  const bm::Plane<int> to = writable(out);
  bm::over_columns(
      from.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t i = first * from.rows; i < last * from.rows; ++i)
          to.data[i] = (from.data[i] >= low) & (from.data[i] <= high);
      },
      [] {});
  return out;
}

// Highest level of every class but the last.
// [[Rcpp::export]]
std::vector<double> core_class_cuts(const std::vector<double>& counts, int classes) {
  return bm::ClassCuts(counts).cuts(static_cast<std::size_t>(classes));
}

// TRUE where a pixel is brighter (or darker) than its own level, which comes from mean m and
// standard deviation s about it: m + offset + slope * s, or m * (1 + slope * (s / range - 1)) when
// a range is given.
// [[Rcpp::export]]
Rcpp::LogicalMatrix core_local(const Rcpp::NumericMatrix& pixels, int rx, int ry, double reference,
                               double slope, double offset, double range, bool bright,
                               int threads = 1) {
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(pixels.nrow(), pixels.ncol());
  const auto in = plane(pixels);
  const auto to = writable(out);
  const bm::LocalLevel level{std::round(reference), slope, offset, range, bright};
  auto compare = [&](std::size_t x, const auto* values, const double* mean, const double* square) {
    bm::beyond_level(values, mean, square, level, to.col(x), in.rows);
  };
  bm::local_statistics(in, static_cast<std::size_t>(rx), static_cast<std::size_t>(ry),
                       level.reference, threads, compare, pause_for_user);
  return out;
}
