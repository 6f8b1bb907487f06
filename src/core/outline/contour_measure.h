// Area, perimeter, hull and Feret diameters of objects from their sub-pixel outlines.
#pragma once
#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

#include "contour.h"
#include "flat_side.h"
#include "../measures/hull.h"
#include "../objects/label.h"
#include "../measures/measure.h"
#include "../common/plane.h"
#include "../measures/tip.h"

namespace bm {

struct ContourMeasures : HullMeasures {
  double area = 0, perimeter = 0;
};

// Area and length of a ring whose sides are taken as arcs: each bends by half the turns at its two
// ends, which makes a side of length L longer by L t^2 / 24 and adds L^2 t / 12 of area to it.
inline void add_ring(const std::vector<Point>& p, ContourMeasures& m) {
  const std::size_t n = p.size();
  std::vector<double> side(n), turn(n);  // where side i ends
  double twice = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const Point &a = p[i], &b = p[i + 1 < n ? i + 1 : 0], &c = p[(i + 2) % n];
    const double ux = b.x - a.x, uy = b.y - a.y, vx = c.x - b.x, vy = c.y - b.y;
    twice += a.x * b.y - b.x * a.y;
    side[i] = length_of(ux, uy);
    turn[i] = std::atan2(ux * vy - uy * vx, ux * vx + uy * vy);
  }
  m.area += twice / 2;  // the object lies on the right hand, so holes count negative
  for (std::size_t i = 0; i < n; ++i) {
    const double a = turn[i > 0 ? i - 1 : n - 1], b = turn[i];
    // no arc is meant at corners: sides bend by twice the smaller of the two turns at most
    const double t =
        a * b <= 0
            ? 0
            : std::copysign(
                  std::min(std::fabs(a + b) / 2, 2 * std::min(std::fabs(a), std::fabs(b))), a);
    m.area += side[i] * side[i] * t / 12;
    m.perimeter += side[i] * (1 + t * t / 24);
  }
}

// Widths from side to side, not between the points that stand out most.
inline void rest_on_sides(const std::vector<Point>& outline, double pixel, HullMeasures& m) {
  auto rest = [&](double& width, double angle) {
    width = width_of_sides(outline, width, angle, pixel);
  };
  rest(m.feret_min, m.feret_min_angle);
  rest(m.smallest_box_width, m.smallest_box_angle);
  rest(m.smallest_box_length, m.smallest_box_angle + 90);
}

// What was measured, element k of label k + 1, and the outlines, as contours() gives them.
struct MeasuredContours {
  std::vector<ContourMeasures> measures;
  std::vector<Contour> outlines;
};

// Objects are shared among threads.
template <class Interrupt>
MeasuredContours measure_contours(Plane<const int> labels, Plane<const double> grey, double level,
                                  double blur, int count, double sx, double sy, int threads,
                                  Interrupt pause) {
  const PixelRings rings = pixel_rings(labels);
  std::vector<std::size_t> numbers(rings.label.size());
  std::iota(numbers.begin(), numbers.end(), std::size_t{0});
  const Grouped<std::size_t> objects = by_object(numbers, rings.label, count);
  MeasuredContours out{std::vector<ContourMeasures>(static_cast<std::size_t>(count)),
                       std::vector<Contour>(rings.label.size())};
  over_columns(
      objects.label.size(), threads, 1,
      [&](std::size_t first, std::size_t last, auto stop) {
        Contours draw(labels, grey, level, blur);
        for (std::size_t i = first; i < last; ++i) {
          if (i % 256 == 0) stop();
          ContourMeasures& m = out.measures[static_cast<std::size_t>(objects.label[i]) - 1];
          const PixelEdge& from = rings.first(objects.items[objects.start[i]]);
          std::vector<Point> outer;
          for (std::size_t j = objects.start[i]; j < objects.start[i + 1]; ++j) {
            const std::size_t k = objects.items[j];
            std::vector<Point> points = draw.ring(rings, k, from);
            out.outlines[k] = {rings.label[k], rings.hole[k] != 0, points, from.x, from.y};
            for (Point& p : points) p = {p.x * sx, p.y * sy};
            add_ring(points, m);
            if (!rings.hole[k]) outer.insert(outer.end(), points.begin(), points.end());
          }
          std::sort(outer.begin(), outer.end(), left_of);
          finish_hull(convex_hull(outer), m.perimeter, std::sqrt(sx * sy), outline_tips, m);
          rest_on_sides(outer, std::sqrt(sx * sy), m);
        }
      },
      pause);
  return out;
}

}  // namespace bm
