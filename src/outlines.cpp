#include "glue.h"

#include "core/outline/contour_measure.h"
#include "core/outline/fill_rings.h"
#include "core/outline/geojson.h"
#include "core/outline/inscribed.h"
#include "core/objects/outline.h"

namespace {
// Where the points of a ring count from.
int ring_x(const bm::Contour& ring) { return ring.x; }
int ring_y(const bm::Contour& ring) { return ring.y; }
int ring_x(const bm::Ring&) { return 0; }
int ring_y(const bm::Ring&) { return 0; }

// One row a point: the object's label, the ring's number, hole or not, and the point in pixels.
template <class Rings>
Rcpp::List outline_table(const Rings& rings) {
  std::size_t n = 0;
  for (const auto& r : rings) n += r.points.size();
  const R_xlen_t length = static_cast<R_xlen_t>(n);
  Rcpp::IntegerVector label(length), ring(length);
  Rcpp::LogicalVector hole(length);
  Rcpp::NumericVector x(length), y(length);
  R_xlen_t at = 0;
  for (std::size_t k = 0; k < rings.size(); ++k) {
    for (const auto& point : rings[k].points) {
      label[at] = rings[k].label;
      ring[at] = static_cast<int>(k + 1);
      hole[at] = rings[k].hole;
      x[at] = point.x + ring_x(rings[k]);
      y[at++] = point.y + ring_y(rings[k]);
    }
  }
  return Rcpp::List::create(Rcpp::Named("id") = label, Rcpp::Named("ring") = ring,
                            Rcpp::Named("hole") = hole, Rcpp::Named("x_px") = x,
                            Rcpp::Named("y_px") = y);
}
}  // namespace

// Corners along the pixel edges.
// [[Rcpp::export]]
Rcpp::List core_outlines(const Rcpp::IntegerMatrix& labels) {
  return outline_table(bm::outlines(plane(labels)));
}

// Points where the grey crosses `level`, as if a blur of variance `blur` had not been.
// [[Rcpp::export]]
Rcpp::List core_contours(const Rcpp::IntegerMatrix& labels, const Rcpp::NumericMatrix& grey,
                         double level, double blur = 0, int threads = 1) {
  return outline_table(
      bm::contours(plane(labels), plane(grey), level, blur, threads, pause_for_user));
}

// Area, perimeter, hull and Feret diameters of these outlines, and the outlines.
// [[Rcpp::export]]
Rcpp::List core_measure_contours(const Rcpp::IntegerMatrix& labels, const Rcpp::NumericMatrix& grey,
                                 double level, double blur, int count, double sx, double sy,
                                 int threads = 1) {
  const bm::MeasuredContours found = bm::measure_contours(plane(labels), plane(grey), level, blur,
                                                          count, sx, sy, threads, pause_for_user);
  const std::vector<bm::ContourMeasures>& m = found.measures;
  auto column = [&](double bm::ContourMeasures::*member) {
    Rcpp::NumericVector v(Rcpp::no_init(static_cast<R_xlen_t>(m.size())));
    for (std::size_t i = 0; i < m.size(); ++i) v[static_cast<R_xlen_t>(i)] = m[i].*member;
    return v;
  };
  return Rcpp::List::create(
      Rcpp::Named("area") = column(&bm::ContourMeasures::area),
      Rcpp::Named("perimeter") = column(&bm::ContourMeasures::perimeter),
      Rcpp::Named("feret_max") = column(&bm::ContourMeasures::feret_max),
      Rcpp::Named("feret_min") = column(&bm::ContourMeasures::feret_min),
      Rcpp::Named("feret_max_angle") = column(&bm::ContourMeasures::feret_max_angle),
      Rcpp::Named("feret_min_angle") = column(&bm::ContourMeasures::feret_min_angle),
      Rcpp::Named("smallest_box_length") = column(&bm::ContourMeasures::smallest_box_length),
      Rcpp::Named("smallest_box_width") = column(&bm::ContourMeasures::smallest_box_width),
      Rcpp::Named("hull_perimeter") = column(&bm::ContourMeasures::hull_perimeter),
      Rcpp::Named("hull_area") = column(&bm::ContourMeasures::hull_area),
      Rcpp::Named("outlines") = outline_table(found.outlines));
}

// Diameters of the largest circles inside these outlines; `depth`: distance to the ground.
// [[Rcpp::export]]
Rcpp::NumericVector core_inscribed(const Rcpp::IntegerMatrix& labels,
                                   const Rcpp::NumericMatrix& depth,
                                   const Rcpp::NumericMatrix& grey, double level, double blur,
                                   int count, double sx, double sy) {
  return Rcpp::wrap(bm::inscribed_circles(plane(labels), plane(depth), plane(grey), level, blur,
                                          count, sx, sy, pause_for_user));
}

// Outlines as features of a GeoJSON file: rings one behind the other, `size` corners each, of the
// polygon `piece` of their object; `head`, for every object, is its feature up to the geometry, and
// `rings` how many rings it has; coordinates with so many decimals.
// [[Rcpp::export]]
Rcpp::RawVector core_outline_features(const Rcpp::NumericVector& x, const Rcpp::NumericVector& y,
                                      const Rcpp::IntegerVector& size,
                                      const Rcpp::IntegerVector& piece,
                                      const Rcpp::CharacterVector& head,
                                      const Rcpp::IntegerVector& rings, int decimals) {
  std::string text;
  text.reserve(15 * static_cast<std::size_t>(x.size()));
  const double* px = x.begin();
  const double* py = y.begin();
  R_xlen_t at = 0;
  for (R_xlen_t k = 0; k < head.size(); ++k) {
    std::vector<bm::WrittenRing> own;
    for (int r = 0; r < rings[k]; ++r, ++at) {
      own.push_back({px, py, static_cast<std::size_t>(size[at]), piece[at]});
      px += size[at];
      py += size[at];
    }
    if (k) text += ",\n";
    text += CHAR(head[k]);
    bm::write_geometry(own.data(), own.data() + own.size(), decimals, text);
    text += '}';
  }
  return {text.begin(), text.end()};
}

// Labels of a picture from outlines: rings one after the other with their sizes and the number of
// the object each belongs to, those of one object together.
// [[Rcpp::export]]
Rcpp::IntegerMatrix core_fill_rings(const Rcpp::NumericVector& x, const Rcpp::NumericVector& y,
                                    const Rcpp::IntegerVector& size, const Rcpp::IntegerVector& id,
                                    int rows, int cols) {
  Rcpp::IntegerMatrix labels(rows, cols);
  bm::Crossings crossings(rows);
  R_xlen_t from = 0;
  for (R_xlen_t k = 0; k < size.size(); ++k) {
    crossings.add(x.begin() + from, y.begin() + from, static_cast<std::size_t>(size[k]));
    from += size[k];
    if (k + 1 == size.size() || id[k + 1] != id[k]) crossings.fill(writable(labels), id[k]);
  }
  return labels;
}
