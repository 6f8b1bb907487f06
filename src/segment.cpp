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

namespace {
typedef Rcpp::XPtr<bm::TileMiddles> Tiles;

const int* left_out_of(const Rcpp::NumericMatrix& pixels, const Rcpp::LogicalMatrix& outside) {
  return outside.size() == pixels.size() ? outside.begin() : nullptr;
}

Rcpp::NumericMatrix as_columns(const std::vector<bm::Middles>& tiles) {
  Rcpp::NumericMatrix out(3, static_cast<int>(tiles.size()));
  for (std::size_t k = 0; k < tiles.size(); ++k) {
    const int at = static_cast<int>(k);
    out(0, at) = tiles[k].share;
    out(1, at) = tiles[k].low;
    out(2, at) = tiles[k].high;
  }
  return out;
}
}  // namespace

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
                                      const Rcpp::LogicalMatrix& outside, double level, int levels,
                                      const std::vector<int>& rows, const std::vector<int>& cols) {
  bm::TileMiddles tiles(level, static_cast<std::size_t>(levels), rows, cols);
  const bm::Plane<const double> all = plane(pixels);
  tiles.add(all, left_out_of(pixels, outside), 0, 0, all.rows, all.cols, 0, 0);
  return as_columns(tiles.found());
}

// The same of a picture that comes in parts.
// [[Rcpp::export]]
SEXP core_tiles(double level, int levels, const std::vector<int>& rows,
                const std::vector<int>& cols) {
  return Tiles(new bm::TileMiddles(level, static_cast<std::size_t>(levels), rows, cols));
}

// `rows` x `cols` of the pixels, from those skipped on, which lie at (top, left) of the picture.
// [[Rcpp::export]]
void core_tiles_add(SEXP tiles, const Rcpp::NumericMatrix& pixels,
                    const Rcpp::LogicalMatrix& outside, int skip_rows, int skip_cols, int rows,
                    int cols, int top, int left) {
  if (skip_rows + rows > pixels.nrow() || skip_cols + cols > pixels.ncol())
    Rcpp::stop("a window beyond the pixels");
  auto n = [](int value) { return static_cast<std::size_t>(value); };
  Tiles(tiles)->add(plane(pixels), left_out_of(pixels, outside), n(skip_rows), n(skip_cols),
                    n(rows), n(cols), n(top), n(left));
}

// [[Rcpp::export]]
Rcpp::NumericMatrix core_tiles_middles(SEXP tiles) { return as_columns(Tiles(tiles)->found()); }

// Of every cut between two levels: the contrasts of the pairs of neighbours that it parts, summed,
// and the number of these pairs, of every `step`th column. `outside` may be empty.
// [[Rcpp::export]]
Rcpp::List core_edge_contrast(const Rcpp::NumericMatrix& pixels, const Rcpp::LogicalMatrix& outside,
                              int levels, int step = 1, int threads = 1) {
  const int* left_out = left_out_of(pixels, outside);
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
