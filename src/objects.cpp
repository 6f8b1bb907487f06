#include "glue.h"

#include "core/objects/apart.h"
#include "core/objects/boxes.h"
#include "core/mask/distance.h"
#include "core/objects/label.h"
#include "core/objects/renumber.h"
#include "core/measures/count_below.h"
#include "core/measures/measure.h"
#include "core/measures/neighbours.h"
#include "core/measures/ring.h"
#include "core/objects/separate_outlines.h"
#include "core/mask/skeleton.h"
#include "core/measures/thickness.h"
#include "core/watershed/watershed.h"

namespace {
Rcpp::List labelled(const Rcpp::IntegerMatrix& labels, int count) {
  return Rcpp::List::create(Rcpp::Named("labels") = labels, Rcpp::Named("count") = count);
}
}  // namespace

// Objects are joined at corners as well, holes are not.
// [[Rcpp::export]]
Rcpp::List core_label(const Rcpp::LogicalMatrix& mask, int threads = 1, bool holes = false) {
  Rcpp::IntegerMatrix labels = fresh<Rcpp::IntegerMatrix>(mask.nrow(), mask.ncol());
  const int count =
      bm::label(bm::pack(plane(mask), threads), writable(labels), threads, holes ? 0 : 1);
  return labelled(labels, count);
}

// Labels 1, 2, ... in reading order of their topmost pixels, and the old label of each.
// [[Rcpp::export]]
Rcpp::List core_renumber(const Rcpp::IntegerMatrix& labels) {
  Rcpp::IntegerMatrix out = fresh<Rcpp::IntegerMatrix>(labels.nrow(), labels.ncol());
  const std::vector<int> order = bm::renumber(plane(labels), writable(out));
  return Rcpp::List::create(Rcpp::Named("labels") = out, Rcpp::Named("order") = order);
}

// Boxes of the objects with these numbers, a column each: first and last row, first and last
// column, counted from 1. Numbers are different, and of objects that are there.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_object_boxes(const Rcpp::IntegerMatrix& labels,
                                      const Rcpp::IntegerVector& ids) {
  if (std::any_of(ids.begin(), ids.end(), [](int id) { return id < 0; }))
    Rcpp::stop("a number that no object has");
  const int most = ids.size() == 0 ? 0 : *std::max_element(ids.begin(), ids.end());
  std::vector<int> place(static_cast<std::size_t>(most) + 1, -1);
  for (R_xlen_t k = 0; k < ids.size(); ++k)
    place[static_cast<std::size_t>(ids[k])] = static_cast<int>(k);
  std::vector<bm::Sides> boxes(static_cast<std::size_t>(ids.size()));
  const auto p = plane(labels);
  bm::object_boxes(p.data, p.rows, p.cols, place, boxes);
  Rcpp::NumericMatrix out(4, static_cast<int>(ids.size()));
  for (std::size_t k = 0; k < boxes.size(); ++k)
    for (std::size_t side = 0; side < 4; ++side)
      out(static_cast<int>(side), static_cast<int>(k)) = static_cast<double>(boxes[k][side]) + 1;
  return out;
}

namespace {
Rcpp::List parted(const bm::BitPlane& bits, const bm::Ground& ground, int threads) {
  Rcpp::IntegerMatrix labels =
      fresh<Rcpp::IntegerMatrix>(static_cast<int>(bits.rows), static_cast<int>(bits.cols));
  const bm::Parted found = bm::watershed(bits, ground, writable(labels), threads, pause_for_user);
  return Rcpp::List::create(Rcpp::Named("labels") = labels, Rcpp::Named("count") = found.count,
                            Rcpp::Named("joined") = found.components);
}
bm::Plane<const int> seed_plane(const Rcpp::IntegerMatrix& seeds) {
  return seeds.size() == 0 ? bm::Plane<const int>{nullptr, 0, 0} : plane(seeds);
}
}  // namespace

// On the distance to the background. Sides of a pixel are 1 and `aspect`; `depth` in the same unit,
// and at least `share` of the smaller part's radius.
// `seeds`: numbers where there are seeds and 0 elsewhere, or a matrix without pixels.
// [[Rcpp::export]]
Rcpp::List core_watershed(const Rcpp::LogicalMatrix& mask, double aspect, double depth,
                          double share, const Rcpp::IntegerMatrix& seeds, int threads = 1) {
  const bm::Plane<const int> m = plane(mask);
  const bm::BitPlane bits = bm::pack(m, threads);
  bm::Scratch<float> squared(m.size());
  bm::squared_distance(bits, 1, aspect, bm::Plane<float>{squared.data(), m.rows, m.cols}, threads,
                       pause_for_user);
  return parted(bits,
                {{squared.data(), m.rows, m.cols}, true, aspect, depth, share, seed_plane(seeds)},
                threads);
}

// On grey values: of bright objects as they are, of dark ones turned over.
// `low`, `high`: the least and the greatest grey of the whole picture, from which heights count.
// [[Rcpp::export]]
Rcpp::List core_watershed_grey(const Rcpp::LogicalMatrix& mask, const Rcpp::NumericMatrix& grey,
                               bool bright, double low, double high, double aspect, double depth,
                               const Rcpp::IntegerMatrix& seeds, int threads = 1) {
  const bm::Plane<const int> m = plane(mask);
  bm::Scratch<float> height(m.size());
  for (std::size_t i = 0; i < m.size(); ++i) {
    const double g = grey[static_cast<R_xlen_t>(i)];
    height.data()[i] = m.data[i] == 1 ? static_cast<float>(1 + (bright ? g - low : high - g))
                                      : 0.0f;  // above the ground
  }
  return parted(bm::pack(m, threads),
                {{height.data(), m.rows, m.cols}, false, aspect, depth, 0, seed_plane(seeds)},
                threads);
}

// Row k of the ellipses (centre and axes in units of the larger side of a pixel, turn in degrees)
// is that of label k + 1; NaN where it is not known.
// [[Rcpp::export]]
Rcpp::List core_separate_outlines(const Rcpp::IntegerMatrix& labels,
                                  const Rcpp::NumericMatrix& grey, double level, double sx,
                                  double sy, double depth, double share, int count,
                                  int threads = 1) {
  Rcpp::IntegerMatrix out(labels.nrow(), labels.ncol());
  const bm::OutlineParts parts =
      bm::separate_outlines(plane(labels), plane(grey), level, sx, sy, depth, share, count,
                            writable(out), threads, pause_for_user);
  Rcpp::NumericMatrix rows(static_cast<int>(parts.ellipses.size()), 5);
  for (int k = 0; k < rows.nrow(); ++k) {
    const bm::Ellipse& e = parts.ellipses[static_cast<std::size_t>(k)];
    const double values[] = {e.x, e.y, e.major, e.minor, e.angle * 180 / bm::pi};
    for (int j = 0; j < 5; ++j) rows(k, j) = e.known() ? values[j] : R_NaN;
  }
  return Rcpp::List::create(Rcpp::Named("labels") = out, Rcpp::Named("ellipses") = rows,
                            Rcpp::Named("unseen") = parts.unseen);
}

// Distance of object pixels to the background, in the unit of (sx, sy).
// [[Rcpp::export]]
Rcpp::NumericMatrix core_distance(const Rcpp::LogicalMatrix& mask, double sx, double sy,
                                  int threads = 1) {
  const bm::Plane<const int> m = plane(mask);
  bm::Scratch<float> squared(m.size());
  bm::squared_distance(bm::pack(m, threads), sx, sy,
                       bm::Plane<float>{squared.data(), m.rows, m.cols}, threads, pause_for_user);
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(mask.nrow(), mask.ncol());
  std::transform(squared.data(), squared.data() + m.size(), out.begin(),
                 [](float d) { return std::sqrt(static_cast<double>(d)); });
  return out;
}

// (left, top): where the first pixel lies in the picture, of a window of it.
// [[Rcpp::export]]
Rcpp::List core_measure(const Rcpp::IntegerMatrix& labels, const Rcpp::NumericMatrix& grey,
                        int count, double sx, double sy, int threads = 1, int left = 0,
                        int top = 0) {
  const std::vector<bm::Measures> m =
      bm::measure(plane(labels), plane(grey), count, sx, sy, {left, top}, threads, pause_for_user);
  auto column = [&](double bm::Measures::*member) {
    Rcpp::NumericVector v(Rcpp::no_init(static_cast<R_xlen_t>(m.size())));
    for (std::size_t i = 0; i < m.size(); ++i) v[static_cast<R_xlen_t>(i)] = m[i].*member;
    return v;
  };
  Rcpp::LogicalVector on_edge(Rcpp::no_init(static_cast<R_xlen_t>(m.size())));
  for (std::size_t i = 0; i < m.size(); ++i) on_edge[static_cast<R_xlen_t>(i)] = m[i].on_edge;
  Rcpp::List out;
  const std::pair<const char*, double bm::Measures::*> columns[] = {
      {"pixels", &bm::Measures::pixels},
      {"x", &bm::Measures::x},
      {"y", &bm::Measures::y},
      {"area", &bm::Measures::area},
      {"perimeter", &bm::Measures::perimeter},
      {"feret_max", &bm::Measures::feret_max},
      {"feret_min", &bm::Measures::feret_min},
      {"feret_max_angle", &bm::Measures::feret_max_angle},
      {"feret_min_angle", &bm::Measures::feret_min_angle},
      {"smallest_box_length", &bm::Measures::smallest_box_length},
      {"smallest_box_width", &bm::Measures::smallest_box_width},
      {"grey_sum", &bm::Measures::grey_sum},
      {"grey_x", &bm::Measures::grey_x},
      {"grey_y", &bm::Measures::grey_y},
      {"hull_perimeter", &bm::Measures::hull_perimeter},
      {"hull_area", &bm::Measures::hull_area},
      {"ellipse_major", &bm::Measures::ellipse_major},
      {"ellipse_minor", &bm::Measures::ellipse_minor},
      {"orientation", &bm::Measures::orientation},
      {"left", &bm::Measures::left},
      {"top", &bm::Measures::top},
      {"extent_x", &bm::Measures::extent_x},
      {"extent_y", &bm::Measures::extent_y},
      {"grey_mean", &bm::Measures::grey_mean},
      {"grey_sd", &bm::Measures::grey_sd},
      {"grey_min", &bm::Measures::grey_min},
      {"grey_max", &bm::Measures::grey_max},
      {"holes", &bm::Measures::holes}};
  for (const auto& c : columns) out[c.first] = column(c.second);
  out["on_edge"] = on_edge;
  return out;
}

// Greatest value under every label.
// [[Rcpp::export]]
Rcpp::NumericVector core_label_max(const Rcpp::IntegerMatrix& labels,
                                   const Rcpp::NumericMatrix& values, int count) {
  Rcpp::NumericVector most(count);
  for (R_xlen_t i = 0; i < labels.size(); ++i)
    if (labels[i] > 0) most[labels[i] - 1] = std::max(most[labels[i] - 1], values[i]);
  return most;
}

// Object pixels, but for those beside another object's: so that objects that were parted stay so.
// [[Rcpp::export]]
Rcpp::LogicalMatrix core_apart(const Rcpp::IntegerMatrix& labels) {
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(labels.nrow(), labels.ncol());
  bm::apart(plane(labels), writable(out));
  return out;
}

// [[Rcpp::export]]
std::vector<double> core_hole_areas(const Rcpp::IntegerMatrix& labels, int count) {
  return bm::hole_areas(plane(labels), count);
}

// Mean over the pixels of every label; `depth` is their distance to the edge, 0 where it is not
// known.
// [[Rcpp::export]]
Rcpp::NumericVector core_local_thickness(const Rcpp::NumericMatrix& depth,
                                         const Rcpp::IntegerMatrix& labels, int count, double sx,
                                         double sy) {
  Rcpp::NumericVector sum(count), n(count);
  const bm::Plane<const int> l = plane(labels);
  bm::local_thickness(plane(depth), sx, sy, [&](std::size_t x, std::size_t y, double r) {
    const int label = l.col(x)[y];
    if (label == 0) return;
    sum[label - 1] +=
        2 * r -
        std::sqrt(sx * sy);  // the edge lies half a pixel before the nearest centre beyond it
    n[label - 1] += 1;
  });
  for (R_xlen_t k = 0; k < sum.size(); ++k) sum[k] = n[k] > 0 ? std::max(0.0, sum[k] / n[k]) : 0;
  return sum;
}

// [[Rcpp::export]]
std::vector<double> core_skeleton_lengths(const Rcpp::LogicalMatrix& skeleton,
                                          const Rcpp::IntegerMatrix& labels, int count, double sx,
                                          double sy) {
  return bm::skeleton_lengths(plane(skeleton), plane(labels), count, sx, sy);
}

// Distance to the nearest other centroid, and of the nearest pixel centres of two objects; infinite
// where there is no other.
// [[Rcpp::export]]
Rcpp::List core_neighbours(const Rcpp::IntegerMatrix& labels, const std::vector<double>& x,
                           const std::vector<double>& y, int count, double sx, double sy) {
  std::vector<bm::Point> centres;
  std::vector<int> owner;
  for (int k = 0; k < count; ++k) {
    centres.push_back({x[static_cast<std::size_t>(k)], y[static_cast<std::size_t>(k)]});
    owner.push_back(k + 1);
  }
  return Rcpp::List::create(
      Rcpp::Named("centres") =
          bm::nearest_others(bm::PointGrid(std::move(centres), std::move(owner)), count),
      Rcpp::Named("edges") = bm::nearest_others(bm::edge_points(plane(labels), sx, sy), count));
}

// For each point the share of the ring round it within grey levels (NA where nothing of it is
// seen), and the share of the ring that is seen. `outside`: what is not sample, or of no pixels.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_ring_shares(const Rcpp::NumericMatrix& pixels,
                                     const Rcpp::LogicalMatrix& outside,
                                     const Rcpp::NumericVector& x, const Rcpp::NumericVector& y,
                                     double inner, double outer, double aspect, double low,
                                     double high) {
  const bm::RingRule rule{inner, outer, aspect, low, high};
  Rcpp::NumericMatrix out(static_cast<int>(x.size()), 2);
  for (int k = 0; k < out.nrow(); ++k) {
    const bm::RingShare found = bm::ring_share(plane(pixels), plane(outside), x[k], y[k], rule);
    out(k, 0) = found.seen == 0
                    ? NA_REAL
                    : static_cast<double>(found.within) / static_cast<double>(found.seen);
    out(k, 1) = found.whole == 0
                    ? NA_REAL
                    : static_cast<double>(found.seen) / static_cast<double>(found.whole);
    pause_for_user();
  }
  return out;
}

// How many values lie below each limit, of those that are not left out; limits in rising order.
// [[Rcpp::export]]
std::vector<double> core_count_below(const Rcpp::NumericVector& values,
                                     const Rcpp::LogicalVector& left_out,
                                     const std::vector<double>& limits) {
  return bm::count_below(values.begin(), left_out.begin(), static_cast<std::size_t>(values.size()),
                         limits);
}
